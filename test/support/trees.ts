/** Trees of parts in every form that keeps them: records in records, and records that name the one above. */
import fc from "fast-check";

export interface Part {
  readonly name: string;
  readonly parts: readonly Part[];
}

/** How a source keeps a tree, and what a plan says of it. */
export interface TreeForm {
  readonly name: string;
  readonly file: string;
  readonly plan: string;
  readonly write: (tops: readonly Part[]) => string;
  /** Name of the part above each, by name; "" at the top. */
  readonly read: (text: string) => Map<string, string>;
}

const head = (file: string, format: string): string => `hatchfold: 1\nsources: { s: { file: ${file}, format: ${format} } }\ntables:\n`;

function flat(tops: readonly Part[], upper = ""): { name: string; upper: string }[] {
  return tops.flatMap(({ name, parts }) => [{ name, upper }, ...flat(parts, name)]);
}

const asMap = (parts: readonly { name: string; upper?: string | null }[]): Map<string, string> =>
  new Map(parts.map(({ name, upper }) => [name, upper ?? ""]));

const element = ({ name, parts }: Part, indent: string, wrapped: boolean): string => {
  if (parts.length === 0) return `${indent}<part name="${name}"/>\n`;
  const inner = parts.map((one) => element(one, `${indent}${wrapped ? "    " : "  "}`, wrapped)).join("");
  const within = wrapped ? `${indent}  <parts>\n${inner}${indent}  </parts>\n` : inner;
  return `${indent}<part name="${name}">\n${within}${indent}</part>\n`;
};

/** Reads the elements with a regular expression: enough for what is written here. */
function readElements(text: string): Map<string, string> {
  const above: string[] = [];
  const found = new Map<string, string>();
  for (const [, close, name, alone] of text.matchAll(/<(\/?)part(?: name="([^"]*)")?(\/?)>/g)) {
    if (close === "/") above.pop();
    else {
      found.set(name, above.at(-1) ?? "");
      if (alone !== "/") above.push(name);
    }
  }
  return found;
}

interface JsonPart {
  readonly name: string;
  readonly parts?: readonly JsonPart[];
}

export const TREE_FORMS: readonly TreeForm[] = [
  {
    name: "JSON, parts in parts",
    file: "tree.json",
    plan: `${head("tree.json", "json")}  parts: { rows: parts, tree: parts, label: name, columns: { name: name } }\n`,
    // what a record is called may come before or behind what it holds
    write: (tops) =>
      JSON.stringify(
        { parts: tops },
        (_, value: unknown) => {
          const part = value as Part;
          if (part?.parts === undefined || part.name === undefined) return value;
          if (part.parts.length === 0) return { name: part.name };
          return part.name.length % 2 === 0 ? { parts: part.parts, name: part.name } : { name: part.name, parts: part.parts };
        },
        1,
      ),
    read: (text) => {
      const found: { name: string; upper: string }[] = [];
      const walk = (parts: readonly JsonPart[], upper: string): void =>
        parts.forEach((one) => {
          found.push({ name: one.name, upper });
          walk(one.parts ?? [], one.name);
        });
      walk((JSON.parse(text) as { parts: JsonPart[] }).parts, "");
      return asMap(found);
    },
  },
  {
    name: "JSON, with a key",
    file: "keyed.json",
    plan: `${head("keyed.json", "json")}  parts: { rows: parts, tree: inner/parts, key: name, columns: { name: name } }\n`,
    write: (tops) => {
      const nest = ({ name, parts }: Part): object => ({ name, inner: { parts: parts.map(nest) } });
      return JSON.stringify({ parts: tops.map(nest) });
    },
    read: (text) => {
      interface Keyed {
        readonly name: string;
        readonly inner?: { readonly parts?: readonly Keyed[] };
      }
      const walk = (parts: readonly Keyed[], upper: string): { name: string; upper: string }[] =>
        parts.flatMap((one) => [{ name: one.name, upper }, ...walk(one.inner?.parts ?? [], one.name)]);
      return asMap(walk((JSON.parse(text) as { parts: Keyed[] }).parts, ""));
    },
  },
  ...[false, true].map((wrapped) => ({
    name: wrapped ? "XML, in a list" : "XML, elements in elements",
    file: "tree.xml",
    plan: `${head("tree.xml", "xml")}  parts: { rows: r/part, tree: ${wrapped ? "parts/part" : "part"}, label: name, columns: { name: "@name" } }\n`,
    write: (tops: readonly Part[]) => `<r>\n${tops.map((one) => element(one, "  ", wrapped)).join("")}</r>\n`,
    read: readElements,
  })),
  {
    name: "JSON, the one above by its code",
    file: "coded.json",
    plan: `${head("coded.json", "json")}  parts: { rows: parts, tree: { parent: upper }, key: name, columns: { name: name, upper: upper } }\n`,
    write: (tops) =>
      JSON.stringify({ parts: flat(tops).map(({ name, upper }) => ({ name, upper: upper === "" ? null : upper })) }, null, 1),
    read: (text) => asMap((JSON.parse(text) as { parts: { name: string; upper?: string | null }[] }).parts),
  },
  {
    name: "delimited text, the one above by its code",
    file: "coded.csv",
    plan: `${head("coded.csv", "delimited")}  parts: { rows: ., tree: { parent: upper }, key: name, columns: { name: name, upper: upper } }\n`,
    write: (tops) =>
      `name;upper\r\n${flat(tops)
        .map(({ name, upper }) => `${name};${upper}\r\n`)
        .join("")}`,
    read: (text) =>
      asMap(
        text
          .trimEnd()
          .split(/\r?\n/)
          .slice(1)
          .map((line) => ({ name: line.split(";")[0], upper: line.split(";")[1] ?? "" })),
      ),
  },
];

/** Parts with names of their own, some with a separator in them; each number says below which of those before it a part is. */
export const trees: fc.Arbitrary<Part[]> = fc.array(fc.nat(), { minLength: 1, maxLength: 12 }).map((numbers) => {
  interface Node {
    readonly name: string;
    readonly parts: Node[];
  }
  const nodes: Node[] = numbers.map((_, i) => ({ name: i % 5 === 4 ? `p/${i}` : `part ${i}`, parts: [] }));
  const tops: Node[] = [];
  numbers.forEach((number, i) => (number % (i + 1) === 0 ? tops : nodes[(number % (i + 1)) - 1].parts).push(nodes[i]));
  return tops;
});
