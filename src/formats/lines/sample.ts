/** The first lines of a source, for guessing what it is made of. */
import { decode } from "../../bytes/writer.js";
import { SourceError } from "../../errors/error.js";
import type { ByteSource } from "../../bytes/source.js";

const SAMPLE = 1 << 18;

/** Whole lines from the beginning of a source, without line ends. */
export async function sampleLines(source: ByteSource): Promise<string[]> {
  const bytes = await source.read(0, SAMPLE);
  if (bytes.length === 0) throw new SourceError("source-empty", {}, { file: source.name });
  return linesOf(bytes, bytes.length < SAMPLE);
}

/** Lines of a head; the last one is left out when it may be cut off. */
export function linesOf(head: Uint8Array, whole: boolean): string[] {
  const lines = decode(head)
    .replace(/^\ufeff/, "")
    .split(/\r\n|\n|\r/);
  if (lines.at(-1) === "" || (!whole && lines.length > 1)) lines.pop();
  return lines;
}

/** Text has no zero bytes and few control characters. */
export function looksLikeText(head: Uint8Array): boolean {
  let odd = 0;
  for (const b of head) {
    if (b === 0) return false;
    if (b < 0x20 && b !== 0x09 && b !== 0x0a && b !== 0x0d && b !== 0x0c && b !== 0x1b && b !== 0x1e) odd++;
  }
  return odd <= head.length / 100;
}

/**
 * Which kind of line is inside which, from the order in which they come: a kind is inside the one that
 * stood before its first line, unless it ends that one (there are as many of both, one each).
 */
export function guessNesting(tags: readonly string[]): { tag: string; inside: string | null; closes: boolean }[] {
  const order = [...new Set(tags)];
  const count = new Map<string, number>();
  for (const tag of tags) count.set(tag, (count.get(tag) ?? 0) + 1);
  const kinds: { tag: string; inside: string | null; closes: boolean }[] = [];
  const parentOf = (tag: string): string | null => kinds.find((kind) => kind.tag === tag)?.inside ?? null;
  for (const tag of order) {
    const first = tags.indexOf(tag);
    if (first === 0) {
      kinds.push({ tag, inside: null, closes: false });
      continue;
    }
    const line: string[] = [];
    for (let above: string | null = tags[first - 1]; above !== null; above = parentOf(above)) line.push(above);
    // as many as there are of a kind around it, and always the last of it: a trailer
    const closed = line.find((above) => count.get(above) === count.get(tag) && endsEach(tags, above, tag));
    const root = line.at(-1)!;
    if (closed !== undefined && closed !== line[0]) kinds.push({ tag, inside: closed, closes: true });
    else if (closed !== undefined && count.get(tag)! > 1 && line.length === 1) kinds.push({ tag, inside: closed, closes: false });
    else if (count.get(tag) === 1 && first === tags.length - 1 && count.get(root) !== 1) kinds.push({ tag, inside: null, closes: false });
    else kinds.push({ tag, inside: holder(tags, tag, line), closes: false });
  }
  return leavesOver(tags, kinds) ? order.map((tag) => ({ tag, inside: null, closes: false })) : kinds;
}

/** Are there lines that belong inside a record which is not open there? */
function leavesOver(tags: readonly string[], kinds: readonly { tag: string; inside: string | null; closes: boolean }[]): boolean {
  const byTag = new Map(kinds.map((kind) => [kind.tag, kind]));
  const open: string[] = [];
  for (const tag of tags) {
    const { inside, closes } = byTag.get(tag)!;
    const at = inside === null ? -1 : open.lastIndexOf(inside);
    if (inside !== null && at < 0) return true;
    open.length = at + 1;
    if (closes) open.pop();
    else open.push(tag);
  }
  return false;
}

/** Between one `above` and the next stands one `tag`, as the last line. */
function endsEach(tags: readonly string[], above: string, tag: string): boolean {
  let open = false;
  for (let i = 0; i < tags.length; i++) {
    if (tags[i] === above) {
      if (open) return false;
      open = true;
    } else if (tags[i] === tag) {
      if (!open) return false;
      open = false;
    } else if (!open) continue;
  }
  return !open;
}

/** The innermost of the kinds around that is open at each line of the kind. */
function holder(tags: readonly string[], tag: string, line: readonly string[]): string | null {
  for (const above of line) {
    let open = false;
    let always = true;
    const outer = new Set(line.slice(line.indexOf(above) + 1));
    for (const one of tags) {
      if (one === above) open = true;
      else if (outer.has(one)) open = false;
      else if (one === tag && !open) always = false;
    }
    if (always) return above;
  }
  return null;
}
