/**
 * Rows without marks, matched by the columns that the plan says: sheets that somebody else made. One
 * more pass over the source finds the records; a row that matches none is a new one, unless it differs
 * from a record only by spaces, case or Unicode spelling: then it is pointed out.
 */
import { decode } from "../bytes/writer.js";
import type { ProblemList } from "../model/problem-list.js";
import { pushTo } from "../model/push-to.js";
import { Column } from "../rows/columns.js";
import { keyHash, type MatchedBy, type NewSheetRow, type Sheet } from "../rows/sheet.js";
import { Action } from "../rows/sheet-index.js";
import { slotOf, type CompiledTable } from "../plan/compile.js";
import { ACTION_TITLE } from "../model/plan.js";
import type { Assembler, Row } from "../records/assemble.js";
import { isNothing } from "../cells/spelling.js";
import { normalised } from "../cells/normalised.js";
import type { ReadRows } from "../records/reader.js";

/** What rows of a sheet are matched by. */
interface Wanted {
  /** Codes that rows leave blank, of the only record that is called as the label beside them says. */
  readonly codes: ReadonlyMap<NewSheetRow, ReadonlyMap<number, string>>;
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
    const slots = sheet?.table.plan.match?.map((title) => codeSlot(sheet.table, title)) ?? [];
    if (sheet === null || slots.length === 0 || sheet.newRows.size === 0) continue;
    const codes = await codesByLabel(sheet, slots, readRows);
    const one: Wanted = { sheet, slots, codes, exact: new Map(), loose: new Map(), found: new Map(), near: new Map() };
    for (const row of sheet.newRows) {
      const words = wordsOf(one, row);
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

/** What a row says in the columns that it is matched by. */
function wordsOf({ sheet, slots, codes }: Pick<Wanted, "sheet" | "slots" | "codes">, row: NewSheetRow): string[] {
  return slots.map((slot) => codes.get(row)?.get(slot) ?? row.cells[sheet.columnOf(slot)] ?? "");
}

/**
 * The codes of rows that give labels instead, by row and slot: one more pass over the source, where there are such rows. A
 * label that no record has, or several, gives none: the row is a new one, and its label is looked at with all others.
 */
async function codesByLabel(
  sheet: Sheet,
  slots: readonly number[],
  readRows: ReadRows,
): Promise<ReadonlyMap<NewSheetRow, ReadonlyMap<number, string>>> {
  const codes = new Map<NewSheetRow, Map<number, string>>();
  const references = sheet.table.references.flatMap((one) => {
    const { slot, labelSlot, shownSlot } = one;
    const label = sheet.columnOf(labelSlot >= 0 ? labelSlot : shownSlot);
    if (!slots.includes(slot) || label < 0) return [];
    const rows = new Map<string, NewSheetRow[]>();
    for (const row of sheet.newRows) {
      const [code, called] = [row.cells[sheet.columnOf(slot)] ?? "", row.cells[label] ?? ""];
      if (isNothing(code) && !isNothing(called)) pushTo(rows, called, row);
    }
    return rows.size === 0 ? [] : [{ ...one, rows, keys: new Map<string, string[]>() }];
  });
  if (references.length === 0) return codes;
  await readRows((row, assembler) => {
    for (const { target, targetLabelSlot, rows, keys } of references) {
      if (row.table !== target || targetLabelSlot < 0) continue;
      const label = assembler.text(row, targetLabelSlot);
      if (rows.has(label)) pushTo(keys, label, assembler.text(row, target.keySlot));
    }
  });
  for (const { slot, rows, keys } of references)
    for (const [label, named] of keys) {
      if (named.length > 1) continue;
      for (const row of rows.get(label)!) codes.set(row, (codes.get(row) ?? new Map<number, string>()).set(slot, named[0]));
    }
  return codes;
}

function adopt(wanted: Wanted, problems: ProblemList): void {
  const { sheet, slots, codes, found, near, exact } = wanted;
  const titles = sheet.table.plan.match!;
  const place = (row: NewSheetRow): ReturnType<Sheet["place"]> => sheet.place(row.row, titles[0], wordsOf(wanted, row).join(", "));
  const matched = (row: NewSheetRow): Map<number, MatchedBy> =>
    new Map(slots.map((slot) => [slot, codes.get(row)?.has(slot) === true ? "label" : "cell"]));
  const twice = new Set([...exact.values()].flatMap((rows) => (rows.length > 1 ? rows : [])));
  for (const rows of exact.values()) {
    const all = rows.map((row) => sheet.seenRow(row.row));
    if (rows.length > 1) for (const row of rows) problems.add("match-twice", { titles, rows: all }, place(row));
  }
  for (const row of [...sheet.newRows]) {
    if (twice.has(row)) continue;
    const places = found.get(row);
    if (places?.length === 1) {
      if (!sheet.adopt(row, places[0], matched(row))) problems.add("match-marked", { titles }, place(row));
    } else if (places !== undefined) problems.add("match-many", { titles, count: places.length }, place(row));
    else if (near.has(row)) problems.add("match-near", { titles, near: near.get(row)! }, place(row));
    else if (row.stand?.action === Action.Remove) problems.add("remove-new", {}, sheet.place(row.row, ACTION_TITLE, "remove"));
  }
}

/** Slot of a column that records are told apart by; of the code where the column shows a label that is not in the record. */
export function codeSlot({ plan, holder, inline }: CompiledTable, title: string): number {
  if (title === holder) return Column.Parent;
  const slot = slotOf(plan, title);
  const shown = inline[slot - plan.columns.length];
  return shown?.column.lookup === undefined ? slot : shown.standInSlot;
}

function cell(row: Row, slot: number, assembler: Assembler): string {
  if (slot === Column.Parent) {
    const holder = assembler.holderOf(row)!;
    return decode(holder.bytes, 0, holder.length);
  }
  return slot < row.kinds.length ? assembler.text(row, slot) : "";
}
