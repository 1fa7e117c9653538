/**
 * Runs of records that no edit touches, in lists whose records do not depend on each other. Left out of a source, they leave
 * the records that are edited, and the first and the last ones of each list; for a proof also one behind each edit: what is
 * written wrongly so that it reaches beyond its record reaches into that one.
 */
import { sortSplices, type Piece, type Splice } from "../edits/splice.js";
import type { ByteSource } from "../bytes/source.js";
import type { WrongTotal } from "../formats/format.js";
import type { CutPoints } from "./cuts.js";
import { spliced } from "./spliced.js";

/** Offsets are those of the source. */
interface Run {
  readonly start: number;
  readonly end: number;
  /** By how much what the edits before it write is longer than what stood there. */
  readonly grown: number;
  /** Bytes and lines of this run and those before it. */
  readonly bytes: number;
  readonly lines: number;
}

export class UntouchedRuns {
  private readonly runs: Run[] = [];

  /** `also`: offsets in the source that count as touched, in order; nothing where what stands behind the edits does not matter. */
  constructor(
    cuts: CutPoints,
    private readonly size: number,
    splices: readonly Splice[],
    also: readonly number[] | null = null,
  ) {
    const { count } = cuts;
    // what stands before the first record belongs to it
    const begin = (record: number): number => (record <= 0 ? 0 : record >= count ? size : cuts.at(record));
    const line = (record: number): number => (record <= 0 ? 1 : cuts.line(record));
    const touch = [...sortSplices(splices), ...(also ?? []).map((at) => ({ start: at, end: at, pieces: [] }))].sort(
      (a, b) => a.start - b.start,
    );
    let touched = 1; // records before this one have been dealt with
    let [grown, bytes, passed] = [0, 0, 0];
    const leave = (to: number): void => {
      for (let from = touched, next = from; from < to; from = next + 1) {
        // as far as the list goes
        for (next = from; next < to && cuts.list(next + 1) === cuts.list(from);) next++;
        if (next === from) continue;
        const [start, end] = [begin(from), begin(next)];
        bytes += end - start;
        passed += line(next) - line(from);
        this.runs.push({ start, end, grown, bytes, lines: passed });
      }
    };
    for (const { start, end, pieces } of touch) {
      // what is put between two records may belong to either
      let first = touched;
      while (first < count && begin(first + 1) < start) first++;
      leave(first);
      touched = Math.max(touched, first);
      while (touched < count && begin(touched) <= end) touched++;
      if (also !== null) touched++; // the one behind
      grown += sizeOf(pieces) - (end - start);
    }
    leave(count - 1);
  }

  /** What share of the source they are. */
  get share(): number {
    return (this.runs.at(-1)?.bytes ?? 0) / this.size;
  }

  /** The source without them. */
  leftOutOf(source: ByteSource): ByteSource {
    return without(source, this.runs);
  }

  /** What the edits make of the source, without them. */
  leftOutOfEdited(edited: ByteSource, more: readonly Splice[] = []): ByteSource {
    const runs = this.runs.map(({ start, end, grown }) => ({ start: start + grown, end: end + grown }));
    return without(edited, runs, more);
  }

  /** Is the offset in one of them? */
  hold(at: number): boolean {
    const run = this.before((one) => one.start <= at);
    return run !== undefined && at < run.end;
  }

  /** The offset in the source of a byte that they hold in the edited source; -1 where they do not. */
  sourceOf(at: number): number {
    const run = this.before((one) => one.start + one.grown <= at);
    return run === undefined || at >= run.end + run.grown ? -1 : at - run.grown;
  }

  /** A total that was found in what is left, by its place in the whole edited source. */
  placed(total: WrongTotal): WrongTotal {
    const run = this.before((one) => one.end + one.grown - one.bytes <= total.start);
    if (run === undefined) return total;
    const { start, end, line, path, said, actual } = total;
    return { start: start + run.bytes, end: end + run.bytes, line: line + run.lines, path, said, actual, written: () => total.written() };
  }

  /** The last run that is so: the first ones are. */
  private before(is: (run: Run) => boolean): Run | undefined {
    let [low, high] = [0, this.runs.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (is(this.runs[middle])) low = middle + 1;
      else high = middle;
    }
    return this.runs[low - 1];
  }
}

function without(source: ByteSource, runs: readonly Pick<Run, "start" | "end">[], more: readonly Splice[] = []): ByteSource {
  const cuts = runs.map(({ start, end }) => ({ start, end, pieces: [] }));
  return spliced(source, [...more, ...cuts]);
}

function sizeOf(pieces: readonly Piece[]): number {
  let size = 0;
  for (const piece of pieces) {
    if (piece instanceof Uint8Array) size += piece.length;
    else if ("group" in piece) size += sizeOf(piece.group);
    else {
      size += piece.end - piece.start;
      for (const splice of piece.splices) size += sizeOf(splice.pieces) - (splice.end - splice.start);
    }
  }
  return size;
}
