/**
 * Names of open elements, for their end tags, and namespaces: a plan's prefixes stand for namespaces,
 * whatever prefixes the file uses.
 */
import { decode } from "../../bytes/writer.js";

type Scope = ReadonlyMap<string, string>;

export class Names {
  private bytes = new Uint8Array(1024);
  private readonly ends: number[] = [];
  /** Namespace by plan prefix, turned round: plan prefix by namespace. */
  private readonly prefixes = new Map<string, string>();
  /** Namespaces by prefix, at each depth that declares some. */
  private readonly scopes: { depth: number; scope: Scope }[] = [];
  /** File prefixes that the plan spells another way, in the scope at hand. */
  private changed = new Map<string, string>();
  renames = false;
  /** All that was declared anywhere: prefix and namespace. */
  readonly declared = new Set<string>();

  bind(namespaces: Readonly<Record<string, string>>): void {
    for (const [prefix, uri] of Object.entries(namespaces)) this.prefixes.set(uri, prefix);
  }

  push(depth: number, window: Uint8Array, start: number, end: number): void {
    const from = depth === 0 ? 0 : this.ends[depth - 1];
    const to = from + end - start;
    if (to > this.bytes.length) {
      const grown = new Uint8Array(Math.max(to, 2 * this.bytes.length));
      grown.set(this.bytes);
      this.bytes = grown;
    }
    for (let i = start, o = from; i < end; i++, o++) this.bytes[o] = window[i];
    this.ends[depth] = to;
  }

  matches(depth: number, window: Uint8Array, start: number, end: number): boolean {
    const from = depth === 0 ? 0 : this.ends[depth - 1];
    if (this.ends[depth] - from !== end - start) return false;
    for (let i = start, o = from; i < end; i++, o++) if (this.bytes[o] !== window[i]) return false;
    return true;
  }

  pop(depth: number): void {
    if (this.scopes.length > 0 && this.scopes[this.scopes.length - 1].depth === depth) {
      this.scopes.pop();
      this.settle();
    }
  }

  /** Names of the elements that are open, the outermost first. */
  open(depth: number): string[] {
    return Array.from({ length: depth }, (_, d) => this.at(d));
  }

  /** Name of the element at a depth (from 0) that is open, or has just been closed. */
  at(depth: number): string {
    return decode(this.bytes, depth === 0 ? 0 : this.ends[depth - 1], this.ends[depth]);
  }

  declare(depth: number, prefix: string, uri: string): void {
    this.declared.add(`${prefix}=${uri}`);
    if (this.prefixes.size === 0) return;
    const last = this.scopes.at(-1);
    const scope = new Map(last?.scope);
    scope.set(prefix, uri);
    if (last?.depth === depth) this.scopes.pop();
    this.scopes.push({ depth, scope });
    this.settle();
  }

  private settle(): void {
    this.changed = new Map();
    for (const [prefix, uri] of this.scopes.at(-1)?.scope ?? []) {
      const known = this.prefixes.get(uri);
      if (known !== undefined && known !== prefix) this.changed.set(prefix, known);
    }
    this.renames = this.changed.size > 0;
  }

  /** The name as the plan spells it. Attributes without a prefix are in no namespace. */
  canonical(name: string, attribute: boolean): string {
    const colon = name.indexOf(":");
    if (colon < 0 && attribute) return name;
    const prefix = colon < 0 ? "" : name.slice(0, colon);
    const known = this.changed.get(prefix);
    if (known === undefined) return name;
    const local = name.slice(colon + 1);
    return known === "" ? local : `${known}:${local}`;
  }
}
