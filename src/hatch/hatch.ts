/** The verb hatch. */
import { checkOptions, type OptionNames } from "../errors/options.js";
import { watchOf } from "../source/watch.js";
import { DRAFT_OPTIONS, draftOf, type DraftOptions } from "../survey/survey.js";
import { pushAll } from "../bytes/lists.js";
import type { Receipt } from "../sheets/receipt.js";
import type { FileReading } from "../source/choose.js";
import { sourceIndex } from "../plan/compile.js";
import type { Unmatched } from "../survey/unmatched.js";
import type { Plan } from "../model/plan.js";
import { readPlan } from "../layouts/plans.js";
import type { TablesOut } from "../sheets/index.js";
import { MemoryTables } from "../sheets/tables.js";
import type { HatchOptions } from "./write-tables.js";
import { openFiles, type SourcesInput } from "../source/files.js";
import { readSources } from "../records/open.js";

export interface HatchInput extends HatchOptions, DraftOptions {
  /** The plan, as YAML text or as read by {@link readPlan}; drafted when not given. */
  readonly plan?: string | Plan;
  /** Where the tables go: a folder of files, or rows (`RowTables`); kept in memory as files when not given. */
  readonly into?: TablesOut;
}

const HATCH_OPTIONS: OptionNames<HatchInput> = {
  ...DRAFT_OPTIONS,
  plan: true,
  into: true,
  where: true,
  tables: true,
  columns: true,
  sample: true,
  blank: true,
  program: true,
  schema: true,
  sourceFile: true,
};

export interface Hatched {
  /** The tables, when no `into` was given; else empty. */
  readonly tables: MemoryTables;
  readonly receipt: Receipt;
  readonly plan: Plan;
  /** What a drafted plan leaves verbatim; what a given plan looks for in vain. */
  readonly notes: readonly string[];
  /** With the key of a record for a sample: what a filled cell looks like, from any record, by table and title. */
  readonly examples?: ReadonlyMap<string, ReadonlyMap<string, string>>;
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
  checkOptions("hatch", options, HATCH_OPTIONS);
  const opened = await openFiles(input, options.name);
  const given = typeof options.plan === "string" ? await readPlan(options.plan) : options.plan;
  const { readings, notes: left } = await readSources(opened, given, options);
  let plan = given;
  let notes: readonly string[] = left;
  if (plan === undefined) {
    const { schemasIn } = await import("./write-tables.js");
    const schema = schemasIn(options.schema).schemas?.[0].files;
    const drafted = await draftOf(opened, readings, { planFile: options.planFile, schema }, watchOf(options));
    plan = await readPlan(drafted.plan.text, "draft");
    notes = [...left, ...drafted.notes];
  }
  const tables = new MemoryTables();
  const { hatchTables } = await import("./write-tables.js");
  const { receipt, unmatched, notes: found, examples } = await hatchTables(opened, readings, plan, options.into ?? tables, options);
  const more = given === undefined ? [] : await explainAll(unmatched, readings, given);
  return { tables, receipt, plan, notes: [...notes, ...found, ...more], ...(examples === undefined ? {} : { examples }) };
}

/** Paths of the plan that match nothing, source by source. */
async function explainAll(unmatched: readonly Unmatched[], readings: readonly FileReading[], plan: Plan): Promise<string[]> {
  const notes: string[] = [];
  if (unmatched.length === 0) return notes;
  const [{ findShape }, { explainUnmatched }] = await Promise.all([import("../survey/shape.js"), import("../survey/unmatched.js")]);
  for (const of of new Set(unmatched.map(({ table }) => sourceIndex(plan, table)))) {
    const mine = unmatched.filter(({ table }) => sourceIndex(plan, table) === of);
    const { kinds } = await findShape(
      readings.filter((one) => one.of === of),
      {},
    );
    pushAll(notes, explainUnmatched(mine, kinds));
  }
  return notes;
}
