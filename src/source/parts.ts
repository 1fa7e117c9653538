/**
 * The files of a source, opened as text. Each has a place in one row of offsets, so that a number says
 * which file and where in it; between two files lies at least one offset that belongs to none.
 */
import { openText, tapped, type TextSource } from "../bytes/encoding.js";
import type { SourceDecision } from "./choose.js";
import type { Dialect } from "../formats/format.js";
import type { SourceFile } from "./files.js";

export interface SourceText {
  readonly index: number;
  readonly name: string;
  /** What is added to offsets in this file. */
  readonly base: number;
  /** The text as it is read. */
  readonly text: TextSource;
  /** The text as it is written: the same but for what a dialect does not see. */
  readonly whole: TextSource;
  readonly reading: SourceDecision;
  readonly dialect: Dialect;
  readonly file: SourceFile;
  /** Number of the plan's source that it belongs to. */
  readonly of: number;
}

/** A byte of any encoding is at most so many bytes of UTF-8. */
const MOST_GROWTH = 3;

export async function openParts(
  readings: readonly { readonly file: SourceFile; readonly reading: SourceDecision; readonly of: number }[],
  tap?: (index: number, chunk: Uint8Array) => void,
): Promise<SourceText[]> {
  const parts: SourceText[] = [];
  let base = 0;
  for (const [index, { file, reading, of }] of readings.entries()) {
    const source = tap === undefined ? file.source : tapped(file.source, (chunk) => tap(index, chunk));
    const whole = await openText(source, reading.encoding);
    const text = (await reading.dialect.read?.(whole)) ?? whole;
    parts.push({ index, name: file.name, base, text, whole, reading, dialect: reading.dialect, file, of });
    base += MOST_GROWTH * file.source.size + 1;
  }
  return parts;
}

/** The file that an offset is in. */
export function partAt(parts: readonly SourceText[], offset: number): SourceText {
  let low = 0;
  let high = parts.length;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (parts[middle].base <= offset) low = middle;
    else high = middle;
  }
  return parts[low];
}
