/** Plans: what is wrong in one is said with line, column and the nearest right word; what is right is kept. */
import { describe, expect, test } from "vitest";
import { check, fold, formatPlace, hatch, HatchFoldError, planJsonSchema, readPlan } from "hatch-fold";
import { setCell, text } from "./support/sheets.js";

const SOURCE = '{"districts": [{"code": "D1", "stations": [{"code": "S1", "status": "L", "height": 12.50, "since": "2001-02-03"}]}]}';
const plan = (tables: string): string => `hatchfold: 1\nsources:\n  s: { file: s.json }\ntables:\n${tables}`;
const DISTRICTS = "  districts:\n    rows: districts\n    key: code\n    columns: { code: code }\n";
const stations = (columns: string, more = ""): string =>
  plan(`${DISTRICTS}  stations:\n    rows: districts/stations\n    inside: districts\n${more}    columns:\n${columns}`);

describe("wrong plans", () => {
  test.each([
    ["no YAML", "hatchfold: 1\n  sources: [", "p.yaml:1:12", /not well-formed YAML/],
    ["an unknown word", plan("  t:\n    rows: t\n    colums: {}\n"), "p.yaml:7:5", /"colums" is not a word of a plan here[^]*"columns"/],
    ["an unknown word of a column", stations("      code: { at: code, reqired: true }\n"), "p.yaml:13:25", /"reqired"[^]*"required"/],
    ["a missing word", plan("  t:\n    columns: { a: a }\n"), "p.yaml:5:3", /"rows" is missing/],
    ["a wrong type", stations("      code: { at: code, type: txt }\n"), "p.yaml:13:25", /type/],
    ["another version", "hatchfold: 2\nsources: {}\ntables: {}\n", "p.yaml:1:1", /hatchfold/],
    ["no tables", "hatchfold: 1\nsources: {}\ntables: {}\n", "p.yaml:3:1", /no tables/],
    [
      "an unknown parent",
      plan("  t:\n    rows: t\n    inside: dstricts\n    columns: { a: a }\n" + DISTRICTS),
      "p.yaml:7:5",
      /no table "dstricts"[^]*"districts"/,
    ],
    [
      "a parent elsewhere",
      plan("  t:\n    rows: t\n    inside: districts\n    columns: { a: a }\n" + DISTRICTS),
      "p.yaml:7:5",
      /not inside the rows/,
    ],
    ["an unknown key", stations("      code: code\n", "    key: cod\n"), "p.yaml:12:5", /no column "cod"[^]*"code"/],
    ["a misspelled word of a column", stations("      code: { at: code, tipe: text }\n"), "p.yaml:13:25", /Perhaps "type" is meant/],
    ["of a column of links", stations("      code: { through: x, sho: y }\n"), "p.yaml:13:27", /Perhaps "show" is meant/],
    ["of a tree", stations("      code: code\n", "    tree: { paren: code }\n"), "p.yaml:12:13", /Perhaps "parent" is meant/],
    ["of a sheet", stations("      code: code\n", "    sheet: { titels: {} }\n"), "p.yaml:12:14", /Perhaps "titles" is meant/],
    ["a bad path", stations("      code: a/:x\n"), "p.yaml:13:13", /is not a path/],
    ["a column of many values", stations("      code: lights/*\n"), "p.yaml:13:13", /leads to many values/],
    ["a title that is taken", stations("      fold mark: code\n"), "p.yaml:13:7", /cannot be a title/],
    ["a title that is the parent", stations("      districts: code\n"), "p.yaml:13:7", /cannot be a title/],
    ["__proto__ as a title", stations("      __proto__: code\n"), "p.yaml:13:7", /cannot be a title/],
    ["an alias of nothing", stations("      code: *code\n"), "p.yaml:13:13", /nothing is called &code before/],
    [
      "aliases made to burst",
      `a: &a [${"1,".repeat(50)}1]\nb: &b [${"*a,".repeat(50)}*a]\nc: [${"*b,".repeat(50)}*b]\n`,
      "p.yaml:2:8",
      /Excessive alias count/,
    ],
    [
      "a table named as a column is",
      plan("  fold action:\n    rows: t\n    columns: { a: a }\n"),
      "p.yaml:5:3",
      /cannot be the name of a table/,
    ],
    ["a check that cannot be read", stations("      n: { at: n, check: 'value >' }\n"), "p.yaml:13:19", /cannot be read/],
    ["a bad table name", plan("  ' ':\n    rows: t\n    columns: { a: a }\n"), "p.yaml:5:3", /cannot be the name of a table/],
    [
      "tables that would share a file",
      plan("  T:\n    rows: t\n    columns: { a: a }\n  t:\n    rows: u\n    columns: { a: a }\n"),
      "p.yaml:8:3",
      /same file name/,
    ],
    [
      "choices shown alike",
      stations("      status: { at: status, choices: { L: lit, D: lit } }\n"),
      "p.yaml:13:29",
      /shown as the same word/,
    ],
  ])("%s", async (_, source, place, message) => {
    const error = await readPlan(source, "p.yaml").catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(HatchFoldError);
    expect(String(error)).toMatch(message);
    expect(formatPlace((error as HatchFoldError).place)).toBe(place);
  });

  test("a path that is nearly right is a slip, with its place; one that is simply not there is noted", async () => {
    await expect(hatch(SOURCE, { plan: stations("      height: { at: hieght }\n") })).rejects.toThrow('no record of "stations" has hieght');
    await expect(hatch(SOURCE, { plan: plan("  d:\n    rows: district\n    columns: { c: code }\n") })).rejects.toMatchObject({
      hint: 'Perhaps "districts" is meant.',
      place: { line: 6, column: 5 },
    });
    const { notes } = await hatch(SOURCE, { plan: stations("      code: code\n      remarks: remarks\n") });
    expect(notes).toEqual(['no record of "stations" has remarks, where "remarks" looks']);
  });
});

