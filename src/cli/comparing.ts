/** Comparisons as the command line asks for them: with the source that was hatched, or (`--new`) with none. */
import { CallError } from "../errors/error.js";
import type { Comparison, CompareOptions } from "../compare/comparison.js";
import { withComparison } from "../node/index.js";
import { openTables } from "../node/tables-at.js";
import { readPlan } from "../layouts/plans.js";
import { compareNew } from "../fold/fold-new.js";
import type { TablesOptions } from "./commands/tables-options.js";
import { tablesInput } from "./runs/tables-input.js";
import { tablesFolder } from "./inputs.js";
import type { Io } from "./io.js";

type Use<T> = (comparison: Comparison, source: string) => Promise<T>;

export async function withTables<T>(
  tables: string,
  options: TablesOptions,
  io: Io,
  more: Pick<CompareOptions, "paths" | "progress" | "unproved">,
  use: Use<T>,
): Promise<T> {
  if (options.new === true) return withNew(tables, options, io, use);
  const folder = await tablesFolder(tables);
  return withComparison(folder, { ...(await tablesInput(options, io)), ...more }, use);
}

/** No source, no receipt: all rows are new. */
export async function withNew<T>(tables: string, options: TablesOptions, io: Io, use: Use<T>): Promise<T> {
  if (options.plan === undefined || options.source !== undefined)
    throw new CallError("call", { reason: "--new needs a plan, and no source", hint: "hatchfold check SHEETS --new -p PLAN" });
  const { tables: opened, close } = await openTables(await tablesFolder(tables));
  try {
    const { plan: text, source: _, ...input } = await tablesInput(options, io);
    const plan = await readPlan(text!, options.plan);
    return await use(await compareNew(opened, { ...input, plan }), plan.sources[0].name);
  } finally {
    await close();
  }
}
