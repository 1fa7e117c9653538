/**
 * The proof of a fold: before anything is written, what would be written is read again with the same plan, and must say what
 * the sheets say. Where it does not, the fault is the program's, and nothing is written.
 */
import { addTo, fingerprinter, isZero, takeFrom, type Sum } from "../bytes/hash.js";
import { openText } from "../bytes/encoding.js";
import { MemorySource, type ByteSource } from "../bytes/source.js";
import { ByteWriter, concat, copied } from "../bytes/writer.js";
import type { Comparison, Expectation } from "../compare/comparison.js";
import type { ExpectedApart } from "../compare/apart.js";
import { idOf, type Expected, type ExpectedRecord } from "../compare/expected.js";
import { HatchFoldError, ProofError } from "../errors/error.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import { sheetName, titleOf } from "../plan/compile.js";
import { Assembler, type Rests, type Row } from "../records/assemble.js";
import { sumText, type RowSums, type SummedCell } from "../records/sums.js";
import { SummedRows } from "../rows/summed.js";
import type { SourceText } from "../source/parts.js";
import { scanAll } from "../source/pass.js";
import type { Progress, Watch } from "../source/watch.js";
import { filesOf } from "../sheets/receipt.js";
import { ValuesApart } from "./apart.js";
import { addRest, InsideHolders, untouchedOf, type Said, type Untouched, type Writing } from "./left-out.js";
import { LastInLists, ListsInOrder } from "./last.js";
import { PairsInLists } from "./pairs.js";
import { foldedText, sourceMeanwhile } from "./write.js";

type Proven = Pick<Comparison, "parts" | "expectation" | "receipt" | "corrections">;

/**
 * @throws {@link ProofError} with the first thing that differs
 * @throws {@link TablesError} when somebody wrote the source meanwhile
 */
export async function prove(comparison: Proven, splices: Writing["splices"], watch: Watch): Promise<void> {
  const proof = new Proof(comparison, await comparison.expectation(), { splices, corrections: comparison.corrections }, watch);
  const said = await proof.read(true);
  // most folds are right; of one that is not, or of which what edits touch does not tell, all is read
  const { wrong } = said.wrong !== null && said.leftOut ? await proof.read(false) : said;
  if (wrong === null) return;
  try {
    throw await wrong();
  } catch (error) {
    if (error instanceof ProofError) await refuseOthersWork(comparison);
    throw error;
  }
}

const ZERO: Sum = { a: 0, b: 0 };

class Proof {
  constructor(
    private readonly comparison: Proven,
    private readonly expectation: Expectation,
    private readonly writing: Writing,
    private readonly watch: Watch,
  ) {}

