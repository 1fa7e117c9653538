/** Which rows and columns of the tables are written: `where` and `columns`. */
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { Kind } from "../model/kind.js";
import { compileExpression, firstLine, type Expression, type Scalar } from "../plan/expression.js";
import { titleOf, type CompiledTable } from "../plan/compile.js";
import type { Plan, TablePlan } from "../model/plan.js";
import type { Assembler, Row } from "./assemble.js";

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

  passes(row: Row, assembler: Assembler): boolean {
    const where = this.wheres.get(row.table.plan.name);
    if (where === undefined) return true;
    try {
      return where.run(rowValues(row, assembler)) === true;
    } catch (error) {
      throw new CallError("where", { table: row.table.plan.name, expression: where.text, row: row.place + 1, reason: firstLine(error) });
    }
  }
}

/** A row as an expression sees it: each title, and `row` with all of them. */
export function rowValues(row: Row, assembler: Assembler): Record<string, unknown> {
  const values: Record<string, unknown> = {};
  row.table.plan.columns.forEach((column, slot) => {
    values[column.title] = row.filled?.[slot] ?? scalar(row.kinds[slot] as Kind, () => assembler.decode(row, slot));
  });
  return { ...values, row: values };
}

export function scalar(kind: Kind, text: () => string): Scalar {
  switch (kind) {
    case Kind.Absent:
    case Kind.Null:
      return null;
    case Kind.Number:
      return Number(text());
    case Kind.True:
      return true;
    case Kind.False:
      return false;
    default:
      return text();
  }
}

function splitTable(text: string, tables: readonly TablePlan[]): [TablePlan, string] {
  const colon = /^\s*([^:"'?]+?)\s*:(?!:)\s*(.+)$/s.exec(text);
  const named = colon === null ? undefined : tables.find((table) => table.name === colon[1]);
  if (colon !== null && named !== undefined) return [named, colon[2]];
  if (tables.length === 1) return [tables[0], text];
  const names = tables.map((table) => table.name);
  throw new CallError("where-table", { text, names, nearest: colon === null ? null : nearest(colon[1], names) });
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
