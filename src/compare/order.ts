/**
 * Order in lists: a row goes where its place among the others is said, by a column with the place (`:index`), or by where it
 * stands in the sheet (`order: sheet` in a plan). As many records as can be stay where they are; the others go beside them.
 */
import { besideIn, longestRise } from "../layouts/align.js";
import type { Placing } from "../layouts/layout.js";
import { pushTo } from "../model/push-to.js";
import { canOrder, PLACE_TITLE } from "../model/plan.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft, OrderedList } from "../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../rows/row-edits.js";
import { Action } from "../rows/sheet-index.js";
import { listOfRow, listOfSnapshot, listOfTarget, placeIn } from "./places.js";

/** A record of the source in its list. */
interface Held {
  readonly place: number;
  /** Its place in the list, from 0. */
  readonly index: number;
  readonly start: number;
  readonly end: number;
}

/** A record that will be in a list: one that was there already, or a row that comes. */
type Item = Held | DifferingRow | NewRow;

function isHeld(item: Item): item is Held {
  return "index" in item;
}

interface List {
  readonly table: CompiledTable;
  readonly target: Target;
  readonly held: Held[];
  /** Rows that come into it. */
  readonly coming: (DifferingRow | NewRow)[];
}

/** Says where rows go that do not go behind all others, and which rows leave their place in their list. */
export async function orderRows(draft: Draft, ctx: Context, mayMove: boolean): Promise<Draft> {
  const tables = ctx.compiled.tables.filter((table) => canOrder(table.plan) && isAsked(table, draft, ctx));
  if (tables.length === 0) return draft;
  const lists = await readLists(tables, draft, ctx);
  const orders: OrderedList[] = [];
  const placings = new Map<DifferingRow | NewRow, Placing>();
  const moved = new Map<string, { list: List; was: Held; placing: Placing }>();
  for (const list of lists) {
    const order = list.table.plan.order === "sheet" ? bySheet(list, ctx, mayMove) : byPlace(list, draft, ctx);
    const inPlace = order.every((item, i) => isHeld(item) && (i === 0 || (order[i - 1] as Held).index < item.index));
    if (inPlace) continue;
    for (const { item, placing } of placingsIn(list, order)) {
      if (isHeld(item)) moved.set(`${list.table.index} ${item.place}`, { list, was: item, placing });
      else placings.set(item, placing);
    }
    orders.push({ table: list.table, records: order.map((item) => (isHeld(item) ? item.place : item)) });
  }
  return withMoves({ ...draft, placings, orders }, moved, ctx);
}

/** Does a row of the table say where it goes; or may one stand elsewhere in the sheet than in the source? */
function isAsked(table: CompiledTable, { rows, news, moves }: Draft, { sheets, base }: Context): boolean {
  const sheet = sheets[table.index];
  if (sheet === null) return false;
  if (table.plan.order !== "sheet") {
    const { indexSlot } = table.node;
    if (indexSlot < 0) return false;
    const said = news.some((row) => row.table === table && (row.contents[indexSlot] ?? "").trim() !== "");
    return said || rows.some((row) => row.snapshot.table === table && row.toPlace !== undefined);
  }
  if (news.some((row) => row.table === table) || [...moves.keys()].some((row) => row.snapshot.table === table)) return true;
  for (let place = 0, last = 0; place < base.tables[table.index].records; place++) {
    const row = sheet.rowOf(place);
    if (row > 0 && row < last) return true;
    last = Math.max(last, row);
  }
  return false;
}

