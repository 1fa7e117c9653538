/**
 * Splices: byte runs of the source and what takes their place.
 *
 * Contract: splices of one list do not overlap; they are applied in order of `start`, and those that
 * insert at one place (`start === end`) in the order of the list. An insertion at the end of a cut
 * comes after the cut. A piece may be a run of the source itself, with splices of its own inside: that
 * is how a record moves without being read into memory.
 */
import type { ByteSource } from "../bytes/source.js";

export type Piece = Uint8Array | OwnPiece | ForeignPiece | { readonly group: readonly Piece[] };

/** A run of the source itself. */
export interface OwnPiece {
  readonly start: number;
  readonly end: number;
  readonly splices: Splice[];
}

/** A run of another file; its splices are filled in when that file's edits have been rendered. */
export interface ForeignPiece {
  readonly source: ByteSource;
  readonly start: number;
  readonly end: number;
  readonly splices: Splice[];
}

export interface Splice {
  /** Bytes `[start, end)` of the source are replaced. */
  readonly start: number;
  readonly end: number;
  readonly pieces: readonly Piece[];
  /** A place inside the record that an insertion belongs to, where records end together with what is in them. */
  readonly home?: number;
}

/** Two edits want the same bytes. */
export class OverlapError extends RangeError {
  constructor(
    readonly byte: number,
    end: number,
  ) {
    super(`splices overlap at byte ${byte}: the one before ends at ${end}`);
  }
}

/** Sorts by place, keeping the order of ties, and refuses overlaps. */
export function sortSplices(splices: readonly Splice[]): Splice[] {
  const sorted = splices.map((splice, i) => ({ splice, i }));
  sorted.sort((a, b) => a.splice.start - b.splice.start || a.splice.end - b.splice.end || a.i - b.i);
  // an insertion where a cut ends belongs behind the cut; one where it begins stands before it
  let end = -1;
  for (const { splice } of sorted) {
    if (splice.end < splice.start || splice.start < end) {
      throw new OverlapError(splice.start, end);
    }
    end = splice.end;
  }
  return sorted.map(({ splice }) => splice);
}

/** The spliced bytes, piece by piece. */
export async function* applySplices(source: ByteSource, splices: readonly Splice[], from = 0, to = Infinity): AsyncIterable<Uint8Array> {
  const sorted = sortSplices(splices);
  let next = 0;
  let at = from; // source offset of the first byte not yet dealt with
  for await (const chunk of source.chunks(from)) {
    const start = from;
    from += chunk.length;
    const end = Math.min(from, to);
    while (next < sorted.length && sorted[next].start < end) {
      const splice = sorted[next++];
      if (splice.start > at) yield chunk.subarray(at - start, splice.start - start);
      for (const piece of splice.pieces) {
        if (piece instanceof Uint8Array) yield piece;
        else yield* writePiece(source, piece);
      }
      at = Math.max(at, splice.end);
    }
    if (at < end) {
      yield chunk.subarray(at - start, end - start);
      at = end;
    }
    if (from >= to) break;
  }
  // what stands behind the last byte
  while (next < sorted.length) for (const piece of sorted[next++].pieces) yield* writePiece(source, piece);
}

async function* writePiece(source: ByteSource, piece: Piece): AsyncIterable<Uint8Array> {
  if (piece instanceof Uint8Array) yield piece;
  else if ("group" in piece) for (const part of piece.group) yield* writePiece(source, part);
  else yield* applySplices("source" in piece ? piece.source : source, piece.splices, piece.start, piece.end);
}
