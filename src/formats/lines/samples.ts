/** A line of each kind, from the beginning of a source. */
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { PlaceNode } from "../format.js";
import { SilentListener } from "../silent.js";
import type { LineGrammar } from "./grammar.js";
import { LineScanner } from "./scan.js";

const MOST_READ = 1 << 20;

/** By kind: its first line, where there is one in the first so many bytes. */
export async function samplesIn(source: ByteSource, grammar: LineGrammar): Promise<ReadonlyMap<number, string>> {
  const found = new Map<number, string>();
  const scanner: LineScanner = new LineScanner(new PlaceNode(), new SilentListener(), grammar, {
    open: (kind, _depth, start, lineEnd) => {
      if (!found.has(kind)) found.set(kind, decode(scanner.window, start - scanner.base, lineEnd - scanner.base));
    },
    close: () => undefined,
  });
  let read = 0;
  for await (const chunk of source.chunks()) {
    scanner.write(chunk);
    read += chunk.length;
    if (read >= MOST_READ || found.size === grammar.kinds.length) return found;
  }
  scanner.end();
  return found;
}
