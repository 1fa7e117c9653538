/** Several tables in one sheet: rows beneath the record around them, and rows that repeat its cells. */
import { describe, expect, test } from "vitest";
import { check, compare, fold, foldNew, hatch, MemoryTables } from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { bytes, readRows, setCell, text, writeRows } from "./support/sheets.js";
import { writeFileSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { brief, refusal } from "./support/brief.js";

const SOURCE = `{"stations": [
  {"code": "007", "name": "North", "crew": [{"id": "P-1", "role": "keeper"}, {"id": "P-2", "role": "cook"}]},
  {"code": "008", "name": "South", "crew": [{"id": "P-3", "role": "keeper"}]},
  {"code": "009", "name": "Lone"}
]}
`;
const plan = (layout: string, more = ""): string => `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  stations: { rows: stations, key: code, columns: { code: code, name: name } }
  crew: { rows: stations/crew, inside: stations, ${layout} columns: { id: id, role: role } }
${more}`;
const BENEATH = plan("beneath: true,");
const REPEAT = plan("repeat: true,");

type Cell = [row: number, title: string, value: string];
async function edited(text: string, ...cells: Cell[]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: text });
  for (const [row, title, value] of cells) setCell(tables, "stations.csv", row, title, value);
  return tables;
}

test.each([
  [
    "beneath",
    BENEATH,
    [
      ["code", "name", "stations", "id", "role"],
      ["007", "North", "", "", ""],
      ["", "", "007", "P-1", "keeper"],
      ["", "", "007", "P-2", "cook"],
      ["008", "South", "", "", ""],
      ["", "", "008", "P-3", "keeper"],
      ["009", "Lone", "", "", ""],
    ],
  ],
  [
    "repeat",
    REPEAT,
    [
      ["code", "name", "stations", "id", "role"],
      ["007", "North", "007", "P-1", "keeper"],
      ["007", "North", "007", "P-2", "cook"],
      ["008", "South", "008", "P-3", "keeper"],
      ["009", "Lone", "", "", ""],
    ],
  ],
])("what a sheet shows: %s", async (_, layout, rows) => {
  const { tables, receipt } = await hatch(SOURCE, { plan: layout });
  expect(readRows(tables, "stations.csv").map((row) => row.slice(2))).toEqual(rows);
  expect([...tables.contents.keys()]).toEqual(["stations.csv", "receipt.json"]);
  expect(receipt.tables.map(({ name, file, rows }) => [name, file, rows])).toEqual([
    ["stations", "stations.csv", 3],
    ["crew", "stations.csv", 3],
  ]);
});

/** Rows that are put behind those of the sheet. */
async function withRows(layout: string, ...rows: Record<string, string>[]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: layout });
  const [titles, ...body] = readRows(tables, "stations.csv");
  writeRows(tables, "stations.csv", [titles, ...body, ...rows.map((row) => titles.map((title) => row[title] ?? ""))]);
  return tables;
}

