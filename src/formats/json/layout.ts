/** The layout of one record or list: where its members or items stand. Read anew from the source, not kept. */
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { PlaceNode, Wants, type Listener, type Scanner } from "../format.js";
import { Kind } from "../../model/kind.js";
import type { Span } from "../../edits/edit.js";
import { JsonScanner } from "./scan.js";
import { decodeText } from "./text.js";

/** A member (with its name, quotes not included) or an item (without). */
export interface Part extends Span {
  readonly name: Span | null;
}

export interface Layout extends Span {
  readonly kind: "record" | "list" | "scalar";
  readonly count: number;
  /** All parts of a record; of a list only the first two and the last. */
  readonly parts: readonly Part[];
}

const FIRST_READ = 1 << 12;
const MOST_READ = 1 << 20;

/** Reads the layout of the value that begins at `at` (white space before it is skipped). */
export async function readLayout(source: ByteSource, at: number): Promise<Layout> {
  const inner = new PlaceNode();
  inner.take = Wants.Span;
  const root = new PlaceNode();
  root.take = Wants.All;
  root.any = root.item = inner;
  const reader = new LayoutReader(root);
  const scanner = new JsonScanner(root, reader, at);
  for (let from = at, size = FIRST_READ; !scanner.done; from += size, size = Math.min(size * 4, MOST_READ)) {
    const bytes = await source.read(from, from + size);
    if (bytes.length === 0) scanner.end();
    else scanner.write(bytes);
  }
  return reader;
}

class LayoutReader implements Listener, Layout {
  scanner!: Scanner;
  kind: Layout["kind"] = "scalar";
  start = 0;
  end = 0;
  count = 0;
  readonly parts: Part[] = [];

  constructor(private readonly root: PlaceNode) {}

  open(_node: PlaceNode, kind: Kind, start: number): void {
    this.kind = kind === Kind.List ? "list" : "record";
    this.start = this.scanner.base + start;
  }

  close(_node: PlaceNode, _kind: Kind, end: number): void {
    this.end = this.scanner.base + end;
  }

  value(node: PlaceNode, _kind: Kind, from: number, to: number): void {
    const start = this.scanner.base + from;
    const end = this.scanner.base + to;
    if (node === this.root) {
      this.start = start;
      this.end = end;
      return;
    }
    const { memberStart, memberEnd } = this.scanner;
    const part: Part = { start, end, name: this.kind === "record" ? { start: memberStart, end: memberEnd } : null };
    this.count++;
    if (this.kind === "list" && this.parts.length === 3) this.parts[2] = part;
    else this.parts.push(part);
  }

  leave(): void {
    // positions are kept as source offsets
  }
}

/** Where a part begins: its name's quote, or the item itself. */
export function partStart(part: Part): number {
  return part.name === null ? part.start : part.name.start - 1;
}

export async function nameOf(source: ByteSource, part: Part): Promise<string> {
  if (part.name === null) return "";
  const bytes = await source.read(part.name.start, part.name.end);
  return bytes.includes(0x5c) ? decodeText(bytes, 0, bytes.length) : decode(bytes);
}

/** The last member of that name: the one that JSON parsers take. */
export async function memberNamed(source: ByteSource, layout: Layout, name: string): Promise<Part | null> {
  for (let i = layout.parts.length - 1; i >= 0; i--) if ((await nameOf(source, layout.parts[i])) === name) return layout.parts[i];
  return null;
}
