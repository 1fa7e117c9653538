/** A row that does not go behind the others of its list, or leaves its place in it, or is below another one where it stands. */
import type { ProblemList } from "../model/findings.js";
import type { ReadRows } from "../records/reader.js";

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

/** What stands for a table that has no plain sheet of its own: the sheet that it would have. */
export interface PlainSheet {
  readonly bytes: Uint8Array;
  /** Where its rows stand in what the analyst sees, when that is not in the row of that number. */
  readonly where?: (row: number) => { readonly row: number; readonly column?: string };
  /** Number of the last row that the analyst sees. */
  readonly last?: number;
  /** The sheet had no marks: its rows were brought together with records by what they say. */
  readonly unmarked?: true;
  readonly placings?: ReadonlyMap<number, Placing>;
  /** By row, cells that the analyst's sheet has and this one leaves blank. */
  readonly says?: ReadonlyMap<number, Readonly<Record<string, string>>>;
  /** What the analyst's sheet calls what a record is in. */
  readonly nameOf?: (ident: string) => string;
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
  readonly file: string;
  readonly bytes: Uint8Array;
  readonly problems: ProblemList;
  /** There are no marks: all rows are new. */
  readonly fresh: boolean;
  readonly readSource: ReadRows;
}
