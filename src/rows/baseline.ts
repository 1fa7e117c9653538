/**
 * The baseline: the source scanned again, its rows joined to the rows of the sheets.
 *
 * Equal rows are only counted. A row that differs, or that is to be removed, is kept as a snapshot
 * with the spans of its values. Of records that hold others, and of keys, a few numbers are kept each.
 */
import { Hash, type Sum } from "../bytes/hash.js";
import { Pages } from "../bytes/pages.js";
import { ByteWriter, decode } from "../bytes/writer.js";
import { Kind } from "../model/kind.js";
import type { Span } from "../edits/edit.js";
import { NO_ITEMS } from "../records/items.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import { isAsItIs, type Assembler, type Rests, type Row, type RowReader } from "../records/assemble.js";
import type { RowFilter } from "../records/filter.js";
import { ListCuts } from "../source/cuts.js";
import { Column } from "./columns.js";
import { keyHash, type Sheet } from "./sheet.js";
import { SummedRows } from "./summed.js";
import type { Snapshot } from "./snapshot.js";
import { Action } from "./sheet-index.js";

/** What is kept of every record of a table. */
export class TableBaseline {
  /** Start and end of records that hold others; filled only for tables with children. */
  readonly starts = new Pages(Float64Array);
  readonly ends = new Pages(Float64Array);
  /** Sums of their cells and of the records in them: four numbers each. */
  readonly sums = new Pages(Int32Array);
  /** Where the source can be cut between its records; filled only when a fold is to be proved. */
  readonly cuts = new ListCuts();
  /** Hashes of keys; filled only for tables with a key. */
  readonly keys = new Pages(Float64Array);
  /** Place of the record around each, in the table around; filled only for tables inside others. */
  readonly parents = new Pages(Int32Array);
  /** Place of the record of the same table around each, or -1; filled only for trees. */
  readonly uppers = new Pages(Int32Array);
  /** Hashes of member names with the place of the record around them; filled only for keyed records. */
  readonly names = new Pages(Float64Array);
  /** Hashes of the codes in columns that refer to other tables, by slot. */
  readonly codes: ReadonlyMap<number, Pages>;
  records = 0;
  /** 1 for records that have no row in the sheet. */
  readonly absent = new Pages(Uint8Array);
  /** How many of them the hatch had written. */
  missing = 0;
  /** These, where they are few and the table has no key. */
  missed: Snapshot[] = [];
  /** Members of a record hold lists of these records. */
  inLists = false;
  /** Kinds met in each slot, as bits. */
  kindsSeen: Uint16Array;
  /** One record of each file, as a model for new ones. */
  readonly models: (Span | undefined)[] = [];
  /** Files in which the one record of the table is the whole document. */
  readonly documents = new Set<number>();

  constructor(readonly table: CompiledTable) {
    this.kindsSeen = new Uint16Array(table.plan.columns.length);
    this.codes = new Map(table.references.map(({ slot }) => [slot, new Pages(Float64Array)]));
  }
}

/** Of more missing records none is kept. */
const FEW_MISSED = 8;

export interface BaselineOptions {
  /** Records whose rows are missing are to be removed. */
  readonly removeAbsent: boolean;
  /** All rows are in the sheets; else what is missing says nothing. */
  readonly isWhole: boolean;
  /** Tables of whose rows only some are in their sheets: what is missing says nothing. */
  readonly inPart: ReadonlySet<CompiledTable>;
  /** Records are summed up, for the proof of a fold. */
  readonly summed: boolean;
}

export class Baseline implements RowReader {
  private assembler!: Assembler;
  readonly tables: readonly TableBaseline[];
  readonly snapshots: Snapshot[] = [];
  unchanged = 0;
  private readonly hash = new Hash();
  private readonly word = new ByteWriter(256);
  /** Records of the sheets that the hatch had not written. */
  readonly notHatched: { sheet: Sheet; row: number }[] = [];
  private readonly passed: number[];
  private readonly summed: SummedRows;

  constructor(
    compiled: CompiledPlan,
    private readonly sheets: readonly (Sheet | null)[],
    private readonly filter: RowFilter,
    private readonly samples: readonly number[],
    private readonly how: BaselineOptions,
  ) {
    this.tables = compiled.tables.map((table) => new TableBaseline(table));
    this.summed = new SummedRows(compiled, how.summed);
    this.passed = compiled.tables.map(() => 0);
  }

  /** Reads rows that come from this assembler. */
  begin(assembler: Assembler): void {
    this.assembler = assembler;
    for (const kept of this.tables) kept.kindsSeen = assembler.rows[kept.table.index].seen;
  }

