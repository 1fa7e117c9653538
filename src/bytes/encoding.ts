/**
 * Scanners read UTF-8. A source in UTF-16, or in an encoding of one byte a character, is seen through
 * a view in UTF-8, and written back as it was; both ways are exact, so splices in the view are splices
 * in the source.
 */
import { EBCDIC, type EbcdicEncoding } from "./ebcdic-names.js";
import { PC, type PcEncoding } from "./pc-names.js";
import { MULTI_BYTE, type MultiByteEncoding } from "./multi-byte-names.js";
import { SourceError } from "../errors/error.js";
import type { MultiByte } from "./multi-byte.js";
import type { ByteSource } from "./source.js";
import { ByteWriter, concat, copied, encode } from "./writer.js";

/** Encodings of one byte a character, by the names of the Encoding Standard, and ISO-8859-1 and US-ASCII as they are. */
export const ONE_BYTE = [
  "us-ascii",
  "iso-8859-1",
  "windows-1252",
  "iso-8859-2",
  "iso-8859-3",
  "iso-8859-4",
  "iso-8859-5",
  "iso-8859-6",
  "iso-8859-7",
  "iso-8859-8",
  "iso-8859-10",
  "iso-8859-13",
  "iso-8859-14",
  "iso-8859-15",
  "ibm866",
  "koi8-r",
  "koi8-u",
  "macintosh",
  "windows-1250",
  "windows-1251",
  "windows-1253",
  "windows-1254",
  "windows-1255",
  "windows-1256",
  "windows-1257",
  "windows-1258",
  "windows-874",
  "x-mac-cyrillic",
] as const;
export const ENCODINGS = ["utf-8", "utf-16le", "utf-16be", ...ONE_BYTE, ...MULTI_BYTE, ...PC, ...EBCDIC] as const;
export type Encoding = (typeof ENCODINGS)[number];

const ALIASES: Readonly<Record<string, Encoding>> = {
  utf8: "utf-8",
  latin1: "iso-8859-1",
  "iso_8859-1": "iso-8859-1",
  ascii: "us-ascii",
  "iso-8859-9": "windows-1254",
  "iso-8859-11": "windows-874",
  "tis-620": "windows-874",
  macroman: "macintosh",
  maccyrillic: "x-mac-cyrillic",
  "shift-jis": "shift_jis",
  sjis: "shift_jis",
  "windows-31j": "shift_jis",
  cp932: "shift_jis",
  eucjp: "euc-jp",
  gb2312: "gbk",
  cp936: "gbk",
  cp950: "big5",
  euckr: "euc-kr",
  cp949: "euc-kr",
  cp037: "ibm037",
  cp273: "ibm273",
  cp500: "ibm500",
  cp1026: "ibm1026",
  cp1140: "ibm01140",
  ibm1140: "ibm01140",
  cp858: "ibm00858",
  ibm858: "ibm00858",
};

/** The encoding of that name; `null` when it is not known. "utf-16" alone is little-endian unless a byte-order mark says otherwise. */
export function encodingNamed(name: string): Encoding | null {
  const lower = name.trim().toLowerCase();
  if (lower === "utf-16") return "utf-16le";
  // `cp850` is what most programs call ibm850
  return (
    ALIASES[lower] ??
    ENCODINGS.find((one) => [lower, lower.replace(/^(cp|ibm-?)0*/, "ibm"), lower.replace(/^cp(?=125)/, "windows-")].includes(one)) ??
    null
  );
}

/** A source as UTF-8 text, and the way back. */
export interface TextSource extends ByteSource {
  readonly encoding: Encoding;
  /** Starts with a byte-order mark. */
  readonly bom: boolean;
  /** Turns a piece of the view (whole characters) into bytes of the source's encoding. */
  encodeBack(text: Uint8Array): Uint8Array;
  /** The first character of a text that the encoding has no bytes for. */
  missing(text: string): string | null;
}

