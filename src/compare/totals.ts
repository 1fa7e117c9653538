/** Totals that the edits make wrong, and those that were wrong before. */
import { phrase } from "../errors/error.js";
import { pushAll } from "../bytes/lists.js";
import type { Splice } from "../edits/splice.js";
import type { Comparison } from "./comparison.js";
import type { Change, Note } from "../model/findings.js";
import { correctTotals, type UnfitTotal } from "../source/totals.js";
import { planSplices } from "../source/splices.js";
import { sourceIndex } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Plan, TablePlan } from "../model/plan.js";

type Totalled = Pick<Comparison, "parts" | "styles" | "edits" | "changes" | "notes" | "corrections" | "unfit">;

/** Adds what the edits do to totals, and says which were wrong before. */
export async function addTotals<T extends Totalled>(
  comparison: T,
  { plan, wrongTotals, recordStarts }: Pick<Context, "plan" | "wrongTotals" | "recordStarts">,
): Promise<T> {
  const { parts, edits, changes, notes } = comparison;
  if (parts.every(({ dialect }) => dialect.wrongTotals === undefined)) return { ...comparison, corrections: parts.map(() => []) };
  const wrong: Note[] = [];
  const corrections: Splice[][] = [];
  const totals: Change[] = [];
  const unfit: UnfitTotal[] = [];
  const splices = edits.length === 0 ? [] : await planSplices(comparison);
  for (const { index, text, dialect, name, of } of parts) {
    const before = wrongTotals[index] ?? (await dialect.wrongTotals?.(text)) ?? [];
    for (const { path, line, said, actual } of before) {
      const field = path[path.length - 1];
      const where = parts.length > 1 ? `${name}, ${field}` : field;
      wrong.push({
        code: "total-wrong",
        table: path.slice(0, -1).join("/"),
        ...phrase("total-wrong", { field: where, line, said, actual }),
      });
    }
    const corrected =
      edits.length === 0
        ? { splices: [], changes: [], unfit: [] }
        : await correctTotals({ text, starts: recordStarts[index] }, splices[index], dialect, tablesOf(plan, of), before);
    corrections.push(corrected.splices);
    pushAll(totals, corrected.changes);
    pushAll(unfit, corrected.unfit);
  }
  const place = (change: Change): number => plan.tables.findIndex((table) => table.name === change.table);
  return {
    ...comparison,
    corrections,
    unfit,
    notes: [...notes, ...wrong],
    changes: [...changes, ...totals].sort((a, b) => place(a) - place(b)),
  };
}

function tablesOf(plan: Plan, of: number): readonly TablePlan[] {
  return plan.tables.filter((table) => sourceIndex(plan, table) === of);
}
