/** The values of a row, for expressions and checks. */
import type { Kind } from "../model/kind.js";
import { type Expression, compileExpression, firstLine } from "../plan/expression.js";
import type { ColumnPlan } from "../model/plan.js";
import type { TableGuide } from "../plan/guide.js";
import { scalar } from "../records/filter.js";
import type { CellEdit } from "./row-edits.js";

/** Values of a row by title, as an expression sees them. */
export function contentValues(
  table: TableGuide,
  contents: readonly string[],
  kinds: Uint8Array,
  cells: readonly CellEdit[],
): Record<string, unknown> {
  const values: Record<string, unknown> = {};
  table.plan.columns.forEach((column, slot) => {
    const edit = cells.find((cell) => cell.slot === slot);
    values[column.title] =
      edit === undefined ? scalar(kinds[slot] as Kind, () => contents[slot]) : scalar(edit.value.kind, () => edit.value.text);
  });
  return values;
}

export function runCheck(
  compiled: Map<ColumnPlan, Expression>,
  column: ColumnPlan,
  values: Record<string, unknown>,
  report: (code: "check-failed", facts: { title: string; check: string; reason: string | null }) => void,
): void {
  const check = column.check!;
  const run = compiled.get(column) ?? compileExpression(check);
  compiled.set(column, run);
  try {
    if (run({ ...values, row: values, value: values[column.title] }) !== true)
      report("check-failed", { title: column.title, check, reason: null });
  } catch (error) {
    report("check-failed", { title: column.title, check, reason: firstLine(error) });
  }
}
