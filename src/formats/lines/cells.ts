/** Cells of a delimited line (RFC 4180 and its relatives): where they stand, and how a new one is written. */
import type { SpellFault } from "../format.js";
import { PlanError } from "../../errors/error.js";
import { decode, encode } from "../../bytes/writer.js";
import { lineEnd, type FieldSpans } from "./grammar.js";

const QUOTE = 0x22;
const SPACE = 0x20;
const TAB = 0x09;

/** How a file separates its cells. */
export interface CellStyle {
  /** A byte, or 0 for runs of blanks. */
  readonly delimiter: number;
  /** Cells may stand in double quotes, with quotes inside doubled. */
  readonly quotes: boolean;
  /** The whole delimiter, where it has several bytes; then there are no quotes. */
  readonly sign?: Uint8Array | null;
  /** What stands before a delimiter, a line end or itself where these are text; then there are no quotes. */
  readonly escape?: number | null;
}

/** Spans of the cells of one line, and how many there are. Quoted cells are not plain when a quote is doubled in them. */
export function splitCells(buf: Uint8Array, start: number, end: number, style: CellStyle, spans: FieldSpans, from = 0): number {
  const { delimiter, quotes, sign = null, escape = null } = style;
  if (sign !== null || escape !== null) return splitMarked(buf, { start, end }, style, spans, from);
  if (delimiter === 0) return splitBlanks(buf, start, end, spans, from);
  let n = from;
  let i = start;
  for (;;) {
    let open = i;
    if (quotes) while (open < end && (buf[open] === SPACE || buf[open] === TAB) && buf[open] !== delimiter) open++;
    if (quotes && open < end && buf[open] === QUOTE) {
      const text = open + 1;
      let doubled = false;
      let close = text;
      for (; close < end; close++) {
        if (buf[close] !== QUOTE) continue;
        if (buf[close + 1] !== QUOTE || close + 1 >= end) break;
        doubled = true;
        close++;
      }
      i = Math.min(close + 1, end);
      while (i < end && (buf[i] === SPACE || buf[i] === TAB) && buf[i] !== delimiter) i++;
      if (i >= end || buf[i] === delimiter) spans.set(n++, open, Math.min(close + 1, end), text, close, !doubled);
      else {
        // something follows the closing quote: the cell is what stands there, quotes and all
        while (i < end && buf[i] !== delimiter) i++;
        spans.set(n++, open, i);
      }
    } else {
      const text = i;
      while (i < end && buf[i] !== delimiter) i++;
      spans.set(n++, text, i);
    }
    if (i >= end) return n;
    i++;
  }
}

/** The same where delimiters have several bytes, or can be escaped. */
function splitMarked(
  buf: Uint8Array,
  { start, end }: { readonly start: number; readonly end: number },
  style: CellStyle,
  spans: FieldSpans,
  from: number,
): number {
  const { escape = null } = style;
  let n = from;
  let text = start;
  let isPlain = true;
  for (let i = start; ;) {
    if (i >= end) {
      spans.set(n, text, end, text, end, isPlain);
      return n + 1;
    }
    if (buf[i] === escape) {
      isPlain = false;
      i += 2;
    } else if (isDelimiter(buf, i, end, style)) {
      spans.set(n++, text, i, text, i, isPlain);
      i = text = i + delimiterLength(style);
      isPlain = true;
    } else i++;
  }
}

/** Does a delimiter stand there? */
export function isDelimiter(buf: Uint8Array, at: number, end: number, { delimiter, sign = null }: CellStyle): boolean {
  if (sign === null) return buf[at] === delimiter;
  return at + sign.length <= end && sign.every((byte, i) => buf[at + i] === byte);
}

export function delimiterLength({ sign = null }: CellStyle): number {
  return sign?.length ?? 1;
}

/** Ends of lines that no escape makes text. */
export function escapedLineEnd(
  buf: Uint8Array,
  from: number,
  limit: number,
  final: boolean,
  escape: number,
): { end: number; next: number } {
  for (let at = from; ;) {
    const { end, next } = lineEnd(buf, at, limit, final);
    let signs = 0;
    while (end - 1 - signs >= from && buf[end - 1 - signs] === escape) signs++;
    if (signs % 2 === 0 || next < 0 || end >= limit) return { end, next };
    at = next;
  }
}

const ESCAPED: Readonly<Record<string, string>> = { n: "\n", r: "\r", t: "\t" };

