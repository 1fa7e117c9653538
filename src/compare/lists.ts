/** What somebody wrote into cells that show lists, as edits of the lists' records. */
import { isZero } from "../bytes/hash.js";
import { largest, pushAll } from "../bytes/lists.js";
import type { Snapshot } from "../rows/snapshot.js";
import type { ProblemList } from "../model/problem-list.js";
import type { DifferingRow, CellEdit, ListEdits, NewRow, Target } from "../rows/row-edits.js";
import type { Sheet } from "../rows/sheet.js";
import type { CellTyper } from "../rows/cell-value.js";
import { Kind } from "../model/kind.js";
import type { NewValue } from "../edits/edit.js";
import type { InlineColumn, CompiledTable } from "../plan/compile.js";
import { isFollowing } from "../model/plan.js";
import { alignItems, alignNamed, alignPlaces, besideIn, keepIdentity, type Aligned } from "../layouts/align.js";
import { holdsNoItem, unpackItems } from "../cells/pack.js";
import type { Placing } from "../layouts/layout.js";

/** An item as the cells of its row say: by slot of the list's table; `null` where no column shows it. */
type Item = (string | null)[];

/** What the sheet says of one list. */
interface Said {
  readonly items: readonly Item[];
  /** What stands instead of a list, when there is no item and a cell says so. */
  readonly rest: string | null;
}

interface Context {
  readonly sheet: Sheet;
  readonly row: number;
  readonly file: number;
  readonly problems: ProblemList;
  readonly typer: CellTyper;
  /** Members of one name are the items of a list: there is none that could be empty. */
  readonly repeats: boolean;
}

/** The lists of a table that have a column in its sheet. */
function listsOf(table: CompiledTable): Map<CompiledTable, InlineColumn[]> {
  const lists = new Map<CompiledTable, InlineColumn[]>();
  for (const inline of table.inline.filter(({ column }) => !isFollowing(column)))
    lists.set(inline.table, [...(lists.get(inline.table) ?? []), inline]);
  return lists;
}

/** Edits of the lists of a record: `cells` are what the sheet says now, by slot of the sheet's table. */
export function editLists(snapshot: Snapshot, cells: ReadonlyMap<number, string>, context: Context): ListEdits {
  const edits: ListEdits = { differing: [], news: [], standIns: [] };
  const own = snapshot.table.plan.columns.length;
  for (const [table, columns] of listsOf(snapshot.table)) {
    const slots = columns.map((column) => own + snapshot.table.inline.indexOf(column));
    if (!slots.some((slot) => cells.has(slot) && cells.get(slot) !== snapshot.content(slot))) continue;
    const now = slots.map((slot) => cells.get(slot) ?? snapshot.content(slot));
    const old = snapshot.items.get(table) ?? [];
    const said = readList(table, columns, now, old.length, context);
    if (said !== null) editList({ host: snapshot, table, columns, old }, said, context, edits);
  }
  return edits;
}

/** Records of the lists of a new row. */
export function newLists(host: NewRow, cells: readonly (string | null)[], context: Context): NewRow[] {
  const rows: NewRow[] = [];
  const own = host.table.plan.columns.length;
  for (const [table, columns] of listsOf(host.table)) {
    const now = columns.map((column) => cells[own + host.table.inline.indexOf(column)] ?? "");
    if (now.every((cell) => cell === "")) continue;
    const said = readList(table, columns, now, 0, context);
    const all = said?.items ?? [];
    const items =
      columns[0].column.item === undefined ? all : withGaps(table, columns, all, all.map(isFilled)).filter((item) => item !== null);
    for (const item of items) pushAll(rows, newRows(table, item, { row: host }, { rank: Infinity, says: null }, context));
    if (said?.rest === "[]") {
      const { standInSlot } = columns[0];
      (host.values as (NewValue | null)[])[standInSlot] = { kind: Kind.EmptyList, text: "[]" };
    }
  }
  return rows;
}

