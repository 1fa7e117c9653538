/**
 * Schemas of the owner's: what a fold would give is checked by them, and what they do not allow is a problem of the rows that
 * cause it. What they did not allow before stops nobody.
 */
import { concat, copied, decode } from "../bytes/writer.js";
import { applySplices, OverlapError, type Splice } from "../edits/splice.js";
import { MemorySource } from "../bytes/source.js";
import { SchemaError } from "../errors/error.js";
import type { SchemaFault, Validator } from "../formats/format.js";
import { escapePointer } from "../model/pointer.js";
import type { SourceSchema } from "../model/schema.js";
import { pushTo } from "../model/push-to.js";
import type { CompiledTable } from "../plan/compile.js";
import { Assembler, type Row } from "../records/assemble.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../rows/row-edits.js";
import { partAt, type SourceText } from "../source/parts.js";
import { scanAll } from "../source/pass.js";
import { nameIn, shiftBy, type Shift } from "../source/shift.js";
import { planSplices } from "../source/splices.js";
import { broken } from "./checks/broken.js";
import type { SheetRowName } from "./comparison.js";
import { editsOf } from "./edits.js";
import { targetAround } from "./places.js";
import { rejectDependents } from "./reject.js";

type AnyRow = DifferingRow | NewRow;

/** Rows that cause a fault are left out, and the rest is checked again, so often at most. */
const MOST_ROUNDS = 5;
/** So many faults of one file are told. */
const MOST_FAULTS = 200;

/** @throws {@link SchemaError} where a schema cannot be read, or is one of a format that has none */
export async function checkSchemas(
  draft: Draft,
  ctx: Context,
  schemas: readonly SourceSchema[],
  wanted?: (row: SheetRowName) => boolean,
): Promise<void> {
  const validators = await validatorsOf(ctx, schemas);
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const kept = rejectDependents(draft, ctx, wanted);
    const { edits } = editsOf(kept, ctx);
    const splices = edits.length === 0 ? [] : await planSplices({ ...ctx, edits }).catch(unlessOverlap);
    let isBroken = false;
    for (const [part, validator] of validators) {
      if ((splices[part.index] ?? []).length === 0) continue;
      if (await new PartCheck(part, validator, splices, kept, ctx).run()) isBroken = true;
    }
    if (!isBroken) return;
  }
  // there is no end of it: nothing is folded
  for (const { sheet, row } of [...draft.rows, ...draft.news]) ctx.findings.hit.push({ table: sheet.table.plan.name, row });
}

/** The fold itself tells of that. */
function unlessOverlap(error: unknown): Splice[][] {
  if (error instanceof OverlapError) return [];
  throw error;
}

async function validatorsOf({ parts, plan }: Context, schemas: readonly SourceSchema[]): Promise<Map<SourceText, Validator>> {
  const found = new Map<SourceText, Validator>();
  for (const { source, files } of schemas) {
    const mine = parts.filter(({ of }) => source === undefined || plan.sources[of]?.name === source);
    for (const part of mine) {
      const validator = await part.dialect.validator?.(files);
      if (validator === undefined) throw new SchemaError("schema-format", { format: part.dialect.name }, { file: files[0].file });
      found.set(part, validator);
    }
  }
  return found;
}

/** A record of what a fold would give. */
interface ResultRecord {
  readonly start: number;
  readonly end: number;
  /** JSON Pointer; blank where the format has none. */
  readonly pointer: string;
  readonly table: CompiledTable;
  /** Its place in the source; -1 where it is new. */
  readonly was: number;
  /** The row that edits or adds it. */
  readonly row: AnyRow | null;
}

/** Records by where they stand: one is in another, or beside it. */
class ResultRecords {
  private readonly byPointer: ReadonlyMap<string, ResultRecord>;
  private readonly sorted: readonly ResultRecord[];
  /** By place in `sorted`: that of the record around, or -1. */
  private readonly outer: number[] = [];

  constructor(records: readonly ResultRecord[]) {
    this.byPointer = new Map(records.map((record) => [record.pointer, record]));
    this.sorted = [...records].sort((a, b) => a.start - b.start || b.end - a.end);
    const open: number[] = [];
    for (const [i, { start }] of this.sorted.entries()) {
      while (open.length > 0 && this.sorted[open[open.length - 1]].end <= start) open.pop();
      this.outer.push(open.at(-1) ?? -1);
      open.push(i);
    }
  }

