/** Cells of a delimited line (RFC 4180 and its relatives): where they stand, and how a new one is written. */
import type { SpellFault } from "../format.js";
import type { FieldSpans } from "./grammar.js";

const QUOTE = 0x22;
const SPACE = 0x20;
const TAB = 0x09;

/** How a file separates its cells. */
export interface CellStyle {
  /** A byte, or 0 for runs of blanks. */
  readonly delimiter: number;
  /** Cells may stand in double quotes, with quotes inside doubled. */
  readonly quotes: boolean;
}

/** Spans of the cells of one line, and how many there are. Quoted cells are not plain when a quote is doubled in them. */
export function splitCells(
  buf: Uint8Array,
  start: number,
  end: number,
  { delimiter, quotes }: CellStyle,
  spans: FieldSpans,
  from = 0,
): number {
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
export function writeCell(text: string, old: string | null, { delimiter, quotes }: CellStyle, name: string): string | SpellFault {
  const mark = delimiter === 0 ? " " : String.fromCharCode(delimiter);
  const breaks = /[\r\n]/.test(text);
  const splits = delimiter === 0 ? /\s/.test(text) || text === "" : text.includes(mark);
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
