/**
 * What a fold has to say when it is read again: the sums of the files (src/records/sums.ts), from those of the source and
 * from what the draft wants of it.
 */
import { addTo, takeFrom, type Sum } from "../bytes/hash.js";
import { spellCell } from "../cells/spelling.js";
import type { NewValue } from "../edits/edit.js";
import { Kind } from "../model/kind.js";
import { isFollowing } from "../model/plan.js";
import { startsWith } from "../model/path.js";
import { standInsOf } from "../layouts/empty-stand-ins.js";
import type { CompiledTable } from "../plan/compile.js";
import { inlineCells } from "../records/items.js";
import { RowSums, sumOfBlank, type SummedCell } from "../records/sums.js";
import type { Context } from "../rows/context.js";
import { placingOf, type Draft, type OrderedList } from "../rows/draft.js";
import type { CellEdit, DifferingRow, NewRow, Target } from "../rows/row-edits.js";
import type { Snapshot } from "../rows/snapshot.js";
import { SummedRows } from "../rows/summed.js";
import type { Placing } from "../layouts/layout.js";
import { pushTo } from "../model/push-to.js";
import { partAt } from "../source/parts.js";
import { countAlike, type ExpectedApart } from "./apart.js";
import { pairsBeside, type Comer, type ExpectedPair } from "./beside.js";
import { fileOf } from "./places.js";

/** A record as it is to be. */
export interface ExpectedRecord {
  readonly table: CompiledTable;
  /** The row that says so; `null` where only a list in it is edited elsewhere. */
  readonly from: DifferingRow | NewRow | null;
  readonly cells: readonly SummedCell[];
  readonly inline: readonly string[];
  readonly sum: Sum;
}

/** What the files are to say. */
export interface Expected {
  /** By file. */
  readonly sums: readonly Sum[];
  /** Each record: worked out anew, for whoever looks for what went wrong. */
  records(): Promise<ExpectedRecords>;
  /** By file: do records go out of it, or to another place in it? */
  readonly takesOut: readonly boolean[];
  /** By file: do records come into it from another one, or go to one? */
  readonly exchanges: readonly boolean[];
  /** Records that come beside one that stays. */
  readonly pairs: readonly ExpectedPair[];
  /** Lists whose order was edited, with the sums of all records that will be in them. */
  readonly orders: readonly { readonly table: CompiledTable; readonly sums: readonly Sum[]; readonly from: DifferingRow | NewRow }[];
  /** Cells that say what is left of a value taken apart, told by the sums of their records' cells. */
  readonly apart: readonly ExpectedApart[];
  /** Records that come behind all others of their list, in this order. */
  readonly last: readonly { readonly table: CompiledTable; readonly sum: Sum; readonly from: DifferingRow | NewRow }[];
}

export interface ExpectedRecords {
  /** Those that the draft changes, by {@link idOf}, and those that it adds. */
  readonly changed: ReadonlyMap<string, ExpectedRecord>;
  readonly added: readonly ExpectedRecord[];
  isGone(table: CompiledTable, place: number): boolean;
}

/** A record of the source, as a text. */
export function idOf(table: CompiledTable, place: number): string {
  return `${table.index} ${place}`;
}

export function expectedOf(draft: Draft, ctx: Context): Promise<Expected> {
  return new Expectation(draft, ctx, false).run();
}

/** A record that is edited, added, removed or moved, or that holds such a one. */
class Node {
  /** What is removed from, and comes into, the sum of the records in it. */
  readonly inside: Sum = { a: 0, b: 0 };
  /** How many of those that will be in it are not yet summed. */
  pending = 0;
  before: Node | null = null;
  after: Node | null = null;
  /** The file that it is at the top of, where there is no record around. */
  fileBefore = -1;
  fileAfter = -1;
  /** The sum of what it will say, when that is known. */
  whole: Sum | null = null;
  snapshot: Snapshot | null = null;
  edits: readonly CellEdit[] = [];
  removed = false;
  /** It leaves its place. */
  moves = false;
  from: DifferingRow | NewRow | null = null;
  /** A list that its row shows is edited. */
  listed = false;

  constructor(
    readonly table: CompiledTable,
    readonly place: number,
  ) {}
}

