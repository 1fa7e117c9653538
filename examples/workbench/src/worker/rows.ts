/** The rows of a hatched table: their CSV text as it was written, and where each row begins. A row becomes cells when it is asked for. */
import { parse } from "csv-parse/browser/esm/sync";
import { stringify } from "csv-stringify/browser/esm/sync";
import { BlobSource, type TablesSink, type TablesSource } from "hatch-fold";
import type { Search } from "../protocol";

const QUOTE = 0x22;
const COMMA = 0x2c;
const LINE_FEED = 0x0a;
/** Rows are kept in pages of about so many bytes. */
const PAGE = 1 << 20;
const utf8 = new TextDecoder("utf-8", { ignoreBOM: true });
const encoder = new TextEncoder();

/** Pages of so many bytes are held here; those behind them are given to the browser, and read again when they are looked at. */
const HELD = 16 << 20;
/** A row that is looked at is read with those around it: so many bytes, of which so many pieces are kept. */
const PIECE = 1 << 16;
const RECENT = 64;
/** While rows are looked at here and there, many times over, whole pages are read, and kept as long as that goes on. */
const TIMES_OVER = 8;
const FAR_APART = 1000;

/** Only workers have it (File API, 6.5). */
declare const FileReaderSync: new () => { readAsArrayBuffer(blob: Blob): ArrayBuffer };

/** Whole rows: their text, and where each ends. */
interface Page {
  readonly first: number;
  readonly held: Uint8Array | Blob;
  readonly ends: Uint32Array;
}

export class BaseRows {
  private readonly pages: Page[] = [];
  /** The page that is being filled. */
  private bytes = new Uint8Array(PAGE + (PAGE >> 3));
  private length = 0;
  private ends = new Uint32Array(256);
  /** How many rows the page that is being filled has. */
  private ended = 0;
  private rows = 0;
  private quoted = false;
  titles: readonly string[] = [];

  append(chunk: Uint8Array): void {
    let from = 0;
    for (let i = 0; i < chunk.length; i++) {
      if (chunk[i] === QUOTE) this.quoted = !this.quoted;
      else if (chunk[i] === LINE_FEED && !this.quoted) {
        const length = this.length + i + 1 - from;
        // most rows end in the middle of a page: nothing is copied for each of them
        if (this.titles.length > 0 && length < PAGE) this.endRow(length);
        else {
          this.put(chunk.subarray(from, i + 1));
          from = i + 1;
          this.endRow(length);
        }
      }
    }
    this.put(chunk.subarray(from));
  }

  private put(part: Uint8Array): void {
    if (this.length + part.length > this.bytes.length) {
      const grown = new Uint8Array(2 * (this.length + part.length));
      grown.set(this.bytes);
      this.bytes = grown;
    }
    this.bytes.set(part, this.length);
    this.length += part.length;
  }

  /** @param end - where the row ends in the page */
  private endRow(end: number): void {
    if (this.titles.length === 0) {
      this.titles = cellsIn(utf8.decode(this.bytes.subarray(0, end - 2)).replace(/^\ufeff/, ""));
      this.length = 0;
      return;
    }
    if (this.ended === this.ends.length) {
      const grown = new Uint32Array(2 * this.ended);
      grown.set(this.ends);
      this.ends = grown;
    }
    this.ends[this.ended++] = end;
    this.rows++;
    if (end >= PAGE) this.turn();
  }

  private turn(): void {
    if (this.ended === 0) return;
    const first = this.rows - this.ended;
    const bytes = this.bytes.slice(0, this.length);
    const held = this.heldBytes + bytes.length > HELD ? new Blob([bytes]) : bytes;
    if (held === bytes) this.heldBytes += bytes.length;
    this.pages.push({ first, held, ends: this.ends.slice(0, this.ended) });
    this.length = this.ended = 0;
  }

  private heldBytes = 0;
  private readonly recent = new Map<string, Uint8Array>();
  private readonly whole = new Map<Page, Uint8Array>();
  private misses = 0;
  private missedAt = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** The bytes of a page that is gone through. */
  private static bytesOf({ held }: Page): Uint8Array {
    return held instanceof Uint8Array ? held : read(held);
  }

