/**
 * What formats made of lines have in common: record kinds, which is inside which, and fields that are
 * runs of a line. A format says where a line ends, which kind it is of, and where its fields stand.
 */
import type { SpellFault } from "../format.js";
import type { CheckDigit } from "./check-digits.js";

/** What follows from other records or fields: it is checked when the file is read, and written anew by a fold. */
export interface Total {
  /** Counts and sums that are added up. */
  readonly terms: readonly Term[];
  /** Only what is left of a division by it; `null` for all. */
  readonly modulo: number | null;
  /** How many groups of so many, begun ones too; `null` for the total itself. */
  readonly per: number | null;
  /** The number of the record among those of its kind in the record around, or of its line in the file. */
  readonly number?: "number" | "line";
  /** A check digit of another field of the record. */
  /** What a field of the record around says, which it repeats. */
  readonly copy?: { readonly kind: string; readonly field: string };
  readonly digit?: { readonly of: string; readonly by: CheckDigit };
}

export interface Term {
  readonly minus: boolean;
  /** Kind whose records are counted, or whose field is summed; `null` for lines of all kinds. */
  readonly kind: string | null;
  /** `null` counts the records. */
  readonly field: string | null;
  /** Only records with one of these texts in each of these fields. */
  readonly when: readonly { readonly field: string; readonly values: readonly string[] }[];
}

export interface LineField {
  readonly name: string;
  readonly total?: Total;
  /** It belongs to a group that stands several times in the line: to which of these, from 0, and what it is called in it. */
  readonly group?: { readonly name: string; readonly nth: number; readonly field: string };
}

/** A group of fields that stands several times in a line. */
export interface LineGroup {
  readonly name: string;
  /** What its fields are called. */
  readonly names: readonly string[];
  /** Where the fields of each are among those of the kind. */
  readonly places: readonly (readonly number[])[];
}

export interface LineKind {
  /** Without any text in its fields a line is no record of this kind. */
  readonly needsText: boolean;
  /** Empty when the file is one list of records of this one kind. */
  readonly name: string;
  /** Place of the kind around it among the kinds; -1 at the top. */
  readonly inside: number;
  /** A record of this kind ends the record around it. */
  readonly closes: boolean;
  /** There is one of it at most in the record around. */
  readonly once?: boolean;
  /** It is the first or the last line of the file, whatever it says. */
  readonly line?: "first" | "last" | null;
  readonly fields: readonly LineField[];
}

/** Spans of the fields of one line, in the window; -1 where a line is too short to have the field. */
export class FieldSpans {
  /** The line holds nothing but ASCII. */
  ascii = false;
  /** What an edit of the field replaces. */
  readonly starts: number[] = [];
  readonly ends: number[] = [];
  /** The text in it. */
  readonly textStarts: number[] = [];
  readonly textEnds: number[] = [];
  /** The text's bytes stand for themselves. */
  readonly plain: boolean[] = [];
  /** What stands in the line and is no field: where it begins and ends; -1 where nothing does. */
  overStart = -1;
  overEnd = -1;
  /** Where each field is a line of its own, these lines in order: a field may have several. */
  readonly lines: FieldLine[] = [];

  set(field: number, start: number, end: number, textStart = start, textEnd = end, plain = true): void {
    this.starts[field] = start;
    this.ends[field] = end;
    this.textStarts[field] = textStart;
    this.textEnds[field] = textEnd;
    this.plain[field] = plain;
  }
}

/** A line that is a field: its span with its line end, and those of its value. */
export interface FieldLine {
  readonly field: number;
  readonly start: number;
  next: number;
  readonly from: number;
  to: number;
  readonly textFrom: number;
  textTo: number;
  plain: boolean;
}

/** A value of a new line. */
export interface FieldValue {
  readonly name: string;
  readonly text: string;
}

