/** Hierarchy that flat records hold: paths in a cell, depths, records that name the one above, and what repeats. */
import { Kind } from "../model/kind.js";
import { formatPath } from "../model/path.js";
import { couldBeKey, looksLikeId } from "./keys.js";
import type { FieldShape, RecordKind } from "./kinds.js";
import type { ShapeNode } from "./node.js";

/** What a column tells of records that are above or around others. Columns are named by their path in the record. */
export type Hierarchy =
  | { readonly form: "path"; readonly field: string; readonly separator: string }
  | { readonly form: "depth"; readonly field: string; readonly deepest: number }
  | { readonly form: "parent"; readonly field: string; readonly key: string }
  /** Filled in the first of several records and blank in those below it. */
  | { readonly form: "once"; readonly field: string }
  /** Columns that say the same of all records with one value: those could be records of their own. */
  | { readonly form: "repeated"; readonly field: string; readonly others: readonly string[]; readonly count: number };

/** The longer ones first: one may hold another. */
const SEPARATORS = [" > ", " / ", "::", "/", "\\", ">", "|"];
/** Among fewer records than this it may be chance. */
const FEW = 5;
const LIKE_A_DEPTH = /level|depth|tier|indent|outline/i;
const MOST_DEPTHS = 12;
const LETTER = /\p{L}/u;

export function findHierarchy(kind: RecordKind): Hierarchy[] {
  if (kind.form !== "list" || kind.count < FEW || kind.positional) return [];
  const fields = kind.fields.filter(({ form, at }) => form === "scalar" && at.steps.length > 0);
  const found = fields.flatMap((field): Hierarchy[] => {
    const path = formatPath(field.at);
    const separator = separatorIn(field);
    if (separator !== null) return [{ form: "path", field: path, separator }];
    if (isDepth(kind, field)) return [{ form: "depth", field: path, deepest: field.node.outline.deepest }];
    const key = fields.find((other) => other !== field && couldBeKey(kind, other) && namesAbove(kind, field, other));
    return key === undefined ? [] : [{ form: "parent", field: path, key: formatPath(key.at) }];
  });
  const [first] = fields;
  const once = first !== undefined && standsOnce(kind, first, fields) ? [{ form: "once" as const, field: formatPath(first.at) }] : [];
  return [...found, ...once, ...repeated(kind, fields)];
}

/** What stands between names, where most values are paths of them and many begin alike. */
function separatorIn({ node }: FieldShape): string | null {
  if (node.texts === null || node.kinds[Kind.Text] === 0 || node.allDates || node.texts.size < FEW) return null;
  const texts = [...node.texts.values()].filter((text) => text !== "");
  return (
    SEPARATORS.find((separator) => {
      const ways = texts.map((text) => (text.startsWith(separator) ? text.slice(separator.length) : text).split(separator));
      const deep = ways.filter((names) => names.length > 1);
      const named = (names: readonly string[]): boolean => names.every((name) => name !== "" && LETTER.test(name[0]));
      if (deep.length < texts.length / 2 || deep.filter(named).length < 0.8 * deep.length) return false;
      const all = new Set(ways.map((names) => names.join(separator)));
      const above = deep.map((names) => names.slice(0, -1).join(separator));
      return above.filter((way) => all.has(way)).length >= deep.length / 2 || new Set(above).size <= deep.length / 2;
    }) ?? null
  );
}

/** Small numbers that begin with the least, rise by one, and fall by any. */
function isDepth(kind: RecordKind, { node, at, present }: FieldShape): boolean {
  const { outline } = node;
  if (!outline.holds || present < kind.count || outline.rises < 2 || outline.deepest - outline.least >= MOST_DEPTHS) return false;
  // numbers that count up and begin anew are not depths: no two that follow each other are the same
  // and those that are only one of two may say yes or no
  const shaped = outline.same > 0 && outline.deepest - outline.least > 1;
  return outline.falls > 0 && (shaped || LIKE_A_DEPTH.test(formatPath(at)));
}

/** Values found among the keys of their own kind, but for records at the top. */
function namesAbove(kind: RecordKind, { node, present }: FieldShape, key: FieldShape): boolean {
  if (node.kinds[Kind.Text] === 0 || node.distinct === null || node.distinct.size < 2 || key.node.distinct === null || node.allDates)
    return false;
  const tops = kind.count - present + node.nulls + (hasEmpty(node) ? 1 : 0);
  if (tops === 0 || node.unique || node.distinct.size > key.node.distinct.size) return false;
  for (const value of node.distinct) if (!key.node.distinct.has(value)) return false;
  return true;
}

function hasEmpty(node: ShapeNode): boolean {
  return node.texts !== null && [...node.texts.values()].includes("");
}

/** The first column, with values in few records that are not the same, the first of all among them, while others are always there. */
function standsOnce(kind: RecordKind, { node, present }: FieldShape, fields: readonly FieldShape[]): boolean {
  const filled = present - node.nulls;
  if (filled < 2 || filled > 0.6 * kind.count || !node.unique || node.firstRecord !== kind.node.firstSerial) return false;
  return fields.filter((other) => other.node !== node && other.present === kind.count).length >= Math.min(2, fields.length - 1);
}

/** Columns of which one value always stands with one value of others. */
function repeated(kind: RecordKind, fields: readonly FieldShape[]): Hierarchy[] {
  const candidates = fields.filter(({ node, present }) => {
    const size = node.distinct?.size ?? Infinity;
    return present === kind.count && size >= 3 && size <= kind.count / 2 && node.kinds[Kind.Text] + node.kinds[Kind.Number] === node.count;
  });
  let best: { field: FieldShape; others: FieldShape[] } | null = null;
  for (const field of candidates) {
    const others = candidates.filter((other) => other !== field && goesWith(field.node, other.node));
    // two columns that go together by chance have no names that say so
    if (others.length === 1 && !looksLikeId(formatPath(field.at)) && !isNameOf(others[0], field)) continue;
    if (others.length > (best?.others.length ?? 0)) best = { field, others };
  }
  if (best === null) return [];
  const { field, others } = best;
  return [
    {
      form: "repeated",
      field: formatPath(field.at),
      others: others.map((other) => formatPath(other.at)),
      count: field.node.distinct!.size,
    },
  ];
}

/** `station name` beside `station`. */
function isNameOf(other: FieldShape, field: FieldShape): boolean {
  return formatPath(other.at).toLowerCase().startsWith(formatPath(field.at).toLowerCase());
}

function goesWith(one: ShapeNode, other: ShapeNode): boolean {
  const at = new Map<number, number>();
  for (let i = 0; i < other.sample.length; i += 2) at.set(other.sample[i], other.sample[i + 1]);
  const seen = new Map<number, { value: number; times: number }>();
  for (let i = 0; i < one.sample.length; i += 2) {
    const value = at.get(one.sample[i]);
    if (value === undefined) continue;
    const known = seen.get(one.sample[i + 1]);
    if (known === undefined) seen.set(one.sample[i + 1], { value, times: 1 });
    else if (known.value !== value) return false;
    else known.times++;
  }
  const values = new Set([...seen.values()].map(({ value }) => value));
  return values.size >= 3 && [...seen.values()].filter(({ times }) => times > 1).length >= 3;
}
