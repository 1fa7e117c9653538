/** A new document from tables alone. */
import { checkOptions, type OptionNames } from "../errors/options.js";
import { MemorySource } from "../bytes/source.js";
import type { Comparison, CompareOptions } from "../compare/comparison.js";
import { PlanError } from "../errors/error.js";
import { formatNamed } from "../formats/index.js";
import type { ByteSink } from "./write.js";
import type { Plan } from "../model/plan.js";
import { readPlan } from "../layouts/plans.js";
import { containerOf, HeldSheets, type Tables } from "../sheets/index.js";
import { hatch } from "../hatch/hatch.js";
import { foldComparison, type Folded } from "./fold.js";

export interface FoldNewInput extends Omit<CompareOptions, "fresh" | "known" | "paths"> {
  /** The plan, as YAML text or as read by {@link readPlan}: its source says the format. */
  readonly plan: string | Plan;
  readonly partial?: boolean;
  readonly unproved?: boolean;
  readonly sink?: ByteSink;
}

const NEW_OPTIONS: OptionNames<FoldNewInput> = {
  plan: true,
  partial: true,
  unproved: true,
  sink: true,
  copies: true,
  allow: true,
  absent: true,
  strict: true,
  noHeal: true,
  append: true,
  replace: true,
  progress: true,
  signal: true,
};

/**
 * Makes a new document from tables alone, also from sheets that somebody else made.
 *
 * @throws {@link ProblemsError} with the list; {@link CallError} when a sheet is not there
 * @example
 * ```ts
 * const tables = new MemoryTables([["people.csv", new TextEncoder().encode("name,id\nRut,P-1\n")]]);
 * const plan = ["hatchfold: 1", "sources: { new: { file: new.json, format: json } }", "tables:", "  people: { rows: people, columns: { id: id, name: name } }"];
 * const { bytes } = await foldNew(tables, { plan: plan.join("\n") });
 * JSON.parse(new TextDecoder().decode(bytes)); // { people: [{ id: "P-1", name: "Rut" }] }
 * ```
 */
export async function foldNew(tables: Tables, input: FoldNewInput): Promise<Folded> {
  checkOptions("foldNew", input, NEW_OPTIONS);
  return foldComparison(await compareNew(tables, input), input);
}

/** Compares tables with a document that holds nothing yet. */
export async function compareNew(tables: Tables, input: FoldNewInput): Promise<Comparison> {
  const given = typeof input.plan === "object" ? input.plan : await readPlan(input.plan);
  if (given.sources.length > 1) throw new PlanError("new-several", { names: given.sources.map(({ name }) => name) });
  const [source] = given.sources;
  const format = source?.format === undefined ? undefined : formatNamed(source.format);
  if (format === undefined) throw new PlanError("new-format", {});
  const name = typeof source.file === "string" ? source.file : source.file[0];
  // there is nothing in which words of the format could be found by looking
  const plan: Plan = { ...given, sources: [{ ...source, settings: source.settings ?? {} }] };
  const empty = new TextEncoder().encode((await format.load()).skeleton(plan.tables, source.settings ?? {}));
  const skeleton = new MemorySource(empty, name);
  const { receipt } = await hatch(skeleton, { plan });
  const { splitSheet } = await import("../layouts/flat.js");
  const container = containerOf(tables);
  const { sheets, problems, used } = await splitSheet(container, plan, receipt);
  const { compareTables } = await import("../compare/compare.js");
  const comparison = await compareTables(new HeldSheets(container.name, receipt, sheets), {
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
