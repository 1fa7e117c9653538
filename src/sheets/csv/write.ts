/** Writes rows as delimited text (RFC 4180): comma, CR LF, quotes only where they are needed. */
import { below, equalTo, HIGH_BITS } from "../../bytes/words.js";
import { ByteWriter } from "../../bytes/writer.js";

const QUOTE = 0x22;
export const COMMA = 0x2c;
export const CR = 0x0d;
export const LF = 0x0a;
export const SPACE = 0x20;
/** Four letters, which need none. */
export const FILLER = 0x61616161;
/** Bytes that make a cell need quotes. */
const NEEDS_QUOTES = new Uint8Array(256);
for (const b of [QUOTE, COMMA, CR, LF, 0x09, 0x3b]) NEEDS_QUOTES[b] = 1;

/** Is one of the four bytes below `-`, where all bytes that need quotes are but one, or is it that one, `;`? */
export function isSuspect(word: number): boolean {
  return ((below(word, 0x2d2d2d2d) | equalTo(word, 0x3b3b3b3b)) & HIGH_BITS) !== 0;
}

export function needsQuotes(word: number): boolean {
  return (
    (NEEDS_QUOTES[word & 0xff] | NEEDS_QUOTES[(word >>> 8) & 0xff] | NEEDS_QUOTES[(word >>> 16) & 0xff] | NEEDS_QUOTES[word >>> 24]) !== 0
  );
}

/** Appends one cell. */
export function writeCell(out: ByteWriter, bytes: Uint8Array, from: number, to: number, comma = false): void {
  out.ensure(2 * (to - from) + 3);
  const target = out.bytes;
  if (comma) target[out.length++] = COMMA;
  let o = out.length;
  if (to > from && bytes[from] !== SPACE && bytes[to - 1] !== SPACE) {
    let i = from;
    while (i < to) {
      const b = bytes[i];
      if (NEEDS_QUOTES[b] === 1) break;
      target[o++] = b;
      i++;
    }
    if (i === to) {
      out.length = o;
      return;
    }
    o = out.length;
  } else if (to === from) return;
  target[o++] = QUOTE;
  for (let i = from; i < to; i++) {
    const b = bytes[i];
    target[o++] = b;
    if (b === QUOTE) target[o++] = QUOTE;
  }
  target[o++] = QUOTE;
  out.length = o;
}

const word = new ByteWriter(256);

export function writeCells(out: ByteWriter, cells: readonly string[]): void {
  for (let i = 0; i < cells.length; i++) {
    word.clear();
    word.text(cells[i]);
    writeCell(out, word.bytes, 0, word.length, i > 0);
  }
  out.byte(CR);
  out.byte(LF);
}
