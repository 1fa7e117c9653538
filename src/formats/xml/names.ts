/** The namespaces in scope while a file is scanned: a plan's prefixes stand for namespaces, whatever prefixes the file uses. */
import { decode, encode } from "../../bytes/writer.js";
import { sameBytes } from "./runs.js";
import { NO_SCOPE, type PlanNames, type Scope } from "./scope.js";

/** Prefixes that need no declaration. */
const ALWAYS = new Set(["xml", "xmlns"]);

export class Names {
  /** Prefixes that are declared where the scan stands, the innermost last; names without one are at "". */
  private readonly prefixes: { readonly depth: number; readonly prefix: string; readonly bytes: Uint8Array; readonly uri: string }[] = [];
  /** At each depth that declares some: what is in scope there. */
  private readonly scopes: { readonly depth: number; readonly scope: Scope }[] = [];
  /** A prefix in scope stands for what the plan calls otherwise. */
  renames = false;
  /** All that was declared anywhere: prefix and namespace. */
  readonly declared = new Set<string>();

  constructor(private readonly plan: PlanNames) {}

  private get scope(): Scope {
    return this.scopes.at(-1)?.scope ?? NO_SCOPE;
  }

  /** Namespaces that the start tag at a depth declares, by prefix. */
  declare(depth: number, own: Scope): void {
    for (const [prefix, uri] of own) {
      this.declared.add(`${prefix}=${uri}`);
      this.prefixes.push({ depth, prefix, bytes: encode(prefix), uri });
    }
    if (own.size === 0 || !this.plan.bound) return;
    this.scopes.push({ depth, scope: new Map([...this.scope, ...own]) });
    this.renames = this.plan.renames(this.scope);
  }

  get inScope(): number {
    return this.prefixes.length;
  }

  /** Is the prefix that stands there declared? */
  has(window: Uint8Array, from: number, to: number): boolean {
    for (let k = this.prefixes.length - 1; k >= 0; k--) {
      const { bytes, uri } = this.prefixes[k];
      if (bytes.length === to - from && sameBytes(bytes, 0, bytes.length, window, from)) return uri !== "";
    }
    return ALWAYS.has(decode(window, from, to));
  }

  uriOf(prefix: string): string {
    return this.prefixes.findLast((one) => one.prefix === prefix)?.uri ?? prefix;
  }

  pop(depth: number): void {
    const { prefixes } = this;
    while (prefixes.length > 0 && prefixes[prefixes.length - 1].depth === depth) prefixes.pop();
    if (this.scopes.length === 0 || this.scopes[this.scopes.length - 1].depth !== depth) return;
    this.scopes.pop();
    this.renames = this.plan.renames(this.scope);
  }

  /** The name as the plan spells it. */
  canonical(name: string, attribute: boolean): string {
    return this.plan.canonical(name, this.scope, attribute);
  }
}
