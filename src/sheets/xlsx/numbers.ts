/** Numbers and dates as a workbook keeps them (ISO/IEC 29500-1, 18.8.30 and 18.17.4). */

/** Digits that a double holds for sure. */
const SURE_DIGITS = 15;
export const MOST_DECIMALS = 9;
const DAY = 86_400_000;
/** Day 0 of the two ways to count. */
const EPOCH_1900 = Date.UTC(1899, 11, 30);
const EPOCH_1904 = Date.UTC(1904, 0, 1);
/** Before this day programs do not agree: some count a 29 February 1900. */
const FIRST_DAY = 61;
const LAST_DAY = 2_958_465;

/** Decimal places of a number that can be kept as one, and shown as it was spelled; -1 for other text. */
export function decimalsOf(text: string): number {
  const match = /^-?(0|[1-9]\d*)(?:\.(\d+))?$/.exec(text);
  if (match === null || /^-0(?:\.0*)?$/.test(text)) return -1;
  const decimals = match[2]?.length ?? 0;
  return match[1].length + decimals <= SURE_DIGITS && decimals <= MOST_DECIMALS ? decimals : -1;
}

/** The day of a date (`2024-03-05`) as a workbook counts; -1 for other text, and for days that not all programs count alike. */
export function dayOf(text: string): number {
  const match = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text);
  if (match === null) return -1;
  const time = Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3]));
  const day = (time - EPOCH_1900) / DAY;
  return day >= FIRST_DAY && day <= LAST_DAY && new Date(time).toISOString().startsWith(text) ? day : -1;
}

/** How cells of a style are shown: as dates, or as numbers with so many decimal places and at least so many digits before them. */
export type NumberForm = "date" | { readonly decimals: number; readonly digits: number } | null;

const DATES = new Set([14, 15, 16, 17, 18, 19, 20, 21, 22, 27, 28, 29, 30, 31, 34, 35, 36, 45, 46, 47, 50, 51, 52, 53, 54, 55, 56, 57, 58]);
const CODES = new Map([
  [1, "0"],
  [2, "0.00"],
  [3, "#,##0"],
  [4, "#,##0.00"],
]);

/** What a number format means; `code` where the workbook says it. */
export function formOf(id: number, code: string | undefined): NumberForm {
  const said = code ?? CODES.get(id) ?? "";
  // what stands in quotes, behind a backslash and in brackets (colours, locales) is no part of the form
  const bare = said.split(";")[0].replace(/"[^"]*"|\\.|\[(?![hms]+\])[^\]]*\]|_.|\*./gi, "");
  if (code === undefined && DATES.has(id)) return "date";
  if (/[ymdhs]/i.test(bare) && !/general/i.test(bare)) return "date";
  const match = /^[#,]*(0+)(?:\.(0+))?$/.exec(bare);
  return match === null ? null : { decimals: match[2]?.length ?? 0, digits: match[1].length };
}

/** The text of a number in a cell: as it is shown, but with no digit lost. */
export function textOf(value: string, form: NumberForm, from1904: boolean): string {
  const number = Number(value);
  if (!Number.isFinite(number)) return value;
  if (form === "date") return dateOf(number, from1904);
  const shortest = plain(Number(number.toPrecision(SURE_DIGITS)));
  if (form === null) return shortest;
  const [whole, part = ""] = shortest.split(".");
  if (/e/i.test(shortest) || part.length > form.decimals) return shortest;
  const sign = whole.startsWith("-") ? "-" : "";
  const digits = whole.slice(sign.length).padStart(form.digits, "0");
  return `${sign}${digits}${form.decimals === 0 ? "" : `.${part.padEnd(form.decimals, "0")}`}`;
}

/** Without an exponent where people would write none. */
function plain(number: number): string {
  const text = String(number);
  if (!text.includes("e-")) return text;
  const fixed = number.toFixed(20).replace(/0+$/, "");
  return Number(fixed) === number && fixed.length < 18 ? fixed : text;
}

function dateOf(number: number, from1904: boolean): string {
  const time = (from1904 ? EPOCH_1904 : EPOCH_1900) + Math.round(number * 86_400) * 1000;
  if (Number.isNaN(new Date(time).getTime())) return String(number);
  const text = new Date(time).toISOString();
  if (!from1904 && number < 1) return text.slice(11, 19);
  return Number.isInteger(number) ? text.slice(0, 10) : text.slice(0, 19);
}
