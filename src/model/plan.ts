/** A plan: which tables and columns to take out of a source, and what is allowed in them. */
import type { Place } from "../errors/error.js";
import type { Path } from "./path.js";

/** What a column may hold. `any` keeps the kind a value had. */
export const COLUMN_TYPES = ["any", "text", "number", "integer", "decimal", "boolean", "date"] as const;
export type ColumnType = (typeof COLUMN_TYPES)[number];

/** What a blank cell stands for; the others are then spelled out. With `keep` it says nothing: what the source has there stays. */
export const BLANKS = ["absent", "null", "empty", "keep"] as const;
export type Blank = (typeof BLANKS)[number];

/** What is taken out of text that somebody writes: tags of HTML with what they stand for, and blanks where one is enough. */
export const CLEANING = ["tags", "blanks"] as const;
export type Cleaning = (typeof CLEANING)[number];

/** What a rule that is not kept does: an error stops the fold, a warning is told. */
export type Severity = "error" | "warning";

/** A rule of a plan. */
export interface Rule<T> {
  readonly is: T;
  /** The plan's own words for what is wrong. */
  readonly say?: string;
  readonly severity: Severity;
  /** Where the plan's text says so. */
  readonly place?: Place;
}

/** What cells must be that somebody writes. */
export interface ColumnRules {
  /** A cell may not be blank; only here when it is a warning, or has words of its own. */
  readonly required?: Rule<true>;
  /** A decimal number, or a date. */
  readonly minimum?: Rule<string>;
  readonly maximum?: Rule<string>;
  /** In letters, as people count them. */
  readonly minLength?: Rule<number>;
  readonly maxLength?: Rule<number>;
  /** A regular expression (RE2 syntax) for all of the text. */
  readonly pattern?: Rule<string>;
  /** Common Expression Language expressions over `value` and the record. */
  readonly checks?: readonly Rule<string>[];
}

export interface ColumnPlan {
  /** Title of the column in the table. */
  readonly title: string;
  readonly at: Path;
  readonly type: ColumnType;
  readonly blank: Blank;
  /** Where the source has nothing, the value of the record above counts; the sheet shows it in every row. */
  readonly fillDown?: true;
  /** Title of the column that says for which records it is the same. */
  readonly sameFor?: string;
  readonly required: boolean;
  readonly readOnly: boolean;
  readonly unit?: string;
  /** What it means, for those who edit. */
  readonly note?: string;
  /** Code kept in the source → word shown in the table. */
  readonly choices?: ReadonlyMap<string, string>;
  readonly rules?: ColumnRules;
  /** The plan's own words where a cell is not what its type, its choices or its reference allow. */
  readonly say?: string;
  /** What its type, its choices or its reference do not allow is written as it is, and told. */
  readonly warns?: true;
  /** A Common Expression Language expression that gives the value: it is not edited itself. */
  readonly compute?: string;
  /** What is taken out of text that somebody writes. */
  readonly clean?: readonly Cleaning[];
  /** A cell may hold a unique beginning or part of a word, a code or a label. */
  readonly inPart?: true;
  /** The value is the key of a record of this table. */
  readonly refers?: string;
  /** A Common Expression Language expression over the record referred to that must be true. */
  readonly only?: string;
  /** The label beside the code is a copy, and follows when that of the record changes. */
  readonly copied?: boolean;
  /** Not shown in the sheet: what stands instead of a list that is. */
  readonly hidden?: boolean;
  /** Title of the code that this label stands beside. */
  readonly labelOf?: string;
  /** Where the plan's text says so. */
  readonly place?: Place;
}

/**
 * A column of a sheet that shows what is not in the record's own fields: a list inside the record, packed in
 * one cell or one item of it, or the label of a record that a code refers to.
 */
export interface InlineColumnPlan {
  readonly title: string;
  /** Name of the table of the list's records, or of the one referred to, and title of the column in it. */
  readonly table: string;
  readonly column: string;
  readonly separator?: string;
  readonly pair?: string;
  /** Place of the item that is shown, from 0, where the list is spread over columns. */
  readonly item?: number;
  /** Title of the list of the table referred to that has the same links from the other side. */
  readonly mirror?: string;
  /** A place that is cleared stays, blank, as long as one behind it is filled. */
  readonly gapsStay?: boolean;
  /** Title of the code whose label this is. */
  readonly lookup?: string;
  /** The records of `table` are links to these: the column shows the other ends. */
  readonly through?: true;
}

/** The column shows what other records say: it follows when they change, and holds no list of the record's own. */
export function isFollowing({ lookup, through }: InlineColumnPlan): boolean {
  return lookup !== undefined || through === true;
}

