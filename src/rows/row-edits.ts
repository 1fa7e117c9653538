/** Rows of a sheet and what they want of the source: rows that differ, new rows, and the edits that come of them. */
import type { Placing } from "../layouts/layout.js";
import type { Edit, NewValue } from "../edits/edit.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Sheet } from "./sheet.js";
import type { Snapshot } from "./snapshot.js";

/** Where a row goes: a record of the source (by place), another new row, or the top of a file (by number). */
export type Target = { readonly place: number; readonly of: CompiledTable } | { readonly row: NewRow } | { readonly file: number };
export interface NewRow {
  readonly table: CompiledTable;
  readonly sheet: Sheet;
  readonly row: number;
  /** What the row calls itself for others: `+x`, or nothing. */
  readonly name: string;
  /** Cell by slot; `null` where the sheet has no such column. */
  readonly contents: readonly (string | null)[];
  readonly values: readonly (NewValue | null)[];
  /** What the sheet says of the parent, or of the file. */
  readonly parentText: string;
  /** It goes to the top of a tree: what the sheet says is then what the tree is in. */
  readonly atTop: boolean;
  target: Target | null;
  /** Where it goes in its list, when that is said. */
  readonly placing?: Placing;
}

export interface ListEdits {
  readonly differing: DifferingRow[];
  readonly news: NewRow[];
  /** Edits of what stands instead of a list. */
  readonly standIns: CellEdit[];
}

/** A cell that was edited and may be. */
export interface CellEdit {
  readonly slot: number;
  readonly content: string;
  readonly value: NewValue;
}

/** The edits that come from one row of a sheet; set aside together when the row has a problem. */
export interface RowEdits {
  readonly table: string;
  readonly row: number;
  readonly edits: Edit[];
}

/** A row of the source with what the sheet wants of it. */
export interface DifferingRow {
  readonly snapshot: Snapshot;
  readonly sheet: Sheet;
  readonly row: number;
  readonly cells: CellEdit[];
  /** What the sheet says of the parent, when it differs. */
  readonly parent: string | null;
  /** It belongs at the top of its tree: `parent` is then what the tree is in. */
  readonly atTop?: boolean;
  /** Where it goes in its list, when it does not stay. */
  readonly placing?: Placing;
  /** The place in its list that its row says, from 1, when it differs. */
  readonly toPlace?: number;
  /** It is an item of a list that this record shows, and leaves its place there. */
  readonly within?: Snapshot;
  readonly removed: boolean;
  pointer: string;
  /** The file it is in, where there are several. */
  source: { readonly source?: string };
  /** Labels that somebody wrote where the sheet shows those of codes, by slot. */
  labels?: ReadonlyMap<number, string>;
  /** Edits of lists that the row shows, and how its cells told of them. */
  lists?: ListEdits & { readonly cells: readonly { readonly slot: number; readonly content: string }[] };
}

/** Does the sheet want nothing else of the row? */
export function isUnchanged({ cells, parent, placing, toPlace, removed, lists, labels }: DifferingRow): boolean {
  const stays = parent === null && placing === undefined && toPlace === undefined && !removed;
  return stays && cells.length === 0 && lists === undefined && labels === undefined;
}
