/**
 * An edited table: read once from end to end, kept as a few numbers a row.
 *
 * For every row with a mark: the record it stands for, where the sheet finds it again, and a hash of its cells.
 * A row whose hash equals that of the baseline needs no parsing. New rows are kept as text.
 */
import { hashBytes, Hash } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { nearest } from "../errors/nearest.js";
import type { FoundCode, Facts } from "../errors/words.js";
import type { Placing, SheetPlace, TableRow, TableRows } from "../layouts/layout.js";
import type { CompiledTable } from "../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE, PROBLEM_TITLE } from "../model/plan.js";
import { normalised } from "../cells/normalised.js";
import { parseMark } from "../model/marks.js";
import type { ProblemPlace } from "../model/findings.js";
import type { ProblemList } from "../model/problem-list.js";
import type { OpenSheet, RowTaker, RowView } from "../sheets/container.js";
import { Column } from "./columns.js";
import { pushTo } from "../model/push-to.js";
import { isInOrder, MergeReader } from "./merge-reader.js";
import { Action, IndexPages, type SheetEntry, type SheetIndex } from "./sheet-index.js";
import { titleIn } from "../cells/spelling.js";

/** Cells by column of the sheet; one that is not there says nothing. */
export type Cells = readonly (string | undefined)[];

export interface NewSheetRow {
  readonly row: number;
  readonly cells: Cells;
  /** What the row calls itself for others that refer to it: `+x`. */
  readonly name?: string;
  /** What is needed to take the row for one that has a mark, where rows are matched by other columns. */
  readonly stand?: SheetEntry;
  /** Where the row stands in the sheet, when its cells have not been read. */
  readonly at?: { readonly offset: number; readonly length: number };
}

/** How a row says which record it is: by the cell itself, or by the label beside a blank code. */
export type MatchedBy = "cell" | "label";

/** A further row with a mark that another row has already. */
export type SheetCopy = NewSheetRow & SheetEntry;

/** What a sheet is read from. */
export interface SheetInput {
  readonly table: CompiledTable;
  readonly sheet: OpenSheet;
  /** All tables, to tell marks of others. */
  readonly tables: readonly CompiledTable[];
  readonly problems: ProblemList;
  readonly records: number;
  /** All rows are new: there is no source whose records the marks could name. */
  readonly fresh: boolean;
  /** The rows, where a layout has read them. */
  readonly laid?: TableRows;
}

/** Lines of words stand above titles in no more rows. */
const MOST_ABOVE = 20;

const SEPARATORS = [",", ";", "\t", "|"];

const NOTHING = new DataView(new ArrayBuffer(4));

export class Sheet implements RowTaker {
  /** For each column of the sheet: a slot of the table, or a member of {@link Column}. */
  columns: number[] = [];
  titles: string[] = [];
  /** Rows with a mark. */
  standings: SheetIndex = new IndexPages();
  /** The same, where the sheet is read beside the source. */
  step: MergeReader | null = null;
  readonly newRows = new Set<NewSheetRow>();
  /** By record, further rows with its mark. */
  readonly copies = new Map<number, SheetCopy[]>();
  private readonly matched = new Map<number, ReadonlyMap<number, MatchedBy>>();
  /** Content columns hashed, in the order of the sheet. */
  private hashed: number[] = [];
  private markColumn = -1;
  private actionColumn = -1;
  private readonly hash = new Hash();
  private headerSeen = false;
  usable = true;

  readonly table: CompiledTable;
  /** How many records the table had when it was hatched. */
  readonly records: number;
  private readonly sheet: OpenSheet;
  private readonly tables: readonly CompiledTable[];
  private readonly problems: ProblemList;
  private readonly fresh: boolean;
  private readonly laid: TableRows | undefined;
  /** Rows that a layout has read, by number. */
  private readonly laidRows: ReadonlyMap<number, TableRow>;

