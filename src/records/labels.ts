/**
 * What sheets show of other records: labels beside codes, and the other ends of links. It is read in one pass
 * before the rows, as any record may come after those that it is shown with.
 */
import { pushTo } from "../model/push-to.js";
import { decode } from "../bytes/writer.js";
import type { CompiledPlan, InlineColumn, CompiledTable } from "../plan/compile.js";
import { isFollowing } from "../model/plan.js";
import type { Assembler, Row } from "./assemble.js";
import type { ReadRows } from "./reader.js";

export async function readLabels(compiled: CompiledPlan, readRows: ReadRows): Promise<void> {
  const shown = new Map<CompiledTable, InlineColumn[]>();
  for (const { inline } of compiled.tables) for (const one of inline) if (isFollowing(one.column)) pushTo(shown, one.table, one);
  if (shown.size === 0) return;
  await readRows((row, assembler) => {
    for (const { slot, links } of shown.get(row.table) ?? []) {
      if (links !== null)
        pushTo(links.ends, cellOf(row, links.bySlot, assembler), { place: row.place, shown: cellOf(row, slot, assembler) });
      else {
        const key = assembler.text(row, row.table.keySlot);
        if (!row.table.labels.has(key)) row.table.labels.set(key, assembler.text(row, slot));
      }
    }
  });
}

/** A cell of a link: of a column, or (-1) what it calls the record around. */
function cellOf(row: Row, slot: number, assembler: Assembler): string {
  if (slot >= 0) return assembler.text(row, slot);
  const { bytes, length } = assembler.identOf(row.parent!);
  return decode(bytes, 0, length);
}