  row(row: Row): void {
    const kept = this.tables[row.table.index];
    kept.records++;
    if (row.table.children.length > 0 || row.table.treeSteps !== null) {
      kept.starts.set(row.place, row.start);
      kept.ends.set(row.place, row.end);
    }
    this.summed.read(row, this.assembler);
    if (this.how.summed) {
      this.keepSums(row, kept);
      kept.cuts.add(row.start, row.adjoins);
    }
    if (row.table.keySlot >= 0) kept.keys.set(row.place, this.hashCell(row, row.table.keySlot));
    const { references } = row.table;
    if (references.length > 0) for (const { slot } of references) kept.codes.get(slot)!.set(row.place, this.hashCell(row, slot));
    const nested = row.parent?.table === row.table;
    if (row.table.parent !== null) kept.parents.set(row.place, nested ? -1 : row.parent!.place);
    if (row.table.treeSteps !== null) kept.uppers.set(row.place, nested ? row.parent!.place : -1);
    if (row.table.node.nameSlot >= 0) {
      kept.inLists ||= this.assembler.scanner.inList;
      const { bytes, from, to } = this.assembler.read(row, row.table.node.nameSlot);
      kept.names.set(row.place, memberHash(aroundPlace(row.parent?.place ?? -1, nested), decode(bytes, from, to)));
    }
    const { file } = this.assembler;
    if (kept.models[file] === undefined) {
      kept.models[file] = { start: row.start, end: row.end };
      if (row.table.plan.rows.steps.length === 0 && row.trail().length === 0) kept.documents.add(file);
    }

    if (row.table.host !== null) return;
    const sheet = this.sheets[row.table.index];
    if (sheet === null) return;
    const { place } = row;
    const { standings, step } = sheet;
    const written = this.wasWritten(row);
    if (step !== null) {
      if (written && step.skipIfEqual(row, this.assembler, this.summed.inline)) {
        this.unchanged++;
        return;
      }
      step.goTo(place);
    }
    if (sheet.rowOf(place) === 0) {
      kept.absent.set(place, 1);
      if (written && this.how.removeAbsent) this.snapshots.push(this.snapshot(row, 0, Action.Remove));
      else if (written && this.how.isWhole && !this.how.inPart.has(row.table)) this.miss(row, kept);
      return;
    }
    if (!written && sheet.seen(sheet.rowOf(place)) !== null) {
      this.notHatched.push({ sheet, row: sheet.rowOf(place) });
      return;
    }
    const hash = this.hashRow(row, sheet);
    if (hash !== standings.hash(place) && sheet.copies.size > 0) sheet.preferUnedited(place, hash);
    const action = standings.action(place);
    const atTop = row.table.treeSteps !== null && row.parent?.table !== row.table;
    const same = hash === standings.hash(place) && atTop === sheet.isAtTop(sheet.rowOf(place));
    if (same && action === Action.None) step?.forget(place);
    if (action !== Action.Remove && (action === Action.Skip || same)) this.unchanged++;
    else this.snapshots.push(this.snapshot(row, sheet.rowOf(place), action));
  }

  private miss(row: Row, kept: TableBaseline): void {
    kept.missing++;
    if (kept.missing > FEW_MISSED) kept.missed = [];
    else if (row.table.keySlot < 0) kept.missed.push(this.snapshot(row, 0, Action.None));
  }

  private keepSums(row: Row, { sums }: TableBaseline): void {
    if (row.table.children.length === 0 && row.table.treeSteps === null) return;
    const { cells } = this.summed.sums;
    const at = 4 * row.place;
    sums.set(at, cells.a);
    sums.set(at + 1, cells.b);
    sums.set(at + 2, row.inside.a);
    sums.set(at + 3, row.inside.b);
  }

  /** By file: the sum of what it says. */
  get fileSums(): readonly Sum[] {
    return this.summed.sums.files;
  }

  /** By file: what stands around its records. */
  get around(): readonly Rests[] {
    return this.assembler.around;
  }

  private wasWritten(row: Row): boolean {
    const sample = this.samples[row.table.index];
    if (!this.filter.active && sample === Infinity) return true;
    if (this.filter.active && !this.filter.passes(row, this.assembler)) return false;
    return this.passed[row.table.index]++ < sample;
  }

  /** The hash that the sheet's row has when nothing was edited: same cells, same order. */
  private hashRow(row: Row, sheet: Sheet): number {
    const { hash } = this;
    hash.start();
    const { columns } = sheet;
    for (let c = 0; c < columns.length; c++) {
      const column = columns[c];
      if (column >= row.kinds.length) {
        this.word.clear();
        this.word.text(this.summed.inline[column - row.kinds.length]);
        hash.partOf(this.word.words, 0, this.word.length);
      } else if (column >= 0) {
        this.addCell(row, column);
      } else if (column === Column.Parent) {
        const holder = this.assembler.holderOf(row)!;
        hash.partOf(holder.words, 0, holder.length);
      }
    }
    return hash.number;
  }

  private hashCell(row: Row, slot: number): number {
    this.hash.start();
    this.addCell(row, slot);
    return this.hash.number;
  }

  private addCell(row: Row, slot: number): void {
    const { assembler, hash } = this;
    const kept = row.pinned[slot] === 1;
    const kind = row.kinds[slot];
    if (isAsItIs(row, slot, kind, kept ? row.scratch.bytes : assembler.window))
      hash.partOf(kept ? row.scratch.words : assembler.words, row.from[slot], row.to[slot]);
    else if (kind <= Kind.Null && kind === row.table.blanks[slot]) hash.partOf(assembler.words, 0, 0);
    else {
      const { bytes, from, to } = assembler.read(row, slot);
      hash.part(bytes, from, to);
    }
  }

  /** A copy of the row that is being read; of another, when an `assembler` is said that reads it. */
  snapshot(row: Row, sheetRow: number, action: Action, assembler?: Assembler): Snapshot {
    return assembler === undefined
      ? this.summed.snapshot(row, { sheetRow, action }, this.assembler)
      : this.summed.snapshot(row, { sheetRow, action }, assembler, NO_ITEMS);
  }
}

/** A record of the same table, and one of the table around, can have the same place: trees tell them apart. */
export function aroundPlace(place: number, nested: boolean): number {
  return nested ? place + 0.5 : place;
}

/** Hash of a member's name in one parent. */
export function memberHash(parent: number, name: string): number {
  return keyHash(`${parent} ${name}`);
}

/** Did any record have a value of this kind in this slot? */
export function sawKind(baseline: TableBaseline, slot: number, kind: Kind): boolean {
  return (baseline.kindsSeen[slot] & (1 << kind)) !== 0;
}
