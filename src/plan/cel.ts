/**
 * Expressions in plans and options: the Common Expression Language, with bounded length and no backtracking patterns.
 * What it lacks for tables is added: `sum`, `least` and `greatest` of a list, blank items left aside, and arithmetic of
 * whole and decimal numbers together.
 */
import { Environment } from "@marcbachmann/cel-js";
import Big from "big.js";
import { PlanError, type Place } from "../errors/error.js";
import { firstLine, type Expression, type Uses } from "./expression-result.js";

const LONGEST = 2000;
const environment = new Environment({ unlistedVariablesAreDyn: true })
  .registerFunction("sum(list): dyn", (list: readonly unknown[]) =>
    numbersIn(list)
      .reduce((total, one) => total.plus(one), Big(0))
      .toNumber(),
  )
  .registerFunction("least(list): dyn", (list: readonly unknown[]) => chosen(list, (one, other) => one.lt(other)))
  .registerFunction("greatest(list): dyn", (list: readonly unknown[]) => chosen(list, (one, other) => one.gt(other)));
for (const [sign, work] of [
  ["+", (a: number, b: number): number => a + b],
  ["-", (a: number, b: number): number => a - b],
  ["*", (a: number, b: number): number => a * b],
  ["/", (a: number, b: number): number => a / b],
] as const) {
  environment.registerOperator(`double ${sign} int`, (a: number, b: bigint) => work(a, Number(b)));
  environment.registerOperator(`int ${sign} double`, (a: bigint, b: number) => work(Number(a), b));
}

/** Exact, as a source's decimals are: sums that are equal on paper are equal here. */
function numbersIn(list: readonly unknown[]): Big[] {
  return list.flatMap((one) => {
    if (one === null || one === undefined) return [];
    if (typeof one !== "number" && typeof one !== "bigint") throw new Error(`${JSON.stringify(one)} is no number`);
    return [Big(String(one))];
  });
}

function chosen(list: readonly unknown[], isBetter: (one: Big, other: Big) => boolean): number | null {
  const [first, ...others] = numbersIn(list);
  return first === undefined ? null : others.reduce((best, one) => (isBetter(one, best) ? one : best), first).toNumber();
}

/** Compiles an expression; titles that are not plain words are reached as `row["the title"]`. */
export function compileExpression(text: string, place: Place = {}): Expression {
  if (text.length > LONGEST) throw new PlanError("expression-long", { length: text.length, most: LONGEST }, place);
  let program;
  try {
    program = environment.parse(text);
  } catch (error) {
    throw new PlanError("expression", { text, reason: firstLine(error) }, place);
  }
  check(program.ast, { text, place, times: 1, unknown: 0 });
  const { op, args } = program.ast as { readonly op: string; readonly args: unknown };
  const sides = COMPARISONS.has(op)
    ? (args as readonly { start: number; end: number }[]).map(({ start, end }) => text.slice(start, end))
    : [];
  return Object.assign((values: Record<string, unknown>) => program(values) as unknown, { text, uses: usesOf(program.ast), sides });
}

const COMPARISONS = new Set(["==", "!=", "<", "<=", ">", ">="]);

function usesOf(ast: unknown): Uses {
  const names = new Set<string>();
  const whole = new Set<string>();
  const members = new Map<string, Set<string>>();
  const member = (of: string, name: string): void => void members.set(of, (members.get(of) ?? new Set()).add(name));
  /** `bound` are words for the items of a list, with the name of the list. */
  const walk = (node: unknown, bound: ReadonlyMap<string, string>, isList = false): void => {
    if (Array.isArray(node)) {
      for (const one of node as unknown[]) walk(one, bound);
      return;
    }
    if (typeof node !== "object" || node === null) return;
    const { op, args } = node as { op?: string; args?: unknown };
    if (op === "id") {
      const name = args as string;
      if (!bound.has(name) && !environment.hasVariable(name)) names.add(name);
      if (!isList) whole.add(bound.get(name) ?? name);
      return;
    }
    if (op === "." || op === "[]" || op === ".?" || op === "[?]") {
      const [object, key] = args as [{ op?: string; args?: unknown }, unknown];
      const literal =
        typeof key === "string" ? key : (key as { op?: string; args?: unknown }).op === "value" ? (key as { args: unknown }).args : null;
      if (typeof literal === "string") {
        const name = object.op === "id" ? (object.args as string) : "";
        if (object.op !== "id") walk(object, bound);
        else if (!bound.has(name)) names.add(name);
        member(bound.get(name) ?? name, literal);
        return;
      }
    }
    if (op === "rcall" && Array.isArray(args) && EACH.has((args as unknown[])[0] as string)) {
      const [, list, inner] = args as [string, { op?: string; args?: unknown }, readonly { op?: string; args?: unknown }[]];
      const [word, ...rest] = inner;
      walk(list, bound, true);
      const of = nameOf(list);
      walk(rest, new Map([...bound, [word.args as string, bound.get(of ?? "") ?? of ?? ""]]));
      return;
    }
    walk(args, bound);
  };
  walk(ast, new Map());
  return { names, members, whole };
}

/** The name of a list that is gone through: `lines`, and the same of `tables["lines"]`. */
function nameOf({ op, args }: { readonly op?: string; readonly args?: unknown }): string | null {
  if (op === "id") return args as string;
  const [of, key] = op === "[]" ? (args as [{ args?: unknown }, { args?: unknown }]) : [];
  return of?.args === "tables" && typeof key?.args === "string" ? key.args : null;
}

/** Words that go through a list, and take an expression for each item. */
const EACH = new Set(["all", "exists", "exists_one", "map", "filter"]);
/** So often an expression inside such words may be worked out, as far as the lists are written out. */
const MOST_STEPS = 10_000;
/** The same where one of the lists is of a length that is not known yet. */
const MOST_AROUND_UNKNOWN = 100;

interface Around {
  readonly text: string;
  readonly place: Place;
  /** How often what is looked at is worked out. */
  readonly times: number;
  /** Lists of unknown length around it. */
  readonly unknown: number;
}

/** Refuses what might never end. */
function check(node: unknown, around: Around): void {
  if (Array.isArray(node)) {
    for (const one of node as unknown[]) check(one, around);
    return;
  }
  if (typeof node !== "object" || node === null) return;
  const { op, args } = node as { op?: string; args?: unknown };
  const { text, place, times, unknown } = around;
  const calls = (op === "call" || op === "rcall") && Array.isArray(args) ? (args as unknown[]) : [];
  // the package's matches() is a backtracking RegExp: an evil pattern would never end
  if (calls[0] === "matches") throw new PlanError("expression-matches", { text }, place);
  if (op !== "rcall" || !EACH.has(calls[0] as string)) {
    check(args, around);
    return;
  }
  const [, list, inner] = calls;
  check(list, around);
  const { op: sort, args: items } = list as { op?: string; args?: unknown };
  const isWritten = sort === "list" && Array.isArray(items);
  const deeper = { ...around, times: isWritten ? times * Math.max(1, items.length) : times, unknown: isWritten ? unknown : unknown + 1 };
  if (deeper.unknown > 1 || deeper.times > (deeper.unknown > 0 ? MOST_AROUND_UNKNOWN : MOST_STEPS))
    throw new PlanError("expression-steps", { text, most: MOST_STEPS }, place);
  check(inner, deeper);
}
