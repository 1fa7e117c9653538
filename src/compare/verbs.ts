/** The verbs check and compare. */
import { phrase } from "../errors/error.js";
import { pushAll } from "../bytes/lists.js";
import type { Splice } from "../edits/splice.js";
import { compareTables } from "./compare.js";
import type { Comparison, CompareOptions } from "./comparison.js";
import { loadReceipt } from "../sheets/receipt.js";
import type { Change, Counts, Healed, Note, Problem } from "../model/findings.js";
import type { Follow } from "../relations/follows.js";
import { correctTotals, isWrong } from "../source/totals.js";
import { planSplices } from "../source/splices.js";
import { sourceIndex } from "../plan/guide.js";
import type { Plan, TablePlan } from "../model/plan.js";
import { readPlan } from "../plan/read.js";
import type { TablesSource } from "../sheets/tables.js";
import { openFiles, type SourcesInput } from "../source/files.js";
import { readHatched } from "../records/open.js";

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

function tablesOf(plan: Plan, of: number): readonly TablePlan[] {
  return plan.tables.filter((table) => sourceIndex(plan, table) === of);
}
