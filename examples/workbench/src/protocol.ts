/** What the page asks of the worker, and what it gets: plain data, so that it can be posted. */
import type { Change, Counts, Healed, Note, Phase, Problem, Remark, SchemaFile, Shape } from "hatch-fold";

/** A file with its name: what was dropped, and what is taken back. */
export interface Named {
  readonly name: string;
  readonly bytes: Blob;
}

/** How a source is to be read, where somebody corrected what was found by looking. */
export interface Reading {
  readonly format?: string;
  readonly encoding?: string;
  /** The format's own words: a delimiter, the line of the titles. */
  readonly settings?: Readonly<Record<string, unknown>>;
  /** A schema of the owner's, with the files that it includes. */
  readonly schema?: readonly SchemaFile[];
  /** Those that the plan names, by its sources. */
  readonly schemas?: Readonly<Record<string, readonly SchemaFile[]>>;
}

/** What a column of a table holds. */
export interface ColumnInfo {
  readonly title: string;
  readonly role: "mark" | "action" | "parent" | "key" | "cell";
  readonly type: string;
  /** It is not edited in rows that stand for a record. */
  readonly closed: boolean;
  readonly required: boolean;
  readonly choices: readonly string[];
  /** The table whose records its cells name. */
  readonly refers: string | null;
  readonly about: string;
}

export interface TableInfo {
  readonly name: string;
  /** Other tables whose rows stand in the same sheet, beneath or beside its own. */
  readonly also: readonly string[];
  readonly inside: string | null;
  readonly depth: number;
  readonly columns: readonly ColumnInfo[];
  /** All rows, and those that the view shows. */
  readonly rows: number;
  readonly shown: number;
  /** Rows in which something was edited. */
  readonly touched: number;
  /** Where a row stands says something: rows can be moved. */
  readonly isOrdered: boolean;
  readonly view: View;
}

/** How a table is looked at: it changes no row. */
export interface View {
  readonly sort: { readonly column: number; readonly down: boolean } | null;
  readonly filters: readonly Filter[];
  readonly only: "all" | "touched" | "faulty";
}

export interface Filter {
  readonly column: number;
  /** The values that are shown. */
  readonly values: readonly string[];
}

export const PLAIN_VIEW: View = { sort: null, filters: [], only: "all" };

export interface Opened {
  readonly files: readonly Named[];
  readonly reading: Reading;
  readonly name: string;
  readonly size: number;
  readonly tables: readonly TableInfo[];
  readonly plan: string;
  /** The format's own words in the plan. */
  readonly settings: Readonly<Record<string, unknown>>;
  readonly notes: readonly string[];
  /** The first look at a large source: rows are there to be looked at, more is on its way. */
  readonly isFirstLook: boolean;
  /** Edits that were made before, in this browser, and are there again. */
  readonly restored: number;
}

export interface Fault {
  readonly column: number;
  readonly message: string;
  readonly isWarning: boolean;
}

export interface RowInfo {
  readonly id: number;
  /** As the sheet's rows are numbered: the titles are row 1. */
  readonly number: number;
  readonly cells: readonly string[];
  readonly state: "as it was" | "changed" | "new" | "going";
  /** It stands elsewhere than it was hatched. */
  readonly isMoved: boolean;
  readonly edited: readonly number[];
  readonly faults: readonly Fault[];
}

/** A block of cells by place in the view: the first and the last of each, both included. */
export interface Range {
  readonly top: number;
  readonly left: number;
  readonly bottom: number;
  readonly right: number;
}

export interface Search {
  readonly text: string;
  readonly isExact: boolean;
  readonly isWhole: boolean;
  /** In these columns only. */
  readonly columns: readonly number[] | null;
}

export interface Hit {
  /** Place in the view. */
  readonly row: number;
  readonly column: number;
  readonly number: number;
  readonly cell: string;
  readonly becomes: string;
}

export type Command =
  | { readonly kind: "put"; readonly range: Range; readonly block: readonly (readonly string[])[]; readonly how: "typed" | "pasted" }
  | { readonly kind: "fill"; readonly range: Range; readonly how: "down" | "series" }
  | { readonly kind: "clear"; readonly range: Range; readonly isCut?: boolean }
  | { readonly kind: "replace"; readonly search: Search; readonly becomes: string }
  | { readonly kind: "insert"; readonly at: number; readonly count: number }
  | { readonly kind: "copy rows"; readonly from: number; readonly to: number }
  | { readonly kind: "remove rows"; readonly from: number; readonly to: number }
  | { readonly kind: "move rows"; readonly from: number; readonly to: number; readonly where: Where };

/** Rows go past the next one, or in front of the row with a number in the sheet; behind all when there is none. */
export type Where = "up" | "down" | number;

/** What an edit came to. */
export interface Edited {
  readonly tables: readonly TableInfo[];
  /** What undo would take back, and redo bring again, in words. */
  readonly undo: string | null;
  readonly redo: string | null;
  /** How many steps there are to go back. */
  readonly steps: number;
  /** Said aloud. */
  readonly message: string;
  /** The table and the cell that it was about, or the first of so many rows that stand elsewhere: these in the column that one is at. */
  readonly at: { readonly table: string; readonly row: number; readonly column: number | null; readonly rows: number } | null;
}

