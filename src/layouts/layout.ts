/** A row that does not go behind the others of its list, or leaves its place in it, or is below another one where it stands. */
import type { ProblemList } from "../model/findings.js";
import type { ReadRows } from "../records/reader.js";
import type { OpenSheet, SheetRow } from "../sheets/container.js";
import { RowsSheet } from "../sheets/rows/sheet.js";
import type { TitledSheet } from "../sheets/titled.js";

export interface Placing {
  /** It stands where it belongs. */
  readonly stays?: true;
  /** A record that stays, by where it begins or ends, and whether the row goes before it; alone, or at the end, unless said. */
  readonly beside?: { readonly at: number; readonly before: boolean };
  /** Its number in the whole list. */
  readonly rank: number;
  /** What it was and is below, and how many records go along; nothing for those. */
  readonly says: { readonly old: string; readonly new: string; readonly holds: number } | null;
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
  /** Cells that the sheet shows in it and that are left to other rows. */
  readonly says?: Readonly<Record<string, string>>;
}

/** The rows of one table, as its own sheet would have them. */
export interface TableRows {
  readonly titles: readonly string[];
  readonly rows: readonly TableRow[];
  /** The sheet had no marks: its rows were brought together with records by what they say. */
  readonly unmarked?: true;
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
  readonly sheet: OpenSheet;
  readonly problems: ProblemList;
  /** There are no marks: all rows are new. */
  readonly fresh: boolean;
  /** All rows are there; else only those that somebody touched. */
  readonly isWhole: boolean;
  readonly readSource: ReadRows;
}
