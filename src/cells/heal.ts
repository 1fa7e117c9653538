/**
 * Healing: a cell differs, but it is what a spreadsheet makes of the value that was there.
 *
 * Each rule says why in a few words, or `null`. Nothing here looks at what a value might have been meant to be: only at
 * whether damage of a known kind leads from the baseline to the cell. Where a person may have written the same on purpose,
 * the rule says which values such damage hits, as a program hits all of them: then the column tells (`compare/evidence.ts`).
 */
import { codePage } from "../bytes/encoding.js";
import { encode } from "../bytes/writer.js";
import { LONGEST_CELL } from "./limits.js";
import { datesIn, daysFrom, isDate } from "./dates.js";

const NUMBER = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$/;
const DOUBLE_DIGITS = 15;
/** Numbers beyond are shown as the largest that there is. */
const LARGEST = 1.797e308;
/** So many digits, at least, are left of a number that a program shows rounded; with an exponent so many. */
const [LEAST_DIGITS, LEAST_WITH_EXPONENT] = [9, 4];

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

/** What damage leads from a value to a cell, whoever did it. */
export function damageOf(was: string, found: string): Damage | null {
  if (was === "" || found === "") return null;
  for (const rule of RULES) {
    const damage = rule(was, found);
    if (damage !== null) return damage;
  }
  return null;
}

/** The same in words, where nothing else is known of the sheet. */
export function damage(was: string, found: string): string | null {
  const made = damageOf(was, found);
  return made === null || isDoubtful(made) ? null : made.why;
}

/** It takes more than the cell to tell that nobody meant it. */
export function isDoubtful({ isLikelyMeant, isSheetWide }: Damage): boolean {
  return isLikelyMeant === true || isSheetWide === true;
}

/** Does a cell say something else than it did, and not only what a spreadsheet makes of that? */
export function isEdited(was: string, found: string): boolean {
  return found !== was && found.trim() !== was && damage(was, found) === null;
}

type Rule = (was: string, found: string) => Damage | null;

/** Damage that nobody does by hand. */
const sure = (is: boolean, why: string): Damage | null => (is ? { why, hits: null } : null);

const lineEnds: Rule = (was, found) => {
  if (!/[\r\n]/.test(was)) return null;
  const fold = (text: string): string => text.replace(/\r\n?/g, "\n");
  return sure(fold(was) === fold(found), "line ends inside the cell");
};

/** True and false as spreadsheets in other languages write them. */
const TRUE_WORDS = "TRUE WAHR VRAI VERDADERO VERO WAAR SANT SAND SANN PRAWDA PRAVDA VERDADEIRO ИСТИНА".split(" ");
const FALSE_WORDS = "FALSE FALSCH FAUX FALSO ONWAAR FALSK FALSKT USANN FAŁSZ NEPRAVDA ЛОЖЬ".split(" ");

const truths: Rule = (was, found) => {
  if (was !== "true" && was !== "false") {
    // words for them in the language of the spreadsheet
    const words = [TRUE_WORDS, FALSE_WORDS].find((one) => one.includes(was.toUpperCase()) && one.includes(found));
    if (words === undefined) return null;
    const made: Damage = { why: `${found} for ${was}`, hits: (one) => one.toUpperCase() === was.toUpperCase() };
    return found === was.toUpperCase() ? made : { ...made, isLikelyMeant: true };
  }
  if ((was === "true" ? TRUE_WORDS : FALSE_WORDS).includes(found)) return { why: `${found} for ${was}`, hits: null };
  const isNumber = found === (was === "true" ? "1" : "0");
  return isNumber ? { why: `${found} for ${was}`, hits: (one) => one === was, isLikelyMeant: true } : null;
};

const spaces: Rule = (was, found) => sure(was === found.replace(/[\u00a0\u202f]/g, " "), "non-breaking spaces");

const trimmed: Rule = (was, found) =>
  was.trim() === found && was !== found ? { why: "spaces trimmed", hits: (one) => one !== one.trim(), isSheetWide: true } : null;

const tabs: Rule = (was, found) => {
  if (!was.includes("\t")) return null;
  if (was.replaceAll("\t", " ") === found) return { why: "tabs inside the cell", hits: null };
  return was.replaceAll("\t", "") === found ? { why: "tabs lost", hits: (one) => one.includes("\t") } : null;
};

const letters: Rule = (was, found) => sure(was.normalize("NFC") === found.normalize("NFC"), "letters composed another way");

/** What programs put in place of what is typed. */
const TYPED: readonly (readonly [RegExp, string])[] = [
  [/[\u201c\u201d\u201e\u00ab\u00bb]/g, '"'],
  [/[\u2018\u2019\u201a]/g, "'"],
  [/\u2026/g, "..."],
  [/\u00a9/g, "(c)"],
  [/\u00ae/g, "(r)"],
  [/\u2122/g, "(tm)"],
  [/\u00bd/g, "1/2"],
  [/\u00bc/g, "1/4"],
  [/\u00be/g, "3/4"],
  [/\u2192/g, "->"],
];

