/**
 * Totals after a fold: the folded source is read once more, before it is written, and totals that no
 * longer fit the records they close are written anew. One that was wrong before, and whose records
 * did not change, stays as it is.
 */
import type { ByteSource } from "../bytes/source.js";
import { encode } from "../bytes/writer.js";
import type { Change } from "../model/findings.js";
import { phrase } from "../errors/error.js";
import { cutsBetween } from "./cuts.js";
import { UntouchedRuns } from "./untouched.js";
import type { Dialect, RecordStarts, WrongTotal } from "../formats/format.js";
import type { TablePlan } from "../model/plan.js";
import { formatPath, type Step } from "../model/path.js";
import type { Splice } from "../edits/splice.js";
import { spliced } from "./spliced.js";

/** A total that cannot be written where it stands. */
export interface UnfitTotal {
  readonly change: Change;
  readonly why: string;
}

interface Corrected {
  readonly splices: Splice[];
  readonly changes: Change[];
  readonly unfit: readonly UnfitTotal[];
}

/** A text, and where its records at the top begin, where that is known. */
export interface TotalledText {
  readonly text: ByteSource;
  readonly starts: RecordStarts | null;
}

export async function correctTotals(
  { text, starts }: TotalledText,
  splices: readonly Splice[],
  dialect: Dialect,
  tables: readonly TablePlan[],
  before: readonly WrongTotal[],
): Promise<Corrected> {
  if (dialect.wrongTotals === undefined || splices.length === 0) return { splices: [], changes: [], unfit: [] };
  // what is not edited adds up to what it did
  const runs = starts?.haveTotals === true ? new UntouchedRuns(cutsBetween(starts), text.size, splices) : null;
  const edited = spliced(text, splices);
  const wrongBefore = new Map<string, number>();
  for (const total of before)
    if (runs?.hold(total.start) !== true) wrongBefore.set(signature(total), (wrongBefore.get(signature(total)) ?? 0) + 1);
  const corrections: Splice[] = [];
  const changes: Change[] = [];
  const unfit: UnfitTotal[] = [];
  for (const found of await dialect.wrongTotals(runs?.leftOutOfEdited(edited) ?? edited)) {
    const total = runs?.placed(found) ?? found;
    const known = wrongBefore.get(signature(total)) ?? 0;
    if (known > 0) {
      wrongBefore.set(signature(total), known - 1);
      continue;
    }
    const written = total.written();
    if (typeof written !== "string") {
      unfit.push({ change: changeOf(total, tables), why: phrase(written.code, written.facts).message });
      continue;
    }
    corrections.push({ start: total.start, end: total.end, pieces: [encode(written)] });
    changes.push(changeOf(total, tables));
  }
  return { splices: corrections, changes, unfit };
}

function signature({ path, said, actual }: WrongTotal): string {
  return JSON.stringify([path, said, actual]);
}

function changeOf({ path, said, actual, line }: WrongTotal, tables: readonly TablePlan[]): Change {
  const steps = path.map((name): Step => ({ kind: "name", name }));
  const whole = formatPath({ steps, end: "value" });
  for (const table of tables) {
    for (const column of table.columns) {
      if (formatPath({ steps: [...table.rows.steps, ...column.at.steps], end: "value" }) === whole) return made(table.name, column.title);
    }
  }
  return made(path.slice(0, -1).join("/"), path[path.length - 1]);

  function made(table: string, column: string): Change {
    return { kind: "changed", table, row: 0, record: `line ${line}`, column, old: said, new: actual, path: `/${path.join("/")}` };
  }
}