  constructor({ table, sheet, tables, problems, records, fresh, laid }: SheetInput) {
    this.table = table;
    this.records = records;
    this.sheet = sheet;
    this.tables = tables;
    this.problems = problems;
    this.fresh = fresh;
    this.laid = laid;
    this.laidRows = new Map(laid?.rows.map((row) => [row.number, row]));
  }

  get size(): number {
    return this.sheet.size;
  }

  /** What stands between cells, when that was changed. */
  get strangeDelimiter(): string | null {
    return this.laid === undefined ? this.sheet.strangeDelimiter : null;
  }

  /** Its rows can be compared one after the other, as they come, with the records that come. */
  get standsAlone(): boolean {
    return this.sheet.text !== undefined && this.table.treeSteps === null && this.table.plan.match === undefined;
  }

  /** Where a row goes in its list, when that is not behind the others. */
  placingOf(row: number): Placing | null {
    return this.laidRows.get(row)?.placing ?? null;
  }

  /** Does the row stand at the top of its tree? */
  isAtTop(row: number): boolean {
    return this.laidRows.get(row)?.atTop === true;
  }

  /** Its titles, and which records it has rows for, are a layout's own. */
  get hasOwnTitles(): boolean {
    return this.laid?.ownTitles === true;
  }

  /** Its rows say by their marks which records they are. */
  get hasMarks(): boolean {
    return this.laid?.unmarked !== true;
  }

  /** Where a code refers to no record, it may be the label of one. */
  get refersByLabel(): boolean {
    return this.laid?.byLabel === true;
  }

  /** Some rows have places in their lists. */
  get isOrdered(): boolean {
    return this.laid?.rows.some(({ placing }) => placing?.beside !== undefined) === true;
  }

  /** Where the analyst sees a row; `null` when nowhere, as it was made for a record that follows. */
  seen(row: number): SheetPlace | null {
    const laid = this.laidRows.get(row);
    return laid === undefined ? { row } : laid.at;
  }

  /** Number of the row where the analyst sees it, or 0. */
  seenRow(row: number): number {
    return this.seen(row)?.row ?? 0;
  }

  /** Cells that the analyst's row has and this one leaves to others. */
  saysOf(row: number): Readonly<Record<string, string>> {
    return this.laidRows.get(row)?.says ?? {};
  }

  /** A cell of a row that a layout has read. */
  laidCell(row: number, title: string): string {
    return this.laidRows.get(row)?.cells[this.laid!.titles.indexOf(title)] ?? "";
  }

  /** What the sheet calls what a record is in. */
  nameOf(ident: string): string {
    return this.laid?.nameOf?.(ident) ?? ident;
  }

  knows(title: string): boolean {
    return this.columnFor(title) !== Column.Unknown;
  }

  malformed(byte: number): void {
    this.refuse("sheet-encoding", { byte });
  }

  get done(): boolean {
    return !this.usable;
  }

  /** Reads the sheet to its end. */
  async read(): Promise<void> {
    await this.sheet.read(this);
    if (this.usable && !this.headerSeen) this.refuse("sheet-empty", {});
  }

  /** Begins to read the sheet beside the source; reads all of it when its rows do not stand in the source's order. */
  async readBeside(): Promise<void> {
    const { text } = this.sheet;
    const delimiter = await text!.delimiter((title) => this.knows(title));
    const isMark = (title: string): boolean => this.columnFor(title) === Column.Mark;
    if (!(await isInOrder(text!.bytes, { delimiter, isMark, salt: this.table.salt }))) return this.read();
    const step = new MergeReader(text!.bytes, delimiter, (row) => this.row(row));
    this.standings = this.step = step;
    await step.feed();
    while (!this.headerSeen && step.pull());
    if (!this.headerSeen && !step.inOrder) {
      // titles longer than what is read ahead
      await step.close();
      this.step = null;
      this.standings = new IndexPages();
      return this.read();
    }
    if (!this.headerSeen) this.refuse("sheet-empty", {});
    if (!this.usable) await step.close();
    else if (!this.columns.includes(Column.Unknown)) step.begin(this.columns);
  }

  /** Number of the row that stands for a record; 0 when there is none. */
  rowOf(place: number): number {
    return this.standings.row(place);
  }

