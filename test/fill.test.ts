/** Columns that the source writes once and leaves blank below: filled in the sheet, and blank again in the file. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, foldNew, hatch, MemorySource, MemoryTables } from "hatch-fold";
import { law, RUNS } from "./support/laws.js";
import { Random } from "./support/random.js";
import { ACTION, bytes, edit, readRows, setCell, text } from "./support/sheets.js";
import { refusal } from "./support/brief.js";

const CSV = "district;station;code\nNorth;Gull;007\n;;008\n;Tern;009\nSouth;Alk;010\n;;011\n";
const PLAN = (
  columns = "district: { at: district, fill: down }, station: { at: station, fill: down }, code: { at: code, type: text }",
): string => `hatchfold: 1\nsources: { s: { file: l.csv, format: delimited } }\ntables: { lights: { rows: ., columns: { ${columns} } } }\n`;
const name = "l.csv";

type Change = (tables: MemoryTables) => MemoryTables;
const cell =
  (row: number, title: string, value: string): Change =>
  (tables) =>
    setCell(tables, "lights.csv", row, title, value);
const rows =
  (change: (all: string[][]) => string[][]): Change =>
  (tables) =>
    edit(tables, "lights.csv", (all) => change(all));

describe("a flat file with parents once and blank below", () => {
  test("the sheet shows them in every row", async () => {
    const { tables } = await hatch(CSV, { plan: PLAN(), name });
    expect(readRows(tables, "lights.csv").map((row) => row.slice(2).join(" "))).toEqual([
      "district station code",
      "North Gull 007",
      "North Gull 008",
      "North Tern 009",
      "South Alk 010",
      "South Alk 011",
    ]);
  });

  test("conditions see what the sheet shows, too", async () => {
    const { tables } = await hatch(CSV, { plan: PLAN(), name, where: ['station == "Alk"'] });
    expect(readRows(tables, "lights.csv").map((row) => row[4])).toEqual(["code", "010", "011"]);
    cell(3, "code", "012")(tables);
    expect(text((await fold(tables, { source: CSV, name })).bytes)).toBe(CSV.replace("011", "012"));
  });

  const CASES: [what: string, change: Change[], from: string, to: string][] = [
    ["nothing", [], "", ""],
    [
      "sorted, and without a column",
      [rows((all) => [all[0], ...all.slice(1).reverse()].map((row) => row.filter((_, c) => c !== 3)))],
      "",
      "",
    ],
    ["another cell", [cell(3, "code", "0080")], "008", "0080"],
    [
      "the value in all rows that have it: the one place where it stands",
      [cell(5, "district", "Syd"), cell(6, "district", "Syd")],
      "South",
      "Syd",
    ],
    ["in the first row alone: those below keep theirs", [cell(5, "district", "Syd")], "South;Alk;010\n;", "Syd;Alk;010\nSouth;"],
    ["in a row in the middle", [cell(3, "station", "Lom")], "\n;;008", "\n;Lom;008"],
    ["in the last of some rows", [cell(4, "district", "East")], "\n;Tern", "\nEast;Tern"],
    ["the value of the one above, written again", [cell(4, "station", "Gull")], ";Tern;", ";Gull;"],
    ["cleared: as the one above; those below keep theirs", [cell(5, "district", "")], "South;Alk;010\n;", ";Alk;010\nSouth;"],
    ["the row that the value stands in goes", [cell(5, ACTION, "remove")], "South;Alk;010\n;;011", "South;Alk;011"],
    ["a new row like the last", [rows((all) => [...all, ["", "", "South", "Alk", "012"]])], ";;011\n", ";;011\n;;012\n"],
    [
      "a new row of another goes behind its group",
      [rows((all) => [...all, ["", "", "North", "Gull", "012"]])],
      ";;008\n",
      ";;008\n;;012\n",
    ],
    ["a new row that begins a group", [rows((all) => [...all, ["", "", "North", "Lom", "012"]])], ";;011\n", ";;011\nNorth;Lom;012\n"],
    ["a cell that a spreadsheet padded", [cell(3, "district", "North ")], "", ""],
    [
      "a row is skipped, and the one above changes",
      [cell(5, "station", "Lom"), cell(6, ACTION, "skip")],
      "South;Alk;010\n;;",
      "South;Lom;010\n;Alk;",
    ],
    [
      "the row that the value stands in goes, in a sheet without the column",
      [cell(5, ACTION, "remove"), cell(6, "code", "0110"), rows((all) => all.map((row) => row.filter((_, c) => c !== 2)))],
      "South;Alk;010\n;;011",
      "South;Alk;0110",
    ],
    [
      "rows that are left out keep theirs",
      [rows((all) => [all[0], ["", "", "", "", ""].map((_, c) => (c === 2 ? "Nord" : all[1][c]))])],
      "North;Gull;007\n;",
      "Nord;Gull;007\nNorth;",
    ],
  ];
  test.each(CASES)("%s", async (_, changes, from, to) => {
    const { tables } = await hatch(CSV, { plan: PLAN(), name });
    for (const change of changes) change(tables);
    expect((await check(tables, { source: CSV, name })).problems).toEqual([]);
    expect(text((await fold(tables, { source: CSV, name })).bytes)).toBe(from === "" ? CSV : CSV.replace(from, to));
  });

  test("compare says what changes in the source", async () => {
    const { tables } = await hatch(CSV, { plan: PLAN(), name });
    cell(5, "district", "Syd")(tables);
    const { changes } = await compare(tables, { source: CSV, name });
    expect(changes.map(({ row, column, old, new: now }) => [row, column, old, now])).toEqual([
      [5, "district", "South", "Syd"],
      [6, "district", "", "South"],
    ]);
  });

  test("compare shows a new row as its sheet does, also where the source need not say it again", async () => {
    const { tables } = await hatch(CSV, { plan: PLAN(), name });
    rows((all) => [...all, ["", "", "South", "Alk", "012"]])(tables);
    const { changes } = await compare(tables, { source: CSV, name });
    expect(changes.map(({ row, cells }) => [row, cells])).toEqual([[7, { district: "South", station: "Alk", code: "012" }]]);
    expect(text((await fold(tables, { source: CSV, name })).bytes)).toBe(`${CSV};;012\n`);
  });

  test("records in records: each list for itself, and a record that moves says its own", async () => {
    const json = JSON.stringify({
      s: [
        { c: "a", l: [{ g: "x", n: 1 }, { n: 2 }, { g: null, n: 3 }] },
        { c: "b", l: [{ n: 4 }, { g: "y", n: 5 }] },
      ],
    });
    const plan = `hatchfold: 1\nsources: { s: { file: l.json, format: json } }\ntables: { s: { rows: s, key: c, columns: { c: c } }, l: { rows: s/l, inside: s, columns: { g: { at: g, fill: down }, n: n } } }\n`;
    const { tables } = await hatch(json, { plan });
    expect(readRows(tables, "l.csv").map((row) => row.slice(2).join(" "))).toEqual(["s g n", "a x 1", "a x 2", "a x 3", "b  4", "b y 5"]);
    expect(text((await fold(tables, { source: json })).bytes)).toBe(json);
    setCell(tables, "l.csv", 2, "s", "b");
    const folded = JSON.parse(text((await fold(tables, { source: json })).bytes)) as unknown;
    expect(folded).toEqual({
      s: [
        {
          c: "a",
          l: [
            { n: 2, g: "x" },
            { g: null, n: 3 },
          ],
        },
        { c: "b", l: [{ n: 4 }, { g: "y", n: 5 }, { g: "x", n: 1 }] },
      ],
    });
  });

  test("several files: each for itself", async () => {
    const opened = (): MemorySource[] => [
      new MemorySource(bytes(CSV), "a/l.csv"),
      new MemorySource(bytes("district;station;code\n;Hov;1\nEast;;2\n"), "b/l.csv"),
    ];
    const { tables } = await hatch(opened(), { plan: PLAN().replace("l.csv", '"*/l.csv"') });
    expect(
      readRows(tables, "lights.csv")
        .slice(6)
        .map((row) => row.slice(2).join(" ")),
    ).toEqual(["b/l.csv  Hov 1", "b/l.csv East Hov 2"]);
    const { files } = await fold(tables, { source: opened() });
    expect(files.every(({ unchanged }) => unchanged)).toBe(true);
  });

  test("a new file says each value once", async () => {
    const { tables } = await hatch(CSV, { plan: PLAN(), name });
    const made = await foldNew(tables, { plan: PLAN().replace("delimited", 'delimited, delimiter: ";"') });
    expect(text(made.bytes)).toBe(CSV);
  });

  test.each([
    ["a key", "district: { at: district, fill: down } }, key: district, match: [district], x: {"],
    ["a tree", "district: { at: district, fill: down }, station: station }, tree: { path: station }, x: {"],
  ])("not in %s", async (_, columns) => {
    expect(await refusal(hatch(CSV, { plan: PLAN(columns).replace(", x: { }", ""), name }))).toBe(
      'plan-fill-alone {"table":"lights","title":"district"}',
    );
  });
});

