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
  /** Where it is not a path of names with a slash between them. */
  readonly way?: (names: readonly string[]) => string;
  /** What is said when parts below stay behind; nothing where they go along. */
  readonly leaves?: string;
  /** Its order says nothing, so that a depth says nothing, either. */
  readonly unordered?: true;
}

/** What no column shows of a part. */
export const mindOf = (name: string): string => `${name} keeps it`;

/** What each part of a folded file has that no column shows, by name; "" where it has nothing. */
export function mindsIn(file: string, text: string): Map<string, string> {
  if (file.endsWith(".json")) {
    const found = new Map<string, string>();
    JSON.parse(text, (_, value: { name?: string; mind?: string } | null) => {
      if (typeof value?.name === "string") found.set(value.name, value.mind ?? "");
      return value;
    });
    return found;
  }
  if (file.endsWith(".xml")) {
    const attribute = (tag: string, name: string): string => new RegExp(` ${name}="([^"]*)"`).exec(tag)?.[1] ?? "";
    return new Map([...text.matchAll(/<part [^>]*>/g)].map(([tag]) => [attribute(tag, "name"), attribute(tag, "mind")]));
  }
  const [titles, ...lines] = text
    .trimEnd()
    .split(/\r?\n/)
    .map((line) => line.split(";"));
  return new Map(lines.map((cells) => [cells[titles.indexOf("name")], cells[titles.indexOf("mind")] ?? ""]));
}

const head = (file: string, format: string): string => `hatchfold: 1\nsources: { s: { file: ${file}, format: ${format} } }\ntables:\n`;

function flat(tops: readonly Part[], upper = ""): { name: string; upper: string }[] {
  return tops.flatMap(({ name, parts }) => [{ name, upper }, ...flat(parts, name)]);
}

/** Parts with the names from the top, in the order of the tree. */
function ways(tops: readonly Part[], above: readonly string[] = []): string[][] {
  return tops.flatMap(({ name, parts }) => [[...above, name], ...ways(parts, [...above, name])]);
}

/** What is above each part of an outline. */
function outline(parts: readonly { readonly depth: number; readonly name: string }[]): Map<string, string> {
  const open: string[] = [];
  return asMap(
    parts.map(({ depth, name }) => {
      open.length = depth;
      open[depth] = name;
      return { name, upper: open[depth - 1] };
    }),
  );
}

const ofWays = (all: readonly (readonly string[])[]): Map<string, string> =>
  asMap(all.map((names) => ({ name: names.at(-1)!, upper: names.at(-2) })));

const asMap = (parts: readonly { name: string; upper?: string | null }[]): Map<string, string> =>
  new Map(parts.map(({ name, upper }) => [name, upper ?? ""]));

const element = ({ name, parts }: Part, indent: string, wrapped: boolean): string => {
  if (parts.length === 0) return `${indent}<part name="${name}" mind="${mindOf(name)}"/>\n`;
  const inner = parts.map((one) => element(one, `${indent}${wrapped ? "    " : "  "}`, wrapped)).join("");
  const within = wrapped ? `${indent}  <parts>\n${inner}${indent}  </parts>\n` : inner;
  return `${indent}<part name="${name}" mind="${mindOf(name)}">\n${within}${indent}</part>\n`;
};

