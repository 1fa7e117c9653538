/** Is this JSON? The first byte that is not white space decides; the name is a second witness. */
import { decode, encode } from "../../bytes/writer.js";
import type { Sniffed } from "../format.js";
import { SilentListener } from "../silent.js";
import { plainText } from "./comments.js";
import { JsonScanner } from "./scan.js";

/** A record begins with a name or ends at once, a list begins with a value. */
const BEGINS = /^(?:\{\s*(?:["}]|$)|\[\s*(?:["[\]{]|$))/;
/** A list of numbers, or a line of a log: `[2026-11-01 06:00] lamp lit`. */
const MAY_BEGIN = /^\[\s*(?:[-\d]|true\b|false\b|null\b)/;

export function sniff(head: Uint8Array, name: string): Sniffed {
  if (mayHaveComments(head, name)) head = blanked(head);
  let i = head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf ? 3 : 0;
  while (i < head.length && (head[i] === 0x20 || head[i] === 0x0a || head[i] === 0x0d || head[i] === 0x09)) i++;
  const named = /\.(json|jsonc|json5|geojson|webmanifest|map)$/i.test(name);
  const first = i < head.length ? String.fromCharCode(head[i]) : "";
  if (first === "{" || first === "[") {
    const text = decode(head.subarray(i, i + 64));
    const goesOn = BEGINS.test(text) || (MAY_BEGIN.test(text) && !isBroken(head));
    return { score: named ? 1 : goesOn ? 0.8 : 0.05, why: `it begins with ${first}` };
  }
  if (named) return { score: 0.6, why: "its name ends in .json" };
  if (first !== "" && '"-0123456789tfn'.includes(first)) return { score: 0.1, why: "it may be a single JSON value" };
  return { score: 0, why: "it does not begin like JSON" };
}

/** Is there something in it that no JSON has? */
function isBroken(head: Uint8Array): boolean {
  try {
    new JsonScanner(null, new SilentListener()).write(head);
    return false;
  } catch {
    return true;
  }
}

/** By its name, or as it begins with one. */
function mayHaveComments(head: Uint8Array, name: string): boolean {
  return /\.(jsonc|json5)$/i.test(name) || /^\ufeff?\s*\/[/*]/.test(decode(head.subarray(0, 256)));
}

function blanked(head: Uint8Array): Uint8Array {
  return encode(plainText(decode(head)));
}
