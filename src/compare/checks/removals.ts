/** What goes away takes along only what may go with it. */
import { pushTo } from "../../model/push-to.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import { recordName } from "../../rows/names.js";
import type { DifferingRow, Target } from "../../rows/row-edits.js";
import type { Sheet } from "../../rows/sheet.js";
import { Action } from "../../rows/sheet-index.js";
import { startOf } from "../places.js";

export function checkRemovals(draft: Draft, ctx: Context): void {
  insideRemoved(draft, ctx);
  insideAbsent(draft, ctx);
}

/** Nothing may be edited in, or added to, a record that goes away. */
function insideRemoved({ rows, news, moves }: Draft, ctx: Context): void {
  const { findings } = ctx;
  for (const row of rows) {
    if (row.removed && row.snapshot.trail.length === 0) findings.add("document-row", {}, row.sheet.place(row.row, "fold action", "remove"));
  }
  const goesWith = removedAt(rows);
  if (goesWith === null) return;
  for (const row of rows) {
    if (row.removed || moves.has(row)) continue;
    const gone = goesWith(row.snapshot.span.start);
    if (gone !== undefined && row.cells.length > 0) {
      findings.add(
        "inside-removed",
        { record: recordName(gone.snapshot), table: gone.snapshot.table.plan.name, row: gone.sheet.seenRow(gone.row) },
        row.sheet.place(row.row),
      );
    }
  }
  const check = (target: Target | null, sheet: Sheet, row: number): void => {
    if (target === null || !("place" in target)) return;
    const gone = goesWith(startOf(target, ctx));
    if (gone !== undefined)
      findings.add(
        "parent-removed",
        { record: recordName(gone.snapshot), table: gone.snapshot.table.plan.name, row: gone.sheet.seenRow(gone.row) },
        sheet.place(row, target.of.plan.name),
      );
  };
  for (const row of news) check(row.target, row.sheet, row.row);
  for (const [row, target] of moves) check(target, row.sheet, row.row);
}

/** The row that takes along what stands at an offset of the source; where removed records are in others, the outermost. */
function removedAt(rows: readonly DifferingRow[]): ((at: number) => DifferingRow | undefined) | null {
  const outermost: DifferingRow[] = [];
  for (const row of rows.filter((one) => one.removed).sort((a, b) => a.snapshot.span.start - b.snapshot.span.start))
    if (outermost.length === 0 || row.snapshot.span.start >= outermost[outermost.length - 1].snapshot.span.end) outermost.push(row);
  if (outermost.length === 0) return null;
  return (at) => {
    let low = 0;
    let high = outermost.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (outermost[middle].snapshot.span.start <= at) low = middle + 1;
      else high = middle;
    }
    const last = outermost[low - 1] as DifferingRow | undefined;
    return last !== undefined && at < last.snapshot.span.end ? last : undefined;
  };
}

/** A missing row may take only such records along as have no rows either. */
function insideAbsent({ gone }: Draft, { sheets, findings }: Context): void {
  for (const [table, records] of gone) {
    const sheet = sheets[table.index];
    const left = new Map<DifferingRow, number[]>();
    for (const [place, by] of records) {
      const row = by.snapshot.sheetRow === 0 ? (sheet?.rowOf(place) ?? 0) : 0;
      if (row > 0 && sheet!.standings.action(place) !== Action.Remove) pushTo(left, by, row);
    }
    for (const [{ snapshot }, unsorted] of left) {
      const rows = unsorted.sort((a, b) => a - b);
      const facts = { record: recordName(snapshot), table: snapshot.table.plan.name, rows: rows.map((row) => sheet!.seenRow(row)) };
      findings.add("inside-absent", facts, sheet!.place(rows[0]));
    }
  }
}
