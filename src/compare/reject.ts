/** What depends on a row with a problem is left out with it, so that the rest can be folded. */
import { rowsOf } from "../model/findings.js";
import { sheetName, type TableGuide } from "../plan/guide.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../rows/row-edits.js";

export function rejectDependents(draft: Draft, { guide, findings: { problems } }: Context): Draft {
  const aside = new Map<string, { table: string; row: number }>();
  const put = (table: string, row: number): void => void aside.set(`${table}\n${row}`, { table, row });
  for (const problem of problems) for (const row of rowsOf(problem)) put(problem.table, row);
  const bad = new Set(aside.keys());
  // records that follow others make sense only with those
  const kept = guide.tables.filter(({ plan: { tree } }) => tree?.kind === "way" || tree?.kind === "depth");
  const whole = new Set(kept.filter(({ plan }) => problems.some(({ table }) => table === plan.name)));
  const isBad = (table: TableGuide, row: number): boolean => whole.has(table) || bad.has(`${sheetName(table)}\n${row}`);
  const leadsNowhere = (target: Target | null): boolean =>
    target === null || ("row" in target && (isBad(target.row.table, target.row.row) || leadsNowhere(target.row.target)));
  const rejected = new Set<DifferingRow | NewRow>();
  const reject = (table: TableGuide, row: DifferingRow | NewRow): void => {
    rejected.add(row);
    put(sheetName(table), row.row);
  };
  for (const row of draft.rows) {
    const { table } = row.snapshot;
    const target = draft.moves.get(row);
    if (isBad(table, row.row) || (target !== undefined && leadsNowhere(target))) reject(table, row);
  }
  for (const row of draft.news) if (isBad(row.table, row.row) || leadsNowhere(row.target)) reject(row.table, row);
  // several rows can come from one row of a sheet: they stay or go together
  const isAside = (table: TableGuide, row: number): boolean => aside.has(`${sheetName(table)}\n${row}`);
  for (const row of draft.rows) if (isAside(row.snapshot.table, row.row)) rejected.add(row);
  for (const row of draft.news) if (isAside(row.table, row.row)) rejected.add(row);
  return { ...draft, rejected, aside: [...aside.values()] };
}
