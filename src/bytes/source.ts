/**
 * Where bytes come from: a whole array, a `Blob` or (in `hatch-fold/node`) a file.
 *
 * Everything that reads a source does it through this interface: a forward pass in chunks, and
 * small random reads of places found in that pass.
 */
import { concat } from "./writer.js";

/** Bytes that are read from end to end, and here and there again. */
export interface ByteSource {
  /** What people call it; used in messages. */
  readonly name: string;
  /** Length in bytes. */
  readonly size: number;
  /** Bytes `[start, end)`; shorter when the source ends before `end`. */
  read(start: number, end: number): Promise<Uint8Array>;
  /** All bytes from `start` on. A chunk is valid only until the next one is asked for. */
  chunks(start?: number): AsyncIterable<Uint8Array>;
}

/** What the public functions take as a source. */
export type SourceInput = ByteSource | Uint8Array | Blob | ReadableStream<Uint8Array> | string;

const CHUNK = 1 << 18;

/** A source over bytes in memory. */
export class MemorySource implements ByteSource {
  readonly size: number;
  constructor(
    readonly bytes: Uint8Array,
    readonly name = "source",
  ) {
    this.size = bytes.length;
  }
  read(start: number, end: number): Promise<Uint8Array> {
    return Promise.resolve(this.bytes.subarray(start, end));
  }
  // oxlint-disable-next-line typescript/require-await -- the interface is asynchronous
  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    for (let at = start; at < this.size; at += CHUNK) yield this.bytes.subarray(at, Math.min(at + CHUNK, this.size));
  }
}

/** A source over bytes in memory that came in pieces. */
export class PiecesSource implements ByteSource {
  readonly size: number;
  /** Where each piece begins. */
  private readonly starts: number[] = [];

  constructor(
    private readonly pieces: readonly Uint8Array[],
    readonly name = "source",
  ) {
    let size = 0;
    for (const { length } of pieces) {
      this.starts.push(size);
      size += length;
    }
    this.size = size;
  }

  read(start: number, end: number): Promise<Uint8Array> {
    const first = this.pieceAt(start);
    const found: Uint8Array[] = [];
    for (let i = first; i < this.pieces.length && this.starts[i] < end; i++)
      found.push(this.pieces[i].subarray(Math.max(0, start - this.starts[i]), Math.max(0, end - this.starts[i])));
    return Promise.resolve(found.length === 1 ? found[0] : concat(found));
  }

  // oxlint-disable-next-line typescript/require-await -- the interface is asynchronous
  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    for (let i = this.pieceAt(start); i < this.pieces.length; i++) yield this.pieces[i].subarray(Math.max(0, start - this.starts[i]));
  }

  private pieceAt(offset: number): number {
    let [low, high] = [0, this.starts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.starts[middle] <= offset) low = middle + 1;
      else high = middle;
    }
    return Math.max(0, low - 1);
  }
}

/** A source over a `Blob` or `File`, read piece by piece. */
export class BlobSource implements ByteSource {
  readonly size: number;
  readonly name: string;
  constructor(
    readonly blob: Blob,
    name?: string,
  ) {
    this.size = blob.size;
    this.name = name ?? ("name" in blob && typeof blob.name === "string" ? blob.name : "source");
  }
  async read(start: number, end: number): Promise<Uint8Array> {
    return new Uint8Array(await this.blob.slice(start, end).arrayBuffer());
  }
  /** The next piece is on its way while one is looked at: a read of a `Blob` takes its time, whatever its size. */
  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    const piece = (at: number): Promise<Uint8Array> => this.read(at, Math.min(at + BLOB_PIECE, this.size));
    let next = start < this.size ? piece(start) : null;
    for (let at = start + BLOB_PIECE; next !== null; at += BLOB_PIECE) {
      const chunk = await next;
      next = at < this.size ? piece(at) : null;
      // nobody may ask for it any more
      next?.catch(() => undefined);
      yield chunk;
    }
  }
}
const BLOB_PIECE = 1 << 21;

/** Wraps any accepted input. A string is taken as the text itself; a stream is read to its end first. */
export async function toSource(input: SourceInput, name?: string): Promise<ByteSource> {
  if (typeof input === "string") return new MemorySource(new TextEncoder().encode(input), name);
  if (input instanceof Uint8Array) return new MemorySource(input, name);
  if (input instanceof Blob) return new BlobSource(input, name);
  if (input instanceof ReadableStream) return new BlobSource(await new Response(input as BodyInit).blob(), name);
  return input;
}

/** The same source under another name. */
export function renamed(source: ByteSource, name: string): ByteSource {
  return { name, size: source.size, read: (start, end) => source.read(start, end), chunks: (start) => source.chunks(start) };
}

/** All bytes of a source, for small files such as plans and receipts. */
export async function readAll(source: ByteSource): Promise<Uint8Array> {
  return source.read(0, source.size);
}

/** Longest part of a line in which columns are counted, and how much behind a place is shown. */
const MOST_OF_LINE = 1 << 20;
const BEHIND = 200;

/** Line and column (both from 1, columns in characters) of a byte offset, found by reading up to it. */
export async function lineAndColumn(source: ByteSource, byte: number): Promise<{ line: number; column: number; text: string }> {
  let line = 1;
  let lineStart = 0;
  let at = 0;
  for await (const chunk of source.chunks()) {
    for (let i = 0; i < chunk.length && at + i < byte; i++) {
      if (chunk[i] === 0x0a) {
        line++;
        lineStart = at + i + 1;
      }
    }
    at += chunk.length;
    if (at >= byte) break;
  }
  // what is shown of the line; a column is counted over the whole of it
  const whole = await source.read(lineStart, Math.min(byte, lineStart + MOST_OF_LINE) + BEHIND);
  const decoder = new TextDecoder("utf-8", { ignoreBOM: lineStart > 0 });
  const column = [...decoder.decode(whole.subarray(0, byte - lineStart))].length + 1;
  const [text] = new TextDecoder("utf-8", { ignoreBOM: lineStart > 0 }).decode(whole).split(/\r?\n|\r/);
  return { line, column, text };
}
