/** Which namespaces the prefixes of a file stand for at a place in it, and how a plan's names are written there. */
import { decode } from "../../bytes/writer.js";

/** Namespaces by prefix; that of names without one is at "". */
export type Scope = ReadonlyMap<string, string>;

export const NO_SCOPE: Scope = new Map();

/** A name as it is written in a file, and the declaration that it needs there, if any. */
export interface WrittenName {
  readonly raw: string;
  /** Attributes to go with it: ` xmlns:n="…"`, or nothing. */
  readonly declares: string;
  readonly scope: Scope;
}

/** A start tag in view: where its attributes stand, names and values without their quotes. */
export interface StartTag {
  readonly window: Uint8Array;
  readonly attributes: number;
  readonly attributeNames: readonly number[];
  readonly attributeValues: readonly number[];
}

/** What a start tag in view declares. */
export function declaredIn({ window, attributes, attributeNames, attributeValues }: StartTag): Scope {
  const own = new Map<string, string>();
  for (let k = 0; k < attributes; k++) {
    const name = decode(window, attributeNames[2 * k], attributeNames[2 * k + 1]);
    if (name === "xmlns" || name.startsWith("xmlns:"))
      own.set(name.slice("xmlns:".length), decode(window, attributeValues[2 * k], attributeValues[2 * k + 1]));
  }
  return own;
}

/** The scope of an element whose start tag is in view. */
export function scopeIn(outer: Scope, tag: StartTag): Scope {
  const own = declaredIn(tag);
  return own.size === 0 ? outer : new Map([...outer, ...own]);
}

/** The names of a plan, whose prefixes are bound to namespaces. */
export class PlanNames {
  private readonly prefixes: ReadonlyMap<string, string>;

  constructor(private readonly namespaces: Readonly<Record<string, string>>) {
    this.prefixes = new Map(Object.entries(namespaces).map(([prefix, uri]) => [uri, prefix]));
  }

  get bound(): boolean {
    return this.prefixes.size > 0;
  }

  /** Does a prefix stand for what the plan calls otherwise? */
  renames(scope: Scope): boolean {
    return [...scope].some(([prefix, uri]) => (this.prefixes.get(uri) ?? prefix) !== prefix);
  }

  /** The name as the plan spells it. Attributes without a prefix are in no namespace. */
  canonical(raw: string, scope: Scope, attribute: boolean): string {
    const { prefix, local } = parted(raw);
    const known = prefix === "" && attribute ? undefined : this.prefixes.get(scope.get(prefix) ?? "");
    return known === undefined || known === prefix ? raw : known === "" ? local : `${known}:${local}`;
  }

  /** The name as the file spells it; by the prefix of the name `like`, if that will do. Attributes begin with `@` in neither. */
  written(name: string, scope: Scope, attribute: boolean, like: string): WrittenName {
    const { prefix, local } = parted(name);
    const uri = this.namespaces[prefix];
    const made = (own: string): string => (own === "" ? local : `${own}:${local}`);
    if (uri === undefined) {
      // a name in no namespace, where names without a prefix would be in one of the plan's
      const taken = prefix === "" && !attribute && this.prefixes.has(scope.get("") ?? "");
      return taken ? { raw: name, declares: ' xmlns=""', scope: new Map(scope).set("", "") } : { raw: name, declares: "", scope };
    }
    const fitting = [...scope].flatMap(([one, space]) => (space === uri && !(attribute && one === "") ? [one] : []));
    const liked = parted(like).prefix;
    const own = fitting.includes(liked) ? liked : fitting.includes(prefix) ? prefix : fitting[0];
    if (own !== undefined) return { raw: made(own), declares: "", scope };
    return { raw: name, declares: ` xmlns:${prefix}="${uri}"`, scope: new Map(scope).set(prefix, uri) };
  }
}

function parted(name: string): { prefix: string; local: string } {
  const colon = name.indexOf(":");
  return colon < 0 ? { prefix: "", local: name } : { prefix: name.slice(0, colon), local: name.slice(colon + 1) };
}
