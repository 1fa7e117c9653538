/**
 * Rows of the source, copied out. Their cells are bytes and numbers in slabs that many rows share: for each row the
 * engine's collector then goes through two objects, not through forty.
 */
import type { Sum } from "../bytes/hash.js";
import { ByteWriter, decode } from "../bytes/writer.js";
import type { Trail } from "../model/trail.js";
import type { Kind } from "../model/kind.js";
import type { Span } from "../edits/edit.js";
import type { Items } from "../records/items.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Assembler, Row } from "../records/assemble.js";
import type { Action } from "./sheet-index.js";

const SLAB = 1 << 16;
/** Bytes of what is kept of a cell beside its kind and its content: offsets of start and end, and the content's length. */
const OFFSET = 8;
const LENGTH = 4;
/** Two sums stand before the cells. */
const SUMS = 16;

/** A row of the source, copied out. */
export class Snapshot {
  readonly table: CompiledTable;
  readonly place: number;
  /** The record, and the record with its name when it is a member. */
  readonly span: Span;
  readonly unitStart: number;
  /** Number of the line in which it begins, where records are lines; else 0. */
  readonly line: number;
  readonly form: Kind;
  /** Place of the record around it in its table, or -1. */
  readonly parentPlace: number;
  /** Table of the record around it: in a tree its own. */
  readonly parentTable: CompiledTable | null;
  readonly trail: Trail;
  /** Slots whose value follows another one of the same name in the record; `null` where there is none. */
  readonly repeated: ReadonlySet<number> | null;

  /** Number of the row that stands for it in the sheet; 0 when there is none. */
  readonly sheetRow: number;
  readonly action: Action;
  /** What the sheet calls the record around it, or the file it is in. */
  readonly parentIdent: string;
  /** Number of the file it is in. */
  readonly file: number;
  /** Its sums were made when it was read. */
  readonly summed: boolean;
  /** Records of lists that are shown in this one's row. */
  readonly items: Items<Snapshot>;

  constructor(
    row: Row,
    {
      sheetRow,
      action,
      parentIdent,
      file,
      summed,
      items,
    }: Pick<Snapshot, "sheetRow" | "action" | "parentIdent" | "file" | "summed" | "items">,
    private readonly cells: { readonly slab: DataView; readonly at: number; readonly count: number },
  ) {
    this.sheetRow = sheetRow;
    this.action = action;
    this.parentIdent = parentIdent;
    this.file = file;
    this.summed = summed;
    this.items = items;
    this.table = row.table;
    this.place = row.place;
    this.span = { start: row.start, end: row.end };
    this.unitStart = row.unitStart;
    this.line = row.line;
    this.form = row.form;
    this.parentPlace = row.parent?.place ?? -1;
    this.parentTable = row.parent?.table ?? null;
    this.trail = row.trail();
    this.repeated = row.repeated;
  }

  /** It stands at the top of its tree. */
  get atTop(): boolean {
    return this.table.treeSteps !== null && this.parentTable !== this.table;
  }

  get kinds(): Uint8Array {
    const { slab, at } = this.cells;
    return new Uint8Array(slab.buffer, at, this.table.plan.columns.length);
  }

  /** Cells as the sheet spells them, by slot: those of the record, and behind them those of lists that are shown in its row. */
  get contents(): readonly string[] {
    const contents: string[] = [];
    for (let slot = 0, from = this.textStart; slot < this.cells.count; slot++) {
      const to = from + this.textLength(slot);
      contents.push(this.text(from, to));
      from = to;
    }
    return contents;
  }

  /** One of the contents. */
  content(slot: number): string {
    let from = this.textStart;
    for (let before = 0; before < slot; before++) from += this.textLength(before);
    return this.text(from, from + this.textLength(slot));
  }

  /** Does the cell say this? */
  says(slot: number, text: string): boolean {
    let from = this.textStart;
    for (let before = 0; before < slot; before++) from += this.textLength(before);
    const { slab } = this.cells;
    const length = this.textLength(slot);
    for (let i = 0; i < length; i++) {
      const byte = slab.getUint8(from + i);
      // beyond ASCII a letter is not a byte
      if (byte >= 0x80) return this.text(from, from + length) === text;
      if (byte !== text.charCodeAt(i)) return false;
    }
    return length === text.length;
  }

  private get textStart(): number {
    return this.lengthsStart + this.cells.count * LENGTH;
  }

  private get lengthsStart(): number {
    return this.cells.at + this.table.plan.columns.length * (1 + 2 * OFFSET);
  }

  private textLength(slot: number): number {
    return this.cells.slab.getUint32(this.lengthsStart + slot * LENGTH);
  }

  private text(from: number, to: number): string {
    return decode(new Uint8Array(this.cells.slab.buffer), from, to);
  }

  /** Sum of what no column shows of the record. */
  get rest(): Sum {
    return this.sumAt(0);
  }

  /** Sum of the records in it. */
  get inside(): Sum {
    return this.sumAt(8);
  }

  private sumAt(from: number): Sum {
    const { slab, at } = this.cells;
    return { a: slab.getInt32(at - SUMS + from), b: slab.getInt32(at - SUMS + from + 4) };
  }

  /** Where the value of a slot is in the source. */
  spanOf(slot: number): Span {
    const { slab, at } = this.cells;
    const from = at + this.table.plan.columns.length + slot * 2 * OFFSET;
    return { start: slab.getFloat64(from), end: slab.getFloat64(from + OFFSET) };
  }
}

/** Where the cells of snapshots are kept. A slab goes when the last of its snapshots goes. */
export class SnapshotStore {
  private slab = new DataView(new ArrayBuffer(0));
  private used = 0;
  private readonly texts = new ByteWriter();
  private readonly lengths: number[] = [];

  /** Copies a row's cells, and `more` cells that the sheet shows behind them. */
  put(row: Row, more: readonly string[], assembler: Assembler): { slab: DataView; at: number; count: number } {
    const slots = row.kinds.length;
    const { texts, lengths } = this;
    const end = (before: number): number => lengths.push(texts.length - before);
    texts.clear();
    lengths.length = 0;
    for (let slot = 0, before = 0; slot < slots; slot++, before = texts.length) {
      const { bytes, from, to } = assembler.read(row, slot);
      texts.append(bytes, from, to);
      end(before);
    }
    for (const content of more) {
      const before = texts.length;
      texts.text(content);
      end(before);
    }
    const at = this.room(SUMS + slots * (1 + 2 * OFFSET) + lengths.length * LENGTH + texts.length) + SUMS;
    const { slab } = this;
    for (const [i, lane] of [row.rest.a, row.rest.b, row.inside.a, row.inside.b].entries()) slab.setInt32(at - SUMS + 4 * i, lane);
    const bytes = new Uint8Array(slab.buffer);
    bytes.set(row.kinds, at);
    let to = at + slots;
    for (let slot = 0; slot < slots; slot++, to += 2 * OFFSET) {
      slab.setFloat64(to, row.spanStart[slot]);
      slab.setFloat64(to + OFFSET, row.spanEnd[slot]);
    }
    for (const length of lengths) {
      slab.setUint32(to, length);
      to += LENGTH;
    }
    bytes.set(texts.bytes.subarray(0, texts.length), to);
    return { slab, at, count: lengths.length };
  }

  private room(size: number): number {
    if (this.used + size > this.slab.byteLength) {
      this.slab = new DataView(new ArrayBuffer(Math.max(SLAB, size)));
      this.used = 0;
    }
    this.used += size;
    return this.used - size;
  }
}