  /** The first thing that differs, or `null`; `inPart`: what no edit touches may be left out. */
  async read(inPart: boolean): Promise<{ readonly wrong: (() => ProofError | Promise<ProofError>) | null; readonly leftOut: boolean }> {
    const { compiled, base, expected } = this.expectation;
    const { parts } = this.comparison;
    const { splices } = this.writing;
    const edited = parts.filter(({ index }) => splices[index].length > 0);
    const size = edited.reduce((sum, { text }) => sum + text.size, 0);
    const between = new BetweenFiles();
    const last = new LastInLists(expected.last);
    const ordered = new ListsInOrder(expected.orders);
    const apart = new ValuesApart(expected.apart);
    const pairs = new PairsInLists(expected.pairs);
    const differs = (index: number, { a, b }: Sum = ZERO): boolean => a !== expected.sums[index].a || b !== expected.sums[index].b;
    const search = (): Promise<ProofError> => new Search(compiled, expected, this.comparison, this.writing).run();
    let [before, leftOut] = [0, false];
    for (const part of edited) {
      const done = before;
      const ofAll: Progress = (phase, bytes) => this.watch.progress?.(phase, done + Math.min(bytes, part.text.size), size);
      const tell = (row: Row, { record, cells }: RowSums): void => {
        last.read(row, record, part.index);
        ordered.read(row, record, part.index);
        apart.read(row, cells);
        pairs.read(row, record, part.index);
      };
      const untouched =
        inPart && expected.orders.length === 0 && expected.apart.length === 0 ? untouchedOf(part, this.writing, this.expectation) : null;
      leftOut ||= untouched !== null;
      const read = await this.saidOf(part, untouched, { compiled, tell, watch: { ...this.watch, progress: ofAll } });
      if (read instanceof ProofError) return { wrong: () => read, leftOut };
      before += part.text.size;
      this.watch.progress?.("prove", before, size);
      const [was, now] = [base.around[part.index], read.around];
      // lines in records that go to another file go with them
      const isExchanged = expected.exchanges[part.index];
      if (isExchanged) between.add(was, now);
      const around = whatIsLost(was, isExchanged ? { ...now, strays: was.strays } : now, expected.takesOut[part.index]);
      if (around !== null)
        return { wrong: () => new ProofError("unproved-around", { file: part.name, what: around }, { file: part.name }), leftOut };
      if (differs(part.index, read.sum)) return { wrong: search, leftOut };
    }
    if (parts.some(({ index }) => splices[index].length === 0 && differs(index, base.fileSums[index]))) return { wrong: search, leftOut };
    if (!between.isKept(expected.takesOut.includes(true)))
      return { wrong: () => new ProofError("unproved-around", { file: edited[0].name, what: "lines" }, { file: edited[0].name }), leftOut };
    const other = apart.wrong();
    if (other !== null) return { wrong: () => otherApart(other), leftOut };
    const wrong = last.wrong() ?? ordered.wrong() ?? pairs.wrong();
    if (wrong === null) return { wrong, leftOut };
    const { sheet, row } = wrong.from;
    const facts = { table: sheet.table.plan.name, row: sheet.seenRow(row) };
    return { wrong: () => new ProofError("unproved-order", facts, { file: sheet.place(row).file }), leftOut };
  }

  /** What would be written into a file, as it is read; or why it cannot be. */
  private async saidOf(part: SourceText, untouched: Untouched | null, reading: Reading): Promise<Said | ProofError> {
    try {
      if (untouched === null) return await sumsOf(part, foldedIn(part, this.writing), reading);
      const { runs, holder } = untouched;
      const { base } = this.expectation;
      const { splices, corrections } = this.writing;
      const inside = holder === null ? null : new InsideHolders(holder, base.tables[holder.index], part);
      // what is left out says what it said: in the records that hold it, or in the file
      const had = await sumsOf(part, runs.leftOutOf(part.whole), { ...reading, tell: () => undefined, before: inside?.had });
      const written = runs.leftOutOfEdited(foldedText(part.whole, splices[part.index], []), corrections[part.index]);
      const read = await sumsOf(part, written, { ...reading, before: inside?.now });
      if (inside === null) addRest(read, { sum: base.fileSums[part.index] ?? ZERO, around: base.around[part.index] }, had);
      return read;
    } catch (error) {
      if (error instanceof ProofError) return error;
      throw error;
    }
  }
}

interface Reading {
  readonly compiled: CompiledPlan;
  /** Each row that is read, before it is summed. */
  readonly before?: (row: Row) => void;
  /** Each row that is read, with its sum. */
  readonly tell: (row: Row, sums: RowSums) => void;
  readonly watch: Watch;
}

async function sumsOf(part: SourceText, text: ByteSource, { compiled, before, tell, watch }: Reading): Promise<Said> {
  const read = new SummedRows(compiled);
  const take = (row: Row): void => {
    before?.(row);
    read.read(row, assembler);
    tell(row, read.sums);
  };
  const assembler: Assembler = new Assembler(compiled, { row: take }, false, true);
  await readText(part, text, assembler, watch);
  return { sum: read.sums.files[part.index] ?? { a: 0, b: 0 }, around: assembler.around[part.index] };
}

function otherApart({ table, slot, cell, from: { sheet, row } }: ExpectedApart): ProofError {
  const column = titleOf(table.plan, slot);
  const facts = { table: sheetName(table), row: sheet.seenRow(row), column, wanted: cell.text, written: null };
  return new ProofError("unproved", facts, { file: sheet.place(row).file });
}

