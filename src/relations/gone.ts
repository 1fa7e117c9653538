/** Records that go away: those whose rows are removed, and all that is in them. */
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft, Gone } from "../rows/draft.js";
import type { DifferingRow } from "../rows/row-edits.js";

/** What is in a record goes with it, unless it moves elsewhere. */
export function findGone(draft: Draft, ctx: Context): Draft {
  return { ...draft, gone: recordsGone(draft.rows, ctx) };
}

/** The rows of a table whose records go away with a fold, by their numbers in the sheet. */
export function rowsGone({ gone, rejected }: Draft, { sheets }: Context, name: string): ReadonlySet<number> {
  const rows = new Set<number>();
  for (const [table, places] of gone) {
    const sheet = sheets[table.index];
    if (table.plan.name !== name || sheet === null) continue;
    for (const [place, owner] of places) if (!rejected.has(owner)) rows.add(sheet.seenRow(sheet.rowOf(place)));
  }
  return rows;
}

function recordsGone(differing: readonly DifferingRow[], { compiled, base: baseline }: Context): Gone {
  const gone = new Map<CompiledTable, Map<number, DifferingRow>>();
  const moving = new Map<CompiledTable, Set<number>>();
  for (const row of differing) {
    const { table, place } = row.snapshot;
    if (row.removed) gone.set(table, (gone.get(table) ?? new Map<number, DifferingRow>()).set(place, row));
    else if (row.parent !== null || row.placing !== undefined) moving.set(table, (moving.get(table) ?? new Set<number>()).add(place));
  }
  if (gone.size === 0) return gone;
  const reach = (table: CompiledTable): void => {
    const around = table.parent === null ? undefined : gone.get(table.parent);
    if (around !== undefined || (table.treeSteps !== null && gone.has(table))) {
      const { parents, uppers, records } = baseline.tables[table.index];
      const own = gone.get(table) ?? new Map<number, DifferingRow>();
      // what is around a record comes before it
      for (let place = 0; place < records; place++) {
        const upper = table.treeSteps === null ? -1 : uppers.at(place);
        const owner = upper >= 0 ? own.get(upper) : around?.get(parents.at(place));
        if (owner !== undefined && !own.has(place) && moving.get(table)?.has(place) !== true) own.set(place, owner);
      }
      if (own.size > 0) gone.set(table, own);
    }
    for (const child of table.children) reach(child);
  };
  for (const table of compiled.tables) if (table.parent === null) reach(table);
  return gone;
}
