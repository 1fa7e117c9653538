/** A table while it is edited: its rows as they were hatched, what was edited on top, and the order in which they are looked at. */
import { PLAIN_VIEW, type ColumnInfo, type Fault, type RowInfo, type Search, type View } from "../protocol";
import { Column } from "./column";
import type { BaseRows } from "./rows";
import { picked, Sequence, type Reordered } from "./sequence";

export const MARK = 0;
export const ACTION = 1;
export const REMOVE = "remove";

/** A row that was added: it stands behind another one, or (-1) in front of all. */
export interface NewRow {
  readonly id: number;
  readonly after: number;
  readonly cells: readonly string[];
}

export interface CellEdit {
  readonly row: number;
  readonly column: number;
  readonly was: string;
  readonly now: string;
}

/**
 * One step of editing, which can be taken back: cells, rows that came, rows that went (new ones only: others say `remove`), and
 * rows that stand elsewhere once these have come and gone.
 */
export interface Step {
  readonly table: string;
  readonly label: string;
  readonly cells: readonly CellEdit[];
  readonly came: readonly NewRow[];
  readonly went: readonly NewRow[];
  readonly order?: Reordered;
}

/** How many edits a step is; none when it changes nothing. */
export function editsIn({ cells, came, went, order }: Step): number {
  return cells.length + came.length + went.length + (order === undefined ? 0 : 1);
}

export class Table {
  view: View = PLAIN_VIEW;
  private readonly edits = new Map<number, Map<number, string>>();
  /** Cells of new rows. */
  private readonly fresh = new Map<number, string[]>();
  private nextId: number;
  private readonly sequence: Sequence;
  /** Ids of the rows that the view shows, in its order; `null`: all in that of the sheet. */
  private shownRows: Int32Array | null = null;
  /** By row: what is wrong with its cells. */
  faults = new Map<number, readonly Fault[]>();

  constructor(
    readonly name: string,
    readonly file: string,
    readonly also: readonly string[],
    readonly inside: string | null,
    readonly depth: number,
    readonly columns: readonly ColumnInfo[],
    readonly base: BaseRows,
    /** Where a row stands says something: what is moved is an edit. */
    readonly isOrdered: boolean,
  ) {
    this.nextId = base.count;
    this.sequence = new Sequence(base);
  }

  get titles(): readonly string[] {
    return this.base.titles;
  }

  get count(): number {
    return this.sequence.count;
  }

  get shown(): number {
    return this.shownRows?.length ?? this.count;
  }

  get touched(): number {
    const { size } = this.edits;
    if (this.moved.size === 0) return size + this.fresh.size;
    return new Set([...this.edits.keys(), ...this.moved]).size + this.fresh.size;
  }

  /** Rows that stand elsewhere than they were hatched. */
  get moved(): ReadonlySet<number> {
    return this.sequence.moved();
  }

  isNew(id: number): boolean {
    return id >= this.base.count;
  }

  newId(): number {
    return this.nextId++;
  }

  // ---- cells

  cells(id: number): string[] {
    const fresh = this.fresh.get(id);
    if (fresh !== undefined) return [...fresh];
    const cells = this.base.row(id);
    this.edits.get(id)?.forEach((text, column) => (cells[column] = text));
    return cells;
  }

  cell(id: number, column: number): string {
    return this.fresh.get(id)?.[column] ?? this.edits.get(id)?.get(column) ?? (this.isNew(id) ? "" : (this.base.row(id)[column] ?? ""));
  }

  /** What the source has there; `null` in new rows. */
  was(id: number, column: number): string | null {
    return this.isNew(id) ? null : (this.base.row(id)[column] ?? "");
  }

  newRow(id: number): NewRow {
    const place = this.sequence.placeOf(id);
    return { id, after: place === 0 ? -1 : this.sequence.idAt(place - 1), cells: this.cells(id) };
  }

  /** All new rows, in their order. */
  newRows(): NewRow[] {
    return [...this.fresh.keys()].sort((a, b) => this.sequence.placeOf(a) - this.sequence.placeOf(b)).map((id) => this.newRow(id));
  }