class Expectation {
  private readonly nodes = new Map<string, Node>();
  private readonly news = new Map<NewRow, Node>();
  private readonly sums: RowSums;
  private readonly files: Sum[];
  private readonly changed = new Map<string, ExpectedRecord>();
  private readonly takesOut: boolean[];
  private readonly exchanges: boolean[];
  private readonly added: ExpectedRecord[] = [];
  private readonly apart: ExpectedApart[] = [];
  private readonly comers: Comer[] = [];
  /** Records into which others come. */
  private readonly comeInto = new Set<Node>();
  private readonly last: { table: CompiledTable; sum: Sum; from: DifferingRow | NewRow }[] = [];
  /** Records of the source of which the comparison has kept too little. */
  private readonly wanted = new Map<string, Node>();

  constructor(
    private readonly draft: Draft,
    private readonly ctx: Context,
    /** The records are kept: they are as many as the edits. */
    private readonly keeps: boolean,
  ) {
    this.sums = new RowSums(ctx.compiled);
    this.takesOut = ctx.parts.map(() => false);
    this.exchanges = ctx.parts.map(() => false);
    this.files = ctx.parts.map(({ index }) => ({ ...(ctx.base.fileSums[index] ?? { a: 0, b: 0 }) }));
  }

  async run(): Promise<Expected> {
    const { rows, news, rejected } = this.draft;
    const added = news.filter((row) => !rejected.has(row));
    for (const row of added) this.news.set(row, new Node(row.table, -1));
    for (const row of rows) if (!rejected.has(row)) this.touch(row);
    for (const row of added) this.add(row);
    for (const node of [...this.nodes.values(), ...this.news.values()]) this.noteList(node);
    await this.readWanted();
    this.sum();
    const { draft, ctx } = this;
    // one pass for both, and none where the records alone are asked for
    const pairs = this.keeps ? [] : pairsBeside(this.comers, (table, place) => this.staying(table, place), ctx);
    if (!this.keeps) await Promise.all([pairs, countAlike(this.apart, (table, place) => this.nodes.has(idOf(table, place)), ctx)]);
    return {
      sums: this.files,
      records: () => new Expectation(draft, ctx, true).records(),
      takesOut: this.takesOut,
      exchanges: this.exchanges,
      apart: this.apart,
      pairs: await pairs,
      last: this.last.sort((one, other) => this.rankOf(one.from) - this.rankOf(other.from) || one.from.row - other.from.row),
      orders: this.draft.orders.flatMap((list) => this.orderOf(list)),
    };
  }

  private async records(): Promise<ExpectedRecords> {
    await this.run();
    const { gone } = this.draft;
    return {
      changed: this.changed,
      added: this.added,
      isGone: (table, place) => this.nodes.get(idOf(table, place))?.removed ?? gone.get(table)?.has(place) ?? false,
    };
  }

  private touch(row: DifferingRow): void {
    const { snapshot } = row;
    const node = this.nodeAt(snapshot.table, snapshot.place, snapshot);
    const target = this.draft.moves.get(row);
    node.edits = [...node.edits, ...row.cells, ...(row.lists?.standIns ?? [])];
    node.from = row;
    if (node.edits.some(({ slot }) => snapshot.table.inline.some(({ standInSlot }) => standInSlot === slot))) node.listed = true;
    if (row.removed) node.removed = true;
    if (row.removed || target !== undefined) this.takesOut[snapshot.file] = true;
    if (target !== undefined) {
      const { index } = fileOf(target, this.ctx);
      if (index !== snapshot.file) this.exchanges[index] = this.exchanges[snapshot.file] = true;
      node.moves = true;
      this.goTo(node, target);
    }
  }

  private add(row: NewRow): void {
    const node = this.news.get(row)!;
    node.from = row;
    this.goTo(node, row.target!);
  }

  private goTo(node: Node, target: Target): void {
    node.after = "file" in target ? null : "row" in target ? this.news.get(target.row)! : this.nodeAt(target.of, target.place, null);
    node.fileAfter = "file" in target ? target.file : -1;
  }

  /** The node of a record of the source, and those of the records around it. */
  private nodeAt(table: CompiledTable, place: number, snapshot: Snapshot | null): Node {
    const [first, isNew] = this.take(table, place, snapshot);
    for (let [node, fresh] = [first, isNew]; fresh;) {
      const around = this.around(node);
      if (typeof around === "number") {
        node.fileBefore = node.fileAfter = around;
        break;
      }
      const [outer, outerFresh] = this.take(around.table, around.place, null);
      node.before = node.after = outer;
      [node, fresh] = [outer, outerFresh];
    }
    return first;
  }

