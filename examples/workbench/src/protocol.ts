/** What the page asks of the worker, and what it gets. All plain data, so it can be posted. */
import type { Compared, Shape } from "hatch-fold";

/** A file with its name: what was dropped, and what is taken back. */
export interface Named {
  readonly name: string;
  readonly bytes: Blob;
}

export interface Sheet {
  readonly file: string;
  readonly name: string;
  readonly titles: readonly string[];
  readonly rows: readonly (readonly string[])[];
  /** Titles of columns that may not be edited. */
  readonly fixed: readonly string[];
}

export interface Opened {
  readonly shape: Shape;
  readonly sheets: readonly Sheet[];
  readonly notes: readonly string[];
}

export type Request =
  | { readonly id: number; readonly verb: "open"; readonly files: readonly Named[] }
  | { readonly id: number; readonly verb: "compare"; readonly sheets: readonly Sheet[] }
  | { readonly id: number; readonly verb: "fold" };

export interface Answers {
  open: Opened;
  compare: Compared;
  fold: readonly Named[];
}

export type Response = { readonly id: number } & ({ readonly ok: unknown } | { readonly error: string; readonly hint: string });
