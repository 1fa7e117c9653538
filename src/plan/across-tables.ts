/** What tables of a plan say of each other: what is inside what, what refers to what, and which layouts go together. */
import { PlanError, type Place } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { stepsBetween } from "../model/path.js";
import { isFollowing, type TablePlan } from "../model/plan.js";
import { isThrough, type PlanInput } from "./schema.js";

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
    this.stacked(table);
    this.references(table);
    this.cross(table);
    this.mirrors(table);
    this.through(table);
    this.filled(table);
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
      const below = this.tables.some((one) => one.stacked !== undefined && one.inside === table.name);
      const laid = [table.tree, table.cross, table.stacked, table.host].some((one) => one !== undefined);
      if (laid || below || fillDown === true) throw new PlanError("plan-same-alone", { table: table.name, title }, at);
    }
  }

  private filled(table: TablePlan): void {
    const column = table.columns.find(({ fillDown }) => fillDown === true);
    if (column === undefined) return;
    const below = this.tables.some((one) => one.stacked !== undefined && one.inside === table.name);
    const laid = [table.tree, table.cross, table.stacked, table.host, table.match].some((one) => one !== undefined);
    if (laid || below || column.title === table.key)
      throw new PlanError(
        "plan-fill-alone",
        { table: table.name, title: column.title },
        this.place(["tables", table.name, "columns", column.title]),
      );
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

  /** Which tables can share a sheet, and how. */
  private stacked(table: TablePlan): void {
    const { tables } = this;
    const input = this.input.tables[table.name];
    if (table.stacked === undefined) return;
    const at = this.place(["tables", table.name, table.stacked]);
    const parent = tables.find((one) => one.name === table.inside);
    if (parent === undefined) throw new PlanError("plan-stacked-alone", { table: table.name, word: table.stacked }, at);
    const tree = [table, parent].find((one) => one.tree !== undefined);
    if (tree !== undefined)
      throw new PlanError("plan-tree-alone", { table: tree.name, other: tree === table ? parent.name : table.name }, at);
    if (input.beneath === true && input.repeat === true) throw new PlanError("plan-stacked-both", { table: table.name }, at);
    if (table.stacked === "beneath") return;
    const others = tables.filter((one) => one.stacked !== undefined && one !== table && one.inside === parent.name);
    const deep = tables.some((one) => one.stacked !== undefined && one.inside === table.name);
    const lists = parent.hosted.some((one) => !isFollowing(one));
    if (others.length > 0 || deep || lists || parent.stacked !== undefined)
      throw new PlanError("plan-repeat-one", { table: table.name, parent: parent.name }, at);
  }

  /** Two packed lists of codes, each of the other's records. */
  private mirrors(table: TablePlan): void {
    const { tables } = this;
    for (const [title, input] of Object.entries(this.input.tables[table.name]?.columns ?? {})) {
      if (typeof input === "string" || isThrough(input) || input.mirror === undefined) continue;
      const at = this.place(["tables", table.name, "columns", title, "mirror"]);
      const target = tables.find((one) => one.name === input.refers);
      const other = this.input.tables[input.refers ?? ""]?.columns[input.mirror];
      const plain = [table, target].every(
        (one) => one !== undefined && one.key !== undefined && one.stacked === undefined && one.tree === undefined,
      );
      const back =
        typeof other === "object" &&
        !isThrough(other) &&
        other.pack !== undefined &&
        other.pair === undefined &&
        other.refers === table.name;
      if (input.pack === undefined || input.pair !== undefined || !plain || !back || (other.mirror ?? title) !== title)
        throw new PlanError("plan-mirror", { title, table: table.name, mirror: input.mirror, target: input.refers ?? "" }, at);
    }
  }

  private cross(table: TablePlan): void {
    const { tables } = this;
    const { cross } = table;
    if (cross === undefined) return;
    const where = ["tables", table.name, "cross"];
    const titles = table.columns.map(({ title }) => title);
    const sides = table.columns.filter((one) => one.refers !== undefined).map(({ title }) => title);
    for (const [word, title] of Object.entries(cross)) {
      if (title === undefined) continue;
      const known = word === "cell" ? titles : sides;
      if (known.includes(title) || (word !== "cell" && title === table.inside)) continue;
      if (titles.includes(title)) throw new PlanError("plan-cross-side", { title }, this.place([...where, word]));
      throw new PlanError(
        "plan-no-such-column",
        { table: table.name, column: title, nearest: nearest(title, titles), titles },
        this.place([...where, word]),
      );
    }
    const keyless = tables.find(
      (one) => one.name === table.inside && (cross.down === one.name || cross.across === one.name) && one.key === undefined,
    );
    if (keyless !== undefined) throw new PlanError("plan-refers-keyless", { column: keyless.name, table: keyless.name }, this.place(where));
    const others = [table.stacked, table.tree, table.hosted.some((one) => !isFollowing(one)) || undefined];
    const below = tables.some((one) => one.stacked !== undefined && one.inside === table.name);
    if (new Set(Object.values(cross)).size < Object.values(cross).length || below || others.some((one) => one !== undefined))
      throw new PlanError("plan-cross-alone", { table: table.name }, this.place(where));
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
  private through({ name, key, hosted }: TablePlan): void {
    const { tables, names } = this;
    for (const { title, table, column, through } of hosted) {
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
