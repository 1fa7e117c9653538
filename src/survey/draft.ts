/**
 * Drafts a plan from a shape: the kinds with the most records become tables, the rest is kept
 * verbatim in cells of their parents.
 */
import type { SourceDecision } from "../source/choose.js";
import type { Dialect } from "../formats/format.js";
import {
  type Settings,
  ACTION_TITLE,
  MARK_TITLE,
  PROBLEM_TITLE,
  type Blank,
  type ColumnPlan,
  type ColumnType,
  type Plan,
  type SourcePlan,
  type TablePlan,
} from "../model/plan.js";
import { Kind } from "../model/kind.js";
import { findHierarchy, type Hierarchy } from "./hierarchy.js";
import { couldBeKey, looksLikeId, referencesOf } from "./keys.js";
import { isHollow, type FieldShape, type RecordKind } from "./kinds.js";
import { type Path, formatPath } from "../model/path.js";
import type { SchemaNode } from "../model/schema-node.js";
import { bySchema, MOST_TABLES } from "./by-schema.js";
import { writePlan } from "../plan/write.js";

/** Among fewer records than this, values that differ may do so by chance. */
const FEW = 5;
const LIKE_A_NAME = /^name$/i;

export interface Draft {
  readonly plan: Plan;
  /** What the draft left verbatim, in words. */
  readonly notes: readonly string[];
}

export function draftPlan(
  kinds: readonly RecordKind[],
  file: string | readonly string[],
  { dialect, encoding }: SourceDecision,
  settings: Settings,
  schema?: { readonly node: SchemaNode; readonly file?: string },
): Draft {
  const chosen = choose(kinds);
  const notes: string[] = [];
  const comments = new Map<string, string>();
  const drafted = kinds.filter((kind) => chosen.has(kind)).map((kind) => draftTable(kind, dialect, chosen, comments, notes));
  const tables = drafted.map(({ table, kind, fields }) => {
    const columns = table.columns.map((column, i) => (i < fields.length ? refer(column, fields[i], kind, drafted, comments) : column));
    return { ...table, columns };
  });
  const source: SourcePlan = {
    name: "source",
    file,
    format: dialect.name,
    encoding: encoding === "utf-8" ? undefined : encoding,
    schema: schema?.file,
    settings,
  };
  const plan: Plan = { sources: [source], tables: schema === undefined ? tables : bySchema(tables, schema.node), text: "" };
  return { plan: { ...plan, text: writePlan(plan, comments, notes) }, notes };
}

/** A table of the draft, with what its first columns show. */
interface Drafted {
  readonly table: TablePlan;
  readonly kind: RecordKind;
  readonly fields: readonly FieldShape[];
}

/** Says that a column refers to another table, where all its values are keys there; where that may be by chance, in a comment. */
function refer(
  column: ColumnPlan,
  field: FieldShape,
  kind: RecordKind,
  drafted: readonly Drafted[],
  comments: Map<string, string>,
): ColumnPlan {
  const kinds = drafted.map((one) => one.kind);
  const targets = referencesOf(kind, field, kinds).flatMap((found) => {
    const of = drafted.find((one) => one.kind === found.kind)!;
    const { title } = of.table.columns[of.fields.indexOf(found.field)];
    return found.kind !== kind && of.table.key === title ? [of] : [];
  });
  if (targets.length === 0 || column.title === drafted.find((one) => one.kind === kind)!.table.key) return column;
  const [{ table }] = targets;
  const values = [...(field.node.texts?.values() ?? [])];
  const coded = values.length > 0 && values.every((value) => /\d/.test(value));
  const id = `${kind.name}\n${column.title}`;
  if (targets.length === 1 && (coded || isNamedAfter(field, table.name))) {
    comments.delete(id);
    return { ...column, refers: table.name };
  }
  const others = targets.map((one) => `refers: ${one.table.name}`).join(" or ");
  comments.set(id, [...(comments.has(id) ? [comments.get(id)!] : []), `could be ${others}: all values are keys there`].join("; "));
  return column;
}

/** The last name on the way to the field is that of the records, as `station` of stations. */
function isNamedAfter(field: FieldShape, table: string): boolean {
  const name = /[^/@]*$/.exec(formatPath(field.at))![0].toLowerCase();
  const word = table.toLowerCase();
  return name.length > 2 && (word.startsWith(name) || (name.startsWith(word.replace(/s$/, "")) && word.length > 3));
}