test.each<[string, string, Record<string, string>[], [from: string, to: string]]>([
  ["a row beneath the last", BENEATH, [{ id: "P-9", role: "cook" }], ['"Lone"}', '"Lone", "crew": [{"id": "P-9", "role": "cook"}]}']],
  [
    "a row that names what it is in",
    BENEATH,
    [{ stations: "008", id: "P-9" }],
    ['"keeper"}]},\n  {"code": "009"', '"keeper"}, {"id": "P-9"}]},\n  {"code": "009"'],
  ],
  [
    "a new record, and rows beneath it",
    BENEATH,
    [{ code: "010", name: "New" }, { id: "P-9" }, { id: "P-8" }],
    ['"Lone"}\n', '"Lone"},\n  {"code": "010", "name": "New", "crew": [{"id": "P-9"}, {"id": "P-8"}]}\n'],
  ],
  [
    "a new record with the first of those in it in one row",
    BENEATH,
    [{ code: "010", id: "P-9" }, { id: "P-8" }],
    ['"Lone"}\n', '"Lone"},\n  {"code": "010", "crew": [{"id": "P-9"}, {"id": "P-8"}]}\n'],
  ],
  ["a row that repeats the key only", REPEAT, [{ code: "009", id: "P-9" }], ['"Lone"}', '"Lone", "crew": [{"id": "P-9"}]}']],
  [
    "a new record on two rows",
    REPEAT,
    [
      { code: "010", name: "New", id: "P-9" },
      { code: "010", id: "P-8" },
    ],
    ['"Lone"}\n', '"Lone"},\n  {"code": "010", "name": "New", "crew": [{"id": "P-9"}, {"id": "P-8"}]}\n'],
  ],
  ["a new record that holds none", REPEAT, [{ code: "010", name: "New" }], ['"Lone"}\n', '"Lone"},\n  {"code": "010", "name": "New"}\n']],
])("%s", async (_, layout, rows, [from, to]) => {
  const tables = await withRows(layout, ...rows);
  expect((await check(tables, { source: SOURCE })).problems).toEqual([]);
  expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(SOURCE.replace(from, to));
});

describe("edits and damage", () => {
  test.each<[string, string, Cell[], [string, string][]]>([
    ["a cell beneath", BENEATH, [[3, "role", "head"]], [['"P-1", "role": "keeper"', '"P-1", "role": "head"']]],
    ["a cell of the record around", BENEATH, [[2, "name", "Nord"]], [["North", "Nord"]]],
    [
      "a cell in all of its repeats",
      REPEAT,
      [
        [2, "name", "Nord"],
        [3, "name", "Nord"],
      ],
      [["North", "Nord"]],
    ],
    [
      "a key in all of its repeats",
      REPEAT,
      [
        [2, "code", "070"],
        [3, "code", "070"],
      ],
      [['"007"', '"070"']],
    ],
    ["the first one in a record that had none", REPEAT, [[5, "id", "P-9"]], [['"Lone"', '"Lone", "crew": [{"id": "P-9"}]']]],
    ["leading zeros eaten in some of the repeats", REPEAT, [[3, "code", "7"]], []],
    [
      "a row that goes to another record, its repeats with it",
      REPEAT,
      [
        [3, "stations", "009"],
        [3, "code", "009"],
        [3, "name", "Lone"],
      ],
      [
        [', {"id": "P-2", "role": "cook"}', ""],
        ['"Lone"', '"Lone", "crew": [{"id": "P-2", "role": "cook"}]'],
      ],
    ],
  ])("%s", async (_, layout, cells, changes) => {
    const tables = await edited(layout, ...cells);
    const { bytes, healed, notes } = await fold(tables, { source: SOURCE });
    expect(text(bytes)).toBe(changes.reduce((all, [from, to]) => all.replace(from, to), SOURCE));
    expect([healed.length, notes.map(({ code }) => code)]).toEqual([0, changes.length === 0 ? ["repeat-damaged"] : []]);
  });

  test.each<[string, string, Cell[], string[]]>([
    [
      "an edit in one of the repeats",
      REPEAT,
      [[3, "name", "Nord"]],
      [
        'stations 2 name: repeats-differ {"record":"007","table":"stations","title":"name","values":[{"value":"North","rows":[2]},{"value":"Nord","rows":[3]}]}',
      ],
    ],
    [
      "two edits of one record",
      REPEAT,
      [
        [2, "name", "Nord"],
        [3, "name", "Norden"],
      ],
      [
        'stations 2 name: repeats-differ {"record":"007","table":"stations","title":"name","values":[{"value":"Nord","rows":[2]},{"value":"Norden","rows":[3]}]}',
      ],
    ],
    [
      "cells of two records in one row",
      BENEATH,
      [[3, "name", "Nord"]],
      ['crew 3 name: stack-mixed {"other":"stations","table":"crew","title":"name"}'],
    ],
    ["a mark that was damaged", BENEATH, [[3, "fold mark", "b1bx"]], ['crew 3 fold mark: mark-damaged {"mark":"b1bx"}']],
    [
      "a record that is not there",
      BENEATH,
      [[3, "stations", "017"]],
      ['crew 3 stations: parent-unknown {"key":"code","nearest":"007","parent":"stations","text":"017"}'],
    ],
    [
      "a title that is spelled wrong",
      BENEATH,
      [[1, "role", "rol"]],
      ['stations 1 rol: column-unknown {"nearest":"role","title":"rol","titles":"7 in all"}'],
    ],
    ["a title twice", BENEATH, [[1, "role", "id"]], ['stations 1 id: title-twice {"first":6,"second":7,"title":"id"}']],
  ])("%s", async (_, layout, cells, expected) => {
    const tables = await edited(layout, ...cells);
    const { problems } = await check(tables, { source: SOURCE });
    const found = problems.map((one) => `${one.table} ${one.row} ${one.column}: ${brief(one)}`);
    expect(found).toEqual(expected);
    expect(new Set(problems.map(({ file }) => file))).toEqual(new Set(["stations.csv"]));
  });

  test("removing a row beneath, and a record with all that it holds", async () => {
    const tables = await edited(BENEATH, [3, "fold action", "remove"], [5, "fold action", "remove"]);
    expect(JSON.parse(text((await fold(tables, { source: SOURCE })).bytes))).toEqual({
      stations: [
        { code: "007", name: "North", crew: [{ id: "P-2", role: "cook" }] },
        { code: "009", name: "Lone" },
      ],
    });
  });

  test.each([
    ["semicolons", ";"],
    ["tabs", "\t"],
  ])("a sheet saved with %s", async (_, delimiter) => {
    const tables = await edited(REPEAT);
    writeRows(tables, "stations.csv", readRows(tables, "stations.csv"), { delimiter });
    expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(SOURCE);
  });

  test("a sheet in another encoding is refused once", async () => {
    const tables = await edited(BENEATH, [2, "name", "Skarvøy"]);
    tables.contents.set("stations.csv", Uint8Array.from(Buffer.from(tables.text("stations.csv"), "latin1")));
    const { problems } = await check(tables, { source: SOURCE });
    expect(problems.map(({ code }) => code)).toEqual(["sheet-encoding"]);
  });
});