function readList(
  table: CompiledTable,
  columns: readonly InlineColumn[],
  cells: readonly string[],
  before: number,
  context: Context,
): Said | null {
  const width = table.plan.columns.length + table.inline.length;
  const { sheet, row, problems } = context;
  if (columns[0].column.item !== undefined) {
    const count = Math.max(before, largest(columns.map(({ column }) => column.item! + 1)));
    const items = Array.from({ length: count }, (): Item => new Array<string | null>(width).fill(null));
    columns.forEach(({ column, slot }, i) => (items[column.item!][slot] = cells[i]));
    return { items, rest: null };
  }
  if (cells.every((cell) => holdsNoItem(cell))) return { items: [], rest: cells[0].trim() };
  const lists: (readonly (readonly string[])[])[] = [];
  for (const [i, { column }] of columns.entries()) {
    const { title, separator, pair } = column;
    const read = unpackItems(cells[i], { separator: separator!, pair });
    if ("fault" in read) {
      problems.add("pair-missing", { item: read.fault, pair: pair! }, sheet.place(row, title, cells[i]));
      return null;
    }
    lists.push(read.items);
  }
  const count = largest(lists.map((list) => list.length));
  const odd = lists.findIndex((list) => list.length !== count);
  if (odd >= 0) {
    const lengths = columns.map(({ column }, i) => `${column.title} ${lists[i].length}`);
    problems.add("pack-lengths", { lengths }, sheet.place(row, columns[odd].column.title, cells[odd]));
    return null;
  }
  const items = Array.from({ length: count }, (_, k) => {
    const item = new Array<string | null>(width).fill(null);
    columns.forEach(({ column, slot }, i) => {
      const parts = lists[i][k];
      if (column.pair !== undefined) item[table.node.nameSlot] = parts[0];
      item[slot] = spelled(table, slot, parts[parts.length - 1]);
    });
    return item;
  });
  const { nameSlot } = table.node;
  const twice = nameSlot < 0 ? undefined : items.find((item, i) => items.findIndex((one) => one[nameSlot] === item[nameSlot]) < i);
  if (twice !== undefined) {
    problems.add("name-twice", { name: twice[nameSlot] ?? "" }, sheet.place(row, columns[0].column.title, cells[0]));
    return null;
  }
  return { items, rest: null };
}

function isFilled(item: Item): boolean {
  return item.some((cell) => (cell ?? "") !== "");
}

/** Items by place; `null` where a place is cleared, unless it stays as a gap before others. */
function withGaps(
  table: CompiledTable,
  columns: readonly InlineColumn[],
  items: readonly Item[],
  filled: readonly boolean[],
): (Item | null)[] {
  const last = columns.some(({ column }) => column.gapsStay === true) ? filled.lastIndexOf(true) : -1;
  return items.map((item, k) => {
    if (filled[k]) return item;
    return k < last ? item.map((cell, slot) => (cell === "" ? spelled(table, slot, "") : cell)) : null;
  });
}

/** A place that is left blank is a value: in a list of plain values an empty text. */
function spelled({ plan }: CompiledTable, slot: number, text: string): string {
  return text === "" && slot < plan.columns.length && plan.columns[slot].at.steps.length === 0 ? "(empty)" : text;
}

/** A list of a record as the source has it, and the columns of the sheet that show it. */
interface List {
  readonly host: Snapshot;
  readonly table: CompiledTable;
  readonly columns: readonly InlineColumn[];
  readonly old: readonly Snapshot[];
}

function editList(list: List, { items, rest }: Said, context: Context, edits: ListEdits): void {
  const { host, table, columns, old } = list;
  const { sheet, row, problems } = context;
  const { standInSlot, column } = columns[0];
  const shown = [...new Set([...columns.map(({ slot }) => slot), ...(table.node.nameSlot >= 0 ? [table.node.nameSlot] : [])])];
  if (rest !== null && standInSlot >= 0) {
    if (old.length > 0 && rest === "") {
      // the list goes as a whole; where members repeat there is none, and its items go
      if (!context.repeats) {
        edits.standIns.push({ slot: standInSlot, content: "", value: { kind: Kind.Absent, text: "" } });
        return;
      }
    } else if (old.length > 0 && rest === "(null)") {
      problems.add("pack-null", {}, sheet.place(row, column.title, rest));
      return;
    } else if (old.length === 0 && rest !== host.content(standInSlot)) {
      const place = { table: host.table, slot: standInSlot, file: host.file, was: host.kinds[standInSlot] as Kind };
      const value = context.typer.read(rest, place, sheet.place(row, column.title, rest));
      if (value !== null) edits.standIns.push({ slot: standInSlot, content: rest, value });
      return;
    }
  }
  const cellsIn = (item: readonly (string | null)[]): string[] => shown.map((slot) => item[slot] ?? "");
  // a record that showed nothing before has not been cleared
  const showed = (k: number): boolean => k >= old.length || shown.some((slot) => old[k].content(slot) !== "");
  const placed =
    column.item === undefined
      ? items
      : withGaps(
          table,
          columns,
          items,
          items.map((item, k) => isFilled(item) || !showed(k)),
        );
  const aligned =
    column.item !== undefined
      ? alignPlaces(
          old.map(() => true),
          placed.map((item) => item !== null),
        )
      : table.node.nameSlot >= 0
        ? alignNamed(
            old.map((one) => one.content(table.node.nameSlot)),
            items.map((item) => item[table.node.nameSlot] ?? ""),
          )
        : alignItems(
            old.map((one) => cellsIn(one.contents)),
            items.map(cellsIn),
          );
  // what no column shows of an item stays with it
  const hides = table.node.nameSlot < 0 && old.some(({ rest, inside }) => !isZero(rest) || !isZero(inside));
  const now = placed.map((item) => (item === null ? null : cellsIn(item)));
  const was = old.map((one) => cellsIn(one.contents));
  const kept = hides ? keepIdentity(aligned, was, now, column.gapsStay) : aligned;
  const others = aligned.filter((one) => one.kind === "changed" && kept.some((other) => other.kind === "gone" && other.old === one.old));
  if (others.length > 0)
    problems.note("item-other", { title: column.title, row: sheet.seenRow(row), items: others.length }, host.table.plan.name);
  apply(list, { shown, items: placed as readonly Item[], aligned: kept }, context, edits);
}

