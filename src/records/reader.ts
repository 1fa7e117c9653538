/**
 * Looking at the source again: every rule that needs more than the rows that differ asks here.
 *
 * Questions that are asked in one turn share a pass over the source, and answers that several rules need are kept, so
 * that the number of passes goes with the number of rules, never with that of rows, edits or problems.
 */
import { NearestWords } from "../errors/nearest.js";
import type { Trail } from "../model/trail.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import type { SourceText } from "../source/parts.js";
import { scanParts, type ScanOptions } from "../source/pass.js";
import { Assembler, type Row } from "./assemble.js";

/** Hears of each row of the source; the row is valid only during the call. */
export type ReadRow = (row: Row, assembler: Assembler) => void;

/** Reads rows of the source once more. */
export type ReadRows = (read: ReadRow) => Promise<void>;

/** Words that are kept for suggestions, in each column: memory goes with them. */
const MOST_WORDS = 20_000;

interface Question {
  readonly read: ReadRow;
  readonly spans: boolean;
  readonly rests: boolean;
  readonly done: () => void;
  readonly failed: (error: unknown) => void;
}

export class RecordReader {
  private asked: Question[] = [];
  private wordsRead: Promise<ReadonlyMap<string, NearestWords>> | null = null;

  constructor(
    private readonly parts: readonly SourceText[],
    private readonly compiled: CompiledPlan,
    private readonly options: ScanOptions,
  ) {}

  /** Every row of the source, to all who ask in this turn; with the places of its values. */
  readonly rows: ReadRows = (read) => this.ask(read, true);

  /** The same for those who want cells alone: a pass in which nobody asks for places is a tenth shorter. */
  readonly cells: ReadRows = (read) => this.ask(read, false);

  /** The same with the sums of what no column shows; for one who asks, as whoever sums records puts sums into the rows. */
  readonly rests: ReadRows = (read) => this.ask(read, true, true);

  private ask(read: ReadRow, spans: boolean, rests = false): Promise<void> {
    return new Promise((done, failed) => {
      this.asked.push({ read, spans, rests, done, failed });
      if (this.asked.length === 1) setTimeout(() => void this.pass());
    });
  }

  private async pass(): Promise<void> {
    const { asked } = this;
    this.asked = [];
    const assembler: Assembler = new Assembler(
      this.compiled,
      {
        row: (row) => {
          for (const { read } of asked) read(row, assembler);
        },
      },
      asked.some(({ spans }) => spans),
      asked.some(({ rests }) => rests),
    );
    try {
      await scanParts(this.parts, (part) => assembler.begin(part), this.options);
      for (const { done } of asked) done();
    } catch (error) {
      for (const { failed } of asked) failed(error);
    }
  }

  /** The ways to some records (`table index` and place). */
  async trails(wanted: ReadonlySet<string>): Promise<Map<string, Trail>> {
    const trails = new Map<string, Trail>();
    if (wanted.size === 0) return trails;
    await this.rows((row) => {
      const id = `${row.table.index} ${row.place}`;
      if (wanted.has(id)) trails.set(id, row.trail());
    });
    return trails;
  }

  /** Words of the source that a wrong one may have been meant for: keys and labels, all read when the first is asked for. */
  async words(table: CompiledTable, slot: number): Promise<NearestWords> {
    this.wordsRead ??= this.readWords();
    return (await this.wordsRead).get(`${table.index} ${slot}`) ?? NO_WORDS;
  }

  private async readWords(): Promise<ReadonlyMap<string, NearestWords>> {
    const { tables } = this.compiled;
    const slots = tables.map((table) => new Set(table.keySlot < 0 ? [] : [table.keySlot]));
    for (const { references } of tables)
      for (const { target, targetLabelSlot } of references) if (targetLabelSlot >= 0) slots[target.index].add(targetLabelSlot);
    const words = new Map<string, string[]>();
    await this.cells((row, assembler) => {
      for (const slot of slots[row.table.index]) {
        const id = `${row.table.index} ${slot}`;
        const list = words.get(id);
        if (list === undefined) words.set(id, [assembler.text(row, slot)]);
        else if (list.length < MOST_WORDS) list.push(assembler.text(row, slot));
      }
    });
    return new Map([...words].map(([id, list]) => [id, new NearestWords(list, list.length < MOST_WORDS)]));
  }
}

const NO_WORDS = new NearestWords([]);