test("together with lists that name each other, also where rows that follow were left out by a condition", async () => {
  const source =
    '{"s": [{"c": "a", "g": "x", "p": ["1"]}, {"c": "b", "p": []}, {"c": "d", "g": "y", "p": []}], "q": [{"i": "1", "s": ["a"]}, {"i": "2", "s": []}]}';
  const plan = `hatchfold: 1
sources: { r: { file: l.json, format: json } }
tables:
  s: { rows: s, key: c, columns: { c: c, g: { at: g, fill: down }, p: { at: p, pack: ",", refers: q, mirror: s } } }
  q: { rows: q, key: i, columns: { i: i, s: { at: s, pack: ",", refers: s } } }
`;
  const { tables } = await hatch(source, { plan, where: ['s: c == "a"'] });
  setCell(tables, "s.csv", 2, "g", "z");
  setCell(tables, "q.csv", 3, "s", "b");
  const { problems, changes } = await compare(tables, { source });
  expect(problems).toEqual([]);
  expect(changes.map(({ table, row, record, column, new: now }) => `${table} ${row} ${record} ${column} ${now}`)).toEqual([
    "s 2 a g z",
    "s 0 b g x",
    "s 0 b p 2",
    "q 3 2 s b",
  ]);
  expect(JSON.parse(text((await fold(tables, { source })).bytes))).toEqual({
    s: [
      { c: "a", g: "z", p: ["1"] },
      { c: "b", p: ["2"], g: "x" },
      { c: "d", g: "y", p: [] },
    ],
    q: [
      { i: "1", s: ["a"] },
      { i: "2", s: ["b"] },
    ],
  });
});

