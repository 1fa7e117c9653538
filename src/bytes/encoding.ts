/**
 * Scanners read UTF-8. A source in UTF-16 is seen through a view in UTF-8, and written back as it was;
 * both ways are exact, so splices in the view are splices in the source.
 */
import { SourceError } from "../errors/error.js";
import type { ByteSource } from "./source.js";
import { concat, encode } from "./writer.js";

export type Encoding = "utf-8" | "utf-16le" | "utf-16be";

/** A source as UTF-8 text, and the way back. */
export interface TextSource extends ByteSource {
  readonly encoding: Encoding;
  /** Starts with a byte-order mark. */
  readonly bom: boolean;
  /** Turns a piece of the view (whole characters) into bytes of the source's encoding. */
  encodeBack(text: Uint8Array): Uint8Array;
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

export async function openText(source: ByteSource): Promise<TextSource> {
  const { encoding, bom } = sniffEncoding(await source.read(0, 4));
  return encoding === "utf-8" ? new Utf8View(source, bom) : new Utf16View(source, encoding, bom);
}

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
  read(start: number, end: number): Promise<Uint8Array> {
    return this.source.read(start, end);
  }
  chunks(start?: number): AsyncIterable<Uint8Array> {
    return this.source.chunks(start);
  }
  encodeBack(text: Uint8Array): Uint8Array {
    return text;
  }
}

/** Blocks of whole characters; where each begins in the source and in the view is remembered. */
class Utf16View implements TextSource {
  readonly name: string;
  size: number;
  private readonly blocks: { view: number; source: number }[] = [];
  private complete = false;

  constructor(
    private readonly source: ByteSource,
    readonly encoding: "utf-16le" | "utf-16be",
    readonly bom: boolean,
  ) {
    this.name = source.name;
    this.size = source.size;
  }

  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    const from = start === 0 ? undefined : await this.blockBefore(start);
    let view = from?.view ?? 0;
    let at = from?.source ?? 0;
    let rest: Uint8Array = new Uint8Array(0);
    for await (const chunk of this.source.chunks(at)) {
      const bytes = concat([rest, chunk]);
      let whole = bytes.length - (bytes.length % 2);
      if (whole >= 2 && this.isHigh(bytes, whole - 2)) whole -= 2;
      rest = bytes.slice(whole);
      const text = this.decode(bytes.subarray(0, whole), at);
      this.note(view, at);
      at += whole;
      const skip = Math.max(0, start - view);
      view += text.length;
      if (skip < text.length) yield text.subarray(skip);
    }
    if (rest.length > 0) throw new SourceError("utf16", {}, { file: this.name, byte: at });
    this.size = view;
    this.complete = true;
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    const pieces: Uint8Array[] = [];
    let left = end - start;
    for await (const chunk of this.chunks(start)) {
      const piece = chunk.slice(0, left);
      pieces.push(piece);
      left -= piece.length;
      if (left <= 0) break;
    }
    return concat(pieces);
  }

  encodeBack(text: Uint8Array): Uint8Array {
    const units = new TextDecoder("utf-8", { ignoreBOM: true }).decode(text);
    const bytes = new Uint8Array(units.length * 2);
    const little = this.encoding === "utf-16le" ? 1 : 0;
    for (let i = 0; i < units.length; i++) {
      const unit = units.charCodeAt(i);
      bytes[2 * i + little] = unit >> 8;
      bytes[2 * i + 1 - little] = unit & 0xff;
    }
    return bytes;
  }

  private isHigh(bytes: Uint8Array, at: number): boolean {
    return (bytes[at + (this.encoding === "utf-16le" ? 1 : 0)] & 0xfc) === 0xd8;
  }

  private decode(bytes: Uint8Array, at: number): Uint8Array {
    try {
      return encode(new TextDecoder(this.encoding, { fatal: true, ignoreBOM: true }).decode(bytes));
    } catch {
      throw new SourceError("utf16", {}, { file: this.name, byte: at });
    }
  }

  private note(view: number, source: number): void {
    if (!this.complete && view >= (this.blocks.at(-1)?.view ?? -1) + 1) this.blocks.push({ view, source });
  }

  private blockBefore(view: number): Promise<{ view: number; source: number } | undefined> {
    let low = 0;
    let high = this.blocks.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.blocks[middle].view <= view) low = middle + 1;
      else high = middle;
    }
    return Promise.resolve(this.blocks[low - 1]);
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
