/** The six verbs, as functions. */
import { pushAll } from "./bytes/lists.js";
import { openText, tapped, type TextSource } from "./bytes/encoding.js";
import { rebuildArchive } from "./bytes/archive.js";
import { MemorySource, type ByteSource } from "./bytes/source.js";
import { fingerprint, fingerprinter } from "./bytes/hash.js";
import { packer } from "./bytes/packing.js";
import type { Splice } from "./fold/splice.js";
import { concat, copied } from "./bytes/writer.js";
import { compareTables, loadReceipt, type CompareOptions, type Comparison } from "./compare/compare.js";
import type { Change, Counts, Healed, Note, Problem } from "./compare/changes.js";
import { phrase, PlanError, TablesError } from "./errors/error.js";
import type { Follow } from "./compare/follows.js";
import { formatNamed } from "./formats/index.js";
import { takeApart } from "./layouts/flat.js";
import { correctTotals, isWrong } from "./fold/totals.js";
import { planSplices, writeFolded, type ByteSink } from "./fold/fold.js";
import { chooseReadings, sharedSettings, type FileReading } from "./formats/choose.js";
import { draftPlan } from "./plan/draft.js";
import { sourceIndex } from "./plan/guide.js";
import { explainUnmatched, type Unmatched } from "./plan/unmatched.js";
import type { Plan, TablePlan } from "./plan/plan.js";
import { readPlan } from "./plan/read.js";
import { describeShape, findShape, type Shape } from "./shape/shape.js";
import { MemoryTables, type TablesSink, type TablesSource } from "./tables/containers.js";
import { hatchTables, type HatchOptions } from "./tables/hatch.js";
import { filesOf, printReceipt, RECEIPT_FILE, type Receipt } from "./tables/receipt.js";
import { openFiles, type SourceFiles, type SourcesInput } from "./source/files.js";
import type { Part } from "./source/parts.js";
import { readHatched, readSources } from "./source/read.js";

export interface SurveyOptions {
  /** The source's name, for messages and for sniffing the format. */
  readonly name?: string;
  /** Name of the format; sniffed when not given. */
  readonly format?: string;
  /** Name of the encoding, as the Encoding Standard has it; found by looking when not given. */
  readonly encoding?: string;
  /** Told now and then: bytes read, bytes in all. */
  readonly progress?: (done: number, size: number) => void;
}

/**
 * Finds what is in a source: record kinds, fields, counts, types, possible keys and references.
 *
 * @param input - bytes, a `Blob`, a stream, a {@link ByteSource}, or the text itself
 * @returns the shape: plain data, safe to print as JSON
 * @throws {@link SourceError} when the source is not well formed; `place` has line, column (from 1) and byte (from 0)
 * @example
 * ```ts
 * const shape = await survey('{"stations": [{"code": "S1", "lit": true}, {"code": "S2", "lit": false}]}');
 * shape.kinds[0].name; // "stations"
 * shape.kinds[0].count; // 2
 * shape.kinds[0].fields[0].couldBeKey; // true
 * ```
 */
export async function survey(input: SourcesInput, options: SurveyOptions = {}): Promise<Shape> {
  const opened = await openFiles(input, options.name);
  const { readings, notes } = await chooseReadings(opened, options);
  const { kinds, bom, strays } = await findShape(readings, options.progress);
  const { format, why, encoding, dialect } = readings[0].reading;
  const drawing = (await format.draw?.(await openText(readings[0].file.source, encoding), dialect.settings)) ?? [];
  const files = opened.set ? { files: readings.length } : {};
  const size = readings.reduce((sum, { file }) => sum + file.source.size, 0);
  return describeShape(
    kinds,
    { name: sourceName(opened), size, format: format.name, title: format.title, why, encoding, bom, ...files, drawing },
    [...notes.map((message) => ({ kind: "", path: "", message })), ...strays],
  );
}

export interface DraftOptions extends SurveyOptions {
  /** What the plan calls the source: a path, or several; the source's own name, unless said. */
  readonly planFile?: string | readonly string[];
}

