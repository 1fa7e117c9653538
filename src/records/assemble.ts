/**
 * Row assembly: a scanner's events become rows, in document order.
 *
 * A table has one row in the making. Its cells are positions in the scanner's window; only when the
 * window moves are the bytes of unfinished rows copied. A row that needs the key of the record around
 * it waits until that key has been met, at the latest until that record ends.
 */
import { addTo, Hash, type Sum } from "../bytes/hash.js";
import { ByteWriter, decode, encode, isBlank } from "../bytes/writer.js";
import { Unheld } from "./unheld.js";
import { Wants, type Dialect, type PlaceNode, type Listener, type Scanner } from "../formats/format.js";
import type { Trail, TrailStep } from "../model/trail.js";
import { Kind } from "../model/kind.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import type { ColumnPlan } from "../model/plan.js";
import type { SourceText } from "../source/parts.js";
import { harmless, spellCell } from "../cells/spelling.js";
import { MarkWriter } from "../model/marks.js";

/** First bytes of text that may need a spelling of its own: ( [ { = + - @ ', white space, and signs of full width. */
const CAREFUL = new Uint8Array(256);
for (const c of "([{=+-@'\t\r\n\u00ef") CAREFUL[c.charCodeAt(0)] = 1;

/** The row of a table that is being put together, or (`frozen`) a copy of it that stands on its own. */
export class Row {
  /** Number of the record in its table, from 0. */
  place = -1;
  /** What the record is: most are records. */
  form: Kind = Kind.Record;
  readonly kinds: Uint8Array;
  readonly from: Int32Array;
  readonly to: Int32Array;
  readonly plain: Uint8Array;
  readonly pinned: Uint8Array;
  /** By slot, the kinds of values that the table's records had so far, as bits. */
  readonly seen: Uint16Array;
  /** By slot: how many values were not shown, as another one of the same name followed in the record. */
  readonly passed: Int32Array;
  /** It adjoins the record before it in its list. */
  adjoins = false;
  /** Slots whose value follows another one of the same name in this record; `null` where there is none. */
  repeated: Set<number> | null = null;
  /** By slot: texts that are longer than cells of spreadsheets. */
  readonly long: Int32Array;
  /** By slot, what the sheet shows where the record has nothing and the one above counts; `null` where columns are not filled down. */
  filled: (string | null)[] | null = null;
  /** Source offsets of the values; filled only when asked for. */
  readonly spanStart: Float64Array;
  readonly spanEnd: Float64Array;
  /** Source offsets of the record. */
  start = 0;
  end = 0;
  /** Number of the line in which it begins, where records are lines; else 0. */
  line = 0;
  /** Where the record begins as a member: its name for keyed records, else `start`. */
  unitStart = 0;
  /** Copied bytes of cells whose window has gone. */
  readonly scratch = new ByteWriter(64);
  /** What rows inside this one call it: its key, or its mark. */
  readonly ident = new ByteWriter(32);
  identReady = false;
  open = false;
  waiting: Row[] | null = null;
  /** Sums of what nobody wants of the record, and of the records in it; made only when asked for. */
  readonly rest: Sum = { a: 0, b: 0 };
  readonly inside: Sum = { a: 0, b: 0 };
  /** The record, of whatever table, in which this one was met. */
  around: Row | null = null;
  /** The way from the top to the record; ask while the row is being read. */
  trail: () => Trail = () => [];

  constructor(
    readonly table: CompiledTable,
    /** The record around: of another table, or in a tree of the same. */
    public parent: Row | null,
    /** Another row of the table, whose counts this one shares. */
    shared?: Row,
  ) {
    const slots = table.plan.columns.length;
    this.kinds = new Uint8Array(slots);
    this.from = new Int32Array(slots);
    this.to = new Int32Array(slots);
    this.plain = new Uint8Array(slots);
    this.pinned = new Uint8Array(slots);
    this.seen = shared?.seen ?? new Uint16Array(slots);
    this.passed = shared?.passed ?? new Int32Array(slots);
    this.long = shared?.long ?? new Int32Array(slots);
    this.spanStart = new Float64Array(slots);
    this.spanEnd = new Float64Array(slots);
  }
}

