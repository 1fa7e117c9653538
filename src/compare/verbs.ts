/** The verbs check and compare. */
import { checkOptions } from "../errors/options.js";
import { COMPARE_OPTIONS, type CompareInput } from "./comparison.js";
import type { Note, Problem } from "../model/findings.js";
import type { Tables } from "../sheets/index.js";

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
export async function check(tables: Tables, input: CompareInput): Promise<Checked> {
  checkOptions("check", input, COMPARE_OPTIONS);
  const { compareTables } = await import("./compare.js");
  const { problems, notes } = await compareTables(tables, { ...input, unproved: true });
  return { problems, notes };
}
