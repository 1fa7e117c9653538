/** What every step of a comparison may ask. */
import type { Encoding } from "../bytes/encoding.js";
import type { Plan } from "../model/plan.js";
import type { Problem } from "../model/findings.js";
import type { ProblemList } from "../model/problem-list.js";
import type { CompiledPlan } from "../plan/compile.js";
import type { RecordReader } from "../records/reader.js";
import type { WritingStyle, RecordStarts, WrongTotal } from "../formats/format.js";
import type { SourceText } from "../source/parts.js";
import type { Baseline } from "./baseline.js";
import type { CellTyper } from "./cell-value.js";
import type { Pointers } from "./pointers.js";
import type { Sheet } from "./sheet.js";

export interface Context {
  readonly plan: Plan;
  readonly compiled: CompiledPlan;
  /** The files of the source. */
  readonly parts: readonly SourceText[];
  /** How each of them is written. */
  readonly styles: readonly WritingStyle[];
  /** By file: totals that are wrong, where they were checked when it was read. */
  /** By file: where records at the top begin, where they do not depend on each other. */
  readonly recordStarts: readonly (RecordStarts | null)[];
  readonly wrongTotals: readonly (readonly WrongTotal[] | null)[];
  /** The source, to be read again. */
  readonly records: RecordReader;
  /** By table: its sheet, or `null` where there is none. */
  readonly sheets: readonly (Sheet | null)[];
  /** What the sheet of each table is called, by the table's name. */
  readonly sheetNames: ReadonlyMap<string, string>;
  /** The source as it was hatched, joined to the rows of the sheets. */
  readonly base: Baseline;
  readonly findings: ProblemList;
  readonly typer: CellTyper;
  readonly pointers: Pointers;
  /** Titles, or `table.title`, of columns in which nothing is healed. */
  readonly noHeal: readonly string[];
  /** Sheets that came back in another encoding than UTF-8, by name. */
  readonly encodings: ReadonlyMap<string, Encoding>;
  /** Problems that were found before: no note says them again. */
  readonly known: readonly Problem[];
  /** Something that this hatch has and no other one: UUIDs are made from it, so that compare and fold give the same. */
  readonly seed: string;
}
