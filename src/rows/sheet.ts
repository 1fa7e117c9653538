/**
 * An edited table: read once from end to end, kept as a few numbers a row.
 *
 * For every row with a mark: the record it stands for, where its bytes are, and a hash of its cells.
 * A row whose hash equals that of the baseline needs no parsing. New rows are kept as text.
 */
import { hashBytes, Hash } from "../bytes/hash.js";
import { ByteWriter, copied, encode } from "../bytes/writer.js";
import type { ByteSource } from "../bytes/source.js";
import { asciiEnd, utf8Length } from "../bytes/utf8.js";
import { nearest } from "../errors/nearest.js";
import { DELIMITERS } from "../sheets/csv/rows.js";
import { DelimitedScanner, type RowListener } from "../sheets/csv/scan.js";
import type { PlainSheet, Placing } from "../layouts/layout.js";
import type { CompiledTable } from "../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE } from "../model/plan.js";
import { normalised } from "../cells/normalised.js";
import { parseMark, readMark } from "../model/marks.js";
import type { ProblemList, ProblemPlace } from "../model/findings.js";
import { Column } from "./columns.js";
import { pushTo } from "../model/push-to.js";
import { MergeReader } from "./merge-reader.js";
import { Action, IndexPages, type SheetEntry, type SheetIndex } from "./sheet-index.js";
import { titleIn } from "../cells/spelling.js";

export interface NewSheetRow {
  readonly row: number;
  readonly cells: readonly string[];
  /** What the row calls itself for others that refer to it: `+x`. */
  readonly name?: string;
  /** What is needed to take the row for one that has a mark, where rows are matched by other columns. */
  readonly stand?: SheetEntry;
  /** Where the row stands in the sheet, when its cells have not been read. */
  readonly at?: { readonly offset: number; readonly length: number };
}

/** A further row with a mark that another row has already. */
export type SheetCopy = NewSheetRow & SheetEntry;

const HEAD = 1 << 16;
/** Most bytes that are read in one go to get at rows. */
const MOST_READ = 1 << 20;

/** What a sheet is read from. */
export interface SheetInput {
  readonly table: CompiledTable;
  readonly file: string;
  readonly source: ByteSource;
  /** All tables, to tell marks of others. */
  readonly tables: readonly CompiledTable[];
  readonly problems: ProblemList;
  readonly records: number;
  /** All rows are new: there is no source whose records the marks could name. */
  readonly fresh: boolean;
  /** Where the sheet was made for one with a layout. */
  readonly made?: Pick<PlainSheet, "last" | "placings" | "unmarked">;
}

export class Sheet implements RowListener {
  /** For each column of the sheet: a slot of the table, or a member of {@link Column}. */
  columns: number[] = [];
  titles: string[] = [];
  delimiter = 0x2c;
  /** Rows with a mark. */
  standings: SheetIndex = new IndexPages();
  /** The same, where the sheet is read beside the source. */
  step: MergeReader | null = null;
  readonly newRows = new Set<NewSheetRow>();
  /** By record, further rows with its mark. */
  readonly copies = new Map<number, SheetCopy[]>();
  readonly damagedRows = new Set<number>();
  /** Content columns hashed, in the order of the sheet. */
  private hashed: number[] = [];
  private markColumn = -1;
  private actionColumn = -1;
  private readonly hash = new Hash();
  private readonly undoubled = new ByteWriter(256);
  private headerSeen = false;
  usable = true;

  readonly table: CompiledTable;
  readonly file: string;
  /** How many records the table had when it was hatched. */
  readonly records: number;
  private readonly source: ByteSource;
  private readonly tables: readonly CompiledTable[];
  private readonly problems: ProblemList;
  private readonly fresh: boolean;
  private readonly made: SheetInput["made"];

  constructor({ table, file, source, tables, problems, records, fresh, made }: SheetInput) {
    this.table = table;
    this.file = file;
    this.records = records;
    this.source = source;
    this.tables = tables;
    this.problems = problems;
    this.fresh = fresh;
    this.made = made;
  }

  get size(): number {
    return this.source.size;
  }

  /** Its rows can be compared one after the other, as they come, with the records that come. */
  get standsAlone(): boolean {
    return this.made === undefined && this.table.treeSteps === null && this.table.plan.match === undefined;
  }