describe("what a plan allows", () => {
  const PLAN = stations(
    '      code: { at: code, read-only: true }\n      status: { at: status, choices: { L: lit, D: dark }, required: true }\n      height: { at: height, type: decimal, check: "value > 0.0" }\n      since: { at: since, type: date }\n',
    "    key: code\n",
  );
  test("choices are shown as words and kept as codes", async () => {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    expect(tables.text("stations.csv")).toContain(",lit,12.50,");
    setCell(tables, "stations.csv", 2, "status", "dark");
    expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(SOURCE.replace('"L"', '"D"'));
  });
  test.each([
    ["read-only", "code", "S2", "read-only", 'Put "S1" back.'],
    ["a choice", "status", "drak", "choice", 'Perhaps "dark" is meant.'],
    ["required", "status", "", "required", "Fill it in."],
    ["a check", "height", "-1.0", "check-failed", ""],
    ["a decimal", "height", "1,5e", "type", "Digits with a point: 12.50."],
    ["a date", "since", "2001-02-30", "type", "As year-month-day: 2024-03-05."],
  ])("%s", async (_, title, value, code, hint) => {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    setCell(tables, "stations.csv", 2, title, value);
    const { problems } = await check(tables, { source: SOURCE });
    expect(problems).toMatchObject([{ code, column: title, value, hint, row: 2 }]);
  });
});

test("a plan that was read cannot be changed for others", async () => {
  const said = "hatchfold: 1\nsources: { r: { file: r.json } }\ntables: { stations: { rows: stations, columns: { code: code } } }\n";
  const plan = await readPlan(said);
  expect(() => (plan.tables as unknown[]).pop()).toThrow(TypeError);
  expect(() => Object.assign(plan.tables[0].columns[0], { title: "other" })).toThrow(TypeError);
  expect((await readPlan(said)).tables[0].columns[0].title).not.toBe("other");
});

test("the JSON Schema of plans names every word", async () => {
  const schema = JSON.stringify(await planJsonSchema());
  for (const word of [
    "hatchfold",
    "sources",
    "tables",
    "rows",
    "inside",
    "key",
    "columns",
    "at",
    "type",
    "read-only",
    "choices",
    "check",
    "blank",
  ])
    expect(schema).toContain(`"${word}"`);
});
