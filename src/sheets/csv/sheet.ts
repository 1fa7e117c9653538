/** A sheet of delimited text: its delimiter is found by the titles, its rows are told from the bytes. */
import { sniffEncoding, openText } from "../../bytes/encoding.js";
import { MemorySource, type ByteSource } from "../../bytes/source.js";
import { asciiEnd, isUtf8, utf8Length } from "../../bytes/utf8.js";
import { concat, copied } from "../../bytes/writer.js";
import type { OpenSheet, RowSpan, RowTaker, SheetReading, SheetText } from "../container.js";
import { DelimitedScanner } from "./scan.js";

/** What may stand between cells, the likeliest first. */
const DELIMITERS = [0x2c, 0x3b, 0x09, 0x7c];
/** The titles are looked for in so many bytes. */
export const HEAD = 1 << 16;
/** Most bytes that are read in one go to get at rows. */
const MOST_READ = 1 << 20;
/** Titles may stand below others, and below lines of words. */
const FIRST_ROWS = 20;

export class CsvSheet implements OpenSheet, SheetText {
  private found = DELIMITERS[0];
  /** What stood between cells when the sheet was written. */
  usual = DELIMITERS[0];
  private rowScanner: DelimitedScanner | null = null;
  private rowCells: string[] = [];

  constructor(
    readonly name: string,
    readonly bytes: ByteSource,
  ) {}

  get size(): number {
    return this.bytes.size;
  }

  get text(): SheetText {
    return this;
  }

  get strangeDelimiter(): string | null {
    return this.found === this.usual ? null : String.fromCharCode(this.found);
  }

  async read(taker: RowTaker): Promise<void> {
    const scanner = new DelimitedScanner(await this.delimiter((title) => taker.knows(title)), taker);
    const check = new Utf8Check();
    for await (const chunk of this.bytes.chunks()) {
      const malformed = check.next(chunk);
      if (malformed !== null) taker.malformed(scanner.base + scanner.limit + malformed);
      scanner.write(chunk);
      if (taker.done) return;
    }
    scanner.end();
  }

  async isUtf8(): Promise<boolean> {
    const check = new Utf8Check();
    for await (const chunk of this.bytes.chunks()) if (check.next(chunk) !== null) return false;
    return true;
  }

  /** The sign that gives most of the titles. */
  async delimiter(knows: (title: string) => boolean): Promise<number> {
    const head = await this.bytes.read(0, HEAD);
    let most = -1;
    for (const delimiter of DELIMITERS) {
      const known = mostKnown(head, delimiter, knows, FIRST_ROWS);
      if (known > most) [this.found, most] = [delimiter, known];
    }
    return this.found;
  }

  /** Rows that are not far from each other are read in one go. */
  async cellsOf(rows: readonly RowSpan[]): Promise<string[][]> {
    const cells: string[][] = [];
    const spans: { i: number; start: number; end: number }[] = [];
    for (const [i, { offset, length, bytes }] of rows.entries()) {
      if (bytes === undefined) spans.push({ i, start: offset, end: offset + length });
      else cells[i] = this.split(bytes);
    }
    spans.sort((a, b) => a.start - b.start);
    for (let first = 0, next = 0; first < spans.length; first = next) {
      const { start } = spans[first];
      let { end } = spans[first];
      for (next = first + 1; next < spans.length && spans[next].start - end < HEAD && spans[next].end - start < MOST_READ; next++)
        end = spans[next].end;
      const bytes = await this.bytes.read(start, end);
      for (const span of spans.slice(first, next)) cells[span.i] = this.split(bytes.subarray(span.start - start, span.end - start));
    }
    return cells;
  }

  private split(row: Uint8Array): string[] {
    this.rowScanner ??= this.startRowScanner();
    this.rowScanner.write(row);
    this.rowScanner.end();
    return this.rowCells;
  }

  private startRowScanner(): DelimitedScanner {
    const scanner = new DelimitedScanner(this.found, {
      row: (one) => {
        this.rowCells = one.texts();
      },
    });
    scanner.base = 1; // not the beginning of a file: no byte-order mark
    return scanner;
  }
}

/**
 * A sheet in UTF-8; what some spreadsheets call Unicode text is UTF-16, and read whole. One that is foreign may be in
 * an older encoding, too.
 */
export async function openCsv(name: string, source: ByteSource, { isForeign = false, encoding }: SheetReading = {}): Promise<CsvSheet> {
  const { encoding: seen } = sniffEncoding(await source.read(0, 4));
  if (!isForeign && encoding === undefined && seen === "utf-8") return new CsvSheet(name, source);
  const isUnsaid = isForeign && seen === "utf-8" && !isUtf8(await source.read(0, source.size));
  const said = encoding ?? (isUnsaid ? "windows-1252" : "utf-8");
  const pieces: Uint8Array[] = [];
  for await (const chunk of (await openText(source, said)).chunks()) pieces.push(copied(chunk));
  return new CsvSheet(name, new MemorySource(concat(pieces), source.name));
}

/** How many of the titles are in that of the first rows that has most of them. */
function mostKnown(head: Uint8Array, delimiter: number, knows: (title: string) => boolean, rows: number): number {
  let most = 0;
  let left = rows;
  const scanner = new DelimitedScanner(delimiter, {
    row: (one) => {
      if (left === 0 || one.blank) return;
      left--;
      let known = 0;
      for (let i = 0; i < one.cells; i++) if (knows(one.text(i))) known++;
      most = Math.max(most, known);
    },
  });
  scanner.write(head);
  scanner.end();
  return most;
}

/** Sheets are read as UTF-8; another encoding shows as a malformed byte. */
class Utf8Check {
  /** A letter whose end is in the next chunk. */
  private carry: Uint8Array = new Uint8Array(0);

  /** Where the first malformed letter begins, seen from the chunk's beginning; `null` when there is none. */
  next(chunk: Uint8Array): number | null {
    const before = this.carry.length;
    const view = before === 0 ? chunk : concat([this.carry, chunk]);
    let i = 0;
    this.carry = new Uint8Array(0);
    for (;;) {
      if (i >= view.length || view[i] < 0x80) i = asciiEnd(view, i);
      if (i >= view.length) return null;
      const length = utf8Length(view, i, view.length);
      if (length === 0) {
        this.carry = copied(view, i);
        return null;
      }
      if (length < 0) return i - before;
      i += length;
    }
  }
}
