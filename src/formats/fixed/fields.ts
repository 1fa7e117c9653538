/** What a fixed-width field says: padding, implied decimals, signs, dates. From its characters to text and back. */
import type { SpellFault } from "../format.js";
import type { FixedField } from "./layout.js";

const POSITIVE = "{ABCDEFGHI";
const NEGATIVE = "}JKLMNOPQR";

/** The text of a field, from all its characters. */
export function decodeField(raw: string, field: FixedField): string {
  if (field.date !== null) return decodeDate(raw, field.date);
  if (field.decimals === null && field.sign === null) return trimPad(raw, field);
  return decodeNumber(raw, field) ?? raw.trim();
}

/** Padding is taken off the side it stands on; of zeros, one stays. */
export function trimPad(raw: string, { right, pad }: Pick<FixedField, "right" | "pad">): string {
  if (raw.trim() === "") return "";
  let from = 0;
  let to = raw.length;
  // spaces fill up a field whatever its padding is
  while (to > 0 && raw[to - 1] === " ") to--;
  if (right) {
    while (from < to && raw[from] === " ") from++;
    if (pad !== " ") while (from < to - 1 && raw[from] === pad && !(pad === "0" && raw[from + 1] === ".")) from++;
  } else if (pad !== " ") while (to > from && raw[to - 1] === pad) to--;
  return raw.slice(from, to);
}

/** `null` when the characters are no number of that kind: then the field shows them as they are. */
function decodeNumber(raw: string, { decimals, sign }: FixedField): string | null {
  let digits = raw.trim();
  if (digits === "") return "";
  let negative = false;
  if (sign === "leading" || sign === "trailing") {
    const at = sign === "leading" ? 0 : digits.length - 1;
    const mark = digits[at];
    if (mark === "-" || mark === "+") {
      negative = mark === "-";
      digits = (at === 0 ? digits.slice(1) : digits.slice(0, -1)).trim();
    }
  } else if (sign !== null) {
    const at = sign === "overpunch-leading" ? 0 : digits.length - 1;
    const plus = POSITIVE.indexOf(digits[at]);
    const minus = NEGATIVE.indexOf(digits[at]);
    if (plus < 0 && minus < 0 && !/\d/.test(digits[at])) return null;
    negative = minus >= 0;
    if (plus >= 0 || minus >= 0) digits = digits.slice(0, at) + String(Math.max(plus, minus)) + digits.slice(at + 1);
  }
  if (!/^\d+$/.test(digits)) return null;
  const places = decimals ?? 0;
  const padded = digits.padStart(places + 1, "0");
  const whole = padded.slice(0, padded.length - places).replace(/^0+(?=\d)/, "");
  const fraction = places === 0 ? "" : `.${padded.slice(-places)}`;
  return (negative ? "-" : "") + whole + fraction;
}

const PARTS = /YYYY|YY|MM|DD/g;

function decodeDate(raw: string, picture: string): string {
  if (raw.trim() === "" || /^0+$/.test(raw.trim())) return "";
  const pattern = new RegExp(`^${picture.replace(/[.*+?^${}()|[\]\\]/g, "\\$&").replace(PARTS, (part) => `(\\d{${part.length}})`)}$`);
  const found = pattern.exec(raw.trimEnd());
  if (found === null) return raw.trim();
  const parts: Record<string, string> = {};
  [...picture.matchAll(PARTS)].forEach(([part], i) => (parts[part] = found[i + 1]));
  const year = parts.YYYY ?? (parts.YY === undefined ? "" : (Number(parts.YY) < PIVOT ? "20" : "19") + parts.YY);
  return [year, parts.MM, parts.DD].filter((part) => part !== undefined && part !== "").join("-");
}

/** Two-digit years below this are of this century. */
const PIVOT = 70;

/** The characters of a field for a text, or why they do not fit. `width` is in the layout's unit, `length` measures in it. */
export function encodeField(text: string, field: FixedField, length: (text: string) => number): string | SpellFault {
  const width = field.to - field.from;
  const plain =
    field.date !== null ? encodeDate(text, field.date) : field.decimals !== null || field.sign !== null ? encodeNumber(text, field) : text;
  if (plain === null && field.date !== null) return { code: "fixed-date", facts: { name: field.name, picture: field.date } };
  if (plain === null)
    return { code: "fixed-number", facts: { name: field.name, decimals: field.decimals ?? 0, signed: field.sign !== null } };
  if (/[\r\n]/.test(plain)) return { code: "fixed-line", facts: { name: field.name } };
  const own = length(plain);
  if (own > width) return { code: "fixed-wide", facts: { name: field.name, width, length: own } };
  const blank = plain === "";
  const pad = (blank ? " " : field.pad).repeat(width === Infinity ? 0 : width - own);
  const written = field.right ? pad + plain : plain + pad;
  if (field.simple && trimPad(written, field) !== text)
    return { code: "fixed-padding", facts: { name: field.name, pad: field.pad, right: field.right } };
  return written;
}

/** Digits with the decimal point left out and the sign where it belongs; `null` when the text is no such number. */
function encodeNumber(text: string, { decimals, sign, blankWhenZero, from, to, pad }: FixedField): string | null {
  if (text === "") return "";
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  if (match === null) return null;
  const [, minus, whole, fraction = ""] = match;
  const places = decimals ?? 0;
  if (fraction.length > places && /[1-9]/.test(fraction.slice(places))) return null;
  let digits = (whole + fraction.slice(0, places).padEnd(places, "0")).replace(/^0+(?=\d)/, "");
  if (blankWhenZero && /^0+$/.test(digits)) return "";
  if (sign === null) return minus === "" ? digits : null;
  const negative = minus === "-";
  if (sign === "leading" || sign === "trailing") {
    if (pad === "0") digits = digits.padStart(to - from - 1, "0");
    return sign === "leading" ? (negative ? "-" : "+") + digits : digits + (negative ? "-" : "+");
  }
  if (sign === "overpunch-leading" && pad === "0") digits = digits.padStart(to - from, "0");
  const at = sign === "overpunch-leading" ? 0 : digits.length - 1;
  return digits.slice(0, at) + (negative ? NEGATIVE : POSITIVE)[Number(digits[at])] + digits.slice(at + 1);
}

function encodeDate(text: string, picture: string): string | null {
  if (text === "") return "";
  const match = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text);
  if (match === null) return null;
  const [, year, month, day] = match;
  return picture.replace(PARTS, (part) => (part === "YYYY" ? year : part === "YY" ? year.slice(2) : part === "MM" ? month : day));
}