/** Lines that hold no record in files that give records to each other: together they stay. */
class BetweenFiles {
  private readonly strays: Sum = { a: 0, b: 0 };
  private lines = 0;

  add(was: Rests, now: Rests): void {
    addTo(this.strays, now.strays);
    takeFrom(this.strays, was.strays);
    this.lines += now.strayLines - was.strayLines;
  }

  isKept(takesOut: boolean): boolean {
    return isZero(this.strays) || (takesOut && this.lines < 0);
  }
}

/** What stands around the records stays as it is; lines that hold no record may go with records that go. */
function whatIsLost(was: Rests, now: Rests, takesOut: boolean): "values" | "lines" | "breaks" | null {
  const same = (one: Sum, other: Sum): boolean => one.a === other.a && one.b === other.b;
  if (!same(was.rest, now.rest)) return "values";
  if (was.sharedLines === 0 && now.sharedLines > 0) return "breaks";
  return same(was.strays, now.strays) || (takesOut && now.strayLines < was.strayLines) ? null : "lines";
}

/** Somebody may write the source while it is read. */
async function refuseOthersWork({ parts, receipt }: Proven): Promise<void> {
  const hatched = filesOf(receipt);
  for (const { index, file } of parts) {
    const hash = await fingerprinter();
    for await (const chunk of file.source.chunks()) hash.update(chunk);
    if (hash.digest() !== hatched[index].fingerprint) throw sourceMeanwhile(file.source.name);
  }
}

function foldedIn({ index, whole }: SourceText, { splices, corrections }: Writing): ByteSource {
  return foldedText(whole, splices[index], corrections[index] ?? []);
}

async function readText(part: SourceText, folded: ByteSource, assembler: Assembler, watch: Watch): Promise<void> {
  const { name, dialect } = part;
  try {
    const whole = part.whole.encoding === "utf-8" ? folded : await asEncoded(folded, part.whole);
    const pieces = (): AsyncIterable<Uint8Array> => inLargePieces(whole.chunks());
    await scanAll(
      { name, size: whole.size, read: (from, to) => whole.read(from, to), chunks: () => dialect.readPieces?.(pieces()) ?? pieces() },
      assembler.begin(part),
      {
        ...watch,
        phase: "prove",
      },
    );
  } catch (error) {
    if (!(error instanceof HatchFoldError)) throw error;
    throw new ProofError("unproved-unread", { file: name, why: error.message }, { file: name });
  }
}

/** What would be written in another encoding, read from that. */
async function asEncoded(folded: ByteSource, text: SourceText["whole"]): Promise<ByteSource> {
  const pieces: Uint8Array[] = [];
  for await (const piece of folded.chunks()) pieces.push(copied(piece));
  return openText(new MemorySource(text.encodeBack(concat(pieces)), folded.name), text.encoding);
}

const LARGE = 1 << 18;