  /** Where a row goes in its list, when that is not behind the others. */
  placingOf(row: number): Placing | null {
    return this.made?.placings?.get(row) ?? null;
  }

  /** Its rows say by their marks which records they are. */
  get hasMarks(): boolean {
    return this.made?.unmarked !== true;
  }

  /** Some rows have places in their lists. */
  get isOrdered(): boolean {
    return [...(this.made?.placings?.values() ?? [])].some(({ beside }) => beside !== undefined);
  }

  /** Does the analyst see the row? Others were made for records that follow. */
  isSeen(row: number): boolean {
    return row <= (this.made?.last ?? Infinity);
  }

  /** Reads the sheet to its end. */
  async read(): Promise<void> {
    this.delimiter = this.findDelimiter(await this.source.read(0, HEAD));
    const scanner = new DelimitedScanner(this.delimiter, this);
    for await (const chunk of this.source.chunks()) {
      this.checkText(scanner, chunk);
      scanner.write(chunk);
      if (!this.usable) return;
    }
    scanner.end();
    if (!this.headerSeen) this.refuse("sheet-empty", {});
  }

  /** Begins to read the sheet beside the source; reads all of it when its rows do not stand in the source's order. */
  async readBeside(): Promise<void> {
    const head = await this.source.read(0, HEAD);
    this.delimiter = this.findDelimiter(head);
    if (!this.isInOrder(head)) return this.read();
    const step = new MergeReader(this.source, this.delimiter, (row) => this.row(row));
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

  /** Do the marks at the head of the sheet stand in the order of the source? */
  private isInOrder(head: Uint8Array): boolean {
    let column = -1;
    let last = -1;
    let inOrder = true;
    const scanner = new DelimitedScanner(this.delimiter, {
      row: (one) => {
        if (column < 0) column = one.texts().findIndex((title) => this.columnFor(title) === Column.Mark);
        else if (column < one.cells) {
          const place = readMark(this.table.salt, one.window, one.starts[column], one.ends[column]);
          inOrder &&= place < 0 || place > last;
          if (place >= 0) last = place;
        }
      },
    });
    scanner.write(head);
    return inOrder;
  }

  /** Number of the row that stands for a record; 0 when there is none. */
  rowOf(place: number): number {
    return this.standings.row(place);
  }

  /** Cells of the rows that stand for records, as text, by column of the sheet. Rows that are not far from each other are read in one go. */
  async cellsOf(places: readonly number[]): Promise<string[][]> {
    const cells: string[][] = [];
    const spans: { i: number; start: number; end: number }[] = [];
    for (const [i, place] of places.entries()) {
      const { offset, length, bytes } = this.standings.at(place);
      if (bytes === undefined) spans.push({ i, start: offset, end: offset + length });
      else cells[i] = this.split(bytes);
    }
    spans.sort((a, b) => a.start - b.start);
    for (let first = 0, next = 0; first < spans.length; first = next) {
      const { start } = spans[first];
      let { end } = spans[first];
      for (next = first + 1; next < spans.length && spans[next].start - end < HEAD && spans[next].end - start < MOST_READ; next++)
        end = spans[next].end;
      const bytes = await this.source.read(start, end);
      for (const span of spans.slice(first, next)) cells[span.i] = this.split(bytes.subarray(span.start - start, span.end - start));
    }
    return cells;
  }

  async cellsAt(start: number, length: number): Promise<string[]> {
    return this.split(await this.source.read(start, start + length));
  }

  private split(row: Uint8Array): string[] {
    this.rowScanner ??= this.startRowScanner();
    this.rowScanner.write(row);
    this.rowScanner.end();
    return this.rowCells;
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

  private rowScanner: DelimitedScanner | null = null;
  private rowCells: string[] = [];
  private startRowScanner(): DelimitedScanner {
    const scanner = new DelimitedScanner(this.delimiter, {
      row: (one) => {
        this.rowCells = one.texts();
      },
    });
    scanner.base = 1; // not the beginning of a file: no byte-order mark
    return scanner;
  }

  place(row: number, column = "", value = ""): ProblemPlace {
    return { table: this.table.plan.name, file: this.file, row, column, value };
  }

  /** Column of the sheet that holds a slot (or a member of {@link Column}); -1 when it was left out. */
  columnOf(slot: number): number {
    return this.columns.indexOf(slot);
  }

  row(scanner: DelimitedScanner): void {
    if (!this.usable) return;
    if (!this.headerSeen) {
      if (!scanner.blank) this.header(scanner);
      return;
    }
    if (scanner.fault !== null) {
      const code = scanner.fault === "open" ? "quote-open" : "quote-after";
      this.problems.add(code, {}, this.place(scanner.rowNumber));
      this.damagedRows.add(scanner.rowNumber);
      return;
    }
    if (scanner.blank) return;
    if (scanner.cells > this.columns.length && !this.onlyBlanksFrom(scanner, this.columns.length)) {
      this.problems.add(
        "row-long",
        { cells: scanner.cells, titles: this.columns.length },
        this.place(scanner.rowNumber, "", scanner.text(this.columns.length)),
      );
      return;
    }
    const action = this.action(scanner);
    if (action === null) return;
    const c = this.markColumn;
    let place = c >= 0 && c < scanner.cells ? readMark(this.table.salt, scanner.window, scanner.starts[c], scanner.ends[c]) : -1;
    if (place < 0) {
      const text = c >= 0 && c < scanner.cells ? scanner.text(c) : "";
      const name = text.trim();
      if (name === "" || name.startsWith("+")) {
        this.newRow(scanner, action, name);
        return;
      }
      place = parseMark(this.table.salt, text);
    }
    if (place < 0) this.badMark(scanner);
    else if (place >= this.records) {
      this.damagedRows.add(scanner.rowNumber);
      const mark = scanner.text(c);
      this.problems.add("mark-beyond", { mark, records: this.records }, this.place(scanner.rowNumber, MARK_TITLE, mark));
    } else this.keep(scanner, place, action);
  }

  private newRow(scanner: DelimitedScanner, action: Action, name: string): void {
    const cells = scanner.texts();
    if (name === "" && this.hashed.every((c) => (cells[c] ?? "").trim() === "")) return;
    if (this.table.plan.match !== undefined || this.fresh) {
      this.newRows.add({
        row: scanner.rowNumber,
        cells,
        stand: this.standing(scanner, action),
        ...(name === "" ? {} : { name }),
      });
    } else if (action === Action.None) this.newRows.add({ row: scanner.rowNumber, cells, ...(name === "" ? {} : { name }) });
    else if (action === Action.Remove) this.problems.add("remove-new", {}, this.place(scanner.rowNumber, ACTION_TITLE, "remove"));
  }

  /** Takes a row without a mark for the record at `place`; false when another row stands for that. */
  adopt(row: NewSheetRow, place: number): boolean {
    if (row.stand === undefined || this.rowOf(place) > 0) return false;
    this.newRows.delete(row);
    this.standings.set(place, row.stand);
    return true;
  }

  private badMark(scanner: DelimitedScanner): void {
    const text = scanner.text(this.markColumn);
    const owner = this.tables.find((table) => table !== this.table && parseMark(table.salt, text) >= 0);
    const where = this.place(scanner.rowNumber, MARK_TITLE, text);
    this.damagedRows.add(scanner.rowNumber);
    if (owner !== undefined && owner.plan.name !== this.table.plan.name)
      this.problems.add("mark-foreign", { mark: text, other: owner.plan.name }, where);
    else this.problems.add("mark-damaged", { mark: text }, where);
  }

  private keep(scanner: DelimitedScanner, place: number, action: Action): void {
    const standing = this.standing(scanner, action);
    if (this.step?.differed(place) === true) this.step.inOrder = false;
    if (this.rowOf(place) > 0) pushTo(this.copies, place, { ...standing, cells: scanner.texts() });
    else this.standings.set(place, standing);
  }

  private standing(scanner: DelimitedScanner, action: Action): SheetEntry {
    return {
      row: scanner.rowNumber,
      // a row that leaves its place differs, whatever its cells say
      hash: this.placingOf(scanner.rowNumber) === null ? this.hashRow(scanner) : NaN,
      action,
      offset: scanner.base + scanner.rowStart,
      length: scanner.rowEnd - scanner.rowStart,
      bytes: this.step?.copyOfRow(),
    };
  }

  private hashRow(scanner: DelimitedScanner): number {
    const hash = this.hash;
    hash.start();
    for (let k = 0; k < this.hashed.length; k++) {
      const c = this.hashed[k];
      if (c < scanner.cells) {
        if (scanner.quoted[c] === 2) {
          this.undoubled.clear();
          scanner.undouble(c, this.undoubled);
          hash.partOf(this.undoubled.words, 0, this.undoubled.length);
        } else hash.partOf(scanner.words, scanner.starts[c], scanner.ends[c]);
      } else hash.partOf(scanner.words, 0, 0);
    }
    return hash.number;
  }

  private action(scanner: DelimitedScanner): Action | null {
    const c = this.actionColumn;
    if (c < 0 || c >= scanner.cells || scanner.starts[c] === scanner.ends[c]) return Action.None;
    const text = scanner.text(c);
    const word = text.trim().toLowerCase();
    if (word === "") return Action.None;
    if (word === "remove") return Action.Remove;
    if (word === "skip") return Action.Skip;
    this.problems.add(
      "action-unknown",
      { action: text, nearest: nearest(word, ["remove", "skip"]) },
      this.place(scanner.rowNumber, ACTION_TITLE, text),
    );
    this.damagedRows.add(scanner.rowNumber);
    return null;
  }

  private header(scanner: DelimitedScanner): void {
    this.headerSeen = true;
    this.titles = scanner.texts().map((title) => titleIn(title, this.table.titles));
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
    if (this.usable) this.checkTitles();
  }

  private checkTitles(): void {
    const known = [...this.table.titles];
    this.titles.forEach((title, i) => {
      const column = this.columns[i];
      if (column !== Column.Unknown) {
        if (this.columns.indexOf(column) < i)
          this.refuse("title-twice", { title, first: this.columns.indexOf(column) + 1, second: i + 1 }, title);
        return;
      }
      if (title.trim() === "") return;
      const free = known.filter((one) => !this.titles.includes(one));
      this.problems.add("column-unknown", { title, nearest: nearest(title, free), titles: known }, this.place(1, title, title));
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

  private refuse(code: "sheet-empty", facts: object): void;
  private refuse(code: "header-missing", facts: { first: readonly string[] }): void;
  private refuse(code: "delimiter", facts: { line: string }): void;
  private refuse(code: "mark-column-missing", facts: { found: readonly string[] }): void;
  private refuse(code: "title-twice", facts: { title: string; first: number; second: number }, column: string): void;
  private refuse(code: "sheet-encoding", facts: { byte: number }): void;
  private refuse(
    code: "sheet-empty" | "header-missing" | "delimiter" | "mark-column-missing" | "title-twice" | "sheet-encoding",
    facts: object,
    column = "",
  ): void {
    this.usable = false;
    this.problems.add(code, facts, this.place(1, column));
  }

  private findDelimiter(head: Uint8Array): number {
    let best = DELIMITERS[0];
    let most = -1;
    for (const delimiter of DELIMITERS) {
      let known = -1;
      const scanner = new DelimitedScanner(delimiter, {
        row: (one) => {
          if (known >= 0 || one.blank) return;
          known = 0;
          for (let i = 0; i < one.cells; i++) if (this.columnFor(one.text(i)) !== Column.Unknown) known++;
        },
      });
      scanner.write(head);
      scanner.end();
      if (known > most) [best, most] = [delimiter, known];
    }
    return best;
  }

  /** Sheets are read as UTF-8; another encoding shows as a malformed byte. */
  private checkText(scanner: DelimitedScanner, chunk: Uint8Array): void {
    const view = this.carry.length === 0 ? chunk : joined(this.carry, chunk);
    let i = 0;
    this.carry = new Uint8Array(0);
    for (;;) {
      if (i >= view.length || view[i] < 0x80) i = asciiEnd(view, i);
      if (i >= view.length) return;
      const length = utf8Length(view, i, view.length);
      if (length === 0) {
        this.carry = copied(view, i);
        return;
      }
      if (length < 0) {
        this.refuse("sheet-encoding", { byte: scanner.base + scanner.limit + i });
        return;
      }
      i += length;
    }
  }
  private carry: Uint8Array = new Uint8Array(0);

  private onlyBlanksFrom(scanner: DelimitedScanner, cell: number): boolean {
    for (let c = cell; c < scanner.cells; c++) if (scanner.ends[c] > scanner.starts[c]) return false;
    return true;
  }
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array {
  const whole = new Uint8Array(a.length + b.length);
  whole.set(a);
  whole.set(b, a.length);
  return whole;
}

/** Hash of the content of a key cell. */
export function keyHash(text: string): number {
  return hashBytes(encode(text));
}
