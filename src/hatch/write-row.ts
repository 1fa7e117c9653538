/** One row of a sheet from one record. */
import { ByteWriter } from "../bytes/writer.js";
import { LONGEST_CELL } from "../cells/limits.js";
import { Kind } from "../model/kind.js";
import { type Row, type Assembler, isAsItIs } from "../records/assemble.js";
import type { SheetOut } from "../sheets/container.js";

const word = new ByteWriter(256);

/** Appends a row: mark, action, parent or file, and the columns in `slots`; `inline` are cells of lists. */
export function writeRow(out: SheetOut, row: Row, slots: Int32Array, assembler: Assembler, inline: readonly string[] = []): void {
  out.mark(assembler.marks[row.table.index], row.place);
  out.blank();
  const holder = assembler.holderOf(row);
  if (holder !== null) out.cell(holder.bytes, holder.words, 0, holder.length);
  const { kinds, from, to, pinned, filled } = row;
  const { window, words } = assembler;
  const { bytes: scratch, words: pinnedWords } = row.scratch;
  for (let i = 0; i < slots.length; i++) {
    const slot = slots[i];
    const other = slot >= kinds.length ? inline[slot - kinds.length] : filled === null ? null : (filled[slot] ?? null);
    if (other !== null) {
      word.clear();
      word.text(other);
      out.cell(word.bytes, word.words, 0, word.length);
      continue;
    }
    if (to[slot] - from[slot] > LONGEST_CELL) row.long[slot]++;
    const kept = pinned[slot] === 1;
    const bytes = kept ? scratch : window;
    const kind = kinds[slot];
    if (isAsItIs(row, slot, kind, bytes)) out.cell(bytes, kept ? pinnedWords : words, from[slot], to[slot]);
    else if (kind <= Kind.Null && kind === row.table.blanks[slot]) out.blank();
    else {
      const content = assembler.read(row, slot);
      out.bytes(content.bytes, content.from, content.to);
    }
  }
  out.endRow();
}
