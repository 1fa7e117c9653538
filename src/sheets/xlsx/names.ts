/** Names of sheets in a workbook: at most 31 letters, without some signs, no two alike but for case. */

import type { Receipt } from "../receipt.js";

export const ABOUT_SHEET = "about these tables";
/** The sheets that nobody edits: the receipt, and words to choose from. */
export const RECEIPT_SHEET = "hatchfold receipt";
export const WORDS_SHEET = "hatchfold words";
export const OWN_SHEETS = [ABOUT_SHEET, RECEIPT_SHEET, WORDS_SHEET];

/** Each sheet of a table has a name of its own, hidden, that says of which hatch it is: it goes along when the sheet is copied. */
export const SIGN_NAME = "hatchfold_hatch";

/** What it says: the end of the seal of the receipt. */
export function signOf({ seal }: Pick<Receipt, "seal">): string {
  return seal.slice(-12);
}

const ODD = /[[\]:*?/\\\u0000-\u001f]/g;
const MOST_LETTERS = 31;

/** The sheet of each table; `taken` are names of other sheets. */
export function sheetNames(tables: readonly string[], taken: readonly string[]): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  // some programs keep this name for themselves
  const used = new Set([...taken, "history"].map((name) => name.toLowerCase()));
  for (const table of tables) {
    const plain = short(table.replace(ODD, "_").replace(/^'|'$/g, "_"), MOST_LETTERS).trim() || "_";
    let name = plain;
    for (let n = 2; used.has(name.toLowerCase()); n++) name = `${short(plain, MOST_LETTERS - 1 - String(n).length)}-${n}`;
    used.add(name.toLowerCase());
    names.set(table, name);
  }
  return names;
}

/** So many units of UTF-16, letters whole. */
function short(name: string, most: number): string {
  let text = name;
  while (text.length > most) text = [...text].slice(0, -1).join("");
  return text;
}

/** Can it be the sheet of a table? */
export function isSheetName(name: string): boolean {
  return sheetNames([name], []).get(name) === name;
}
