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

/** Files over 500 lines; the scanners of JSON and XML are one loop each. This list may only shrink. */
const LONG = ["formats/json/scan.ts", "formats/xml/scan.ts"];

/** Functions with more than five parameters. This list may only shrink. */
const MANY = [
  "cli/reports.ts 6 writeReports",
  "cli/runs/fold.ts 7 printDone",
  "compare/diff.ts 6 cell",
  "compare/diff.ts 6 heal",
  "compare/lists.ts 7 editList",
  "compare/lists.ts 8 apply",
  "formats/fixed/grammar.ts 6 field",
  "formats/format.ts 7 value",
  "formats/json/render.ts 6 fieldsIn",
  "formats/json/render.ts 7 insertMembers",
  "formats/lines/cells.ts 6 quotedLineEnd",
  "formats/lines/cells.ts 6 splitCells",
  "formats/lines/grammar.ts 6 set",
  "formats/lines/scan.ts 6 Constructor",
  "formats/lines/scan.ts 6 open",
  "formats/lines/totals.ts 6 open",
  "formats/xml/render.ts 6 insert",
  "formats/xml/scan.ts 6 Constructor",
  "formats/xml/scan.ts 7 note",
  "layouts/cross.ts 6 meet",
  "layouts/fill.ts 6 unfill",
  "layouts/repeat.ts 6 mergeRepeats",
  "layouts/tree.ts 6 Constructor",
  "layouts/tree.ts 6 untree",
  "layouts/unstack.ts 6 unstack",
  "node/renew.ts 6 renewed",
  "records/assemble.ts 7 value",
  "records/assemble.ts 8 set",
  "rows/same-row.ts 6 endOfCell",
  "rows/same-row.ts 6 endOfQuoted",
  "rows/sheet.ts 8 Constructor",
  "rows/snapshot.ts 7 Constructor",
  "sheets/titled.ts 6 readTitled",
  "survey/collect.ts 6 value",
  "survey/kinds.ts 8 add",
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
    const many: string[] = [];
    for (const [file, text] of texts) {
      const parsed = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
      const visit = (node: ts.Node): void => {
        if (ts.isFunctionLike(node) && !ts.isFunctionTypeNode(node) && node.parameters.length > 5)
          many.push(`${file} ${node.parameters.length} ${node.name?.getText() ?? ts.SyntaxKind[node.kind]}`);
        ts.forEachChild(node, visit);
      };
      visit(parsed);
    }
    expect(many.sort()).toEqual(MANY);
  });
});
