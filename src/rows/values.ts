/** The values of a row, for expressions and checks. */
import { Kind } from "../model/kind.js";
import type { CompiledTable } from "../plan/compile.js";
import { scalar } from "../records/filter.js";
import type { CellEdit, NewRow } from "./row-edits.js";

/** Values of a row by title, as an expression sees them. */
export function contentValues(
  table: CompiledTable,
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

/** The same of a new row. */
export function newValues({ table, values }: Pick<NewRow, "table" | "values">): Record<string, unknown> {
  return Object.fromEntries(
    table.plan.columns.map((column, i) => [column.title, scalar(values[i]?.kind ?? Kind.Absent, () => values[i]!.text)]),
  );
}
