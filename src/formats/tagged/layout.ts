/** The layout of a file of header records and their detail lines, as a plan says it. */
import type { FieldInput, TaggedInput } from "./settings.js";
import type { LineField, LineKind } from "../lines/grammar.js";
import { repeated } from "../lines/groups.js";
import { placeInside } from "../lines/layout.js";
import { parseTotal } from "../lines/total-words.js";

export interface TaggedKind extends LineKind {
  readonly tags: readonly string[] | null;
  readonly like: string | null;
  readonly indent: number | null;
}

type GroupInput = Extract<FieldInput, { fields: unknown }>;

export function compileTagged(layout: TaggedInput): TaggedKind[] {
  const names = Object.keys(layout.records);
  const namesOf = (fields: readonly FieldInput[]): string[] => fields.map((field) => (typeof field === "string" ? field : field.name));
  return names.map((name) => {
    const record = layout.records[name];
    const fieldsOf = (kind: string): string[] | null => {
      if (kind in layout.records) return namesOf(layout.records[kind].fields);
      const group = record.fields.find((field) => typeof field !== "string" && "fields" in field && field.name === kind);
      return group === undefined ? null : namesOf((group as GroupInput).fields);
    };
    return {
      name,
      inside: placeInside(name, record.inside, names),
      needsText: record.tag === undefined,
      closes: record.closes ?? false,
      tags: record.tag === undefined ? null : [record.tag].flat(),
      like: record.like ?? null,
      indent: record.indent ?? null,
      fields: record.fields.flatMap((field): LineField[] => {
        if (typeof field === "string") return [{ name: field }];
        if ("fields" in field) return repeated(field.name, field.times, () => namesOf(field.fields).map((one) => ({ name: one })));
        return [{ name: field.name, total: parseTotal(field.name, field.total, fieldsOf(name) ?? [], fieldsOf) }];
      }),
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