  /** Cells of the rows that stand for records, as text, by column of the sheet. */
  cellsOf(places: readonly number[]): Promise<Cells[]> {
    return this.sheet.cellsOf(places.map((place) => this.standings.at(place)));
  }

  async cellsAt(offset: number, length: number): Promise<Cells> {
    const [cells] = await this.sheet.cellsOf([{ offset, length }]);
    return cells;
  }

  /**
   * Of several rows with one mark, the one that is as it was hatched is the original. Called with the
   * hash of the baseline when the first of them differs.
   */
  preferUnedited(place: number, hash: number): void {
    const copies = this.copies.get(place);
    const same = copies?.findIndex((copy) => copy.hash === hash) ?? -1;
    if (copies === undefined || same < 0) return;
    const copy = copies[same];
    copies[same] = { ...this.standings.at(place), cells: [] };
    this.standings.set(place, copy);
  }

  /** The place of a row for a problem: where the analyst sees it. */
  place(row: number, column = "", value = ""): ProblemPlace {
    const at = this.seen(row);
    const ids = at?.row === row && at.column === undefined ? {} : { ids: [row] };
    return { table: this.table.plan.name, file: this.sheet.name, row: at?.row ?? 0, column: at?.column ?? column, value, ...ids };
  }

  /** The same of several rows. */
  placeOf(rows: readonly number[], column = "", value = ""): ProblemPlace {
    return { ...this.place(rows[0], column, value), rows: rows.map((row) => this.seenRow(row)), ids: rows };
  }

  /** Column of the sheet that holds a slot (or a member of {@link Column}); -1 when it was left out. */
  columnOf(slot: number): number {
    return this.columns.indexOf(slot);
  }

  row(view: RowView): void {
    if (!this.usable) return;
    if (!this.headerSeen) {
      if (!view.blank && !this.isAbove(view)) this.header(view);
      return;
    }
    if (view.fault !== null) {
      const code = view.fault === "open" ? "quote-open" : "quote-after";
      this.problems.add(code, {}, this.place(view.rowNumber));
      return;
    }
    if (view.blank) return;
    if (view.cells > this.columns.length && !this.onlyBlanksFrom(view, this.columns.length)) {
      this.problems.add(
        "row-long",
        { cells: view.cells, titles: this.columns.length },
        this.place(view.rowNumber, "", view.text(this.columns.length)),
      );
      this.noteFaulty(view);
      return;
    }
    if (view.cells === 1 && this.isWholeRow(view.text(0))) {
      this.refuse("delimiter", { line: view.text(0).slice(0, 60) }, view.rowNumber);
      return;
    }
    for (const c of this.untitled) if (c < view.cells && !view.isEmpty(c)) this.untitledCells.set(c, (this.untitledCells.get(c) ?? 0) + 1);
    const action = this.action(view);
    if (action === null) {
      this.noteFaulty(view);
      return;
    }
    const c = this.markColumn;
    let place = c >= 0 && c < view.cells ? view.markAt(c, this.table.salt) : -1;
    if (place < 0) {
      const text = c >= 0 && c < view.cells ? view.text(c) : "";
      const name = text.trim();
      if (name === "" || name.startsWith("+")) {
        this.newRow(view, action, name);
        return;
      }
      place = parseMark(this.table.salt, text);
    }
    if (place < 0) this.badMark(view);
    else if (place >= this.records) {
      const mark = view.text(c);
      this.problems.add("mark-beyond", { mark, records: this.records }, this.place(view.rowNumber, MARK_TITLE, mark));
    } else this.keep(view, place, action);
  }

  /** Rows of which nothing is read, as they have a problem: by the place of their record. */
  readonly faulty = new Map<number, number>();

  private noteFaulty(view: RowView): void {
    const c = this.markColumn;
    const place = c >= 0 && c < view.cells ? parseMark(this.table.salt, view.text(c)) : -1;
    if (place >= 0) this.faulty.set(place, view.rowNumber);
  }

