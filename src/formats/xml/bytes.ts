/** Bytes of XML's grammar, and classes of them. */
import { below, equalTo, HIGH_BITS } from "../../bytes/words.js";

export const TAB = 0x09;
export const LF = 0x0a;
export const CR = 0x0d;
export const SPACE = 0x20;
export const BANG = 0x21;
export const QUOTE = 0x22;
export const AMP = 0x26;
export const APOSTROPHE = 0x27;
export const MINUS = 0x2d;
export const SLASH = 0x2f;
export const COLON = 0x3a;
export const SEMICOLON = 0x3b;
export const LESS = 0x3c;
export const EQUALS = 0x3d;
export const GREATER = 0x3e;
export const QUESTION = 0x3f;
export const AT = 0x40;
export const OPEN_BRACKET = 0x5b;
export const CLOSE_BRACKET = 0x5d;

export const IS_SPACE = new Uint8Array(256);
for (const b of [SPACE, TAB, LF, CR]) IS_SPACE[b] = 1;

/** White space that stands for itself. */
export const IS_LAYOUT = new Uint8Array(256);
for (const b of [SPACE, TAB, LF]) IS_LAYOUT[b] = 1;

/** What is said of bytes of names: may begin one, may follow, is the colon behind a prefix, is a part of a character beyond ASCII. */
export const NAME_BEGINS = 1;
export const NAME_FOLLOWS = 2;
export const NAME_COLON = 4;
export const NAME_HIGH = 8;
export const IN_NAME = new Uint8Array(256);
for (let b = 0; b < 256; b++) {
  const c = String.fromCharCode(b);
  if (b >= 0x80) IN_NAME[b] = NAME_HIGH | NAME_BEGINS;
  else if (b === COLON) IN_NAME[b] = NAME_COLON;
  else IN_NAME[b] = /[A-Za-z_]/.test(c) ? NAME_BEGINS : /[-.0-9]/.test(c) ? NAME_FOLLOWS : 0;
}

const LETTERS =
  "A-Z_a-z\\u00c0-\\u00d6\\u00d8-\\u00f6\\u00f8-\\u02ff\\u0370-\\u037d\\u037f-\\u1fff\\u200c\\u200d\\u2070-\\u218f\\u2c00-\\u2fef\\u3001-\\ud7ff\\uf900-\\ufdcf\\ufdf0-\\ufffd\\u{10000}-\\u{effff}";
const LOCAL = `[${LETTERS}][-.0-9${LETTERS}\\u00b7\\u0300-\\u036f\\u203f\\u2040]*`;

/** A name with a prefix or without one: production 7 of Namespaces in XML 1.0, with the letters of XML 1.0, fifth edition. */
export const QUALIFIED_NAME = new RegExp(`^${LOCAL}(?::${LOCAL})?$`, "u");

/** Classes of bytes in character data and attribute values; 0 is "goes on". */
export const GOES_ON = 0;
export const ENDS = 1;
export const REFERS = 2;
export const HIGH = 3;
export const CONTROL = 4;
export const BRACKET = 5;
export const LINE = 6;
export const IN_TEXT = new Uint8Array(256);
for (let b = 0; b < 256; b++) {
  IN_TEXT[b] = b >= 0x80 ? HIGH : b < 0x20 && b !== TAB && b !== LF && b !== CR ? CONTROL : GOES_ON;
}
IN_TEXT[LESS] = ENDS;
IN_TEXT[AMP] = REFERS;
IN_TEXT[CLOSE_BRACKET] = BRACKET;
IN_TEXT[CR] = LINE;

/** 1 for bytes that an attribute's value may hold without a second look, in quotes of either kind. */
export const IN_VALUE = new Uint8Array(256);
for (let b = 0; b < 0x80; b++) IN_VALUE[b] = IN_TEXT[b] === GOES_ON && b !== TAB && b !== LF && b !== QUOTE && b !== APOSTROPHE ? 1 : 0;

/** Do all four bytes go on with character data, none of them white space but blanks? */
export function goesOn(word: number): boolean {
  return stopsText(word) === 0;
}

/** Finds bytes that do not go on with character data, and white space that is no blank. */
export function stopsText(word: number): number {
  const markup = equalTo(word, 0x3c3c3c3c) | equalTo(word, 0x26262626) | equalTo(word, 0x5d5d5d5d);
  return (markup | below(word, 0x20202020) | word) & HIGH_BITS;
}

/** Finds bytes that a value in the quotes that are `quote`, given four times, cannot hold as they are: some that it can are found, too. */
export function stopsValue(word: number, quote: number): number {
  const markup = equalTo(word, quote) | equalTo(word, 0x3c3c3c3c) | equalTo(word, 0x26262626);
  return (markup | below(word, 0x20202020) | word) & HIGH_BITS;
}

/** Are these the bytes of a name, from `from` on? */
export function isNameBytes(bytes: Uint8Array, from: number): boolean {
  return bytes.length > from && (IN_NAME[bytes[from]] & NAME_BEGINS) !== 0 && bytes.every((b, i) => i < from || IN_NAME[b] > 0);
}
