/** What a comparison finds: changes, problems, notes. All plain data. */
import { TablesError, type NamedFacts } from "../errors/error.js";
import type { Code } from "../errors/words.js";

export interface Counts {
  /** Rows of the tables that are as they were hatched. */
  unchanged: number;
  /** Rows with at least one changed cell. */
  changed: number;
  added: number;
  removed: number;
  moved: number;
  /** Cells that a spreadsheet had damaged and that were taken back. */
  healed: number;
  problems: number;
  /** Cells and records of which a rule of the plan warns. */
  warnings: number;
}

/** One difference between the edited tables and the source. Cells are as the table spells them; blank is "". */
export interface Change {
  readonly kind: "changed" | "added" | "removed" | "moved";
  readonly table: string;
  /** Row number in the sheet, header = 1. */
  readonly row: number;
  /** The record's key, or its fold mark. */
  readonly record: string;
  /** Title; empty for a whole record. */
  readonly column: string;
  readonly old: string | null;
  readonly new: string | null;
  /** JSON Pointer (RFC 6901) of the value or record in the source; for an added record, of the list it goes to. */
  readonly path: string;
  /** The file, where there are several. */
  readonly source?: string;
  /** What the row of an added record calls itself for others: `+x`. */
  readonly name?: string;
  /** Cells of an added record. */
  readonly cells?: Readonly<Record<string, string>>;
  /** How many records go or move with a removed or moved record. */
  readonly holds?: number;
}

/** A cell that was healed. */
export interface Healed {
  readonly table: string;
  readonly row: number;
  readonly column: string;
  readonly found: string;
  readonly restored: string;
  readonly why: string;
}

export interface Problem {
  readonly code: Code;
  readonly table: string;
  readonly file: string;
  /** Row number in the sheet, header = 1; 0 when the whole table is meant. */
  readonly row: number;
  /** All rows that it is about, where they are several; `row` is the first. */
  readonly rows?: readonly number[];
  readonly column: string;
  readonly value: string;
  /** What the message is made of; each code has names of its own. */
  readonly facts: NamedFacts;
  readonly message: string;
  readonly hint: string;
  /** JSON Pointer in the source, when the row is known there. */
  readonly path?: string;
  /** Number of the line of the source, from 1, where the row is a line. */
  readonly line?: number;
}

/** Something worth knowing that stops nothing. */
export interface Note {
  readonly code: Code;
  readonly table: string;
  /** What the message is made of; each code has names of its own. */
  readonly facts: NamedFacts;
  readonly message: string;
}

export interface ProblemPlace {
  readonly table: string;
  readonly file: string;
  readonly row?: number;
  readonly rows?: readonly number[];
  readonly column?: string;
  readonly value?: string;
  readonly path?: string;
  /** The rows by the numbers that their sheet knows them by, where those are others. */
  readonly ids?: readonly number[];
}

/** The rows that a problem is about. */
export function rowsOf({ row, rows }: Pick<Problem, "row" | "rows">): readonly number[] {
  return rows ?? [row];
}

/** A message and a hint as one text. */
export function inWords(message: string, hint: string): string {
  return hint === "" ? message : `${message}${/[.!?]$/.test(message) ? "" : "."} ${hint}`;
}

/** The tables have problems, so nothing was folded: all of them, as a check tells them. */
export class ProblemsError extends TablesError<"problems-left"> {
  constructor(readonly problems: readonly Problem[]) {
    super("problems-left", { count: problems.length });
  }
}
