/** What a comparison is asked, and what it finds. */
import type { OptionNames } from "../errors/options.js";
import type { Watch } from "../source/watch.js";
import type { Plan } from "../model/plan.js";
import type { SourcesInput } from "../source/files.js";
import type { WritingStyle } from "../formats/format.js";
import type { Splice } from "../edits/splice.js";
import type { UnfitTotal } from "../source/totals.js";
import type { Encoding } from "../bytes/encoding.js";
import type { ByteSource } from "../bytes/source.js";
import type { GivenLists } from "../layouts/layout.js";
import type { Note, Healed, Counts, Change, Problem } from "../model/findings.js";
import type { SourceText } from "../source/parts.js";
import type { Receipt } from "../sheets/receipt.js";
import type { CompiledPlan } from "../plan/compile.js";
import type { RecordReader } from "../records/reader.js";
import type { Baseline } from "../rows/baseline.js";
import type { Expected } from "./expected.js";
import type { Context } from "../rows/context.js";
import type { Follow } from "../relations/follows.js";
import type { RowEdits } from "../rows/row-edits.js";

export const ALLOWED: readonly Allowed[] = ["change", "add", "move", "remove"];
export type Allowed = "change" | "add" | "move" | "remove";
export interface CompareOptions extends GivenLists, Watch {
  /** What to do with a second row that has the mark of another: refuse it, or take it as a new record. */
  readonly copies?: "refuse" | "new";
  /** What a fold may do; everything, unless said. What it may not is left aside and noted. */
  readonly allow?: readonly Allowed[];
  /** What to do with records whose rows are missing from a table: leave them alone, or remove them. */
  readonly absent?: "leave" | "remove";
  /** Titles, or `table.title`, of columns in which nothing is healed. */
  readonly noHeal?: readonly string[];
  /** Find the places of added rows, too: one more pass over the source when there are any. */
  readonly paths?: boolean;
  /** The source holds nothing: all rows are new. */
  readonly fresh?: boolean;
  /** Problems that were found before: no note says them again. */
  readonly known?: readonly Problem[];
  /** Take warnings of the plan's rules for problems. */
  readonly strict?: boolean;
  /** Leave out what only the proof of a fold asks for: faster, and a fold of this comparison is not proved. */
  readonly unproved?: boolean;
}

export interface CompareInput extends CompareOptions {
  /** The source that was hatched. */
  readonly source: SourcesInput;
  /** The plan; the one in the receipt when not given. */
  readonly plan?: string | Plan;
  /** The source's name, for messages. */
  readonly name?: string;
}

export const COMPARE_OPTIONS: OptionNames<CompareInput> = {
  source: true,
  plan: true,
  name: true,
  copies: true,
  allow: true,
  absent: true,
  noHeal: true,
  paths: true,
  append: true,
  replace: true,
  fresh: true,
  known: true,
  strict: true,
  unproved: true,
  progress: true,
  signal: true,
};

/** What a comparison tells. */
export interface Compared {
  readonly counts: Counts;
  readonly changes: readonly Change[];
  readonly healed: readonly Healed[];
  readonly problems: readonly Problem[];
  /** What rules of the plan say that stop nothing. */
  readonly warnings: readonly Problem[];
  readonly notes: readonly Note[];
  /** Cells that show links from another side (`through:` in a plan), and follow the changes of the links. */
  readonly follows: readonly Follow[];
}

/** That part of a comparison: for a caller who has no use for the rest. */
export function comparedIn({ counts, changes, healed, problems, warnings, notes, follows }: Compared): Compared {
  return { counts, changes, healed, problems, warnings, notes, follows };
}

/** Everything a fold needs, and everything a report shows. */
export interface Comparison extends Compared {
  /**
   * Edits of the source, by the row they come from; rows with problems give none.
   *
   * @internal
   */
  readonly edits: readonly RowEdits[];
  /** Rows that were left out of `edits` because of a problem, their own or their parent's. */
  readonly aside: readonly { readonly table: string; readonly row: number }[];
  /**
   * Splices of the folded files: totals that the edits made wrong.
   *
   * @internal
   */
  readonly corrections: readonly (readonly Splice[])[];
  /**
   * Totals that would not fit where they stand.
   *
   * @internal
   */
  readonly unfit: readonly UnfitTotal[];
  /** The zip archive that the files are in. */
  readonly archive: ByteSource | null;
  /**
   * The files.
   *
   * @internal
   */
  readonly parts: readonly SourceText[];
  /**
   * How each file writes things.
   *
   * @internal
   */
  readonly styles: readonly WritingStyle[];
  readonly receipt: Receipt;
  /**
   * What the folded files are to say; not to be asked when the comparison is `unproved`.
   *
   * @internal
   */
  expectation(): Promise<Expectation>;
  /**
   * What a proof needs was left out.
   *
   * @internal
   */
  readonly unproved: boolean;
  /**
   * The rows of a table whose records go away, with their own or with a record around them.
   *
   * @internal
   */
  goneRows(table: string): ReadonlySet<number>;
  /**
   * The plan, and the source as it was read for the comparison: to be asked while it is there.
   *
   * @internal
   */
  readonly inner: Pick<Context, "plan" | "compiled" | "records" | "sheets">;
  /**
   * Sheets that came back in another encoding than UTF-8, by name.
   *
   * @internal
   */
  readonly encodings: ReadonlyMap<string, Encoding>;
  /**
   * The same with only some of the rows: what depends on the others is left out, too.
   *
   * @internal
   */
  only(wanted: (row: SheetRowName) => boolean): Promise<Omit<Comparison, "only">>;
}

/** What a proof compares the folded files with, and what it reads the source with. */
export interface Expectation {
  readonly compiled: CompiledPlan;
  readonly base: Baseline;
  readonly records: RecordReader;
  readonly recordStarts: Context["recordStarts"];
  readonly expected: Expected;
}

/** A row as the analyst sees it: the table's name, and the row's number in its sheet (header = 1). */
export interface SheetRowName {
  readonly table: string;
  readonly row: number;
}