/** A text without its escapes; what is escaped for another reason keeps the sign. */
export function unescaped(text: string, style: CellStyle): string {
  const sign = String.fromCharCode(style.escape!);
  let plain = "";
  for (let i = 0; i < text.length; i++) {
    const next = text[i + 1] as string | undefined;
    if (text[i] !== sign || next === undefined) plain += text[i];
    else {
      i++;
      const isSign = next === sign || next === "\n" || next === "\r" || next === '"' || delimiterText(style).startsWith(next);
      plain += ESCAPED[next] ?? (isSign ? next : sign + next);
    }
  }
  return plain;
}

export function delimiterText({ delimiter, sign = null }: CellStyle): string {
  return sign === null ? (delimiter === 0 ? " " : String.fromCharCode(delimiter)) : decode(sign);
}

/** The style that a plan says. */
export function cellStyle(delimiter: string, quotes: boolean | undefined, escape: string | undefined, otherwise: boolean): CellStyle {
  const isLong = NAMES[delimiter] === undefined && encode(delimiter).length > 1;
  const isMarked = isLong || escape !== undefined;
  if (isMarked && quotes === true) throw new PlanError("cells-marked", { delimiter });
  return {
    delimiter: delimiterByte(delimiter),
    quotes: isMarked ? false : (quotes ?? otherwise),
    ...(isLong ? { sign: encode(delimiter) } : {}),
    ...(escape === undefined ? {} : { escape: escape.charCodeAt(0) }),
  };
}

function splitBlanks(buf: Uint8Array, start: number, end: number, spans: FieldSpans, from: number): number {
  let n = from;
  let i = start;
  for (;;) {
    while (i < end && (buf[i] === SPACE || buf[i] === TAB)) i++;
    if (i >= end) return n;
    const text = i;
    while (i < end && buf[i] !== SPACE && buf[i] !== TAB) i++;
    spans.set(n++, text, i);
  }
}

/** What {@link quotedLineEnd} tells, when asked, of a quote that is never closed. */
export const OPEN_QUOTE = -2;

/** Where the line ends when line ends may stand in quotes: the position of its CR or LF, or -1 when the line is not complete. */
export function quotedLineEnd(buf: Uint8Array, from: number, limit: number, delimiter: number, final: boolean, tell = false): number {
  let i = from;
  for (;;) {
    // at the beginning of a cell
    let open = i;
    while (open < limit && (buf[open] === SPACE || buf[open] === TAB) && buf[open] !== delimiter) open++;
    if (open < limit && buf[open] === QUOTE) {
      i = open + 1;
      for (;;) {
        while (i < limit && buf[i] !== QUOTE) i++;
        if (tell && i >= limit) return OPEN_QUOTE;
        if (i + 1 >= limit) return final ? limit : -1;
        if (buf[i + 1] !== QUOTE) break;
        i += 2;
      }
      i++;
    }
    while (i < limit && buf[i] !== delimiter && buf[i] !== 0x0a && buf[i] !== 0x0d) i++;
    if (i >= limit) return final ? limit : -1;
    if (buf[i] !== delimiter) return i;
    i++;
  }
}

/** A cell for a text: in quotes when the old one was, or when it has to be. */
export function writeCell(text: string, old: string | null, style: CellStyle, name: string): string | SpellFault {
  const { delimiter, quotes, escape = null } = style;
  const mark = delimiterText(style);
  if (escape !== null) {
    const sign = String.fromCharCode(escape);
    const escapedOne = (found: string): string => sign + ({ "\n": "n", "\r": "r" }[found] ?? found);
    return text
      .replaceAll(sign, sign + sign)
      .replaceAll(mark[0], escapedOne)
      .replace(/[\r\n]/g, escapedOne);
  }
  const breaks = /[\r\n]/.test(text);
  const splits = delimiter === 0 ? /\s/.test(text) || text === "" : (text + mark).indexOf(mark) < text.length;
  if (!quotes) return breaks || splits ? { code: "cell-unquoted", facts: { name, delimiter: mark } } : text;
  const needed = breaks || splits || /^\s*"/.test(text);
  return needed || old?.startsWith('"') === true ? `"${text.replaceAll('"', '""')}"` : text;
}

const NAMES: Readonly<Record<string, number>> = { tab: TAB, spaces: 0 };

export function delimiterByte(name: string): number {
  return NAMES[name] ?? name.charCodeAt(0);
}

export function delimiterName(byte: number): string {
  return Object.keys(NAMES).find((name) => NAMES[name] === byte) ?? String.fromCharCode(byte);
}
