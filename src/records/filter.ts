/** Which rows and columns of the tables are written: `where` and `columns`. */
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { Kind } from "../model/kind.js";
import { compileExpression, firstLine, type Expression, type Scalar } from "../plan/expression.js";
import { sheetTable, titleOf, type CompiledTable } from "../plan/compile.js";
import type { Plan, TablePlan } from "../model/plan.js";
import type { Assembler, Row } from "./assemble.js";
import { shownValue, valueFor } from "../plan/value.js";
import type { ReadRows } from "./reader.js";

interface Where {
  readonly text: string;
  readonly run: Expression;
}

export class RowFilter {
  private constructor(
    private readonly wheres: ReadonlyMap<string, Where>,
    private readonly columns: ReadonlyMap<string, ReadonlySet<string>> | null,
  ) {}

  static async parse(plan: Plan, options: { where?: readonly string[]; columns?: readonly string[] }): Promise<RowFilter> {
    const wheres = new Map<string, Where>();
    for (const text of options.where ?? []) {
      const [table, expression] = splitTable(text, plan.tables);
      wheres.set(table.name, { text: expression, run: await compileExpression(expression) });
    }
    return new RowFilter(wheres, options.columns === undefined ? null : chooseColumns(options.columns, plan.tables));
  }

  /** Reads which records pass, where others are inside them: one more pass over the source. */
  async readAround(tables: readonly CompiledTable[], readRows: ReadRows): Promise<void> {
    const isInside = (table: CompiledTable | null, around: CompiledTable): boolean =>
      table !== null && (table === around || isInside(table.parent, around));
    for (const table of tables)
      if (this.wheres.has(table.plan.name) && tables.some(({ parent }) => isInside(parent, table))) this.around.set(table, new Set());
    if (this.around.size === 0) return;
    await readRows((row, assembler) => {
      const kept = this.around.get(row.table);
      if (kept !== undefined && this.passesItself(row, assembler)) kept.add(row.place);
    });
  }
  /** Places of records that pass, in tables with others inside. */
  private readonly around = new Map<CompiledTable, Set<number>>();

  get active(): boolean {
    return this.wheres.size > 0;
  }

  expression(table: string): string | undefined {
    return this.wheres.get(table)?.text;
  }

  /** Slots to write, in the order of the plan. */
  slots(table: CompiledTable): Int32Array {
    const kept = this.columns?.get(table.plan.name);
    return Int32Array.from(this.columns === null ? table.shown : table.shown.filter((slot) => kept?.has(titleOf(table.plan, slot))));
  }

  /** Does the record pass, and so all that it is inside? */
  passes(row: Row, assembler: Assembler): boolean {
    if (!this.passesItself(row, assembler)) return false;
    for (let { parent } = row; this.around.size > 0 && parent !== null; { parent } = parent)
      if (parent.table !== row.table && this.around.get(parent.table)?.has(parent.place) === false) return false;
    return true;
  }

  private passesItself(row: Row, assembler: Assembler): boolean {
    const where = this.wheres.get(row.table.plan.name);
    if (where === undefined) return true;
    try {
      return where.run(rowValues(row, assembler)) === true;
    } catch (error) {
      const reason = firstLine(error);
      const unknown = /^Unknown variable: (.+)$/.exec(reason)?.[1];
      const titles = row.table.plan.columns.flatMap(({ title, hidden }) => (hidden === true ? [] : [title]));
      const { name } = row.table.plan;
      if (unknown !== undefined)
        throw new CallError("where-title", {
          table: name,
          expression: where.text,
          title: unknown,
          nearest: nearest(unknown, titles),
          titles,
        });
      throw new CallError("where", { table: name, expression: where.text, row: row.place + 1, reason });
    }
  }
}

/** What stands in for a blank that the records above fill. */
function shownAbove({ filled, table }: Row, slot: number): Scalar {
  const content = filled?.[slot] ?? null;
  return content === null ? null : shownValue(table.plan.columns[slot], Kind.Text, content);
}

/** A row as an expression sees it: each title, and `row` with all of them. */
export function rowValues(row: Row, assembler: Assembler): Record<string, unknown> {
  const values: Record<string, unknown> = {};
  row.table.plan.columns.forEach((column, slot) => {
    values[column.title] = shownAbove(row, slot) ?? valueFor(column, row.kinds[slot] as Kind, () => assembler.decode(row, slot));
  });
  return { ...values, row: values };
}

function splitTable(text: string, tables: readonly TablePlan[]): [TablePlan, string] {
  const colon = /^\s*([^:"'?]+?)\s*:(?!:)\s*(.+)$/s.exec(text);
  const named = colon === null ? undefined : tables.find((table) => table.name === colon[1]);
  if (colon !== null && named !== undefined) return [named, colon[2]];
  if (tables.length === 1) return [tables[0], text];
  const names = tables.map((table) => table.name);
  throw new CallError("where-table", { text, names, nearest: colon === null ? null : nearest(colon[1], names) });
}

/** The tables whose sheets are written, with all that those sheets show: those of these names, or all. */
export function chooseTables(wanted: readonly string[] | undefined, tables: readonly CompiledTable[]): ReadonlySet<CompiledTable> {
  if (wanted === undefined) return new Set(tables);
  const shown = tables.filter(({ host }) => host === null);
  const sheets = wanted.map((name) => {
    const found = shown.find(({ plan }) => plan.name === name);
    const names = shown.map(({ plan }) => plan.name);
    if (found === undefined) throw new CallError("tables-unknown", { table: name, nearest: nearest(name, names), names });
    return sheetTable(found);
  });
  return new Set(tables.filter((table) => sheets.includes(sheetTable(table))));
}

function chooseColumns(wanted: readonly string[], tables: readonly TablePlan[]): Map<string, Set<string>> {
  const chosen = new Map<string, Set<string>>();
  for (const text of wanted) {
    let found = false;
    for (const table of tables) {
      for (const title of table.host === undefined ? table.shown.map((slot) => titleOf(table, slot)) : []) {
        if (text !== title && text !== `${table.name}.${title}`) continue;
        found = true;
        chosen.set(table.name, (chosen.get(table.name) ?? new Set()).add(title));
      }
    }
    if (!found) {
      const titles = tables.flatMap((table) => table.columns.map((column) => column.title));
      throw new CallError("columns", { column: text, nearest: nearest(text, titles) });
    }
  }
  return chosen;
}