  private newRow(view: RowView, action: Action, name: string): void {
    const cells = view.texts();
    if (name === "" && this.hashed.every((c) => (cells[c] ?? "").trim() === "")) return;
    if (this.table.plan.match !== undefined || this.fresh) {
      this.newRows.add({
        row: view.rowNumber,
        cells,
        stand: this.standing(view, action),
        ...(name === "" ? {} : { name }),
      });
    } else if (action === Action.None) this.newRows.add({ row: view.rowNumber, cells, ...(name === "" ? {} : { name }) });
    else if (action === Action.Remove) this.problems.add("remove-new", {}, this.place(view.rowNumber, ACTION_TITLE, "remove"));
  }

  /** Takes a row without a mark for the record at `place`, matched by these slots; false when another row stands for that. */
  adopt(row: NewSheetRow, place: number, by: ReadonlyMap<number, MatchedBy> = new Map()): boolean {
    if (row.stand === undefined || this.rowOf(place) > 0) return false;
    this.newRows.delete(row);
    this.standings.set(place, row.stand);
    this.matched.set(place, by);
    return true;
  }

  /** Was the row of a record matched by this cell, or by the label beside it; or not by it at all? */
  matchedBy(place: number, slot: number): MatchedBy | null {
    return this.matched.get(place)?.get(slot) ?? null;
  }

  private badMark(view: RowView): void {
    const text = view.text(this.markColumn);
    const owner = this.tables.find((table) => table !== this.table && parseMark(table.salt, text) >= 0);
    const where = this.place(view.rowNumber, MARK_TITLE, text);
    if (owner !== undefined && owner.plan.name !== this.table.plan.name)
      this.problems.add("mark-foreign", { mark: text, other: owner.plan.name }, where);
    else this.problems.add("mark-damaged", { mark: text }, where);
  }

  private keep(view: RowView, place: number, action: Action): void {
    const standing = this.standing(view, action);
    if (this.step?.differed(place) === true) this.step.inOrder = false;
    if (this.rowOf(place) > 0) pushTo(this.copies, place, { ...standing, cells: view.texts() });
    else this.standings.set(place, standing);
  }

  private standing(view: RowView, action: Action): SheetEntry {
    return {
      row: view.rowNumber,
      // a row that leaves its place differs, whatever its cells say, and one that does not say all has to be asked
      hash: view.whole && this.placingOf(view.rowNumber) === null ? this.hashRow(view) : NaN,
      action,
      offset: view.offset,
      length: view.length,
      bytes: this.step?.copyOfRow(),
    };
  }

  private hashRow(view: RowView): number {
    const { hash, hashed } = this;
    hash.start();
    for (let k = 0; k < hashed.length; k++) {
      const c = hashed[k];
      if (c < view.cells) view.hashCell(c, hash);
      else hash.partOf(NOTHING, 0, 0);
    }
    return hash.number;
  }

  private action(view: RowView): Action | null {
    const c = this.actionColumn;
    if (c < 0 || c >= view.cells || view.isEmpty(c)) return Action.None;
    const text = view.text(c);
    const word = text.trim().toLowerCase();
    if (word === "") return Action.None;
    if (word === "remove") return Action.Remove;
    if (word === "skip") return Action.Skip;
    this.problems.add(
      "action-unknown",
      { action: text, nearest: nearest(word, ["remove", "skip"]) },
      this.place(view.rowNumber, ACTION_TITLE, text),
    );
    return null;
  }

  /** Is it a line of words above the titles? Some people write one. */
  private isAbove(view: RowView): boolean {
    const { table } = this;
    if (view.rowNumber > MOST_ABOVE || table.plan.match !== undefined || this.fresh) return false;
    const titles = view.texts().map((title) => titleIn(title ?? "", table.titles));
    const isWords = titles.every(
      (title) => this.columnFor(title) === Column.Unknown && parseMark(table.salt, title) < 0 && !title.includes(MARK_TITLE),
    );
    if (isWords && titles.filter((title) => title.trim() !== "").length === 1) {
      this.above.push(view.rowNumber);
      return true;
    }
    return false;
  }
  private readonly above: number[] = [];