/** The kinds with the most records, and whatever they are inside of. */
function choose(kinds: readonly RecordKind[]): Set<RecordKind> {
  const document = kinds.find((kind) => kind.form === "document");
  const chosen = new Set(document === undefined || isHollow(document) ? [] : [document]);
  for (const kind of [...kinds].sort((a, b) => b.count - a.count)) {
    const line = [kind];
    for (let above = kind.parent; above !== null && !chosen.has(above); above = above.parent) line.push(above);
    if (isHollow(kind) || chosen.has(kind)) continue;
    if (chosen.size + line.length <= MOST_TABLES) line.forEach((one) => chosen.add(one));
  }
  // what is left out at the top is kept in the document's own row
  if (document?.children.some((kind) => !chosen.has(kind)) === true) chosen.add(document);
  return chosen;
}

function draftTable(
  kind: RecordKind,
  dialect: Dialect,
  chosen: ReadonlySet<RecordKind>,
  comments: Map<string, string>,
  notes: string[],
): Drafted {
  const titles = new Set<string>([MARK_TITLE, ACTION_TITLE, PROBLEM_TITLE]);
  if (kind.parent !== null) titles.add(kind.parent.name);
  const fields = kind.fields.filter((field) => !(field.form === "rest" && standsForLeftOut(kind, field, chosen)));
  const columns = fields.map((field) => draftColumn(kind, dialect, field, titles));
  const leftOut = kind.children.filter((inner) => !chosen.has(inner) && inner.steps.length > 0);
  // elements of one name do not stand together, so that no cell could hold them
  if (dialect.repeats && leftOut.length > 0) notes.push(`left as they are, in no table: ${inWords(leftOut)}`);
  for (const inner of dialect.repeats ? [] : leftOut) {
    const at: Path = { steps: holderSteps(inner), end: "value" };
    columns.push({ title: freshTitle(formatPath(at), titles), at, type: "any", blank: "absent", required: false, readOnly: false });
  }
  if (leftOut.length > 0 && !dialect.repeats) notes.push(`kept verbatim in cells of ${kind.name}: ${inWords(leftOut)}`);
  const key = chooseKey(kind, fields, columns);
  fields.forEach((field, i) => {
    const remark = commentOn(kind, field, columns[i], key);
    if (remark !== null) comments.set(`${kind.name}\n${columns[i].title}`, remark);
  });
  const own = kind.recursive ? undefined : kind.children.find((child) => child.recursive);
  const titleOf = (path: string): string => columns[fields.findIndex((field) => formatPath(field.at) === path)].title;
  const hierarchy = findHierarchy(kind);
  const say = (path: string, words: string): void => void comments.set(`${kind.name}\n${titleOf(path)}`, words);
  for (const one of hierarchy) {
    if (one.form === "once") say(one.field, "blank below its first: with fill: down each row shows it");
    if (one.form !== "repeated") continue;
    const by = titleOf(one.field);
    for (const other of one.others) say(other, `the same for each ${by}: with same-for: ${by} an edit has to be made in all of them`);
  }
  const flat = own !== undefined ? [] : hierarchy.flatMap((one) => treeWords(one, titleOf));
  const tree =
    own === undefined
      ? flat.length === 0
        ? ""
        : `; a tree with ${flat.join(", or with ")}`
      : `; they hold their own kind: with tree: ${formatPath({ steps: own.steps, end: "value" })} this is one table`;
  comments.set(kind.name, `${kind.count} ${kind.count === 1 ? "record" : "records"}${tree}`);
  const table = { name: kind.name, rows: kind.rows, inside: kind.parent?.name, key, columns, inline: [], shown: [...columns.keys()] };
  return { table, kind, fields };
}

/** What a plan would say to have the records as a tree. */
function treeWords(found: Hierarchy, titleOf: (path: string) => string): string[] {
  if (found.form === "parent") return [`key: ${titleOf(found.key)} and tree: { parent: ${titleOf(found.field)} }`];
  if (found.form === "depth") return [`tree: { depth: ${titleOf(found.field)} } and a label`];
  if (found.form !== "path") return [];
  return [`tree: { path: ${titleOf(found.field)}${found.separator === "/" ? "" : `, separator: ${JSON.stringify(found.separator)}`} }`];
}

const MOST_NAMED = 12;

function inWords(kinds: readonly RecordKind[]): string {
  const named = kinds.slice(0, MOST_NAMED).map((kind) => `${kind.name} (${kind.count})`);
  if (kinds.length > MOST_NAMED) named.push(`and ${kinds.length - MOST_NAMED} more kinds`);
  return named.join(", ");
}

/** A kind left out takes its whole list or keyed record with it, so what is left of that is in the same cell. */
function standsForLeftOut(kind: RecordKind, field: FieldShape, chosen: ReadonlySet<RecordKind>): boolean {
  return kind.children.some((inner) => !chosen.has(inner) && inner.holder === field.node);
}

function holderSteps(kind: RecordKind): readonly RecordKind["steps"][number][] {
  return kind.form === "keyed" ? kind.steps.slice(0, -1) : kind.steps;
}

