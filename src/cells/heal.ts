/**
 * Healing: a cell differs, but it is what a spreadsheet makes of the value that was there.
 *
 * Each rule says why in a few words, or `null`. Nothing here looks at what a value might have been
 * meant to be: only at whether damage of a known kind leads from the baseline to the cell.
 */
const NUMBER = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$/;
const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const DOUBLE_DIGITS = 15;

export function damage(was: string, found: string): string | null {
  if (was === "" || found === "") return null;
  for (const rule of RULES) {
    const why = rule(was, found);
    if (why !== null) return why;
  }
  return null;
}

/** Does a cell say something else than it did, and not only what a spreadsheet makes of that? */
export function isEdited(was: string, found: string): boolean {
  return found !== was && found.trim() !== was && damage(was, found) === null;
}

type Rule = (was: string, found: string) => string | null;

const lineEnds: Rule = (was, found) => {
  if (!/[\r\n]/.test(was)) return null;
  const fold = (text: string): string => text.replace(/\r\n?/g, "\n");
  return fold(was) === fold(found) ? "line ends inside the cell" : null;
};

const truths: Rule = (was, found) => ((was === "true" || was === "false") && found === was.toUpperCase() ? `${found} for ${was}` : null);

const spaces: Rule = (was, found) => (was === found.replace(/\u00a0/g, " ") ? "non-breaking spaces" : null);

const quotes: Rule = (was, found) =>
  /["']/.test(was) && was === found.replace(/[\u201c\u201d\u201e]/g, '"').replace(/[\u2018\u2019]/g, "'") ? "curled quotes" : null;

/** `007` → `7`, `1.50` → `1.5`, `1E5` → `100000`, `+5` → `5`, sixteen digits → fifteen. */
const numbers: Rule = (was, found) => {
  if (!NUMBER.test(was)) return null;
  const plain = found.replace(/^(-?\d+),(\d+)$/, "$1.$2");
  if (!NUMBER.test(plain)) return null;
  const [a, b] = [decimal(was), decimal(plain)];
  if (a.digits === b.digits && a.exponent === b.exponent && a.negative === b.negative) {
    if (/^[+-]?0\d/.test(was)) return "leading zeros lost";
    if (/[eE]/.test(was) || /[eE]/.test(plain)) return "number written another way";
    return plain === found ? "trailing zeros lost" : "decimal comma";
  }
  const cut = a.digits.length > DOUBLE_DIGITS && a.negative === b.negative && rounds(a, b);
  return cut ? "digits lost beyond the fifteenth" : null;
};

const DAY = 86_400_000;
/** Day 0 of spreadsheets: most count from here, some from 1904. */
const FIRST_DAYS = [Date.UTC(1899, 11, 30), Date.UTC(1904, 0, 1)];

/** `2024-03-05` → `05/03/2024`, `3/5/24`, `5.3.2024`, `5-Mar-24`, and `45356`, the number of the day. */
const dates: Rule = (was, found) => {
  const iso = /^(\d{4})-(\d\d)-(\d\d)$/.exec(was);
  if (iso === null) return null;
  const [year, month, day] = iso.slice(1).map(Number);
  if (/^\d{1,7}$/.test(found)) {
    const time = Date.UTC(year, month - 1, day);
    return FIRST_DAYS.some((first) => time - first === Number(found) * DAY) ? "date as the number of its day" : null;
  }
  const fits = (y: string, m: number, d: number): boolean =>
    (Number(y) === year || (y.length === 2 && Number(y) === year % 100)) && m === month && d === day;
  const parts = /^(\d{1,4})[./-](\d{1,2}|[A-Za-z]{3})[./-](\d{2,4})(?: 0?0:00(?::00)?)?$/.exec(found);
  if (parts === null) return null;
  const [, a, b, c] = parts;
  const named = MONTHS.indexOf(b.toLowerCase()) + 1;
  const ways =
    named > 0 ? [fits(c, named, Number(a))] : [fits(c, Number(b), Number(a)), fits(c, Number(a), Number(b)), fits(a, Number(b), Number(c))];
  return ways.includes(true) ? "date written another way" : null;
};

/** So many letters a cell holds in the programs that cut longer ones. */
export const LONGEST_CELL = 32_767;
const LIMITS = [LONGEST_CELL, 50_000, 65_535];

const cut: Rule = (was, found) =>
  was.length > found.length && LIMITS.includes(found.length) && was.startsWith(found) ? "cut at the longest that a cell holds" : null;

const RULES: readonly Rule[] = [cut, lineEnds, truths, spaces, quotes, numbers, dates];

interface Decimal {
  readonly negative: boolean;
  /** Significant digits, no zeros at either end. */
  readonly digits: string;
  /** Power of ten of the first digit. */
  readonly exponent: number;
}

function decimal(text: string): Decimal {
  const [mantissa, power = "0"] = text.toLowerCase().split("e");
  const [whole, fraction = ""] = mantissa.replace(/^[+-]/, "").split(".");
  const all = whole + fraction;
  const lead = /^0*/.exec(all)![0].length;
  const digits = all.slice(lead).replace(/0+$/, "");
  return { negative: digits !== "" && text.startsWith("-"), digits, exponent: digits === "" ? 0 : whole.length - lead - 1 + Number(power) };
}

function rounds(a: Decimal, b: Decimal): boolean {
  if (b.digits.length > DOUBLE_DIGITS || b.digits.length < 4 || a.exponent !== b.exponent) return false;
  const keep = b.digits.length;
  const down = a.digits.slice(0, keep);
  const up = (BigInt(down) + 1n).toString();
  const full = (digits: string): string => digits.padEnd(keep, "0");
  return full(b.digits) === down || full(b.digits) === up;
}