/** Thousands of edits make thousands of pieces: a scanner that is told each of them is stopped in the middle of its words. */
async function* inLargePieces(pieces: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array> {
  const gathered = new ByteWriter(2 * LARGE);
  for await (const piece of pieces) {
    gathered.append(piece);
    if (gathered.length < LARGE) continue;
    yield gathered.bytes.subarray(0, gathered.length);
    gathered.clear();
  }
  yield gathered.bytes.subarray(0, gathered.length);
}

/** A record with its cells as the sheet spells them, and how often it is to be found. */
interface Found {
  readonly table: CompiledTable;
  readonly cells: readonly SummedCell[];
  readonly inline: readonly string[];
}

/** Looks for the first record that would not be as it should. */
class Search {
  constructor(
    private readonly compiled: CompiledPlan,
    private readonly expected: Expected,
    private readonly comparison: Proven,
    private readonly writing: Writing,
  ) {}

  async run(): Promise<ProofError> {
    const written = new Map<string, number>();
    await this.readWritten((id) => void written.set(id, (written.get(id) ?? 0) + 1));
    const missing: { found: Found; by: ExpectedRecord | null }[] = [];
    const want = (found: Found, sum: Sum, by: ExpectedRecord | null): void => {
      const id = sumText(found.table, sum);
      const count = written.get(id) ?? 0;
      if (count > 0) written.set(id, count - 1);
      else if (missing.length < 100) missing.push({ found, by });
    };
    const expected = await this.expected.records();
    const read = new SummedRows(this.compiled);
    const { records } = await this.comparison.expectation();
    await records.rests((row, assembler) => {
      read.read(row, assembler);
      if (expected.isGone(row.table, row.place)) return;
      const record = expected.changed.get(idOf(row.table, row.place)) ?? null;
      if (record === null) want(foundIn(row, assembler, read.inline), read.sums.cells, null);
      else want(record, record.sum, record);
    });
    for (const record of expected.added) want(record, record.sum, record);
    const first = missing.find(({ by }) => by !== null) ?? missing[0];
    // what stands there instead, of the same table, and most like it
    let instead: Found | null = null;
    const slots = first === undefined ? [] : read.sums.shown(first.found.table);
    await this.readWritten((id, row, assembler, inline) => {
      const left = written.get(id) ?? 0;
      if (left === 0) return;
      const found = foundIn(row, assembler, inline);
      if (first === undefined || found.table !== first.found.table) instead ??= first === undefined ? found : instead;
      else if (instead === null || alike(found, first.found, slots) > alike(instead, first.found, slots)) instead = found;
    });
    return this.told(first, instead, slots);
  }

  private told(
    first: { found: Found; by: ExpectedRecord | null } | undefined,
    instead: Found | null,
    slots: readonly number[],
  ): ProofError {
    const found = first?.found ?? instead;
    const table = found?.table.plan.name ?? "";
    const from = first?.by?.from ?? null;
    const row = from === null ? null : from.sheet.seenRow(from.row);
    const sheet = found === null ? null : sheetName(found.table);
    const place = from?.sheet.place(from.row);
    const different = first === undefined || instead === null ? -1 : firstDifferent(first.found, instead, slots);
    const column = found === null || different < 0 ? null : titleOf(found.table.plan, different);
    const facts = {
      table: sheet ?? table,
      row,
      column,
      wanted: first === undefined ? null : cellOrAll(first.found, different, slots),
      written: instead === null ? null : cellOrAll(instead, different, slots),
    };
    return new ProofError("unproved", facts, place === undefined ? {} : { file: place.file });
  }

  private async readWritten(tell: (id: string, row: Row, assembler: Assembler, inline: readonly string[]) => void): Promise<void> {
    for (const part of this.comparison.parts) {
      const read = new SummedRows(this.compiled);
      const assembler: Assembler = new Assembler(
        this.compiled,
        {
          row: (row) => {
            read.read(row, assembler);
            tell(sumText(row.table, read.sums.cells), row, assembler, read.inline);
          },
        },
        false,
        true,
      );
      await readText(part, foldedIn(part, this.writing), assembler, {});
    }
  }
}

function foundIn(row: Row, assembler: Assembler, inline: readonly string[]): Found {
  const cells = Array.from(row.kinds, (kind, slot) => ({ kind: kind as SummedCell["kind"], text: assembler.text(row, slot) }));
  return { table: row.table, cells, inline: [...inline] };
}

function textsOf({ cells, inline }: Found): string[] {
  return [...cells.map(({ text }) => text), ...inline];
}

/** How many cells say the same. */
function alike(one: Found, other: Found, slots: readonly number[]): number {
  const [texts, others] = [textsOf(one), textsOf(other)];
  return slots.filter((slot) => texts[slot] === others[slot]).length;
}

function firstDifferent(one: Found, other: Found, slots: readonly number[]): number {
  const [texts, others] = [textsOf(one), textsOf(other)];
  const kinds = (slot: number): boolean => slot < one.cells.length && one.cells[slot].kind !== other.cells[slot].kind;
  return slots.find((slot) => texts[slot] !== others[slot] || kinds(slot)) ?? -1;
}

/** A cell, or where the fault is not in one cell all that the record shows. */
function cellOrAll(found: Found, slot: number, slots: readonly number[]): string {
  const texts = textsOf(found);
  if (slot >= 0) return texts[slot];
  return slots
    .map((one) => texts[one])
    .filter((text) => text !== "")
    .join(", ");
}
