/**
 * Sources that are packed with gzip (RFC 1952): read as what is in them, and packed again by a fold.
 * The platform's own streams do it, in browsers and in Node; they check the CRC.
 */
import { SourceError } from "../errors/error.js";
import { fingerprinter } from "./hash.js";
import { MemorySource, type ByteSource } from "./source.js";
import { concat, copied } from "./writer.js";

/** What is in a packed file is held in memory: no more than this of it. */
const MOST = 1 << 30;
/** Text does not shrink by more than this: what does was made to burst. */
const MOST_RATIO = 1000;
const SUSPICIOUS = 1 << 26;

type Sink = (bytes: Uint8Array) => void | Promise<void>;

/** The source itself, or what is in it; `packed` is then the file as it is. */
export async function unpacked(source: ByteSource): Promise<{ source: ByteSource; packed: ByteSource | null }> {
  const head = await source.read(0, 3);
  if (head[0] !== 0x1f || head[1] !== 0x8b || head[2] !== 8) return { source, packed: null };
  const name = source.name.replace(/\.gz$/i, "");
  return { source: new MemorySource(await unpack(source), name), packed: source };
}

async function unpack(source: ByteSource): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  const reader = streamOf(source).pipeThrough(new DecompressionStream("gzip")).getReader();
  try {
    for (let read = await reader.read(); !read.done; read = await reader.read()) {
      pieces.push(read.value);
      size += read.value.length;
      if (size > MOST || (size > SUSPICIOUS && size > MOST_RATIO * source.size)) break;
    }
  } catch {
    throw new SourceError("gzip-broken", {}, { file: source.name });
  }
  if (size > MOST || (size > SUSPICIOUS && size > MOST_RATIO * source.size)) {
    await reader.cancel();
    throw new SourceError("gzip-large", { most: MOST, packed: source.size }, { file: source.name });
  }
  return concat(pieces);
}

function streamOf(source: ByteSource): ReadableStream<Uint8Array<ArrayBuffer>> {
  const chunks = source.chunks()[Symbol.asyncIterator]();
  return new ReadableStream({
    async pull(controller) {
      const next = await chunks.next();
      if (next.done === true) controller.close();
      else controller.enqueue(copied(next.value));
    },
  });
}

/** Packs what is written and hands it on; `end` gives the fingerprint and the length of the packed file. */
export async function packer(sink: Sink): Promise<{ write: Sink; end(): Promise<{ fingerprint: string; size: number }> }> {
  const { writable, readable } = new CompressionStream("gzip");
  const hash = await fingerprinter();
  const writer = writable.getWriter();
  const reader = (readable as ReadableStream<Uint8Array>).getReader();
  let size = 0;
  const drained = (async () => {
    for (let read = await reader.read(); !read.done; read = await reader.read()) {
      hash.update(read.value);
      size += read.value.length;
      await sink(read.value);
    }
  })();
  return {
    write: (bytes) => writer.write(copied(bytes)),
    async end() {
      await writer.close();
      await drained;
      return { fingerprint: hash.digest(), size };
    },
  };
}
