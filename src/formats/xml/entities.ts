/**
 * Entities of a document type declaration. Internal ones are expanded, within bounds; external ones
 * are never fetched: what refers to them is kept as it is written.
 */
import { SourceError } from "../../errors/error.js";

/** An expansion longer than this is refused, whatever it is made of. */
const LONGEST = 1 << 16;
const DEEPEST = 32;
const DECLARATION = /<!--[\s\S]*?-->|<\?[\s\S]*?\?>|<!ENTITY\s+(%\s+)?([^\s%]+)\s+(?:"([^"]*)"|'([^']*)'|(SYSTEM|PUBLIC)\b[^>]*)\s*>/g;

export class Entities {
  private readonly values = new Map<string, string>();
  /** Expansions made before: each entity is expanded once, however often it is referred to. */
  private readonly expanded = new Map<string, string>();
  /** Something is declared outside the file, so a name that is not known may be known there. */
  external = false;

  /** Reads the text of a document type declaration; `byte` is where it begins. */
  declare(text: string, byte: number): void {
    const subset = text.indexOf("[");
    const head = subset < 0 ? text : text.slice(0, subset);
    if (/\s(?:SYSTEM|PUBLIC)\s/.test(head)) this.external = true;
    for (const [, parameter, name, double, single, outside] of text.slice(head.length).matchAll(DECLARATION)) {
      if (name === undefined) continue;
      if (parameter !== undefined || outside !== undefined) this.external = true;
      else if (!this.values.has(name)) this.values.set(name, double ?? single ?? "");
    }
    for (const name of this.values.keys()) this.expand(name, [], byte);
  }

  /** All that is declared, as one text. */
  get declared(): string {
    return JSON.stringify([this.external, [...this.values].sort(([a], [b]) => (a < b ? -1 : 1))]);
  }

  has(name: string): boolean {
    return this.values.has(name);
  }

  /** Text that an entity stands for; `null` when it is not known, or holds elements. */
  text(name: string): string | null {
    const value = this.values.get(name);
    if (value === undefined || value.includes("<")) return null;
    return this.expand(name, [], 0);
  }

  private expand(name: string, open: readonly string[], byte: number): string {
    const known = this.expanded.get(name);
    if (known !== undefined) return known;
    if (open.includes(name) || open.length > DEEPEST) throw new SourceError("xml-entity-loop", { names: [...open, name] }, { byte });
    const value = this.values.get(name);
    if (value === undefined) return `&${name};`;
    const whole = value.replace(
      /&([^;#]+);/g,
      (reference, inner: string) => ENTITY_OF[inner] ?? (this.values.has(inner) ? this.expand(inner, [...open, name], byte) : reference),
    );
    if (whole.length > LONGEST) throw new SourceError("xml-entity-long", { name, most: LONGEST }, { byte });
    const text = whole.replace(/&#(x?)([0-9a-fA-F]+);/g, (_, hex: string, digits: string) =>
      String.fromCodePoint(parseInt(digits, hex === "" ? 10 : 16)),
    );
    this.expanded.set(name, text);
    return text;
  }
}

const ENTITY_OF: Readonly<Record<string, string>> = { lt: "<", gt: ">", amp: "&", apos: "'", quot: '"' };
