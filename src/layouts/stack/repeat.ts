/**
 * Cells of a record that its inner records repeat: an edit of one must be made to all of them. What the
 * source has says which are edits, so one more pass reads the records in question.
 */
import type { SheetReading } from "../layout.js";
import { decode } from "../../bytes/writer.js";
import { pushTo } from "../../model/push-to.js";
import { damage } from "../../cells/heal.js";
import type { ReadRows } from "../../records/reader.js";
import { formatMark, parseMark } from "../../model/marks.js";
import { keyOf, type Member, type Stack } from "./members.js";
import { isFilled, type Apart, type StackRow } from "./rows.js";

type Cells = readonly (string | undefined)[];

/** A record whose cells are repeated, as the source has it. */
interface Held {
  readonly place: number;
  readonly ident: string;
  /** Cells by place in the stack's titles. */
  readonly was: Cells;
}

export async function mergeRepeats(
  stack: Stack,
  rows: readonly StackRow[],
  apart: Apart,
  { sheet: { name: file }, problems, readSource }: SheetReading,
): Promise<void> {
  const [outer, inner] = stack.members;
  const source = await readHeld(outer, inner, rows, readSource);
  const groups = new Map<Held, StackRow[]>();
  const fresh = new Map<string, StackRow[]>();
  /** Rows that leave the record: what they still show of it says nothing, what was edited does. */
  const leaving = new Set<StackRow>();
  for (const row of rows) {
    const { number, mark, owner, cells } = row;
    const own = [...cells];
    const held = owner === outer ? source.byPlace.get(parseMark(outer.table.salt, mark)) : source.of(row);
    if (owner === inner) own[inner.from] ??= held?.ident ?? "";
    const said = (own[inner.from] ?? "").trim();
    if (row.action.trim() !== "") {
      apart.put(owner, number, own);
      if (owner === inner && held !== undefined && row.action.trim().toLowerCase() === "remove") {
        leaving.add(row);
        pushTo(groups, held, row);
      }
    } else if (mark !== "" && !mark.startsWith("+")) {
      // a mark of neither is for the reader of the sheet to explain
      if (held === undefined || owner === outer) {
        if (held === undefined) apart.put(owner, number, own);
        else pushTo(groups, held, row);
        if (held !== undefined && isFilled(inner, cells)) putNew(inner, row, said || held.ident);
      } else {
        apart.put(inner, number, own);
        const goal = source.byIdent.get(said);
        if (said === held.ident) pushTo(groups, held, row);
        else if (said !== keyOf(outer, cells)) {
          pushTo(groups, held, row);
          leaving.add(row);
        } // a row that goes to another record, and has its key, tells of that one
        else if (goal === undefined) pushTo(fresh, said, row);
        else pushTo(groups, goal, row);
      }
    } else {
      const key = keyOf(outer, cells);
      const name = said || key;
      const known = source.byIdent.get(name);
      if (isFilled(inner, cells) || owner === inner) putNew(inner, row, name || (isFilled(outer, cells) ? `+row ${number}` : ""));
      if (known !== undefined) pushTo(groups, known, row);
      else if (isFilled(outer, cells)) pushTo(fresh, name || `+row ${number}`, row);
    }
  }
  function putNew(member: Member, row: StackRow, holder: string): void {
    const own = [...row.cells];
    if (row.owner !== member) own[0] = "";
    own[member.from] = holder;
    apart.put(member, row.number, own);
  }

  for (const [held, group] of groups) mergeKnown(held, group);
  for (const [name, group] of fresh) mergeNew(name, group);

  /** One row for a record of the source, at the first of those that show it. */
  function mergeKnown({ place, ident, was }: Held, group: readonly StackRow[]): void {
    const [first] = group;
    const merged: (string | undefined)[] = first.cells.map((_, at) => (at < 2 ? "" : undefined));
    merged[0] = formatMark(outer.table.salt, place);
    for (const [i, title] of outer.shown.entries()) {
      const at = outer.from + i;
      const isEdited = ({ cells }: StackRow): boolean => cells[at] !== was[at] && damage(was[at] ?? "", cells[at]!) === null;
      const said = group.filter((row) => row.cells[at] !== undefined && speaks(row, at, place, isEdited));
      const edited = said.filter(isEdited);
      const kept = said.filter((row) => !isEdited(row));
      const values = new Set(edited.map(({ cells }) => cells[at]!));
      const damaged = kept.find(({ cells }) => cells[at] !== was[at]);
      const intact = kept.find(({ cells }) => cells[at] === was[at]);
      // rows beside it that say what was there tell that it is damage
      if (damaged !== undefined && intact !== undefined && edited.length === 0) {
        const facts = { title, row: damaged.number, was: was[at]!, beside: intact.number };
        problems.note("repeat-damaged", facts, outer.table.plan.name);
      }
      merged[at] = (edited[0] ?? intact ?? damaged)?.cells[at] ?? (apart.present[at] ? was[at] : undefined);
      if (values.size > 1 || (values.size === 1 && kept.length > 0)) differ(title, ident, said, at, first);
    }
    apart.put(outer, first.number, merged);
  }

  function speaks(row: StackRow, at: number, place: number, isEdited: (row: StackRow) => boolean): boolean {
    const cell = row.cells[at];
    // a new row may leave the cells of a record that is there blank
    if (row.mark === "") return cell !== "";
    if (!leaving.has(row)) return true;
    if (!isEdited(row)) return false;
    // a row that goes to another record may show that one's cells already
    const goal = source.byIdent.get((row.cells[inner.from] ?? "").trim());
    if (goal === undefined || goal.place === place) return true;
    const others = (groups.get(goal) ?? []).filter((one) => !leaving.has(one) && one.mark !== "");
    return cell !== goal.was[at] && !others.some((one) => one.cells[at] === cell);
  }

  function mergeNew(name: string, group: readonly StackRow[]): void {
    const [first] = group;
    const merged = [...first.cells];
    if (first.owner !== outer && !first.mark.startsWith("+")) merged[0] = "";
    const key = outer.table.keySlot < 0 ? -1 : outer.titles.indexOf(outer.table.plan.key!);
    // a name is no key: the plan says how one is made, or it is missing
    if (name.startsWith("+")) merged[0] = name;
    else if (key >= 0 && (merged[outer.from + key] ?? "") === "") merged[outer.from + key] = name;
    for (const [i, title] of outer.shown.entries()) {
      const at = outer.from + i;
      const said = group.filter(({ cells }) => (cells[at] ?? "") !== "");
      if (new Set(said.map(({ cells }) => cells[at])).size > 1) differ(title, name, said, at, first);
      if (said.length > 0) merged[at] = said[0].cells[at];
    }
    apart.put(outer, first.number, merged);
  }

  function differ(title: string, record: string, said: readonly StackRow[], at: number, first: StackRow): void {
    const values = new Map<string, number[]>();
    for (const { number, cells } of said) values.set(cells[at]!, [...(values.get(cells[at]!) ?? []), number]);
    const facts = {
      title,
      table: outer.table.plan.name,
      record,
      values: [...values].map(([value, numbers]) => ({ value, rows: numbers })),
    };
    const place = { table: outer.table.plan.name, file, row: first.number, column: title, value: said[0].cells[at] };
    problems.add("repeats-differ", facts, place);
  }
}

