/** Expressions in plans and options: the Common Expression Language, with bounded length and no backtracking patterns. */
import { Environment } from "@marcbachmann/cel-js";
import { PlanError, type Place } from "../errors/error.js";

export type Scalar = string | number | boolean | null;
export type Expression = (values: Record<string, unknown>) => unknown;

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
  // the package's matches() is a backtracking RegExp: an evil pattern would never end
  if (callsMatches(program.ast)) throw new PlanError("expression-matches", { text }, place);
  return (values) => program(values) as unknown;
}

/** First line of an evaluation error, for a message. */
export function firstLine(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split("\n")[0];
}

function callsMatches(ast: unknown): boolean {
  const stack: unknown[] = [ast];
  while (stack.length > 0) {
    const node = stack.pop();
    if (Array.isArray(node)) stack.push(...(node as unknown[]));
    else if (typeof node === "object" && node !== null) {
      const { op, args } = node as { op?: string; args?: unknown };
      if ((op === "call" || op === "rcall") && Array.isArray(args) && args[0] === "matches") return true;
      stack.push(args);
    }
  }
  return false;
}
