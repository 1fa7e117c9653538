/**
 * A sheet that is read beside the source, as most sheets come back with their rows in the source's order.
 *
 * Where the sheet goes on with what the next record says, that row is passed over; only others are taken apart. What is
 * kept are rows that differ, and runs of rows that stand for one record after the other: memory goes with the edits,
 * not with the rows. A row that comes when its record has gone by cannot be compared
 * any more: then {@link MergeReader.inOrder} is false, and all that was read is to be given up.
 */
import type { ByteSource } from "../bytes/source.js";
import { isUtf8 } from "../bytes/utf8.js";
import { RowCursor } from "../sheets/csv/cursor.js";
import { DelimitedScanner } from "../sheets/csv/scan.js";
import { HEAD } from "../sheets/csv/sheet.js";
import type { Assembler, Row } from "../records/assemble.js";
import { endOfSame } from "./same-row.js";
import { Action, type SheetEntry, type SheetIndex } from "./sheet-index.js";

/** The source goes by in pieces of so many bytes. */
export const PACE = 1 << 16;
/** So much of the sheet is in view for each: few rows are that much longer than their records. */
const AHEAD = 8 * PACE;
/** Rows are copied into buffers of so many bytes. */
const SLAB = 1 << 16;
/** Rows may differ so often before none is compared as it stands any more. */
const OFTEN = 100;

export class MergeReader implements SheetIndex {
  private readonly cursor: RowCursor;
  private readonly chunks: AsyncIterator<Uint8Array>;
  private readonly runs = new Runs();
  /** Each row came before its record had gone by. */
  inOrder = true;
  /** Rows that differ, and such as stand for records further on. */
  private readonly kept = new Map<number, SheetEntry>();
  /** The record that went by last, and the one whose row was read last. */
  private passed = -1;
  private reached = -1;
  /** What the columns are, where rows can be compared as they stand there; else `null`. */
  private columns: Int32Array | null = null;
  private differing = 0;
  private slab = new Uint8Array(0);
  private used = 0;
  /** How many bytes have to be in view, and where the sheet was read to when that was last asked. */
  private enough = AHEAD;
  private before = 0;

  constructor(
    source: ByteSource,
    delimiter: number,
    private readonly take: (row: DelimitedScanner) => void,
  ) {
    this.cursor = new RowCursor(delimiter, { row: (row) => this.readRow(row) });
    this.chunks = source.chunks()[Symbol.asyncIterator]();
  }

  /** The header has been read, and all columns are known. */
  begin(columns: readonly number[]): void {
    this.columns = Int32Array.from(columns);
  }

  /** Is more of the sheet to be read before the next piece of the source is gone through? */
  isShort(): boolean {
    const { cursor } = this;
    this.enough = Math.max(this.enough, 2 * (cursor.nextOffset - this.before));
    this.before = cursor.nextOffset;
    return !cursor.ended && cursor.ahead < this.enough;
  }

  async feed(): Promise<void> {
    const { cursor } = this;
    while (!cursor.ended && cursor.ahead < this.enough) {
      const next = await this.chunks.next();
      if (next.done === true) cursor.end();
      else cursor.write(next.value);
    }
  }

  /** Takes the next row apart; false when there is none. */
  pull(): boolean {
    const { cursor } = this;
    if (!cursor.pull()) {
      // a row without an end, or pieces of the source with more rows than any before
      if (!cursor.ended) this.inOrder = false;
      return false;
    }
    return true;
  }

  private readRow(scanner: DelimitedScanner): void {
    const { window, rowStart, rowEnd, limit } = scanner;
    // told when the whole sheet is read; what is passed over is what the source says, and so in UTF-8
    if (isUtf8(window.subarray(rowStart, Math.min(rowEnd + 1, limit)))) this.take(scanner);
    else this.inOrder = false;
  }