  mayEdit(id: number, column: number): boolean {
    const { role, closed } = this.columns[column];
    return role === "mark" ? this.isNew(id) : !closed || this.isNew(id);
  }

  apply({ cells, came, went, order }: Step, isForward: boolean): void {
    if (order !== undefined && !isForward) this.sequence.put(order, order.was);
    const [arriving, leaving] = isForward ? [came, went] : [went, came];
    for (const { id, cells: texts } of arriving) {
      this.fresh.set(id, [...texts]);
      this.nextId = Math.max(this.nextId, id + 1);
    }
    for (const { row, column, was, now } of cells) this.set(row, column, isForward ? now : was);
    for (const { id } of leaving) this.fresh.delete(id);
    const left = new Set(leaving.map(({ id }) => id));
    if (arriving.length + leaving.length > 0) this.sequence.take(left, arriving);
    if (order !== undefined && isForward) this.sequence.put(order, order.now);
    if (arriving.length + leaving.length > 0 || order !== undefined) this.showAnew(left, arriving, order !== undefined);
  }

  private set(id: number, column: number, text: string): void {
    const fresh = this.fresh.get(id);
    if (fresh !== undefined) {
      fresh[column] = text;
      return;
    }
    const edits = this.edits.get(id) ?? new Map<number, string>();
    if (text === (this.base.row(id)[column] ?? "")) edits.delete(column);
    else edits.set(column, text);
    if (edits.size === 0) this.edits.delete(id);
    else this.edits.set(id, edits);
  }

  /** Rows in which something was edited, with the columns; new rows have all. */
  touchedRows(): { readonly id: number; readonly columns: readonly number[] }[] {
    return [
      ...[...this.edits].map(([id, edits]) => ({ id, columns: [...edits.keys()] })),
      ...[...this.fresh.keys()].map((id) => ({ id, columns: this.columns.map((_, column) => column) })),
    ];
  }

  /** Rows whose mark stands in a new row, too: which of them the record is has to be said. */
  markedTwice(): number[] {
    const marks = new Set([...this.fresh.values()].map((cells) => cells[MARK].trim()).filter((mark) => mark !== ""));
    return marks.size === 0 ? [] : [...this.idsWith(marks).values()];
  }

  /** The rows of records, by their marks. */
  idsWith(marks: ReadonlySet<string>): Map<string, number> {
    const ids = new Map<string, number>();
    this.base.forEachIn(MARK, (id, bytes, from, to) => {
      const mark = utf8.decode(bytes.subarray(from, to));
      if (marks.has(mark)) ids.set(mark, id);
    });
    return ids;
  }

  // ---- order

  /** All rows, in the order of the sheet. */
  order(): Int32Array {
    return this.sequence.all();
  }

  /** Number of a row in the sheet: the titles are row 1. */
  number(id: number): number {
    return this.sequence.placeOf(id) + 2;
  }

  /** The row with a number. */
  idAt(number: number): number {
    return this.sequence.idAt(number - 2);
  }

  /** The row at a place of the view. */
  shownAt(place: number): number {
    return this.shownRows === null ? this.sequence.idAt(place) : this.shownRows[place];
  }

  /** Where the view shows a row, or -1. */
  placeOf(id: number): number {
    if (this.shownRows === null) return this.number(id) - 2;
    return this.shownRows.indexOf(id);
  }

  look(view: View): void {
    this.view = view;
    const { sort, filters, only } = view;
    if (sort === null && filters.length === 0 && only === "all") {
      this.shownRows = null;
      return;
    }
    const wanted = filters.map(({ column, values }) => {
      const cells = this.column(column);
      const chosen = new Set(values);
      return { cells, isChosen: cells.values.map((value) => chosen.has(value)) };
    });
    const touched = new Set([...this.touchedRows().map(({ id }) => id), ...this.moved]);
    const passes = (id: number): boolean => {
      if (only === "touched" && !touched.has(id)) return false;
      if (only === "faulty" && !this.faults.has(id)) return false;
      return wanted.every(({ cells, isChosen }) => isChosen[cells.at(id)]);
    };
    const kept = picked(this.order(), passes);
    this.shownRows = sort === null ? kept : this.sorted(kept, sort.column, sort.down);
  }