/**
 * Writes a plan to start from.
 *
 * @returns the plan as YAML, and what it leaves verbatim in cells, in words
 * @throws {@link SourceError} when the source is not well formed
 * @example
 * ```ts
 * const { plan } = await draft('[{"code": "S1", "name": "Skarv"}]', { name: "stations.json" });
 * plan.includes("columns:"); // true
 * ```
 */
export async function draft(input: SourcesInput, options: DraftOptions = {}): Promise<{ plan: string; notes: readonly string[] }> {
  const opened = await openFiles(input, options.name);
  const { readings, notes: left } = await chooseReadings(opened, options);
  const { kinds } = await findShape(readings, options.progress);
  const { plan, notes } = draftPlan(kinds, options.planFile ?? sourceName(opened), readings[0].reading, sharedSettings(readings));
  return { plan: plan.text, notes: [...left, ...notes] };
}

export interface HatchInput extends HatchOptions, DraftOptions {
  /** The plan, as YAML text or as read by {@link readPlan}; drafted when not given. */
  readonly plan?: string | Plan;
  /** Where the tables go; kept in memory when not given. */
  readonly into?: TablesSink;
}

export interface Hatched {
  /** The tables, when no `into` was given; else empty. */
  readonly tables: MemoryTables;
  readonly receipt: Receipt;
  readonly plan: Plan;
  /** What a drafted plan leaves verbatim; what a given plan looks for in vain. */
  readonly notes: readonly string[];
}

/**
 * Takes the tables out of a source. Memory does not grow with the source when `into` writes them away.
 *
 * @throws {@link SourceError} when the source is not well formed; {@link PlanError} when the plan is wrong
 * @example
 * ```ts
 * const { tables } = await hatch('{"stations": [{"code": "007", "height": 12.50}]}');
 * tables.text("stations.csv"); // 'fold mark,fold action,code,height\r\nb1ji,,007,12.50\r\n'
 * ```
 */
export async function hatch(input: SourcesInput, options: HatchInput = {}): Promise<Hatched> {
  const opened = await openFiles(input, options.name);
  const given = typeof options.plan === "string" ? readPlan(options.plan) : options.plan;
  const { readings, notes: left } = await readSources(opened, given, options);
  let plan = given;
  let notes: readonly string[] = left;
  if (plan === undefined) {
    const drafted = draftPlan(
      (await findShape(readings)).kinds,
      options.planFile ?? sourceName(opened),
      readings[0].reading,
      sharedSettings(readings),
    );
    plan = readPlan(drafted.plan.text, "draft");
    notes = [...left, ...drafted.notes];
  }
  const tables = new MemoryTables();
  const { receipt, unmatched, notes: found } = await hatchTables(opened, readings, plan, options.into ?? tables, options);
  const more = given === undefined ? [] : await explainAll(unmatched, readings, given);
  return { tables, receipt, plan, notes: [...notes, ...found, ...more] };
}

/** Paths of the plan that match nothing, source by source. */
async function explainAll(unmatched: readonly Unmatched[], readings: readonly FileReading[], plan: Plan): Promise<string[]> {
  const notes: string[] = [];
  for (const of of new Set(unmatched.map(({ table }) => sourceIndex(plan, table)))) {
    const mine = unmatched.filter(({ table }) => sourceIndex(plan, table) === of);
    const { kinds } = await findShape(readings.filter((one) => one.of === of));
    pushAll(notes, explainUnmatched(mine, kinds));
  }
  return notes;
}

export interface CompareInput extends CompareOptions {
  /** The source that was hatched. */
  readonly source: SourcesInput;
  /** The plan; the one in the receipt when not given. */
  readonly plan?: string | Plan;
  /** The source's name, for messages. */
  readonly name?: string;
}

export interface Checked {
  readonly problems: readonly Problem[];
  readonly notes: readonly Note[];
}

/**
 * Do the edited tables hold together? All problems at once.
 *
 * @throws {@link TablesError} when the receipt is missing or edited, or the source is another one
 * @example
 * ```ts
 * const source = '{"stations": [{"code": "S1", "height": 12}]}';
 * const { tables } = await hatch(source);
 * const edited = tables.text("stations.csv").replace(",12", ",twelve");
 * tables.contents.set("stations.csv", new TextEncoder().encode(edited));
 * const { problems } = await check(tables, { source });
 * problems[0].message; // '"height" must be a whole number'
 * ```
 */
