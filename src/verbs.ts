/** The six verbs, as functions. */
import { openText } from "./bytes/encoding.js";
import { toSource, type SourceInput } from "./bytes/source.js";
import { fingerprinter } from "./bytes/hash.js";
import { packer, unpacked } from "./bytes/packing.js";
import type { Splice } from "./fold/splice.js";
import { concat, copied } from "./bytes/writer.js";
import { compareTables, loadReceipt, type CompareOptions, type Comparison } from "./compare/compare.js";
import type { Change, Counts, Healed, Note, Problem } from "./compare/changes.js";
import { phrase, TablesError } from "./errors/error.js";
import { correctTotals, isWrong } from "./fold/totals.js";
import { planSplices, writeFolded, type ByteSink } from "./fold/fold.js";
import { chooseReading, type Said } from "./formats/choose.js";
import { draftPlan } from "./plan/draft.js";
import { explainUnmatched } from "./plan/unmatched.js";
import type { Plan } from "./plan/plan.js";
import { readPlan } from "./plan/read.js";
import { describeShape, findShape, type Shape } from "./shape/shape.js";
import { MemoryTables, type TablesSink, type TablesSource } from "./tables/containers.js";
import { hatchTables, type HatchOptions } from "./tables/hatch.js";
import type { Receipt } from "./tables/receipt.js";

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
export async function survey(input: SourceInput, options: SurveyOptions = {}): Promise<Shape> {
  const { source } = await unpacked(await toSource(input, options.name));
  const reading = await chooseReading(source, options);
  const { kinds, bom, strays } = await findShape(source, reading, options.progress);
  const { format, why, encoding, dialect } = reading;
  const drawing = (await format.draw?.(await openText(source, encoding), dialect.settings)) ?? [];
  return describeShape(
    kinds,
    { name: source.name, size: source.size, format: format.name, title: format.title, why, encoding, bom, drawing },
    strays,
  );
}

export type DraftOptions = SurveyOptions;

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
export async function draft(input: SourceInput, options: DraftOptions = {}): Promise<{ plan: string; notes: readonly string[] }> {
  const { source } = await unpacked(await toSource(input, options.name));
  const reading = await chooseReading(source, options);
  const { kinds } = await findShape(source, reading, options.progress);
  const { plan, notes } = draftPlan(kinds, source.name, reading);
  return { plan: plan.text, notes };
}

export interface HatchInput extends HatchOptions, SurveyOptions {
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
export async function hatch(input: SourceInput, options: HatchInput = {}): Promise<Hatched> {
  const { source } = await unpacked(await toSource(input, options.name));
  const given = typeof options.plan === "string" ? readPlan(options.plan) : options.plan;
  const reading = await chooseReading(source, given === undefined ? options : saidBy(given, options));
  let plan = given;
  let notes: readonly string[] = [];
  if (plan === undefined) {
    const drafted = draftPlan((await findShape(source, reading)).kinds, source.name, reading);
    plan = readPlan(drafted.plan.text, "draft");
    notes = drafted.notes;
  }
  const tables = new MemoryTables();
  const { receipt, unmatched } = await hatchTables(source, reading, plan, options.into ?? tables, options);
  const more = given === undefined || unmatched.length === 0 ? [] : explainUnmatched(unmatched, (await findShape(source, reading)).kinds);
  return { tables, receipt, plan, notes: [...notes, ...more] };
}

export interface CompareInput extends CompareOptions {
  /** The source that was hatched. */
  readonly source: SourceInput;
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
  const { counts, changes, healed, problems, notes } = await compareWith(tables, input);
  return { counts, changes, healed, problems, notes };
}

export interface FoldInput extends CompareInput {
  /** Fold the good rows and leave the rows with problems out. */
  readonly partial?: boolean;
  /** Takes the result piece by piece; when not given it is returned as one array. */
  readonly sink?: ByteSink;
}

export interface Folded extends Compared {
  /** The folded source, when no `sink` was given; else empty. */
  readonly bytes: Uint8Array;
  /** xxHash64 of the folded source. */
  readonly fingerprint: string;
  readonly size: number;
  /** Nothing was edited: the bytes are those of the source. */
  readonly unchanged: boolean;
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

/** Folds what was compared before. */
export async function foldComparison(comparison: Comparison, options: Pick<FoldInput, "partial" | "sink">): Promise<Folded> {
  const { counts, changes, healed, problems, notes, aside } = comparison;
  if (problems.length > 0 && options.partial !== true) {
    throw Object.assign(new TablesError("problems-left", { count: problems.length }), { problems });
  }
  const splices = await planSplices(comparison);
  const pieces: Uint8Array[] = [];
  const sink = options.sink ?? ((bytes: Uint8Array) => void pieces.push(copied(bytes)));
  const unchanged = splices.length + comparison.corrections.length === 0;
  const { size, fingerprint } = await writeOut(comparison, splices, unchanged, sink);
  return { counts, changes, healed, problems, notes, aside, bytes: concat(pieces), size, fingerprint, unchanged };
}

/** A packed source is packed again; one without changes is the file it was. */
async function writeOut(
  comparison: Comparison,
  splices: readonly Splice[],
  unchanged: boolean,
  sink: ByteSink,
): Promise<{ size: number; fingerprint: string }> {
  const { packed } = comparison;
  if (packed === null) return writeFolded(comparison, splices, sink);
  if (!unchanged) {
    const packing = await packer(sink);
    await writeFolded(comparison, splices, (bytes) => packing.write(bytes));
    return packing.end();
  }
  const hash = await fingerprinter();
  for await (const chunk of packed.chunks()) {
    hash.update(chunk);
    await sink(copied(chunk));
  }
  return { size: packed.size, fingerprint: hash.digest() };
}

/** Compares and keeps what a fold needs. */
export async function compareWith(tables: TablesSource, input: CompareInput): Promise<Comparison> {
  const receipt = await loadReceipt(tables);
  const { source, packed } = await unpacked(await toSource(input.source, input.name ?? receipt.source.file));
  const plan = typeof input.plan === "object" ? input.plan : readPlan(input.plan ?? receipt.plan.text, "plan");
  const said = saidBy(plan, { format: receipt.source.format, encoding: receipt.source.encoding });
  const comparison = await compareTables(source, await chooseReading(source, said), plan, receipt, tables, input);
  return { ...(await withTotals(comparison, plan)), packed };
}

/** Adds what the edits do to totals, and says which were wrong before. */
async function withTotals(comparison: Comparison, plan: Plan): Promise<Comparison> {
  const { dialect, text, edits, changes, notes } = comparison;
  if (dialect.totals === undefined) return comparison;
  const wrong = (await dialect.totals(text)).filter(isWrong).map(({ path, line, said, actual }): Note => ({
    code: "total-wrong",
    table: path.slice(0, -1).join("/"),
    ...phrase("total-wrong", { field: path[path.length - 1], line, said, actual }),
  }));
  const noted = { ...comparison, notes: [...notes, ...wrong] };
  if (edits.length === 0) return noted;
  const { splices, changes: totals } = await correctTotals(text, await planSplices(comparison), dialect, plan);
  const place = (change: Change): number => plan.tables.findIndex((table) => table.name === change.table);
  return { ...noted, corrections: splices, changes: [...changes, ...totals].sort((a, b) => place(a) - place(b)) };
}

/** What the plan says of its source; what was said in the call comes first. */
function saidBy(plan: Plan, call: Said): Said {
  const [source] = plan.sources;
  return { format: call.format ?? source?.format, encoding: call.encoding ?? source?.encoding, settings: source?.settings };
}
