/**
 * Encodings of one to four bytes a character. The tables are those of the platform's decoder (Encoding Standard, section 4, and its
 * indexes); made when they are needed.
 *
 * The way there and back is exact: bytes that stand for nothing, and a second way of writing a character, get a place of their
 * own among the private characters of Unicode.
 */
import type { MultiByteEncoding } from "./multi-byte-names.js";

/** Private characters beyond those that encodings use themselves: of one byte that stands for nothing, and of several bytes. */
const OF_ONE = 0x100000;
const OF_SEVERAL = 0xf0000;

interface Tables {
  /** Characters by their bytes, as one number; those of one byte are below 256. */
  readonly chars: ReadonlyMap<number, string>;
  /** The other way round. */
  readonly codes: ReadonlyMap<string, number>;
}

function makeTables(encoding: MultiByteEncoding): Tables {
  const decoder = new TextDecoder(encoding);
  const chars = new Map<number, string>();
  const codes = new Map<string, number>();
  const put = (code: number, char: string): void => {
    // what begins with ASCII is ASCII and something else
    const isOne = [...char].length === 1 && char !== "\ufffd" && (code < 256 || char > "\u007f");
    if (!isOne) return;
    const own = codes.has(char) ? String.fromCodePoint(OF_SEVERAL + (code & 0xffff)) : char;
    chars.set(code, own);
    codes.set(own, code);
  };
  for (let byte = 0; byte < 256; byte++) put(byte, byte < 0x80 ? String.fromCharCode(byte) : decoder.decode(Uint8Array.of(byte)));
  // of two ways to write a character, the NEC rows of Shift_JIS are the ones that nobody writes now
  const leads = Array.from({ length: 126 }, (_, i) => 0x81 + i).sort(
    (a, b) => Number(isOld(encoding, a)) - Number(isOld(encoding, b)) || a - b,
  );
  for (const lead of leads) {
    if (chars.has(lead)) continue;
    for (let trail = 0x30; trail < 256; trail++) put((lead << 8) | trail, decoder.decode(Uint8Array.of(lead, trail)));
  }
  if (encoding === "euc-jp")
    for (let lead = 0xa1; lead < 0xff; lead++)
      for (let trail = 0xa1; trail < 0xff; trail++)
        put((0x8f << 16) | (lead << 8) | trail, decoder.decode(Uint8Array.of(0x8f, lead, trail)));
  return { chars, codes };
}

function isOld(encoding: MultiByteEncoding, lead: number): boolean {
  return encoding === "shift_jis" && (lead === 0xed || lead === 0xee);
}

/** Four bytes of GB 18030, of which the second and the last are digits. */
function isFour(bytes: Uint8Array, at: number): boolean {
  const isDigit = (byte: number): boolean => byte >= 0x30 && byte <= 0x39;
  return bytes[at] >= 0x81 && bytes[at] <= 0xfe && isDigit(bytes[at + 1]) && bytes[at + 2] >= 0x81 && isDigit(bytes[at + 3]);
}

/** The four bytes of that rank. */
function fourOf(rank: number): Uint8Array {
  const second = Math.floor(rank / 1260) % 10;
  const third = Math.floor(rank / 10) % 126;
  return Uint8Array.of(Math.floor(rank / 12_600) + 0x81, second + 0x30, third + 0x81, (rank % 10) + 0x30);
}

export class MultiByte {
  private readonly tables: Tables;
  private readonly decoder: TextDecoder;
  private readonly most: number;

  constructor(encoding: MultiByteEncoding) {
    this.tables = makeTables(encoding);
    this.decoder = new TextDecoder(encoding);
    this.most = encoding === "gb18030" ? 4 : encoding === "euc-jp" ? 3 : 2;
  }

  /** How many of these bytes are whole characters. */
  whole(bytes: Uint8Array): number {
    let at = 0;
    // a character that may go on is left
    while (at < bytes.length && (bytes[at] < 0x80 || at + this.most <= bytes.length)) at += bytes[at] < 0x80 ? 1 : this.lengthAt(bytes, at);
    return Math.min(at, bytes.length);
  }