  private take(table: CompiledTable, place: number, snapshot: Snapshot | null): [node: Node, isNew: boolean] {
    const id = idOf(table, place);
    const known = this.nodes.get(id);
    const node = known ?? new Node(table, place);
    node.snapshot ??= snapshot;
    this.nodes.set(id, node);
    return [node, known === undefined];
  }

  /** The record around a record of the source, or the number of the file that it is at the top of. */
  private around({ table, place, snapshot }: Node): { readonly table: CompiledTable; readonly place: number } | number {
    const kept = this.ctx.base.tables[table.index];
    if (snapshot !== null) {
      const { parentTable, parentPlace, file } = snapshot;
      return parentTable === null ? file : { table: parentTable, place: parentPlace };
    }
    const upper = table.treeSteps === null ? -1 : kept.uppers.at(place);
    if (upper >= 0) return { table, place: upper };
    if (table.parent !== null) return { table: table.parent, place: kept.parents.at(place) };
    return partAt(this.ctx.parts, kept.starts.at(place)).index;
  }

  /** Of a record in whose row an edited list is shown, all cells are needed. */
  private noteList({ table, before, after }: Node): void {
    if (table.host === null) return;
    for (const host of [before, after]) {
      if (host === null || host.listed) continue;
      host.listed = true;
      this.noteList(host);
    }
  }

  /** What was not kept is read once more; most folds need no such pass. */
  private async readWanted(): Promise<void> {
    for (const [id, node] of this.nodes) {
      const edited = node.edits.length > 0 || node.listed;
      if (node.snapshot === null ? edited : !node.snapshot.summed) this.wanted.set(id, node);
    }
    // records that say what they said, in lists that are put in order
    const ordered = new Set<string>();
    for (const { table, records } of this.draft.orders)
      for (const one of records) if (typeof one === "number" && !this.nodes.has(idOf(table, one))) ordered.add(idOf(table, one));
    if (this.wanted.size + ordered.size === 0) return;
    const read = new SummedRows(this.ctx.compiled);
    await this.ctx.records.rests((row, assembler) => {
      read.read(row, assembler);
      const id = idOf(row.table, row.place);
      const node = this.wanted.get(id);
      if (node !== undefined) node.snapshot = read.snapshot(row, { sheetRow: 0, action: 0 }, assembler);
      if (ordered.has(id)) this.ordered.set(id, { ...read.sums.record });
    });
  }
  private readonly ordered = new Map<string, Sum>();

  /** From the innermost records outward. */
  private sum(): void {
    const all = [...this.nodes.values(), ...this.news.values()];
    for (const { after, place, moves } of all) {
      if (after === null) continue;
      after.pending++;
      if (place < 0 || moves) this.comeInto.add(after);
    }
    const ready = all.filter(({ pending }) => pending === 0);
    // what was in a record goes out of its sum first
    for (const node of this.nodes.values()) {
      takeFrom(node.before === null ? this.files[node.fileBefore] : node.before.inside, this.oldWhole(node));
    }
    for (let node = ready.pop(); node !== undefined; node = ready.pop()) {
      const whole = this.newWhole(node);
      node.whole = whole;
      const { after, from } = node;
      const goes = node.place < 0 || node.moves;
      if (goes && !node.removed && node.table.host === null) this.noteComing(node.table, whole, from!);
      if (!node.removed) addTo(after === null ? this.files[node.fileAfter] : after.inside, whole);
      if (after !== null && --after.pending === 0) ready.push(after);
    }
  }

  private noteComing(table: CompiledTable, sum: Sum, from: DifferingRow | NewRow): void {
    const placing = placingOf(this.draft, from);
    if (placing?.beside === undefined) this.last.push({ table, sum, from });
    else if (!this.draft.orders.some((order) => order.table === table))
      this.comers.push({ table, sum, from, placing: { ...placing, beside: placing.beside } });
  }

  private staying(table: CompiledTable, place: number): Sum | null | undefined {
    const node = this.nodes.get(idOf(table, place));
    return node === undefined ? undefined : node.removed || node.moves ? null : node.whole;
  }

  private rankOf(row: DifferingRow | NewRow): number {
    return placingOf(this.draft, row)?.rank ?? Number.MAX_VALUE;
  }

