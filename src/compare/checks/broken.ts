/** A rule of the plan that is not kept, in words. */
import { sentence, type Words } from "../../errors/error.js";
import type { Facts } from "../../errors/words.js";
import { RULES } from "../../errors/words/rules.js";
import type { BrokenRule } from "../../model/problem-list.js";

export type Broken = BrokenRule;

export function broken<C extends keyof typeof RULES>(code: C, facts: Facts<C>): Broken {
  return { code, ...sentence(RULES[code] as unknown as Words<C>, facts) };
}