test("law: whatever is edited, each row of a new hatch shows what its sheet said", () =>
  law(
    fc.tuple(fc.array(fc.tuple(fc.constantFrom("", "", "A", "B"), fc.nat(9)), { minLength: 1, maxLength: 12 }), fc.nat()),
    async ([records, seed]) => {
      const random = new Random(seed);
      const source = `g,n\n${records.map(([g, n], i) => `${g},${String(n)}${i}\n`).join("")}`;
      const plan = PLAN("g: { at: g, fill: down }, n: { at: n, type: text }");
      const { tables } = await hatch(source, { plan, name });
      const shown = (all: MemoryTables): string[] =>
        readRows(all, "lights.csv")
          .slice(1)
          .map((row) => row.slice(2).join(" "));
      const goal: string[] = [];
      edit(tables, "lights.csv", (all) => {
        for (const row of all.slice(1)) {
          // a cleared cell says what the one above says
          if (random.chance(4)) row[2] = random.pick(["A", "B", "C"]);
          if (random.chance(6)) row[1] = "remove";
          else goal.push(row.slice(2).join(" "));
        }
        const added = random.chance(2) ? [["", "", random.pick(["A", "C"]), "new"]] : [];
        for (const [, , g, n] of added) {
          // it goes behind those that say the same, if there are such
          const last = goal.findLastIndex((row) => row.startsWith(`${g} `));
          goal.splice(last < 0 ? goal.length : last + 1, 0, `${g} ${n}`);
        }
        return [all[0], ...random.shuffle(all.slice(1)), ...added];
      });
      const folded = (await fold(tables, { source, name })).bytes;
      // what stood above the first value stays blank, unless something comes to stand above it
      const again = shown((await hatch(folded, { plan, name })).tables);
      expect(again.length).toBe(goal.length);
      for (const [i, row] of again.entries()) if (!goal[i].startsWith(" ")) expect(row).toBe(goal[i]);
    },
    RUNS / 2,
  ));