const replaced: Rule = (was, found) => {
  const typed = TYPED.reduce((text, [sign, plain]) => text.replace(sign, plain), found);
  if (typed === was && found !== was) return { why: /^[^"']*$/.test(was) ? "signs put in place of others" : "curled quotes", hits: null };
  const dashes = (text: string): string => text.replace(/ ?-- ?/g, (sign) => sign.replace("--", "-"));
  return sure(
    /-/.test(was) && /[\u2013\u2014]/.test(found) && dashes(was) === typed.replace(/[\u2013\u2014]/g, "-"),
    "dashes in place of hyphens",
  );
};

const pages = new Map<string, readonly string[]>();

/** What the UTF-8 bytes of a text say in an encoding of one byte a letter. */
function misread(text: string, encoding: string): string {
  const letters = pages.get(encoding) ?? codePage(encoding);
  pages.set(encoding, letters);
  return Array.from(encode(text), (byte) => letters[byte]).join("");
}

/** `Łódź` → `?ód?`: the sheet's encoding has no such letters, or it was read in another. */
const missing: Rule = (was, found) => {
  const [old, now] = [[...was], [...found]];
  const isLost = (letter: string, i: number): boolean => (now[i] === "?" || now[i] === "\ufffd") && letter > "\u007f";
  if (!/[?\ufffd]/.test(found) || old.length !== now.length) return null;
  return sure(
    old.some(isLost) && old.every((letter, i) => letter === now[i] || isLost(letter, i)),
    "letters that the sheet's encoding lacks",
  );
};

/** UTF-8 that was read as an encoding of one byte a letter. */
const mojibake: Rule = (was, found) => {
  if (!/[\u0080-\uffff]/.test(was) || found.length <= was.length) return null;
  return sure(
    ["windows-1252", "macintosh"].some((encoding) => misread(was, encoding) === found),
    "UTF-8 read as another encoding",
  );
};

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
  return is ? { why: "text taken for a number", hits: (one) => isTaken(one) && formOf(one) === formOf(was), form: formOf(was) } : null;
};

/** What programs that know one text know of others that are formed alike: `1,234` like `5,678`, and not like `1,5`. */
function formOf(text: string): string {
  let runs = 0;
  return text.replace(/\p{L}+/gu, "a").replace(/\d+/g, (run) => (runs++ > 0 && run.length === 3 ? "999" : "9"));
}

const TIME = /^(\d{1,2}):(\d{1,2})(?::(\d\d)(?:[.,]0+)?)?(?:\s?([AaPp])\.?[Mm]\.?)?$/;

/** Of a time of the day, or a length of time; -1 where it is none. */
function seconds(text: string): number {
  const match = TIME.exec(text);
  if (match === null) return -1;
  const [, hour, minute, second = "0", half] = match;
  const hours = half === undefined ? Number(hour) : (Number(hour) % 12) + (/p/i.test(half) ? 12 : 0);
  return 3600 * hours + 60 * Number(minute) + Number(second);
}

/** `9:30` → `09:30:00`, `9:30 AM`; `2024-03-05 9:30` → `05/03/2024 09:30:00`. */
const times: Rule = (was, found) => {
  const [day, time] = dayAndTime(was);
  const [otherDay, otherTime] = dayAndTime(found);
  const isSameDay = day === otherDay || datesIn(day).some(({ date }) => datesIn(otherDay).some((other) => other.date === date));
  const is = seconds(time) >= 0 && seconds(time) === seconds(otherTime) && isSameDay;
  return is ? { why: "time written another way", hits: (one) => seconds(dayAndTime(one)[1]) >= 0 } : null;
};

function dayAndTime(text: string): readonly [day: string, time: string] {
  const time = /(?:^|[ T])(\d{1,2}:\d{1,2}(?::.*)?|\d{1,2}:\d{1,2} ?[AaPp]\.?[Mm]\.?)$/.exec(text);
  return time === null ? [text, ""] : [text.slice(0, time.index), time[1]];
}

/** `2024-03-05` → `05/03/2024`, `3/5/24`, `5.3.2024`, `5-Mar-24`, and `45356`, the number of the day. */
const dates: Rule = (was, found) => {
  if (!isDate(was)) return null;
  if (/^\d{1,7}$/.test(found)) return sure(daysFrom(was).includes(Number(found)), "date as the number of its day");
  const time = found.replace(/[ T]0?0:00(?::00(?:\.0+)?)?$/, "");
  return sure(
    datesIn(time).some(({ date }) => date === was),
    "date written another way",
  );
};

/** `05/03/2024` → `03/05/2024`, `5. März 2024` → `05/03/2024`, `1.2.3` → `01/02/2003`: a date, or what looks like one, in another form. */
const redated: Rule = (was, found) => {
  if (isDate(was)) return null;
  const [some, others] = [wholeDates(was), wholeDates(found.replace(/[ T]0?0:00(?::00(?:\.0+)?)?$/, ""))];
  if (!some.some((one) => others.includes(one))) return null;
  // programs that read days first do not know 12/31, and the other way round
  const form = dateForm(was);
  const hits = (one: string): boolean => dateForm(one) === form;
  const why = "date in another form";
  // people swap day and month
  return formOf(was) === formOf(found) ? { why, hits, form, isLikelyMeant: true } : { why, hits, form };
};

/** How a date is formed, and what of it is sure. */
function dateForm(text: string): string {
  const [first = 0] = (text.match(/\d+/g) ?? []).map(Number);
  const isOpen = datesIn(text).some(({ order }) => order !== null);
  const form = text.replace(/\d+/g, (run) => (run.length > 2 ? "9999" : "9"));
  return `${formOf(form)} ${form.startsWith("9999")} ${isOpen ? "" : first > 12 ? "day" : "month"}`;
}

/** Days that a text may mean which says the year, or the month at least. */
function wholeDates(text: string): readonly string[] {
  const inMonth = /^(?:(\d{1,2})[./-](\d{4})|(\d{4})[./-](\d{1,2}))$/.exec(text);
  if (inMonth !== null) return datesIn(`${inMonth[2] ?? inMonth[3]}-${inMonth[1] ?? inMonth[4]}-1`).map(({ date }) => date);
  const named = /^(\p{L}{3,10})\.?[ -](\d{2}|\d{4})$/u.exec(text);
  if (named !== null) return datesIn(`1-${named[1]}-${named[2]}`).map(({ date }) => date);
  return /\d.*\D.*\d/.test(text) && /^\D*\d+\D+\d+$/.test(text) && !/\d{4}/.test(text) ? [] : datesIn(text).map(({ date }) => date);
}

/** `3/4`, `1-2`, `MAR1` → a day of some year. */
const codes: Rule = (was, found) => {
  const numbered = /^(\d{1,2})[-/.](\d{1,2})$/.exec(was);
  const named = /^(\p{L}{3,4})[- .]?(\d{1,2})$/u.exec(was);
  // what is shown of a day is its year, or its month by name behind it
  if ((numbered === null && named === null) || /^\d+\D\d+\D?$/.test(found) || (numbered !== null && /^\p{L}/u.test(found))) return null;
  const days = numbered === null ? datesIn(`${named![2]}-${named![1]}`).map(({ date }) => date.slice(5)) : [];
  // the number may be taken for the year
  const inYear = numbered === null ? datesIn(`1-${named![1]}-${named![2].padStart(2, "0")}`).map(({ date }) => date) : [];
  const [a, b] = numbered === null ? ["", ""] : [numbered[1].padStart(2, "0"), numbered[2].padStart(2, "0")];
  const dates = datesIn(found.replace(/[ T]0?0:00(?::00)?$/, "")).map(({ date }) => date);
  const isOne = (date: string): boolean => {
    const day = date.slice(5);
    return day === `${a}-${b}` || day === `${b}-${a}` || days.includes(day) || inYear.includes(date);
  };
  const meant = dates.filter(isOne);
  if (meant.length === 0) return null;
  const hits = (one: string): boolean => formOf(one) === formOf(was);
  if (inYear.some((date) => dates.includes(date))) return { why: "code turned into a month", hits, form: formOf(was) };
  const years = yearsIn(found, meant).filter((year) => year === "" || year >= FIRST_YEAR);
  if (years.length === 0) return null;
  const looks = years.map((year) => `${formOf(found)} ${year}`);
  return { why: "code turned into a date", hits, form: formOf(was), looks };
};

/** The year that a program puts to a day is that in which it runs: no tables are older than this. */
const FIRST_YEAR = "2025";

/** Years of days, where the text says one. */
function yearsIn(text: string, dates: readonly string[]): readonly string[] {
  const years = dates.map((date) => date.slice(0, 4));
  return years.every((year) => year === "2000") && !/2000|\D00$/.test(text) ? [""] : years;
}

const LIMITS = [LONGEST_CELL, 50_000, 65_535];

const cut: Rule = (was, found) =>
  sure(was.length > found.length && LIMITS.includes(found.length) && was.startsWith(found), "cut at the longest that a cell holds");

const RULES: readonly Rule[] = [
  cut,
  lineEnds,
  truths,
  spaces,
  trimmed,
  tabs,
  letters,
  replaced,
  missing,
  mojibake,
  numbers,
  taken,
  times,
  dates,
  codes,
  redated,
];

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