  /** The text of bytes that end with a character. */
  text(bytes: Uint8Array): string {
    let text = "";
    for (let at = 0; at < bytes.length;) {
      const length = this.lengthAt(bytes, at);
      text += length === 4 ? this.fourAt(bytes, at) : this.charOf(this.codeAt(bytes, at, length));
      at += length;
    }
    return text;
  }

  bytes(text: string): Uint8Array {
    const bytes: number[] = [];
    for (const char of text) {
      const code = this.codeOf(char) ?? 0x3f;
      for (let shift = 24; shift >= 0; shift -= 8) if (shift === 0 || code >= 2 ** shift) bytes.push(Math.floor(code / 2 ** shift) & 0xff);
    }
    return Uint8Array.from(bytes);
  }

  /** The first character that cannot be written. */
  missing(text: string): string | null {
    return [...text].find((char) => this.codeOf(char) === undefined) ?? null;
  }

  /** How many bytes a character takes. */
  widthOf(char: string): number {
    const code = this.codeOf(char) ?? 0x3f;
    return code < 2 ** 8 ? 1 : code < 2 ** 16 ? 2 : code < 2 ** 24 ? 3 : 4;
  }

  private lengthAt(bytes: Uint8Array, at: number): number {
    if (bytes[at] < 0x80) return 1;
    for (let length = 2; length <= Math.min(3, this.most, bytes.length - at); length++)
      if (this.tables.chars.has(this.codeAt(bytes, at, length))) return length;
    return this.most === 4 && at + 4 <= bytes.length && isFour(bytes, at) && this.fourAt(bytes, at) !== "\ufffd" ? 4 : 1;
  }

  private codeAt(bytes: Uint8Array, at: number, length: number): number {
    let code = 0;
    for (let i = 0; i < length; i++) code = code * 256 + bytes[at + i];
    return code;
  }

  private charOf(code: number): string {
    return this.tables.chars.get(code) ?? String.fromCodePoint(OF_ONE + code);
  }

  /** GB 18030 has all characters of Unicode; too many for a table. */
  private fourAt(bytes: Uint8Array, at: number): string {
    const char = this.decoder.decode(bytes.subarray(at, at + 4));
    const isOne = [...char].length === 1 && !this.tables.codes.has(char) && this.four(char) === this.codeAt(bytes, at, 4);
    return isOne ? char : "\ufffd";
  }

  private codeOf(char: string): number | undefined {
    const code = this.tables.codes.get(char);
    if (code !== undefined) return code;
    const point = char.codePointAt(0)!;
    if (point >= OF_ONE + 0x80 && point < OF_ONE + 0x100 && !this.tables.chars.has(point - OF_ONE)) return point - OF_ONE;
    return this.most === 4 ? this.four(char) : undefined;
  }

  /** Bytes of a character that is in no table: by its rank for those beyond the basic plane, looked up for the others. */
  private four(char: string): number | undefined {
    const point = char.codePointAt(0)!;
    if (point < 0x80 || (point >= 0xd800 && point < 0xe000)) return undefined;
    const rank = point >= 0x10000 ? 189_000 + point - 0x10000 : this.ranks().get(point);
    if (rank === undefined) return undefined;
    return this.codeAt(fourOf(rank), 0, 4);
  }

  /** By character of the basic plane: its rank among those of four bytes. */
  private ranks(): ReadonlyMap<number, number> {
    if (this.ranked !== null) return this.ranked;
    const ranked = new Map<number, number>();
    for (let rank = 0; rank <= 39_419; rank++) {
      const char = this.decoder.decode(fourOf(rank));
      if ([...char].length === 1 && char !== "\ufffd") ranked.set(char.codePointAt(0)!, rank);
    }
    return (this.ranked = ranked);
  }
  private ranked: ReadonlyMap<number, number> | null = null;
}
