/** Values that are parts of others, and values that stand beside the text of others. */
import { startsWith, type Step } from "../model/path.js";
import type { Dialect } from "./format.js";

/** Is the value at `inner` a part of the one at `outer`, and not one that stands beside its text? */
export function takesApart(dialect: Dialect, inner: readonly Step[], outer: readonly Step[]): boolean {
  if (inner.length <= outer.length || !startsWith(inner, outer)) return false;
  const next = inner[outer.length];
  return next.kind !== "name" || !dialect.beside(next.name);
}
