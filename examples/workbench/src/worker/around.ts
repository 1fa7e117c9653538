/** The lines of a source around what one record changes, and what they are after the fold: both are gone through piece by piece. */
import type { Around, Lines, Named } from "../protocol";
import type { Document } from "./document";

/** Lines around what changed. */
const CONTEXT = 3;
const MOST_LINES = 40;
/** So many bytes before and behind a change are looked at, and so many of the change itself. */
const NEAR = 4000;
const MOST = 1 << 16;
const LINE_FEED = 0x0a;

/** Goes through what a fold would write of the file. */
type Pass = (take: (bytes: Uint8Array) => Promise<void>) => Promise<unknown>;

export async function around(document: Document, table: string, row: number): Promise<Around | null> {
  if (document.files.some(({ name }) => /\.(?:gz|zip)$/i.test(name))) return null;
  const review = await document.settled();
  const how = { unproved: true, partial: true, only: (one: { table: string; row: number }) => one.table === table && one.row === row };
  try {
    const [alone, second] = document.files;
    if (second === undefined) return await linesOf(document, alone, (take) => review.fold({ ...how, sink: take }));
    let changed: string | null = null;
    const leave = (): void => undefined;
    await review.fold({ ...how, sinkFor: (file, unchanged) => ((changed ??= unchanged ? null : file), leave) });
    const file = document.files.find(({ name }) => name === changed);
    if (file === undefined) return null;
    return await linesOf(document, file, (take) => review.fold({ ...how, sinkFor: (name) => (name === changed ? take : leave) }));
  } catch {
    return null;
  }
}

async function linesOf(document: Document, { bytes: source }: Named, pass: Pass): Promise<Around | null> {
  const bytesOf = async (from: number, to: number): Promise<Uint8Array> =>
    new Uint8Array(await source.slice(Math.max(0, from), Math.max(0, to)).arrayBuffer());
  // from the beginning: where the first byte differs, and the lines before it
  let [from, size, lines] = [-1, 0, 0];
  await pass(async (piece) => {
    if (from < 0) {
      const was = await bytesOf(size, size + piece.length);
      let i = 0;
      for (; i < piece.length && piece[i] === was[i]; i++) if (piece[i] === LINE_FEED) lines++;
      if (i < piece.length) from = size + i;
    }
    size += piece.length;
  });
  if (from < 0 && size === source.size) return null;
  if (from < 0) from = size;
  // from the end: where the last byte differs, when the ends of both are side by side
  const grown = size - source.size;
  let [at, to] = [0, from + Math.max(0, grown)];
  const changed: number[] = [];
  await pass(async (piece) => {
    const begin = Math.max(0, from - at);
    if (begin < piece.length) {
      const was = await bytesOf(at + begin - grown, at + piece.length - grown);
      const missing = Math.max(0, grown - at - begin);
      for (let i = begin; i < piece.length; i++) {
        if (piece[i] !== was[i - begin - missing]) to = Math.max(to, at + i + 1);
        if (changed.length < MOST) changed.push(piece[i]);
      }
    }
    at += piece.length;
  });
  const head = await bytesOf(from - NEAR, from);
  const tail = await bytesOf(to - grown, to - grown + NEAR);
  const text = new TextDecoder(document.receipt.source.encoding);
  const shown = (middle: Uint8Array): Lines => {
    const start = startOf(head);
    const all = [head.subarray(start), middle, tail.subarray(0, endOf(tail))];
    const said = all.map((part, i) => text.decode(part, { stream: i < all.length - 1 })).join("");
    const list = said.split("\n");
    const before = head.subarray(start).reduce((sum, byte) => sum + Number(byte === LINE_FEED), 0);
    return { first: lines - before + 1, text: list.length > MOST_LINES ? [...list.slice(0, MOST_LINES), "…"].join("\n") : said };
  };
  return {
    before: shown(await bytesOf(from, Math.min(to - grown, from + MOST))),
    after: shown(Uint8Array.from(changed.slice(0, to - from))),
  };
}

/** Where the lines begin that are shown before a change. */
function startOf(head: Uint8Array): number {
  for (let [at, left] = [head.length, CONTEXT + 1]; at > 0; at--) if (head[at - 1] === LINE_FEED && --left === 0) return at;
  return 0;
}

/** Where the lines end that are shown behind it. */
function endOf(tail: Uint8Array): number {
  for (let [at, left] = [0, CONTEXT + 1]; at < tail.length; at++) if (tail[at] === LINE_FEED && --left === 0) return at;
  return tail.length;
}