  /** The records at a JSON Pointer or an offset, the innermost first. */
  *around(at: string | number): Iterable<ResultRecord> {
    if (typeof at === "string") {
      for (let pointer = at; ; pointer = pointer.slice(0, pointer.lastIndexOf("/"))) {
        const record = this.byPointer.get(pointer);
        if (record !== undefined) yield record;
        if (pointer === "") return;
      }
    }
    let [low, high] = [0, this.sorted.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.sorted[middle].start <= at) low = middle + 1;
      else high = middle;
    }
    for (let i = low - 1; i >= 0; i = this.outer[i]) if (at < this.sorted[i].end) yield this.sorted[i];
  }
}

/** The check of one file. */
class PartCheck {
  private readonly shift: Shift;
  /** Rows by what is around them, and all of them. */
  private readonly within = new Map<string, AnyRow[]>();
  private readonly touched = new Map<string, DifferingRow>();
  private readonly all: AnyRow[] = [];

  constructor(
    private readonly part: SourceText,
    private readonly validator: Validator,
    private readonly splices: readonly (readonly Splice[])[],
    private readonly draft: Draft,
    private readonly ctx: Context,
  ) {
    this.shift = shiftBy(ctx.parts, splices);
    for (const row of draft.rows) {
      if (draft.rejected.has(row)) continue;
      const { table, place } = row.snapshot;
      this.all.push(row);
      if (!row.removed) this.touched.set(idOf(table, place), row);
      this.putAround(targetAround(ctx, table, place), row);
      const target = draft.moves.get(row);
      if (target !== undefined) this.putAround(target, row);
    }
    for (const row of draft.news)
      if (!draft.rejected.has(row)) {
        this.all.push(row);
        this.putAround(row.target, row);
      }
  }

  private putAround(target: Target | null, row: AnyRow): void {
    for (let at = target; at !== null && !("file" in at);) {
      if ("row" in at) at = at.row.target;
      else {
        pushTo(this.within, idOf(at.of, at.place), row);
        at = targetAround(this.ctx, at.of, at.place);
      }
    }
  }

  /** Gives whether something is wrong that was not before. */
  async run(): Promise<boolean> {
    const bytes = await bytesOf(applySplices(this.part.whole, this.splices[this.part.index]));
    const faults = await this.validator.validate(decode(bytes));
    if (faults.length === 0) return false;
    const before = new Map<string, number>();
    for (const { message } of await this.validator.validate(decode(await bytesOf(this.part.whole.chunks()))))
      before.set(message, (before.get(message) ?? 0) + 1);
    const records = await this.recordsIn(bytes, typeof faults[0].at === "string");
    const after = new Map<string, number>();
    for (const { message } of faults) after.set(message, (after.get(message) ?? 0) + 1);
    const told = faults.flatMap((fault) =>
      after.get(fault.message)! > (before.get(fault.message) ?? 0) ? [{ fault, ...this.causeOf(fault, records) }] : [],
    );
    // of faults that were there before as often, those that nobody's row explains are the old ones
    const known = told
      .sort((one, other) => one.rows.length - other.rows.length)
      .filter(({ fault: { message } }) => {
        const left = before.get(message) ?? 0;
        if (left > 0) before.set(message, left - 1);
        return left === 0;
      });
    for (const [i, { fault, rows, record }] of known.entries()) {
      const causes = rows.length === 0 ? this.all : rows;
      if (i < MOST_FAULTS) this.tell(fault, causes, record);
      else for (const { sheet, row } of causes) this.ctx.findings.hit.push({ table: sheet.table.plan.name, row });
    }
    return known.length > 0;
  }

  /** The rows that cause a fault: that of the record, else those of what is in it, else of what is around. */
  private causeOf({ at, isOfParts }: SchemaFault, records: ResultRecords): { rows: readonly AnyRow[]; record: ResultRecord | null } {
    for (const record of records.around(at)) {
      const within = this.within.get(idOf(record.table, record.was)) ?? [];
      const own = record.row === null ? [] : [record.row];
      const rows = own.length === 0 || (isOfParts && within.length > 0) ? within : own;
      if (rows.length > 0) return { rows, record: rows === own ? record : null };
    }
    return { rows: [], record: null };
  }

