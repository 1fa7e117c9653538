/** Kinds and fields of a grammar of lines, by name. */
import type { Step } from "../../model/path.js";
import type { LineGrammar } from "./grammar.js";

/** The kind that steps from the top lead to: names of kinds, one in the other. */
export function findKind(grammar: LineGrammar, steps: readonly Step[]): number {
  if (grammar.kinds.length === 1 && grammar.kinds[0].name === "") return steps.length === 0 ? 0 : -1;
  let inside = -1;
  for (const step of steps) {
    inside = grammar.kinds.findIndex((kind) => kind.inside === inside && step.kind === "name" && kind.name === step.name);
    if (inside < 0) return -1;
  }
  return inside;
}

export function findField(grammar: LineGrammar, steps: readonly Step[]): { kind: number; field: number } | null {
  const last = steps.at(-1);
  const byName = last?.kind === "name" ? findKind(grammar, steps.slice(0, -1)) : -1;
  if (byName >= 0 && last?.kind === "name") {
    const field = grammar.kinds[byName].fields.findIndex((one) => one.name === last.name);
    return field < 0 ? null : { kind: byName, field };
  }
  return null;
}