/** The lists in question, in one pass, with the rows that come into them. */
async function readLists(tables: readonly CompiledTable[], draft: Draft, ctx: Context): Promise<List[]> {
  const lists = new Map<string, List>();
  const at = (table: CompiledTable, word: string, target: Target): List => {
    const id = `${table.index} ${word}`;
    const list = lists.get(id) ?? { table, target, held: [], coming: [] };
    lists.set(id, list);
    return list;
  };
  for (const row of draft.news)
    if (tables.includes(row.table) && row.target !== null && row.placing === undefined)
      at(row.table, listOfTarget(row.target, row.table), row.target).coming.push(row);
  for (const [row, target] of draft.moves) {
    const { table } = row.snapshot;
    if (tables.includes(table) && row.placing === undefined) at(table, listOfTarget(target, table), target).coming.push(row);
  }
  const edited = new Set(draft.rows.flatMap((row) => (row.toPlace === undefined ? [] : [listId(row)])));
  const gone = new Set<string>();
  for (const row of draft.rows) if (row.removed || draft.moves.has(row)) gone.add(recordId(row.snapshot));
  const sizes = new Map<string, number>();
  await ctx.records.rows((row, assembler) => {
    const { table, place, parent } = row;
    if (!tables.includes(table)) return;
    const word = listOfRow(row, assembler.file);
    const id = `${table.index} ${word}`;
    const index = sizes.get(id) ?? 0;
    sizes.set(id, index + 1);
    if (table.plan.order !== "sheet" && !lists.has(id) && !edited.has(id)) return;
    if (gone.has(recordId(row)) || draft.gone.get(table)?.has(place) === true) return;
    const target = parent === null ? { file: assembler.file } : { place: parent.place, of: parent.table };
    at(table, word, target).held.push({ place, index, start: row.unitStart, end: row.end });
  });
  return [...lists.values()];
}

function listId({ snapshot }: DifferingRow): string {
  return `${snapshot.table.index} ${listOfSnapshot(snapshot)}`;
}

function recordId({ table, place }: { readonly table: CompiledTable; readonly place: number }): string {
  return `${table.index} ${place}`;
}

/** The order in which the rows stand in the sheet; a record that has no row there stays behind the one that it follows. */
function bySheet({ table, held, coming }: List, { sheets }: Context, mayMove: boolean): Item[] {
  const sheet = sheets[table.index]!;
  const rowOf = (item: Item): number => (isHeld(item) ? sheet.rowOf(item.place) : item.row);
  const there = held.filter((item) => rowOf(item) > 0);
  // records that may not move keep their order: what is new goes behind the row above it
  const order: Item[] = mayMove ? [...there, ...coming].sort((one, other) => rowOf(one) - rowOf(other)) : [...there];
  if (!mayMove)
    for (const row of [...coming].sort((one, other) => rowOf(one) - rowOf(other)))
      order.splice(order.findLastIndex((item) => rowOf(item) < row.row) + 1, 0, row);
  const behind = new Map<Held | null, Held[]>();
  let last: Held | null = null;
  for (const item of held) {
    if (rowOf(item) > 0) last = item;
    else pushTo(behind, last, item);
  }
  const unseen = (item: Held | null): Held[] => behind.get(item) ?? [];
  return [...unseen(null), ...order.flatMap((item) => [item, ...(isHeld(item) ? unseen(item) : [])])];
}

/** The order in which each row that says its place has it, as far as the list reaches; the others follow each other as they did. */
function byPlace({ table, held, coming }: List, { rows }: Draft, { findings }: Context): Item[] {
  const { indexSlot } = table.node;
  const { title } = table.plan.columns[indexSlot];
  const edited = new Map(
    rows.flatMap((row) => (row.snapshot.table === table && row.toPlace !== undefined ? [[row.snapshot.place, row]] : [])),
  );
  const said = new Map<number, { item: Item; row: DifferingRow | NewRow }>();
  const free: Item[] = [];
  const put = (item: Item, row: DifferingRow | NewRow | undefined, to: number | undefined): void => {
    const first = to === undefined ? undefined : said.get(to);
    if (row === undefined || to === undefined) free.push(item);
    else if (first === undefined) said.set(to, { item, row });
    else {
      const facts = { place: to, row: first.row.sheet.seenRow(first.row.row) };
      findings.add("place-twice", facts, row.sheet.place(row.row, title, String(to)));
      free.push(item);
    }
  };
  for (const item of held) {
    const row = edited.get(item.place);
    put(item, row, row?.toPlace);
  }
  for (const row of coming) put(row, row, "snapshot" in row ? row.toPlace : placeIn(row.contents[indexSlot] ?? ""));
  const order: Item[] = [];
  const wanted = [...said].sort(([one], [other]) => one - other);
  while (wanted.length + free.length > 0) {
    const isDue = wanted.length > 0 && (free.length === 0 || wanted[0][0] <= order.length + 1);
    order.push(isDue ? wanted.shift()![1].item : free.shift()!);
  }
  return order;
}