/** By byte-order mark, or by the zero bytes of UTF-16 text that begins with ASCII; else UTF-8. */
export function sniffEncoding(head: Uint8Array): { encoding: Encoding; bom: boolean } {
  if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) return { encoding: "utf-8", bom: true };
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: "utf-16le", bom: true };
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: "utf-16be", bom: true };
  if (head.length >= 4 && head[1] === 0 && head[3] === 0 && head[0] !== 0) return { encoding: "utf-16le", bom: false };
  if (head.length >= 4 && head[0] === 0 && head[2] === 0 && head[1] !== 0) return { encoding: "utf-16be", bom: false };
  return { encoding: "utf-8", bom: false };
}

/** Opens a source in the encoding that its first bytes show, else in the one that is `said`, else as UTF-8. */
export async function openText(source: ByteSource, said: Encoding = "utf-8"): Promise<TextSource> {
  // of bytes that are no text nothing can be seen
  if (isEbcdic(said)) return new RecodedView(source, said, oneByte((await import("./ebcdic.js")).ebcdicPage(said)), false);
  const sniffed = sniffEncoding(await source.read(0, 4));
  const encoding = sniffed.encoding === "utf-8" && !sniffed.bom ? said : sniffed.encoding;
  if (encoding === "utf-8") return new Utf8View(source, sniffed.bom);
  const codec = isMultiByte(encoding)
    ? multiByte(await tableOf(encoding))
    : isPc(encoding)
      ? oneByte((await import("./pc-pages.js")).pcPage(encoding))
      : encoding === "utf-16le" || encoding === "utf-16be"
        ? utf16(encoding)
        : oneByte(codePage(encoding));
  return new RecodedView(source, encoding, codec, sniffed.bom);
}

export function isEbcdic(encoding: Encoding): encoding is EbcdicEncoding {
  return (EBCDIC as readonly string[]).includes(encoding);
}

function isPc(encoding: Encoding): encoding is PcEncoding {
  return (PC as readonly string[]).includes(encoding);
}

export function isMultiByte(encoding: Encoding): encoding is MultiByteEncoding {
  return (MULTI_BYTE as readonly string[]).includes(encoding);
}

/** Tables that were needed before. */
const tables = new Map<MultiByteEncoding, MultiByte>();

/** How an encoding of several bytes a character writes them. */
export async function tableOf(encoding: MultiByteEncoding): Promise<MultiByte> {
  const table = tables.get(encoding) ?? new (await import("./multi-byte.js")).MultiByte(encoding);
  tables.set(encoding, table);
  return table;
}

/** How many bytes each character of a text takes that was opened in this encoding; `null` where that is one. */
export function widthsIn(encoding: Encoding): ((char: string) => number) | null {
  return isMultiByte(encoding) ? (char) => tables.get(encoding)?.widthOf(char) ?? 2 : null;
}

/** Reads of so few bytes are answered from what was read around them. */
const SMALL = 1 << 10;
/** Reads that go on from one to the next so near are answered from so many bytes. */
const AHEAD = 1 << 16;

class Utf8View implements TextSource {
  readonly encoding = "utf-8";
  readonly name: string;
  readonly size: number;
  constructor(
    private readonly source: ByteSource,
    readonly bom: boolean,
  ) {
    this.name = source.name;
    this.size = source.size;
  }
  async read(start: number, end: number): Promise<Uint8Array> {
    if (end - start > SMALL) return this.source.read(start, end);
    const to = Math.min(end, this.size);
    const { at, bytes } = start >= this.near.at && to <= this.near.at + this.near.bytes.length ? this.near : await this.readNear(start, to);
    return copied(bytes, start - at, Math.max(start, to) - at);
  }
  chunks(start?: number): AsyncIterable<Uint8Array> {
    return this.source.chunks(start);
  }
  encodeBack(text: Uint8Array): Uint8Array {
    return text;
  }
  /** What stands around the place that was looked at last: who edits a value looks before it, at it and behind it, and goes on to the next. */
  private near: { at: number; bytes: Uint8Array } = { at: 0, bytes: new Uint8Array(0) };
  private async readNear(start: number, end: number): Promise<{ at: number; bytes: Uint8Array }> {
    const last = this.near.at + this.near.bytes.length;
    const goesOn = start >= last && start - last < AHEAD;
    const at = Math.max(0, start - SMALL);
    this.near = { at, bytes: await this.source.read(at, end + (goesOn ? AHEAD : SMALL)) };
    return this.near;
  }
  missing(): string | null {
    return null;
  }
}

