/** What depends on a row with a problem is left out with it, so that the rest can be folded. */
import { rowsOf } from "../model/findings.js";
import { sheetName, type CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../rows/row-edits.js";
import type { SheetRowName } from "./comparison.js";
import { findDependents } from "./dependents.js";

/** Leaves out rows with problems, rows that are not `wanted`, and all that depends on them. */
export function rejectDependents(draft: Draft, ctx: Context, wanted: (row: SheetRowName) => boolean = () => true): Draft {
  const { findings } = ctx;
  const hit = new Set(findings.hit.map(({ table, row }) => `${table}\n${row}`));
  const aside = new Map<string, SheetRowName>();
  const put = (one: SheetRowName): void => void aside.set(`${one.table}\n${one.row}`, one);
  for (const problem of findings.problems) for (const row of rowsOf(problem)) put({ table: problem.table, row });
  // records that follow others make sense only with those
  const following = ctx.compiled.tables.filter(({ plan: { tree } }) => tree?.kind === "path" || tree?.kind === "depth");
  const whole = new Set(following.filter(({ plan }) => findings.problems.some(({ table }) => table === plan.name)));
  const rejected = new Set<DifferingRow | NewRow>();
  const reject = (row: DifferingRow | NewRow): void => {
    rejected.add(row);
    const table = sheetName(tableOf(row));
    hit.add(`${table}\n${row.row}`);
    put({ table, row: row.sheet.seenRow(row.row) });
  };
  const leadsNowhere = (target: Target | null): boolean =>
    target === null || ("row" in target && (rejected.has(target.row) || leadsNowhere(target.row.target)));
  // several rows can come from one row of a sheet: they stay or go together
  const isOut = (row: DifferingRow | NewRow): boolean => {
    const table = sheetName(tableOf(row));
    const target = "snapshot" in row ? draft.moves.get(row) : row.target;
    const at = row.sheet.seen(row.row);
    if ("snapshot" in row && draft.held.has(row.snapshot)) return true;
    if (whole.has(tableOf(row)) || hit.has(`${table}\n${row.row}`)) return true;
    return (at !== null && !wanted({ table, row: at.row })) || (target !== undefined && leadsNowhere(target));
  };
  for (let before = -1; before < rejected.size;) {
    before = rejected.size;
    // rows that are right together alone
    for (const rows of findings.together)
      if (rows.some(({ table, row }) => hit.has(`${table}\n${row}`))) for (const { table, row } of rows) hit.add(`${table}\n${row}`);
    for (const row of draft.rows) if (!rejected.has(row) && isOut(row)) reject(row);
    for (const row of draft.news) if (!rejected.has(row) && isOut(row)) reject(row);
    for (const row of findDependents(draft, ctx, rejected)) reject(row);
    for (const row of takingAlong(draft, ctx, hit)) if (!rejected.has(row)) reject(row);
  }
  return { ...draft, rejected, aside: [...aside.values()] };
}

/** Rows that would take a record away of which another row has a problem. */
function takingAlong({ gone, rows }: Draft, { sheets }: Context, hit: ReadonlySet<string>): Set<DifferingRow> {
  const found = new Set<DifferingRow>();
  if (gone.size === 0 || hit.size === 0) return found;
  const current = new Map(rows.map((row) => [row.snapshot, row]));
  for (const [table, places] of gone) {
    const sheet = sheets[table.index];
    if (sheet === null) continue;
    for (const [place, by] of places) {
      const row = sheet.faulty.get(place) ?? sheet.rowOf(place);
      const taker = current.get(by.snapshot);
      if (row > 0 && taker !== undefined && hit.has(`${sheetName(table)}\n${row}`)) found.add(taker);
    }
  }
  return found;
}

function tableOf(row: DifferingRow | NewRow): CompiledTable {
  return "snapshot" in row ? row.snapshot.table : row.table;
}
