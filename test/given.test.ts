/** Lists made in a sheet, without marks: put behind what is there, or in its place. */
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, test } from "vitest";
import fc from "fast-check";
import { check, compare, fold, hatch } from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { law, RUNS } from "./support/laws.js";
import { bytes, text, writeRows } from "./support/sheets.js";
import { refusal } from "./support/brief.js";

const JSON_SOURCE = '{"stations": [\n  {"code": "S1", "tags": ["a", "b", "c"]},\n  {"code": "S2", "tags": []}\n], "loose": ["x", "y"]}';
const XML_SOURCE = "<r>\n <station code='S1'>\n  <tag>a</tag>\n  <tag>b</tag>\n </station>\n <station code='S2'/>\n</r>";
const XML_PLAN = `
hatchfold: 1
sources: { r: { file: r.xml } }
tables:
  stations: { rows: r/station, key: code, columns: { code: "@code" } }
  tags: { rows: r/station/tag, inside: stations, columns: { value: . } }
`;
const CARDS = "Name: Ada\nTel: 01\nTel: 02\n\nName: Bo\n";

interface World {
  readonly name: string;
  readonly source: string;
  readonly plan?: string;
}
const json: World = { name: "r.json", source: JSON_SOURCE };
const xml: World = { name: "r.xml", source: XML_SOURCE, plan: XML_PLAN };
const blocks: World = { name: "cards.txt", source: CARDS };

describe("a list goes to its place, and nothing else changes", () => {
  const CASES: [what: string, world: World, table: string, how: "append" | "replace", sheet: string, from: string, to: string][] = [
    [
      "behind the others",
      json,
      "tags",
      "append",
      "stations,value\nS1,007\nS2,new\n",
      '"c"]},\n  {"code": "S2", "tags": []',
      '"c", "007"]},\n  {"code": "S2", "tags": ["new"]',
    ],
    ["in their place", json, "tags", "replace", "stations,value\nS1,a\nS1,z\n", '"a", "b", "c"', '"a", "z"'],
    [
      "in their place, and more of them",
      json,
      "tags",
      "replace",
      "stations;value\nS1;1\nS1;2\nS1;3\nS1;4\n",
      '"a", "b", "c"',
      '"1", "2", "3", "4"',
    ],
    ["where there was none", json, "tags", "replace", "value,stations\nnew,S2\n", '"tags": []', '"tags": ["new"]'],
    ["a single column for the only list", json, "loose", "replace", "\ufeffvalue\ny\nx\nz\n", '["x", "y"]', '["y", "x", "z"]'],
    ["a single column for the only list in a record", blocks, "Tel", "replace", "value\n02\n03\n", "01\nTel: 02", "02\nTel: 03"],
    ["with blank marks, as from an empty sheet", json, "loose", "append", "fold mark,fold action,value\n,,z\n", '"y"]', '"y", "z"]'],
    ["the same as there was", json, "tags", "replace", "stations,value\nS1,a\nS1,b\nS1,c\n", "", ""],
    [
      "elements",
      xml,
      "tags",
      "replace",
      "stations,value\nS1,b\nS1,c & d\nS1,e\n",
      "<tag>a</tag>\n  <tag>b</tag>",
      "<tag>b</tag>\n  <tag>c &amp; d</tag>\n  <tag>e</tag>",
    ],
    ["a single column for the list of one record", json, "tags=S2", "replace", "value\nz\n007\n", '"tags": []', '"tags": ["z", "007"]'],
    ["nothing for the list of one record", json, "tags=S1", "replace", "value\n", '"a", "b", "c"', ""],
    ["a single column behind the list of one record", xml, "tags=S1", "append", "value\nz\n", "b</tag>\n", "b</tag>\n  <tag>z</tag>\n"],
    ["lines of a block", blocks, "Tel", "append", "cards,value\nBo,03\n", "Name: Bo\n", "Name: Bo\nTel: 03\n"],
    ["fewer lines of a block", blocks, "Tel", "replace", "cards,value\nAda,02\n", "01\nTel: 02\n", "02\n"],
  ];
  test.each(CASES)("%s", async (_, { name, source, plan }, table, how, sheet, from, to) => {
    const { tables } = await hatch(source, { name, plan });
    tables.contents.set(`${table.split("=")[0]}.csv`, bytes(sheet));
    const input = { source, name, [how]: [table] };
    expect((await check(tables, input)).problems).toEqual([]);
    expect(text((await fold(tables, input)).bytes)).toBe(source.replace(from, to));
  });

  test("any list in place of any other", () =>
    law(
      fc.tuple(
        fc.array(fc.array(fc.constantFrom("a", "b", "007", "1E5", "x y"), { maxLength: 5 }), { minLength: 1, maxLength: 3 }),
        fc.nat(),
      ),
      async ([lists, seed]) => {
        const made = (all: string[][]): string => JSON.stringify({ stations: all.map((tags, i) => ({ code: `S${i}`, tags })) }, null, 1);
        const now = lists.map((list, i) => [...lists[(i + seed) % lists.length], ...(i % 2 === 0 ? ["n"] : [])]);
        const source = made([...lists, ["stays"]]);
        const { tables } = await hatch(source, { name: "r.json" });
        fc.pre(tables.contents.has("tags.csv"));
        writeRows(tables, "tags.csv", [["stations", "value"], ...now.flatMap((list, i) => list.map((tag) => [`S${i}`, tag]))]);
        const { bytes: folded } = await fold(tables, { source, name: "r.json", replace: ["tags"] });
        // a station that the sheet does not name keeps its list
        const expected = now.map((list, i) => (list.length === 0 ? lists[i] : list));
        expect(JSON.parse(text(folded))).toEqual(JSON.parse(made([...expected, ["stays"]])));
      },
      RUNS / 3,
    ));
});

