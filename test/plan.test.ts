/** Plans: what is wrong in one is said with line, column and the nearest right word; what is right is kept. */
import { describe, expect, test } from "vitest";
import { check, fold, formatPlace, hatch, HatchFoldError, planJsonSchema, readPlan } from "hatch-fold";
import { setCell, text } from "./support/sheets.js";
import { brief, refusal, says } from "./support/brief.js";

const SOURCE = '{"districts": [{"code": "D1", "stations": [{"code": "S1", "status": "L", "height": 12.50, "since": "2001-02-03"}]}]}';
const plan = (tables: string): string => `hatchfold: 1\nsources:\n  s: { file: s.json }\ntables:\n${tables}`;
const DISTRICTS = "  districts:\n    rows: districts\n    key: code\n    columns: { code: code }\n";
const stations = (columns: string, more = ""): string =>
  plan(`${DISTRICTS}  stations:\n    rows: districts/stations\n    inside: districts\n${more}    columns:\n${columns}`);

describe("wrong plans", () => {
  test.each([
    ["no YAML", "hatchfold: 1\n  sources: [", "p.yaml:1:12", 'plan-yaml {"reason":"Nested mappings are not allowed in compact mappings"}'],
    [
      "an unknown word",
      plan("  t:\n    rows: t\n    colums: {}\n"),
      "p.yaml:7:5",
      'plan-unknown-key {"key":"colums","known":"17 in all","nearest":"columns"}',
    ],
    [
      "an unknown word of a column",
      stations("      code: { at: code, reqired: true }\n"),
      "p.yaml:13:25",
      'plan-unknown-key {"key":"reqired","known":"31 in all","nearest":"required"}',
    ],
    ["a missing word", plan("  t:\n    columns: { a: a }\n"), "p.yaml:5:3", 'plan-missing-key {"key":"rows","path":["tables","t","rows"]}'],
    [
      "a wrong type",
      stations("      code: { at: code, type: txt }\n"),
      "p.yaml:13:25",
      'plan-value {"path":["tables","stations","columns","code","type"],"reason":"Invalid option: expected one of \\"any\\"|\\"text\\"|\\"number\\"|\\"integer\\"|\\"decimal\\"|\\"boolean\\"|\\"date\\""}',
    ],
    [
      "another version",
      "hatchfold: 2\nsources: {}\ntables: {}\n",
      "p.yaml:1:1",
      'plan-value {"path":["hatchfold"],"reason":"Invalid input: expected 1"}',
    ],
    ["no tables", "hatchfold: 1\nsources: {}\ntables: {}\n", "p.yaml:3:1", "plan-no-tables"],
    [
      "an unknown parent",
      plan("  t:\n    rows: t\n    inside: dstricts\n    columns: { a: a }\n" + DISTRICTS),
      "p.yaml:7:5",
      'plan-no-such-table {"names":["t","districts"],"nearest":"districts","table":"dstricts"}',
    ],
    [
      "a parent elsewhere",
      plan("  t:\n    rows: t\n    inside: districts\n    columns: { a: a }\n" + DISTRICTS),
      "p.yaml:7:5",
      'plan-not-inside {"parent":"districts","table":"t"}',
    ],
    [
      "an unknown key",
      stations("      code: code\n", "    key: cod\n"),
      "p.yaml:12:5",
      'plan-no-such-column {"column":"cod","nearest":"code","table":"stations","titles":["code"]}',
    ],
    [
      "a misspelled word of a column",
      stations("      code: { at: code, tipe: text }\n"),
      "p.yaml:13:25",
      'plan-unknown-key {"key":"tipe","known":"31 in all","nearest":"type"}',
    ],
    [
      "of a column of links",
      stations("      code: { through: x, sho: y }\n"),
      "p.yaml:13:27",
      'plan-unknown-key {"key":"sho","known":["through","show","pack"],"nearest":"show"}',
    ],
    [
      "of a tree",
      stations("      code: code\n", "    tree: { paren: code }\n"),
      "p.yaml:12:13",
      'plan-unknown-key {"key":"paren","known":["parent","path","separator","depth"],"nearest":"parent"}',
    ],
    [
      "of a sheet",
      stations("      code: code\n", "    sheet: { titels: {} }\n"),
      "p.yaml:12:14",
      'plan-unknown-key {"key":"titels","known":["file","header","titles"],"nearest":"titles"}',
    ],
    ["a bad path", stations("      code: a/:x\n"), "p.yaml:13:13", 'plan-path {"path":"a/:x"}'],
    ["a column of many values", stations("      code: lights/*\n"), "p.yaml:13:13", 'plan-column-star {"path":"lights/*"}'],
    [
      "a title that is taken",
      stations("      fold mark: code\n"),
      "p.yaml:13:7",
      'plan-title-taken {"table":"stations","title":"fold mark"}',
    ],
    [
      "a title that is the parent",
      stations("      districts: code\n"),
      "p.yaml:13:7",
      'plan-title-taken {"table":"stations","title":"districts"}',
    ],
    ["__proto__ as a title", stations("      __proto__: code\n"), "p.yaml:13:7", 'plan-title-taken {"table":"tables","title":"__proto__"}'],
    ["an alias of nothing", stations("      code: *code\n"), "p.yaml:13:13", 'plan-yaml {"reason":"nothing is called &code before *code"}'],
    [
      "aliases made to burst",
      `a: &a [${"1,".repeat(50)}1]\nb: &b [${"*a,".repeat(50)}*a]\nc: [${"*b,".repeat(50)}*b]\n`,
      "p.yaml:2:8",
      'plan-yaml {"reason":"Excessive alias count indicates a resource exhaustion attack"}',
    ],
    [
      "a table named as a column is",
      plan("  fold action:\n    rows: t\n    columns: { a: a }\n"),
      "p.yaml:5:3",
      'plan-table-name {"table":"fold action"}',
    ],
    [
      "a check that cannot be read",
      stations("      n: { at: n, check: 'value >' }\n"),
      "p.yaml:13:19",
      'expression {"reason":"Unexpected token: EOF","text":"value >"}',
    ],
    ["a bad table name", plan("  ' ':\n    rows: t\n    columns: { a: a }\n"), "p.yaml:5:3", 'plan-table-name {"table":" "}'],
    [
      "tables that would share a file",
      plan("  T:\n    rows: t\n    columns: { a: a }\n  t:\n    rows: u\n    columns: { a: a }\n"),
      "p.yaml:8:3",
      'plan-same-name {"other":"T","table":"t"}',
    ],
    [
      "choices shown alike",
      stations("      status: { at: status, choices: { L: lit, D: lit } }\n"),
      "p.yaml:13:29",
      'plan-choices-twice {"column":"status"}',
    ],
  ])("%s", async (_, source, place, expected) => {
    const error = await readPlan(source, "p.yaml").catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(HatchFoldError);
    expect(formatPlace((error as HatchFoldError).place)).toBe(place);
    expect(brief(error as HatchFoldError)).toBe(expected);
  });

  test("a path that is nearly right is a slip, with its place; one that is simply not there is noted", async () => {
    expect(await refusal(hatch(SOURCE, { plan: stations("      height: { at: hieght }\n") }))).toBe(
      'plan-unmatched {"at":"hieght","column":"height","nearest":"height","table":"stations"}',
    );
    await expect(hatch(SOURCE, { plan: plan("  d:\n    rows: district\n    columns: { c: code }\n") })).rejects.toMatchObject({
      facts: { nearest: "districts" },
      place: { line: 6, column: 5 },
    });
    const { notes } = await hatch(SOURCE, { plan: stations("      code: code\n      remarks: remarks\n") });
    expect(notes).toEqual([says("plan-unmatched", { table: "stations", column: "remarks", at: "remarks", nearest: null })]);
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
    ["read-only", "code", "S2", "read-only", { was: "S1" }],
    ["a choice", "status", "drak", "choice", { nearest: "dark" }],
    ["required", "status", "", "required", { title: "status" }],
    ["a check", "height", "-1.0", "check-failed", { check: "value > 0.0" }],
    ["a decimal", "height", "1,5e", "type", { type: "decimal" }],
    ["a date", "since", "2001-02-30", "type", { type: "date" }],
  ])("%s", async (_, title, value, code, facts) => {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    setCell(tables, "stations.csv", 2, title, value);
    const { problems } = await check(tables, { source: SOURCE });
    expect(problems).toMatchObject([{ code, column: title, value, facts, row: 2 }]);
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