/** One way of writing characters as bytes. */
interface Codec {
  /** How many of these bytes are whole characters. */
  whole(bytes: Uint8Array): number;
  /** UTF-8 for whole characters; `null` when they are not well formed. */
  decode(bytes: Uint8Array): Uint8Array | null;
  /** Bytes that are no whole character can stand at the end. */
  readonly endsAnyhow?: true;
  encode(text: string): Uint8Array;
  /** The first character that cannot be written. */
  missing(text: string): string | null;
}

function utf16(encoding: "utf-16le" | "utf-16be"): Codec {
  const little = encoding === "utf-16le" ? 1 : 0;
  const decoder = new TextDecoder(encoding, { fatal: true, ignoreBOM: true });
  return {
    whole(bytes) {
      const whole = bytes.length - (bytes.length % 2);
      const high = whole >= 2 && (bytes[whole - 2 + little] & 0xfc) === 0xd8;
      return high ? whole - 2 : whole;
    },
    decode(bytes) {
      try {
        return encode(decoder.decode(bytes));
      } catch {
        return null;
      }
    },
    encode(text) {
      const bytes = new Uint8Array(text.length * 2);
      for (let i = 0; i < text.length; i++) {
        const unit = text.charCodeAt(i);
        bytes[2 * i + little] = unit >> 8;
        bytes[2 * i + 1 - little] = unit & 0xff;
      }
      return bytes;
    },
    missing: () => null,
  };
}

/** Several bytes a character; bytes that are none stand for themselves. */
function multiByte(table: MultiByte): Codec {
  return {
    whole: (bytes) => table.whole(bytes),
    decode: (bytes) => encode(table.text(bytes)),
    endsAnyhow: true,
    encode: (text) => table.bytes(text),
    missing: (text) => table.missing(text),
  };
}

/** One byte a character: all 256 of them stand for something, so the way there and back is exact. */
function oneByte(chars: readonly string[]): Codec {
  const isAscii = chars.every((char, byte) => byte >= 0x80 || char === String.fromCharCode(byte));
  const bytesOf = new Map(chars.map((char, byte) => [char, byte]));
  const utf8 = chars.map((char) => encode(char));
  const out = new ByteWriter(1 << 16);
  return {
    whole: (bytes) => bytes.length,
    decode(bytes) {
      out.clear();
      out.ensure(3 * bytes.length);
      for (const byte of bytes) {
        if (isAscii && byte < 0x80) out.bytes[out.length++] = byte;
        else for (const part of utf8[byte]) out.bytes[out.length++] = part;
      }
      return out.take();
    },
    encode: (text) => Uint8Array.from([...text], (char) => bytesOf.get(char) ?? 0x3f),
    missing: (text) => [...text].find((char) => !bytesOf.has(char)) ?? null,
  };
}

/** Characters by byte. The platform's own tables, but for the two that it does not tell apart. */
export function codePage(encoding: string): string[] {
  if (encoding === "iso-8859-1" || encoding === "us-ascii") return Array.from({ length: 256 }, (_, byte) => String.fromCharCode(byte));
  if (encoding === "windows-1252") return Array.from({ length: 256 }, (_, byte) => WINDOWS_1252[byte - 0x80] ?? String.fromCharCode(byte));
  const decoder = new TextDecoder(encoding);
  return Array.from({ length: 256 }, (_, byte) => {
    const char = decoder.decode(Uint8Array.of(byte));
    // bytes that stand for nothing keep a place of their own, out of the way of text
    return char === "\ufffd" || char === "" ? String.fromCharCode(0xf700 + byte) : char;
  });
}

/** Bytes 0x80 to 0x9f of windows-1252 (the Encoding Standard's index); where it has nothing, the control character stays. */
const WINDOWS_1252 = [..."€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ"];

