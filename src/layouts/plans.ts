/** Plans as they are given, with the words of all layouts: what reads their text (YAML, the schema, expressions) is loaded when there is one. */
import type { Plan, SourcePlan } from "../model/plan.js";

/**
 * Reads a plan. It cannot be changed: the same text may give the same plan to others.
 *
 * @param text - the plan, as YAML
 * @param file - what errors call it
 * @throws {@link PlanError} with line and column, and the nearest right word
 * @example
 * ```ts
 * const plan = await readPlan("hatchfold: 1\nsources: { r: { file: r.json } }\ntables: { stations: { rows: stations, columns: { code: code } } }");
 * plan.tables[0].name; // "stations"
 * ```
 */
export async function readPlan(text: string, file = "plan"): Promise<Plan> {
  const [reader, { LAYOUTS }] = await Promise.all([import("../plan/read.js"), import("./index.js")]);
  return reader.readPlan(text, file, LAYOUTS);
}

/** How a plan says that its sources are read; it need not have any tables yet. */
export async function readSources(text: string, file: string): Promise<readonly SourcePlan[]> {
  const [reader, { LAYOUTS }] = await Promise.all([import("../plan/read.js"), import("./index.js")]);
  return (await reader.readPlan(text, file, LAYOUTS, true)).sources;
}

/** The JSON Schema of plans, which ships with the package as `hatch-fold/plan.schema.json`. */
export async function planJsonSchema(): Promise<object> {
  const [schema, { LAYOUTS }] = await Promise.all([import("../plan/schema.js"), import("./index.js")]);
  return schema.planJsonSchema(LAYOUTS);
}
