/** The one place where facts become sentences: for each code, what happened and what would be right. */
import { CELLS } from "./words/cells.js";
import { PLANS } from "./words/plans.js";
import { ROWS } from "./words/rows.js";
import { SHEETS } from "./words/sheets.js";
import { SOURCES } from "./words/sources.js";

export const WORDS = { ...SOURCES, ...PLANS, ...SHEETS, ...ROWS, ...CELLS };

export type Code = keyof typeof WORDS;
/** What a code's sentence is made of. */
export type Facts<C extends Code> = Parameters<(typeof WORDS)[C]> extends [infer F, ...unknown[]] ? F : object;
