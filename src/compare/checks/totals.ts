/**
 * Rules of columns that are totals over records (in the trailers of some formats): their values follow from the edits, so
 * they are asked when it is known what they come to. All edited rows of the file are what makes them so.
 */
import { Kind } from "../../model/kind.js";
import type { Change } from "../../model/findings.js";
import type { ColumnPlan } from "../../model/plan.js";
import type { CompiledTable } from "../../plan/compile.js";
import { compileExpression, firstLine } from "../../plan/expression.js";
import { compilePattern, type Pattern } from "../../plan/pattern.js";
import { valueFor } from "../../plan/value.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { ProblemList } from "../../model/problem-list.js";
import type { UnfitTotal } from "../../source/totals.js";
import { broken } from "./broken.js";
import { brokenLimits } from "./limits.js";

/** Adds what `changes` break; gives whether there is something. */
export async function checkTotals(changes: readonly Change[], draft: Draft, { compiled, findings, sheetNames }: Context): Promise<boolean> {
  const before = [findings.problems.length, findings.warnings.length];
  for (const { table, row, column: title, new: text, record } of changes) {
    const column = row > 0 ? undefined : totalOf(compiled.tables, table, title);
    if (column?.rules === undefined || text === null) continue;
    const file = sheetNames.get(table) ?? table;
    const place = { table, file, row: 0, column: title, value: `${text} (${record})` };
    const patterns = new Map<string, Pattern>();
    const { pattern, checks = [] } = column.rules;
    if (pattern !== undefined) patterns.set(pattern.is, await compilePattern(pattern.is));
    for (const [rule, one] of brokenLimits({ kind: Kind.Text, text }, column, column.rules, patterns)) findings.addBroken(one, rule, place);
    for (const rule of checks) {
      const run = await compileExpression(rule.is, rule.place);
      const value = valueFor(column, Kind.Text, () => text);
      let reason: string | null = null;
      try {
        if (run({ [title]: value, row: { [title]: value }, value }) === true) continue;
      } catch (error) {
        reason = `It could not be worked out: ${firstLine(error)}.`;
      }
      findings.addBroken(broken("check-failed", { title, check: rule.is, reason }), rule, place);
    }
  }
  const [problems, warnings] = before;
  if (findings.problems.length > problems) hitAll(draft, findings);
  return findings.problems.length > problems || findings.warnings.length > warnings;
}

/** Adds totals that cannot be written. */
export function tellUnfit(unfit: readonly UnfitTotal[], draft: Draft, { findings, sheetNames }: Context): void {
  for (const { change, why } of unfit) {
    const { table, column, record, new: text } = change;
    const place = { table, file: sheetNames.get(table) ?? table, row: 0, column: column ?? "", value: text ?? "" };
    findings.add("total-unfit", { title: column ?? "", line: record, total: text ?? "", why }, place);
  }
  hitAll(draft, findings);
}

/** With --partial they are left out together: which of them is too much nobody can say. */
function hitAll({ rows, news }: Draft, findings: ProblemList): void {
  for (const { sheet, row } of [...rows, ...news]) findings.hit.push({ table: sheet.table.plan.name, row });
}

/** The column, where its values are totals. */
function totalOf(tables: readonly CompiledTable[], name: string, title: string): ColumnPlan | undefined {
  const table = tables.find(({ plan }) => plan.name === name);
  const column = table?.plan.columns.find((one) => one.title === title);
  if (table === undefined || column === undefined) return undefined;
  return table.source.dialect.isTotal?.([...table.plan.rows.steps, ...column.at.steps]) === true ? column : undefined;
}
