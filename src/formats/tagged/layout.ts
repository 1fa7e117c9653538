/** The layout of a file of header records and their detail lines, as a plan says it. */
import type { TaggedInput } from "./settings.js";
import type { LineField, LineKind } from "../lines/grammar.js";
import { placeInside } from "../lines/layout.js";
import { parseTotal } from "../lines/total-words.js";

export interface TaggedKind extends LineKind {
  readonly tags: readonly string[] | null;
  readonly like: string | null;
  readonly indent: number | null;
}

export function compileTagged(layout: TaggedInput): TaggedKind[] {
  const names = Object.keys(layout.records);
  const fieldsOf = (kind: string): string[] | null =>
    kind in layout.records ? layout.records[kind].fields.map((field) => (typeof field === "string" ? field : field.name)) : null;
  return names.map((name) => {
    const record = layout.records[name];
    return {
      name,
      inside: placeInside(name, record.inside, names),
      needsText: record.tag === undefined,
      closes: record.closes ?? false,
      tags: record.tag === undefined ? null : [record.tag].flat(),
      like: record.like ?? null,
      indent: record.indent ?? null,
      fields: record.fields.map((field): LineField =>
        typeof field === "string"
          ? { name: field }
          : { name: field.name, total: parseTotal(field.name, field.total, fieldsOf(name) ?? [], fieldsOf) },
      ),
    };
  });
}

/** Does the whole text look like the pattern? One pass, with one place to come back to. */
export function isLike(text: string, pattern: string): boolean {
  const chars = [...text];
  const signs = [...pattern];
  let c = 0;
  let s = 0;
  let star = -1;
  let back = 0;
  while (c < chars.length) {
    if (s < signs.length && signs[s] === "*") {
      star = s++;
      back = c;
    } else if (s < signs.length && fits(chars[c], signs[s])) {
      c++;
      s++;
    } else if (star >= 0) {
      s = star + 1;
      c = ++back;
    } else return false;
  }
  while (signs[s] === "*") s++;
  return s === signs.length;
}

function fits(char: string, sign: string): boolean {
  if (sign === "#") return /\d/.test(char);
  if (sign === "@") return /\p{L}/u.test(char);
  return sign === "?" || sign === char;
}
