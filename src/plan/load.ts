/** Plans as they are given: what reads their text (YAML, the schema, expressions) is loaded when there is one. */
import type { Plan } from "../model/plan.js";

/**
 * Reads a plan.
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
  return (await import("./read.js")).readPlan(text, file);
}

/** The JSON Schema of plans, which ships with the package as `hatch-fold/plan.schema.json`. */
export async function planJsonSchema(): Promise<object> {
  return (await import("./schema.js")).planJsonSchema();
}
