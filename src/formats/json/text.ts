/** JSON text literals: from bytes to text and back, in the manner of the file. */
import { decode, encode } from "../../bytes/writer.js";
import type { Manner } from "../format.js";

const SHORT: Record<string, string> = { b: "\b", f: "\f", n: "\n", r: "\r", t: "\t" };

/** The text between the quotes `[start, end)`, escapes resolved. Lone surrogates stay as they are. */
export function decodeText(bytes: Uint8Array, start: number, end: number): string {
  return decode(bytes, start, end).replace(/\\(u[0-9a-fA-F]{4}|.)/gs, (_, escape: string) =>
    escape.length === 5 ? String.fromCharCode(parseInt(escape.slice(1), 16)) : (SHORT[escape] ?? escape),
  );
}

/** A literal for `text`. Characters outside ASCII are escaped when the file escapes all of its own. */
export function encodeText(text: string, manner: Manner): Uint8Array {
  // JSON.stringify escapes quotes, control characters and lone surrogates, as RFC 8259 section 7 asks.
  let literal = JSON.stringify(text);
  if (manner.escapedHigh && !manner.rawHigh) {
    literal = literal.replace(/[\u0080-\uffff]/g, (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, "0")}`);
  }
  return encode(literal);
}