  private tell({ message, at }: SchemaFault, rows: readonly AnyRow[], record: ResultRecord | null): void {
    const { findings } = this.ctx;
    const [{ sheet }] = rows;
    const mine = [...new Set(rows.filter((row) => row.sheet === sheet).map(({ row }) => row))].sort((a, b) => a - b);
    const title = record === null || typeof at === "number" ? "" : titleAt(record, at);
    const place = mine.length === 1 ? sheet.place(mine[0], title) : sheet.placeOf(mine, title);
    findings.addBroken(broken("schema-fault", { what: message }), { severity: "error" }, place);
    if (rows.length > 1) findings.together.push(rows.map((row) => ({ table: row.sheet.table.plan.name, row: row.row })));
  }

  /** The records of the result, with the rows that they come from. */
  private async recordsIn(bytes: Uint8Array, withPointers: boolean): Promise<ResultRecords> {
    const { part, ctx, draft } = this;
    const old = new Map<string, number>();
    await ctx.records.rows(({ table, place, start }) => {
      const from = partAt(ctx.parts, start);
      for (const { file, at } of this.shift({ file: nameIn(ctx.parts, from), at: start - from.base }))
        if (file === nameIn(ctx.parts, part)) old.set(`${table.index} ${at}`, place);
    });
    const news = draft.news.filter((row) => !draft.rejected.has(row));
    const records: ResultRecord[] = [];
    const assembler: Assembler = new Assembler(
      ctx.compiled,
      {
        row: (row) => {
          const start = row.start - part.base;
          const was = old.get(`${row.table.index} ${start}`) ?? -1;
          const made = was >= 0 ? (this.touched.get(idOf(row.table, was)) ?? null) : takeNew(row, news, assembler);
          const pointer = withPointers ? this.pointerOf(row, bytes) : "";
          records.push({ table: row.table, was, row: made, start, end: row.end - part.base, pointer });
        },
      },
      true,
    );
    const result = new MemorySource(bytes, part.name);
    const chunks = (): AsyncIterable<Uint8Array> => part.dialect.readPieces?.(result.chunks()) ?? result.chunks();
    const read = (from: number, to: number): Promise<Uint8Array> => result.read(from, to);
    await scanAll({ name: part.name, size: bytes.length, read, chunks }, assembler.begin(part), { phase: "compare" });
    return new ResultRecords(records);
  }

  private pointerOf(row: Row, bytes: Uint8Array): string {
    const { base, dialect } = this.part;
    return row
      .trail()
      .map((step) => (typeof step === "object" ? dialect.nameText(bytes.subarray(step[0] - base, step[1] - base)) : step))
      .map((step) => `/${typeof step === "string" ? escapePointer(step) : step}`)
      .join("");
  }
}

function idOf(table: CompiledTable, place: number): string {
  return `${table.index} ${place}`;
}

async function bytesOf(chunks: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  for await (const piece of chunks) pieces.push(copied(piece));
  return concat(pieces);
}

/** The new row that a record comes from: one that says what the record says. */
function takeNew(row: Row, news: NewRow[], assembler: Assembler): NewRow | null {
  const at = news.findIndex(
    ({ table, contents }) =>
      table === row.table &&
      table.plan.columns.every((_, slot) => (contents[slot] ?? "") === "" || assembler.text(row, slot) === contents[slot]),
  );
  return at < 0 ? null : news.splice(at, 1)[0];
}

/** The title of the column that a fault in a record is about. */
function titleAt({ table, pointer }: ResultRecord, at: string): string {
  const inside = at.slice(pointer.length).split("/").slice(1);
  const column = table.plan.columns.find(
    ({ at: { steps, end }, hidden }) =>
      hidden !== true &&
      end === "value" &&
      steps.length > 0 &&
      steps.length <= inside.length &&
      steps.every((step, i) => step.kind === "name" && escapePointer(step.name) === inside[i]),
  );
  return column?.title ?? "";
}
