/** The verbs survey and draft. */
import { checkOptions, type OptionNames } from "../errors/options.js";
import { watchOf, type Watch } from "../source/watch.js";
import { openText } from "../bytes/encoding.js";
import { chooseReadings, sharedSettings, type FileReading } from "../source/choose.js";
import { type SourceFiles, type SourcesInput, openFiles } from "../source/files.js";
import { SchemaError } from "../errors/error.js";
import type { Dialect } from "../formats/format.js";
import type { Settings } from "../model/plan.js";
import type { SchemaFile } from "../model/schema.js";
import type { SchemaNode } from "../model/schema-node.js";
import type { Draft } from "./draft.js";
import type { FoundShape, Shape } from "./shape.js";

export interface SurveyOptions extends Watch {
  /** The source's name, for messages and for sniffing the format. */
  readonly name?: string;
  /** Name of the format; sniffed when not given. */
  readonly format?: string;
  /** Names of the formats that the source may have, where that is found by looking; any, unless given. */
  readonly formats?: readonly string[];
  /** Name of the encoding, as the Encoding Standard has it; found by looking when not given. */
  readonly encoding?: string;
  /** The format's own words, as a plan has them (`{ delimiter: ";", header: 2 }`): all of them, in the place of what is found by looking. */
  readonly settings?: Settings;
  /** Look at about the first so many bytes only: for a first look at a large source. What comes later is not known then. */
  readonly head?: number;
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
  checkOptions("survey", options, SURVEY_OPTIONS);
  const opened = await openFiles(input, options.name);
  const { readings, notes } = await chooseReadings(opened, options);
  const { findShape } = await import("./shape.js");
  return shapeOf(opened, readings, notes, await findShape(readings, watchOf(options), { head: options.head }));
}

async function shapeOf(opened: SourceFiles, readings: readonly FileReading[], notes: readonly string[], found: FoundShape): Promise<Shape> {
  const { describeShape } = await import("./shape.js");
  const { kinds, bom, strays } = found;
  const { format, why, next, encoding, dialect } = readings[0].reading;
  const otherwise = next === undefined ? {} : { next: { format: next.format.name, title: next.format.title, why: next.why } };
  const drawing = (await (await format.load()).draw?.(await openText(readings[0].file.source, encoding), dialect.settings)) ?? [];
  const files = opened.set ? { files: readings.length } : {};
  const size = readings.reduce((sum, { file }) => sum + file.source.size, 0);
  return describeShape(
    kinds,
    { name: sourceName(opened), size, format: format.name, title: format.title, why, ...otherwise, encoding, bom, ...files, drawing },
    [...notes.map((message) => ({ kind: "", path: "", message })), ...strays],
  );
}

const SURVEY_OPTIONS: OptionNames<SurveyOptions> = {
  name: true,
  format: true,
  formats: true,
  encoding: true,
  settings: true,
  head: true,
  progress: true,
  signal: true,
};

export interface DraftOptions extends SurveyOptions {
  /** What the plan calls the source: a path, or several; the source's own name, unless said. */
  readonly planFile?: string | readonly string[];
}

export interface Drafted {
  /** YAML. */
  readonly plan: string;
  /** What the plan leaves verbatim in cells, in words. */
  readonly notes: readonly string[];
  readonly shape: Shape;
}

export interface DraftBySchema extends DraftOptions {
  /** A schema of the owner's, as for a hatch: fields that no record has yet become columns, with types, choices and limits. */
  readonly schema?: string | readonly SchemaFile[];
  /** What the plan calls the schema: its path. */
  readonly schemaFile?: string;
}
export const DRAFT_OPTIONS: OptionNames<DraftOptions> = { ...SURVEY_OPTIONS, planFile: true };
const SCHEMA_OPTIONS: OptionNames<DraftBySchema> = { ...DRAFT_OPTIONS, schema: true, schemaFile: true };

/**
 * Writes a plan to start from.
 *
 * @returns the plan as YAML, what it leaves verbatim in cells, in words, and the shape that a survey would give
 * @throws {@link SourceError} when the source is not well formed
 * @example
 * ```ts
 * const { plan } = await draft('[{"code": "S1", "name": "Skarv"}]', { name: "stations.json" });
 * plan.includes("columns:"); // true
 * ```
 */
export async function draft(input: SourcesInput, options: DraftBySchema = {}): Promise<Drafted> {
  checkOptions("draft", options, SCHEMA_OPTIONS);
  const opened = await openFiles(input, options.name);
  const { readings, notes: left } = await chooseReadings(opened, options);
  const { plan, notes, found } = await draftOf(opened, readings, options, watchOf(options));
  return { plan: plan.text, notes: [...left, ...notes], shape: await shapeOf(opened, readings, left, found) };
}

/** A plan to start from, by what is in the source and what a schema of it says. */
export async function draftOf(
  opened: SourceFiles,
  readings: readonly FileReading[],
  options: Pick<DraftBySchema, "planFile" | "schema" | "schemaFile" | "head">,
  watch: Watch,
): Promise<Draft & { readonly found: FoundShape }> {
  const [{ findShape }, { draftPlan }, { listsOf }] = await Promise.all([
    import("./shape.js"),
    import("./draft.js"),
    import("./by-schema.js"),
  ]);
  const [{ reading }] = readings;
  const schema = await schemaOf(options, reading.dialect);
  const found = await findShape(readings, watch, {
    head: options.head,
    isList: schema === undefined ? undefined : listsOf(schema.node),
  });
  const { kinds } = found;
  const made = draftPlan(kinds, options.planFile ?? sourceName(opened), reading, sharedSettings(readings), schema);
  return { ...made, found };
}

async function schemaOf({ schema, schemaFile }: DraftBySchema, dialect: Dialect): Promise<{ node: SchemaNode; file?: string } | undefined> {
  if (schema === undefined) return undefined;
  const files = typeof schema === "string" ? [{ file: schemaFile ?? "schema", text: schema }] : schema;
  if (dialect.schemaFields === undefined) throw new SchemaError("schema-format", { format: dialect.name }, { file: files[0].file });
  try {
    return { node: await dialect.schemaFields(files), file: schemaFile };
  } catch (error) {
    throw new SchemaError("schema-broken", { reason: error instanceof Error ? error.message : String(error) }, { file: files[0].file });
  }
}

export function sourceName({ name, files, set }: SourceFiles): string {
  return set ? name : files[0].source.name;
}
