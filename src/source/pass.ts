/** Runs a scanner over a whole source. */
import { lineAndColumn, type ByteSource } from "../bytes/source.js";
import { HatchFoldError } from "../errors/error.js";
import { excerptOf } from "../errors/excerpt.js";
import type { Scanner } from "../formats/format.js";
import type { Phase, Watch } from "./watch.js";
import type { SourceText } from "./parts.js";

export interface ScanOptions extends Watch {
  /** What the pass is for. */
  readonly phase: Phase;
  /** What it gives is whether to go on. */
  readonly afterPiece?: () => Promise<boolean>;
  /** Size of pieces; those of the usual size, unless said. */
  readonly piece?: number;
}

/** Pieces of this size keep the window, and so the positions, small. */
export const PIECE = 1 << 18;
/**
 * The beginning of a large source goes through in small pieces: tokens are then cut in every way there is before the
 * engine compiles the scanner, and it is not thrown back to the interpreter each time a new way comes up.
 */
const WARM_UP = 1 << 16;
const WARM_UP_PIECE = 61;
const LARGE = 1 << 20;

/** Reads a source to its end; false when it was left before. */
export async function scanAll(source: ByteSource, scanner: Scanner, options: ScanOptions): Promise<boolean> {
  let done = 0;
  const { phase, piece = PIECE, afterPiece, signal } = options;
  const warmUp = source.size < LARGE ? 0 : WARM_UP;
  try {
    for await (const chunk of source.chunks()) {
      for (let at = 0; at < chunk.length;) {
        signal?.throwIfAborted();
        const size = done + at < warmUp ? WARM_UP_PIECE : piece;
        scanner.write(chunk.subarray(at, at + size));
        at += size;
        if (size === piece && afterPiece !== undefined && !(await afterPiece())) return false;
      }
      done += chunk.length;
      options.progress?.(phase, done, source.size);
    }
    scanner.end();
    return afterPiece === undefined || (await afterPiece());
  } catch (error) {
    throw await placed(error, source);
  }
}

/** Runs a scanner over each file of a source; `begin` gives the scanner for the next one. */
export async function scanParts(parts: readonly SourceText[], begin: (part: SourceText) => Scanner, options: ScanOptions): Promise<void> {
  const size = parts.reduce((sum, part) => sum + part.text.size, 0);
  let before = 0;
  for (const part of parts) {
    const done = before;
    const whole = await scanAll(part.text, begin(part), {
      ...options,
      progress: (phase, bytes) => options.progress?.(phase, done + bytes, size),
    });
    if (!whole) return;
    before += part.text.size;
  }
}

/** Adds file, line and column to an error that knows only its byte. */
export async function placed(error: unknown, source: ByteSource): Promise<unknown> {
  if (error instanceof HatchFoldError && error.place.byte !== undefined && error.place.line === undefined) {
    const utf16 = error.code === "utf16";
    error.place = { ...error.place, file: source.name };
    if (utf16) return error;
    const { line, column, text } = await lineAndColumn(source, error.place.byte!);
    error.place = { ...error.place, line, column };
    error.excerpt = excerptOf(text, column);
  }
  return error;
}
