/** The order of the house: a folder imports only what stands lower, no files import each other in a circle, nothing grows too large. */
import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import ts from "typescript";
import { describe, expect, test } from "vitest";

/** Top floor first; folders of one floor do not import each other. CONTRIBUTING.md shows the same table. */
const FLOORS: readonly (readonly string[])[] = [
  ["cli"],
  ["node", "index.ts"],
  ["fold"],
  ["compare", "report"],
  ["relations"],
  ["rows", "hatch"],
  ["layouts"],
  ["records", "survey"],
  ["plan", "source"],
  ["formats", "sheets"],
  ["cells", "edits"],
  ["model"],
  ["bytes"],
  ["errors"],
];

/** Files over 500 lines: the scanners of JSON and XML are one loop each. */
const LONG = ["formats/json/scan.ts", "formats/xml/scan.ts"];

/** What is called for every value of a source or cell of a sheet: an object for each call would cost more than it tells. */
const PER_VALUE = [
  "formats/fixed/grammar.ts field",
  "formats/format.ts value",
  "formats/lines/cells.ts quotedLineEnd",
  "formats/lines/cells.ts splitCells",
  "formats/lines/grammar.ts set",
  "formats/lines/scan.ts open",
  "formats/lines/totals.ts open",
  "formats/xml/scan.ts note",
  "records/assemble.ts set",
  "records/assemble.ts value",
  "rows/same-row.ts endOfCell",
  "rows/same-row.ts endOfQuoted",
  "survey/collect.ts value",
];

const src = new URL("../src/", import.meta.url).pathname;
const files = readdirSync(src, { recursive: true, encoding: "utf8" }).filter((name) => name.endsWith(".ts"));
const texts = new Map(files.map((file) => [file, readFileSync(join(src, file), "utf8")]));

/** What a file imports of this house, types too. */
function importsOf(file: string): string[] {
  const parsed = ts.preProcessFile(texts.get(file)!, true, true);
  return parsed.importedFiles
    .filter(({ fileName }) => fileName.startsWith("."))
    .map(({ fileName }) => normalize(join(dirname(file), fileName)).replace(/\.js$/, ".ts"));
}
const imports = new Map(files.map((file) => [file, importsOf(file)]));
const trees = new Map([...texts].map(([file, text]) => [file, ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true)]));
const folderOf = (file: string): string => file.split("/")[0];
const floorOf = (folder: string): number => FLOORS.findIndex((floor) => floor.includes(folder));

test("every folder has a floor, every import is found", () => {
  expect([...new Set(files.map(folderOf))].sort()).toEqual(FLOORS.flat().sort());
  const found = [...imports.values()].flat();
  expect(found.length).toBeGreaterThan(500);
  expect(found.filter((file) => !texts.has(file))).toEqual([]);
});

test("a folder imports only what stands lower", () => {
  const upward = [...imports].flatMap(([file, wanted]) =>
    wanted
      .filter((other) => folderOf(other) !== folderOf(file) && floorOf(folderOf(other)) <= floorOf(folderOf(file)))
      .map((other) => `${file} -> ${other}`),
  );
  expect(upward).toEqual([]);
});

test("no files import each other in a circle", () => {
  const done = new Set<string>();
  const walk = (file: string, way: readonly string[]): string[] => {
    if (way.includes(file)) return [[...way.slice(way.indexOf(file)), file].join(" -> ")];
    if (done.has(file)) return [];
    const found = imports.get(file)!.flatMap((other) => walk(other, [...way, file]));
    done.add(file);
    return found;
  };
  expect(files.flatMap((file) => walk(file, []))).toEqual([]);
});

test("CONTRIBUTING.md shows the floors", () => {
  const guide = readFileSync(new URL("../CONTRIBUTING.md", import.meta.url), "utf8");
  const rows = [...guide.matchAll(/^\| (\d+) \| (`[^|]+`) \|/gm)].map(([, , folders]) =>
    [...folders.matchAll(/`([^`]+)`/g)].map(([, folder]) => folder),
  );
  expect(rows).toEqual(FLOORS);
});

describe("nothing grows too large", () => {
  test("files", () => {
    const long = files.filter((file) => texts.get(file)!.split("\n").length > 501);
    expect(long.sort()).toEqual(LONG);
  });

  test("functions and constructors take at most five parameters", () => {
    const many = everyNode((node) =>
      ts.isFunctionLike(node) && !ts.isFunctionTypeNode(node) && node.parameters.length > 5
        ? (node.name?.getText() ?? ts.SyntaxKind[node.kind])
        : null,
    );
    expect(many).toEqual(PER_VALUE);
  });

  test("a list of any length does not go on the stack: pushAll, largest and smallest of bytes/lists.ts are there for it", () => {
    const spread = everyNode((node) => {
      if (!ts.isCallExpression(node) || !ts.isPropertyAccessExpression(node.expression)) return null;
      const { name, expression } = node.expression;
      return (name.text === "push" || expression.getText() === "Math") && node.arguments.some(ts.isSpreadElement) ? node.getText() : null;
    });
    expect(spread).toEqual([]);
  });
});

/** What a rule says of each node of each file, with the file's name. */
function everyNode(rule: (node: ts.Node) => string | null): string[] {
  const said: string[] = [];
  for (const [file, parsed] of trees) {
    const visit = (node: ts.Node): void => {
      const found = rule(node);
      if (found !== null) said.push(`${file} ${found}`);
      ts.forEachChild(node, visit);
    };
    visit(parsed);
  }
  return said.sort();
}

test("the core has no Node module: it runs in browsers", () => {
  const [outer, core] = [new Set(["cli", "node"]), [...texts].filter(([file]) => !["cli", "node"].includes(folderOf(file)))];
  expect(core.length).toBeGreaterThan(200);
  const nodes = core.filter(([, text]) =>
    ts.preProcessFile(text, true, true).importedFiles.some(({ fileName }) => fileName.startsWith("node:")),
  );
  expect(nodes.map(([file]) => file)).toEqual([]);
  expect(core.flatMap(([file]) => imports.get(file)!.filter((path) => outer.has(folderOf(path))))).toEqual([]);
});