/** Reads the elements with a regular expression: enough for what is written here. */
function readElements(text: string): Map<string, string> {
  const above: string[] = [];
  const found = new Map<string, string>();
  for (const [, close, name, alone] of text.matchAll(/<(\/?)part(?: name="([^"]*)")?(?: mind="[^"]*")?(\/?)>/g)) {
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
          const { name, parts } = part;
          if (parts.length === 0) return { name, mind: mindOf(name) };
          return name.length % 2 === 0 ? { parts, mind: mindOf(name), name } : { name, parts, mind: mindOf(name) };
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
      const nest = ({ name, parts }: Part): object => ({ name, mind: mindOf(name), inner: { parts: parts.map(nest) } });
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
    leaves: "ref-lost",
    write: (tops) =>
      JSON.stringify(
        { parts: flat(tops).map(({ name, upper }) => ({ name, upper: upper === "" ? null : upper, mind: mindOf(name) })) },
        null,
        1,
      ),
    read: (text) => asMap((JSON.parse(text) as { parts: { name: string; upper?: string | null }[] }).parts),
  },
  {
    name: "delimited text, the one above by its code",
    file: "coded.csv",
    plan: `${head("coded.csv", "delimited")}  parts: { rows: ., tree: { parent: upper }, key: name, columns: { name: name, upper: upper } }\n`,
    leaves: "ref-lost",
    write: (tops) =>
      `name;upper;mind\r\n${flat(tops)
        .map(({ name, upper }) => `${name};${upper};${mindOf(name)}\r\n`)
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
  {
    name: "JSON, the way from the top",
    file: "ways.json",
    plan: `${head("ways.json", "json")}  parts: { rows: parts, tree: { path: path, separator: " > " }, label: name, columns: { name: name, path: at } }\n`,
    way: (names) => names.join(" > "),
    leaves: "tree-left",
    write: (tops) =>
      JSON.stringify(
        { parts: ways(tops).map((names) => ({ mind: mindOf(names.at(-1)!), name: names.at(-1), at: names.join(" > ") })) },
        null,
        1,
      ),
    read: (text) => ofWays((JSON.parse(text) as { parts: { at: string }[] }).parts.map(({ at }) => at.split(" > "))),
  },
  {
    name: "delimited text, the way from the top as the key",
    file: "ways.csv",
    plan: `${head("ways.csv", "delimited")}  parts: { rows: ., tree: { path: path, separator: "::" }, label: name, key: path, columns: { name: name, path: way } }\n`,
    way: (names) => `::${names.join("::")}`,
    leaves: "tree-left",
    unordered: true,
    // the last parts first
    write: (tops) =>
      `way;name;mind\n${ways(tops)
        .reverse()
        .map((names) => `::${names.join("::")};${names.at(-1)!};${mindOf(names.at(-1)!)}\n`)
        .join("")}`,
    read: (text) =>
      ofWays(
        text
          .trimEnd()
          .split("\n")
          .slice(1)
          .map((line) => line.split(";")[0].split("::").slice(1)),
      ),
  },
  {
    name: "JSON, depths in an ordered list",
    file: "depths.json",
    plan: `${head("depths.json", "json")}  parts: { rows: parts, tree: { depth: depth }, label: name, columns: { name: name, depth: level } }\n`,
    leaves: "tree-left",
    write: (tops) =>
      JSON.stringify(
        { parts: ways(tops).map((names) => ({ name: names.at(-1), level: names.length, mind: mindOf(names.at(-1)!) })) },
        null,
        1,
      ),
    read: (text) =>
      outline(
        (JSON.parse(text) as { parts: { name: string; level: number }[] }).parts.map(({ name, level }) => ({ name, depth: level - 1 })),
      ),
  },
  {
    name: "XML, depths in an ordered list",
    file: "depths.xml",
    plan: `${head("depths.xml", "xml")}  parts: { rows: r/part, tree: { depth: depth }, key: name, columns: { name: "@name", depth: "@level" } }\n`,
    leaves: "tree-left",
    write: (tops) =>
      `<r>\n${ways(tops)
        .map((names) => `  <part level="${String(names.length)}" name="${names.at(-1)!}" mind="${mindOf(names.at(-1)!)}"/>\n`)
        .join("")}</r>\n`,
    read: (text) =>
      outline(
        [...text.matchAll(/<part[^>]*>/g)].map(([tag]) => ({
          name: /name="([^"]*)"/.exec(tag)![1],
          depth: Number(/level="(\d+)"/.exec(tag)![1]) - 1,
        })),
      ),
  },
  {
    name: "delimited text, depths in an ordered list",
    file: "depths.csv",
    plan: `${head("depths.csv", "delimited")}  parts: { rows: ., tree: { depth: depth }, label: name, columns: { name: name, depth: level } }\n`,
    leaves: "tree-left",
    write: (tops) =>
      `mind;level;name\r\n${ways(tops)
        .map((names) => `${mindOf(names.at(-1)!)};${String(names.length)};${names.at(-1)!}`)
        .join("\r\n")}`,
    read: (text) =>
      outline(
        text
          .trimEnd()
          .split("\r\n")
          .slice(1)
          .map((line) => ({ depth: Number(line.split(";")[1]) - 1, name: line.split(";")[2] })),
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
