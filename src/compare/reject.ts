/** What depends on a row with a problem is left out with it, so that the rest can be folded. */
import { rowsOf } from "../model/findings.js";
import { sheetName, type CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../rows/row-edits.js";
import { findDependents } from "./dependents.js";

/** Is a row of a table's sheet to be folded? */
export type KeepRow = (table: string, row: number) => boolean;

/** Leaves out rows with problems, rows that are not to be kept, and all that depends on them. */
export function rejectDependents(draft: Draft, ctx: Context, keep: KeepRow = () => true): Draft {
  const { problems } = ctx.findings;
  const aside = new Map<string, { table: string; row: number }>();
  const put = (table: string, row: number): void => void aside.set(`${table}\n${row}`, { table, row });
  for (const problem of problems) for (const row of rowsOf(problem)) put(problem.table, row);
  // records that follow others make sense only with those
  const following = ctx.guide.tables.filter(({ plan: { tree } }) => tree?.kind === "way" || tree?.kind === "depth");
  const whole = new Set(following.filter(({ plan }) => problems.some(({ table }) => table === plan.name)));
  const rejected = new Set<DifferingRow | NewRow>();
  const reject = (row: DifferingRow | NewRow): void => {
    rejected.add(row);
    put(sheetName(tableOf(row)), row.row);
  };
  const leadsNowhere = (target: Target | null): boolean =>
    target === null || ("row" in target && (rejected.has(target.row) || leadsNowhere(target.row.target)));
  // several rows can come from one row of a sheet: they stay or go together
  const isOut = (row: DifferingRow | NewRow): boolean => {
    const table = tableOf(row);
    const target = "snapshot" in row ? draft.moves.get(row) : row.target;
    const name = sheetName(table);
    if ("snapshot" in row && draft.held.has(row.snapshot)) return true;
    return whole.has(table) || aside.has(`${name}\n${row.row}`) || !keep(name, row.row) || (target !== undefined && leadsNowhere(target));
  };
  for (let before = -1; before < rejected.size;) {
    before = rejected.size;
    for (const row of draft.rows) if (!rejected.has(row) && isOut(row)) reject(row);
    for (const row of draft.news) if (!rejected.has(row) && isOut(row)) reject(row);
    for (const row of findDependents(draft, ctx, rejected)) reject(row);
  }
  return { ...draft, rejected, aside: [...aside.values()] };
}

function tableOf(row: DifferingRow | NewRow): CompiledTable {
  return "snapshot" in row ? row.snapshot.table : row.table;
}