/** What a file has around its records: sums, and how many lines hold none. */
export interface Rests {
  readonly rest: Sum;
  readonly strays: Sum;
  strayLines: number;
  /** Values that begin in the line of the one before them. */
  sharedLines: number;
}

/** Gets each row when it is complete. The row is valid only during the call. */
export interface RowReader {
  row(row: Row): void;
}

export class Assembler implements Listener {
  scanner!: Scanner;
  dialect!: Dialect;
  /** Rows in the making: of a tree the innermost. */
  readonly rows: Row[] = [];
  /** The marks of each table. */
  readonly marks: readonly MarkWriter[];
  /** How many records of each table there are so far. */
  readonly counts: number[] = [];
  /** Of trees, the rows by depth. */
  private readonly depths: Row[][] = [];
  /** Of columns that are filled down, the last values, and the list that they are in. */
  private readonly above = new Map<CompiledTable, { readonly list: number; readonly texts: string[] }>();
  /** The file that is being read: its number, and what is added to offsets in it. */
  file = 0;
  private base = 0;
  private readonly fileName = new ByteWriter(64);
  private readonly content: CellContent;
  private closing = false;
  /** What nobody wants of the records, and of what is around them all: heard only when asked for. */
  rest?: (called: number, start: number, end: number) => void;
  /** By file: what nobody wants around its records, and its lines that hold no record. */
  readonly around: Rests[] = [];
  /** By file: lines that hold no record, and lines of records with something in them that is no field. */
  readonly unheld: { readonly lines: Unheld; readonly parts: Unheld }[] = [];
  private innermost: Row | null = null;
  private readonly restHash = new Hash();

  constructor(
    private readonly compiled: CompiledPlan,
    private readonly reader: RowReader,
    private readonly spans = false,
    rests = false,
  ) {
    if (rests) {
      this.rest = (called, start, end) => {
        this.addRest(this.innermost?.rest ?? this.around[this.file].rest, called, this.scanner.words, start, end);
      };
    }
    this.marks = compiled.tables.map(({ salt }) => new MarkWriter(salt));
    for (const table of parentsFirst(compiled.tables)) {
      const row = this.makeRow(table, table.parent === null ? null : this.rows[table.parent.index]);
      this.rows[table.index] = row;
      this.counts[table.index] = 0;
      this.depths[table.index] = [row];
    }
    this.content = new CellContent(this);
  }

  private makeRow(table: CompiledTable, parent: Row | null, shared?: Row): Row {
    const row = new Row(table, parent, shared);
    row.trail = () => this.scanner.trail(this.closing).map((step) => this.inRow(step));
    return row;
  }

  /** A scanner over one more file, whose records come after those of the files before. */
  begin(part: SourceText, totals = false): Scanner {
    this.file = part.index;
    this.around[this.file] = { rest: { a: 0, b: 0 }, strays: { a: 0, b: 0 }, strayLines: 0, sharedLines: 0 };
    this.unheld[this.file] = { lines: new Unheld(), parts: new Unheld() };
    this.base = part.base;
    this.dialect = part.dialect;
    this.fileName.clear();
    this.fileName.text(harmless(part.name));
    return part.dialect.scanner(this.compiled.sources[part.of].root, this, totals);
  }

  private inRow(step: TrailStep): TrailStep {
    return typeof step === "object" ? [this.base + step[0], this.base + step[1]] : step;
  }

  get window(): Uint8Array {
    return this.scanner.window;
  }
  get words(): DataView {
    return this.scanner.words;
  }

  open(node: PlaceNode, kind: Kind, start: number): void {
    this.beginRow(node, kind, start);
  }

  close(node: PlaceNode, _kind: Kind, end: number): void {
    this.closing = true;
    this.finish(this.rows[node.table], end);
    this.closing = false;
  }

  value(node: PlaceNode, kind: Kind, start: number, end: number, textStart: number, textEnd: number, plain: boolean): void {
    if ((node.take & Wants.Row) !== 0 && !this.belongsToParent(node, kind)) {
      const row = this.beginRow(node, kind, start);
      if (node.selfSlot >= 0) this.set(row, node.selfSlot, kind, start, end, textStart, textEnd, plain);
      this.finish(row, end);
    } else if (node.slot >= 0) this.set(this.rows[node.owner], node.slot, kind, start, end, textStart, textEnd, plain);
  }

