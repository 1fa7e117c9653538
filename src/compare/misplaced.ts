/**
 * Marks that were sorted without their rows, or rows without their marks.
 *
 * Every mark is then a good one, but it stands beside another record's cells. It shows in the keys:
 * rows whose key now is the key that another differing row had, and whose other cells agree with that
 * other row at least as well.
 */
import { titleOf } from "../plan/guide.js";
import type { ProblemList } from "./changes.js";
import { gather } from "./gather.js";
import type { DifferingRow } from "./rows.js";
import { Column } from "./columns.js";
import type { Sheet } from "./sheet.js";

export function findMisplaced(rows: readonly DifferingRow[], problems: ProblemList, sheets: readonly (Sheet | null)[]): void {
  for (const sheet of sheets) {
    if (sheet === null) continue;
    const { keySlot } = sheet.table;
    const mine = rows.filter((row) => row.sheet === sheet && !row.removed);
    if (keySlot >= 0) findByKey(mine, keySlot, problems);
    findSortedColumns(mine, sheet, problems);
  }
}

function findByKey(rows: readonly DifferingRow[], keySlot: number, problems: ProblemList): void {
  const edits = rows.flatMap((row) => row.cells.filter(({ slot }) => slot === keySlot).map((edit) => ({ row, edit })));
  if (edits.length === 0) return;
  const byKey = new Map(rows.map((row) => [row.snapshot.content(keySlot), row]));
  for (const { row, edit } of edits) {
    const owner = byKey.get(edit.content);
    if (owner === undefined || owner === row) continue;
    const cells = row.snapshot.contents.map((was, slot) => row.cells.find((cell) => cell.slot === slot)?.content ?? was);
    const agree = (contents: readonly string[]): number => cells.filter((cell, slot) => slot !== keySlot && cell === contents[slot]).length;
    if (agree(owner.snapshot.contents) > agree(row.snapshot.contents) || cells.length === 1) {
      const { sheet } = row;
      problems.add(
        "mark-misplaced",
        { mine: row.snapshot.content(keySlot), found: edit.content },
        sheet.place(row.row, "fold mark", edit.content),
      );
    }
  }
}

/** A column whose changed values are the old values of the same rows in another order was perhaps sorted alone. */
function findSortedColumns(rows: readonly DifferingRow[], sheet: Sheet, problems: ProblemList): void {
  const few = 4;
  const edits = new Map<number, [was: string, is: string][]>();
  for (const { snapshot, parent, cells } of rows) {
    if (parent !== null) gather(edits, Column.Parent, [snapshot.parentIdent, parent]);
    for (const { slot, content } of cells) gather(edits, slot, [snapshot.content(slot), content]);
  }
  for (const slot of sheet.columns) {
    const pairs = edits.get(slot) ?? [];
    if (pairs.length < few) continue;
    const old = pairs.map(([was]) => was).sort();
    const now = pairs.map(([, is]) => is).sort();
    if (new Set(old).size >= few && old.every((value, i) => value === now[i])) {
      const title = slot === Column.Parent ? sheet.table.holder! : titleOf(sheet.table.plan, slot);
      problems.note("column-sorted-alone", { title, rows: pairs.length }, sheet.table.plan.name);
    }
  }
}
