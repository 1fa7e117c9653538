/** Cells that somebody wrote: those of rows that differ, and all of new rows that say something. */
import type { CompiledTable } from "../../plan/compile.js";
import type { NewValue } from "../../edits/edit.js";
import type { Draft } from "../../rows/draft.js";
import type { DifferingRow, NewRow } from "../../rows/row-edits.js";

export interface WrittenCell {
  readonly of: DifferingRow | NewRow;
  readonly table: CompiledTable;
  readonly slot: number;
  readonly content: string;
  readonly value: NewValue;
}

export function* writtenCells({ rows, news }: Pick<Draft, "rows" | "news">): Iterable<WrittenCell> {
  for (const of of rows) if (!of.removed) for (const cell of of.cells) yield { of, table: of.snapshot.table, ...cell };
  for (const of of news)
    for (const [slot, value] of of.values.entries())
      if (value !== null) yield { of, table: of.table, slot, content: of.contents[slot] ?? "", value };
}