export async function check(tables: TablesSource, input: CompareInput): Promise<Checked> {
  const { problems, notes } = await compareWith(tables, input);
  return { problems, notes };
}

export interface Compared {
  readonly counts: Counts;
  readonly changes: readonly Change[];
  readonly healed: readonly Healed[];
  readonly problems: readonly Problem[];
  readonly notes: readonly Note[];
  /** Cells that show links from another side (`through:` in a plan), and follow the changes of the links. */
  readonly follows: readonly Follow[];
}

/**
 * What would a fold change?
 *
 * @throws as {@link check}
 * @example
 * ```ts
 * const source = '{"stations": [{"code": "S1", "name": "Skarv"}]}';
 * const { tables } = await hatch(source);
 * tables.contents.set("stations.csv", new TextEncoder().encode(tables.text("stations.csv").replace("Skarv", "Skarv Reef")));
 * const { changes } = await compare(tables, { source });
 * changes[0].path; // "/stations/0/name"
 * ```
 */
export async function compare(tables: TablesSource, input: CompareInput): Promise<Compared> {
  const { counts, changes, healed, problems, notes, follows } = await compareWith(tables, input);
  return { counts, changes, healed, problems, notes, follows };
}

export interface FoldInput extends CompareInput {
  /** Fold the good rows and leave the rows with problems out. */
  readonly partial?: boolean;
  /** Takes the result piece by piece; when not given it is returned as one array. For one file, or for one archive. */
  readonly sink?: ByteSink;
  /** For a set of files: who takes a file's bytes; `null` when nobody wants them. */
  readonly sinkFor?: (file: string, unchanged: boolean) => ByteSink | null | Promise<ByteSink | null>;
}

/** One file of a folded set. */
export interface FoldedFile {
  readonly name: string;
  /** When nobody else took them. */
  readonly bytes: Uint8Array;
  readonly fingerprint: string;
  readonly size: number;
  /** Nothing in it was edited: the bytes are those of the source. */
  readonly unchanged: boolean;
}

export interface Folded extends Compared {
  /** The folded file (or archive), when no `sink` was given; else empty. */
  readonly bytes: Uint8Array;
  /** xxHash64 of the folded file. */
  readonly fingerprint: string;
  readonly size: number;
  /** Nothing was edited: the bytes are those of the source. */
  readonly unchanged: boolean;
  /** The files of a set; `bytes` is then empty, unless they are in an archive. */
  readonly files: readonly FoldedFile[];
  /** Rows that were left out (`partial` only). */
  readonly aside: readonly { readonly table: string; readonly row: number }[];
}

/**
 * Puts exactly the edits back. Nothing is written when there is a problem, unless `partial` is asked for.
 *
 * @throws {@link TablesError} as {@link check}, and with code `problems-left` and the list in `problems` when there are problems
 * @example
 * ```ts
 * const source = '{ "stations": [ {"code": "S1",  "height": 12.50} ] }';
 * const { tables } = await hatch(source);
 * tables.contents.set("stations.csv", new TextEncoder().encode(tables.text("stations.csv").replace("12.50", "13.00")));
 * const { bytes } = await fold(tables, { source });
 * new TextDecoder().decode(bytes); // '{ "stations": [ {"code": "S1",  "height": 13.00} ] }'
 * ```
 */
export async function fold(tables: TablesSource, input: FoldInput): Promise<Folded> {
  const comparison = await compareWith(tables, input);
  return foldComparison(comparison, input);
}

export interface FoldNewInput extends Omit<CompareOptions, "fresh" | "known" | "paths"> {
  /** The plan, as YAML text or as read by {@link readPlan}: its source says the format. */
  readonly plan: string | Plan;
  readonly partial?: boolean;
  readonly sink?: ByteSink;
}

