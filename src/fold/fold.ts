/** fold: edited tables + source → the source with exactly those changes. */
import { fingerprinter } from "../bytes/hash.js";
import type { Comparison } from "../compare/compare.js";
import { applySplices, sortSplices, type Splice } from "./splice.js";

/** Takes the folded source, piece by piece; a piece is valid only during the call. */
export type ByteSink = (bytes: Uint8Array) => void | Promise<void>;

const FLUSH = 1 << 18;

/** The splices of a comparison, in order. */
export async function planSplices(comparison: Comparison): Promise<Splice[]> {
  const { format, text, manner, edits } = comparison;
  return sortSplices(await format.renderer(text, manner).render(edits.flatMap((row) => row.edits)));
}

/** Writes the folded source; returns how long it is and its fingerprint. */
export async function writeFolded(
  comparison: Comparison,
  splices: readonly Splice[],
  sink: ByteSink,
): Promise<{ size: number; fingerprint: string }> {
  const { text } = comparison;
  const hash = await fingerprinter();
  let size = 0;
  const out = async (bytes: Uint8Array): Promise<void> => {
    hash.update(bytes);
    size += bytes.length;
    await sink(bytes);
  };
  // small pieces are gathered: thousands of edits make thousands of them
  let gathered = new Uint8Array(FLUSH);
  let filled = 0;
  const flush = async (): Promise<void> => {
    if (filled > 0) await out(text.encodeBack(gathered.subarray(0, filled)));
    filled = 0;
  };
  for await (const piece of applySplices(text, splices)) {
    if (filled + piece.length > gathered.length) {
      if (text.encoding === "utf-8") await flush();
      else if (piece.length > 0) gathered = grown(gathered, filled + piece.length);
    }
    if (piece.length > gathered.length) await out(text.encodeBack(piece));
    else {
      gathered.set(piece, filled);
      filled += piece.length;
    }
  }
  await flush();
  return { size, fingerprint: hash.digest() };
}

function grown(bytes: Uint8Array, size: number): Uint8Array<ArrayBuffer> {
  const larger = new Uint8Array(Math.max(size, bytes.length * 2));
  larger.set(bytes);
  return larger;
}