  /** The records of a list in their order; where some do not move or come, as they were rejected, it is not known. */
  private orderOf({ table, records }: OrderedList): Expected["orders"][number][] {
    const { rejected, news, moves } = this.draft;
    const isOut = (one: number | DifferingRow | NewRow): boolean => typeof one !== "number" && rejected.has(one);
    const from = records.find((one) => typeof one !== "number") ?? [...moves.keys()].find((row) => row.snapshot.table === table) ?? news[0];
    if (records.some(isOut) || [...moves.keys()].some((row) => row.snapshot.table === table && rejected.has(row))) return [];
    const sums = records.map((one): Sum => {
      const id = typeof one === "number" ? idOf(table, one) : "snapshot" in one ? idOf(table, one.snapshot.place) : null;
      const node = id === null ? this.news.get(one as NewRow) : this.nodes.get(id);
      return node?.whole ?? this.ordered.get(id!)!;
    });
    return [{ table, sums, from }];
  }

  private oldWhole(node: Node): Sum {
    return this.sums.whole(this.oldCells(node), this.oldInside(node));
  }

  private oldCells({ table, place, snapshot }: Node): Sum {
    return snapshot === null ? this.keptSum(table, place, 0) : this.cellsOf(snapshot);
  }

  private wholeOf(snapshot: Snapshot): Sum {
    return this.sums.whole(this.cellsOf(snapshot), snapshot.inside);
  }

  private cellsOf(snapshot: Snapshot): Sum {
    const { table, kinds, contents, rest } = snapshot;
    const cells = Array.from(kinds, (kind, slot) => ({ kind: kind as Kind, text: contents[slot] }));
    return this.sums.cellsOf(table, cells, contents.slice(kinds.length), rest);
  }

  private oldInside({ table, place, snapshot }: Node): Sum {
    return snapshot === null ? this.keptSum(table, place, 2) : snapshot.inside;
  }

  private keptSum(table: CompiledTable, place: number, lane: number): Sum {
    const { sums } = this.ctx.base.tables[table.index];
    return { a: sums.at(4 * place + lane), b: sums.at(4 * place + lane + 1) };
  }

  private newWhole(node: Node): Sum {
    const inside = { ...node.inside };
    if (node.place >= 0) addTo(inside, this.oldInside(node));
    for (const list of this.droppedLists(node)) {
      for (const item of node.snapshot?.items.get(list) ?? []) takeFrom(inside, this.wholeOf(item));
    }
    if (node.place >= 0 && node.edits.length === 0 && !node.listed) return this.sums.whole(this.oldCells(node), inside);
    const cells = this.newCells(node);
    const inline = this.newInline(node, cells);
    const sum = this.sums.cellsOf(node.table, cells, inline, node.snapshot?.rest ?? restOfNew(node.table));
    this.noteApart(node, cells, sum);
    if (!this.keeps) return this.sums.whole(sum, inside);
    const record = { table: node.table, from: node.from, cells, inline, sum };
    if (node.place < 0) this.added.push(record);
    else this.changed.set(idOf(node.table, node.place), record);
    return this.sums.whole(sum, inside);
  }

  /** What is left of a value that is to hold something follows from that. */
  private noteApart(node: Node, cells: readonly SummedCell[], sum: Sum): void {
    const { table, place, from, edits, removed } = node;
    if (from === null || removed || table.host !== null) return;
    for (const slot of this.sums.apart(table)) {
      const isSaid = place < 0 ? (from as NewRow).values[slot] !== null : edits.some((edit) => edit.slot === slot);
      if (!isSaid) continue;
      const { steps } = table.plan.columns[slot].at;
      const isFilled = standInsOf(table)[slot].parts.some((part) => cells[part].kind !== Kind.Absent);
      const isHolder = this.comeInto.has(node) && table.nested.some((one) => startsWith(one.steps, steps));
      if (!isFilled && !isHolder) this.apart.push({ table, sum, slot, cell: cells[slot], from, alike: 0 });
    }
  }

  private newCells(node: Node): SummedCell[] {
    const { table, snapshot, edits, from } = node;
    if (snapshot === null) return (from as NewRow).values.map((value, slot) => spelled(table, slot, value));
    const { kinds, contents } = snapshot;
    const cells = Array.from(kinds, (kind, slot): SummedCell => ({ kind: kind as Kind, text: contents[slot] }));
    for (const { slot, value } of edits) cells[slot] = spelled(table, slot, value);
    return cells;
  }

