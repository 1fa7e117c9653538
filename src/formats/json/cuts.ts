/**
 * Taking members and items out: with the comma that belongs to them, and nothing more.
 *
 *     [ 1, 2, 3 ]     taking 2 out cuts ", 2"; taking 1 out cuts "1, "; taking all out leaves "[]"
 */
import type { ByteSource } from "../../bytes/source.js";
import { encode } from "../../bytes/writer.js";
import type { Splice } from "../../edits/splice.js";
import type { Span } from "../../edits/edit.js";
import type { PlainText } from "./comments.js";

const COMMA = 0x2c;
const COLON = 0x3a;

interface Cut extends Span {
  /** Offsets of the tokens before and after, and what they are. */
  readonly before: { readonly at: number; readonly byte: number };
  readonly after: { readonly at: number; readonly byte: number };
}

/** Adjacent spans taken out together. */
export interface Run {
  readonly splice: Splice;
  readonly spans: readonly Span[];
  /** Where the container begins, when nothing is left in it. */
  readonly emptied: number | null;
}

/** `refilled` are starts of containers that get new members: their white space stays. */
export async function cutRuns(
  source: ByteSource,
  spans: readonly Span[],
  refilled: ReadonlySet<number>,
  commented: PlainText | null = null,
): Promise<Run[]> {
  const cuts: Cut[] = [];
  for (const span of [...spans].sort((a, b) => a.start - b.start || b.end - a.end)) {
    cuts.push({
      start: span.start,
      end: span.end,
      before: await tokenBefore(source, span.start),
      after: await tokenAfter(source, span.end),
    });
  }
  const byComma = new Map(cuts.filter((cut) => cut.before.byte === COMMA).map((cut) => [cut.before.at, cut]));
  const endsAt = new Set(cuts.map((cut) => cut.after.at));
  const runs: Run[] = [];
  for (const first of cuts) {
    if (first.before.byte === COMMA && endsAt.has(first.before.at)) continue;
    const run = [first];
    for (let next = byComma.get(first.after.at); first.after.byte === COMMA && next !== undefined; next = byComma.get(next.after.at))
      run.push(next);
    runs.push(await cutRun(source, run, refilled, commented));
  }
  return runs;
}

async function cutRun(source: ByteSource, run: readonly Cut[], refilled: ReadonlySet<number>, commented: PlainText | null): Promise<Run> {
  const first = run[0];
  const last = run[run.length - 1];
  const cut = (start: number, end: number, emptied: number | null = null): Run => ({
    splice: { start, end, pieces: [] },
    spans: run,
    emptied,
  });
  if (first.before.byte === COLON) {
    // a record that stands alone where others have a list
    const pieces = refilled.has(first.start) ? [] : [encode("[]")];
    return { splice: { start: first.start, end: last.end, pieces }, spans: run, emptied: first.start };
  }
  if (commented !== null && first.before.byte === COMMA) {
    // what stands behind the comma before is said of the one before
    if (last.after.byte === COMMA) return cut(first.start, (await tokenAfter(source, last.after.at + 1)).at);
    const comma = commented.commaIn(last.end, last.after.at);
    if (comma >= 0 || refilled.size > 0 || commented.hasComment(first.before.at, first.start))
      return cut(await commented.lineStart(first.start), await commented.lineEnd(comma < 0 ? last.end : comma + 1));
  }
  if (first.before.byte === COMMA) return cut((await tokenBefore(source, first.before.at)).at + 1, last.end);
  if (last.after.byte === COMMA) return cut(first.start, (await tokenAfter(source, last.after.at + 1)).at);
  const open = first.before.at;
  return refilled.has(open) ? cut(first.start, last.end, open) : cut(open + 1, last.after.at, open);
}

function isSpace(byte: number): boolean {
  return byte === 0x20 || byte === 0x0a || byte === 0x0d || byte === 0x09;
}

const STEP = 256;

async function tokenBefore(source: ByteSource, end: number): Promise<{ at: number; byte: number }> {
  for (let to = end; to > 0; to -= STEP) {
    const from = Math.max(0, to - STEP);
    const bytes = await source.read(from, to);
    for (let i = bytes.length - 1; i >= 0; i--) if (!isSpace(bytes[i])) return { at: from + i, byte: bytes[i] };
  }
  return { at: -1, byte: -1 };
}

async function tokenAfter(source: ByteSource, start: number): Promise<{ at: number; byte: number }> {
  for (let from = start; ; from += STEP) {
    const bytes = await source.read(from, from + STEP);
    for (let i = 0; i < bytes.length; i++) if (!isSpace(bytes[i])) return { at: from + i, byte: bytes[i] };
    if (bytes.length < STEP) return { at: from + bytes.length, byte: -1 };
  }
}