test("beneath what is beneath: three tables in one sheet, one title told by its table", async () => {
  const source = '{"d": [{"code": "A", "s": [{"code": "S", "l": [{"code": "L"}]}]}]}\n';
  const three = `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  d: { rows: d, key: code, columns: { code: code } }
  s: { rows: d/s, inside: d, beneath: true, key: code, columns: { code: code } }
  l: { rows: d/s/l, inside: s, beneath: true, columns: { code: code } }
`;
  const { tables } = await hatch(source, { plan: three });
  const rows = readRows(tables, "d.csv");
  expect(rows.map((row) => row.slice(2))).toEqual([
    ["code", "d", "s code", "s", "l code"],
    ["A", "", "", "", ""],
    ["", "A", "S", "", ""],
    ["", "", "", "S", "L"],
  ]);
  writeRows(tables, "d.csv", [...rows, ["", "", "", "", "S2", "", ""], ["", "", "", "", "", "", "L2"]]);
  const { bytes: folded } = await fold(tables, { source });
  expect(text(folded)).toBe('{"d": [{"code": "A", "s": [{"code": "S", "l": [{"code": "L"}]}, {"code": "S2", "l": [{"code": "L2"}]}]}]}\n');
});

describe("plans", () => {
  test.each([
    ["no table around", BENEATH.replace("inside: stations, ", ""), 'plan-stacked-alone {"table":"crew","word":"beneath"}'],
    ["both", plan("beneath: true, repeat: true,"), 'plan-stacked-both {"table":"crew"}'],
    [
      "two lists",
      plan("repeat: true,", "  boats: { rows: stations/boats, inside: stations, beneath: true, columns: { no: no } }\n"),
      'plan-repeat-one {"parent":"stations","table":"crew"}',
    ],
  ])("%s", async (_, text, expected) => {
    expect(await refusal(hatch(SOURCE, { plan: text }))).toBe(expected);
  });
});

