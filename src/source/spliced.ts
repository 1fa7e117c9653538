/** A source as its edits make it. */
import type { ByteSource } from "../bytes/source.js";
import { concat } from "../bytes/writer.js";
import { applySplices, type Splice } from "../edits/splice.js";

/** A source with splices in it, as a source of its own: all of it is read to read a part, and its size is that of the source. */
export function spliced(source: ByteSource, splices: readonly Splice[]): ByteSource {
  const { name, size } = source;
  const read = async (start: number, end: number): Promise<Uint8Array> => {
    const pieces: Uint8Array[] = [];
    let at = 0;
    for await (const piece of applySplices(source, splices)) {
      if (at < end && at + piece.length > start) pieces.push(piece.slice(Math.max(0, start - at), end - at));
      at += piece.length;
      if (at >= end) break;
    }
    return concat(pieces);
  };
  return { name, size, read, chunks: () => applySplices(source, splices) };
}
