/** XML character data and attribute values: from bytes to text and back. */
import { decode, type ByteWriter } from "../../bytes/writer.js";
import type { Entities } from "./entities.js";
import { AMP, CR, LESS, SEMICOLON } from "./bytes.js";

const PREDEFINED: Readonly<Record<string, string>> = { lt: "<", gt: ">", amp: "&", apos: "'", quot: '"' };
const MARKUP = /<!\[CDATA\[([\s\S]*?)\]\]>|<!--[\s\S]*?-->|<\?[\s\S]*?\?>|&([^;]*);/g;

/** Character data of an element: line ends as the standard reads them (section 2.11), references resolved, comments gone. */
export function decodeContent(bytes: Uint8Array, start: number, end: number, entities: Entities): string {
  const text = decode(bytes, start, end).replace(/\r\n?/g, "\n");
  return text.replace(MARKUP, (_, section: string | undefined, name: string | undefined) =>
    section !== undefined ? section : name !== undefined ? resolve(name, entities) : "",
  );
}

/** An attribute's value, normalised as section 3.3.3 says: white space written as itself becomes a space. */
export function decodeAttribute(bytes: Uint8Array, start: number, end: number, entities: Entities): string {
  const text = decode(bytes, start, end).replace(/\r\n|[\t\n\r]/g, " ");
  return text.replace(/&([^;]*);/g, (_, name: string) =>
    resolve(name, entities).replace(/\s/g, (space) => (name.startsWith("#") ? space : " ")),
  );
}

function resolve(name: string, entities: Entities): string {
  if (name.startsWith("#x")) return String.fromCodePoint(parseInt(name.slice(2), 16));
  if (name.startsWith("#")) return String.fromCodePoint(parseInt(name.slice(1), 10));
  return PREDEFINED[name] ?? entities.text(name) ?? `&${name};`;
}

/** Is it one of the five names that every XML file knows (section 4.6 of XML 1.0)? */
export function isPredefined(name: string): boolean {
  return Object.hasOwn(PREDEFINED, name);
}

/** Is it the number of a character that may stand in a text? */
export function isCharReference(name: string): boolean {
  if (!/^#(?:x0*[0-9a-fA-F]{1,6}|0*\d{1,7})$/.test(name)) return false;
  const code = name[1] === "x" ? parseInt(name.slice(2), 16) : parseInt(name.slice(1), 10);
  return isXmlChar(code);
}

/** Production 2 of XML 1.0. */
function isXmlChar(code: number): boolean {
  return (
    code === 9 ||
    code === 10 ||
    code === 13 ||
    (code >= 0x20 && code <= 0xd7ff) ||
    (code >= 0xe000 && code <= 0xfffd) ||
    (code >= 0x10000 && code <= 0x10ffff)
  );
}

/** The first character that XML 1.0 cannot hold in any spelling. */
export function notXml(text: string): string | null {
  for (const char of text) if (!isXmlChar(char.codePointAt(0)!)) return char;
  return null;
}

/** Appends text as bytes when it holds nothing but predefined references; false otherwise. */
export function unescape(bytes: Uint8Array, start: number, end: number, out: ByteWriter): boolean {
  out.ensure(end - start);
  const target = out.bytes;
  let o = out.length;
  for (let i = start; i < end; i++) {
    let b = bytes[i];
    if (b === CR || b === LESS || b < 0x20) return false;
    if (b === AMP) {
      let semicolon = i + 1;
      while (semicolon < end && bytes[semicolon] !== SEMICOLON) semicolon++;
      const char = PREDEFINED[decode(bytes, i + 1, semicolon)];
      if (char === undefined) return false;
      b = char.charCodeAt(0);
      i = semicolon;
    }
    target[o++] = b;
  }
  out.length = o;
  return true;
}

/** Character data for a text. Line ends at its edges are references, so that they are not taken for indentation. */
export function encodeContent(text: string, crlf: boolean): string {
  return text
    .replace(/&/g, "&amp;")
    .replace(/</g, "&lt;")
    .replace(/\]\]>/g, "]]&gt;")
    .replace(/\r/g, "&#13;")
    .replace(/^\s*\n\s*|\s*\n\s*$/g, (edge) => edge.replace(/\n/g, "&#10;"))
    .replace(/\n/g, crlf ? "\r\n" : "\n");
}

export function encodeCdata(text: string, crlf: boolean): string {
  return `<![CDATA[${text.replace(/\]\]>/g, "]]]]><![CDATA[>").replace(/\n/g, crlf ? "\r\n" : "\n")}]]>`;
}

export function encodeAttribute(text: string, quote: '"' | "'"): string {
  const escaped = text
    .replace(/&/g, "&amp;")
    .replace(/</g, "&lt;")
    .replace(/[\t\n\r]/g, (space) => `&#${space.charCodeAt(0)};`)
    .replaceAll(quote, quote === '"' ? "&quot;" : "&apos;");
  return quote + escaped + quote;
}
