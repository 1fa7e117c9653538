/** Does the next row of a sheet say what a row of the source does? Most do, and are gone past without being taken apart. */
import { below, equalTo, HIGH_BITS } from "../bytes/words.js";
import { ByteWriter } from "../bytes/writer.js";
import { Kind } from "../model/kind.js";
import type { RowCursor } from "../sheets/csv/cursor.js";
import { isAsItIs, type Assembler, type Row } from "../records/assemble.js";
import { Column } from "./columns.js";

const QUOTE = 0x22;
const CR = 0x0d;
const LF = 0x0a;
/** Four letters, which end no cell. */
const FILLER = 0x61616161;

const word = new ByteWriter(256);

/**
 * Where the sheet goes on when its next row stands for `row` and says the same; -1 when it has to be taken apart to
 * know. `columns` are slots and members of {@link Column}, `inline` the cells of lists that are shown in the row.
 * Order of columns, delimiter, quotes and line ends are as anybody may write them.
 */
export function endOfSame(cursor: RowCursor, row: Row, columns: Int32Array, assembler: Assembler, inline: readonly string[]): number {
  const { window: sheet, limit, delimiter } = cursor;
  const { kinds, from, to, pinned } = row;
  const { window, words } = assembler;
  const { bytes: scratch, words: pinnedWords } = row.scratch;
  let at = cursor.position;
  for (let c = 0; c < columns.length; c++) {
    if (c > 0 && sheet[at++] !== delimiter) return -1;
    const column = columns[c];
    if (column >= kinds.length) {
      word.clear();
      word.text(inline[column - kinds.length]);
      at = endOfWord(word, cursor, at);
    } else if (column >= 0) {
      const kept = pinned[column] === 1;
      const bytes = kept ? scratch : window;
      const kind = kinds[column];
      if (isAsItIs(row, column, kind, bytes)) at = endOfCell(bytes, kept ? pinnedWords : words, from[column], to[column], cursor, at);
      else if (kind <= Kind.Null && kind === row.table.blanks[column]) at = endOfBlank(sheet, at);
      else {
        const content = assembler.read(row, column);
        word.clear();
        word.append(content.bytes, content.from, content.to);
        at = endOfWord(word, cursor, at);
      }
    } else if (column === Column.Mark) {
      word.clear();
      assembler.marks[row.table.index].write(word, row.place);
      at = endOfWord(word, cursor, at);
    } else if (column === Column.Parent) at = endOfWord(assembler.holderOf(row)!, cursor, at);
    else at = endOfBlank(sheet, at); // no action
    if (at < 0) return -1;
  }
  if (at + 2 > limit) return -1;
  if (sheet[at] === LF) return at + 1;
  return sheet[at] !== CR ? -1 : sheet[at + 1] === LF ? at + 2 : at + 1;
}

function endOfWord({ bytes, words, length }: ByteWriter, cursor: RowCursor, at: number): number {
  return endOfCell(bytes, words, 0, length, cursor, at);
}

function endOfBlank(sheet: Uint8Array, at: number): number {
  return sheet[at] === QUOTE && sheet[at + 1] === QUOTE ? at + 2 : at;
}

/** Where the cell ends that begins at `at`, when it says what stands in `bytes`; else -1. */
function endOfCell(bytes: Uint8Array, words: DataView, from: number, to: number, cursor: RowCursor, at: number): number {
  const { window: sheet, limit } = cursor;
  const end = at + to - from;
  if (end + 2 > limit) return -1;
  if (sheet[at] === QUOTE) return endOfQuoted(bytes, from, to, sheet, at + 1, limit);
  if (to === from) return end;
  const same = to < 4 ? sameFew(bytes, from, to, cursor, at) : samePlain(words, from, to, cursor, at);
  return same ? end : -1;
}

/** Do the same bytes stand at `at`, and none that would end a cell? `to` is 4 or more. */
function samePlain(words: DataView, from: number, to: number, { words: sheet, four }: RowCursor, at: number): boolean {
  const last = to - 4;
  const beyond = at - from;
  for (let i = from; i < last; i += 4) {
    const known = words.getInt32(i, true);
    if (known !== sheet.getInt32(beyond + i, true) || endsCell(known, four)) return false;
  }
  // the last four may overlap those before
  const known = words.getInt32(last, true);
  if (last >= from) return known === sheet.getInt32(beyond + last, true) && !endsCell(known, four);
  // or, of a cell of three bytes at most, begin before the cell
  if (beyond + last < 0) return false;
  const bits = 8 * (to - from);
  const shift = 32 - bits;
  return known >>> shift === sheet.getInt32(beyond + last, true) >>> shift && !endsCell((known >>> shift) | (FILLER << bits), four);
}

function endsCell(word: number, delimiters: number): boolean {
  return ((equalTo(word, delimiters) | below(word, 0x0e0e0e0e)) & HIGH_BITS) !== 0;
}

function sameFew(bytes: Uint8Array, from: number, to: number, { window: sheet, delimiter }: RowCursor, at: number): boolean {
  for (let i = from; i < to; i++) {
    const byte = bytes[i];
    if (byte !== sheet[at + i - from] || byte === delimiter || byte < 0x0e) return false;
  }
  return true;
}

/** The same, of a cell in quotes, behind the first. */
function endOfQuoted(bytes: Uint8Array, from: number, to: number, sheet: Uint8Array, start: number, limit: number): number {
  let at = start;
  for (let i = from; i < to; i++) {
    if (bytes[i] === QUOTE && sheet[at++] !== QUOTE) return -1;
    if (at >= limit || sheet[at++] !== bytes[i]) return -1;
  }
  return at + 3 <= limit && sheet[at] === QUOTE ? at + 1 : -1;
}