/**
 * Makes a new document from tables alone, also from sheets that somebody else made.
 *
 * @throws {@link TablesError} with code `problems-left` and the list in `problems`; {@link CallError} when a sheet is not there
 * @example
 * ```ts
 * const tables = new MemoryTables([["people.csv", new TextEncoder().encode("name,id\nRut,P-1\n")]]);
 * const plan = ["hatchfold: 1", "sources: { new: { file: new.json, format: json } }", "tables:", "  people: { rows: people, columns: { id: id, name: name } }"];
 * const { bytes } = await foldNew(tables, { plan: plan.join("\n") });
 * JSON.parse(new TextDecoder().decode(bytes)); // { people: [{ id: "P-1", name: "Rut" }] }
 * ```
 */
export async function foldNew(tables: TablesSource, input: FoldNewInput): Promise<Folded> {
  return foldComparison(await compareNew(tables, input), input);
}

/** Compares tables with a document that holds nothing yet. */
export async function compareNew(tables: TablesSource, input: FoldNewInput): Promise<Comparison> {
  const given = typeof input.plan === "object" ? input.plan : readPlan(input.plan);
  if (given.sources.length > 1) throw new PlanError("new-several", { names: given.sources.map(({ name }) => name) });
  const [source] = given.sources;
  const format = source?.format === undefined ? undefined : formatNamed(source.format);
  if (format === undefined) throw new PlanError("new-format", {});
  const name = typeof source.file === "string" ? source.file : source.file[0];
  // there is nothing in which words of the format could be found by looking
  const plan: Plan = { ...given, sources: [{ ...source, settings: source.settings ?? {} }] };
  const empty = new TextEncoder().encode(format.skeleton(plan.tables, source.settings ?? {}));
  const skeleton = new MemorySource(empty, name);
  const { receipt } = await hatch(skeleton, { plan });
  const { tables: apart, problems, used } = await takeApart(tables, plan);
  apart.contents.set(RECEIPT_FILE, new TextEncoder().encode(printReceipt(receipt)));
  const comparison = await compareWith(apart, {
    ...input,
    plan,
    source: new MemorySource(empty, name),
    fresh: true,
    known: problems.problems,
  });
  const inSheet = <T extends { table: string; file: string }>(one: T): T => ({ ...one, file: used.get(one.table) ?? one.file });
  const all = [...problems.problems, ...comparison.problems.map(inSheet)];
  const counts = { ...comparison.counts, problems: all.length };
  return { ...comparison, counts, problems: all, notes: [...problems.notes, ...comparison.notes] };
}

/** Folds what was compared before. */
export async function foldComparison(comparison: Comparison, options: Pick<FoldInput, "partial" | "sink" | "sinkFor">): Promise<Folded> {
  const { counts, changes, healed, problems, notes, follows, aside, parts, corrections, archive } = comparison;
  if (problems.length > 0 && options.partial !== true) {
    throw Object.assign(new TablesError("problems-left", { count: problems.length }), { problems });
  }
  const splices = await planSplices(comparison);
  const isSet = comparison.receipt.source.files !== undefined;
  const files: FoldedFile[] = [];
  for (const part of parts) {
    const own = { splices: splices[part.index], corrections: corrections[part.index] };
    const unchanged = own.splices.length + own.corrections.length === 0;
    const pieces: Uint8Array[] = [];
    const gather = (bytes: Uint8Array): void => void pieces.push(copied(bytes));
    const sink = isSet
      ? archive === null && options.sinkFor !== undefined
        ? await options.sinkFor(part.name, unchanged)
        : gather
      : (options.sink ?? gather);
    const hatched = filesOf(comparison.receipt)[part.index].fingerprint;
    const written = await writeOut(part, own, unchanged, hatched, sink ?? (() => undefined));
    files.push({ name: part.name, bytes: concat(pieces), unchanged, ...written });
  }
  const unchanged = files.every((file) => file.unchanged);
  const whole = isSet ? await foldedArchive(archive, files, options.sink) : files[0];
  const { bytes, size, fingerprint } = whole;
  return { counts, changes, healed, problems, notes, follows, aside, bytes, size, fingerprint, unchanged, files: isSet ? files : [] };
}

