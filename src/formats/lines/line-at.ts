/** One line of a source, by where it begins. */
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import type { LineGrammar } from "./grammar.js";

export const FIRST_READ = 1 << 12;

export interface LineAt {
  /** Where it ends, and where the next one begins. */
  readonly end: number;
  readonly next: number;
  /** Without its line end. */
  readonly text: string;
  readonly isLast: boolean;
}

export async function lineAt(source: ByteSource, grammar: LineGrammar, at: number): Promise<LineAt> {
  for (let size = FIRST_READ; ; size *= 4) {
    const bytes = await source.read(at, at + size);
    const final = bytes.length < size;
    const next = grammar.next(bytes, 0, bytes.length, final);
    if (next >= 0)
      return { end: at + grammar.end, next: at + next, text: decode(bytes, 0, grammar.end), isLast: final && next >= bytes.length };
  }
}
