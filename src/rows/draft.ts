/**
 * What the sheets want of the source, as far as it is known: each step of a comparison makes a new draft of the one before,
 * and changes none.
 */
import type { Placing } from "../layouts/layout.js";
import type { Healed } from "../model/findings.js";
import type { CompiledTable } from "../plan/compile.js";
import type { NewValue } from "../edits/edit.js";
import { Kind } from "../model/kind.js";
import type { ColumnFault } from "../model/problem-list.js";
import type { CellTyper } from "./cell-value.js";
import type { DifferingRow, NewRow, Target } from "./row-edits.js";
import type { Sheet } from "./sheet.js";
import type { Snapshot } from "./snapshot.js";

/** By table and place of a record that goes, the row whose record takes it along. */
export type Gone = ReadonlyMap<CompiledTable, ReadonlyMap<number, DifferingRow>>;

/** A list whose order is edited: all records that will be in it, those of the source that say nothing by their places. */
export interface OrderedList {
  readonly table: CompiledTable;
  readonly records: readonly (number | DifferingRow | NewRow)[];
}

export interface Draft {
  /** Rows of the source that differ, and those of lists that are shown in them. */
  readonly rows: readonly DifferingRow[];
  /** New rows; a row stands before those that are in it. */
  readonly news: readonly NewRow[];
  /** Sheets whose new rows are left out. */
  readonly notAdded: ReadonlySet<Sheet>;
  readonly gone: Gone;
  /** What is wrong with codes and labels: found when they were followed, and told with the checks. */
  readonly references: readonly ColumnFault[];
  /** Records that cannot go, or be called otherwise: rows that nobody edited refer to them. */
  readonly held: ReadonlySet<Snapshot>;
  /** Rows whose records leave their place, with the place they go to. */
  readonly moves: ReadonlyMap<DifferingRow, Target>;
  /** Where rows go in their lists, as their order was said. */
  readonly placings: ReadonlyMap<DifferingRow | NewRow, Placing>;
  readonly orders: readonly OrderedList[];
  readonly healed: readonly Healed[];
  /** Rows that were compared cell by cell and found to be as they were. */
  readonly unchanged: number;
  /** Rows that are left out because of a problem: their own, or that of a row they go into. */
  readonly rejected: ReadonlySet<DifferingRow | NewRow>;
  /** The same by sheet and row number, with rows of which nothing else is known. */
  readonly aside: readonly { readonly table: string; readonly row: number }[];
}

export const NO_DRAFT: Draft = {
  rows: [],
  news: [],
  notAdded: new Set(),
  gone: new Map(),
  references: [],
  held: new Set(),
  moves: new Map(),
  placings: new Map(),
  orders: [],
  healed: [],
  unchanged: 0,
  rejected: new Set(),
  aside: [],
};

/** Copies whose cells a step may write. */
export function copyRows(rows: readonly DifferingRow[]): DifferingRow[] {
  return rows.map((row) => ({ ...row, cells: [...row.cells] }));
}

/** Copies whose cells and targets a step may write; those that are in others are in the copies of these. */
export function copyNews(news: readonly NewRow[]): NewRow[] {
  const made = new Map<NewRow, NewRow>();
  for (const row of news) {
    const { target, contents, values } = row;
    const host = target !== null && "row" in target ? made.get(target.row) : undefined;
    made.set(row, { ...row, contents: [...contents], values: [...values], target: host === undefined ? target : { row: host } });
  }
  return [...made.values()];
}

/** What a cell of a new row means; a cell that says nothing has no value. */
export function newValue(typer: CellTyper, row: Pick<NewRow, "table" | "sheet" | "row">, slot: number, content: string): NewValue | null {
  const { table, sheet } = row;
  const { title } = table.plan.columns[slot];
  const place = { table, slot, file: table.source.first, was: Kind.Absent, spot: "new" } as const;
  const value = typer.read(content, place, sheet.place(row.row, title, content));
  return value?.kind === Kind.Absent ? null : value;
}

/** Writes a cell of a new row that a step has copied. */
export function putCell(typer: CellTyper, row: NewRow, slot: number, content: string): void {
  (row.contents as (string | null)[])[slot] = content;
  (row.values as (NewValue | null)[])[slot] = newValue(typer, row, slot, content);
}

/** Where a row goes in its list, when that is said. */
export function placingOf({ placings }: Draft, row: DifferingRow | NewRow): Placing | undefined {
  return placings.get(row) ?? row.placing;
}