function draftColumn(kind: RecordKind, dialect: Dialect, field: FieldShape, titles: Set<string>): ColumnPlan {
  const wanted =
    field.form === "name"
      ? "key"
      : field.at.steps.length === 0
        ? "value"
        : field.at.steps[0].kind === "place"
          ? placeTitle(field.at)
          : formatPath(field.at).replace(/(^|\/)@/g, "$1");
  return {
    title: freshTitle(wanted, titles),
    at: field.at,
    type: field.form === "name" ? "text" : columnType(field, dialect),
    blank: dialect.emptyIsAbsent ? "absent" : blankOf(kind, field),
    required: false,
    // renaming a member is more than an edit of a value: the person with the plan decides
    readOnly: field.form === "name",
  };
}

function placeTitle(path: Path): string {
  const step = path.steps[0];
  return step.kind === "place" ? `item ${step.place + 1}` : formatPath(path);
}

function freshTitle(wanted: string, titles: Set<string>): string {
  let title = wanted.trim() === "" || /\p{Cc}|\p{Cs}/u.test(wanted) ? "field" : wanted;
  const base = titles.has(title) || title === "__proto__" ? `${title} (field)` : title;
  title = base;
  for (let n = 2; titles.has(title); n++) title = `${base} ${n}`;
  titles.add(title);
  return title;
}

export function columnType(field: FieldShape, dialect: Dialect): ColumnType {
  const { node, form } = field;
  if (form !== "scalar" || node.filledLists + node.filledRecords > 0) return "any";
  const [texts, numbers, truths] = [node.kinds[2], node.kinds[3], node.kinds[4] + node.kinds[5]];
  if (texts > 0 && numbers + truths === 0) {
    if (node.example === "" || node.example === null) return "text";
    if (node.allDates) return "date";
    // numbers in a text: where the format has no other way to write them, and they are no codes
    const asNumber = dialect.onlyText && node.allDecimals && node.scalars > 1 && !looksLikeId(formatPath(field.at));
    return !asNumber ? "text" : node.allIntegers ? "integer" : "decimal";
  }
  if (numbers > 0 && texts + truths === 0) return node.allIntegers ? "integer" : "number";
  if (truths > 0 && texts + numbers === 0) return "boolean";
  return "any";
}

function blankOf(kind: RecordKind, field: FieldShape): Blank {
  if (field.form !== "scalar" || field.at.steps.length === 0 || field.present < kind.count) return "absent";
  if (field.node.nulls > 0) return "null";
  return field.node.texts !== null && [...field.node.texts.values()].includes("") ? "empty" : "absent";
}

/** Only a column whose name says so becomes the key, so that one edit cannot make another column the key. */
function chooseKey(kind: RecordKind, fields: readonly FieldShape[], columns: readonly ColumnPlan[]): string | undefined {
  if (kind.form === "document") return undefined;
  const rank = (field: FieldShape, title: string): number => {
    if (!couldBeKey(kind, field)) return 0;
    if (field.form === "name") return 1;
    if (field.at.steps.length > 1) return 0;
    return /^(?:id|code|key)$/i.test(title) ? 4 : looksLikeId(title) ? 3 : LIKE_A_NAME.test(title) ? 2 : 0;
  };
  let best: { title: string; rank: number } | null = null;
  fields.forEach((field, i) => {
    const r = rank(field, columns[i].title);
    if (r > (best?.rank ?? 0)) best = { title: columns[i].title, rank: r };
  });
  if (best === null && kind.children.some((inner) => inner.steps.length > 0)) {
    // rows inside these need something to call them by: the shortest text that is never twice
    const texts = fields.filter((field) => couldBeKey(kind, field) && field.node.kinds[Kind.Text] > 0 && !field.node.allDates);
    const shortest = texts.reduce((one, other) => (other.node.longest < one.node.longest ? other : one), texts[0]);
    if (shortest !== undefined && kind.count >= FEW) return columns[fields.indexOf(shortest)].title;
  }
  return (best as { title: string } | null)?.title;
}

function commentOn(kind: RecordKind, field: FieldShape, column: ColumnPlan, key: string | undefined): string | null {
  const { node } = field;
  if (field.form === "name") return "the name each record stands under; without read-only an edit renames it";
  if (field.form === "rest") return "what is here where there are no records to take apart: null, [] or {}";
  if (field.form === "verbatim") return "kept as it is written in the source";
  if (key === undefined && couldBeKey(kind, field)) return "never twice: could be the key";
  const mixed = [node.kinds[2] > 0 && "text", node.kinds[3] > 0 && "numbers", node.kinds[4] + node.kinds[5] > 0 && "true/false"].filter(
    Boolean,
  );
  if (field.form === "scalar" && mixed.length > 1) return `${mixed.join(" and ")} are mixed here: decide on a type`;
  if (column.blank !== "absent") return column.blank === "null" ? "blank cells are null" : "blank cells are empty text";
  return null;
}
