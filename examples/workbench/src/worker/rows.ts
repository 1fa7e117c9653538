/** The rows of a hatched table: their CSV text as it was written, and where each row begins. A row becomes cells when it is asked for. */
import { parse } from "csv-parse/browser/esm/sync";
import { stringify } from "csv-stringify/browser/esm/sync";
import type { TablesSink } from "hatch-fold";

const QUOTE = 0x22;
const LINE_FEED = 0x0a;
const utf8 = new TextDecoder("utf-8", { ignoreBOM: true });

export class BaseRows {
  private bytes = new Uint8Array(1 << 16);
  private length = 0;
  /** Where rows end, the titles being the first. */
  private ends = new Uint32Array(1 << 10);
  private rows = 0;
  private quoted = false;
  private known: readonly string[] = [];

  append(chunk: Uint8Array): void {
    if (this.length + chunk.length > this.bytes.length) this.bytes = grown(this.bytes, this.length + chunk.length);
    this.bytes.set(chunk, this.length);
    for (let i = 0; i < chunk.length; i++) {
      if (chunk[i] === QUOTE) this.quoted = !this.quoted;
      else if (chunk[i] === LINE_FEED && !this.quoted) {
        if (this.rows === this.ends.length) this.ends = grown(this.ends, this.rows + 1);
        this.ends[this.rows++] = this.length + i + 1;
      }
    }
    this.length += chunk.length;
    if (this.known.length === 0 && this.rows > 0) this.known = this.row(-1).map((title) => title.replace(/^\ufeff/, ""));
  }

  /** All is there: no more memory than that is kept. */
  close(): void {
    this.bytes = this.bytes.slice(0, this.length);
    this.ends = this.ends.slice(0, this.rows);
  }

  get titles(): readonly string[] {
    return this.known;
  }

  get count(): number {
    return Math.max(0, this.rows - 1);
  }

  /** Cells of a row, from 0; -1 are the titles. */
  row(place: number): string[] {
    const from = place < 0 ? 0 : this.ends[place];
    const text = utf8.decode(this.bytes.subarray(from, this.ends[place + 1] - 2));
    return text.includes('"') ? parseRow(text) : text.split(",");
  }

  /** The text as it was written, without a byte-order mark. */
  get text(): Uint8Array {
    return this.bytes.subarray(this.bytes[0] === 0xef ? 3 : 0, this.length);
  }
}

function grown<T extends Uint8Array | Uint32Array>(array: T, least: number): T {
  const Of = array.constructor as new (length: number) => T;
  const made = new Of(Math.max(2 * array.length, least));
  made.set(array);
  return made;
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
