/** JSON with comments and trailing commas: they stay, with what they are said of. test/laws/model.test.ts edits more of it. */
import { expect, test } from "vitest";
import { check, fold, hatch, survey } from "hatch-fold";
import { edit, text, type Rows } from "./../support/sheets.js";
import { refusal } from "../support/brief.js";

const ONE = '    { "code": "S-1", "name": "North", /* on the skerry */ "n": 1 }, // first\n';
const TWO = '    { "code": "S-2", "name": "a // b", }, // second\n';
const THREE = '    { "code": "S-3", "name": "West" }, // third\n';
const HEAD = '{\n  // the register\n  "stations": [\n';
const TAIL = '  ],\n  "url": "http://x/y", // tail\n}\n';
const SOURCE = HEAD + ONE + TWO + THREE + TAIL;
const PLAN = `hatchfold: 1
sources: { s: { file: s.jsonc, comments: true } }
tables: { stations: { rows: stations, columns: { code: code, name: name, n: n } } }
`;

const CASES: [what: string, change: (rows: Rows) => void, wanted: string][] = [
  ["nothing", () => undefined, ONE + TWO + THREE],
  ["a value", (rows) => void (rows[2][3] = "c"), ONE + TWO.replace("a // b", "c") + THREE],
  ["a member goes before a comma that stays", (rows) => void (rows[2][3] = ""), `${ONE}    { "code": "S-2", }, // second\n${THREE}`],
  ["a member that a comment follows", (rows) => void (rows[3][4] = "3"), ONE + TWO + THREE.replace('"West"', '"West", "n": 3')],
  ["a new item", (rows) => void rows.push(["", "", "S-4", "East", ""]), `${ONE + TWO + THREE}    { "code": "S-4", "name": "East" },\n`],
  ["the first goes", (rows) => void (rows[1][1] = "remove"), TWO + THREE],
  ["one in the middle", (rows) => void (rows[2][1] = "remove"), ONE + THREE],
  ["the last", (rows) => void (rows[3][1] = "remove"), ONE + TWO],
  [
    "the last, and a new one",
    (rows) => {
      rows[3][1] = "remove";
      rows.push(["", "", "S-4", "East", ""]);
    },
    `${ONE + TWO}    { "code": "S-4", "name": "East" },\n`,
  ],
];
test.each(CASES)("%s", async (_, change, wanted) => {
  const { tables } = await hatch(SOURCE, { plan: PLAN, name: "s.jsonc" });
  edit(tables, "stations.csv", change);
  expect(text((await fold(tables, { source: SOURCE, name: "s.jsonc" })).bytes)).toBe(HEAD + wanted + TAIL);
});

test.each([
  ["by its name", '{"a": [1,]}', "x.jsonc", "json"],
  ["by a comment at its beginning", '// a\n{"a": 1}', "x.conf", "json"],
  ["by one further in, though its name is another", '{"a": 1 /* b */}', "x.json", "json"],
])("it is known %s", async (_, source, name, format) => {
  expect((await survey(source, { name })).source.format).toBe(format);
});

test.each([
  ["a trailing comma alone is a slip", '{"a": [1,]}', 'json-comma {"byte":93,"seen":"]}"}'],
  ["a comment behind the first 64 kB is pointed out", `[${"1, ".repeat(30_000)} // two\n 2]`, 'json-value {"byte":47,"seen":"// two"}'],
  ["names without quotes are none", "// a\n{b: 1}", 'json-name {"byte":98,"seen":"b: 1}"}'],
])("%s", async (_, source, expected) => {
  expect(await refusal(survey(source, { name: "x.json" }))).toBe(expected);
});

test("a comment that was edited meanwhile makes another source", async () => {
  const { tables } = await hatch(SOURCE, { plan: PLAN, name: "s.jsonc" });
  await expect(check(tables, { source: SOURCE.replace("first", "fresh"), name: "s.jsonc" })).rejects.toMatchObject({
    code: "source-changed",
  });
});
