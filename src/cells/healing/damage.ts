/** What became of a value in a spreadsheet, and which other values that happens to. */
/** What became of a value. */
export interface Damage {
  readonly why: string;
  /** Which values a program that does this does it to; `null` where nobody writes such a thing by hand. */
  readonly hits: ((was: string) => boolean) | null;
  /** A person may well mean it: it takes more than one such cell to tell. */
  readonly isLikelyMeant?: true;
  /** One such cell is enough where the sheet writes decimals behind a comma. */
  readonly isOfCommas?: true;
  /** People do this to a column; a program does it to all columns of a sheet. */
  readonly isSheetWide?: true;
  /** How the value is formed: all that are formed so are hit, or none. */
  readonly form?: string;
  /** What the program makes of such values looks alike in all of a sheet: how this may look. */
  readonly looks?: readonly string[];
}

/** Why a cell is what a spreadsheet makes of a value; `null` when it is not. */
export type Rule = (was: string, found: string) => Damage | null;

/** Damage that nobody does by hand. */
export const sure = (is: boolean, why: string): Damage | null => (is ? { why, hits: null } : null);

/** What programs that know one text know of others that are formed alike: `1,234` like `5,678`, and not like `1,5`. */
export function shapeOf(text: string): string {
  let runs = 0;
  return text.replace(/\p{L}+/gu, "a").replace(/\d+/g, (run) => (runs++ > 0 && run.length === 3 ? "999" : "9"));
}
