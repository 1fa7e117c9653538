/** Expressions in plans and options: what compiles them is loaded when there is one. */
import type { Place } from "../errors/error.js";
import type { Expression } from "./expression-result.js";

export { firstLine, type Expression, type Scalar } from "./expression-result.js";

/** Compiles an expression of the Common Expression Language; titles that are not plain words are reached as `row["the title"]`. */
export async function compileExpression(text: string, place: Place = {}): Promise<Expression> {
  return (await import("./cel.js")).compileExpression(text, place);
}
