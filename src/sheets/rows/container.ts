/** Rows in memory as a container: cells by title become rows of cells, and rows of cells become objects. */
import { nearest } from "../../errors/nearest.js";
import { CallError, TablesError } from "../../errors/error.js";
import { ByteWriter, decode } from "../../bytes/writer.js";
import type { MarkWriter } from "../../model/marks.js";
import type { OpenSheet, SheetContainer, SheetOut, SheetRow, SheetSink } from "../container.js";
import type { Receipt } from "../receipt.js";
import { RowsSheet } from "./sheet.js";
import { allTitles, type CellsByTitle, type RowSheet, type RowTables } from "./tables.js";

export class RowContainer implements SheetContainer {
  readonly name = "rows";

  constructor(private readonly tables: RowTables) {}

  get isWhole(): boolean {
    return this.tables.isWhole;
  }

  receipt(): Promise<Receipt> {
    const { receipt, sheets } = this.tables;
    if (receipt === null) return Promise.reject(new TablesError("rows-unhatched", {}));
    const tables = receipt.tables.map(({ file }) => file);
    const strange = [...sheets.keys()].find((name) => !tables.includes(name));
    if (strange !== undefined)
      return Promise.reject(new CallError("row-table", { table: strange, nearest: nearest(strange, tables), tables }));
    return Promise.resolve(receipt);
  }

  names(): Promise<readonly string[]> {
    return Promise.resolve([...this.tables.sheets.keys()]);
  }

  sheet(name: string): Promise<OpenSheet | null> {
    const sheet = this.tables.sheets.get(name);
    return Promise.resolve(sheet === undefined ? null : sheetOfRows(name, sheet));
  }
}

export class RowSink implements SheetSink {
  constructor(private readonly tables: RowTables) {}

  nameAll(tables: readonly string[]): ReadonlyMap<string, string> {
    return new Map(tables.map((table) => [table, table]));
  }

  create(name: string): Promise<SheetOut> {
    const sheet = { titles: [], rows: [] };
    this.tables.sheets.set(name, sheet);
    return Promise.resolve(new RowsOut(sheet));
  }

  finish(receipt: Receipt): Promise<void> {
    this.tables.receipt = receipt;
    return Promise.resolve();
  }
}

function sheetOfRows(name: string, sheet: RowSheet): OpenSheet {
  const { rows, numbers } = sheet;
  const all = sheet.titles ?? allTitles([], sheet);
  // a row is known by its number
  const isNumbered = numbers === undefined || (numbers.length === rows.length && new Set(numbers).size === rows.length);
  if (!isNumbered || numbers?.some((n) => !Number.isSafeInteger(n) || n < 2) === true) throw new CallError("rows-numbers", { table: name });
  const known = new Set(all);
  const made = rows.map((row, i): SheetRow => {
    const number = numbers?.[i] ?? i + 2;
    for (const [title, cell] of Object.entries(row)) {
      if (!known.has(title)) throw new CallError("row-title", { table: name, row: number, title, titles: all });
      if (cell !== undefined && typeof cell !== "string")
        throw new CallError("row-cell", { table: name, row: number, title, type: cell === null ? "null" : typeof cell });
    }
    return { number, cells: all.map((title) => (Object.hasOwn(row, title) ? row[title] : undefined)) };
  });
  return new RowsSheet(name, { number: 1, cells: all }, made);
}

class RowsOut implements SheetOut {
  private cells: string[] = [];
  private readonly word = new ByteWriter(32);
  private known: readonly string[] = [];
  readonly isFull = false;

  constructor(private readonly sheet: { titles: readonly string[]; rows: CellsByTitle[] }) {}

  titles(titles: readonly string[]): void {
    this.known = this.sheet.titles = titles;
  }

  mark(marks: MarkWriter, place: number): void {
    this.word.clear();
    marks.write(this.word, place);
    this.cells = [decode(this.word.bytes, 0, this.word.length)];
  }

  cell(bytes: Uint8Array, _words: DataView, from: number, to: number): void {
    this.bytes(bytes, from, to);
  }

  bytes(bytes: Uint8Array, from: number, to: number): void {
    this.cells.push(decode(bytes, from, to));
  }

  blank(): void {
    this.cells.push("");
  }

  endRow(): void {
    this.row(this.cells);
  }

  row(cells: readonly string[]): void {
    this.sheet.rows.push(Object.fromEntries(this.known.map((title, i) => [title, cells[i]])));
  }

  flush(): Promise<void> {
    return Promise.resolve();
  }

  close(): Promise<string> {
    return Promise.resolve("");
  }
}
