/** Kinds and fields of a grammar of lines, by name. */
import type { Step } from "../../model/path.js";
import type { LineGrammar, LineGroup } from "./grammar.js";
import { groupsOf } from "./groups.js";

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

/** The steps from the top that lead to a kind. */
export function stepsOf({ kinds }: LineGrammar, kind: number): Step[] {
  const steps: Step[] = [];
  for (let k = kind; k >= 0 && kinds[k].name !== ""; k = kinds[k].inside) steps.unshift({ kind: "name", name: kinds[k].name });
  return steps;
}

export function findField(grammar: LineGrammar, steps: readonly Step[]): { kind: number; field: number } | null {
  const last = steps.at(-1);
  const byName = last?.kind === "name" ? findKind(grammar, steps.slice(0, -1)) : -1;
  if (byName >= 0 && last?.kind === "name") {
    const field = grammar.kinds[byName].fields.findIndex((one) => one.name === last.name);
    return field < 0 ? null : { kind: byName, field };
  }
  // fields of groups are alike, wherever they stand: the first group's speak for all
  const found = findGroup(grammar, steps.slice(0, -1));
  const place = found !== null && last?.kind === "name" ? found.group.names.indexOf(last.name) : -1;
  return place < 0 ? null : { kind: found!.kind, field: found!.group.places[0][place] };
}

/** The group that steps from the top lead to, and the kind of its lines. */
export function findGroup(grammar: LineGrammar, steps: readonly Step[]): { readonly kind: number; readonly group: LineGroup } | null {
  const last = steps.at(-1);
  if (last?.kind !== "name") return null;
  const kind = findKind(grammar, steps.slice(0, -1));
  const group = kind < 0 ? undefined : groupsOf(grammar.kinds[kind]).find(({ name }) => name === last.name);
  return group === undefined ? null : { kind, group };
}
