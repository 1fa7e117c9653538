/** Rules of a plan as its text says them: alone, or with words of their own. */
import { PlanError, type Place } from "../errors/error.js";
import type { ColumnRules, ColumnType, Rule, Severity } from "../model/plan.js";
import { isDate } from "../cells/dates.js";

/** As the text has it. */
export type Said<T> = T | { readonly is: T; readonly say?: string; readonly severity?: Severity };

export type PlaceOf = (path: readonly string[]) => Place;

const NUMBERS: readonly ColumnType[] = ["number", "integer", "decimal"];

export function ruleOf<T>(said: Said<T> | undefined, place: Place): Rule<T> | undefined {
  if (said === undefined) return undefined;
  if (typeof said !== "object" || said === null) return { is: said, severity: "error", place };
  const { is, say, severity = "error" } = said as Exclude<Said<T>, T>;
  return { is, severity, place, ...(say === undefined ? {} : { say }) };
}

/** One expression, or several. */
export function checksOf(
  said: Said<string> | readonly Said<string>[] | undefined,
  where: readonly string[],
  place: PlaceOf,
): Rule<string>[] {
  if (said === undefined) return [];
  const list = Array.isArray(said) ? (said as readonly Said<string>[]) : [said as Said<string>];
  return list.map((one, i) => ruleOf(one, place(Array.isArray(said) ? [...where, String(i)] : where))!);
}

interface RulesInput {
  readonly required?: Said<boolean>;
  readonly minimum?: Said<number | string>;
  readonly maximum?: Said<number | string>;
  readonly "min-length"?: Said<number>;
  readonly "max-length"?: Said<number>;
  readonly pattern?: Said<string>;
  readonly check?: Said<string> | readonly Said<string>[];
}

/**
 * The rules of a column.
 *
 * @throws {@link PlanError} for a limit that the column's type does not have
 */
export function columnRules(
  input: RulesInput,
  { title, type }: { readonly title: string; readonly type: ColumnType },
  where: readonly string[],
  place: PlaceOf,
): ColumnRules | undefined {
  const at = (word: string): Place => place([...where, word]);
  const limit = (word: "minimum" | "maximum"): Rule<string> | undefined => {
    const rule = ruleOf(input[word], at(word));
    if (rule === undefined) return undefined;
    const is = String(rule.is);
    const fits = type === "date" ? isDate(is) : NUMBERS.includes(type) && Number.isFinite(Number(is)) && is.trim() !== "";
    if (!fits) throw new PlanError("plan-limit", { title, word, type, limit: is }, at(word));
    return { ...rule, is };
  };
  const required = ruleOf(input.required, at("required"));
  const checks = checksOf(input.check, [...where, "check"], place);
  const rules: ColumnRules = {
    required:
      required?.is === true && (required.severity === "warning" || required.say !== undefined) ? { ...required, is: true } : undefined,
    minimum: limit("minimum"),
    maximum: limit("maximum"),
    minLength: ruleOf(input["min-length"], at("min-length")),
    maxLength: ruleOf(input["max-length"], at("max-length")),
    pattern: ruleOf(input.pattern, at("pattern")),
    checks: checks.length === 0 ? undefined : checks,
  };
  return Object.values(rules).every((rule) => rule === undefined) ? undefined : rules;
}

/** Must cells be filled? A warning does not make it so. */
export function isRequired(said: Said<boolean> | undefined, place: Place): boolean {
  const rule = ruleOf(said, place);
  return rule?.is === true && rule.severity === "error";
}

type UniqueSaid =
  string | readonly string[] | { readonly is: string | readonly string[]; readonly say?: string; readonly severity?: Severity };

/** Lists of titles; a list of titles alone is the only one. */
export function uniqueRules(said: UniqueSaid | readonly UniqueSaid[] | undefined, place: Place): Rule<readonly string[]>[] | undefined {
  if (said === undefined) return undefined;
  const isOne = !Array.isArray(said) || said.every((one) => typeof one === "string");
  return (isOne ? [said as UniqueSaid] : (said as readonly UniqueSaid[])).map((one) => {
    const {
      is,
      say,
      severity = "error",
    } = typeof one === "string" || Array.isArray(one)
      ? { is: one as string | readonly string[] }
      : (one as Exclude<UniqueSaid, string | readonly string[]>);
    return { is: typeof is === "string" ? [is] : is, severity, place, ...(say === undefined ? {} : { say }) };
  });
}
