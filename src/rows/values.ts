/** The values of a row, for expressions and checks. */
import { Kind } from "../model/kind.js";
import type { CompiledTable } from "../plan/compile.js";
import { shownValue, valueFor } from "../plan/value.js";
import type { CellEdit, NewRow } from "./row-edits.js";

/** Values of a row by title, as an expression sees them: `contents` are cells, `cells` those that say something else now. */
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
      edit === undefined
        ? shownValue(column, kinds[slot] as Kind, contents[slot])
        : valueFor(column, edit.value.kind, () => edit.value.text);
  });
  return values;
}

/** The same of a new row. */
export function newValues({ table, values }: Pick<NewRow, "table" | "values">): Record<string, unknown> {
  return Object.fromEntries(
    table.plan.columns.map((column, i) => [column.title, valueFor(column, values[i]?.kind ?? Kind.Absent, () => values[i]!.text)]),
  );
}
