/** JSON text literals: from bytes to text and back, in the manner of the file. */
import { decode, encode, type ByteWriter } from "../../bytes/writer.js";
import type { WritingStyle } from "../format.js";

const BACKSLASH = 0x5c;
const SHORT: Record<string, string> = { b: "\b", f: "\f", n: "\n", r: "\r", t: "\t" };

/** The text between the quotes `[start, end)`, escapes resolved. Lone surrogates stay as they are. */
export function decodeText(bytes: Uint8Array, start: number, end: number): string {
  if (bytes.subarray(start, end).indexOf(BACKSLASH) < 0) return decode(bytes, start, end);
  return decode(bytes, start, end).replace(/\\(u[0-9a-fA-F]{4}|.)/gs, (_, escape: string) =>
    escape.length === 5 ? String.fromCharCode(parseInt(escape.slice(1), 16)) : (SHORT[escape] ?? escape),
  );
}

/** What may follow a backslash and stands for one byte that a sheet can hold. */
const SIMPLE = new Uint8Array(256);
for (const [c, meant] of ['""', "\\\\", "//", "n\n", "r\r", "t\t"].map((pair) => [pair[0], pair[1]]))
  SIMPLE[c.charCodeAt(0)] = meant.charCodeAt(0);

/** Appends the text of a literal as bytes, when all its escapes are simple ones. */
export function unescape(bytes: Uint8Array, start: number, end: number, out: ByteWriter): boolean {
  out.ensure(end - start);
  const target = out.bytes;
  let o = out.length;
  for (let i = start; i < end; i++) {
    let b = bytes[i];
    if (b === BACKSLASH) {
      b = SIMPLE[bytes[++i]];
      if (b === 0) return false;
    }
    target[o++] = b;
  }
  out.length = o;
  return true;
}

/** A literal for `text`. Characters outside ASCII are escaped when the file escapes all of its own. */
export function encodeText(text: string, style: WritingStyle): Uint8Array {
  // JSON.stringify escapes quotes, control characters and lone surrogates, as RFC 8259 section 7 asks.
  let literal = JSON.stringify(text);
  if (style.escapedHigh && !style.rawHigh) {
    literal = literal.replace(/[\u0080-\uffff]/g, (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, "0")}`);
  }
  return encode(literal);
}

/** The bytes that a name most likely has in a file, quotes not included. */
export function encodeName(name: string): Uint8Array {
  return encode(JSON.stringify(name).slice(1, -1));
}