  /** Some bytes of a page, that are looked at: others near them may follow. */
  private near(page: Page, from: number, to: number): Uint8Array {
    const known = page.held instanceof Uint8Array ? page.held : this.whole.get(page);
    if (known !== undefined) return known.subarray(from, to);
    const held = page.held as Blob;
    const first = from - (from % PIECE);
    const id = `${page.first} ${first}`;
    const piece = this.recent.get(id) ?? this.miss(page, id, () => read(held.slice(first, first + PIECE)));
    return to <= first + piece.length ? piece.subarray(from - first, to - first) : read(held.slice(from, to));
  }

  private miss(page: Page, id: string, piece: () => Uint8Array): Uint8Array {
    const now = performance.now();
    this.misses = now - this.missedAt > FAR_APART ? 1 : this.misses + 1;
    this.missedAt = now;
    if (this.misses > TIMES_OVER * this.pages.length) {
      this.whole.set(page, BaseRows.bytesOf(page));
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.whole.clear(), FAR_APART);
    }
    const bytes = piece();
    this.recent.set(id, bytes);
    for (const one of this.recent.keys()) if (this.recent.size > RECENT) this.recent.delete(one);
    return bytes;
  }

  /** All is there. */
  close(): void {
    this.turn();
    this.bytes = new Uint8Array(0);
  }

  get count(): number {
    return this.rows;
  }

  /** Cells of a row, from 0. */
  row(place: number): string[] {
    const page = this.pageOf(place);
    const at = place - page.first;
    return cellsIn(utf8.decode(this.near(page, at === 0 ? 0 : page.ends[at - 1], page.ends[at] - 2)));
  }

  private pageOf(place: number): Page {
    let [low, high] = [0, this.pages.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.pages[middle].first <= place) low = middle;
      else high = middle - 1;
    }
    // rows are looked at while others come
    const page = this.pages[low];
    if (page !== undefined && place < page.first + page.ends.length) return page;
    return { first: this.rows - this.ended, held: this.bytes, ends: this.ends };
  }

  /** The text of each row, quotes and all: page by page, as many rows are looked at. */
  forEach(visit: (place: number, text: string) => void): void {
    for (const page of this.pages) {
      const { first, ends } = page;
      const bytes = BaseRows.bytesOf(page);
      const text = utf8.decode(bytes);
      if (!text.includes('"')) {
        const rows = text.split("\r\n");
        for (let i = 0; i < ends.length; i++) visit(first + i, rows[i]);
      } else for (let i = 0; i < ends.length; i++) visit(first + i, utf8.decode(bytes.subarray(i === 0 ? 0 : ends[i - 1], ends[i] - 2)));
    }
  }

  /** The cell of a column in each row, as bytes; one behind quotes as text. */
  forEachIn(column: number, visit: (place: number, bytes: Uint8Array, from: number, to: number) => void): void {
    this.eachRow((place, bytes, begin, end) => {
      let from = begin;
      let isOdd = false;
      for (let left = column; left > 0 && from < end; from++) {
        if (bytes[from] === COMMA) left--;
        else if (bytes[from] === QUOTE) isOdd = true;
      }
      let to = from;
      for (; to < end && bytes[to] !== COMMA; to++) if (bytes[to] === QUOTE) isOdd = true;
      if (isOdd) {
        const cell = encoder.encode(parseRow(utf8.decode(bytes.subarray(begin, end)))[column] ?? "");
        visit(place, cell, 0, cell.length);
      } else visit(place, bytes, from, to);
    });
  }

  /** The bytes of each row, without its line end. */
  private eachRow(visit: (place: number, bytes: Uint8Array, begin: number, end: number) => void): void {
    for (const page of this.pages) {
      const { first, ends } = page;
      const bytes = BaseRows.bytesOf(page);
      for (let i = 0; i < ends.length; i++) visit(first + i, bytes, i === 0 ? 0 : ends[i - 1], ends[i] - 2);
    }
  }

  /** Rows of which some cells may hold a text: with how many of those that are asked for do, or (where that is not known yet) their cells. */
  rowsWith(
    search: Search,
    columns: readonly number[],
    counted: (place: number, cells: number) => void,
    visit: (place: number, cells: string[]) => void,
  ): void {
    const { text, isExact } = search;
    const plain = (row: string): string => (isExact ? row : row.toLowerCase());
    const wanted = plain(text);
    if (/^[ -~]+$/.test(text) && !/[",]/.test(text)) this.rowsOfAscii(wanted, search, columns, counted, visit);
    else
      this.forEach((place, row) => {
        if (text === "" || text.includes('"') || plain(row).includes(wanted)) visit(place, cellsIn(row));
      });
  }

  /** Cells are counted as bytes: most rows are of ASCII, and no text is made of them. */
  private rowsOfAscii(
    wanted: string,
    { isExact, isWhole }: Search,
    columns: readonly number[],
    counted: (place: number, cells: number) => void,
    visit: (place: number, cells: string[]) => void,
  ): void {
    const needle = encoder.encode(wanted);
    const isAsked = Uint8Array.from(this.titles, (_, column) => Number(columns.includes(column)));
    const lower = Uint8Array.from({ length: 256 }, (_, byte) => (!isExact && byte >= 0x41 && byte <= 0x5a ? byte | 0x20 : byte));
    this.eachRow((place, bytes, begin, end) => {
      let [column, count, isFound, start] = [0, 0, 0, begin];
      for (let at = begin; at <= end; at++) {
        const byte = at === end ? COMMA : bytes[at];
        if (byte === COMMA) {
          count += isFound & isAsked[column++];
          isFound = 0;
          start = at + 1;
        } else if (byte >= 0x80 || byte === QUOTE) {
          // letters beyond ASCII may be others in another case
          visit(place, cellsIn(utf8.decode(bytes.subarray(begin, end))));
          return;
        } else if (isFound === 0 && lower[byte] === needle[0] && (!isWhole || at === start)) {
          let same = 1;
          while (same < needle.length && at + same < end && lower[bytes[at + same]] === needle[same]) same++;
          const next = at + same;
          if (same === needle.length && (!isWhole || next === end || bytes[next] === COMMA)) isFound = 1;
        }
      }
      if (count > 0) counted(place, count);
    });
  }

  /** All rows as CSV text, the titles first. */
  text(): Blob {
    return new Blob([printRows([this.titles]), ...this.pages.map(({ held }) => held as BlobPart)]);
  }
}

function read(blob: Blob): Uint8Array {
  return new Uint8Array(new FileReaderSync().readAsArrayBuffer(blob));
}

function cellsIn(text: string): string[] {
  return text.includes('"') ? parseRow(text) : text.split(",");
}

function parseRow(text: string): string[] {
  return parse(text, { record_delimiter: ["\r\n"], relax_column_count: true })[0] ?? [""];
}

/** Rows as CSV text, as a hatch writes them. */
export function printRows(rows: readonly (readonly string[])[]): string {
  return stringify(rows as string[][], { record_delimiter: "\r\n", quoted_match: /[\r\n]/ });
}

/** A block of cells from the clipboard of a spreadsheet: tabs between cells, quotes around line breaks. */
export function parseBlock(text: string): string[][] {
  const plain = text.replace(/\r?\n$/, "");
  if (plain === "") return [[""]];
  const options = { delimiter: "\t", record_delimiter: ["\r\n", "\n", "\r"], relax_column_count: true, skip_empty_lines: false };
  try {
    return parse(plain, options);
  } catch {
    // quotes that are no quotes of cells
    return parse(plain, { ...options, quote: false });
  }
}

export function printBlock(rows: readonly (readonly string[])[]): string {
  return stringify(rows as string[][], { delimiter: "\t", record_delimiter: "\n", quoted_match: /[\r\n]/ }).replace(/\n$/, "");
}

/** Takes what a hatch writes: the rows of each table, and the receipt. */
export class RowsSink implements TablesSink {
  readonly tables = new Map<string, BaseRows>();

  /** @param told - rows have come */
  constructor(private readonly told: (bytes: number) => void = () => undefined) {}

  create(file: string): Promise<{ write(bytes: Uint8Array): Promise<void>; close(): Promise<void> }> {
    const rows = new BaseRows();
    if (file.endsWith(".csv")) this.tables.set(file, rows);
    return Promise.resolve({
      write: (bytes) => {
        rows.append(bytes);
        this.told(bytes.length);
        return Promise.resolve();
      },
      close: () => Promise.resolve(rows.close()),
    });
  }
}

/** Files of tables, each a `Blob`. */
export class TableFiles implements TablesSource {
  readonly name = "the workbench";
  readonly contents: ReadonlyMap<string, Blob>;

  constructor(contents: Iterable<readonly [string, Blob]>) {
    this.contents = new Map(contents);
  }

  files(): Promise<readonly string[]> {
    return Promise.resolve([...this.contents.keys()]);
  }

  open(file: string): Promise<BlobSource | null> {
    const blob = this.contents.get(file);
    return Promise.resolve(blob === undefined ? null : new BlobSource(blob, file));
  }
}