/** Blocks of the view that are kept decoded. */
const RECENT = 4;

/** Blocks of whole characters; where each begins in the source and in the view is remembered. */
class RecodedView implements TextSource {
  readonly name: string;
  size: number;
  private readonly blocks: { view: number; source: number }[] = [];
  private readonly recent = new Map<number, Uint8Array>();
  private complete = false;

  constructor(
    private readonly source: ByteSource,
    readonly encoding: Encoding,
    private readonly codec: Codec,
    readonly bom: boolean,
  ) {
    this.name = source.name;
    this.size = source.size;
  }

  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    const from = start === 0 ? undefined : this.blockBefore(start);
    let view = from?.view ?? 0;
    let at = from?.source ?? 0;
    let rest: Uint8Array = new Uint8Array(0);
    for await (const chunk of this.source.chunks(at)) {
      const bytes = rest.length === 0 ? chunk : concat([rest, chunk]);
      const whole = this.codec.whole(bytes);
      rest = copied(bytes, whole);
      const text = this.codec.decode(bytes.subarray(0, whole));
      if (text === null) throw new SourceError("utf16", {}, { file: this.name, byte: at });
      this.note(view, at);
      at += whole;
      const skip = Math.max(0, start - view);
      view += text.length;
      if (skip < text.length) yield text.subarray(skip);
    }
    if (rest.length > 0) {
      const text = this.codec.endsAnyhow === true ? this.codec.decode(rest) : null;
      if (text === null) throw new SourceError("utf16", {}, { file: this.name, byte: at });
      this.note(view, at);
      const skip = Math.max(0, start - view);
      view += text.length;
      if (skip < text.length) yield text.subarray(skip);
    }
    this.size = view;
    this.complete = true;
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    const pieces: Uint8Array[] = [];
    let left = end - start;
    for await (const chunk of this.complete ? this.known(start) : this.chunks(start)) {
      const piece = copied(chunk, 0, left);
      pieces.push(piece);
      left -= piece.length;
      if (left <= 0) break;
    }
    return concat(pieces);
  }

  /** After a whole pass: the view from `start` on, block by block. Edits stand close together: the blocks read last are kept. */
  private async *known(start: number): AsyncIterable<Uint8Array> {
    for (let b = Math.max(0, this.indexBefore(start)); b < this.blocks.length; b++) {
      const { view, source } = this.blocks[b];
      const end = this.blocks[b + 1]?.source ?? this.source.size;
      const text = this.recent.get(b) ?? this.codec.decode(await this.source.read(source, end));
      if (text === null) throw new SourceError("utf16", {}, { file: this.name, byte: source });
      this.recent.delete(b);
      this.recent.set(b, text);
      if (this.recent.size > RECENT) this.recent.delete(this.recent.keys().next().value!);
      const skip = Math.max(0, start - view);
      if (skip < text.length) yield text.subarray(skip);
    }
  }

  encodeBack(text: Uint8Array): Uint8Array {
    return this.codec.encode(new TextDecoder("utf-8", { ignoreBOM: true }).decode(text));
  }

  missing(text: string): string | null {
    return this.codec.missing(text);
  }

  private note(view: number, source: number): void {
    if (!this.complete && view >= (this.blocks.at(-1)?.view ?? -1) + 1) this.blocks.push({ view, source });
  }

  private blockBefore(view: number): { view: number; source: number } | undefined {
    return this.blocks[this.indexBefore(view)];
  }

  private indexBefore(view: number): number {
    let low = 0;
    let high = this.blocks.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.blocks[middle].view <= view) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  }
}

/** Passes a source on and shows each chunk of the first whole pass to `tap`. */
export function tapped(source: ByteSource, tap: (chunk: Uint8Array) => void): ByteSource {
  let first = true;
  return {
    name: source.name,
    size: source.size,
    read: (start, end) => source.read(start, end),
    async *chunks(start = 0) {
      const shown = first && start === 0;
      first = false;
      for await (const chunk of source.chunks(start)) {
        if (shown) tap(chunk);
        yield chunk;
      }
    },
  };
}
