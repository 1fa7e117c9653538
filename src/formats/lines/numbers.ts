/** Numbers as files write them: with a decimal comma, signs behind or punched into a digit, or decimals that no point tells. */

export interface NumberForm {
  /** Digits behind the point; `null` where a point is written, and says it. */
  readonly decimals: number | null;
  /** What is written before decimals; `null` where nothing is. */
  readonly point: string | null;
  /** What may be written between groups of three digits. */
  readonly group: string | null;
  readonly sign: "leading" | "trailing" | "overpunch" | "overpunch-leading" | null;
  /** Values without a minus have a plus, where those that are there do not tell. */
  readonly plus: boolean;
}

/** The digits 0 to 9 of positive and negative numbers, with the sign punched over them. */
const POSITIVE = "{ABCDEFGHI";
const NEGATIVE = "}JKLMNOPQR";

/** A number, as digits with a point; `null` when it is none of that form. */
export function readNumber(raw: string, form: NumberForm): string | null {
  const { decimals, point, group } = form;
  const { digits, negative } = unsigned(raw.trim(), form) ?? { digits: "", negative: false };
  const [whole, fraction, ...more] = point === null ? [digits] : digits.split(point);
  const plain = group !== null && isGrouped(whole, group) ? whole.replaceAll(group, "") : whole;
  if (more.length > 0 || !/^\d*$/.test(plain + (fraction ?? "")) || plain + (fraction ?? "") === "") return null;
  if (point !== null) return signed(plain, fraction ?? "", negative);
  const padded = plain.padStart((decimals ?? 0) + 1, "0");
  return signed(padded.slice(0, padded.length - (decimals ?? 0)), padded.slice(padded.length - (decimals ?? 0)), negative);
}

function signed(whole: string, fraction: string, negative: boolean): string {
  return (negative ? "-" : "") + (whole.replace(/^0+(?=\d)/, "") || "0") + (fraction === "" ? "" : `.${fraction}`);
}

function isGrouped(whole: string, group: string): boolean {
  const [first, ...rest] = whole.split(group);
  return rest.length > 0 && /^\d{1,3}$/.test(first) && rest.every((part) => /^\d{3}$/.test(part));
}

/** The digits without the sign; `null` when that is none. */
function unsigned(text: string, { sign, point }: NumberForm): { digits: string; negative: boolean } | null {
  if (text === "") return null;
  if (sign === null) {
    const negative = point !== null && text.startsWith("-");
    return { digits: negative ? text.slice(1) : text, negative };
  }
  const at = sign === "leading" || sign === "overpunch-leading" ? 0 : text.length - 1;
  const mark = text[at];
  if (sign === "leading" || sign === "trailing") {
    if (mark !== "-" && mark !== "+") return { digits: text, negative: false };
    return { digits: (at === 0 ? text.slice(1) : text.slice(0, -1)).trim(), negative: mark === "-" };
  }
  const plus = POSITIVE.indexOf(mark);
  const minus = NEGATIVE.indexOf(mark);
  if (plus < 0 && minus < 0 && !/\d/.test(mark)) return null;
  const digits = plus < 0 && minus < 0 ? text : text.slice(0, at) + String(Math.max(plus, minus)) + text.slice(at + 1);
  return { digits, negative: minus >= 0 };
}

/** A number in parts, as it is to be written. */
interface Written {
  readonly negative: boolean;
  readonly digits: string;
}

/**
 * How a number is written, in `width` places filled with zeros, or as it is without; `null` when the text is no such number.
 * `old` is what stands there, or in a sibling: whether it has a plus and groups of digits shows how the file does it.
 */
export function writeNumber(text: string, form: NumberForm, old: string | null, width = 0): string | null {
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  if (match === null) return null;
  const [, minus, whole, fraction = ""] = match;
  const { decimals, point, group, sign } = form;
  const places = decimals ?? (point === null ? 0 : fraction.length);
  if (/[1-9]/.test(fraction.slice(places))) return null;
  const kept = fraction.slice(0, places).padEnd(places, "0");
  const own = whole.replace(/^0+(?=\d)/, "");
  const isGroupedNow = group !== null && (old === null || old.includes(group) || !/\d{4}/.test(old));
  const grouped = isGroupedNow ? own.replace(/\B(?=(\d{3})+$)/g, group) : own;
  const digits = point === null ? (own + kept).replace(/^0+(?=\d)/, "") : grouped + (kept === "" ? "" : point + kept);
  if (sign === null) return minus === "" ? digits.padStart(width, "0") : point === null ? null : `-${digits}`;
  return withSign({ digits, negative: minus === "-" }, form, old, width);
}

function withSign({ digits, negative }: Written, { sign, plus }: NumberForm, old: string | null, width: number): string {
  const was = old?.trim() ?? "";
  const isLeading = sign === "leading" || sign === "overpunch-leading";
  const mark = isLeading ? was[0] : was.at(-1);
  // what a positive value there has; a negative one does not tell
  const told = mark === undefined || mark === "-" || NEGATIVE.includes(mark) ? null : !/\d/.test(mark);
  if (sign === "leading" || sign === "trailing") {
    const own = negative ? "-" : (told ?? plus) ? "+" : "";
    // a blank keeps the place of the sign, but where digits stand in it
    const isKept = old === null || old.trim() === "" ? width > 0 : isLeading ? width > 0 && !/^\d/.test(old) : !/\d$/.test(old);
    const place = own === "" && isKept ? " " : own;
    const padded = digits.padStart(width - place.length, "0");
    return isLeading ? place + padded : padded + place;
  }
  const padded = digits.padStart(isLeading ? width : 0, "0");
  const at = isLeading ? 0 : padded.length - 1;
  const digit = padded[at];
  const punched = negative ? NEGATIVE[Number(digit)] : (told ?? plus) ? POSITIVE[Number(digit)] : digit;
  return padded.slice(0, at) + punched + padded.slice(at + 1);
}

/** Does a number there show how a positive one is written? A negative one, or none, does not. */
export function showsSign(raw: string, form: NumberForm): boolean {
  return form.sign === null || readNumber(raw, form)?.startsWith("-") === false;
}