/** One source's way with lines. */
export interface LineGrammar {
  readonly kinds: readonly LineKind[];
  /** What a line is that has nothing in its fields and is a record all the same. */
  readonly blankLine?: string;
  /** Records follow each other without line ends. */
  readonly unbroken: boolean;
  /** A blank line stands between records. */
  readonly gap: boolean;
  /** Several records may stand in one line of the file. */
  readonly sharesLines?: boolean;
  /** Names that are new to it are fields from then on. */
  readonly learns?: true;
  /** A line can only be told apart when it is known whether another one follows. */
  readonly lookAhead: boolean;
  /**
   * Finds the end of the line that begins at `from`: sets `end` (line end not included) and returns where
   * the next line begins, or -1 when the line is not complete in `[from, limit)`.
   */
  next(buf: Uint8Array, from: number, limit: number, final: boolean): number;
  readonly end: number;
  /** The line that was found last is broken: a quote in it is never closed. */
  readonly broken?: boolean;
  /** The kind of a line, or -1 for one that holds no record: a comment, a blank line, what fits nowhere. */
  kindOf(buf: Uint8Array, start: number, end: number, line: number, last: boolean): number;
  /** By kind, where some are told by the same signs of a line: those, itself included. */
  readonly alike?: readonly (readonly number[])[];
  split(kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void;
  /** The field holds nothing. */
  isEmpty(kind: number, field: number, buf: Uint8Array, spans: FieldSpans): boolean;
  /** What stands in a field of a group that is blank: nothing, unless said. */
  nothing?(kind: number, field: number): string;
  /** A line without a record that is worth telling of. */
  isStray(buf: Uint8Array, start: number, end: number, line: number): boolean;
  /** Line ends may stand within a line: in quotes, escaped, or where it is folded. */
  readonly breaks?: boolean;
  /** Its lines may be folded: line ends in what is written are those of the file. */
  readonly folds?: true;
  /** What ends a line beside a line end, which need not be there then. */
  readonly terminator?: string;
  /** How many lines a file is filled up to a multiple of, with lines of one character. */
  readonly fill?: { readonly with: string; readonly to: number };
  /** Is it such a line? */
  isFiller?(buf: Uint8Array, start: number, end: number): boolean;
  /** The text of a field as a person reads it. */
  decode(text: string, kind: number, field: number): string;
  /** The bytes of a field, or why the text cannot stand in it. `old` is what stands there. */
  encode(text: string, kind: number, field: number, old: string | null): string | SpellFault;
  /** The text as it is read when it was written in the field; the same, unless said. */
  readsAs?(text: string, kind: number, field: number): string;
  /** Does what stands in the field show how the file writes the values there? So it does, unless said. */
  isTelling?(kind: number, field: number, raw: string): boolean;
  /** A new line, its line end not included. `model` is a line of the same kind. */
  write(kind: number, values: readonly FieldValue[], model: string | null): string;
  /** The line with fields added that it was too short for. */
  extend(kind: number, line: string, values: readonly FieldValue[]): string;
  /** Some fields of the kind stand in the same columns, or may tell that a line is of another kind. */
  dependent(kind: number): boolean;
  /** Do fields stand in the same columns? Any may, unless said. */
  share?(kind: number, one: string, other: string): boolean;
  /** What stands in columns of a line that no field names. */
  unnamed?(kind: number, line: string): readonly { readonly columns: string; readonly text: string }[];
  /** Blanks that a record lacks where records follow each other without line ends. */
  missing?(record: string): string;
  /** Does the field tell what kind a line is? Any may, unless said. */
  tellsKind?(kind: number, name: string): boolean;
  /** Forgets what was learnt from one file. */
  reset(): void;
}

export const CUT = -1;
export const LF = 0x0a;
export const CR = 0x0d;

/** Ends of lines: LF, CR LF, or CR alone. Returns where the next line begins, or CUT. */
export function lineEnd(buf: Uint8Array, from: number, limit: number, final: boolean): { end: number; next: number } {
  let i = from;
  while (i < limit && buf[i] !== LF && buf[i] !== CR) i++;
  if (i >= limit) return { end: limit, next: final ? limit : CUT };
  if (buf[i] === LF) return { end: i, next: i + 1 };
  if (i + 1 >= limit && !final) return { end: i, next: CUT };
  return { end: i, next: i + 1 < limit && buf[i + 1] === LF ? i + 2 : i + 1 };
}
