/** Does the next row of a sheet say what a row of the source does? Most do, and are gone past without being taken apart. */
import { below, equalTo, HIGH_BITS } from "../bytes/words.js";
import { ByteWriter } from "../bytes/writer.js";
import { Kind } from "../formats/format.js";
import type { RowCursor } from "../formats/delimited/cursor.js";
import { isAsItIs, type Assembler, type Row } from "../tables/assemble.js";
import { writeCell } from "../tables/sheet-writer.js";

const QUOTE = 0x22;
const CR = 0x0d;
const LF = 0x0a;
const COMMA = 0x2c;
const COMMAS = 0x2c2c2c2c;
/** Four letters, which end no cell. */
const FILLER = 0x61616161;

const mark = new ByteWriter(32);
const word = new ByteWriter(256);
const cell = new ByteWriter(256);

/**
 * Where the sheet goes on when its next row stands for `row` and says the same, cells in the order of `slots`; -1 when
 * it has to be taken apart to know. `hosted` are cells of lists that are shown in the row.
 */
export function endOfSame(cursor: RowCursor, row: Row, slots: Int32Array, assembler: Assembler, hosted: readonly string[]): number {
  const { window: sheet, words: sheetWords, limit, position } = cursor;
  const { kinds, from, to, pinned } = row;
  mark.clear();
  assembler.marks[row.table.index].write(mark, row.place);
  let at = position + mark.length;
  if (at + 2 > limit || !sameBytes(mark, sheet, position)) return -1;
  // no action
  if (sheet[at++] !== COMMA) return -1;
  const holder = assembler.holderOf(row);
  if (holder !== null) {
    at = endOfCell(holder.bytes, holder.words, 0, holder.length, sheet, sheetWords, at, limit);
    if (at < 0) return -1;
  }
  const { window, words } = assembler;
  const { bytes: scratch, words: pinnedWords } = row.scratch;
  for (let i = 0; i < slots.length; i++) {
    const slot = slots[i];
    if (slot >= kinds.length) {
      word.clear();
      word.text(hosted[slot - kinds.length]);
      at = endOfCell(word.bytes, word.words, 0, word.length, sheet, sheetWords, at, limit);
    } else {
      const kept = pinned[slot] === 1;
      const bytes = kept ? scratch : window;
      const kind = kinds[slot];
      if (isAsItIs(row, slot, kind, bytes))
        at = endOfCell(bytes, kept ? pinnedWords : words, from[slot], to[slot], sheet, sheetWords, at, limit);
      else if (kind <= Kind.Null && kind === row.table.blanks[slot]) at = sheet[at] === COMMA ? at + 1 : -1;
      else {
        const content = assembler.read(row, slot);
        at = endOfWritten(content.bytes, content.from, content.to, sheet, at, limit);
      }
    }
    if (at < 0) return -1;
  }
  if (at + 2 > limit) return -1;
  if (sheet[at] === LF) return at + 1;
  return sheet[at] !== CR ? -1 : sheet[at + 1] === LF ? at + 2 : at + 1;
}

/** Where the cell ends that begins with the comma at `at`, when it says what stands in `bytes`; else -1. */
function endOfCell(
  bytes: Uint8Array,
  words: DataView,
  from: number,
  to: number,
  sheet: Uint8Array,
  sheetWords: DataView,
  at: number,
  limit: number,
): number {
  if (sheet[at] !== COMMA) return -1;
  const start = at + 1;
  const end = start + to - from;
  if (end + 2 > limit) return -1;
  if (to === from) return end;
  if (to < 4 || sheet[start] === QUOTE || !samePlain(words, from, to, sheetWords, start))
    return endOfWritten(bytes, from, to, sheet, at, limit);
  return end;
}

/** Do the same bytes stand at `at`, and none that would end a cell? `to` is 4 or more. */
function samePlain(words: DataView, from: number, to: number, sheet: DataView, at: number): boolean {
  const last = to - 4;
  const beyond = at - from;
  for (let i = from; i < last; i += 4) {
    const known = words.getInt32(i, true);
    if (known !== sheet.getInt32(beyond + i, true) || endsCell(known)) return false;
  }
  // the last four may overlap those before, or, of a cell of three bytes at most, begin before the cell
  const known = words.getInt32(last, true);
  const found = sheet.getInt32(beyond + last, true);
  if (last >= from) return known === found && !endsCell(known);
  const bits = 8 * (to - from);
  const shift = 32 - bits;
  return known >>> shift === found >>> shift && !endsCell((known >>> shift) | (FILLER << bits));
}

function endsCell(word: number): boolean {
  return ((equalTo(word, COMMAS) | below(word, 0x0e0e0e0e)) & HIGH_BITS) !== 0;
}

/** The same, of a cell as a hatch writes it. */
function endOfWritten(bytes: Uint8Array, from: number, to: number, sheet: Uint8Array, at: number, limit: number): number {
  cell.clear();
  writeCell(cell, bytes, from, to, true);
  return at + cell.length + 2 <= limit && sameBytes(cell, sheet, at) ? at + cell.length : -1;
}

function sameBytes({ bytes, length }: ByteWriter, sheet: Uint8Array, at: number): boolean {
  for (let i = 0; i < length; i++) if (bytes[i] !== sheet[at + i]) return false;
  return true;
}