  leave(): void {
    const window = this.scanner.window;
    for (const rows of this.depths) for (const row of rows) if (row.open) pin(row, window);
  }

  /** The cell's content in the sheet, quoting apart. Valid until the next call. */
  read(row: Row, slot: number): CellContent {
    this.content.read(row, slot);
    return this.content;
  }

  /** The cell's content, as a text. */
  text(row: Row, slot: number): string {
    const { bytes, from, to } = this.read(row, slot);
    return decode(bytes, from, to);
  }

  decode(row: Row, slot: number): string {
    const bytes = row.pinned[slot] === 1 ? row.scratch.bytes : this.scanner.window;
    return row.plain[slot] === 1
      ? new TextDecoder("utf-8", { ignoreBOM: true }).decode(bytes.subarray(row.from[slot], row.to[slot]))
      : this.dialect.decode(bytes, row.from[slot], row.to[slot], {
          kind: row.kinds[slot] as Kind,
          node: row.table.nodes[slot],
          style: this.scanner.style,
        });
  }

  /**
   * What the column before the fields says: the record or the file around, in a tree also for the record at its top; `null`
   * when there is no such column.
   */
  holderOf(row: Row): ByteWriter | null {
    const { table, parent } = row;
    if (parent !== null) return this.identOf(parent);
    if (table.treeSteps === null) return table.holder === null ? null : this.fileName;
    return table.outer === null ? this.nothing : this.fileName;
  }
  private readonly nothing = new ByteWriter(8);

  /** What the record at the top of a row's tree is in: another table's record, or the file. */
  outerOf(row: Row): ByteWriter | null {
    let top = row;
    while (top.parent?.table === row.table) top = top.parent;
    if (top.parent !== null) return this.identOf(top.parent);
    return row.table.outer === null ? null : this.fileName;
  }

  /** Bytes by which the rows inside this one name it. */
  identOf(row: Row): ByteWriter {
    const ident = row.ident;
    if (row.identReady) return ident;
    ident.clear();
    const slot = row.table.keySlot;
    const key = slot >= 0 && row.kinds[slot] > Kind.Null ? this.read(row, slot) : null;
    // one that nobody sees in a cell is no name for a record
    if (key !== null && !isBlank(key.bytes, key.from, key.to)) ident.append(key.bytes, key.from, key.to);
    else this.marks[row.table.index].write(ident, row.place);
    row.identReady = true;
    return ident;
  }

  stray(start: number, end: number, line: number): void {
    this.unheld[this.file].lines.add(line, this.scanner.window, start, end);
    if (this.rest === undefined) return;
    const around = this.around[this.file];
    this.addRest(around.strays, 0, this.scanner.words, start, end);
    around.strayLines++;
  }

  sharesLine(): void {
    this.around[this.file].sharedLines++;
  }

  over(start: number, end: number, line: number): void {
    this.unheld[this.file].parts.add(line, this.scanner.window, start, end);
  }

  private addRest(to: Sum, called: number, words: DataView, start: number, end: number): void {
    const { restHash } = this;
    restHash.start();
    restHash.word(called);
    restHash.partOf(words, start, end);
    addTo(to, restHash);
  }

  /** Null and an empty list where a list is expected are the parent's affair: they hold no row. */
  private belongsToParent(node: PlaceNode, kind: Kind): boolean {
    if (this.scanner.inList || node.starred) return false;
    return kind === Kind.EmptyList || (kind === Kind.Null && node.slot >= 0) || (kind === Kind.Null && node.selfSlot < 0);
  }

