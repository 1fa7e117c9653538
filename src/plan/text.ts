/** The text of a plan against its schema: what is wrong is told with line, column and the nearest right word. */
import { pushAll } from "../bytes/lists.js";
import { isMap, visit, type Alias, type Document, type Node } from "yaml";
import { PlanError, type Place } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { planWords, sourceShape, type PlanInput, type PlanSchema } from "./schema.js";

/** So many values may stand behind aliases: more were made to burst. */
const MOST_ALIASED = 100;

/** The document as plain values; aliases that lead nowhere, or to far too much, are told with their place. */
export function valuesOf(doc: Document.Parsed, place: (offset: number | undefined) => Place): unknown {
  let first: Alias | null = null;
  visit(doc, {
    Alias: (_, alias) => {
      first ??= alias;
      if (alias.resolve(doc) === undefined)
        throw new PlanError("plan-yaml", { reason: `nothing is called &${alias.source} before *${alias.source}` }, place(alias.range?.[0]));
    },
  });
  try {
    return doc.toJS({ maxAliasCount: MOST_ALIASED });
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new PlanError("plan-yaml", { reason }, place((first as Alias | null)?.range?.[0]));
  }
}

/** `__proto__` is only a name, but not one that every library downstream keeps: it is refused as a title. */
export function refuseProto(doc: Document, place: (offset: number | undefined) => Place): void {
  visit(doc, {
    Pair(_, pair) {
      const key = pair.key as Node & { value?: unknown };
      if (key.value === "__proto__")
        throw new PlanError("plan-title-taken", { table: "tables", title: "__proto__" }, place(key.range?.[0]));
    },
  });
}

export type Issue = NonNullable<ReturnType<PlanSchema["plan"]["safeParse"]>["error"]>["issues"][number];

/** The text of a plan, and what it may say. */
export interface PlanText {
  readonly doc: Document;
  readonly place: (offset: number | undefined) => Place;
  readonly schema: PlanSchema;
}

export function explain(found: Issue, { doc, place, schema }: PlanText): PlanError {
  let issue = found;
  const path = [...issue.path];
  const there = (at: readonly PropertyKey[]): readonly string[] => {
    const map = at.length === 0 ? doc.contents : doc.getIn(at as string[], true);
    return isMap(map) ? map.items.map((item) => String((item.key as { value?: unknown }).value)) : [];
  };
  while (issue.code === "invalid_union") {
    // a record that stands where several may: what is wrong is told of the one that it is most like
    const known = planWords(schema, path, there);
    const through = there(path).includes("through");
    const errors = (through ? issue.errors.slice(-1) : issue.errors).flat();
    const strange = errors.find((one) => one.code === "unrecognized_keys" && one.keys.some((key) => !known.includes(key)));
    const inner = strange ?? errors.find((one) => one.code !== "invalid_type" || one.path.length > 0) ?? errors[0];
    pushAll(path, inner.path);
    issue = inner;
  }
  if (issue.code === "unrecognized_keys") {
    const known = planWords(schema, path, there);
    const key = issue.keys.find((one) => !known.includes(one)) ?? issue.keys[0];
    return new PlanError("plan-unknown-key", { key, nearest: nearest(key, known), known }, place(keyOffset(doc, [...path, key])));
  }
  const missing = issue.code === "invalid_type" && doc.getIn(path as string[]) === undefined;
  if (missing)
    return new PlanError(
      "plan-missing-key",
      { path: path.map(String), key: String(path.at(-1)) },
      place(keyOffset(doc, path.slice(0, -1))),
    );
  return new PlanError("plan-value", { path: path.map(String), reason: issue.message }, place(keyOffset(doc, path)));
}

/** Where the key of an entry stands in the text. */
export function keyOffset(doc: Document, path: readonly PropertyKey[]): number | undefined {
  const parent = path.length <= 1 ? doc.contents : (doc.getIn(path.slice(0, -1) as string[], true) as Node | undefined);
  if (isMap(parent)) {
    const pair = parent.items.find((item) => String((item.key as { value?: unknown }).value) === String(path.at(-1)));
    const key = pair?.key as Node | undefined;
    if (key?.range) return key.range[0];
  }
  return parent?.range?.[0];
}

/** A format's words are checked by the format: the one that is said, or the first that takes them. */
export function checkSettings(name: string, source: PlanInput["sources"][string], text: PlanText): void {
  const { doc, place, schema } = text;
  for (const [word, value] of Object.entries(source)) {
    if (word in sourceShape || value === undefined) continue;
    const formats = [...schema.settings].filter(([format, own]) => word in own && (source.format ?? format) === format);
    if (formats.length === 0) {
      const known = [...Object.keys(sourceShape), ...Object.keys(schema.settings.get(source.format ?? "") ?? {})];
      throw new PlanError(
        "plan-unknown-key",
        { key: word, nearest: nearest(word, known), known },
        place(keyOffset(doc, ["sources", name, word])),
      );
    }
    const issues = formats.map(([, own]) => own[word].safeParse(value).error?.issues[0]);
    if (issues.every((issue) => issue !== undefined)) {
      const issue = issues[0];
      throw explain({ ...issue, path: ["sources", name, word, ...issue.path] }, text);
    }
  }
}