describe("from tables alone", () => {
  const made = async (layout: string, ...lines: string[]): Promise<unknown> => {
    const tables = new MemoryTables([["stations.csv", bytes(`${lines.join("\n")}\n`)]]);
    return JSON.parse(text((await foldNew(tables, { plan: layout })).bytes));
  };
  const expected = {
    stations: [
      { code: "A", name: "North", crew: [{ id: "P-1" }, { id: "P-2" }] },
      { code: "B", crew: [{ id: "P-3" }] },
    ],
  };

  test("parents once and blank below, the first one in the parent's row", async () => {
    expect(await made(BENEATH, "code,name,id,role", "A,North,P-1,", ",,P-2,", "B,,,", ",,P-3,")).toEqual(expected);
  });
  test("parents repeated", async () => {
    expect(await made(REPEAT, "id,code,name", "P-1,A,North", "P-3,B,", "P-2,A,North")).toEqual(expected);
  });
  test("parents repeated that do not agree", async () => {
    await expect(made(REPEAT, "id,code,name", "P-1,A,North", "P-2,A,Nord")).rejects.toMatchObject({
      problems: [
        {
          row: 2,
          column: "name",
          facts: {
            record: "A",
            values: [
              { value: "North", rows: [2] },
              { value: "Nord", rows: [3] },
            ],
          },
        },
      ],
    });
  });
});

test("the command line: one sheet for two tables, and a fold in place that goes on with new marks", async () => {
  const folder = freshFolder();
  writeFileSync(join(folder, "r.json"), SOURCE);
  writeFileSync(join(folder, "plan.yaml"), BENEATH);
  expect((await inProcess(folder, ["hatch", "r.json", "-p", "plan.yaml", "-o", "t"])).out).toBe(
    "hatched 2 tables from r.json into t\n  stations.csv  3  rows (stations)\n  stations.csv  3  rows (crew)\n",
  );
  const sheet = join(folder, "t", "stations.csv");
  writeFileSync(sheet, `${readFileSync(sheet, "utf8")},,,,,P-9,boatman\r\n`);
  const { status, out } = await inProcess(folder, ["fold", "t", "--in-place", "--renew"]);
  expect([status, out.split("\n")[0]]).toEqual([0, "✓ folded into r.json, proved: 1 added, 6 rows unchanged"]);
  expect(readFileSync(sheet, "utf8").trimEnd().split("\r\n").at(-1)).toMatch(/^\w+,,,,009,P-9,boatman$/);
  expect((await compareCounts(folder)).unchanged).toBe(7);
});

async function compareCounts(folder: string): Promise<{ unchanged: number }> {
  const source = readFileSync(join(folder, "r.json"), "utf8");
  const files = ["stations.csv", "receipt.json"].map((file) => [file, new Uint8Array(readFileSync(join(folder, "t", file)))] as const);
  return (await compare(new MemoryTables(files), { source, name: "r.json" })).counts;
}

test("a cell of the record around is cleared in its only row, which goes, and a new row says nothing of it", async () => {
  const tables = await withRows(REPEAT, { code: "008", id: "P-9" });
  setCell(tables, "stations.csv", 4, "name", "");
  setCell(tables, "stations.csv", 4, "fold action", "remove");
  const { stations } = JSON.parse(text((await fold(tables, { source: SOURCE })).bytes)) as { stations: object[] };
  expect(stations[1]).toEqual({ code: "008", crew: [{ id: "P-9" }] });
});
