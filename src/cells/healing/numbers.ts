/** Damage to numbers, and to texts that are taken for numbers. */
import { shapeOf, type Damage, type Rule } from "./damage.js";

const NUMBER = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$/;
const DOUBLE_DIGITS = 15;
/** Numbers beyond are shown as the largest that there is. */
const LARGEST = 1.797e308;
/** So many digits, at least, are left of a number that a program shows rounded; with an exponent so many. */
const [LEAST_DIGITS, LEAST_WITH_EXPONENT] = [9, 4];

/** `007` → `7`, `1.50` → `1.5`, `1E5` → `100000`, `+5` → `5`, sixteen digits → fifteen. */
const numbers: Rule = (was, found) => {
  if (!NUMBER.test(was)) return null;
  const plain = found.replace(/^([+-]?\d+),(\d+)((?:[eE][+-]?\d+)?)$/, "$1.$2$3");
  if (!NUMBER.test(plain)) return grouped(was, found);
  const [a, b] = [decimal(was), decimal(plain)];
  if (a.digits === b.digits && a.exponent === b.exponent && a.negative === b.negative) {
    if (/^[+-]?0\d/.test(was) && plain.length < was.length)
      return { why: "leading zeros lost", hits: (one) => NUMBER.test(one) && /^[+-]?0\d/.test(one) };
    if (/[eE]/.test(was) || /[eE]/.test(plain)) return { why: "number written another way", hits: null };
    if (plain !== found) return { why: "decimal comma", hits: (one) => NUMBER.test(one) && one.includes(".") };
    if (plain.length > was.length) return { why: "zeros added", hits: (one) => NUMBER.test(one) && !/[eE]/.test(one), isLikelyMeant: true };
    return was.startsWith("+")
      ? { why: "sign lost", hits: (one) => NUMBER.test(one) && one.startsWith("+") }
      : { why: "trailing zeros lost", hits: (one) => NUMBER.test(one) && /\.\d*0$|\.$/.test(one) };
  }
  // a point may be no decimal sign to the program
  const hits = (one: string): boolean =>
    NUMBER.test(one) && decimal(one).digits.length > DOUBLE_DIGITS && one.includes(".") === was.includes(".");
  const least = /[eE]/.test(plain) ? LEAST_WITH_EXPONENT : LEAST_DIGITS;
  if (
    a.digits.length > DOUBLE_DIGITS &&
    a.negative === b.negative &&
    (rounds(a, b, least) || (b.digits.length <= DOUBLE_DIGITS && Number(was) === Number(plain)))
  )
    return { why: "digits lost beyond the fifteenth", hits };
  if (Math.abs(Number(was)) === Infinity && Math.abs(Number(plain)) > LARGEST && a.negative === b.negative)
    return { why: "larger than a spreadsheet's numbers", hits: null };
  if (/[eE]/.test(plain) && a.digits.length > 9 && a.negative === b.negative && rounds(a, b, 3))
    return { why: "shown with an exponent, digits lost", hits: null };
  const isThousand = /^[+-]?\d+\.\d{3}$/.test(was) && was.replace(".", "") === found;
  if (isThousand)
    return {
      why: "point taken for a thousands separator",
      hits: (one) => /^[+-]?\d+\.\d{3}$/.test(one),
      isLikelyMeant: true,
      isOfCommas: true,
    };
  return null;
};

const GROUPED = /^[+-]?(?:\d+|\d{1,3}(?:([,.' \u2019\u00a0\u202f])\d{3})(?:\1\d{3})*)(?:[.,]\d+)?$/;
const CURRENCY = /[€$£¥]|kr|CHF|EUR|USD|GBP/;
const MONEY = /^(-?)(?:[€$£¥]|kr\.?|CHF|EUR|USD|GBP)\s?|\s?(?:[€$£¥]|kr\.?|CHF|EUR|USD|GBP)$/;

/** The numbers that a text may stand for, with separators, a percent sign, money, or in parentheses: `1,234.50`, `15 %`, `€ 12`, `(5)`. */
function amounts(text: string): number[] {
  const signed = text
    .replace(/^\((.+)\)$/, "-$1")
    .replace(/^(\d.*)-$/, "-$1")
    .replace(MONEY, "$1");
  const bare = signed.replace(/\s?%$/, "");
  if (!GROUPED.test(bare)) return [];
  const ways = [bare.replace(/[, '\u2019\u00a0\u202f]/g, ""), bare.replace(/[. '\u2019\u00a0\u202f]/g, "").replace(",", ".")];
  return ways.flatMap((way) => (NUMBER.test(way) ? [Number(way) / (bare === signed ? 1 : 100)] : []));
}

const isSameAmount = (one: number, other: number): boolean => Math.abs(one - other) <= 1e-9 * Math.max(1, Math.abs(one));

/** `1234.5` → `1,234.50`, `1.234,5`, `1 234,5`; `0.15` → `15%`; `12.50` → `€ 12.50`; `-5` → `(5)`. */
function grouped(was: string, found: string): Damage | null {
  if (!amounts(found).some((one) => isSameAmount(one, Number(was)))) return null;
  if (found.endsWith("%")) return { why: "shown as a percentage", hits: null };
  if (found.startsWith("(")) return { why: "shown in parentheses", hits: null };
  return { why: MONEY.test(found) ? "shown as money" : "thousands separators", hits: null };
}

/** `50 %` → `50%`, `(12)` → `-12`, `1,234` → `1234`: a text that is taken for a number. */
const taken: Rule = (was, found) => {
  const isTaken = (text: string): boolean => !NUMBER.test(text) && amounts(text).length > 0;
  if (!isTaken(was)) return null;
  const [some, others] = [amounts(was), amounts(found)];
  const [currency, another] = [was, found].map((text) => CURRENCY.exec(text)?.[0]);
  if (another !== undefined && another !== currency) return null;
  const is = some.some((one) => others.some((other) => isSameAmount(one, other)));
  return is ? { why: "text taken for a number", hits: (one) => isTaken(one) && shapeOf(one) === shapeOf(was), form: shapeOf(was) } : null;
};

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

/** Is one the other, rounded to no fewer digits than `least`? */
function rounds(a: Decimal, b: Decimal, least: number): boolean {
  if (b.digits.length > DOUBLE_DIGITS || b.digits.length < least || b.digits.length >= a.digits.length || a.exponent !== b.exponent)
    return false;
  const keep = b.digits.length;
  const down = a.digits.slice(0, keep);
  const up = (BigInt(down) + 1n).toString();
  const full = (digits: string): string => digits.padEnd(keep, "0");
  return full(b.digits) === down || full(b.digits) === up;
}

export const NUMBER_RULES: readonly Rule[] = [numbers, taken];
