/** Runs of bytes in a window: what they begin with, what they hold, where the white space at their edges ends. */
import { encode } from "../../bytes/writer.js";
import { AMP, CLOSE_BRACKET, CR, GREATER, IS_SPACE, LF } from "./bytes.js";

/** What is looked for is not in view as a whole. */
export const CUT = -1;
export const CDATA = encode("<![CDATA[");

export function find(buf: Uint8Array, from: number, limit: number, first: number, second: number): number {
  for (let i = from; i + 1 < limit; i++) if (buf[i] === first && buf[i + 1] === second) return i;
  return CUT;
}

export function startsWith(buf: Uint8Array, at: number, bytes: Uint8Array): boolean {
  for (let k = 0; k < bytes.length; k++) if (buf[at + k] !== bytes[k]) return false;
  return true;
}

export function sameBytes(a: Uint8Array, from: number, to: number, b: Uint8Array, at: number): boolean {
  for (let i = from, k = at; i < to; i++, k++) if (a[i] !== b[k]) return false;
  return true;
}

export function pastSpace(buf: Uint8Array, from: number, to: number): { at: number; line: boolean } {
  let i = from;
  let line = false;
  for (; i < to && IS_SPACE[buf[i]] === 1; i++) line ||= buf[i] === LF || buf[i] === CR;
  return { at: i, line };
}

export function beforeSpace(buf: Uint8Array, from: number, to: number): { at: number; line: boolean } {
  let i = to;
  let line = false;
  for (; i > from && IS_SPACE[buf[i - 1]] === 1; i--) line ||= buf[i - 1] === LF || buf[i - 1] === CR;
  return { at: i, line };
}

/** One CDATA section and nothing else. */
export function isSoleCdata(buf: Uint8Array, from: number, to: number): boolean {
  if (!startsWith(buf, from, CDATA)) return false;
  for (let i = from + CDATA.length; i + 2 < to; i++) {
    if (buf[i] === CLOSE_BRACKET && buf[i + 1] === CLOSE_BRACKET && buf[i + 2] === GREATER) return i + 3 === to;
  }
  return false;
}

/** Not plain as a whole, but the white space cut off may have held what made it so. */
export function isPlain(buf: Uint8Array, from: number, to: number): boolean {
  for (let i = from; i < to; i++) if (buf[i] === AMP || buf[i] === CR) return false;
  return true;
}
