/**
 * Rows without marks, matched by the columns that the plan says: sheets that somebody else made. One
 * more pass over the source finds the records; a row that matches none is a new one, unless it differs
 * from a record only by spaces, case or Unicode spelling: then it is pointed out.
 */
import { decode } from "../bytes/writer.js";
import type { ProblemList } from "../model/findings.js";
import { pushTo } from "../model/push-to.js";
import { Column } from "../rows/columns.js";
import { keyHash, type NewSheetRow, type Sheet } from "../rows/sheet.js";
import { Action } from "../rows/sheet-index.js";
import { slotOf } from "../plan/compile.js";
import { ACTION_TITLE } from "../model/plan.js";
import type { Assembler, Row } from "../records/assemble.js";
import { normalised } from "../cells/normalised.js";
import type { ReadRows } from "../records/reader.js";

/** What rows of a sheet are matched by. */
interface Wanted {
  readonly sheet: Sheet;
  readonly slots: readonly number[];
  readonly exact: Map<number, NewSheetRow[]>;
  readonly loose: Map<number, NewSheetRow[]>;
  readonly found: Map<NewSheetRow, number[]>;
  readonly near: Map<NewSheetRow, string>;
}

const BETWEEN = "\u001f";

export async function matchRows(sheets: readonly (Sheet | null)[], problems: ProblemList, readRows: ReadRows): Promise<void> {
  const wanted = new Map<number, Wanted>();
  for (const sheet of sheets) {
    const slots = sheet?.table.plan.match?.map((title) => slotIn(sheet, title)) ?? [];
    if (sheet === null || slots.length === 0 || sheet.newRows.size === 0) continue;
    const one: Wanted = { sheet, slots, exact: new Map(), loose: new Map(), found: new Map(), near: new Map() };
    for (const row of sheet.newRows) {
      const words = slots.map((slot) => row.cells[sheet.columnOf(slot)] ?? "");
      if (words.every((word) => word.trim() === "")) continue;
      pushTo(one.exact, keyHash(words.join(BETWEEN)), row);
      pushTo(one.loose, keyHash(words.map(normalised).join(BETWEEN)), row);
    }
    wanted.set(sheet.table.index, one);
  }
  if (wanted.size === 0) return;
  await readRows((row, assembler) => {
    const one = wanted.get(row.table.index);
    if (one === undefined) return;
    const words = one.slots.map((slot) => cell(row, slot, assembler));
    for (const match of one.exact.get(keyHash(words.join(BETWEEN))) ?? []) {
      pushTo(one.found, match, row.place);
    }
    for (const match of one.loose.get(keyHash(words.map(normalised).join(BETWEEN))) ?? []) one.near.set(match, words.join(", "));
  });
  for (const one of wanted.values()) adopt(one, problems);
}

function adopt({ sheet, slots, found, near, exact }: Wanted, problems: ProblemList): void {
  const titles = slots.map((slot) => sheet.titles[sheet.columnOf(slot)] ?? "");
  const place = (row: NewSheetRow): ReturnType<Sheet["place"]> => {
    const words = slots.map((slot) => row.cells[sheet.columnOf(slot)] ?? "");
    return sheet.place(row.row, titles[0], words.join(", "));
  };
  for (const rows of exact.values()) {
    const all = rows.map((row) => sheet.seenRow(row.row));
    if (rows.length > 1) for (const row of rows) problems.add("match-twice", { titles, rows: all }, place(row));
  }
  for (const row of [...sheet.newRows]) {
    const places = found.get(row);
    if (places?.length === 1) {
      if (!sheet.adopt(row, places[0])) problems.add("match-marked", { titles }, place(row));
    } else if (places !== undefined) problems.add("match-many", { titles, count: places.length }, place(row));
    else if (near.has(row)) problems.add("match-near", { titles, near: near.get(row)! }, place(row));
    else if (row.stand?.action === Action.Remove) problems.add("remove-new", {}, sheet.place(row.row, ACTION_TITLE, "remove"));
  }
}

function slotIn({ table }: Sheet, title: string): number {
  return title === table.holder ? Column.Parent : slotOf(table.plan, title);
}

function cell(row: Row, slot: number, assembler: Assembler): string {
  if (slot === Column.Parent) {
    const holder = assembler.holderOf(row)!;
    return decode(holder.bytes, 0, holder.length);
  }
  if (slot < row.kinds.length) return assembler.text(row, slot);
  const { column, table, restSlot } = row.table.hosted[slot - row.kinds.length];
  return column.lookup === undefined ? "" : (table.labels.get(assembler.text(row, restSlot)) ?? "");
}