  private beginRow(node: PlaceNode, kind: Kind, start: number): Row {
    const row = this.nextRow(node.table);
    row.place = this.counts[node.table]++;
    row.form = kind;
    row.open = true;
    row.identReady = false;
    row.repeated = null;
    row.adjoins = this.scanner.adjoins === true;
    row.start = this.base + this.scanner.base + start;
    row.line = this.scanner.line ?? 0;
    row.unitStart = node.starred && !this.scanner.inList && this.scanner.named ? row.start - start + this.scanner.nameStart - 1 : row.start;
    row.scratch.length = 0;
    row.around = this.innermost;
    this.innermost = row;
    row.rest.a = row.rest.b = row.inside.a = row.inside.b = 0;
    const { kinds } = row;
    for (let i = 0; i < kinds.length; i++) kinds[i] = Kind.Absent;
    if (node.nameSlot >= 0) {
      const { nameStart, nameEnd, namePlain } = this.scanner;
      const copy = this.scanner.nameCopy?.() ?? null;
      const [from, to] = copy === null ? [nameStart, nameEnd] : [row.scratch.length, row.scratch.length + copy.length];
      this.set(row, node.nameSlot, Kind.Text, nameStart - 1, nameEnd + 1, from, to, namePlain);
      if (copy !== null) row.scratch.append(copy);
      row.pinned[node.nameSlot] = copy === null ? 0 : 1;
    }
    if (node.indexSlot >= 0) {
      const digits = encode(String(this.scanner.index + 1));
      this.set(row, node.indexSlot, Kind.Number, start, start, row.scratch.length, row.scratch.length + digits.length, true);
      row.scratch.append(digits);
      row.pinned[node.indexSlot] = 1;
    }
    return row;
  }

  /** The row of a record that begins: inside one of its own kind it is another. */
  private nextRow(index: number): Row {
    const around = this.rows[index];
    const { table } = around;
    if (around.open && table.treeSteps !== null) {
      const rows = this.depths[index];
      const depth = rows.indexOf(around) + 1;
      const row = (rows[depth] ??= this.makeRow(table, around, around));
      this.rows[index] = row;
      return row;
    }
    around.parent = table.parent === null ? null : this.rows[table.parent.index];
    return around;
  }

  private set(row: Row, slot: number, kind: Kind, start: number, end: number, textStart: number, textEnd: number, plain: boolean): void {
    if (row.kinds[slot] !== Kind.Absent) {
      row.passed[slot]++;
      (row.repeated ??= new Set()).add(slot);
      if (this.rest !== undefined) {
        const words = row.pinned[slot] === 1 ? row.scratch.words : this.scanner.words;
        this.addRest(row.rest, slot, words, row.from[slot], row.to[slot]);
      }
    }
    row.kinds[slot] = kind;
    row.from[slot] = textStart;
    row.to[slot] = textEnd;
    row.plain[slot] = plain ? 1 : 0;
    row.pinned[slot] = 0;
    if (this.spans) {
      row.spanStart[slot] = this.base + this.scanner.base + start;
      row.spanEnd[slot] = this.base + this.scanner.base + end;
    }
  }

  private finish(row: Row, end: number): void {
    row.end = this.base + this.scanner.base + end;
    row.open = false;
    this.innermost = row.around;
    const { kinds, seen } = row;
    for (let i = 0; i < kinds.length; i++) seen[i] |= 1 << kinds[i];
    if (row.waiting !== null) {
      for (const inner of row.waiting) this.reader.row(inner);
      row.waiting = null;
    }
    if (row.table.fills.length > 0) this.fillDown(row);
    const parent = row.parent;
    if (parent?.table === row.table) this.rows[row.table.index] = parent;
    if (parent === null || parent.table.keySlot < 0 || parent.kinds[parent.table.keySlot] !== Kind.Absent) this.reader.row(row);
    else (parent.waiting ??= []).push(this.freeze(row));
  }

  private fillDown(row: Row): void {
    const { table } = row;
    const list = row.parent?.place ?? -1 - this.file;
    const above = this.above.get(table);
    const texts = above?.list === list ? above.texts : [];
    row.filled = [];
    for (const slot of table.fills) {
      const kind = row.kinds[slot] as Kind;
      const text = this.text(row, slot);
      const blank = kind === Kind.Absent || kind === Kind.Null || (kind === Kind.Text && (text === "" || text === "(empty)"));
      if (!blank) texts[slot] = text;
      row.filled[slot] = blank ? (texts[slot] ?? null) : null;
    }
    this.above.set(table, { list, texts });
  }