/** What becomes of the items of a list: the slots that are shown of them, what they say now, and how that goes with what was. */
interface Alignment {
  readonly shown: readonly number[];
  readonly items: readonly Item[];
  readonly aligned: readonly Aligned[];
}

function apply({ host, table, old }: List, { shown, items, aligned }: Alignment, context: Context, edits: ListEdits): void {
  const made = (snapshot: Snapshot, cells: CellEdit[], removed: boolean): DifferingRow => ({
    snapshot,
    sheet: context.sheet,
    row: context.row,
    cells,
    parent: null,
    removed,
    pointer: "",
    source: {},
  });
  const besideOf = besideIn(
    aligned,
    old.map(({ unitStart, span }) => ({ start: unitStart, end: span.end })),
  );
  for (const one of aligned) {
    if (one.kind === "gone") edits.differing.push(made(old[one.old], [], true));
    else if (one.kind === "new") {
      const target = { place: host.place, of: host.table };
      pushAll(edits.news, newRows(table, items[one.now], target, { beside: besideOf(one.now), rank: one.now, says: null }, context));
    } else if (one.kind === "moved") {
      const placing = { beside: besideOf(one.now), rank: one.now, says: null };
      edits.differing.push({ ...made(old[one.old], [], false), placing, within: host });
    } else if (one.kind === "changed") {
      const snapshot = old[one.old];
      const item = items[one.now];
      const width = table.plan.columns.length;
      const lists = editLists(snapshot, new Map(shown.filter((slot) => slot >= width).map((slot) => [slot, item[slot] ?? ""])), context);
      pushAll(edits.differing, lists.differing);
      pushAll(edits.news, lists.news);
      const cells = shown.flatMap((slot) => (slot < width ? cellEdit(snapshot, slot, item[slot], context) : [])).concat(lists.standIns);
      if (cells.length > 0) edits.differing.push(made(snapshot, cells, false));
    }
  }
}

function cellEdit(snapshot: Snapshot, slot: number, content: string | null, context: Context): CellEdit[] {
  if (content === null || content === snapshot.content(slot)) return [];
  const value = valueOf(snapshot.table, slot, content, snapshot.kinds[slot] as Kind, context);
  return value === null ? [] : [{ slot, content, value }];
}

function valueOf(table: CompiledTable, slot: number, content: string, was: Kind, { typer, sheet, row, file }: Context): NewValue | null {
  return typer.read(content, { table, slot, file, was }, sheet.place(row, table.plan.columns[slot].title, content));
}

/** A new record of a list, and those of the lists in it. */
function newRows(table: CompiledTable, item: Item, target: Target, placing: Placing, context: Context): NewRow[] {
  const row = newRow(table, item, target, placing, context);
  return [row, ...newLists(row, item, context)];
}

function newRow(table: CompiledTable, item: Item, target: Target, placing: Placing, context: Context): NewRow {
  const values = item.slice(0, table.plan.columns.length).map((content, slot) => {
    const value = content === null || content === "" ? null : valueOf(table, slot, content, Kind.Absent, context);
    return value?.kind === Kind.Absent ? null : value;
  });
  return {
    table,
    sheet: context.sheet,
    row: context.row,
    name: "",
    contents: item,
    values,
    parentText: "",
    atTop: false,
    target,
    placing,
  };
}
