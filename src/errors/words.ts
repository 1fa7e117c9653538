/** The one place where facts become sentences: for each code, what happened and what would be right. */
import type { CELLS } from "./words/cells.js";
import { PLANS } from "./words/plans.js";
import type { ROWS } from "./words/rows.js";
import type { RULES } from "./words/rules.js";
import { SHEETS } from "./words/sheets.js";
import { SOURCES } from "./words/sources.js";
import { WRITING } from "./words/writing.js";

/** Of what is thrown; what is only found in rows has its words where it is found (`model/problem-list.ts`). */
export const WORDS = { ...SOURCES, ...PLANS, ...SHEETS, ...WRITING };

type AllWords = typeof WORDS & typeof ROWS & typeof CELLS & typeof RULES;
/** Codes of errors that are thrown. */
export type ErrorCode = keyof typeof WORDS;
/** Codes of all that can be wrong, or worth knowing. */
export type Code = keyof AllWords;
/** Of those, the ones that rules of a plan do not have. */
export type FoundCode = Exclude<Code, keyof typeof RULES>;
/** Something wrong with a value or a row, that has no place yet. */
export type Fault = { [C in FoundCode]: { readonly code: C; readonly facts: Facts<C> } }[FoundCode];
/** What a code's sentence is made of. */
export type Facts<C extends Code> = Parameters<AllWords[C]> extends [infer F, ...unknown[]] ? F : object;
