/** Rows that a fold refused, as tables on disk that can be corrected and folded again. */
import { basename } from "node:path";
import type { Problem } from "../model/findings.js";
import { containerOf } from "../sheets/index.js";
import type { FolderComparison } from "./compare-folder.js";
import { fromTables, tablesInto } from "./hatch-into.js";
import { SameFiles } from "./same-files.js";
import { openHatched } from "./sources.js";
import { openTables } from "./tables-at.js";

/** Rows that wait to be written until the fold is done. */
export interface WaitingRows {
  readonly count: number;
  /** Writes them as tables of `result`, the file that was folded into. Returns the files written. */
  write(result: string): Promise<string[]>;
}

export interface RefusedInto {
  /** The folder or workbook with the edited tables. */
  readonly tables: string;
  /** The source that they were compared with. */
  readonly source: string;
  /** The folder or workbook for the refused rows. */
  readonly into: string;
  /** Replace files that are there, whoever made them. */
  readonly replace?: boolean;
  /** What is said of a problem. */
  readonly words?: (problem: Problem) => string;
}

/** Gathers the rows that a fold with `partial` leaves out; to be called before it. */
export async function refusedInto(
  comparison: FolderComparison,
  { tables, source, into, replace = false, words }: RefusedInto,
): Promise<WaitingRows> {
  const same = new SameFiles();
  for (const path of comparison.seen.keys()) await same.add("the source", path);
  await same.add("the edited tables", tables);
  await same.refuse("the tables of refused rows", into);
  const opened = await openHatched(source, comparison.receipt, basename(source));
  const at = await openTables(tables);
  try {
    const { gatherRefused } = await import("../fold/refused.js");
    const rows = await gatherRefused(containerOf(at.tables), opened.sources, comparison, words);
    return {
      count: rows.count,
      async write(result) {
        const folded = await openHatched(result, comparison.receipt, basename(result));
        try {
          const guard = new SameFiles();
          await guard.add("the folded source", result);
          const write = async (out: Parameters<typeof rows.write>[1]): Promise<object> =>
            rows.write(folded.sources, out, fromTables(into, result));
          return (await tablesInto(into, { same: guard, replace }, write)).written;
        } finally {
          await folded.close();
        }
      },
    };
  } finally {
    await at.close();
    await opened.close();
  }
}
