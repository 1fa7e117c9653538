/** Text in the parts of a workbook: marks of XML, and characters that a cell cannot hold as they are (`_x000D_`). */
import { encode } from "../../bytes/writer.js";
import { LONGEST_CELL } from "../../cells/limits.js";

const ESCAPES: Readonly<Record<string, string>> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };

export function escapeText(text: string): string {
  return text
    .replace(/_x[0-9A-Fa-f]{4}_/g, "_x005F$&")
    .replace(/[\u0000-\u0008\u000b-\u001f\ufffe\uffff]/g, (c) => `_x${c.charCodeAt(0).toString(16).toUpperCase().padStart(4, "0")}_`)
    .replace(/[&<>"]/g, (c) => ESCAPES[c]);
}

export function unescapeCell(text: string): string {
  return text.includes("_x")
    ? text.replace(/_x([0-9A-Fa-f]{4})_/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)))
    : text;
}

const ENTITIES: Readonly<Record<string, string>> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'" };

/** Text between tags, or an attribute's value. */
export function unescapeXml(text: string): string {
  if (!text.includes("&")) return text;
  return text.replace(/&(?:#x([0-9a-fA-F]{1,6})|#(\d{1,7})|(\w+));/g, (whole, hex?: string, decimal?: string, name?: string) => {
    const code = hex === undefined ? Number(decimal) : Number.parseInt(hex, 16);
    if (name !== undefined) return ENTITIES[name] ?? whole;
    return code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}

/** Bytes that cannot be copied as they are: marks of XML, control characters, and `_`, with which an escape may begin. */
const CAREFUL = new Uint8Array(256);
for (let byte = 0; byte < 0x20; byte++) CAREFUL[byte] = 1;
for (const letter of "&<>_\u007f") CAREFUL[letter.charCodeAt(0)] = 1;

/** May the bytes stand in a cell as they are? */
export function isPlain(bytes: Uint8Array, from: number, to: number): boolean {
  if (to > from && (bytes[from] === 0x20 || bytes[to - 1] === 0x20)) return false;
  for (let i = from; i < to; i++) if (CAREFUL[bytes[i]] === 1) return false;
  return true;
}

/** A cell's text, cut where spreadsheets would cut it. */
export function cellText(text: string): Uint8Array {
  return encode(escapeText(text.length > LONGEST_CELL ? cut(text) : text));
}

function cut(text: string): string {
  const last = text.charCodeAt(LONGEST_CELL - 1);
  return text.slice(0, last >= 0xd800 && last < 0xdc00 ? LONGEST_CELL - 1 : LONGEST_CELL);
}
