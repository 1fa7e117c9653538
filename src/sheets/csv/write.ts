/** Writes rows as delimited text (RFC 4180): comma, CR LF, quotes only where they are needed. */
import { below, equalTo, HIGH_BITS } from "../../bytes/words.js";
import { encode, type ByteWriter } from "../../bytes/writer.js";

const QUOTE = 0x22;
export const COMMA = 0x2c;
export const CR = 0x0d;
export const LF = 0x0a;
const SPACE = 0x20;
/** Four letters, which need none. */
const FILLER = 0x61616161;
/** Bytes that make a cell need quotes. */
const NEEDS_QUOTES = new Uint8Array(256);
for (const b of [QUOTE, COMMA, CR, LF, 0x09, 0x3b]) NEEDS_QUOTES[b] = 1;

/** Appends a comma and a cell whose bytes can be had four at a time; most cells need no quotes, and are copied in words. */
export function writeWords(out: ByteWriter, bytes: Uint8Array, words: DataView, from: number, to: number): void {
  out.ensure(2 * (to - from) + 8);
  const last = to - 4;
  let i = from;
  if (i > last && last >= 0 && bytes[from] !== SPACE && bytes[to - 1] !== SPACE) {
    // one to three bytes, of the word that ends with them; what stands behind them is written over
    const bits = 8 * (to - from);
    const word = (words.getInt32(last, true) >>> (32 - bits)) | (FILLER << bits);
    if (!isSuspect(word) || !needsQuotes(word)) {
      out.bytes[out.length] = COMMA;
      out.words.setInt32(out.length + 1, word, true);
      out.length += 1 + to - from;
      return;
    }
  } else if (i <= last && bytes[from] !== SPACE && bytes[to - 1] !== SPACE) {
    const target = out.words;
    let o = out.length + 1;
    for (; i <= last; i += 4, o += 4) {
      const word = words.getInt32(i, true);
      if (isSuspect(word) && needsQuotes(word)) break;
      target.setInt32(o, word, true);
    }
    if (i > last) {
      // the last word overlaps the one before it
      const word = words.getInt32(last, true);
      if (!isSuspect(word) || !needsQuotes(word)) {
        out.bytes[out.length] = COMMA;
        target.setInt32(out.length + 1 + last - from, word, true);
        out.length += 1 + to - from;
        return;
      }
    }
  }
  writeCell(out, bytes, from, to, true);
}

/** Is one of the four bytes below `-`, where all bytes that need quotes are but one, or is it that one, `;`? */
function isSuspect(word: number): boolean {
  return ((below(word, 0x2d2d2d2d) | equalTo(word, 0x3b3b3b3b)) & HIGH_BITS) !== 0;
}

function needsQuotes(word: number): boolean {
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

export function writeCells(out: ByteWriter, cells: readonly string[]): void {
  for (const [i, cell] of cells.entries()) {
    if (i > 0) out.byte(COMMA);
    const bytes = encode(cell);
    writeCell(out, bytes, 0, bytes.length);
  }
  out.byte(CR);
  out.byte(LF);
}
