/** Patterns of plans: regular expressions in the syntax of RE2, which take time that goes with the text alone. */
import { PlanError, type Place } from "../errors/error.js";
import { firstLine } from "./expression-result.js";

/** Is the whole text of this form? */
export type Pattern = (text: string) => boolean;

/** The engine is loaded when a plan has a pattern. @throws {@link PlanError} where it cannot be read */
export async function compilePattern(text: string, place: Place = {}): Promise<Pattern> {
  const { RE2JS } = await import("re2js");
  try {
    const compiled = RE2JS.compile(text);
    return (value) => compiled.matches(value);
  } catch (error) {
    throw new PlanError("plan-pattern", { text, reason: firstLine(error) }, place);
  }
}
