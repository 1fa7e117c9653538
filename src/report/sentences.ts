/** What was found, as programs read it in JSON. */
import type { Note, Problem } from "../model/findings.js";

export interface Findings {
  readonly problems: readonly Problem[];
  readonly warnings: readonly Problem[];
  readonly notes: readonly Note[];
}

export interface FindingsInSentences {
  readonly problems: readonly Omit<Problem, "facts">[];
  readonly warnings: readonly Omit<Problem, "facts">[];
  readonly notes: readonly Omit<Note, "facts">[];
}

/** Leaves out what the sentences are made of, which can be long: a problem may hold all titles of a table. */
export function inSentences({ problems, warnings, notes }: Findings): FindingsInSentences {
  return { problems: problems.map(withoutFacts), warnings: warnings.map(withoutFacts), notes: notes.map(withoutFacts) };
}

function withoutFacts<F extends { readonly facts: unknown }>({ facts: _facts, ...said }: F): Omit<F, "facts"> {
  return said;
}
