/**
 * The errors of the library: one base class with a literal `code`, a place and a hint.
 *
 * Facts are collected as data; only the files of `words` turn them into sentences.
 */
import { visible } from "./visible.js";
import { WORDS, type Code, type ErrorCode, type Facts } from "./words.js";

/** Where something is: all parts are optional, lines, columns and rows count from 1, bytes from 0. */
export interface Place {
  readonly file?: string;
  readonly line?: number;
  readonly column?: number;
  readonly byte?: number;
}

export function formatPlace(place: Place): string {
  const parts = [place.file ?? ""];
  if (place.line !== undefined) parts.push(String(place.line), String(place.column ?? 1));
  return visible(parts.filter((part) => part !== "").join(":"));
}

/** What an error, a problem or a note is about, by name: its sentence is made of these, and each code has names of its own. */
export type NamedFacts = Readonly<Record<string, unknown>>;

/**
 * Base of every error the library raises on purpose.
 *
 * `code` and `facts` are stable and can be tested; `message` and `hint` are for people and may be reworded.
 */
export class HatchFoldError<C extends ErrorCode = ErrorCode> extends Error {
  readonly code: C;
  readonly facts: NamedFacts;
  readonly hint: string;
  place: Place;
  /** The line in which it is, and under it a `^` at the place; where the source or the plan has such a line. */
  declare excerpt?: string;
  /** 1: the data has problems; 2: wrong call, unreadable file or wrong plan. */
  readonly status: 1 | 2 = 2;

  constructor(code: C, facts: Facts<C>, place: Place = {}) {
    const { message, hint } = phrase(code, facts);
    super(message);
    this.name = new.target.name;
    this.code = code;
    this.facts = facts as NamedFacts;
    this.hint = hint;
    this.place = place;
  }

  /** The error as people read it: place, message, the line with its place, hint. */
  override toString(): string {
    const where = formatPlace(this.place);
    // a message may begin with the file's name itself
    const shown = this.excerpt === undefined ? "" : `\n${this.excerpt.replace(/^/gm, "    ")}`;
    return `${where === "" || this.message.startsWith(where) ? "" : `${where}: `}${this.message}${shown}${this.hint === "" ? "" : `\n  ${this.hint}`}`;
  }
}

/** The source cannot be read as its format: broken syntax, wrong encoding, unreadable file. */
export class SourceError<C extends ErrorCode = ErrorCode> extends HatchFoldError<C> {}

/** The plan is not valid, or does not fit the source. */
export class PlanError<C extends ErrorCode = ErrorCode> extends HatchFoldError<C> {}

/** A schema cannot be read. */
export class SchemaError<C extends ErrorCode = ErrorCode> extends HatchFoldError<C> {}

/** The tables or their receipt are not what was hatched. */
export class TablesError<C extends ErrorCode = ErrorCode> extends HatchFoldError<C> {
  override readonly status = 1;
}

/** What a fold would have written is not what the sheets say: a fault of the program, and nothing was written. */
export class ProofError<C extends ErrorCode = ErrorCode> extends TablesError<C> {}

/** The call itself is wrong: an unknown option value, a missing file. */
export class CallError<C extends ErrorCode = ErrorCode> extends HatchFoldError<C> {}

/** Makes the sentence and the hint of an error's code from its facts. */
export function phrase<C extends ErrorCode>(code: C, facts: Facts<C>): Said {
  return sentence(WORDS[code] as Words<C>, facts);
}

/** What turns the facts of a code into a sentence, and a hint. */
export type Words<C extends Code> = (facts: Facts<C>) => readonly [string, string?];

/** A sentence for people, and what it was made of. */
export interface Said {
  readonly message: string;
  readonly hint: string;
  readonly facts: NamedFacts;
}

export function sentence<C extends Code>(words: Words<C>, facts: Facts<C>): Said {
  const [message, hint = ""] = words(facts);
  return { message: visible(message), hint: visible(hint), facts: facts as NamedFacts };
}
