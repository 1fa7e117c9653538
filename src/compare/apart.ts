/** Cells that say what is left of a value taken apart (null, [] or {}): they are no part of the sums of records. */
import type { Sum } from "../bytes/hash.js";
import { pushTo } from "../model/push-to.js";
import type { CompiledTable } from "../plan/compile.js";
import { sumText, type SummedCell } from "../records/sums.js";
import type { Context } from "../rows/context.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import { SummedRows } from "../rows/summed.js";

/** One that somebody wrote, in a record that is told by the sum of its cells. */
export interface ExpectedApart {
  readonly table: CompiledTable;
  readonly sum: Sum;
  readonly slot: number;
  readonly cell: SummedCell;
  readonly from: DifferingRow | NewRow;
  /** How many records that nobody edited say the same, in this cell and in the others. */
  alike: number;
}

/** Counts the records of the source that say the same as those in which somebody wrote, and that nobody touched. */
export async function countAlike(
  apart: readonly ExpectedApart[],
  isTouched: (table: CompiledTable, place: number) => boolean,
  { compiled, records }: Context,
): Promise<void> {
  if (apart.length === 0) return;
  const bySum = new Map<string, ExpectedApart[]>();
  for (const one of apart) pushTo(bySum, sumText(one.table, one.sum), one);
  const read = new SummedRows(compiled);
  await records.rests((row, assembler) => {
    read.read(row, assembler);
    const same = bySum.get(sumText(row.table, read.sums.cells));
    if (same === undefined || isTouched(row.table, row.place)) return;
    for (const one of same) if (row.kinds[one.slot] === one.cell.kind) one.alike++;
  });
}
