/** What a JSON Schema says of fields: properties, types, words to choose from, limits. */
import { pushAll } from "../../bytes/lists.js";
import type { ColumnType } from "../../model/plan.js";
import type { SchemaFile } from "../../model/schema.js";
import type { SchemaField, SchemaNode, SchemaValue } from "../../model/schema-node.js";

type Schema = Readonly<Record<string, unknown>>;

const TYPES: Readonly<Record<string, ColumnType>> = { string: "text", number: "number", integer: "integer", boolean: "boolean" };
/** A schema that refers to itself is followed so far to find what it stands for. */
const MOST_REFERENCES = 32;

export function fieldsOf(files: readonly SchemaFile[]): SchemaNode {
  const documents = new Map(files.map(({ file, text }) => [file, JSON.parse(text.replace(/^\ufeff/, "")) as Schema]));
  const [main] = files;
  return new Reader(documents).node(documents.get(main.file)!, main.file);
}

class Reader {
  constructor(private readonly documents: ReadonlyMap<string, Schema>) {}

  node(schema: Schema, file: string): SchemaNode {
    const parts = this.parts(schema, file);
    const fields = new Map<string, SchemaField>();
    const required = new Set(
      parts.flatMap((part) => (part.sure && Array.isArray(part.schema.required) ? (part.schema.required as string[]) : [])),
    );
    for (const part of parts)
      for (const [name, property] of Object.entries((part.schema.properties ?? {}) as Record<string, Schema>)) {
        if (fields.has(name) || typeof property !== "object") continue;
        const items = this.itemsOf(property, part.file);
        fields.set(name, {
          name,
          required: required.has(name),
          isList: items !== null,
          node: () => (items === null ? this.node(property, part.file) : this.node(items.schema, items.file)),
        });
      }
    return { fields: [...fields.values()], value: fields.size > 0 ? null : valueOf(parts.map((part) => part.schema)) };
  }

  /** The items of a list, where it is one. */
  itemsOf(schema: Schema, file: string): { schema: Schema; file: string } | null {
    for (const part of this.parts(schema, file))
      if (typeof part.schema.items === "object" && part.schema.items !== null)
        return { schema: part.schema.items as Schema, file: part.file };
    return null;
  }

  /** A schema with what it refers to and is made of; what one of several says is not `sure`. */
  private parts(schema: Schema, file: string, sure = true, depth = 0): { schema: Schema; file: string; sure: boolean }[] {
    if (typeof schema !== "object" || depth > MOST_REFERENCES) return [];
    const found = [{ schema, file, sure }];
    const { $ref, allOf, oneOf, anyOf } = schema;
    if (typeof $ref === "string") {
      const target = this.resolve($ref, file);
      if (target !== null) pushAll(found, this.parts(target.schema, target.file, sure, depth + 1));
    }
    for (const [list, isSure] of [
      [allOf, sure],
      [oneOf, false],
      [anyOf, false],
    ] as const)
      if (Array.isArray(list)) for (const one of list as Schema[]) pushAll(found, this.parts(one, file, isSure, depth + 1));
    return found;
  }

  private resolve(reference: string, from: string): { schema: Schema; file: string } | null {
    const [path, pointer = ""] = reference.split("#");
    const folder = from.slice(0, from.lastIndexOf("/") + 1);
    const file = path === "" ? from : this.documents.has(path) ? path : `${folder}${path}`;
    let at: unknown = this.documents.get(file);
    if (pointer !== "" && !pointer.startsWith("/")) return null;
    for (const name of pointer.split("/").slice(1))
      at = (at as Record<string, unknown> | undefined)?.[decodeURIComponent(name).replaceAll("~1", "/").replaceAll("~0", "~")];
    return typeof at === "object" && at !== null ? { schema: at as Schema, file } : null;
  }
}

function valueOf(schemas: readonly Schema[]): SchemaValue | null {
  const all = Object.assign({}, ...[...schemas].reverse()) as Schema;
  const { type, format, pattern } = all;
  const types = (Array.isArray(type) ? type : [type]).filter((one) => one !== "null") as string[];
  const words = all.enum ?? (all.const === undefined ? undefined : [all.const]);
  const choices = Array.isArray(words) && words.every((word) => typeof word === "string") ? words : undefined;
  if (types.length !== 1 && choices === undefined) return { type: "any" };
  if (types[0] === "object" || types[0] === "array") return null;
  const limit = (name: string): string | undefined => (typeof all[name] === "number" ? String(all[name]) : undefined);
  const length = (name: string): number | undefined => (typeof all[name] === "number" && all[name] > 0 ? all[name] : undefined);
  return {
    type: choices === undefined ? (format === "date" ? "date" : (TYPES[types[0]] ?? "any")) : "any",
    choices,
    minimum: limit("minimum"),
    maximum: limit("maximum"),
    minLength: length("minLength"),
    maxLength: length("maxLength"),
    // for the whole text, as it is in a plan
    pattern: typeof pattern === "string" ? wholePattern(pattern) : undefined,
  };
}

/** The pattern for the whole text; nothing where it has what the patterns of plans have not. */
function wholePattern(pattern: string): string | undefined {
  if (/\(\?[=!<]|\\[1-9pPu]/.test(pattern)) return undefined;
  const start = pattern.startsWith("^") ? pattern.slice(1) : `.*${pattern}`;
  return start.endsWith("$") ? start.slice(0, -1) : `${start}.*`;
}
