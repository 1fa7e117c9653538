/** Layouts of lists inside a record: packed in one cell, in step, as name and value, and spread over columns. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { law } from "./support/laws.js";
import { bytes, edit, readRows, setCell, text } from "./support/sheets.js";
import { brief, refusal, says } from "./support/brief.js";

const NUMBER = /^-?(?:0|[1-9]\d*)(?:\.\d+)?(?:e[+-]?\d+)?$/i;
const SOURCE = `{"stations": [
  {"code": "S-01", "tags": ["fog horn", "museum"], "crew": [
    {"id": "P-1", "role": "keeper", "since": "2019"},
    {"id": "P-2", "role": "relief", "since": "2020"}
  ], "settings": {"flash": "5s", "power": "12"}, "phones": [{"no": "01"}, {"no": "02"}]},
  {"code": "S-02", "tags": [], "crew": [{"id": "P-1"}], "settings": {}, "phones": []},
  {"code": "S-03", "tags": null}
]}
`;
const PLAN = `
hatchfold: 1
sources: { register: { file: register.json } }
tables:
  stations:
    rows: stations
    key: code
    columns:
      code: code
      tags: { at: tags, pack: " | " }
      ids: { at: crew/id, pack: "; " }
      roles: { at: crew/role, pack: "; " }
      settings: { at: settings, pack: ", ", pair: "=" }
      phone: { at: phones/no, spread: 3 }
`;

async function edited(...cells: [row: number, title: string, value: string][]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  for (const [row, title, value] of cells) setCell(tables, "stations.csv", row, title, value);
  return tables;
}

test("what a sheet shows of them", async () => {
  expect(readRows(await edited(), "stations.csv").map((row) => row.slice(2))).toEqual([
    ["code", "tags", "ids", "roles", "settings", "phone 1", "phone 2", "phone 3"],
    ["S-01", "fog horn | museum", "P-1; P-2", "keeper; relief", "flash=5s, power=12", "01", "02", ""],
    ["S-02", "[]", "P-1", "\\", "{}", "", "", ""],
    ["S-03", "(null)", "", "", "", "", "", ""],
  ]);
});

test.each<[string, string, string | null]>([
  [
    "a list that no record has",
    "at: benches/id, pack",
    says("plan-unmatched", { table: "ids", at: "stations/benches", column: "", nearest: null }),
  ],
  ["a slip in the list's name", "at: crw/id, pack", null],
  ["a list beside one that is there", "at: crew/id, pack", ""],
])("%s is named as people know it", async (_, at, note) => {
  const plan = PLAN.replace("at: crew/id, pack", at).replace('roles: { at: crew/role, pack: "; " }', "");
  const made = hatch(SOURCE, { plan });
  if (note === null)
    expect(await refusal(made)).toBe('plan-unmatched {"at":"stations/crw","column":"","nearest":"stations/crew","table":"ids"}');
  else expect((await made).notes).toEqual(note === "" ? [] : [note]);
});

test.each<[string, [number, string, string][], [string, string][]]>([
  ["an item changes", [[2, "tags", "fog horn | library"]], [['"museum"', '"library"']]],
  ["an item comes in between", [[2, "tags", "fog horn | tide gauge | museum"]], [['"fog horn", ', '"fog horn", "tide gauge", ']]],
  ["an item comes first", [[2, "tags", "tide gauge | fog horn | museum"]], [['["fog horn"', '["tide gauge", "fog horn"']]],
  ["an item goes", [[2, "tags", "museum"]], [['["fog horn", "museum"]', '["museum"]']]],
  ["spaces between items are for people", [[2, "tags", "fog horn|museum|x"]], [['"museum"]', '"museum", "x"]']]],
  ["a separator in an item", [[2, "tags", "fog \\| horn | museum"]], [['"fog horn"', '"fog | horn"']]],
  ["all items go", [[2, "tags", "[]"]], [['["fog horn", "museum"]', "[]"]]],
  ["the list goes", [[2, "tags", ""]], [['"tags": ["fog horn", "museum"], ', ""]]],
  ["a list where there was an empty one", [[3, "tags", "museum"]], [['"tags": []', '"tags": ["museum"]']]],
  ["a list where there was null", [[4, "tags", "museum | x"]], [['"tags": null', '"tags": ["museum", "x"]']]],
  [
    "a record in step goes, the others keep what is not shown",
    [
      [2, "ids", "P-2"],
      [2, "roles", "relief"],
    ],
    [['\n    {"id": "P-1", "role": "keeper", "since": "2019"},', ""]],
  ],
  [
    "a record in step comes",
    [
      [2, "ids", "P-1; P-9; P-2"],
      [2, "roles", "keeper; cook; relief"],
    ],
    [['"since": "2019"}', '"since": "2019"},\n    {"id": "P-9", "role": "cook"}']],
  ],
  ["a blank place is filled", [[3, "roles", "keeper"]], [['{"id": "P-1"}]', '{"id": "P-1", "role": "keeper"}]']]],
  [
    "a member changes, one goes, one comes",
    [[2, "settings", "flash=6s, colour=W"]],
    [['{"flash": "5s", "power": "12"}', '{"flash": "6s", "colour": "W"}']],
  ],
  ["a column is filled", [[2, "phone 3", "03"]], [['{"no": "02"}]', '{"no": "02"}, {"no": "03"}]']]],
  ["a column is cleared: the gap closes", [[2, "phone 1", ""]], [['[{"no": "01"}, {"no": "02"}]', '[{"no": "02"}]']]],
])("%s", async (_, cells, changes) => {
  const tables = await edited(...cells);
  const { bytes, counts, changes: told } = await fold(tables, { source: SOURCE });
  expect(text(bytes)).toBe(changes.reduce((all, [was, is]) => all.replace(was, is), SOURCE));
  expect(counts).toMatchObject({ changed: 1, added: 0, removed: 0, unchanged: 2 });
  expect(told.map((change) => [change.row, change.column, change.new])).toEqual(cells);
});

test("a new row brings its lists along, and compare shows them", async () => {
  const tables = await edited();
  edit(tables, "stations.csv", (rows) => [...rows, ["", "", "S-04", "a | b", "P-7; P-8", "keeper; ", "flash=2s", "09", "", ""]]);
  const { changes } = await compare(tables, { source: SOURCE });
  const cells = { code: "S-04", tags: "a | b", ids: "P-7; P-8", roles: "keeper; ", settings: "flash=2s", "phone 1": "09" };
  expect(changes.map(({ record, cells: shown }) => [record, shown])).toEqual([["S-04", cells]]);
  const { bytes } = await fold(tables, { source: SOURCE });
  expect((JSON.parse(text(bytes)) as { stations: unknown[] }).stations[3]).toEqual({
    code: "S-04",
    tags: ["a", "b"],
    crew: [{ id: "P-7", role: "keeper" }, { id: "P-8" }],
    settings: { flash: "2s" },
    phones: [{ no: "09" }],
  });
});

test.each<[string, [number, string, string][], string]>([
  ["lengths that differ", [[2, "ids", "P-1; P-2; P-3"]], 'pack-lengths {"lengths":["ids 3","roles 2"]}'],
  ["a pair without its sign", [[2, "settings", "flash=5s, power"]], 'pair-missing {"item":"power","pair":"="}'],
  ["a name that stands twice", [[2, "settings", "a=1, a=2"]], 'name-twice {"name":"a"}'],
  ["null where there was something", [[2, "tags", "(null)"]], "pack-null"],
])("%s", async (_, cells, expected) => {
  const { problems } = await check(await edited(...cells), { source: SOURCE });
  expect(problems.map((problem) => [problem.table, problem.row, brief(problem)])).toEqual([["stations", 2, expected]]);
});

test.each([
  ["tags: { at: tags, pack: ' | ', spread: 2 }", 'plan-layout {"column":"tags"}'],
  ["tags: { at: tags, spread: 2, pair: '=' }", 'plan-layout {"column":"tags"}'],
])("%s", async (column, expected) => {
  expect(await refusal(hatch(SOURCE, { plan: PLAN.replace('tags: { at: tags, pack: " | " }', column) }))).toBe(expected);
});

test("codes in a packed cell refer to records, like any others", async () => {
  const source =
    '{"people": [{"id": "P-1"}, {"id": "P-2"}], "stations": [{"code": "S-1", "crew": ["P-1"]}, {"code": "S-2", "crew": ["P-2", "P-1"]}]}';
  const plan = `
hatchfold: 1
sources: { s: { file: s.json, format: json } }
tables:
  people: { rows: people, key: id, new: { id: "P-{0}" }, columns: { id: id } }
  stations: { rows: stations, key: code, columns: { code: code, crew: { at: crew, pack: ", ", refers: people } } }
`;
  const { tables } = await hatch(source, { plan });
  setCell(tables, "stations.csv", 2, "crew", "P-1, P-4");
  setCell(tables, "people.csv", 3, "fold action", "remove");
  const found = (await check(tables, { source })).problems.map((one) => `${one.table} ${one.row} ${one.column}: ${brief(one)}`);
  expect(found).toEqual([
    'stations 2 crew: ref-unknown {"code":"P-4","key":"id","nearest":"P-1","table":"people"}',
    'stations 3 crew: ref-lost {"by":"people","key":"P-2","mirrored":false,"row":3,"table":"people"}',
  ]);
  setCell(tables, "stations.csv", 2, "crew", "P-1, +new");
  setCell(tables, "stations.csv", 3, "crew", "P-1");
  edit(tables, "people.csv", (rows) => [...rows, ["+new", "", ""]]);
  expect(JSON.parse(text((await fold(tables, { source })).bytes))).toEqual({
    people: [{ id: "P-1" }, { id: "P-3" }],
    stations: [
      { code: "S-1", crew: ["P-1", "P-3"] },
      { code: "S-2", crew: ["P-1"] },
    ],
  });
});

test("a check holds for the items of a packed cell too, in rows that were there and in new ones", async () => {
  const plan = PLAN.replace('{ at: tags, pack: " | " }', `{ at: tags, pack: " | ", check: "value.startsWith('f')" }`);
  const { tables } = await hatch(SOURCE, { plan });
  setCell(tables, "stations.csv", 2, "tags", "fog horn | museum | bell");
  tables.contents.set("stations.csv", bytes(`${tables.text("stations.csv")},,S-04,fast | slow\r\n`));
  const { problems } = await check(tables, { source: SOURCE });
  expect(problems.map(({ code, row, column, value }) => [code, row, column, value])).toEqual([
    ["check-failed", 2, "tags", "bell"],
    ["check-failed", 5, "tags", "slow"],
  ]);
});

test("a packed list may be called as its table is", async () => {
  const plan = PLAN.replace("  stations:\n    rows", "  tags:\n    rows");
  const { tables } = await hatch(SOURCE, { plan });
  setCell(tables, "tags.csv", 3, "tags", "pier");
  expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(SOURCE.replace('"tags": []', '"tags": ["pier"]'));
});

describe("gaps among numbered columns", () => {
  const source = '{"stations": [{"code": "S-1", "phones": [{"no": "01", "kind": "a"}, {"no": "02"}, {"no": "03"}], "tags": ["x", "y"]}]}';
  const plan = (gaps: string): string =>
    PLAN.slice(0, PLAN.indexOf("      tags:")) +
    `      phone: { at: phones/no, spread: 4, ${gaps} }\n      tag: { at: tags, spread: 4, ${gaps} }\n`;
  test.each<[string, string, [string, string][], [string, string][]]>([
    ["close", "", [["phone 2", ""]], [[', {"no": "02"}', ""]]],
    ["stay", "gaps: stay", [["phone 2", ""]], [['{"no": "02"}', "{}"]]],
    ["stay, and what no column shows stays too", "gaps: stay", [["phone 1", ""]], [['"no": "01", ', ""]]],
    ["stay in a list of plain values", "gaps: stay", [["tag 1", ""]], [['"x"', '""']]],
    ["stay before a new one", "gaps: stay", [["tag 4", "z"]], [['"y"]', '"y", "", "z"]']]],
    [
      "the last ones go all the same",
      "gaps: stay",
      [
        ["phone 3", ""],
        ["tag 2", ""],
      ],
      [
        [', {"no": "03"}', ""],
        [', "y"', ""],
      ],
    ],
  ])("%s", async (_, gaps, cells, changes) => {
    const { tables } = await hatch(source, { plan: plan(gaps) });
    for (const [title, value] of cells) setCell(tables, "stations.csv", 2, title, value);
    expect((await check(tables, { source })).problems).toEqual([]);
    expect(text((await fold(tables, { source })).bytes)).toBe(changes.reduce((all, [from, to]) => all.replace(from, to), source));
  });

  test("a record that shows nothing is not cleared by an edit beside it", async () => {
    const silent = '{"stations": [{"code": "S-1", "phones": [{"kind": "a"}, {"no": "02"}]}]}';
    const { tables } = await hatch(silent, { plan: plan("") });
    setCell(tables, "stations.csv", 2, "phone 2", "22");
    expect(text((await fold(tables, { source: silent })).bytes)).toBe(silent.replace("02", "22"));
  });
});

describe("other formats", () => {
  test("XML: attributes of repeated elements", async () => {
    const xml = `<r>\n  <s code="S-01">\n    <lamp ref="a"/>\n    <lamp ref="b"/>\n  </s>\n  <s code="S-02"/>\n</r>\n`;
    const plan = `
hatchfold: 1
sources: { r: { file: r.xml, format: xml } }
tables:
  s: { rows: r/s, key: code, columns: { code: "@code", lamps: { at: lamp/@ref, pack: " " } } }
`;
    const { tables } = await hatch(xml, { plan, name: "r.xml" });
    expect(readRows(tables, "s.csv").map((row) => row.slice(2))).toEqual([
      ["code", "lamps"],
      ["S-01", "a b"],
      ["S-02", ""],
    ]);
    setCell(tables, "s.csv", 2, "lamps", "a c b");
    setCell(tables, "s.csv", 3, "lamps", "d");
    expect(text((await fold(tables, { source: xml, name: "r.xml" })).bytes)).toBe(
      `<r>\n  <s code="S-01">\n    <lamp ref="a"/>\n    <lamp ref="c"/>\n    <lamp ref="b"/>\n  </s>\n  <s code="S-02">\n    <lamp ref="d"/>\n  </s>\n</r>\n`,
    );
  });

  test("tagged lines: the lines below a header", async () => {
    const lines = "H|W-1\nT|paint\nT|oil\nH|W-2\n";
    const plan = `
hatchfold: 1
sources:
  r: { file: r.txt, format: tagged, layout: { delimiter: "|", records: { orders: { tag: H, fields: [no] }, tasks: { tag: T, inside: orders, fields: [what] } } } }
tables:
  orders: { rows: orders, key: no, columns: { no: no, tasks: { at: tasks/what, pack: "; " } } }
`;
    const { tables } = await hatch(lines, { plan, name: "r.txt" });
    setCell(tables, "orders.csv", 2, "tasks", "paint; wash; oil");
    setCell(tables, "orders.csv", 3, "tasks", "sweep");
    expect(text((await fold(tables, { source: lines, name: "r.txt" })).bytes)).toBe("H|W-1\nT|paint\nT|wash\nT|oil\nH|W-2\nT|sweep\n");
  });
});

describe("laws", () => {
  const word = fc.oneof(
    fc.string({ maxLength: 6 }),
    fc.constantFrom("", " ", "\\", "|", "; ", "=", "(null)", "[]", "a\\", " b ", "(empty)", "007"),
  );
  const words = fc.array(word, { maxLength: 4 });
  const station = fc.record(
    {
      code: fc.uuid(),
      tags: fc.oneof(words, fc.constant(null)),
      crew: fc.array(fc.record({ id: word, role: word, kept: fc.nat() }, { requiredKeys: ["kept"] }), { maxLength: 4 }),
      settings: fc.dictionary(
        word.filter((name) => name !== "__proto__"),
        word,
        { maxKeys: 3 },
      ),
      phones: fc.array(fc.record({ no: word.filter((one) => one !== "") }), { maxLength: 3 }),
    },
    { requiredKeys: ["code"] },
  );
  const documents = fc.tuple(fc.array(station, { minLength: 1, maxLength: 4 }), fc.array(station, { minLength: 1, maxLength: 4 }));
  const source = (stations: readonly object[]): string => JSON.stringify({ stations }, null, 1);

  test("nothing edited, nothing changed", () =>
    law(documents, async ([stations]) => {
      const { tables } = await hatch(source(stations), { plan: PLAN });
      expect(text((await fold(tables, { source: source(stations) })).bytes)).toBe(source(stations));
    }));

  test("cells taken from another document: what you edited is what you get, and the records keep what is not shown", () =>
    law(documents, async ([stations, others]) => {
      const { tables } = await hatch(source(stations), { plan: PLAN });
      const other = readRows((await hatch(source(others), { plan: PLAN })).tables, "stations.csv");
      edit(tables, "stations.csv", (rows) =>
        rows.map((row, r) => (r === 0 ? row : row.map((cell, c) => (c < 3 ? cell : (other[r]?.[c] ?? cell))))),
      );
      const { problems } = await compare(tables, { source: source(stations) });
      if (problems.length > 0) return;
      const { bytes } = await fold(tables, { source: source(stations) });
      const again = await hatch(text(bytes), { plan: PLAN });
      // members of a record have no order
      const ordered = (from: MemoryTables): string[][] => readRows(from, "stations.csv").map((row) => row.filter((_, c) => c !== 6));
      expect(ordered(again.tables)).toEqual(ordered(tables));
      const data = JSON.parse(text(bytes)) as { stations: { settings?: object }[] };
      // what nobody has seen there before may be a number as well as a text
      const told = (settings: object | undefined): unknown =>
        settings &&
        Object.fromEntries(Object.entries(settings).map(([k, v]) => [k, NUMBER.test(String(v)) ? String(Number(v)) : String(v)]));
      data.stations.forEach((one, i) => expect(told(one.settings)).toEqual(told((others[i] ?? stations[i]).settings)));
      const kept = (all: readonly { crew?: readonly { kept?: number }[] }[]): (number | undefined)[] =>
        all.flatMap(({ crew }) => (crew ?? []).map((one) => one.kept));
      const before = new Set(kept(stations));
      for (const one of kept((JSON.parse(text(bytes)) as { stations: [] }).stations))
        expect(one === undefined || before.has(one)).toBe(true);
    }));
});