  private freeze(row: Row): Row {
    const copy = new Row(row.table, row.parent);
    copy.filled = row.filled;
    copy.place = row.place;
    copy.form = row.form;
    copy.start = row.start;
    copy.end = row.end;
    copy.unitStart = row.unitStart;
    copy.line = row.line;
    copy.repeated = row.repeated;
    copy.adjoins = row.adjoins;
    const trail = this.spans ? row.trail() : [];
    copy.trail = () => trail;
    for (const part of ["kinds", "from", "to", "plain", "pinned", "spanStart", "spanEnd"] as const) copy[part].set(row[part]);
    Object.assign(copy.rest, row.rest);
    Object.assign(copy.inside, row.inside);
    copy.scratch.append(row.scratch.bytes, 0, row.scratch.length);
    pin(copy, this.scanner.window);
    return copy;
  }
}

/** The content of one cell as the sheet spells it: a run of bytes in somebody's buffer. */
export class CellContent {
  bytes: Uint8Array = new Uint8Array(0);
  from = 0;
  to = 0;
  private readonly written = new ByteWriter(256);
  private readonly constants = new Map<ColumnPlan, Uint8Array[]>();

  constructor(private readonly assembler: Assembler) {}

  read(row: Row, slot: number): void {
    const kind = row.kinds[slot];
    const from = row.from[slot];
    const to = row.to[slot];
    const column = row.table.plan.columns[slot];
    const bytes = row.pinned[slot] === 1 ? row.scratch.bytes : this.assembler.window;
    if (isAsItIs(row, slot, kind, bytes)) {
      this.bytes = bytes;
      this.from = from;
      this.to = to;
      return;
    }
    this.from = 0;
    if (kind <= Kind.Null || kind >= Kind.EmptyList || (kind === Kind.Text && to === from)) {
      const known = this.constants.get(column) ?? this.spellConstants(column);
      this.bytes = known[kind];
      this.to = this.bytes.length;
      return;
    }
    const { written } = this;
    if (kind !== Kind.Text || row.table.spelled[slot] === 1 || !this.unescape(bytes, from, to)) {
      written.clear();
      written.text(spellCell(kind as Kind, this.assembler.decode(row, slot), column));
    }
    this.bytes = written.bytes;
    this.to = written.length;
  }

  private unescape(bytes: Uint8Array, from: number, to: number): boolean {
    const { written } = this;
    written.clear();
    return this.assembler.dialect.unescape(bytes, from, to, written) && CAREFUL[written.bytes[0]] === 0;
  }

  /** Spellings that do not depend on the value, by kind. */
  private spellConstants(column: ColumnPlan): Uint8Array[] {
    const known: Uint8Array[] = [];
    for (const kind of [Kind.Absent, Kind.Null, Kind.Text, Kind.EmptyList, Kind.EmptyRecord])
      known[kind] = encode(spellCell(kind, "", column));
    this.constants.set(column, known);
    return known;
  }
}

/** The value's own bytes are what the sheet shows: most values, so most cells never become a string. */
export function isAsItIs(row: Row, slot: number, kind: number, bytes: Uint8Array): boolean {
  if (row.table.spelled[slot] === 1) return false;
  if (kind === Kind.Text) return row.plain[slot] === 1 && row.to[slot] > row.from[slot] && CAREFUL[bytes[row.from[slot]]] === 0;
  return kind > Kind.Text && kind < Kind.EmptyList;
}

function pin(row: Row, window: Uint8Array): void {
  for (let slot = 0; slot < row.kinds.length; slot++) {
    if (row.kinds[slot] === Kind.Absent || row.pinned[slot] === 1) continue;
    const from = row.scratch.length;
    row.scratch.append(window, row.from[slot], row.to[slot]);
    row.from[slot] = from;
    row.to[slot] = row.scratch.length;
    row.pinned[slot] = 1;
  }
}

function parentsFirst(tables: readonly CompiledTable[]): CompiledTable[] {
  return [...tables].sort((a, b) => a.steps.length + depth(a) * 1000 - (b.steps.length + depth(b) * 1000));
}

function depth(table: CompiledTable): number {
  let n = 0;
  for (let t = table.parent; t !== null; t = t.parent) n++;
  return n;
}
