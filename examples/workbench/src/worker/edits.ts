/** What somebody does to a table, as a step that can be taken back. Places are those of the view; the step names rows. */
import type { Command, Hit, Range, Search, Where } from "../protocol";
import { picked, reordered, withAt, type Reordered } from "./sequence";
import { ACTION, MARK, REMOVE, type CellEdit, type NewRow, type Step, type Table } from "./table";

/** Why nothing was done. */
export class Refused extends Error {}

/** What an edit came to, and what is said of it. */
export interface Planned {
  readonly step: Step;
  readonly message: string;
  /** Rows that were moved. */
  readonly moved?: readonly number[];
}

export function planEdit(table: Table, command: Command): Planned {
  switch (command.kind) {
    case "put":
      return put(table, command.range, command.block, command.how);
    case "fill":
      return fill(table, command.range, command.how);
    case "clear":
      return clear(table, command.range, command.isCut === true);
    case "replace":
      return replace(table, command.search, command.becomes);
    case "insert":
      return insert(table, command.at, command.count);
    case "copy rows":
      return copyRows(table, command.from, command.to);
    case "remove rows":
      return removeRows(table, command.from, command.to);
    case "move rows":
      return moveRows(table, command.from, command.to, command.where);
  }
}

export const counted = (n: number, one: string, many = `${one}s`): string => `${n.toLocaleString("en")} ${n === 1 ? one : many}`;

function stepOf(table: Table, label: string, cells: readonly CellEdit[], came: readonly NewRow[] = [], went: readonly NewRow[] = []): Step {
  return { table: table.name, label, cells: cells.filter(({ was, now }) => was !== now), came, went };
}

/** A cell edit, or why there is none. */
function edit(table: Table, id: number, column: number, now: string): CellEdit {
  const was = table.cell(id, column);
  if (was !== now && !table.mayEdit(id, column)) {
    const { title, role } = table.columns[column];
    throw new Refused(
      role === "mark"
        ? "Fold marks say which record a row is: they stay as they are. Nothing was changed."
        : `"${title}" follows the source and is not edited in row ${table.number(id)}. Nothing was changed.`,
    );
  }
  return { row: id, column, was, now };
}

function put(table: Table, range: Range, block: readonly (readonly string[])[], how: "typed" | "pasted"): Planned {
  const width = Math.max(...block.map((row) => row.length));
  // one cell, or a whole pattern, fills what is selected
  const [high, wide] = [range.bottom - range.top + 1, range.right - range.left + 1];
  const rows = high % block.length === 0 && wide % width === 0 ? high : block.length;
  const columns = high % block.length === 0 && wide % width === 0 ? wide : width;
  if (range.left + columns > table.columns.length)
    throw new Refused(
      `What you paste has ${counted(columns, "column")}, and from here there are ${table.columns.length - range.left}. Nothing was pasted, so that nothing falls off.`,
    );
  const more = Math.max(0, range.top + rows - table.shown);
  if (more > 0 && table.view.filters.length > 0)
    throw new Refused(
      `What you paste has ${counted(rows, "row")}, and from here the filter shows ${table.shown - range.top}. Nothing was pasted.`,
    );
  const came = newRows(table, table.shown === 0 ? -1 : table.shownAt(table.shown - 1), more);
  const cells: CellEdit[] = [];
  const fresh = came.map((row) => ({ ...row, cells: [...row.cells] }));
  for (let r = 0; r < rows; r++) {
    const source = block[r % block.length];
    const added = fresh[range.top + r - table.shown];
    for (let c = 0; c < columns; c++) {
      const text = source[c % width];
      if (text === undefined) continue;
      if (added === undefined) cells.push(edit(table, table.shownAt(range.top + r), range.left + c, text));
      else added.cells[range.left + c] = text;
    }
  }
  const step = stepOf(table, "", cells, fresh);
  const label =
    how === "typed" && step.cells.length <= 1
      ? `edit of "${table.columns[range.left].title}"`
      : `${how === "typed" ? "edit" : "paste"} of ${counted(rows * columns, "cell")}`;
  const message =
    how === "typed" && rows * columns === 1
      ? ""
      : `${counted(step.cells.length, "cell")} changed${more > 0 ? `, ${counted(more, "row")} added below` : ""}.`;
  return { step: { ...step, label }, message };
}

function fill(table: Table, { top, left, bottom, right }: Range, how: "down" | "series"): Planned {
  const cells: CellEdit[] = [];
  for (let column = left; column <= right; column++) {
    const first = table.cell(table.shownAt(top), column);
    const next = how === "series" ? series(first, bottom === top ? first : table.cell(table.shownAt(top + 1), column)) : () => first;
    for (let row = top + 1; row <= bottom; row++) cells.push(edit(table, table.shownAt(row), column, next(row - top)));
  }
  const step = stepOf(table, how === "down" ? "fill down" : "fill with a series", cells);
  return { step, message: `${counted(step.cells.length, "cell")} filled.` };
}

