/** How tables are written for a kind of program: what stands between cells, the encoding, the sign before decimals. */
import { encode } from "../../bytes/writer.js";
import { CallError } from "../../errors/error.js";
import { nearest } from "../../errors/nearest.js";
import type { SheetHints } from "../container.js";
import { COMMA } from "./write.js";

/** Kinds of programs. */
export const PROGRAMS = ["spreadsheet", "semicolon-spreadsheet", "tab-spreadsheet", "script"] as const;
export type Program = (typeof PROGRAMS)[number];

/** @throws {@link CallError} when there is none of that name */
export function programNamed(name: string): Program {
  const found = PROGRAMS.find((one) => one === name);
  if (found === undefined) throw new CallError("program-unknown", { name, nearest: nearest(name, PROGRAMS), known: PROGRAMS });
  return found;
}

export interface TextStyle {
  readonly delimiter: number;
  readonly isUtf16: boolean;
  readonly hasMark: boolean;
  /** Decimals of typed columns stand behind a comma. */
  readonly hasCommas: boolean;
  readonly ending: string;
}

const [SEMICOLON, TAB] = [0x3b, 0x09];
export const BYTE_ORDER_MARK = encode("\ufeff");
const PLAIN: TextStyle = { delimiter: COMMA, isUtf16: false, hasMark: true, hasCommas: false, ending: ".csv" };

export const STYLES: Readonly<Record<Program, TextStyle>> = {
  spreadsheet: PLAIN,
  "semicolon-spreadsheet": { ...PLAIN, delimiter: SEMICOLON, hasCommas: true },
  "tab-spreadsheet": { ...PLAIN, delimiter: TAB, isUtf16: true, ending: ".tsv" },
  script: { ...PLAIN, hasMark: false },
};

/** Titles of columns whose numbers have decimals: not those of codes, which are the same in several tables. */
export function decimalTitles(hints: SheetHints | undefined): ReadonlySet<string> {
  const titles = new Set<string>();
  for (const { title, type, isKey, refers, choices } of hints?.columns.values() ?? [])
    if ((type === "decimal" || type === "number") && !isKey && refers === null && choices.length === 0) titles.add(title);
  return titles;
}