  /** The cells of a column as they are now. */
  column(column: number): Column {
    const cells = new Column(this.nextId).filledFrom(this.base, column);
    for (const [id, edits] of this.edits) if (edits.has(column)) cells.set(id, edits.get(column)!);
    for (const [id, row] of this.fresh) cells.set(id, row[column]);
    return cells;
  }

  /** How many cells of each row, by id, are `found`; 255 stands for more, too. */
  hits(search: Search, columns: readonly number[], found: (cell: string) => boolean): Uint8Array {
    const counts = new Uint8Array(this.nextId);
    const put = (id: number, count: number): void => void (counts[id] = Math.min(255, count));
    const count = (id: number, cells: readonly string[]): void => put(id, columns.filter((column) => found(cells[column] ?? "")).length);
    this.base.rowsWith(search, columns, put, count);
    for (const { id } of this.touchedRows()) count(id, this.cells(id));
    return counts;
  }

  private sorted(ids: Int32Array, column: number, down: boolean): Int32Array {
    const cells = this.column(column);
    const { values } = cells;
    const order = Array.from(values, (_, number) => number).sort((a, b) => (down ? -1 : 1) * compareTexts(values[a], values[b]));
    // blank cells are last, whatever the direction
    order.sort((a, b) => Number(values[a] === "") - Number(values[b] === ""));
    const ranks = new Uint32Array(values.length);
    order.forEach((number, rank) => (ranks[number] = rank));
    // each rank begins where the rows with lower ones end; what is alike keeps its order
    const next = new Uint32Array(values.length + 1);
    for (const id of ids) next[ranks[cells.at(id)] + 1]++;
    for (let rank = 1; rank < next.length; rank++) next[rank] += next[rank - 1];
    const sorted = new Int32Array(ids.length);
    for (const id of ids) sorted[next[ranks[cells.at(id)]]++] = id;
    return sorted;
  }

  /** Rows that came are shown behind those that they stand behind, whatever the view; the others stay where they are. */
  private showAnew(left: ReadonlySet<number>, arrived: readonly NewRow[], isReordered: boolean): void {
    if (this.shownRows === null) return;
    const shown = [...this.shownRows].filter((id) => !left.has(id));
    for (const { id, after } of arrived) if (!shown.includes(id)) shown.splice(shown.indexOf(after) + 1, 0, id);
    if (isReordered && this.view.sort === null) shown.sort((a, b) => this.sequence.placeOf(a) - this.sequence.placeOf(b));
    this.shownRows = Int32Array.from(shown);
  }

  // ---- for the page

  window(from: number, to: number): RowInfo[] {
    const rows: RowInfo[] = [];
    for (let place = from; place < Math.min(to, this.shown); place++) rows.push(this.rowInfo(this.shownAt(place)));
    return rows;
  }

  private rowInfo(id: number): RowInfo {
    const cells = this.cells(id);
    const edits = this.edits.get(id);
    const isMoved = this.moved.has(id);
    const state = this.isNew(id) ? "new" : cells[ACTION] === REMOVE ? "going" : edits === undefined ? "as it was" : "changed";
    return { id, number: this.number(id), cells, state, isMoved, edited: [...(edits?.keys() ?? [])], faults: this.faults.get(id) ?? [] };
  }
}

const utf8 = new TextDecoder();
const collator = new Intl.Collator(undefined, { numeric: true });
function compareTexts(one: string, other: string): number {
  const [a, b] = [Number(one), Number(other)];
  return one.trim() !== "" && other.trim() !== "" && !Number.isNaN(a) && !Number.isNaN(b) && a !== b ? a - b : collator.compare(one, other);
}
