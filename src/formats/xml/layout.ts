/** The layout of one element: where its tags, attributes and children stand. Read anew from the source, not kept. */
import { SilentListener } from "../silent.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import { PlaceNode } from "../format.js";
import type { Span } from "../../edits/edit.js";
import type { Entities } from "./entities.js";
import { NO_SCOPE, scopeIn, type PlanNames, type Scope } from "./scope.js";
import { XmlScanner, type TagWatcher } from "./scan.js";

export interface Attribute extends Span {
  /** As the plan spells it. */
  readonly name: string;
  /** With its quotes. */
  readonly value: Span;
}

export interface Child extends Span {
  readonly name: string;
}

export interface Element extends Span {
  /** As it is written. */
  readonly name: string;
  readonly nameEnd: number;
  readonly attributes: readonly Attribute[];
  /** `<a/>`: `content` is then the run from the end of the last attribute (or name) to the end of the tag. */
  readonly selfClosing: boolean;
  readonly content: Span;
  /** Namespaces of what is in it. */
  readonly scope: Scope;
  /** Children by name as the plan spells it: the first and the last of each. */
  readonly children: ReadonlyMap<string, { readonly first: Child; readonly last: Child; readonly count: number }>;
  readonly firstChild: Child | null;
  readonly lastChild: Child | null;
}

const FIRST_READ = 1 << 12;
const MOST_READ = 1 << 20;

/** Reads the element whose start tag begins at `at`; `outer` is the scope around it. */
export async function readElement(source: ByteSource, at: number, entities: Entities, names: PlanNames, outer: Scope): Promise<Element> {
  const builder = new ElementBuilder(names, outer);
  const scanner = new XmlScanner(new PlaceNode(), new SilentListener(), entities, {}, { at, watcher: builder });
  for (let from = at, size = FIRST_READ; !scanner.done; from += size, size = Math.min(size * 4, MOST_READ)) {
    const bytes = await source.read(from, from + size);
    if (bytes.length === 0) scanner.end();
    else scanner.write(bytes);
  }
  return builder.element;
}

/** Where the root element begins. */
export async function rootStart(source: ByteSource, entities: Entities): Promise<number> {
  let start = -1;
  await watchTags(source, entities, (_depth, _tag, at) => {
    if (start < 0) start = at;
    return false;
  });
  return start;
}

/** Calls `start` for each start tag, until it says that it has seen enough. */
export async function watchTags(
  source: ByteSource,
  entities: Entities,
  start: (depth: number, tag: XmlScanner, at: number) => boolean,
): Promise<void> {
  let more = true;
  const watcher: TagWatcher = {
    start: (depth, tag, at) => {
      if (more) more = start(depth, tag, at);
    },
    end: () => undefined,
  };
  const scanner = new XmlScanner(null, new SilentListener(), entities, {}, { watcher });
  for await (const chunk of source.chunks()) {
    scanner.write(chunk);
    if (!more) break;
  }
}

/** The scopes around the elements that begin at some offsets: one pass over the source, as far as the last of them. */
export async function scopesAround(source: ByteSource, offsets: Iterable<number>, entities: Entities): Promise<Map<number, Scope>> {
  const wanted = new Set(offsets);
  const found = new Map<number, Scope>();
  const open: Scope[] = [];
  if (wanted.size === 0) return found;
  await watchTags(source, entities, (depth, tag, at) => {
    const outer = depth === 0 ? NO_SCOPE : open[depth - 1];
    if (wanted.has(at)) found.set(at, outer);
    open[depth] = scopeIn(outer, tag);
    return found.size < wanted.size;
  });
  return found;
}

class ElementBuilder implements TagWatcher {
  readonly element = {
    name: "",
    start: 0,
    end: 0,
    nameEnd: 0,
    attributes: [] as Attribute[],
    selfClosing: false,
    content: { start: 0, end: 0 },
    children: new Map<string, { first: Child; last: Child; count: number }>(),
    firstChild: null as Child | null,
    lastChild: null as Child | null,
    scope: NO_SCOPE,
  };
  private child = { name: "", start: 0 };

  constructor(
    private readonly names: PlanNames,
    private readonly outer: Scope,
  ) {}

  start(depth: number, tag: XmlScanner, tagStart: number, tagEnd: number): void {
    if (depth > 1) return;
    const { element, names } = this;
    const { window, base } = tag;
    if (depth === 1) {
      const scope = names.bound ? scopeIn(element.scope, tag) : element.scope;
      this.child = { name: names.canonical(tag.tagName, scope, false), start: tagStart };
      return;
    }
    element.scope = names.bound ? scopeIn(this.outer, tag) : this.outer;
    element.name = tag.tagName;
    element.start = tagStart;
    element.nameEnd = tagStart + 1 + encode(element.name).length;
    element.content.start = tagEnd;
    for (let k = 0; k < tag.attributes; k++) {
      const [start, nameEnd] = tag.attributeNames.slice(2 * k, 2 * k + 2);
      const [from, to] = tag.attributeValues.slice(2 * k, 2 * k + 2);
      const value = { start: base + from - 1, end: base + to + 1 };
      const name = names.canonical(decode(window, start, nameEnd), element.scope, true);
      element.attributes.push({ name, start: base + start, end: value.end, value });
    }
  }

  end(depth: number, contentEnd: number, end: number, selfClosing: boolean): void {
    const { element } = this;
    if (depth === 0) {
      element.selfClosing = selfClosing;
      element.content.end = contentEnd;
      if (selfClosing) element.content = { start: contentEnd, end };
      element.end = end;
    } else if (depth === 1) {
      const child = { ...this.child, end };
      const known = element.children.get(child.name);
      if (known === undefined) element.children.set(child.name, { first: child, last: child, count: 1 });
      else element.children.set(child.name, { ...known, last: child, count: known.count + 1 });
      element.firstChild ??= child;
      element.lastChild = child;
    }
  }
}