/** The records that the rows show or name. */
async function readHeld(
  outer: Member,
  inner: Member,
  rows: readonly StackRow[],
  readSource: ReadRows,
): Promise<{ byPlace: ReadonlyMap<number, Held>; byIdent: ReadonlyMap<string, Held>; of: (row: StackRow) => Held | undefined }> {
  const innerPlaces = new Map<number, number>();
  const outerPlaces = new Set<number>();
  const names = new Set<string>();
  for (const { mark, owner, cells } of rows) {
    const place = parseMark(owner.table.salt, mark);
    if (owner === inner && place >= 0) innerPlaces.set(place, -1);
    if (owner === outer && place >= 0) outerPlaces.add(place);
    names.add((cells[inner.from] ?? "").trim()).add(keyOf(outer, cells));
  }
  names.delete("");
  const byPlace = new Map<number, Held>();
  const byIdent = new Map<string, Held>();
  const labels = outer.titles.map((title) => outer.table.inline.find(({ column }) => column.title === title));
  const slots = outer.titles.map((title) => outer.table.plan.columns.findIndex((column) => column.title === title));
  await readSource((row, assembler) => {
    // the rows inside come before the one around them
    if (row.table === inner.table && innerPlaces.has(row.place)) {
      innerPlaces.set(row.place, row.parent!.place);
      outerPlaces.add(row.parent!.place);
    }
    if (row.table !== outer.table) return;
    const { bytes, length } = assembler.identOf(row);
    const ident = decode(bytes, 0, length);
    if (!outerPlaces.has(row.place) && !names.has(ident)) return;
    const was: string[] = [];
    const holder = assembler.holderOf(row);
    outer.titles.forEach((_, i) => {
      const label = labels[i];
      was[outer.from + i] =
        slots[i] >= 0
          ? assembler.text(row, slots[i])
          : label !== undefined
            ? (label.table.labels.get(assembler.text(row, label.standInSlot)) ?? "")
            : holder === null
              ? ""
              : decode(holder.bytes, 0, holder.length);
    });
    const held = { place: row.place, ident, was };
    byPlace.set(row.place, held);
    byIdent.set(ident, held);
  });
  const of = ({ mark }: StackRow): Held | undefined => byPlace.get(innerPlaces.get(parseMark(inner.table.salt, mark)) ?? -1);
  return { byPlace, byIdent, of };
}