/** Where the items go that do not stay. */
function placingsIn({ table, held, target }: List, order: readonly Item[]): { item: Item; placing: Placing }[] {
  const indexOf = new Map(held.map((item, i) => [item, i]));
  const stays = new Set(longestRise(order.flatMap((item) => (isHeld(item) ? [indexOf.get(item)!] : []))));
  const isStaying = (item: Item): boolean => isHeld(item) && stays.has(indexOf.get(item)!);
  const staying = order.flatMap((item, now) => (isStaying(item) ? [{ kind: "kept" as const, old: indexOf.get(item as Held)!, now }] : []));
  const besideOf = besideIn(staying, held);
  const { indexSlot } = table.node;
  const column = indexSlot < 0 ? PLACE_TITLE : table.plan.columns[indexSlot].title;
  return order.flatMap((item, rank): { item: Item; placing: Placing }[] => {
    if (isStaying(item)) return [];
    const placing = { beside: "row" in target ? undefined : besideOf(rank), rank };
    if (isHeld(item)) {
      const says = { column, old: String(item.index + 1), new: String(rank + 1), holds: 0 };
      return [{ item, placing: { ...placing, says } }];
    }
    if (!("snapshot" in item)) return [{ item, placing: { ...placing, says: null } }];
    const says = { column: table.holder ?? "", old: item.snapshot.parentIdent, new: item.parent ?? "", holds: 0 };
    return [{ item, placing: { ...placing, says } }];
  });
}

/** The draft with the rows that leave their place: those that say nothing else are not in it yet. */
async function withMoves(
  draft: Draft,
  moved: ReadonlyMap<string, { list: List; was: Held; placing: Placing }>,
  ctx: Context,
): Promise<Draft> {
  if (moved.size === 0) return draft;
  const placings = new Map(draft.placings);
  const moves = new Map(draft.moves);
  const known = new Map(draft.rows.map((row) => [recordId(row.snapshot), row]));
  const made: DifferingRow[] = [];
  const put = (row: DifferingRow, { list, placing }: { list: List; placing: Placing }): void => {
    placings.set(row, placing);
    moves.set(row, list.target);
  };
  const missing = new Set([...moved.keys()].filter((id) => !known.has(id)));
  for (const [id, one] of moved) if (!missing.has(id)) put(known.get(id)!, one);
  if (missing.size > 0)
    await ctx.records.rows((row, assembler) => {
      const id = recordId(row);
      if (!missing.has(id)) return;
      const sheet = ctx.sheets[row.table.index]!;
      const snapshot = ctx.base.snapshot(row, sheet.rowOf(row.place), Action.None, assembler);
      const one = { snapshot, sheet, row: snapshot.sheetRow, cells: [], parent: null, removed: false, pointer: "", source: {} };
      made.push(one);
      put(one, moved.get(id)!);
    });
  for (const row of made) {
    row.pointer = await ctx.pointers.of(row.snapshot.trail);
    row.source = ctx.pointers.source(row.snapshot.file);
  }
  // records that have no row of their own stay with those that they follow, and are not told of
  const seen = made.filter((row) => row.row > 0).length;
  const rows = [...draft.rows, ...made];
  // what a row already said differs: the others were counted as unchanged
  return { ...draft, rows, moves, placings, unchanged: draft.unchanged - seen };
}
