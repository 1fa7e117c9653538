/** A line of each kind, from the beginning of a source. */
import type { ByteSource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import { PlaceNode } from "../format.js";
import { SilentListener } from "../silent.js";
import { FieldSpans, type LineGrammar } from "./grammar.js";
import { LineScanner } from "./scan.js";

const MOST_READ = 1 << 20;

/** By kind: its first line that shows how values are written, else its first, where there is one in the first so many bytes. */
export async function samplesIn(source: ByteSource, grammar: LineGrammar): Promise<ReadonlyMap<number, string>> {
  const found = new Map<number, string>();
  const telling = new Set<number>();
  const scanner: LineScanner = new LineScanner(new PlaceNode(), new SilentListener(), grammar, {
    open: (kind, _depth, start, lineEnd) => {
      if (telling.has(kind)) return;
      const line = decode(scanner.window, start - scanner.base, lineEnd - scanner.base);
      if (isTelling(grammar, kind, line)) telling.add(kind);
      else if (found.has(kind)) return;
      found.set(kind, line);
    },
    close: () => undefined,
  });
  let read = 0;
  for await (const chunk of source.chunks()) {
    scanner.write(chunk);
    read += chunk.length;
    if (read >= MOST_READ || telling.size === grammar.kinds.length) return found;
  }
  scanner.end();
  return found;
}

/** Do all fields of the line show how the file writes their values? */
export function isTelling(grammar: LineGrammar, kind: number, line: string): boolean {
  if (grammar.isTelling === undefined) return true;
  return rawFields(grammar, kind, line).every((raw, f) => raw === null || grammar.isTelling!(kind, f, raw));
}

/** What stands in the fields of a line; `null` where it is too short. */
export function rawFields(grammar: LineGrammar, kind: number, line: string): (string | null)[] {
  const bytes = encode(line);
  const spans = new FieldSpans();
  grammar.split(kind, bytes, 0, bytes.length, spans);
  return grammar.kinds[kind].fields.map((_, f) => (spans.starts[f] < 0 ? null : decode(bytes, spans.starts[f], spans.ends[f])));
}
