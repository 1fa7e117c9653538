/** Findings with the rows that the analyst sees, where a sheet shows several tables. */
import type { PlainSheet } from "../layouts/layout.js";
import type { ProblemList, Change } from "../model/findings.js";
import { UPPER_TITLE } from "../model/plan.js";
import type { CompiledTable } from "../plan/compile.js";
import type { SheetRowName } from "./comparison.js";
import type { Described } from "./describe.js";
import type { KeepRow } from "./reject.js";

/** Rows are named by where the analyst sees them; `crossed` are problems that are named so already. */
export function asSeen(
  comparison: Described,
  plain: ReadonlyMap<CompiledTable, PlainSheet | null>,
  { problems: crossed }: Pick<ProblemList, "problems">,
): Described {
  const sheets = new Map([...plain].flatMap(([table, one]) => (one === null ? [] : [[table.plan.name, one] as const])));
  const seen = <T extends { readonly table: string; readonly row: number; readonly column?: string }>(one: T): T => {
    const sheet = sheets.get(one.table);
    if (sheet === undefined || one.row === 0) return one;
    const place = one.row > (sheet.last ?? Infinity) ? { row: 0, column: undefined } : sheet.where?.(one.row);
    if (place === undefined) return one;
    const rows = (one as { readonly rows?: readonly number[] }).rows?.map((row) => sheet.where?.(row).row ?? row);
    return {
      ...one,
      row: place.row,
      ...(rows === undefined ? {} : { rows }),
      ...(place.column === undefined || one.column === undefined ? {} : { column: place.column }),
    };
  };
  const named = (change: Change): Change => {
    const { nameOf, says } = sheets.get(change.table) ?? {};
    const { kind, old, new: now, cells } = change;
    const more = says?.get(change.row);
    if (cells !== undefined && more !== undefined) return { ...change, cells: { ...more, ...cells } };
    if (nameOf === undefined) return change;
    if (kind === "moved") return { ...change, old: nameOf(old ?? ""), new: nameOf(now ?? "") };
    return cells === undefined || !(UPPER_TITLE in cells)
      ? change
      : { ...change, cells: { ...cells, [UPPER_TITLE]: nameOf(cells[UPPER_TITLE]) } };
  };
  const { changes, healed, problems, aside, counts } = comparison;
  return {
    ...comparison,
    counts: { ...counts, problems: counts.problems + crossed.length },
    changes: changes.map((change) => named(seen(change))),
    healed: healed.map(seen),
    problems: [...problems.map(seen), ...crossed],
    aside: [...aside.map(seen), ...crossed.map(({ table, row }) => ({ table, row }))],
  };
}

/** A question about the rows that the analyst sees, as one about the rows behind them; what has no row there is kept. */
export function asInSheets(wanted: (row: SheetRowName) => boolean, plain: ReadonlyMap<CompiledTable, PlainSheet | null>): KeepRow {
  const sheets = new Map([...plain].map(([table, sheet]) => [table.plan.name, sheet]));
  return (table, row) => {
    const sheet = sheets.get(table);
    if (row > (sheet?.last ?? Infinity)) return true;
    return wanted({ table, row: sheet?.where?.(row).row ?? row });
  };
}
