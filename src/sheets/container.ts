/**
 * What holds sheets: a folder of delimited text, a workbook, rows in memory. A container gives rows and takes
 * them; what is above knows neither endings nor delimiters.
 */
import type { ByteSource } from "../bytes/source.js";
import type { Encoding } from "../bytes/encoding.js";
import type { Hash } from "../bytes/hash.js";
import type { MarkWriter } from "../model/marks.js";
import type { ColumnRules, ColumnType } from "../model/plan.js";
import type { Receipt } from "./receipt.js";

/** What is wrong with a row: a quote that nothing ends, or something behind one. */
export type Damage = "open" | "after" | null;

/** A row of cells. */
export interface SheetRow {
  /** From 1; the titles are a row, and so are blank ones. */
  readonly number: number;
  /** A row may end early; what is not there at all says nothing. */
  readonly cells: readonly (string | undefined)[];
  readonly fault?: Damage;
}

/** Where a sheet finds one of its rows again. */
export interface RowSpan {
  readonly offset: number;
  readonly length: number;
  /** The row itself, where it has been kept. */
  readonly bytes?: Uint8Array;
}

/** A row while it is read: what it says holds until the next one is. */
export interface RowView {
  readonly rowNumber: number;
  readonly cells: number;
  readonly fault: Damage;
  /** No cell has anything in it. */
  readonly blank: boolean;
  /** No cell is missing that others behind it have. */
  readonly whole: boolean;
  readonly offset: number;
  readonly length: number;
  text(cell: number): string;
  texts(): (string | undefined)[];
  isEmpty(cell: number): boolean;
  /** Place of the record whose mark the cell is, exactly as it was written; else -1. */
  markAt(cell: number, salt: number): number;
  hashCell(cell: number, hash: Hash): void;
}

/** Who reads a sheet. */
export interface RowTaker {
  /** Is this one of the titles that are looked for? */
  knows(title: string): boolean;
  row(view: RowView): void;
  /** The text is not UTF-8: the first byte that shows it. */
  malformed(byte: number): void;
  /** No more rows are wanted. */
  readonly done: boolean;
}

/** A sheet as it came back. */
export interface OpenSheet {
  /** What people call it: a file, perhaps. */
  readonly name: string;
  /** About how many bytes it has. */
  readonly size: number;
  /** Tells all rows, that with the titles first. */
  read(taker: RowTaker): Promise<void>;
  /** Cells of rows that were told. */
  cellsOf(rows: readonly RowSpan[]): Promise<(string | undefined)[][]>;
  /** What stands between its cells, when somebody made it another sign than it was. */
  readonly strangeDelimiter: string | null;
  /** Its text, where it is one: rows that were not edited are then compared as they stand there. */
  readonly text?: SheetText;
}

export interface SheetText {
  readonly bytes: ByteSource;
  delimiter(knows: (title: string) => boolean): Promise<number>;
}

/** What is known of a sheet that is not as a hatch writes it. */
export interface SheetReading {
  /** It was made by somebody else, in any encoding, with titles in one of its first rows. */
  readonly isForeign?: boolean;
  /** It is in this encoding. */
  readonly encoding?: Encoding;
}

/** Gives sheets back. */
export interface SheetContainer {
  /** For messages. */
  readonly name: string;
  /** All rows are here; else only some, and what is not here is as it was. */
  readonly isWhole: boolean;
  receipt(): Promise<Receipt>;
  /** All that looks like a sheet. */
  names(): Promise<readonly string[]>;
  /** The sheet of that name; `null` when it is not there. */
  sheet(name: string, as?: SheetReading): Promise<OpenSheet | null>;
}

/** Takes a sheet as it is written, row by row. */
export interface SheetOut {
  titles(titles: readonly string[]): void;
  /** Begins a row with the mark of the record at `place`. */
  mark(marks: MarkWriter, place: number): void;
  /** Appends a cell whose bytes can be had four at a time. */
  cell(bytes: Uint8Array, words: DataView, from: number, to: number): void;
  /** Appends any other cell. */
  bytes(bytes: Uint8Array, from: number, to: number): void;
  blank(): void;
  endRow(): void;
  /** A whole row. */
  row(cells: readonly string[]): void;
  /** Titles of the columns in which it writes decimals behind a comma. */
  readonly commas?: readonly string[];
  /** So much has come together that it should be written away. */
  readonly isFull: boolean;
  flush(): Promise<void>;
  /** Gives the fingerprint of what was written; "" where none is made. */
  close(): Promise<string>;
}

/** What people may do in a column, for containers that can say it. */
export interface ColumnHints {
  readonly title: string;
  readonly type: ColumnType;
  readonly required: boolean;
  /** The record is known by it. */
  readonly isKey: boolean;
  /** It is not to be edited in rows that stand for a record. */
  readonly isClosed: boolean;
  /** The words that a cell may hold; none where it may hold others. */
  readonly choices: readonly string[];
  /** What the plan's rules say of cells. */
  readonly rules?: ColumnRules;
  /** Other words than those of its choices are told, not refused. */
  readonly warns?: true;
  /** Its cells are the same as some in this column of another sheet. */
  readonly refers: { readonly table: string; readonly title: string } | null;
  /** What it means, in the plan's words. */
  readonly about: string;
}

/** What the columns of a table's sheet are, by title. */
export interface SheetHints {
  readonly table: string;
  /** What the table is, in the plan's words. */
  readonly about: string;
  readonly columns: ReadonlyMap<string, ColumnHints>;
}

/** Takes sheets. */
export interface SheetSink {
  /** The kind of program it writes for, where there are several. */
  readonly program?: string;
  /** What the sheets of tables are called here. */
  nameAll(tables: readonly string[]): ReadonlyMap<string, string>;
  create(name: string, hints?: SheetHints): Promise<SheetOut>;
  /** All sheets have been written. */
  finish(receipt: Receipt): Promise<void>;
}
