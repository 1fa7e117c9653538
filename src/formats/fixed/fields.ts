/** What a fixed-width field says: padding, numbers, dates. From its characters to text and back. */
import type { SpellFault } from "../format.js";
import { readDate } from "../lines/dates.js";
import { dateOrFault } from "../lines/forms.js";
import { readNumber, writeNumber } from "../lines/numbers.js";
import { readStored, writeStored, type CodePage } from "./stored.js";
import type { FixedField } from "./layout.js";

/** The text of a field, from all its characters. */
export function decodeField(raw: string, field: FixedField): string {
  const text = raw.trim();
  if (field.stored !== null) {
    const { as, page } = field.stored;
    const digits = readStored(raw, as, page);
    return digits === null ? (text === "" ? "" : hexOf(raw, page)) : withPoint(digits, field.number?.decimals ?? 0);
  }
  if (field.date !== null) return /^0*$/.test(text) ? "" : (readDate(text, field.date) ?? text);
  if (field.number === null) return trimPad(raw, field);
  return text === "" ? "" : (readNumber(raw, field.number) ?? text);
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

/**
 * The characters of a field for a text, or why they do not fit. `width` is in the layout's unit, `length` measures in it;
 * `old` is what stands there, or in a sibling.
 */
export function encodeField(text: string, field: FixedField, length: (text: string) => number, old: string | null): string | SpellFault {
  const width = field.to - field.from;
  // a new one that is not said is zero; there is no way to have none
  if (field.stored !== null) return storedText(text === "" && old === null ? "0" : text, field, field.stored, old);
  const plain = plainText(text, field, old);
  if (typeof plain !== "string") return plain;
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

/** Bytes that are no number, as they are: `x'404040'`. */
function hexOf(raw: string, { bytes }: CodePage): string {
  return `x'${[...raw].map((char) => (bytes.get(char) ?? 0).toString(16).padStart(2, "0")).join("")}'`;
}

function withPoint(digits: string, decimals: number): string {
  if (decimals === 0) return digits;
  const padded = digits.replace("-", "").padStart(decimals + 1, "0");
  return `${digits.startsWith("-") ? "-" : ""}${padded.slice(0, -decimals)}.${padded.slice(-decimals)}`;
}

function storedText(
  text: string,
  field: FixedField,
  { as, page }: NonNullable<FixedField["stored"]>,
  old: string | null,
): string | SpellFault {
  const { name, from, to } = field;
  const decimals = field.number?.decimals ?? 0;
  const hex = /^x'([0-9a-f]*)'$/.exec(text);
  if (hex !== null && hex[1].length === 2 * (to - from))
    return Array.from({ length: to - from }, (_, i) => page.chars[parseInt(hex[1].slice(2 * i, 2 * i + 2), 16)]).join("");
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  const fraction = match?.[3] ?? "";
  if (match === null || /[1-9]/.test(fraction.slice(decimals))) return { code: "fixed-number", facts: { name, decimals, signed: true } };
  const digits = (match[2] + fraction.slice(0, decimals).padEnd(decimals, "0")).replace(/^0+(?=\d)/, "");
  const sign = /[1-9]/.test(digits) ? match[1] : "";
  const written = writeStored(sign + digits, as, page, to - from, old);
  return written ?? { code: "stored-wide", facts: { name, bytes: to - from, digits: as === "packed" ? 2 * (to - from) - 1 : null } };
}

function plainText(
  text: string,
  { name, date, number, blankWhenZero, right, pad, from, to }: FixedField,
  old: string | null,
): string | SpellFault {
  if (text === "") return "";
  if (date !== null) {
    // what stands for no end
    return /^9+$/.test(text) && text.length === date.picture.length ? text : dateOrFault(name, text, date);
  }
  if (number === null) {
    const isNumber = right && pad === "0" && /^[-+]?\d*[.,]?\d*$/.test(text);
    // a field of digits keeps to them: what stands there tells whether it is one
    const fits = !isNumber || /^\d+$/.test(text) || (!/^[-+]/.test(text) && (old === null || /[^\d ]/.test(old)));
    return fits ? text : { code: "fixed-number", facts: { name, decimals: 0, signed: false } };
  }
  if (blankWhenZero && /^-?0*(?:\.0*)?$/.test(text)) return "";
  const written = writeNumber(text, number, old, pad === "0" ? to - from : 0);
  return (
    written ?? {
      code: "fixed-number",
      facts: { name, decimals: number.decimals ?? (number.point === null ? 0 : null), signed: number.sign !== null },
    }
  );
}