/** The archive with what changed in it, as one file; of a set that is in none, nothing. */
async function foldedArchive(
  archive: ByteSource | null,
  files: readonly FoldedFile[],
  sink: ByteSink | undefined,
): Promise<Pick<FoldedFile, "bytes" | "size" | "fingerprint">> {
  if (archive === null) return { bytes: new Uint8Array(0), size: files.reduce((sum, { size }) => sum + size, 0), fingerprint: "" };
  const changed = new Map(files.flatMap(({ name, bytes, unchanged }) => (unchanged ? [] : [[name, bytes]])));
  const bytes = changed.size === 0 ? await archive.read(0, archive.size) : await rebuildArchive(archive, changed);
  await sink?.(bytes);
  return { bytes: sink === undefined ? bytes : new Uint8Array(0), size: bytes.length, fingerprint: await fingerprint(bytes) };
}

/** A packed file is packed again; one without changes is the file it was. */
async function writeOut(
  part: Part,
  { splices, corrections }: { splices: readonly Splice[]; corrections: readonly Splice[] },
  unchanged: boolean,
  hatched: string,
  sink: ByteSink,
): Promise<{ size: number; fingerprint: string }> {
  const { packed } = part.file;
  if (packed === null) return writeSame(part, hatched, (text) => writeFolded(text, splices, corrections, sink));
  if (!unchanged) {
    const packing = await packer(sink);
    await writeSame(part, hatched, (text) => writeFolded(text, splices, corrections, (bytes) => packing.write(bytes)));
    return packing.end();
  }
  const hash = await fingerprinter();
  for await (const chunk of packed.chunks()) {
    hash.update(chunk);
    await sink(copied(chunk));
  }
  return { size: packed.size, fingerprint: hash.digest() };
}

/** The bytes that are copied must be those that were compared: somebody may write the source meanwhile. */
async function writeSame<T>({ file, text: { encoding } }: Part, hatched: string, write: (text: TextSource) => Promise<T>): Promise<T> {
  const hash = await fingerprinter();
  const text = await openText(
    tapped(file.source, (chunk) => hash.update(chunk)),
    encoding,
  );
  const written = await write(text);
  const { name } = file.source;
  if (hash.digest() !== hatched) throw new TablesError("source-meanwhile", { file: name }, { file: name });
  return written;
}

/** Compares and keeps what a fold needs. */
export async function compareWith(tables: TablesSource, input: CompareInput): Promise<Comparison> {
  const receipt = await loadReceipt(tables);
  const opened = await openFiles(input.source, input.name ?? receipt.source.file);
  const plan = typeof input.plan === "object" ? input.plan : readPlan(input.plan ?? receipt.plan.text, "plan");
  const readings = await readHatched(opened, receipt, plan, tables.name);
  const comparison = await compareTables(opened, readings, plan, receipt, tables, input);
  return withTotals(comparison, plan);
}

/** Adds what the edits do to totals, and says which were wrong before. */
async function withTotals(comparison: Comparison, plan: Plan): Promise<Comparison> {
  const { parts, edits, changes, notes } = comparison;
  if (parts.every(({ dialect }) => dialect.totals === undefined)) return comparison;
  const wrong: Note[] = [];
  const corrections: Splice[][] = [];
  const totals: Change[] = [];
  const splices = edits.length === 0 ? [] : await planSplices(comparison);
  for (const { index, text, dialect, name, of } of parts) {
    for (const { path, line, said, actual } of ((await dialect.totals?.(text)) ?? []).filter(isWrong)) {
      const field = path[path.length - 1];
      const where = parts.length > 1 ? `${name}, ${field}` : field;
      wrong.push({
        code: "total-wrong",
        table: path.slice(0, -1).join("/"),
        ...phrase("total-wrong", { field: where, line, said, actual }),
      });
    }
    const corrected =
      edits.length === 0 ? { splices: [], changes: [] } : await correctTotals(text, splices[index], dialect, tablesOf(plan, of));
    corrections.push(corrected.splices);
    pushAll(totals, corrected.changes);
  }
  const place = (change: Change): number => plan.tables.findIndex((table) => table.name === change.table);
  return { ...comparison, corrections, notes: [...notes, ...wrong], changes: [...changes, ...totals].sort((a, b) => place(a) - place(b)) };
}

function sourceName({ name, files, set }: SourceFiles): string {
  return set ? name : files[0].source.name;
}

function tablesOf(plan: Plan, of: number): readonly TablePlan[] {
  return plan.tables.filter((table) => sourceIndex(plan, table) === of);
}
