/**
 * The delimited-text scanner (RFC 4180 and its relatives): rows of cells with byte spans.
 *
 * Line ends may be CR LF, LF or CR, mixed. A quote counts only at the beginning of a cell. A row is
 * told when it is whole and in view; nothing is decoded.
 */
import { WindowScanner } from "../../bytes/window.js";
import { below, equalTo, firstOf, HIGH_BITS } from "../../bytes/words.js";
import type { Hash } from "../../bytes/hash.js";
import { ByteWriter, decode } from "../../bytes/writer.js";
import { readMark } from "../../model/marks.js";
import type { Damage, RowView } from "../container.js";

const QUOTE = 0x22;
const CR = 0x0d;
const LF = 0x0a;

export interface RowListener {
  /** A row is complete; read its cells from the scanner now. */
  row(scanner: DelimitedScanner): void;
}

export class DelimitedScanner extends WindowScanner implements RowView {
  /** Number of the row, from 1; blank lines count. */
  rowNumber = 0;
  /** Spans of the cells in the window, quotes not included. */
  readonly starts: number[] = [];
  readonly ends: number[] = [];
  /** 0: as it is; 1: quoted; 2: quoted, with doubled quotes inside. */
  readonly quoted: number[] = [];
  cells = 0;
  /** Span of the row in the window, its line end not included. */
  rowStart = 0;
  rowEnd = 0;
  fault: Damage = null;
  /** Rows of text have all cells up to their ends. */
  readonly whole = true;
  private readonly undoubled = new ByteWriter(256);
  /** Where the next row begins. */
  protected pos = 0;
  /** Bytes at which an unquoted cell ends. */
  private readonly stops = new Uint8Array(256);
  /** The delimiter, four times. */
  readonly four: number;

  constructor(
    readonly delimiter: number,
    private readonly listener: RowListener,
  ) {
    super();
    for (const b of [delimiter, CR, LF]) this.stops[b] = 1;
    this.four = delimiter * 0x01010101;
  }

  protected leave(): void {
    // rows are told whole: nobody holds positions
  }

  protected scan(final: boolean): number {
    while (this.next(final));
    return this.leaveBehind();
  }

  /** Reads the next row and tells it; false when none is whole in view. */
  protected next(final: boolean): boolean {
    const { window, limit } = this;
    window[limit] = LF; // a sentinel: unquoted cells end at it at the latest
    if (this.base === 0 && this.pos === 0 && window[0] === 0xef && window[1] === 0xbb && window[2] === 0xbf && limit >= 3) this.pos = 3;
    const end = this.pos < limit ? this.scanRow(window, this.pos, limit, final) : -1;
    if (end < 0) return false;
    this.pos = end;
    this.rowNumber++;
    this.listener.row(this);
    return true;
  }

  /** Where the window is to begin, as all before was gone through. */
  protected leaveBehind(): number {
    const { pos } = this;
    this.pos = 0;
    return pos;
  }

  /** Reads one row from `i`; returns where the next begins, or -1 when the row is not complete. */
  private scanRow(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    const { delimiter, stops, four, words, starts, ends, quoted } = this;
    let i = from;
    let n = 0;
    this.fault = null;
    this.rowStart = from;
    for (;;) {
      if (buf[i] === QUOTE && i < limit) {
        const start = ++i;
        let doubled = 1;
        for (;;) {
          while (i < limit && buf[i] !== QUOTE) i++;
          if (i + 1 >= limit && !final) return -1;
          if (i >= limit) {
            this.fault = "open";
            break;
          }
          if (buf[i + 1] !== QUOTE || i + 1 >= limit) break;
          doubled = 2;
          i += 2;
        }
        starts[n] = start;
        ends[n] = i;
        quoted[n++] = doubled;
        if (i < limit) i++;
        if (i < limit && buf[i] !== delimiter && buf[i] !== CR && buf[i] !== LF) {
          this.fault ??= "after";
          while (i < limit && buf[i] !== delimiter && buf[i] !== CR && buf[i] !== LF) i++;
        }
      } else {
        const start = i;
        for (;;) {
          const word = words.getInt32(i, true);
          const found = (equalTo(word, four) | below(word, 0x0e0e0e0e)) & HIGH_BITS;
          i += found === 0 ? 4 : firstOf(found);
          if (found !== 0) {
            if (stops[buf[i]] === 1) break;
            i++;
          }
        }
        if (i > limit) i = limit;
        starts[n] = start;
        ends[n] = i;
        quoted[n++] = 0;
      }
      if (i >= limit) {
        if (!final) return -1;
        break;
      }
      if (buf[i] === delimiter) {
        i++;
        continue;
      }
      break;
    }
    this.cells = n;
    this.rowEnd = i;
    if (i >= limit) return i;
    if (buf[i] === CR) {
      if (i + 1 >= limit && !final) return -1;
      return i + 1 < limit && buf[i + 1] === LF ? i + 2 : i + 1;
    }
    return i + 1;
  }

  /** Text of a cell of the current row, quotes undoubled. */
  text(cell: number): string {
    const text = decode(this.window, this.starts[cell], this.ends[cell]);
    return this.quoted[cell] === 2 ? text.replaceAll('""', '"') : text;
  }

  get offset(): number {
    return this.base + this.rowStart;
  }

  get length(): number {
    return this.rowEnd - this.rowStart;
  }

  isEmpty(cell: number): boolean {
    return this.starts[cell] === this.ends[cell];
  }

  markAt(cell: number, salt: number): number {
    return readMark(salt, this.window, this.starts[cell], this.ends[cell]);
  }

  hashCell(cell: number, hash: Hash): void {
    if (this.quoted[cell] === 2) {
      this.undoubled.clear();
      this.undouble(cell, this.undoubled);
      hash.partOf(this.undoubled.words, 0, this.undoubled.length);
    } else hash.partOf(this.words, this.starts[cell], this.ends[cell]);
  }

  /** Appends the bytes of a cell of the current row, quotes undoubled. */
  private undouble(cell: number, out: ByteWriter): void {
    const buf = this.window;
    for (let i = this.starts[cell], end = this.ends[cell]; i < end; i++) {
      out.byte(buf[i]);
      if (buf[i] === QUOTE) i++;
    }
  }

  /** Text of all cells of the current row. */
  texts(): string[] {
    const texts: string[] = [];
    for (let cell = 0; cell < this.cells; cell++) texts.push(this.text(cell));
    return texts;
  }

  /** The row has no cell with anything in it. */
  get blank(): boolean {
    for (let c = 0; c < this.cells; c++) if (this.ends[c] > this.starts[c]) return false;
    return true;
  }
}
