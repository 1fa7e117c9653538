/**
 * Sums of records, by which two readings of records are compared without keeping either.
 *
 * The sum of a record is made of its cells, of what no column shows of it, and of the sums of the records in it, in whatever
 * order those stand (a Merkle tree whose nodes do not tell the order of their children). So the sums of the records that are
 * in no other one stand for all that a file says.
 */
import { addTo, Hash, hashName, type Sum } from "../bytes/hash.js";
import { spellText } from "../cells/spelling.js";
import { ByteWriter, encode } from "../bytes/writer.js";
import { Kind } from "../model/kind.js";
import { isFollowing } from "../model/plan.js";
import { startsWith } from "../model/path.js";
import { takesApart } from "../formats/take-apart.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import { isAsItIs, type Assembler, type Row } from "./assemble.js";

/** What is summed of a table's rows. */
interface Summed {
  /** Slots of cells, and of lists that are shown in the row. */
  readonly own: readonly number[];
  readonly inline: readonly number[];
  /** Texts with parts beside them, where an empty one is there or not as those are. */
  readonly besideParts: ReadonlySet<number>;
  /** Values that are taken apart: what is left of them follows from their parts, unless somebody says it. */
  readonly apart: readonly number[];
}

export class RowSums {
  /** By file: the sum of the records that are in no other one. */
  readonly files: Sum[] = [];
  /** Sum of the cells of the row that was added last, and of what no column shows of it. */
  readonly cells: Sum = { a: 0, b: 0 };
  /** Sum of that row with the records in it. */
  readonly record: Sum = { a: 0, b: 0 };
  private readonly summed: readonly Summed[];
  private readonly hash = new Hash();

  constructor({ tables }: CompiledPlan) {
    this.summed = tables.map(summedOf);
  }

  /** Adds a row that is being read to the sum of the record around it; `inline` are the cells of lists that it shows. */
  add(row: Row, assembler: Assembler, inline: readonly string[]): void {
    const { hash } = this;
    const summed = this.summed[row.table.index];
    begin(hash, row.table);
    const { own, besideParts } = summed;
    const { kinds, from, to, pinned } = row;
    const { window, words } = assembler;
    for (let i = 0; i < own.length; i++) {
      const slot = own[i];
      const kind = kinds[slot];
      if (kind <= Kind.Null) hash.word(kind);
      else if (from[slot] === to[slot] && besideParts.has(slot)) hash.word(Kind.Absent);
      else if (pinned[slot] === 0 && isAsItIs(row, slot, kind, window)) hash.partOf(words, from[slot], to[slot], kind);
      else {
        const content = assembler.read(row, slot);
        hash.part(content.bytes, content.from, content.to, kind);
      }
    }
    for (const slot of summed.inline) addText(hash, inline[slot]);
    endCells(hash, row.rest, this.cells);
    sumOf(hash, this.cells, row.inside);
    this.record.a = hash.a;
    this.record.b = hash.b;
    addTo(row.parent === null ? (this.files[assembler.file] ??= { a: 0, b: 0 }) : row.parent.inside, hash);
  }

  /** Slots of the cells that are summed, those of lists behind the others. */
  shown({ index, plan }: CompiledTable): number[] {
    const { own, inline } = this.summed[index];
    return [...own, ...inline.map((slot) => plan.columns.length + slot)];
  }

  /** Slots of values that are taken apart, and are not summed. */
  apart({ index }: CompiledTable): readonly number[] {
    return this.summed[index].apart;
  }

  /** The sum of the cells of a row that is to be: its cells by slot, with those of lists behind them. */
  cellsOf(table: CompiledTable, cells: readonly SummedCell[], inline: readonly string[], rest: Readonly<Sum>): Sum {
    const { hash } = this;
    const summed = this.summed[table.index];
    begin(hash, table);
    for (const slot of summed.own) {
      const { kind, text } = cells[slot];
      if (kind <= Kind.Null) hash.word(kind);
      else if (summed.besideParts.has(slot) && text === spellText("", table.plan.columns[slot].blank)) hash.word(Kind.Absent);
      else addText(hash, text, kind);
    }
    for (const slot of summed.inline) addText(hash, inline[slot]);
    const sum = { a: 0, b: 0 };
    endCells(hash, rest, sum);
    return sum;
  }

  /** The sum of a record, from that of its cells and those of the records in it. */
  whole(cells: Readonly<Sum>, inside: Readonly<Sum>): Sum {
    sumOf(this.hash, cells, inside);
    return { a: this.hash.a, b: this.hash.b };
  }
}

/** A sum of a table's record, as a text. */
export function sumText({ index }: CompiledTable, { a, b }: Sum): string {
  return `${index} ${a} ${b}`;
}

/** The sum of parts of those names that no column shows, and that say nothing. */
export function sumOfBlank(names: readonly string[]): Sum {
  const hash = new Hash();
  const sum = { a: 0, b: 0 };
  for (const name of names) {
    hash.start();
    hash.word(hashName(encode(name)));
    hash.part(NOTHING, 0, 0);
    addTo(sum, hash);
  }
  return sum;
}
const NOTHING = new Uint8Array(4);

/** A cell as the sheet spells it. */
export interface SummedCell {
  readonly kind: Kind;
  readonly text: string;
}

function begin(hash: Hash, table: CompiledTable): void {
  hash.start();
  hash.word(table.index);
}

const word = new ByteWriter(256);

function addText(hash: Hash, text: string, kind = 0): void {
  word.clear();
  word.text(text);
  hash.partOf(word.words, 0, word.length, kind);
}

function endCells(hash: Hash, rest: Readonly<Sum>, to: Sum): void {
  hash.word(rest.a);
  hash.word(rest.b);
  to.a = hash.a;
  to.b = hash.b;
}

function sumOf(hash: Hash, cells: Readonly<Sum>, inside: Readonly<Sum>): void {
  hash.start();
  hash.word(cells.a);
  hash.word(cells.b);
  hash.word(inside.a);
  hash.word(inside.b);
}

/** Places in lists and totals follow from what else there is, and what holds parts that have columns from those. */
function summedOf(table: CompiledTable): Summed {
  const { columns } = table.plan;
  const { dialect } = table.source;
  const own: number[] = [];
  const apart: number[] = [];
  const besideParts = new Set<number>();
  for (const [slot, { at, hidden }] of columns.entries()) {
    const { steps } = at;
    const follows = at.end === "index" || dialect.isTotal?.([...table.plan.rows.steps, ...steps]) === true;
    if (hidden === true || follows) continue;
    const inner = columns.filter((one) => one.at.steps.length > steps.length && startsWith(one.at.steps, steps));
    const holds = table.nested.some((one) => startsWith(one.steps, steps)) || inner.some((one) => takesApart(dialect, one.at.steps, steps));
    (steps.length > 0 && holds ? apart : own).push(slot);
    if (dialect.emptyIsNoText === true && (slot === table.node.selfSlot || inner.length > 0)) besideParts.add(slot);
  }
  return {
    own,
    apart,
    besideParts,
    inline: table.inline.flatMap(({ column }, slot) => (isFollowing(column) ? [] : [slot])),
  };
}