describe("what is in the way", () => {
  test("a sheet with marks is one of edits", async () => {
    const { tables } = await hatch(JSON_SOURCE, { name: "r.json" });
    const { problems } = await compare(tables, { source: JSON_SOURCE, append: ["tags"] });
    expect(problems).toMatchObject([{ code: "list-marked", file: "tags.csv", row: 2, column: "fold mark" }]);
  });
  test("rows that name no record", async () => {
    const { tables } = await hatch(JSON_SOURCE, { name: "r.json" });
    tables.contents.set("tags.csv", bytes("stations,value\nS1,a\nS9,z\n"));
    const { problems } = await compare(tables, { source: JSON_SOURCE, append: ["tags"] });
    expect(problems).toMatchObject([{ code: "parent-unknown", file: "tags.csv", row: 3, value: "S9" }]);
  });
  test.each(["z\n007\n", "Tags\nz\n", "z"])("a column without the table's title: %j", async (sheet) => {
    const { tables } = await hatch(JSON_SOURCE, { name: "r.json" });
    tables.contents.set("tags.csv", bytes(sheet));
    const { problems } = await compare(tables, { source: JSON_SOURCE, append: ["tags=S1"] });
    expect(problems).toMatchObject([
      {
        code: "list-titles",
        row: 1,
        facts: { table: "tags", titles: ["stations", "value"] },
      },
    ]);
  });
  test("one record that there is not", async () => {
    const { tables } = await hatch(JSON_SOURCE, { name: "r.json" });
    tables.contents.set("tags.csv", bytes("value\n"));
    const { problems } = await compare(tables, { source: JSON_SOURCE, replace: ["tags=S3"] });
    expect(problems).toMatchObject([{ code: "parent-unknown", file: "tags.csv", facts: { parent: "stations", key: "code", text: "S3" } }]);
  });
  test.each([
    [["loose=S1"], 'list-top {"into":"S1","table":"loose"}'],
    [["tags=S1", "tags=S2"], 'list-twice {"table":"tags"}'],
  ])("%s", async (append, expected) => {
    const { tables } = await hatch(JSON_SOURCE, { name: "r.json" });
    expect(await refusal(compare(tables, { source: JSON_SOURCE, append }))).toBe(expected);
  });
  test.each([
    ["tag", 'list-table {"names":["crew","boats"],"table":"tag"}'],
    ["crew", 'list-plain {"table":"crew"}'],
  ])("--append %s", async (table, expected) => {
    const source = '{"crew": [{"id": "1", "boats": [{"no": "1"}]}]}';
    const plan =
      "hatchfold: 1\nsources: { r: { file: r.json } }\ntables: { crew: { rows: crew, key: id, columns: { id: id } }, boats: { rows: crew/boats, inside: crew, beneath: true, columns: { no: no } } }";
    const { tables } = await hatch(source, { plan });
    expect(await refusal(compare(tables, { source, append: [table] }))).toBe(expected);
  });
});

test("on the command line, and the tables go on", async () => {
  const cwd = freshFolder();
  writeFileSync(join(cwd, "r.json"), JSON_SOURCE);
  await inProcess(cwd, ["hatch", "r.json", "-o", "t"]);
  writeFileSync(join(cwd, "t", "tags.csv"), "stations,value\nS2,new\n");
  expect(await inProcess(cwd, ["fold", "t", "--in-place", "--append", "tags", "--renew"])).toMatchObject({ status: 0, err: "" });
  expect(readFileSync(join(cwd, "r.json"), "utf8")).toBe(JSON_SOURCE.replace("[]", '["new"]'));
  expect(
    readFileSync(join(cwd, "t", "tags.csv"), "utf8")
      .split("\r\n")
      .slice(1, 5)
      .map((row) => row.slice(4)),
  ).toEqual([",,S1,a", ",,S1,b", ",,S1,c", ",,S2,new"]);
  expect((await inProcess(cwd, ["compare", "t"])).out).toContain("no changes");
});
