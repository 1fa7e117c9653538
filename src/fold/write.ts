/** fold: edited tables + source → the source with exactly those changes. */
import type { ByteSource } from "../bytes/source.js";
import type { TextSource } from "../bytes/encoding.js";
import { fingerprinter } from "../bytes/hash.js";
import { TablesError } from "../errors/error.js";
import { spliced } from "../source/spliced.js";
import type { Splice } from "../edits/splice.js";

/** Takes the folded source, piece by piece; a piece is valid only during the call. */
export type ByteSink = (bytes: Uint8Array) => void | Promise<void>;

const FLUSH = 1 << 18;

/** The source is not what was compared any more. */
export function sourceMeanwhile(file: string): TablesError {
  return new TablesError("source-meanwhile", { file }, { file });
}

/** Writes one folded file; returns how long it is and its fingerprint. `corrections` are splices of what the others gave. */
export async function writeFolded(
  text: TextSource,
  splices: readonly Splice[],
  corrections: readonly Splice[],
  sink: ByteSink,
): Promise<{ size: number; fingerprint: string }> {
  const hash = await fingerprinter();
  let size = 0;
  const out = async (bytes: Uint8Array): Promise<void> => {
    hash.update(bytes);
    size += bytes.length;
    await sink(bytes);
  };
  // small pieces are gathered, as thousands of edits make thousands of them; one buffer fills while the other is written
  let gathered = new Uint8Array(FLUSH);
  let spare = new Uint8Array(FLUSH);
  let filled = 0;
  let writing = Promise.resolve();
  const flush = async (): Promise<void> => {
    await writing;
    const bytes = gathered.subarray(0, filled);
    [gathered, spare] = [spare, gathered];
    filled = 0;
    writing = out(text.encodeBack(bytes));
    writing.catch(() => undefined); // told when it is waited for
  };
  for await (const piece of foldedText(text, splices, corrections).chunks()) {
    if (filled + piece.length > gathered.length) {
      if (text.encoding === "utf-8" && filled > 0) await flush();
      if (filled + piece.length > gathered.length) gathered = grown(gathered, filled, filled + piece.length);
    }
    gathered.set(piece, filled);
    filled += piece.length;
  }
  await flush();
  await writing;
  return { size, fingerprint: hash.digest() };
}

/** The folded text, in UTF-8. */
export function foldedText(text: TextSource, splices: readonly Splice[], corrections: readonly Splice[]): ByteSource {
  const edited = spliced(text, splices);
  return corrections.length === 0 ? edited : spliced(edited, corrections);
}

function grown(bytes: Uint8Array, filled: number, size: number): Uint8Array<ArrayBuffer> {
  const larger = new Uint8Array(Math.max(size, bytes.length * 2));
  larger.set(bytes.subarray(0, filled));
  return larger;
}