  /** Goes past the next row of the sheet when it says what the record that goes by does. `inline` are cells of lists that are shown in it. */
  skipIfEqual(row: Row, assembler: Assembler, inline: readonly string[]): boolean {
    const { cursor, columns } = this;
    const { place } = row;
    if (columns === null || this.reached >= place) return false;
    const end = endOfSame(cursor, row, columns, assembler, inline);
    if (end < 0) {
      if (++this.differing > OFTEN + cursor.rowNumber / 2) this.columns = null;
      return false;
    }
    cursor.passTo(end);
    this.reached = place;
    this.passed = place;
    this.runs.add(place, cursor.rowNumber);
    return true;
  }

  /** A copy of the row that was read last, where few rows are read; they are wanted again when all have been. */
  copyOfRow(): Uint8Array | undefined {
    const { window, rowStart, rowEnd } = this.cursor;
    const length = rowEnd - rowStart;
    if (this.columns === null || length > SLAB) return undefined;
    if (this.used + length > this.slab.length) {
      this.slab = new Uint8Array(SLAB);
      this.used = 0;
    }
    const bytes = this.slab.subarray(this.used, this.used + length);
    bytes.set(window.subarray(rowStart, rowEnd));
    this.used += length;
    return bytes;
  }

  /** Reads on to the row of the record that goes by, or to one behind it. */
  goTo(place: number): void {
    while (this.reached < place && this.inOrder && this.pull());
    this.passed = place;
    const row = this.kept.get(place)?.row;
    if (row !== undefined) this.runs.add(place, row);
  }

  /** The record that goes by says the same as its row. */
  forget(place: number): void {
    this.kept.delete(place);
  }

  /** Reads the sheet to its end. */
  async finish(): Promise<void> {
    do await this.feed();
    while (this.inOrder && this.readOn());
  }

  private readOn(): boolean {
    while (this.cursor.ahead >= this.enough || this.cursor.ended) if (!this.pull()) return false;
    return true;
  }

  async close(): Promise<void> {
    await this.chunks.return?.();
  }

  /** Has the record gone by, and said something else than the row that stood for it? */
  differed(place: number): boolean {
    return place <= this.passed && this.kept.has(place);
  }

  row(place: number): number {
    return this.kept.get(place)?.row ?? this.runs.row(place);
  }

  hash(place: number): number {
    return this.kept.get(place)?.hash ?? NaN;
  }

  action(place: number): Action {
    return this.kept.get(place)?.action ?? Action.None;
  }

  at(place: number): SheetEntry {
    return this.kept.get(place)!;
  }

  set(place: number, standing: SheetEntry): void {
    if (place <= this.passed && !this.kept.has(place)) this.inOrder = false;
    this.kept.set(place, standing);
    this.reached = place;
  }
}

/** Do the marks at the head of a sheet stand in the order of the source? */
export async function isInOrder(
  source: ByteSource,
  { delimiter, isMark, salt }: { readonly delimiter: number; readonly isMark: (title: string) => boolean; readonly salt: number },
): Promise<boolean> {
  let column = -1;
  let last = -1;
  let inOrder = true;
  const scanner = new DelimitedScanner(delimiter, {
    row: (one) => {
      if (column < 0) column = one.texts().findIndex(isMark);
      else if (column < one.cells) {
        const place = one.markAt(column, salt);
        inOrder &&= place < 0 || place > last;
        if (place >= 0) last = place;
      }
    },
  });
  scanner.write(await source.read(0, HEAD));
  return inOrder;
}

/** Records that follow each other and whose rows do so, too: for each run its first record, its first row, and how many they are. */
class Runs {
  private readonly places: number[] = [];
  private readonly rows: number[] = [];
  private readonly counts: number[] = [];

  /** Adds a record behind all others. */
  add(place: number, row: number): void {
    const last = this.places.length - 1;
    const count = last < 0 ? 0 : this.counts[last];
    if (last >= 0 && place === this.places[last] + count && row === this.rows[last] + count) {
      this.counts[last]++;
      return;
    }
    this.places.push(place);
    this.rows.push(row);
    this.counts.push(1);
  }

  row(place: number): number {
    let low = 0;
    let high = this.places.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.places[middle] <= place) low = middle + 1;
      else high = middle;
    }
    const run = low - 1;
    return run >= 0 && place < this.places[run] + this.counts[run] ? this.rows[run] + place - this.places[run] : 0;
  }
}
