/** Expressions in plans and options: the Common Expression Language, with bounded length and no backtracking patterns. */
import { Environment } from "@marcbachmann/cel-js";
import { PlanError, type Place } from "../errors/error.js";
import { firstLine, type Expression } from "./expression-result.js";

const LONGEST = 2000;
const environment = new Environment({ unlistedVariablesAreDyn: true });

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
  return (values) => program(values) as unknown;
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
