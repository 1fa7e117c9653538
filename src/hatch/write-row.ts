/** One row of a sheet from one record. */
import type { ByteWriter } from "../bytes/writer.js";
import { Kind } from "../model/kind.js";
import { type Row, type Assembler, isAsItIs } from "../records/assemble.js";
import { COMMA, writeWords, word, writeCell, CR, LF } from "../sheets/csv/write.js";

/** Appends a row: mark, action, parent or file, and the columns in `slots`; `hosted` are cells of lists. */
export function writeRow(out: ByteWriter, row: Row, slots: Int32Array, assembler: Assembler, hosted: readonly string[] = []): void {
  assembler.marks[row.table.index].write(out, row.place);
  out.byte(COMMA);
  const holder = assembler.holderOf(row);
  if (holder !== null) writeWords(out, holder.bytes, holder.words, 0, holder.length);
  const { kinds, from, to, pinned, filled } = row;
  const { window, words } = assembler;
  const { bytes: scratch, words: pinnedWords } = row.scratch;
  for (let i = 0; i < slots.length; i++) {
    const slot = slots[i];
    const other = slot >= kinds.length ? hosted[slot - kinds.length] : filled === null ? null : (filled[slot] ?? null);
    if (other !== null) {
      word.clear();
      word.text(other);
      writeCell(out, word.bytes, 0, word.length, true);
      continue;
    }
    const kept = pinned[slot] === 1;
    const bytes = kept ? scratch : window;
    const kind = kinds[slot];
    if (isAsItIs(row, slot, kind, bytes)) writeWords(out, bytes, kept ? pinnedWords : words, from[slot], to[slot]);
    else if (kind <= Kind.Null && kind === row.table.blanks[slot]) out.byte(COMMA);
    else {
      const content = assembler.read(row, slot);
      writeCell(out, content.bytes, content.from, content.to, true);
    }
  }
  out.ensure(2);
  out.bytes[out.length++] = CR;
  out.bytes[out.length++] = LF;
}
