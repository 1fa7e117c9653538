/** The namespaces in scope while a file is scanned: a plan's prefixes stand for namespaces, whatever prefixes the file uses. */
import { NO_SCOPE, type PlanNames, type Scope } from "./scope.js";

export class Names {
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
    for (const [prefix, uri] of own) this.declared.add(`${prefix}=${uri}`);
    if (own.size === 0 || !this.plan.bound) return;
    this.scopes.push({ depth, scope: new Map([...this.scope, ...own]) });
    this.renames = this.plan.renames(this.scope);
  }

  pop(depth: number): void {
    if (this.scopes.length === 0 || this.scopes[this.scopes.length - 1].depth !== depth) return;
    this.scopes.pop();
    this.renames = this.plan.renames(this.scope);
  }

  /** The name as the plan spells it. */
  canonical(name: string, attribute: boolean): string {
    return this.plan.canonical(name, this.scope, attribute);
  }
}
