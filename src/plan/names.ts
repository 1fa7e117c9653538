/** Expressions of a plan are read with it: one that names what is not there is told then, not at the first row that was edited. */
import { PlanError, type Place } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import type { ColumnPlan, TablePlan } from "../model/plan.js";
import { compileExpression } from "./cel.js";
import { parseNumbered } from "./numbered.js";

/** Words that stand for records, and for what is in them. */
const [ROW, PARENT, TABLES, ALL] = ["row", "parent", "tables", "all"];

export class ExpressionNames {
  constructor(
    private readonly place: (path: readonly string[]) => Place,
    private readonly tables: readonly TablePlan[],
  ) {}

  /** @throws {@link PlanError} for the first expression that cannot be read, or names what is not there */
  check(table: TablePlan): void {
    const { name, columns, checks = [], fresh = new Map<string, string>() } = table;
    for (const { is, place } of checks) this.read(is, place!, table, [ROW, PARENT, TABLES, ALL]);
    for (const column of columns) {
      for (const { is, place } of column.rules?.checks ?? []) this.read(is, place!, table, [ROW, PARENT, TABLES, ALL, "value"]);
      if (column.compute !== undefined)
        this.read(column.compute, this.place(["tables", name, "columns", column.title, "compute"]), table, [ROW, PARENT, TABLES]);
      if (column.only === undefined) continue;
      const target = this.tables.find((one) => one.name === column.refers);
      const at = this.place(["tables", name, "columns", column.title, "only"]);
      if (target === undefined) throw new PlanError("plan-only-alone", { column: column.title }, at);
      this.read(column.only, at, target, [ROW]);
    }
    for (const [title, pattern] of fresh)
      if (parseNumbered(pattern) === null && pattern !== "uuid")
        this.read(pattern, this.place(["tables", name, "new", title]), table, [ROW, PARENT]);
  }

  private read(text: string, place: Place, table: TablePlan, words: readonly string[]): void {
    const { names, members } = compileExpression(text, place).uses;
    const within = this.tables.filter(({ inside }) => inside === table.name);
    const parent = this.tables.find((one) => one.name === table.inside) ?? (table.tree === undefined ? undefined : table);
    const titles = titlesOf(table);
    const isRow = [...titles, ...(table.inside === undefined ? [] : [table.inside])];
    const isTable = words.includes(TABLES) ? within.map((one) => one.name) : [];
    for (const one of names) if (!isRow.includes(one) && !words.includes(one)) must(one, [...isRow, ...isTable], table);
    for (const [of, ones] of members)
      for (const one of ones) {
        if (titles.includes(of)) continue;
        if (of === ROW || of === ALL) must(one, of === ROW ? isRow : titles, table);
        else if (of === TABLES) must(one, isTable, table);
        else if (of === PARENT) {
          if (parent !== undefined) must(one, titlesOf(parent), parent);
        } else {
          const list = within.find(({ name }) => name === of);
          if (list !== undefined) must(one, titlesOf(list), list);
        }
      }

    function must(title: string, known: readonly string[], of: TablePlan): void {
      if (known.includes(title)) return;
      const isList = of.inline.some((one) => one.title === title);
      throw new PlanError(
        "expression-title",
        { text, table: of.name, title, isList, nearest: nearest(title, known), titles: known },
        place,
      );
    }
  }
}

function titlesOf({ columns }: TablePlan): string[] {
  return columns.flatMap(({ title, hidden }: ColumnPlan) => (hidden === true ? [] : [title]));
}