  /** What the row shows of its lists. */
  private newInline(node: Node, cells: readonly SummedCell[]): string[] {
    const { table } = node;
    if (table.inline.length === 0) return [];
    if (node.snapshot !== null && !node.listed) {
      const { contents } = node.snapshot;
      return contents.slice(cells.length);
    }
    const items = this.newItems(node);
    const emptied = new Set<number>();
    for (const { table: list, standInSlot } of table.inline) {
      const had = (node.snapshot?.items.get(list) ?? []).length > 0;
      if (had && items.get(list)?.length === 0 && !table.source.dialect.repeats && !this.droppedLists(node).includes(list))
        emptied.add(standInSlot);
    }
    // a list whose items have gone one by one is an empty one
    return inlineCells(table, items, (slot) => (emptied.has(slot) ? this.emptyText(table, slot) : cells[slot].text));
  }

  private emptyText({ plan, inline }: CompiledTable, standInSlot: number): string {
    const list = inline.find((one) => one.standInSlot === standInSlot)!.table;
    return spellCell(list.node.starred ? Kind.EmptyRecord : Kind.EmptyList, "", plan.columns[standInSlot]);
  }

  /** Lists that go as a whole, with what is in them. */
  private droppedLists({ table, edits, snapshot }: Node): CompiledTable[] {
    if (snapshot === null || edits.length === 0) return [];
    const dropped = new Set(edits.filter(({ value }) => value.kind === Kind.Absent).map(({ slot }) => slot));
    return [
      ...new Set(
        table.inline.filter(({ standInSlot, column }) => !isFollowing(column) && dropped.has(standInSlot)).map((one) => one.table),
      ),
    ];
  }

  /** The lists of a record as they are to be, each item as its cells. */
  private newItems(node: Node): Map<CompiledTable, string[][]> {
    const lists = new Map<CompiledTable, string[][]>();
    const dropped = this.droppedLists(node);
    for (const list of new Set(node.table.inline.map(({ table }) => table))) {
      if (list.host !== node.table || dropped.includes(list)) continue;
      const old = node.snapshot?.items.get(list) ?? [];
      const coming = this.comingTo(node, list);
      const items: string[][] = [];
      const put = (one: Node): void => {
        const cells = this.newCells(one);
        items.push([...cells.map(({ text }) => text), ...this.newInline(one, cells)]);
      };
      const putBeside = (at: number, before: boolean): void => {
        for (const { placing, node: one } of coming) if (placing?.beside?.at === at && placing.beside.before === before) put(one);
      };
      for (const item of old) {
        const known = this.nodes.get(idOf(list, item.place));
        putBeside(item.unitStart, true);
        if (known === undefined) items.push([...item.contents]);
        else if (!known.removed && !known.moves) put(known);
        putBeside(item.span.end, false);
      }
      for (const { placing, node: one } of coming) if (placing?.beside === undefined) put(one);
      lists.set(list, items);
    }
    return lists;
  }

  /** Items that are new in a list, or leave their place in it, in the order in which they come. */
  private comingTo(host: Node, list: CompiledTable): { readonly node: Node; readonly placing?: Placing }[] {
    if (this.listed === null) {
      this.listed = new Map();
      for (const node of [...this.nodes.values(), ...this.news.values()])
        if (node.table.host !== null && node.after !== null && (node.place < 0 || node.moves)) pushTo(this.listed, node.after, node);
    }
    const nodes = (this.listed.get(host) ?? []).filter(({ table }) => table === list);
    return nodes
      .map((node) => ({ node, placing: node.from?.placing }))
      .sort((one, other) => (one.placing?.rank ?? Infinity) - (other.placing?.rank ?? Infinity) || 0);
  }
  private listed: Map<Node, Node[]> | null = null;
}

function spelled(table: CompiledTable, slot: number, value: NewValue | null): SummedCell {
  const column = table.plan.columns[slot];
  if (value === null) return { kind: Kind.Absent, text: spellCell(Kind.Absent, "", column) };
  const { onlyText } = table.source.dialect;
  const kind = onlyText && value.kind > Kind.Text && value.kind < Kind.List ? Kind.Text : value.kind;
  return { kind, text: spellCell(kind, value.text, column) };
}

/** What a new record has beside its cells: what ends it. */
function restOfNew({ source, plan, node }: CompiledTable): Sum {
  const names = source.dialect.bringsAlong?.(plan.rows.steps) ?? [];
  return sumOfBlank(names.filter((name) => node.byName.get(name) === undefined));
}
