/** What a fold may do: the rest is left aside and noted. */
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import { isUnchanged, type DifferingRow } from "../rows/row-edits.js";
import type { Allowed } from "./comparison.js";

export function keepAllowed(draft: Draft, { sheets, findings }: Context, allow: readonly Allowed[] | undefined): Draft {
  if (allow === undefined) return draft;
  const left = new Map<string, { table: string; kind: Allowed; rows: number[] }>();
  const leave = (table: string, kind: Allowed, row: number): void => {
    const list = left.get(`${table} ${kind}`) ?? { table, kind, rows: [] };
    left.set(`${table} ${kind}`, list);
    list.rows.push(row);
  };
  const may = (kind: Allowed): boolean => allow.includes(kind);
  const rows = draft.rows.flatMap((row): DifferingRow[] => {
    const table = row.snapshot.table.plan.name;
    const seen = row.sheet.seenRow(row.row);
    const gone = row.removed && !may("remove");
    const cells = row.cells.filter(({ slot }) => may(isPlace(row, slot) ? "move" : "change"));
    const [placing, toPlace] = may("move") ? [row.placing, row.toPlace] : [];
    const lists = may("change") ? row.lists : undefined;
    const labels = may("change") ? row.labels : undefined;
    const parent = may("move") ? row.parent : null;
    if (gone) leave(table, "remove", seen);
    const unmoved = row.cells.some((cell) => isPlace(row, cell.slot) && !cells.includes(cell));
    if (row.cells.some((cell) => !isPlace(row, cell.slot) && !cells.includes(cell)) || row.lists !== lists || row.labels !== labels)
      leave(table, "change", seen);
    if (row.parent !== parent || row.placing !== placing || row.toPlace !== toPlace || unmoved) leave(table, "move", seen);
    const kept = { ...row, cells, parent, lists, labels, placing, toPlace };
    return gone || isUnchanged(kept) ? [] : [kept];
  });
  const notAdded = new Set(draft.notAdded);
  for (const sheet of sheets) {
    // in an ordered list the place of a new row depends on what moves
    if (sheet === null || (may("add") && (may("move") || !sheet.isOrdered))) continue;
    for (const row of sheet.newRows) leave(sheet.table.plan.name, "add", sheet.seenRow(row.row));
    notAdded.add(sheet);
  }
  for (const { table, kind, rows: numbers } of left.values()) findings.note("rows-left", { kind, rows: numbers }, table);
  return { ...draft, rows, notAdded };
}

/** Does the cell say where the record is, so that to change it is to move? */
function isPlace({ snapshot }: DifferingRow, slot: number): boolean {
  const { tree, columns } = snapshot.table.plan;
  return (tree?.kind === "path" || tree?.kind === "depth") && columns[slot].title === tree.column;
}

export function mayDo(allow: readonly Allowed[] | undefined, kind: Allowed): boolean {
  return allow === undefined || allow.includes(kind);
}