/** The first rows of a table by a plan. */
export interface SampleRows {
  readonly titles: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

/** Where a remark leads to: a table, the column in it, and how to look at it. */
export interface Pointed {
  readonly table: string;
  readonly column: number | null;
  readonly view: View;
}

export interface ValueCount {
  readonly value: string;
  readonly count: number;
}

export interface Option {
  readonly value: string;
  readonly label: string;
}

/** One side of links: the table, the column that names its records, and these. */
export interface LinkSide {
  readonly column: number;
  readonly name: string;
  readonly title: string;
  readonly records: readonly { readonly key: string; readonly label: string }[];
}

export interface Links {
  readonly one: LinkSide;
  readonly other: LinkSide;
  readonly pairs: readonly { readonly a: string; readonly b: string; readonly count: number; readonly isNew: boolean }[];
}

/** The counts of the last comparison. */
export interface Found {
  readonly counts: Counts;
  readonly warnings: number;
  /** Records with changes, and how many of them are to be folded. */
  readonly records: number;
  readonly taken: number;
  readonly changes: number;
  readonly problems: readonly Problem[];
  /** Problems of rows that are to be folded. */
  readonly inTheWay: number;
  readonly warned: readonly Problem[];
  readonly notes: readonly Note[];
  readonly healed: readonly Healed[];
  readonly tables: readonly { readonly table: string; readonly changes: number }[];
}

export interface ChangeFilter {
  readonly table: string | null;
  readonly kind: Change["kind"] | null;
  readonly text: string;
}

/** Rows that are ticked: some, all with problems, or (`null`) those of the filter. */
export type TakenRows = readonly { readonly table: string; readonly row: number }[] | "problems" | null;

/** A record with its changes. */
export interface ChangedRecord {
  readonly table: string;
  readonly row: number;
  readonly record: string;
  readonly isTaken: boolean;
  readonly changes: readonly Change[];
}

export interface Lines {
  readonly first: number;
  readonly text: string;
}

/** The source's lines around a change. */
export interface Around {
  readonly before: Lines;
  readonly after: Lines;
}

/** How many records of a table were changed in a file, how many came, went and moved. */
export interface Wrote {
  readonly table: string;
  readonly counts: Readonly<Partial<Record<Change["kind"], number>>>;
}

export interface Made {
  readonly files: readonly (Named & { readonly unchanged: boolean; readonly wrote: readonly Wrote[] })[];
  readonly proved: boolean;
  readonly counts: Counts;
  readonly left: number;
}

export interface BroughtBack extends Edited {
  readonly healed: readonly Healed[];
  readonly problems: readonly Problem[];
  readonly notes: readonly Note[];
}

export interface Kept {
  readonly id: string;
  readonly name: string;
  readonly steps: number;
  readonly at: number;
}

export interface Calls {
  open(files: readonly Named[], reading: Reading, plan: string | null): Opened;
  usePlan(text: string): Opened;
  sample(plan: string, table: string): SampleRows;
  diagram(): string;
  pointed(remark: Remark): Pointed | null;
  firstLines(most: number): readonly string[];
  cancel(): void;
  window(table: string, from: number, to: number): readonly RowInfo[];
  look(table: string, view: View): TableInfo;
  values(table: string, column: number): readonly ValueCount[];
  options(table: string, column: number, typed: string): readonly Option[];
  links(table: string): Links | null;
  link(table: string, a: string, b: string, isOn: boolean): Edited;
  copy(table: string, range: Range): string;
  paste(table: string, range: Range, text: string): Edited;
  edit(table: string, command: Command): Edited;
  search(table: string, search: Search, becomes: string): { readonly total: number; readonly hits: readonly Hit[] };
  undo(): Edited;
  undoAll(): Edited;
  redo(): Edited;
  placeOf(table: string, row: number): number;
  changes(filter: ChangeFilter, from: number, to: number): { readonly total: number; readonly records: readonly ChangedRecord[] };
  take(filter: ChangeFilter, rows: TakenRows, isTaken: boolean): Found;
  takeBack(table: string, row: number): Edited;
  around(table: string, row: number): Around | null;
  fold(): Made;
  report(kind: "html" | "markdown" | "json" | "patch"): Named;
  exportTables(kind: "csv" | "workbook"): Named;
  bringBack(files: readonly Named[]): BroughtBack;
  session(): Named;
  kept(): readonly Kept[];
  resume(id: string): Opened;
  forget(id: string): void;
}

export type Verb = keyof Calls;
export interface Request {
  readonly id: number;
  readonly verb: Verb;
  readonly args: readonly unknown[];
}

/** Words for a page, from an error of the library. */
export interface Failure {
  readonly message: string;
  readonly hint: string;
  readonly place: string;
  readonly excerpt: string;
  /** The library's own, or "stopped" where somebody began something else. */
  readonly code: string;
  readonly facts: Readonly<Record<string, unknown>>;
  readonly line?: number;
}

export type Told =
  | { readonly id: number; readonly ok: unknown }
  | { readonly id: number; readonly failed: Failure }
  | { readonly event: "progress"; readonly phase: Phase; readonly done: number; readonly size: number }
  | { readonly event: "opened"; readonly opened: Opened }
  | { readonly event: "shape"; readonly shape: Shape }
  | { readonly event: "comparing" }
  | { readonly event: "compared"; readonly found: Found }
  | { readonly event: "failed"; readonly failure: Failure };
