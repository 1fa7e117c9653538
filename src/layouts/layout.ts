/**
 * What a layout is: how the records of tables stand in sheets, beyond a row for each with its cells.
 *
 * There are two sorts. An arrangement puts the records of one table, or of several, into a sheet, and reads them back; a
 * view changes what some columns show. Each is one file or folder here, and one line in the list of `index.ts`.
 */
import type { ProblemList } from "../model/problem-list.js";
import type { TablePlan } from "../model/plan.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import type { NamedWords } from "../plan/layout-words.js";
import type { Assembler, Row } from "../records/assemble.js";
import type { RowFilter } from "../records/filter.js";
import type { ReadRows, RecordReader } from "../records/reader.js";
import type { OpenSheet, SheetRow } from "../sheets/container.js";
import { RowsSheet } from "../sheets/rows/sheet.js";
import type { TitledSheet } from "../sheets/titled.js";

/** A row that does not go behind the others of its list, or leaves its place in it, or is below another one where it stands. */
export interface Placing {
  /** It stands where it belongs. */
  readonly stays?: true;
  /** A record that stays, by where it begins or ends, and whether the row goes before it; alone, or at the end, unless said. */
  readonly beside?: { readonly at: number; readonly before: boolean };
  /** Its number in the whole list. */
  readonly rank: number;
  /** What it was and is below, or in the `column`, and how many records go along; nothing for those. */
  readonly says: { readonly old: string; readonly new: string; readonly holds: number; readonly column?: string } | null;
}

/** Where a row stands in the sheet that people see, and in which column when it is but a cell there. */
export interface SheetPlace {
  readonly row: number;
  readonly column?: string;
}

/** A row of one table as a layout reads it: `number` tells it from the others, and orders them. */
export interface TableRow extends SheetRow {
  /** `null` where people see no row: it was made for a record that follows others. */
  readonly at: SheetPlace | null;
  /** Where it goes in its list, when that is not behind the others. */
  readonly placing?: Placing;
  /** It stands at the top of its tree: what the column of the record above names is then what the tree is in. */
  readonly atTop?: boolean;
  /** Cells that the sheet shows in it and that are left to other rows. */
  readonly says?: Readonly<Record<string, string>>;
}

/** The rows of one table, as its own sheet would have them. */
export interface TableRows {
  readonly titles: readonly string[];
  readonly rows: readonly TableRow[];
  /** The sheet had no marks: its rows were brought together with records by what they say. */
  readonly unmarked?: true;
  /** Its columns are not those of the table: none of them was left out. */
  readonly ownTitles?: true;
  /** Where a code refers to no record, it may be the label of one. */
  readonly byLabel?: true;
  /** What the sheet calls what a record is in. */
  readonly nameOf?: (ident: string) => string;
}

/**
 * Rows by number as those of a table, with the cells at some places of its titles; those behind the `last` row of the
 * sheet were made. A row that is `short` in the sheet ends early here, too.
 */
export function tableRows(
  titleAt: (place: number) => string,
  places: readonly number[],
  rows: ReadonlyMap<number, readonly (string | undefined)[]>,
  { last, short }: Pick<TitledSheet, "last" | "short">,
): TableRows {
  return {
    titles: places.map(titleAt),
    rows: [...rows]
      .sort(([one], [other]) => one - other)
      .map(([number, cells]) => {
        const own = places.map((at) => cells[at]);
        const end = short.has(number) ? own.indexOf(undefined) : -1;
        return { number, at: number <= last ? { row: number } : null, cells: end < 0 ? own : own.slice(0, end) };
      }),
  };
}

/** The same as a sheet that can be read. */
export function sheetOf({ titles, rows }: TableRows, name: string): OpenSheet {
  return new RowsSheet(name, { number: 1, cells: titles }, rows);
}

/** Names of tables whose sheets are lists without marks; `tags=S-004`: the list is that of the record S-004 around. */
export interface GivenLists {
  /** Their rows are put behind the records that are there. */
  readonly append?: readonly string[];
  /** Their rows take the place of the records that are there: of each record around that they name, one by one. */
  readonly replace?: readonly string[];
}

/** A sheet as it came back, and what the reading of its layout may ask. */
export interface SheetReading {
  /** Rows with the mark of another are new records. */
  readonly copiesAreNew: boolean;
  readonly sheet: OpenSheet;
  readonly problems: ProblemList;
  /** There are no marks: all rows are new. */
  readonly fresh: boolean;
  /** All rows are there; else only those that somebody touched. */
  readonly isWhole: boolean;
  /** Which rows were hatched. */
  readonly filter: RowFilter;
  readonly readSource: ReadRows;
  /** The same with the sums of what no column shows: it takes longer. */
  readonly readRests: ReadRows;
}

/** A record on its way into a sheet. */
export interface WrittenRow {
  readonly row: Row;
  /** It is to be written; a condition or a sample may leave it out, but not the records in it. */
  readonly wanted: boolean;
  /** Mark, action, what it is in, and its columns. */
  readonly cells: () => string[];
}

/** The records of some tables as they stand in one sheet. */
export interface ArrangedSheet {
  /** The sheet is called after the first of them. */
  readonly tables: readonly CompiledTable[];
  /** `null` when they are known only behind the last record: they are then the first row that `end` gives. */
  readonly titles: readonly string[] | null;
  /** The records whose marks its rows have, where they are none of its own tables. */
  readonly down?: { readonly target: CompiledTable };
  /** The records that head columns. */
  readonly across?: { readonly target: CompiledTable };
  /** What it calls a table's column, where that is not its title. */
  shownAs?(table: CompiledTable, title: string): string;
  /** What it takes a title for, once it has heard of the records. */
  titleOf?(title: string): string;
  /** Hears of each record of the source, of whatever table, before `write` does. */
  watch?(row: Row, assembler: Assembler): void;
  /** Takes a record of one of its tables, and gives the rows that can be written now. */
  write(record: WrittenRow, assembler: Assembler): readonly SheetCells[];
  /** What is left to be written. */
  end(): readonly SheetCells[];
  /** The rows of each table; `null` when it is no such sheet, so that whoever reads it as that of the first table says why. */
  read(reading: SheetReading): Promise<ReadonlyMap<CompiledTable, TableRows> | null>;
}

/** Cells of one row. */
export type SheetCells = readonly string[];

/** What an arrangement goes by. */
export interface ArrangementInput {
  readonly compiled: CompiledPlan;
  readonly records: RecordReader;
  /** The columns that a table's sheet has. */
  readonly slotsOf: (table: CompiledTable) => Iterable<number>;
}

/** How the records of one table, or of several, stand in a sheet. */
export interface Arrangement extends NamedWords {
  /** Titles that its sheet has besides those of the table's columns, where a plan alone tells them. */
  readonly moreTitles?: (table: TablePlan) => readonly string[];
  /** Titles of its sheet that no plan tells are its own. */
  readonly ownTitles?: true;
  /** All sheets that stand so. What it has to ask of the source it asks at once, so that others can ask in the same pass. */
  open(input: ArrangementInput): Promise<readonly ArrangedSheet[]>;
}

/** What a view reads. */
export interface ViewInput {
  readonly compiled: CompiledPlan;
  readonly lists: GivenLists;
  readonly sheetOf: (table: CompiledTable) => Promise<SheetReading | null>;
  /** Rows that other layouts have read. */
  readonly laid: ReadonlyMap<CompiledTable, TableRows | null>;
}

/** What columns show that is not what the source has there: it is made so again before anything is compared. */
export interface ColumnView extends NamedWords {
  read(input: ViewInput): Promise<ReadonlyMap<CompiledTable, TableRows>>;
}
