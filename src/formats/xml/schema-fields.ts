/** What an XML Schema (XSD 1.0) says of elements and attributes: order, types, words to choose from, limits. */
import { pushAll } from "../../bytes/lists.js";
import { MemorySource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import type { ColumnType } from "../../model/plan.js";
import type { SchemaFile } from "../../model/schema.js";
import type { SchemaField, SchemaNode, SchemaValue } from "../../model/schema-node.js";
import { Entities } from "./entities.js";
import { watchTags } from "./layout.js";
import { decodeAttribute } from "./text.js";

/** An element of the schema's own text: names without prefixes. */
interface Part {
  readonly name: string;
  readonly attributes: ReadonlyMap<string, string>;
  readonly parts: Part[];
}

const TYPES: Readonly<Record<string, ColumnType>> = {
  decimal: "decimal",
  integer: "integer",
  int: "integer",
  long: "integer",
  short: "integer",
  byte: "integer",
  nonNegativeInteger: "integer",
  positiveInteger: "integer",
  nonPositiveInteger: "integer",
  negativeInteger: "integer",
  unsignedInt: "integer",
  unsignedLong: "integer",
  unsignedShort: "integer",
  unsignedByte: "integer",
  double: "number",
  float: "number",
  boolean: "boolean",
  date: "date",
};

export async function fieldsOf(files: readonly SchemaFile[]): Promise<SchemaNode> {
  const tops: Part[] = [];
  for (const { file, text } of files) pushAll(tops, await partsOf(text, file));
  return new Reader(tops).document();
}

async function partsOf(text: string, file: string): Promise<Part[]> {
  const open: Part[] = [{ name: "", attributes: new Map(), parts: [] }];
  const entities = new Entities();
  await watchTags(new MemorySource(encode(text.replace(/^\ufeff/, "")), file), entities, (depth, tag) => {
    const { window, attributes, attributeNames: names, attributeValues: values } = tag;
    const said = new Map<string, string>();
    for (let k = 0; k < attributes; k++)
      said.set(decode(window, names[2 * k], names[2 * k + 1]), decodeAttribute(window, values[2 * k], values[2 * k + 1], entities));
    const part: Part = { name: local(tag.tagName), attributes: said, parts: [] };
    open[depth].parts.push(part);
    open[depth + 1] = part;
    return true;
  });
  return open[0].parts.flatMap(({ parts }) => parts);
}

function local(name: string): string {
  return name.slice(name.indexOf(":") + 1);
}

class Reader {
  private readonly named = new Map<string, Part>();

  constructor(private readonly tops: readonly Part[]) {
    for (const part of tops) this.named.set(`${part.name} ${part.attributes.get("name") ?? ""}`, part);
  }

  /** A document: any of the elements at the top. */
  document(): SchemaNode {
    const roots = this.tops.filter(({ name }) => name === "element");
    return { fields: roots.map((part) => this.element(part, true, false)), value: null };
  }

  private find(kind: string, name: string | undefined): Part | undefined {
    return name === undefined ? undefined : this.named.get(`${kind} ${local(name)}`);
  }

  private element(part: Part, required: boolean, isList: boolean): SchemaField {
    const target = this.find("element", part.attributes.get("ref")) ?? part;
    return { name: target.attributes.get("name") ?? "", required, isList, node: () => this.typeOf(target) };
  }

  /** What an element or an attribute is, by its own type or one with a name. */
  private typeOf({ attributes, parts }: Part): SchemaNode {
    const type = attributes.get("type");
    const own = parts.find(({ name }) => name === "complexType" || name === "simpleType");
    const found = own ?? this.find("complexType", type) ?? this.find("simpleType", type);
    if (found === undefined) return { fields: [], value: { type: TYPES[local(type ?? "")] ?? "text" } };
    if (found.name === "simpleType") return { fields: [], value: this.simple(found) };
    const fields = this.fieldsIn(found.parts, true, false);
    return { fields, value: fields.some(({ name }) => !name.startsWith("@")) ? null : this.textOf(found) };
  }

  private fieldsIn(parts: readonly Part[], sure: boolean, many: boolean): SchemaField[] {
    return parts.flatMap((part): SchemaField[] => {
      const { name, attributes } = part;
      const optional = attributes.get("minOccurs") === "0";
      const most = attributes.get("maxOccurs") ?? "1";
      const isMany = many || (most !== "1" && most !== "0");
      switch (name) {
        case "element":
          return [this.element(part, sure && !optional, isMany)];
        case "sequence":
        case "all":
          return this.fieldsIn(part.parts, sure && !optional, isMany);
        case "choice":
          return this.fieldsIn(part.parts, false, isMany);
        case "group":
        case "attributeGroup":
          return this.fieldsIn(this.find(name, attributes.get("ref"))?.parts ?? [], sure && !optional, isMany);
        case "complexContent":
        case "simpleContent":
        case "restriction":
          return this.fieldsIn(part.parts, sure, many);
        case "extension":
          return [
            ...this.fieldsIn(this.find("complexType", attributes.get("base"))?.parts ?? [], sure, many),
            ...this.fieldsIn(part.parts, sure, many),
          ];
        case "attribute": {
          const target = this.find("attribute", attributes.get("ref")) ?? part;
          if (attributes.get("use") === "prohibited") return [];
          const required = attributes.get("use") === "required";
          return [{ name: `@${target.attributes.get("name") ?? ""}`, required, isList: false, node: () => this.typeOf(target) }];
        }
        default:
          return [];
      }
    });
  }

  /** The text of an element that has attributes besides. */
  private textOf({ parts }: Part): SchemaValue | null {
    const content = parts.find(({ name }) => name === "simpleContent")?.parts[0];
    const base = content?.attributes.get("base");
    if (content === undefined || base === undefined) return null;
    const type = this.find("simpleType", base);
    return type === undefined ? { type: TYPES[local(base)] ?? "text" } : this.simple(type);
  }

  private simple(part: Part, depth = 0): SchemaValue {
    const restriction = part.parts.find(({ name }) => name === "restriction");
    if (restriction === undefined || depth > 16) return { type: "text" };
    const base = restriction.attributes.get("base") ?? "";
    const inner = restriction.parts.find(({ name }) => name === "simpleType") ?? this.find("simpleType", base);
    const from: SchemaValue = inner === undefined ? { type: TYPES[local(base)] ?? "text" } : this.simple(inner, depth + 1);
    const said = (facet: string): string | undefined => restriction.parts.find(({ name }) => name === facet)?.attributes.get("value");
    const all = (facet: string): string[] =>
      restriction.parts.flatMap(({ name, attributes }) => (name === facet ? [attributes.get("value") ?? ""] : []));
    const length = said("length");
    const number = (text: string | undefined): number | undefined => (text === undefined || Number(text) === 0 ? undefined : Number(text));
    const choices = all("enumeration");
    const patterns = all("pattern");
    return {
      ...from,
      ...(choices.length === 0 ? {} : { choices }),
      ...defined({
        minimum: said("minInclusive"),
        maximum: said("maxInclusive"),
        minLength: number(said("minLength") ?? length),
        maxLength: number(said("maxLength") ?? length),
        pattern:
          patterns.length === 0 || patterns.some((one) => /\\[icIC]|-\[/.test(one))
            ? undefined
            : patterns.length === 1
              ? patterns[0]
              : patterns.map((one) => `(?:${one})`).join("|"),
      }),
    };
  }
}

function defined<T extends object>(values: T): Partial<T> {
  return Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined)) as Partial<T>;
}
