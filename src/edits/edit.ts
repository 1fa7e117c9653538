/**
 * Edits, as a format's renderer gets them: plain data against the source, in source offsets.
 *
 * The renderer turns them into splices. What is not in an edit stays as the source has it.
 */
import type { ForeignPiece, OwnPiece } from "./splice.js";
import type { Step } from "../model/path.js";
import type { Kind } from "../model/kind.js";

/** A value to be written. `text` is the text of a text, the spelling of a number, or the source text of a record or list. */
export interface NewValue {
  readonly kind: Kind;
  readonly text: string;
}

/** A half-open run of source bytes. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** Replaces one value by another. */
export interface SetEdit extends Span {
  readonly kind: "set";
  readonly value: NewValue;
  readonly was: Kind;
  /** Steps from the top of the source. */
  readonly path: readonly Step[];
}

/** Renames a member; the span is that of its name, quotes included. */
export interface RenameEdit extends Span {
  readonly kind: "rename";
  readonly name: string;
}

/** Adds members to a record and takes members out of it; the span is that of the record. */
export interface FieldsEdit extends Span {
  readonly kind: "fields";
  /** Steps from the top of the source to the record. */
  readonly path: readonly Step[];
  readonly add: readonly { readonly steps: readonly Step[]; readonly value: NewValue }[];
  readonly drop: readonly (readonly Step[])[];
  /** Paths of the table's columns in order: where a new member stands among the others. */
  readonly order: readonly (readonly Step[])[];
  /** A record of the same table, as a model of how its parts are written. */
  readonly model: Span | null;
}

/** Takes a record out; the span is that of the item, or of name and value of a keyed member. */
export interface RemoveEdit extends Span {
  readonly kind: "remove";
  /** Steps from the top of the source to the records. */
  readonly path: readonly Step[];
}

/** A record to be put in. */
export interface NewRecord {
  /** Name of the member, for keyed records. */
  readonly name: string | null;
  /** The value itself, for lists of plain values. */
  readonly self: NewValue | null;
  readonly fields: readonly { readonly steps: readonly Step[]; readonly value: NewValue }[];
  readonly inner: readonly { readonly steps: readonly Step[]; readonly records: readonly (NewRecord | MovedRecord)[] }[];
}

/** A record that is taken from elsewhere in the source, with the edits inside it. */
export interface MovedRecord extends Span {
  readonly moved: true;
  /** The record itself, when it is in another file. */
  readonly foreign?: ForeignPiece;
}

/** What a renderer puts where a record moves to. */
export function movedPiece({ start, end, foreign }: MovedRecord): OwnPiece | ForeignPiece {
  return foreign ?? { start, end, splices: [] };
}

/** Records of this file that are moved within it. */
export function movedIn(records: readonly (NewRecord | MovedRecord)[]): Span[] {
  return records.flatMap((record) => {
    if ("moved" in record) return record.foreign === undefined ? [record] : [];
    return record.inner.flatMap((inner) => movedIn(inner.records));
  });
}

/** Adds records to the list or keyed record that is reached by `steps` from the record at `at`. */
export interface AddEdit {
  readonly kind: "add";
  /** Start of the record around them; the start of the file when there is none. */
  readonly at: number;
  /** There is no record around them, or it is the whole document: the steps begin at the top. */
  readonly atTop: boolean;
  readonly steps: readonly Step[];
  /** Steps from the top of the source to the records. */
  readonly path: readonly Step[];
  /** A record that stays, and whether the new ones go before it or behind it; behind the last one, unless said. */
  readonly beside?: { readonly at: number; readonly before: boolean };
  readonly records: readonly (NewRecord | MovedRecord)[];
  /** A record of the same table, as a model of how one is written. */
  readonly model: Span | null;
  readonly order: readonly (readonly Step[])[];
}

export type Edit = SetEdit | RenameEdit | FieldsEdit | RemoveEdit | AddEdit;
