/** Limits of a column (`minimum:`, `max-length:`, `pattern:` …), for cells that somebody wrote. Blank cells have none. */
import Big from "big.js";
import type { NewValue } from "../../edits/edit.js";
import { Kind } from "../../model/kind.js";
import type { ColumnPlan, ColumnRules, Rule } from "../../model/plan.js";
import { compilePattern, type Pattern } from "../../plan/pattern.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import { broken, type Broken } from "./broken.js";
import { writtenCells } from "./written.js";

export async function checkLimits(draft: Draft, { plan, findings }: Context): Promise<void> {
  const patterns = new Map<string, Pattern>();
  for (const { columns } of plan.tables)
    for (const { rules } of columns)
      if (rules?.pattern !== undefined) patterns.set(rules.pattern.is, await compilePattern(rules.pattern.is));
  for (const { table, values, sheet, row } of draft.news)
    for (const [slot, { title, rules }] of table.plan.columns.entries())
      if (rules?.required?.severity === "warning" && values[slot] === null)
        findings.addBroken(broken("rule-blank", { title }), rules.required, sheet.place(row, title));
  for (const cell of writtenCells(draft)) {
    const column = cell.table.plan.columns[cell.slot];
    for (const [rule, one] of column.rules === undefined ? [] : brokenLimits(cell.value, column, column.rules, patterns)) {
      const { of, content } = cell;
      findings.addBroken(one, rule, of.sheet.place(of.row, column.title, content));
    }
  }
}

/** The limits that a value breaks. */
export function* brokenLimits(
  { kind, text }: NewValue,
  { title, type }: ColumnPlan,
  { required, minimum, maximum, minLength, maxLength, pattern }: ColumnRules,
  patterns: ReadonlyMap<string, Pattern>,
): Iterable<readonly [Rule<unknown>, Broken]> {
  if (kind === Kind.Absent || kind === Kind.Null || text === "") {
    if (required?.severity === "warning") yield [required, broken("rule-blank", { title })];
    return;
  }
  const isDay = type === "date";
  const compared = (limit: string): number | null => (isDay ? (text < limit ? -1 : text > limit ? 1 : 0) : compareNumbers(text, limit));
  if (minimum !== undefined && compared(minimum.is) === -1)
    yield [minimum, broken(isDay ? "rule-first-day" : "rule-minimum", { title, limit: minimum.is })];
  if (maximum !== undefined && compared(maximum.is) === 1)
    yield [maximum, broken(isDay ? "rule-last-day" : "rule-maximum", { title, limit: maximum.is })];
  const length = minLength === undefined && maxLength === undefined ? 0 : lettersIn(text);
  if (minLength !== undefined && length < minLength.is) yield [minLength, broken("rule-short", { title, least: minLength.is, length })];
  if (maxLength !== undefined && length > maxLength.is) yield [maxLength, broken("rule-long", { title, most: maxLength.is, length })];
  if (pattern !== undefined && !patterns.get(pattern.is)!(text)) yield [pattern, broken("rule-pattern", { title, pattern: pattern.is })];
}

/** Exact; `null` where the text is no number, which the column's type tells. */
function compareNumbers(text: string, limit: string): number | null {
  try {
    return Big(text.trim()).cmp(Big(limit));
  } catch {
    return null;
  }
}

/** Code points: letters as JSON Schema and XML Schema count them. */
function lettersIn(text: string): number {
  let length = 0;
  for (const _ of text) length++;
  return length;
}
