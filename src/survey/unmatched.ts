/** Paths of a plan that match nothing: a slip where a name is nearly right, else worth a note. */
import { PlanError, phrase, type Place } from "../errors/error.js";
import { distance } from "fastest-levenshtein";
import { kindPath, type RecordKind } from "./kinds.js";
import { formatPath } from "../model/path.js";
import type { ColumnPlan, TablePlan } from "../model/plan.js";

export interface Unmatched {
  readonly table: TablePlan;
  /** `null` when the table found no record at all. */
  readonly column: ColumnPlan | null;
  /** What people know the table by: its name, or the titles of the columns that show it. */
  readonly name: string;
}

/**
 * Notes on paths without a value.
 *
 * @throws PlanError for the first path that differs little from one that the source has and the plan does not use
 */
export function explainUnmatched(unmatched: readonly Unmatched[], kinds: readonly RecordKind[]): string[] {
  return unmatched.map(({ table, column, name }) => {
    const at = formatPath(column?.at ?? table.rows);
    const used = new Set(table.columns.map((one) => formatPath(one.at)));
    const kind = kinds.find((one) => kindPath(one) === formatPath(table.rows));
    const known = column === null ? kinds.map(kindPath) : (kind?.fields ?? []).map((field) => formatPath(field.at));
    const near = known.find((path) => !used.has(path) && misspells(at, path)) ?? null;
    const facts = { table: name, column: column?.title ?? "", at, nearest: near };
    const place: Place = (column ?? table).place ?? {};
    if (near !== null) throw new PlanError("plan-unmatched", facts, place);
    return phrase("plan-unmatched", facts).message;
  });
}

/** The same path but for a slip in one of its names: most of the name is right, and neither is the step `*`. */
function misspells(path: string, right: string): boolean {
  const [names, rights] = [path.split("/"), right.split("/")];
  if (names.length !== rights.length) return false;
  const wrong = [...names.keys()].filter((i) => names[i] !== rights[i]);
  if (wrong.length !== 1) return false;
  const [name, meant] = [names[wrong[0]].toLowerCase(), rights[wrong[0]].toLowerCase()];
  const length = Math.max(name.length, meant.length);
  const slips = distance(name, meant);
  // names that are numbered are others, not slips: K-1 and K-2
  if (name.replace(/\D+/g, " ") !== meant.replace(/\D+/g, " ")) return false;
  return name !== "*" && meant !== "*" && slips <= (length > 5 ? 2 : 1) && slips * 2 < length;
}