  /** Columns without a title, from 0, and how many of their cells say something: by column. */
  readonly untitledCells = new Map<number, number>();
  private untitled: readonly number[] = [];

  private header(view: RowView): void {
    this.headerSeen = true;
    for (const row of this.above) this.problems.note("file-unused", { file: `row ${row}`, nearest: null }, this.table.plan.name);
    this.titles = view.texts().map((title) => titleIn(title ?? "", this.table.titles));
    this.columns = this.titles.map((title) => this.columnFor(title));
    this.markColumn = this.columns.indexOf(Column.Mark);
    this.actionColumn = this.columns.indexOf(Column.Action);
    this.hashed = this.columns.flatMap((column, i) => (column >= 0 || column === Column.Parent ? [i] : []));
    if (this.markColumn < 0 && this.table.plan.match === undefined && !this.fresh) {
      const looksLikeData = this.titles.some((title) => parseMark(this.table.salt, title) >= 0);
      if (looksLikeData) this.refuse("header-missing", { first: this.table.titles.slice(0, 3) });
      else if (this.titles.length === 1 && this.table.titles.length > 1) this.refuse("delimiter", { line: this.titles[0].slice(0, 60) });
      else this.refuse("mark-column-missing", { found: this.titles.slice(0, 6) });
    }
    this.untitled = this.titles.flatMap((title, c) => (this.columns[c] === Column.Unknown && title.trim() === "" ? [c] : []));
    if (this.usable) this.checkTitles();
  }

  /** Does a single cell hold all that a row does, as when a sheet was opened with another separator? */
  private isWholeRow(cell: string): boolean {
    return SEPARATORS.some((separator) => {
      const cells = cell.split(separator);
      return cells.length >= this.titles.length && cells.length > 1 && parseMark(this.table.salt, cells[0]) >= 0;
    });
  }

  private checkTitles(): void {
    const known = [...this.table.titles];
    this.titles.forEach((title, i) => {
      const column = this.columns[i];
      if (column !== Column.Unknown) {
        if (this.columns.indexOf(column) < i)
          this.refuse("title-twice", { title, first: this.columns.indexOf(column) + 1, second: i + 1 }, 1, title);
        return;
      }
      if (title.trim() === "" || title === PROBLEM_TITLE) return;
      const free = known.filter((one) => !this.columns.includes(this.columnFor(one)));
      const near = nearest(title, free.length === 0 ? known : free);
      // beside all of the table's own columns it is a helper of somebody's
      if (free.length === 0 && near === null)
        this.problems.note("file-unused", { file: `column "${title}"`, nearest: null }, this.table.plan.name);
      else this.problems.add("column-unknown", { title, nearest: near, titles: known }, this.place(1, title, title));
    });
  }

  private columnFor(title: string): number {
    const exact = this.table.titles.indexOf(title);
    const index = exact >= 0 ? exact : this.soleIndex(this.table.titles.map(normalised), normalised(title));
    if (index < 0) return Column.Unknown;
    if (index === 0) return Column.Mark;
    if (index === 1) return Column.Action;
    const fixed = this.table.titles.length - this.table.shown.length;
    return index < fixed ? Column.Parent : this.table.shown[index - fixed];
  }

  private soleIndex(titles: readonly string[], title: string): number {
    const index = titles.indexOf(title);
    return index >= 0 && titles.lastIndexOf(title) === index ? index : -1;
  }

  /** The sheet as a whole cannot be used. */
  private refuse<C extends FoundCode>(code: C, facts: Facts<C>, row = 1, column = ""): void {
    this.usable = false;
    this.problems.add(code, facts, this.place(row, column));
  }

  private onlyBlanksFrom(view: RowView, cell: number): boolean {
    for (let c = cell; c < view.cells; c++) if (!view.isEmpty(c)) return false;
    return true;
  }
}

/** Hash of the content of a key cell. */
export function keyHash(text: string): number {
  return hashBytes(encode(text));
}