/** Records hold their own kind at a path; or a column of theirs has the code of the one above, their way from the top, or how deep they are. */
export type TreePlan =
  | { readonly kind: "nested"; readonly at: Path }
  | { readonly kind: "parent" | "depth"; readonly column: string }
  | { readonly kind: "path"; readonly column: string; readonly separator: string };

export interface TablePlan {
  readonly name: string;
  readonly rows: Path;
  /** Name of the table that holds these records. */
  readonly inside?: string;
  /** What the records are, for those who edit. */
  readonly note?: string;
  /** Name of the source that the records are in, where the plan has several. */
  readonly from?: string;
  /** Title of the column that people know a record by; unique. */
  readonly key?: string;
  /** Title of the column that people call a record by, where others refer to it. */
  readonly label?: string;
  /** Titles of the columns by which rows without a mark are matched. */
  readonly match?: readonly string[];
  /** Titles of columns that no two records may have the same in, all of a list taken together. */
  readonly unique?: readonly Rule<readonly string[]>[];
  /** The records stand in their lists as their rows do in the sheet. */
  readonly order?: "sheet";
  /** Common Expression Language expressions over a record, what it is in, and what is in it. */
  readonly checks?: readonly Rule<string>[];
  /** How cells of new rows are filled, by title: `P-{0000}`, `uuid`, or an expression. */
  readonly fresh?: ReadonlyMap<string, string>;
  readonly columns: readonly ColumnPlan[];
  /** The sheet that the rows of a new document come from, when it is not `<table>.csv` with the plan's titles. */
  readonly sheet?: {
    readonly file?: string;
    readonly header?: number;
    readonly titles?: ReadonlyMap<string, string>;
    readonly place?: Place;
  };
  /** Columns of lists that are shown in this table's sheet. */
  readonly inline: readonly InlineColumnPlan[];
  /** Columns of the sheet in order: places in `columns`, and behind them those in `inline`. */
  readonly shown: readonly number[];
  /** The records have no sheet of their own: they are shown in that of this table. */
  readonly host?: string;
  /** The records have rows in the sheet of the table around them: beneath its own, or with its cells repeated. */
  readonly stacked?: "beneath" | "repeat";
  /** The records make a tree. */
  readonly tree?: TreePlan;
  /** Name of the layout by which its records stand in a sheet, when that is not each in a row of its own. */
  readonly arrangement?: string;
  /** Titles of the columns that a record without a key is called by, where a layout says so. */
  readonly calledBy?: readonly string[];
  /** What the words of layouts say that only these read. */
  readonly layout?: Readonly<Record<string, unknown>>;
  /** Where the plan's text says so. */
  readonly place?: Place;
}

export interface SourcePlan {
  readonly name: string;
  /** A file, a folder, an archive or a pattern of names; several where the source is a set. */
  readonly file: string | readonly string[];
  readonly format?: string;
  readonly encoding?: string;
  /** Path of a schema of the owner's, from the plan. */
  readonly schema?: string;
  /** The format's own words; those it guesses when none are said. */
  readonly settings?: Settings;
}

export interface Plan {
  readonly sources: readonly SourcePlan[];
  readonly tables: readonly TablePlan[];
  /** The text the plan was read from, or was written as. */
  readonly text: string;
}

export const MARK_TITLE = "fold mark";
export const ACTION_TITLE = "fold action";
/** In front of rows that were refused: why. */
export const PROBLEM_TITLE = "fold problem";
/** Told of records that go to another place in their list. */
export const PLACE_TITLE = "place in the list";
/** Of a tree: the record above, how deep the record is (from 1), and the way to it from the top. */
export const UPPER_TITLE = "parent";
export const DEPTH_TITLE = "depth";
export const PATH_TITLE = "path";
/** What a tree's sheet shows besides the columns; what the source keeps itself is one of those. */
export function shownOfTree(tree: TreePlan): readonly (typeof UPPER_TITLE | typeof DEPTH_TITLE | typeof PATH_TITLE)[] {
  if (tree.kind === "parent") return [DEPTH_TITLE, PATH_TITLE];
  if (tree.kind === "path") return [UPPER_TITLE, DEPTH_TITLE];
  return tree.kind === "depth" ? [UPPER_TITLE, PATH_TITLE] : [UPPER_TITLE, DEPTH_TITLE, PATH_TITLE];
}

/** Where there are several files: the one that holds the record. */
export const FILE_TITLE = "in file";
/** What the entry of a source in a plan says of its format. */
export type Settings = Readonly<Record<string, unknown>>;

/** Can the order of the table's records be edited: are they rows in lists, each by itself? */
export function canOrder({ tree, arrangement, host, columns }: TablePlan): boolean {
  const isApart = arrangement === undefined || arrangement === "stack";
  return tree === undefined && isApart && host === undefined && !columns.some(({ fillDown }) => fillDown === true);
}
