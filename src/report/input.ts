/** What a report is made from. */
import type { Counts, Change, Healed, Problem, Note } from "../model/findings.js";
import type { Follow } from "../relations/follows.js";

/** What a report is made from. */
export interface ReportInput {
  readonly source: string;
  readonly tables: string;
  readonly counts: Counts;
  readonly changes: readonly Change[];
  readonly healed: readonly Healed[];
  readonly problems: readonly Problem[];
  readonly warnings: readonly Problem[];
  readonly notes: readonly Note[];
  readonly follows: readonly Follow[];
  /** Source and result, parsed; asked for by `patch` only. */
  readonly documents?: () => Promise<{ before: unknown; after: unknown }>;
}
