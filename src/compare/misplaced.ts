/**
 * Marks that were sorted without their rows, or rows without their marks; columns whose titles were swapped, whose cells were
 * moved up or down, or that were sorted on their own.
 *
 * Every mark is then a good one, but it stands beside another record's cells. It shows in the keys:
 * rows whose key now is the key that another differing row had, and whose other cells agree with that
 * other row at least as well.
 */
import { titleOf } from "../plan/compile.js";
import type { ProblemList } from "../model/problem-list.js";
import { pushTo } from "../model/push-to.js";
import type { DifferingRow } from "../rows/row-edits.js";
import { Column } from "../rows/columns.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { TableBaseline } from "../rows/baseline.js";
import type { Sheet } from "../rows/sheet.js";

export function noteMisplaced({ rows }: Draft, { sheets, base, findings: problems }: Context): void {
  for (const sheet of sheets) {
    if (sheet === null || !sheet.hasMarks) continue;
    const { keySlot } = sheet.table;
    const mine = rows.filter((row) => row.sheet === sheet && !row.removed);
    if (keySlot >= 0) findByKey(mine, keySlot, problems);
    else findShifted(mine, sheet, base.tables[sheet.table.index], problems);
    const edits = editsByColumn(mine);
    const swapped = findSwapped(edits, sheet, problems);
    for (const slot of sheet.columns) {
      const cells = edits.get(slot) ?? [];
      if (!swapped.has(slot) && cells.length >= FEW_CELLS && !findMoved(cells, slot, sheet, problems))
        findSorted(cells, slot, sheet, problems);
    }
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

/** So many rows, and such a share of those that differ, say what the record so many places away says. */
const FEW_SHIFTED = 3;
const MOST_OF_THEM = 0.6;

/** What so many records say tells nothing of where a row belongs. */
const MANY_ALIKE = 50;

/**
 * A sheet of another hatch, without keys: records were added or taken out in between, so from there on each row says what
 * the record a few places away says. The same comes about when rows are moved without their marks.
 */
function findShifted(rows: readonly DifferingRow[], sheet: Sheet, { missed, records }: TableBaseline, problems: ProblemList): void {
  const slots = sheet.columns.filter((slot) => slot >= 0);
  const spelled = (contents: readonly string[]): string => JSON.stringify(slots.map((slot) => contents[slot]));
  const places = new Map<string, number[]>();
  for (const { contents, place } of [...rows.map(({ snapshot }) => snapshot), ...missed]) pushTo(places, spelled(contents), place);
  const shifted = new Map<number, DifferingRow[]>();
  for (const row of rows) {
    const { snapshot, cells } = row;
    const now = [...snapshot.contents];
    for (const { slot, content } of cells) now[slot] = content;
    const others = places.get(spelled(now)) ?? [];
    if (others.length > MANY_ALIKE) continue;
    let nearest = Infinity;
    for (const place of others) {
      const by = place - snapshot.place;
      if (by !== 0 && Math.abs(by) < Math.abs(nearest)) nearest = by;
    }
    if (nearest !== Infinity) pushTo(shifted, nearest, row);
  }
  // the last records have no rows: they may have slid up, or the sheet was hatched when there were fewer
  const areLastMissed = missed.length > 0 && missed[0].place === records - missed.length;
  for (const [by, found] of shifted) {
    if (found.length < MOST_OF_THEM * rows.length) continue;
    const wide = found.filter(({ cells }) => cells.length > 1).length;
    const isPlain = wide >= FEW_SHIFTED - 1 || found.length >= FEW_SHIFTED;
    const endsInMissed = areLastMissed && by === missed.length && (slots.length > 1 || found.length > 1);
    if (!isPlain && !endsInMissed) continue;
    const sorted = found.map(({ row }) => row).sort((a, b) => a - b);
    problems.add("sheet-shifted", { by, rows: sorted.length, of: rows.length }, sheet.placeOf(sorted));
  }
}

/** An edited cell, by its row in the sheet. */
interface EditedCell {
  readonly row: number;
  readonly was: string;
  readonly now: string;
}

/** Fewer cells than that tell nothing of a column; where there are few values, fewer than that. */
const [FEW_CELLS, FEW_OF_TWO_VALUES] = [4, 8];

function editsByColumn(rows: readonly DifferingRow[]): ReadonlyMap<number, EditedCell[]> {
  const edits = new Map<number, EditedCell[]>();
  for (const { snapshot, parent, cells, row } of rows) {
    if (parent !== null) pushTo(edits, Column.Parent, { row, was: snapshot.parentIdent, now: parent });
    for (const { slot, content } of cells) pushTo(edits, slot, { row, was: snapshot.content(slot), now: content });
  }
  return edits;
}

function columnTitle({ table }: Sheet, slot: number): string {
  return slot === Column.Parent ? table.holder! : titleOf(table.plan, slot);
}

/** Two columns each of which holds what the other held, in all rows that differ there. */
function findSwapped(edits: ReadonlyMap<number, readonly EditedCell[]>, sheet: Sheet, problems: ProblemList): ReadonlySet<number> {
  const swapped = new Set<number>();
  const columns = [...edits].filter(([, cells]) => cells.length >= FEW_CELLS);
  for (const [i, [slot, cells]] of columns.entries()) {
    const byRow = new Map(cells.map((cell) => [cell.row, cell]));
    for (const [other, others] of columns.slice(i + 1)) {
      const isSwapped = ({ row, was, now }: EditedCell): boolean => byRow.get(row)?.was === now && byRow.get(row)?.now === was;
      if (others.length !== cells.length || swapped.has(slot) || !others.every(isSwapped)) continue;
      problems.note(
        "titles-swapped",
        { title: columnTitle(sheet, slot), other: columnTitle(sheet, other), rows: cells.length },
        sheet.table.plan.name,
      );
      swapped.add(slot).add(other);
    }
  }
  return swapped;
}

/** Cells that hold what the next row held, or the one before, one after the other. */
function findMoved(cells: readonly EditedCell[], slot: number, sheet: Sheet, problems: ProblemList): boolean {
  const byRow = new Map(cells.map((cell) => [cell.row, cell]));
  for (const [way, step] of [
    ["above", 1],
    ["below", -1],
  ] as const) {
    const moved = cells.filter(({ row, now }) => byRow.get(row + step)?.was === now);
    if (moved.length < FEW_CELLS || moved.length < MOST_OF_THEM * cells.length || new Set(moved.map(({ now }) => now)).size < FEW_CELLS)
      continue;
    const rows = moved.map(({ row }) => sheet.seenRow(row)).sort((a, b) => a - b);
    problems.note("cells-shifted", { title: columnTitle(sheet, slot), rows, way }, sheet.table.plan.name);
    return true;
  }
  return false;
}

/** A column whose changed values are the old values of the same rows in another order was perhaps sorted alone. */
function findSorted(cells: readonly EditedCell[], slot: number, sheet: Sheet, problems: ProblemList): void {
  const old = cells.map(({ was }) => was).sort();
  const now = cells.map((cell) => cell.now).sort();
  const isFew = new Set(old).size < FEW_CELLS;
  if ((isFew && cells.length < FEW_OF_TWO_VALUES) || old.some((value, i) => value !== now[i])) return;
  problems.note("column-sorted-alone", { title: columnTitle(sheet, slot), rows: cells.length }, sheet.table.plan.name);
}
