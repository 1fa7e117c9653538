/** Dates by a picture: `YYYYMMDD`, `D.M.YY`, `DDMMMYYYY`, `YYYYDDD`. In cells they are as ISO 8601 writes them. */
import { PlanError } from "../../errors/error.js";

export interface DatePicture {
  readonly picture: string;
  readonly pattern: RegExp;
  readonly parts: readonly Part[];
  /** Two-digit years below it are of this century. */
  readonly pivot: number;
  /** It tells a month, and no day in it. */
  readonly ofMonth: boolean;
}

type Part = "YYYY" | "YY" | "MMM" | "Mmm" | "mmm" | "MM" | "M" | "DDD" | "DD" | "D";

const PARTS = /YYYY|YY|MMM|Mmm|mmm|MM|M|DDD|DD|D/g;
const PATTERNS: Readonly<Record<Part, string>> = {
  YYYY: "\\d{4}",
  YY: "\\d{2}",
  MMM: "[A-Za-z]{3}",
  Mmm: "[A-Za-z]{3}",
  mmm: "[A-Za-z]{3}",
  MM: "\\d{2}",
  M: "\\d{1,2}",
  DDD: "\\d{3}",
  DD: "\\d{2}",
  D: "\\d{1,2}",
};
const MONTHS = ["JAN", "FEB", "MAR", "APR", "MAY", "JUN", "JUL", "AUG", "SEP", "OCT", "NOV", "DEC"];
const PIVOT = 70;

/** @throws {@link PlanError} for a picture that does not tell a day or a month */
export function compilePicture(field: string, picture: string, pivot = PIVOT): DatePicture {
  const parts = [...picture.matchAll(PARTS)].map(([part]) => part as Part);
  const count = (letter: string): number => parts.filter((part) => part[0].toUpperCase() === letter).length;
  const isOfYear = parts.includes("DDD");
  const isWhole = count("Y") === 1 && count("D") <= 1 && (isOfYear ? count("M") === 0 : count("M") === 1);
  if (!isWhole || /[\p{L}\d]/u.test(picture.replace(PARTS, ""))) throw new PlanError("date-picture", { field, picture });
  const escaped = picture.split(PARTS).map((text) => text.replace(/[.*+?^${}()|[\]\\/-]/g, "\\$&"));
  const pattern = escaped.map((text, i) => text + (i < parts.length ? `(${PATTERNS[parts[i]]})` : "")).join("");
  return { picture, pattern: new RegExp(`^${pattern}$`), parts, pivot, ofMonth: count("D") === 0 };
}

/** The date that stands there; `null` when it is none. */
export function readDate(raw: string, { pattern, parts, pivot, ofMonth }: DatePicture): string | null {
  const found = pattern.exec(raw);
  if (found === null) return null;
  const said = new Map(parts.map((part, i) => [part[0].toUpperCase() + (part === "DDD" ? "DD" : ""), found[i + 1]]));
  const digits = said.get("Y")!;
  const year = digits.length === 4 ? Number(digits) : Number(digits) + (Number(digits) < pivot ? 2000 : 1900);
  const ofYear = said.get("DDD");
  if (ofYear !== undefined) {
    const day = new Date(Date.UTC(2000, 0, 1));
    day.setUTCFullYear(year, 0, Number(ofYear));
    return Number(ofYear) > 0 && day.getUTCFullYear() === year ? day.toISOString().slice(0, 10) : null;
  }
  const name = said.get("M")!;
  const month = /\d/.test(name) ? Number(name) : MONTHS.indexOf(name.toUpperCase()) + 1;
  const text = `${String(year).padStart(4, "0")}-${String(month).padStart(2, "0")}`;
  const whole = `${text}-${ofMonth ? "01" : said.get("D")!.padStart(2, "0")}`;
  return isDay(whole) ? (ofMonth ? text : whole) : null;
}

/** Is there such a day? */
function isDay(text: string): boolean {
  const day = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(day.getTime()) && day.toISOString().startsWith(text);
}

/** How a date is written; `null` when the text is none, "" when it would be read as another one: its year has two digits. */
export function writeDate(text: string, form: DatePicture): string | null {
  const { picture, ofMonth } = form;
  if (!(ofMonth ? /^\d{4}-\d\d$/ : /^\d{4}-\d\d-\d\d$/).test(text) || !isDay(ofMonth ? `${text}-01` : text)) return null;
  const [year, month, day = "01"] = text.split("-");
  const name = MONTHS[Number(month) - 1];
  const ofYear = (Date.UTC(2000, Number(month) - 1, Number(day)) - Date.UTC(2000, 0, 1)) / 86_400_000 + 1;
  const isLeap = isDay(`${year}-02-29`);
  const texts: Readonly<Record<Part, string>> = {
    YYYY: year,
    YY: year.slice(2),
    MMM: name,
    Mmm: name[0] + name.slice(1).toLowerCase(),
    mmm: name.toLowerCase(),
    MM: month,
    M: String(Number(month)),
    // counted in a leap year
    DDD: String(ofYear - (isLeap || Number(month) < 3 ? 0 : 1)).padStart(3, "0"),
    DD: day,
    D: String(Number(day)),
  };
  const written = picture.replace(PARTS, (part) => texts[part as Part]);
  return readDate(written, form) === text ? written : "";
}