/** Goes on from the first two cells: numbers by their difference, days by days, and texts that end in a number. */
function series(first: string, second: string): (place: number) => string {
  if (/^-?\d+(?:\.\d+)?$/.test(first)) {
    const digits = Math.max(...[first, second].map((text) => /\.(\d+)$/.exec(text)?.[1].length ?? 0));
    const scale = 10 ** digits;
    const start = Math.round(Number(first) * scale);
    const by = second !== first && /^-?\d+(?:\.\d+)?$/.test(second) ? Math.round(Number(second) * scale) - start : scale;
    const width = /^0\d/.test(first) ? first.length : 0;
    return (place) => ((start + place * by) / scale).toFixed(digits).padStart(width, "0");
  }
  if (/^\d{4}-\d\d-\d\d$/.test(first) && !Number.isNaN(Date.parse(first))) {
    const day = 86_400_000;
    const by = /^\d{4}-\d\d-\d\d$/.test(second) && second !== first ? Date.parse(second) - Date.parse(first) : day;
    return (place) => new Date(Date.parse(first) + place * by).toISOString().slice(0, 10);
  }
  const ended = /^(.*?)(\d+)$/s.exec(first);
  if (ended === null) return () => first;
  const other = /^(.*?)(\d+)$/s.exec(second);
  const by = other !== null && second !== first && other[1] === ended[1] ? Number(other[2]) - Number(ended[2]) : 1;
  return (place) => `${ended[1]}${String(Number(ended[2]) + place * by).padStart(ended[2].length, "0")}`;
}

function clear(table: Table, { top, left, bottom, right }: Range, isCut: boolean): Planned {
  const cells: CellEdit[] = [];
  for (let row = top; row <= bottom; row++)
    for (let column = left; column <= right; column++) {
      const id = table.shownAt(row);
      if (table.mayEdit(id, column)) cells.push(edit(table, id, column, ""));
    }
  const step = stepOf(table, isCut ? "cut" : "clearing", cells);
  return { step, message: `${counted(step.cells.length, "cell")} cleared.` };
}

// ---- find and replace

export function matcher({ text, isExact, isWhole }: Search): (cell: string) => boolean {
  const plain = (one: string): string => (isExact ? one : one.toLowerCase());
  const wanted = plain(text);
  return (cell) => (isWhole ? plain(cell) === wanted : wanted !== "" && plain(cell).includes(wanted));
}

export function replacer({ text, isExact, isWhole }: Search, becomes: string): (cell: string) => string {
  if (isWhole) return () => becomes;
  const pattern = new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"), isExact ? "gu" : "giu");
  return (cell) => cell.replace(pattern, () => becomes);
}

interface CellHit {
  readonly row: number;
  readonly id: number;
  readonly column: number;
  readonly cell: string;
}

/** Cells of the view that hold a text: how many, and one after the other. */
function hitsIn(table: Table, search: Search): { readonly total: number; readonly hits: Iterable<CellHit> } {
  const found = matcher(search);
  const columns = search.columns ?? table.columns.map((_, column) => column).filter((column) => column > ACTION);
  const counts = table.hits(search, columns, found);
  let total = 0;
  for (let row = 0; row < table.shown; row++) total += counts[table.shownAt(row)];
  const hits = function* (): Generator<CellHit> {
    for (let row = 0; row < table.shown; row++) {
      const id = table.shownAt(row);
      if (counts[id] === 0) continue;
      const cells = table.cells(id);
      for (const column of columns) if (found(cells[column] ?? "")) yield { row, id, column, cell: cells[column] ?? "" };
    }
  };
  return { total, hits: hits() };
}

export function searchIn(table: Table, search: Search, becomes: string, most: number): { total: number; hits: Hit[] } {
  const hits: Hit[] = [];
  if (search.text === "" && !search.isWhole) return { total: 0, hits };
  const made = replacer(search, becomes);
  const { total, hits: all } = hitsIn(table, search);
  for (const { row, id, column, cell } of all) {
    if (hits.push({ row, column, number: table.number(id), cell, becomes: made(cell) }) === most) break;
  }
  return { total, hits };
}

function replace(table: Table, search: Search, becomes: string): Planned {
  const made = replacer(search, becomes);
  let closed = 0;
  const cells: CellEdit[] = [];
  for (const { id, column, cell } of hitsIn(table, search).hits) {
    if (table.mayEdit(id, column)) cells.push({ row: id, column, was: cell, now: made(cell) });
    else closed++;
  }
  const step = stepOf(table, `replacing "${search.text}"`, cells);
  const left = closed === 0 ? "" : ` ${counted(closed, "cell")} in columns that are not edited stayed as they are.`;
  return { step, message: `${counted(step.cells.length, "cell")} replaced.${left}` };
}

// ---- rows

