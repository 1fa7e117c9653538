/** Where what stands in the files of a source is in what is written from them. */
import type { ByteSource } from "../bytes/source.js";
import type { Piece, Splice } from "../edits/splice.js";
import { pushTo } from "../model/push-to.js";
import type { SourceText } from "./parts.js";

/** A place in a file: a byte of its text. */
export interface Start {
  readonly file: string;
  readonly at: number;
}

/** Where that is then: nowhere when nothing of it is left. */
export type Shift = (start: Start) => readonly Start[];

/** What a file is called among others; one alone may be called something else when it is written. */
export function nameIn(parts: readonly SourceText[], { name }: SourceText): string {
  return parts.length === 1 ? "" : name;
}

/** Bytes of a file that stand somewhere else, or where they stood, in what is written. */
interface Run {
  readonly from: number;
  readonly to: number;
  readonly file: string;
  readonly at: number;
}

/** Where bytes of files go that are written with these splices, by file. */
export function shiftBy(parts: readonly SourceText[], splices: readonly (readonly Splice[])[]): Shift {
  const runs = new Map<string, Run[]>();
  const begins = new Map<string, Start[]>();
  const nameOf = new Map(parts.map((part) => [part.text as ByteSource, nameIn(parts, part)]));
  for (const part of parts) {
    const { index } = part;
    const name = nameIn(parts, part);
    let at = 0;
    const copy = (from: number, to: number, file: string, own: readonly Splice[]): void => {
      let done = from;
      const take = (end: number): void => {
        pushTo(runs, file, { from: done, to: end, file: name, at });
        at += end - done;
      };
      for (const { start, end, pieces } of own) {
        take(start);
        pushTo(begins, `${start} ${file}`, { file: name, at });
        for (const piece of pieces) put(piece, file);
        done = end;
      }
      take(to);
    };
    const put = (piece: Piece, file: string): void => {
      if (piece instanceof Uint8Array) at += piece.length;
      else if ("group" in piece) for (const one of piece.group) put(one, file);
      else copy(piece.start, piece.end, "source" in piece ? (nameOf.get(piece.source) ?? file) : file, piece.splices);
    };
    copy(0, Infinity, name, splices[index] ?? []);
  }
  for (const list of runs.values()) list.sort((a, b) => a.from - b.from);
  return ({ file, at }) => {
    const list = runs.get(file) ?? [];
    let [low, high] = [0, list.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (list[middle].from <= at) low = middle + 1;
      else high = middle;
    }
    const copied = list.slice(Math.max(0, low - 1), low).filter((run) => at < run.to);
    // what is written where the record begins may be its beginning
    return [...copied.map((run) => ({ file: run.file, at: run.at + at - run.from })), ...(begins.get(`${at} ${file}`) ?? [])];
  };
}
