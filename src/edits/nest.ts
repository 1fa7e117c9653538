/**
 * Nesting splices: what lies inside a record that moves goes along with it, what lies inside a record
 * that is removed goes with that.
 */
import { pushAll } from "../bytes/lists.js";
import type { Span } from "./edit.js";
import type { ForeignPiece, Piece, Splice } from "./splice.js";

/** A cut, and the records it takes out. */
interface Cut {
  readonly splice: Splice;
  readonly spans: readonly Span[];
}

export function nestSplices(
  splices: readonly Splice[],
  cuts: readonly Cut[],
  moved: readonly Span[],
  removed: readonly Span[],
  leaving: readonly ForeignPiece[],
): Splice[] {
  const isMoved = new Set([...moved, ...leaving].map(spanKey));
  const tree = new SpanTree(removed);
  const inside = new Map<string, Splice[]>();
  const outside: Splice[] = [];
  const put = (splice: Splice, home: Span | null): void => {
    if (home === null) outside.push(splice);
    else if (isMoved.has(spanKey(home))) inside.set(spanKey(home), [...(inside.get(spanKey(home)) ?? []), splice]);
    // else: inside a record that goes away
  };
  for (const splice of splices) put(splice, tree.around(splice, null));
  for (const { splice, spans } of cuts) put(splice, tree.around(splice, new Set(spans.map(spanKey))));

  const filled = (piece: Piece): Piece => {
    if (piece instanceof Uint8Array || "source" in piece) return piece;
    if ("group" in piece) return { group: piece.group.map(filled) };
    const own = inside.get(spanKey(piece));
    return own === undefined ? piece : { ...piece, splices: [...piece.splices, ...own.map(fill)] };
  };
  const fill = (splice: Splice): Splice => ({ ...splice, pieces: splice.pieces.map(filled) });
  for (const piece of leaving) pushAll(piece.splices, (inside.get(spanKey(piece)) ?? []).map(fill));
  return outside.map(fill);
}

function spanKey(span: Span): string {
  return `${span.start} ${span.end}`;
}

/** Spans that nest or are apart, and which of them is the innermost around a place. */
class SpanTree {
  private readonly spans: readonly Span[];
  private readonly parents: number[] = [];

  constructor(spans: readonly Span[]) {
    this.spans = [...spans].sort((a, b) => a.start - b.start || b.end - a.end);
    const open: number[] = [];
    this.spans.forEach((span, i) => {
      while (open.length > 0 && this.spans[open[open.length - 1]].end <= span.start) open.pop();
      this.parents[i] = open.at(-1) ?? -1;
      open.push(i);
    });
  }

  around(splice: Splice, except: ReadonlySet<string> | null): Span | null {
    const { home } = splice;
    let low = 0;
    let high = this.spans.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.spans[middle].start <= (home ?? splice.start)) low = middle + 1;
      else high = middle;
    }
    for (let i = low - 1; i >= 0; i = this.parents[i]) {
      const span = this.spans[i];
      if (except?.has(spanKey(span)) === true) continue;
      const within =
        home !== undefined
          ? home >= span.start && home < span.end
          : splice.start === splice.end
            ? splice.start > span.start && splice.start < span.end
            : splice.start >= span.start && splice.end <= span.end;
      if (within) return span;
    }
    return null;
  }
}