function newRows(table: Table, after: number, count: number, cells: readonly (readonly string[])[] = []): NewRow[] {
  let behind = after;
  return Array.from({ length: count }, (_, i) => {
    const row = { id: table.newId(), after: behind, cells: cells[i] ?? table.columns.map(() => "") };
    behind = row.id;
    return row;
  });
}

/** New rows at a place of the view: they are in what the row before them is in. */
function insert(table: Table, at: number, count: number): Planned {
  const after = at === 0 || table.shown === 0 ? -1 : table.shownAt(Math.min(at, table.shown) - 1);
  const parent = table.columns.findIndex(({ role }) => role === "parent");
  const near = table.shown === 0 ? -1 : table.shownAt(Math.min(at, table.shown - 1));
  const model = after >= 0 ? after : near;
  const said = parent < 0 || model < 0 ? "" : table.cell(model, parent);
  const blank = table.columns.map((_, column) => (column === parent ? said : ""));
  const came = newRows(
    table,
    after,
    count,
    Array.from({ length: count }, () => blank),
  );
  return { step: stepOf(table, count === 1 ? "new row" : `${count} new rows`, [], came), message: `${counted(count, "row")} added.` };
}

/** Copies stand below the rows that they are copies of; keys are left for people to write. */
function copyRows(table: Table, from: number, to: number): Planned {
  const copies: string[][] = [];
  for (let row = from; row <= to; row++)
    copies.push(
      table
        .cells(table.shownAt(row))
        .map((cell, column) => (column === MARK || column === ACTION || table.columns[column].role === "key" ? "" : cell)),
    );
  const came = newRows(table, table.shownAt(to), copies.length, copies);
  return {
    step: stepOf(table, `copy of ${counted(came.length, "row")}`, [], came),
    message: `${counted(came.length, "row")} copied below.`,
  };
}

/** Rows of records say that these are to go; rows that are new go. When all of them say so already, they stay. */
function removeRows(table: Table, from: number, to: number): Planned {
  const ids = Array.from({ length: to - from + 1 }, (_, i) => table.shownAt(from + i));
  const old = ids.filter((id) => !table.isNew(id));
  const isBack = old.length > 0 && old.length === ids.length && old.every((id) => table.cell(id, ACTION) === REMOVE);
  const cells = old.map((id) => edit(table, id, ACTION, isBack ? "" : REMOVE));
  const went = ids.filter((id) => table.isNew(id)).map((id) => table.newRow(id));
  const rows = counted(ids.length, "row");
  return {
    step: stepOf(table, isBack ? `keeping ${rows}` : `removing ${rows}`, cells, [], went),
    message: isBack ? `${rows} stay.` : `${rows} will go.`,
  };
}

/** Rows stand elsewhere in the sheet, next to each other. */
function moveRows(table: Table, from: number, to: number, where: Where): Planned {
  if (!table.isOrdered) throw new Refused(`Where a row of ${table.name} stands says nothing. Nothing was moved.`);
  if (table.view.sort !== null)
    throw new Refused("The rows are shown sorted: show them as in the source, and move them then. Nothing was moved.");
  const ids = Array.from({ length: to - from + 1 }, (_, i) => table.shownAt(from + i));
  const rows = counted(ids.length, "row");
  if ((where === "up" && from === 0) || (where === "down" && to === table.shown - 1))
    throw new Refused(`${ids.length === 1 ? "It is" : "They are"} ${where === "up" ? "first" : "last"} already.`);
  const all = table.order();
  const going = new Set(ids);
  const others = picked(all, (id) => !going.has(id));
  const at = placeAmong(table, others, going, { from, to, where });
  const order = reordered(all, withAt(others, at, ids));
  const step = stepOf(table, `moving ${rows}`, []);
  if (order === null) return { step, message: `${rows} ${ids.length === 1 ? "stands" : "stand"} there already.` };
  const message = `${rows} moved: ${ids.length === 1 ? "it is" : "the first is"} row ${at + 2} now.`;
  return { step: { ...step, order }, message, moved: ids };
}

/** How many of the other rows stand in front of those that are moved. */
function placeAmong(
  table: Table,
  others: Int32Array,
  going: ReadonlySet<number>,
  { from, to, where }: { readonly from: number; readonly to: number; readonly where: Where },
): number {
  if (where === "up") return others.indexOf(table.shownAt(from - 1));
  if (where === "down") return others.indexOf(table.shownAt(to + 1)) + 1;
  // in front of a row that is moved itself: in front of the next one that is not
  let number = Math.max(2, where);
  while (going.has(table.idAt(number))) number++;
  const next = number - 2 < table.count ? others.indexOf(table.idAt(number)) : -1;
  return next < 0 ? others.length : next;
}

/** A row that was moved stands behind the one again that it followed when it was hatched. */
export function broughtHome(table: Table, id: number): Reordered | null {
  const all = table.order();
  const others = picked(all, (one) => one !== id);
  const at = id === 0 ? 0 : others.indexOf(id - 1) + 1;
  return reordered(all, withAt(others, at, [id]));
}
