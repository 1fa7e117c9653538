/** What tables of a plan say of each other: what is inside what, and what refers to what. */
import { PlanError, type Place } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { stepsBetween } from "../model/path.js";
import type { TablePlan } from "../model/plan.js";
import type { PlanInput } from "./schema.js";

export class AcrossTables {
  constructor(
    private readonly input: PlanInput,
    private readonly place: (path: readonly string[]) => Place,
    private readonly tables: readonly TablePlan[],
    /** Names of the tables that the plan's text has, in its order. */
    private readonly names: readonly string[],
  ) {}

  /** @throws PlanError for the first thing that cannot be */
  check(table: TablePlan): void {
    this.inside(table);
    this.references(table);
    this.through(table);
    this.same(table);
  }

  private same(table: TablePlan): void {
    for (const { title, sameFor, fillDown } of table.columns) {
      if (sameFor === undefined) continue;
      const at = this.place(["tables", table.name, "columns", title, "same-for"]);
      const others = table.columns.filter((other) => other.title !== title && other.hidden !== true && other.fillDown !== true);
      const titles = others.map((other) => other.title);
      if (!titles.includes(sameFor))
        throw new PlanError("plan-same-column", { title, sameFor, nearest: nearest(sameFor, titles), titles }, at);
      const laid = table.arrangement !== undefined || table.host !== undefined;
      if (laid || fillDown === true) throw new PlanError("plan-same-alone", { table: table.name, title }, at);
    }
  }

  private inside(table: TablePlan): void {
    const { tables, names } = this;
    if (table.inside === undefined) return;
    const at = this.place(["tables", table.name, "inside"]);
    const parent = tables.find((one) => one.name === table.inside);
    if (parent === undefined)
      throw new PlanError("plan-no-such-table", { table: table.inside, nearest: nearest(table.inside, names), names }, at);
    if (parent === table || stepsBetween(parent.rows, table.rows) === null || parent.rows.steps.length >= table.rows.steps.length) {
      throw new PlanError("plan-not-inside", { table: table.name, parent: parent.name }, at);
    }
    // a list that is shown in its record's row has no column for what it is in
    if (table.host === undefined && table.columns.some((column) => column.title === parent.name)) {
      throw new PlanError(
        "plan-title-taken",
        { table: table.name, title: parent.name },
        this.place(["tables", table.name, "columns", parent.name]),
      );
    }
  }

  private references(table: TablePlan): void {
    const { tables, names } = this;
    for (const column of table.columns) {
      if (column.refers === undefined) continue;
      const at = this.place(["tables", table.name, "columns", column.title, "refers"]);
      const target = tables.find((one) => one.name === column.refers);
      if (target === undefined)
        throw new PlanError("plan-no-such-table", { table: column.refers, nearest: nearest(column.refers, names), names }, at);
      if (target.key === undefined) throw new PlanError("plan-refers-keyless", { column: column.title, table: target.name }, at);
      const labelled = table.columns.some((one) => one.labelOf === column.title);
      if (labelled && target.label === undefined)
        throw new PlanError("plan-label-missing", { column: column.title, table: target.name }, at);
    }
  }

  /** Columns that show the other ends of links: the links must name these records, and have what is shown. */
  private through({ name, key, inline }: TablePlan): void {
    const { tables, names } = this;
    for (const { title, table, column, through } of inline) {
      if (through !== true) continue;
      const where = ["tables", name, "columns", title];
      const links = tables.find((one) => one.name === table);
      if (links === undefined)
        throw new PlanError("plan-no-such-table", { table, nearest: nearest(table, names), names }, this.place([...where, "through"]));
      const titles = links.columns.filter((one) => one.hidden !== true).map((one) => one.title);
      if (!titles.includes(column) && column !== links.inside)
        throw new PlanError(
          "plan-no-such-column",
          { table, column, nearest: nearest(column, titles), titles },
          this.place([...where, "show"]),
        );
      const naming = links.columns.filter((one) => one.refers === name).length;
      const stacked = tables.some((one) => one.stacked !== undefined && (one.inside === name || one.name === name));
      if (key === undefined || stacked || (links.inside === name ? naming > 0 : naming !== 1))
        throw new PlanError("plan-through", { column: title, table: name, links: table }, this.place(where));
    }
  }
}
