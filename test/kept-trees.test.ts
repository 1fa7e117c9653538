/** Trees of which the source keeps paths, or depths in an ordered list: what is below a record goes along, row by row. */
import { describe, expect, test } from "vitest";
import { check, compare, fold, foldNew, hatch, MemorySource, MemoryTables } from "hatch-fold";
import { ACTION, bytes, edit, readRows, text } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

/** An edit names its row by the record's name; "mark of X" stands for that record's mark. */
type Cell = [name: string, title: string, value: string];

function change(tables: MemoryTables, cells: readonly Cell[], added: readonly Record<string, string>[] = []): MemoryTables {
  return edit(tables, "parts.csv", (rows, titles) => {
    const [name, mark] = [titles.indexOf("name"), 0];
    const rowOf = new Map(rows.map((row) => [row[name], row]));
    const said = (value: string): string => value.replace(/^mark of (.+)$/, (_, one: string) => rowOf.get(one)![mark]);
    for (const [one, title, value] of cells) rowOf.get(one)![titles.indexOf(title)] = said(value);
    rows.push(...added.map((cellsOf) => titles.map((title) => said(cellsOf[title] ?? ""))));
  });
}

/** What changes in the source, line by line: `-` and `+`, without what stays. */
function lines(before: string, after: string): string[] {
  const [old, now] = [before, after].map((one) => one.split("\n"));
  let [first, last] = [0, 0];
  while (first < old.length && first < now.length && old[first] === now[first]) first++;
  while (last < old.length - first && last < now.length - first && old.at(-1 - last) === now.at(-1 - last)) last++;
  const run = (all: string[], sign: string): string[] => all.slice(first, all.length - last).map((line) => sign + line.trim());
  return [...run(old, "-"), ...run(now, "+")];
}

const OUTLINE = `{"lanterns": [
  {"no": "L-1", "parts": [
    {"level": "01", "name": "Optics", "stock": "0042"},
    {"level": "02", "name": "Lens"},
    {"level": "02", "name": "Lamp"},
    {"level": "03", "name": "Bulb", "qty": 1.50},
    {"level": "01", "name": "Housing"},
    {"level": "02", "name": "Roof"}
  ]},
  {"no": "L-2", "parts": [
    {"level": "01", "name": "Frame"}
  ]}
]}
`;
const OUTLINE_PLAN = `
hatchfold: 1
sources: { r: { file: l.json, format: json } }
tables:
  lanterns: { rows: lanterns, key: no, columns: { no: no } }
  parts: { rows: lanterns/parts, inside: lanterns, tree: { depth: level }, label: name, columns: { level: level, name: name, stock: stock } }
`;

describe("depths in an ordered list", () => {
  test("the sheet shows parents and paths beside the depth that the source has", async () => {
    const { tables } = await hatch(OUTLINE, { plan: OUTLINE_PLAN });
    const [titles, ...rows] = readRows(tables, "parts.csv");
    expect(titles.slice(2)).toEqual(["lanterns", "parent", "path", "level", "name", "stock"]);
    expect(rows.map((row) => row.slice(2).join("|"))).toEqual([
      "L-1||L-1/Optics|01|Optics|0042",
      `L-1|${rows[0][0]}|L-1/Optics/Lens|02|Lens|`,
      `L-1|${rows[0][0]}|L-1/Optics/Lamp|02|Lamp|`,
      `L-1|${rows[2][0]}|L-1/Optics/Lamp/Bulb|03|Bulb|`,
      "L-1||L-1/Housing|01|Housing|",
      `L-1|${rows[4][0]}|L-1/Housing/Roof|02|Roof|`,
      "L-2||L-2/Frame|01|Frame|",
    ]);
  });

  const LAMP_UNDER_ROOF = [
    ...['-{"level": "02", "name": "Lamp"},', '-{"level": "03", "name": "Bulb", "qty": 1.50},', '-{"level": "01", "name": "Housing"},'],
    ...['-{"level": "02", "name": "Roof"}', '+{"level": "01", "name": "Housing"},', '+{"level": "02", "name": "Roof"},'],
    ...['+{"level": "03", "name": "Lamp"},', '+{"level": "04", "name": "Bulb", "qty": 1.50}'],
  ];
  const CASES: [what: string, cells: Cell[], changed: string[], added?: Record<string, string>[]][] = [
    ["one cell", [["Lens", "stock", "0043"]], ['-{"level": "02", "name": "Lens"},', '+{"level": "02", "name": "Lens", "stock": "0043"},']],
    ["by the parent, with all below", [["Lamp", "parent", "mark of Roof"]], LAMP_UNDER_ROOF],
    ["by the path", [["Lamp", "path", "L-1/Housing/Roof/Lamp"]], LAMP_UNDER_ROOF],
    [
      "deeper, where it stands: one value",
      [["Lamp", "level", "03"]],
      [
        '-{"level": "02", "name": "Lamp"},',
        '-{"level": "03", "name": "Bulb", "qty": 1.50},',
        '+{"level": "03", "name": "Lamp"},',
        '+{"level": "04", "name": "Bulb", "qty": 1.50},',
      ],
    ],
    [
      "to another lantern, by its column on one row of the branch",
      [["Housing", "lanterns", "L-2"]],
      [
        ...['-{"level": "03", "name": "Bulb", "qty": 1.50},', '-{"level": "01", "name": "Housing"},', '-{"level": "02", "name": "Roof"}'],
        ...["-]},", '-{"no": "L-2", "parts": [', '-{"level": "01", "name": "Frame"}', '+{"level": "03", "name": "Bulb", "qty": 1.50}'],
        ...["+]},", '+{"no": "L-2", "parts": [', '+{"level": "01", "name": "Frame"},', '+{"level": "01", "name": "Housing"},'],
        '+{"level": "02", "name": "Roof"}',
      ],
    ],
    [
      "a new one below one that has others behind it",
      [],
      ['+{"level": "03", "name": "Socket", "stock": "0007"},'],
      [{ lanterns: "L-1", parent: "mark of Lamp", name: "Socket", stock: "0007" }],
    ],
    [
      "new ones along a path: those that are missing are made",
      [],
      [
        '-{"level": "01", "name": "Frame"}',
        '+{"level": "01", "name": "Frame"},',
        '+{"level": "02", "name": "Rail"},',
        '+{"level": "03", "name": "Post"}',
      ],
      [{ lanterns: "L-2", path: "L-2/Frame/Rail/Post" }],
    ],
    [
      "depths that a spreadsheet took the zeros from",
      [...OUTLINE.matchAll(/"level": "0(\d)", "name": "([^"]+)"/g)].map(([, depth, name]): [string, string, string] => [
        name,
        "level",
        depth,
      ]),
      [],
    ],
  ];
  test.each(CASES)("%s", async (_, cells, changed, added = []) => {
    const { tables } = await hatch(OUTLINE, { plan: OUTLINE_PLAN });
    change(tables, cells, added);
    expect((await check(tables, { source: OUTLINE })).problems).toEqual([]);
    expect(lines(OUTLINE, text((await fold(tables, { source: OUTLINE })).bytes))).toEqual(changed);
  });

  test("the whole branch filled down with another lantern goes there as it is", async () => {
    const folded = await Promise.all(
      [["Housing"], ["Housing", "Roof"]].map(async (names) => {
        const { tables } = await hatch(OUTLINE, { plan: OUTLINE_PLAN });
        change(
          tables,
          names.map((name): Cell => [name, "lanterns", "L-2"]),
        );
        return text((await fold(tables, { source: OUTLINE })).bytes);
      }),
    );
    expect(folded[1]).toBe(folded[0]);
  });

  test("compare names where records go, and what goes along", async () => {
    const { tables } = await hatch(OUTLINE, { plan: OUTLINE_PLAN });
    change(tables, [["Lamp", "path", "L-2/Frame/Lamp"]], [{ lanterns: "L-1", parent: "mark of Roof", name: "Vane" }]);
    const { changes } = await compare(tables, { source: OUTLINE });
    expect(changes.map(({ kind, record, column, old, new: now, holds }) => [kind, record, column, old, now, holds])).toEqual([
      ["moved", "Lamp", "parent", "L-1/Optics", "L-2/Frame", 1],
      ["added", "Vane", "", null, null, undefined],
    ]);
    expect(changes[1].cells).toEqual({ lanterns: "L-1", parent: "L-1/Housing/Roof", level: "03", name: "Vane" });
  });

  test("records that are in no row of the sheet follow, too", async () => {
    const { tables } = await hatch(OUTLINE, { plan: OUTLINE_PLAN, where: ['parts: name != "Bulb"'] });
    change(tables, [["Lamp", "parent", "mark of Roof"]]);
    edit(tables, "parts.csv", (rows, titles) => rows.map((row) => row.filter((_, c) => !["stock", "level"].includes(titles[c]))));
    const { changes } = await compare(tables, { source: OUTLINE });
    expect(changes.map(({ row, record, column, new: now }) => [row, record, column, now])).toEqual([
      [4, "Lamp", "level", "03"],
      [4, "Lamp", "parent", "L-1/Housing/Roof"],
      [0, "Bulb", "level", "04"],
    ]);
    expect(lines(OUTLINE, text((await fold(tables, { source: OUTLINE })).bytes))).toEqual(LAMP_UNDER_ROOF);
  });

  test("in several files: a branch goes to its place in the other", async () => {
    const files = ["1;Optics\n2;Lamp\n3;Bulb\n", "1;Frame\n2;Rail\n1;Roof\n"];
    const opened = (): MemorySource[] => files.map((one, i) => new MemorySource(bytes(`level;name\n${one}`), `${"ab"[i]}.csv`));
    const plan = `hatchfold: 1\nsources: { r: { file: "*.csv", format: delimited } }\ntables: { parts: { rows: ., tree: { depth: level }, label: name, columns: { level: level, name: name } } }\n`;
    const { tables } = await hatch(opened(), { plan });
    change(tables, [["Lamp", "path", "b.csv/Frame/Lamp"]]);
    const folded = (await fold(tables, { source: opened() })).files.map((file) => text(file.bytes).replace("level;name\n", ""));
    expect(folded).toEqual(["1;Optics\n", "1;Frame\n2;Rail\n2;Lamp\n3;Bulb\n1;Roof\n"]);
  });

  test("a new document from rows alone: in the order of the tree", async () => {
    const sheet = "parent,path,level,name\n,,,Tower\n,Tower/Door,,\n,Tower/Door/Lock,,\n,,,Annex\n+w,,,Window\n";
    const tables = new MemoryTables([["parts.csv", bytes(sheet.replace("+w", "Tower"))]]);
    const plan = `hatchfold: 1\nsources: { r: { file: l.json, format: json } }\ntables:\n  parts: { rows: parts, tree: { depth: level }, key: name, columns: { level: level, name: name } }\n`;
    const { bytes: made } = await foldNew(tables, { plan });
    expect(
      (JSON.parse(text(made)) as { parts: { name: string; level: number }[] }).parts.map(({ name, level }) => `${level} ${name}`),
    ).toEqual([...["1 Tower", "2 Door", "3 Lock", "2 Window", "1 Annex"]]);
  });
});

const WAYS = `Way;Note
Harbours;
Harbours/North;two quays
Harbours/North/Gull;
Buoys;all
Depots/Old/Skarv;empty
`;
const WAYS_PLAN = (more = ""): string => `
hatchfold: 1
sources: { r: { file: w.csv, format: delimited } }
tables: { parts: { rows: ., tree: { path: name }, columns: { name: Way, note: Note }${more} } }
`;

describe("paths", () => {
  const CASES: [what: string, cells: Cell[], changed: string[], added?: Record<string, string>[]][] = [
    [
      "a branch goes elsewhere, by the path of its top",
      [["Harbours/North", "name", "Buoys/North"]],
      ["-Harbours/North;two quays", "-Harbours/North/Gull;", "+Buoys/North;two quays", "+Buoys/North/Gull;"],
    ],
    [
      "by its parent",
      [["Harbours/North", "parent", "mark of Buoys"]],
      ["-Harbours/North;two quays", "-Harbours/North/Gull;", "+Buoys/North;two quays", "+Buoys/North/Gull;"],
    ],
    ["by its depth", [["Buoys", "depth", "2"]], ["-Buoys;all", "+Harbours/Buoys;all"]],
    [
      "another name takes all paths along",
      [["Harbours", "name", "Ports"]],
      ["-Harbours;", "-Harbours/North;two quays", "-Harbours/North/Gull;", "+Ports;", "+Ports/North;two quays", "+Ports/North/Gull;"],
    ],
    ["a step that is no record need not become one", [["Buoys", "name", "Depots/New/Buoys"]], ["-Buoys;all", "+Depots/New/Buoys;all"]],
    ["to a step that is no record", [["Buoys", "name", "Depots/Old/Buoys"]], ["-Buoys;all", "+Depots/Old/Buoys;all"]],
    ["new ones", [], ["+Buoys/Red/04;a", "+Buoys/Red/05;"], [{ name: "Buoys/Red/04", note: "a" }, { name: "Buoys/Red/05" }]],
  ];
  test.each(CASES)("%s", async (_, cells, changed, added = []) => {
    const { tables } = await hatch(WAYS, { plan: WAYS_PLAN(), name: "w.csv" });
    change(tables, cells, added);
    expect((await check(tables, { source: WAYS, name: "w.csv" })).problems).toEqual([]);
    expect(lines(WAYS, text((await fold(tables, { source: WAYS, name: "w.csv" })).bytes))).toEqual(changed);
  });

  const PROBLEMS: [what: string, cells: Cell[], expected: string, added?: Record<string, string>[]][] = [
    ["the same but for a space", [["Buoys", "name", "Harbours /Buoys"]], 'tree-near {"near":"Harbours","path":"Harbours "}'],
    ["a parent that is not there", [["Buoys", "parent", "Kelp"]], 'parent-unknown {"key":"fold mark","parent":"parts","text":"Kelp"}'],
    ["a new one without a path", [], 'tree-nameless {"title":"name"}', [{ note: "lost" }]],
    [
      "two that do not agree",
      [
        ["Buoys", "parent", "mark of Harbours"],
        ["Buoys", "name", "Harbours/North/Buoys"],
      ],
      'tree-differ {"says":[{"title":"parent","value":"b1sr","above":"Harbours"},{"title":"name","value":"Harbours/North/Buoys","above":"North"}]}',
    ],
    ["below itself", [["Harbours", "name", "Harbours/North/Harbours"]], 'ref-loop {"loop":["Harbours","North","Harbours"]}'],
    ["what is below a record that goes", [["Harbours/North", ACTION, "remove"]], 'tree-left {"record":"North","row":3}'],
  ];
  test.each(PROBLEMS)("%s is a problem", async (_, cells, expected, added = []) => {
    const { tables } = await hatch(WAYS, { plan: WAYS_PLAN(), name: "w.csv" });
    change(tables, cells, added);
    const { problems } = await check(tables, { source: WAYS, name: "w.csv" });
    expect(problems.map(brief)).toEqual([expected]);
  });

  test("what is made for a path stands before what is below it", async () => {
    const source = "Way;Note\nHarbours;\nHarbours/North;\n";
    const plan = WAYS_PLAN();
    const { tables } = await hatch(source, { plan, name: "w.csv" });
    change(tables, [], [{ name: "Buoys/Red/04" }, { name: "Buoys/Red/05" }]);
    const { notes } = await compare(tables, { source, name: "w.csv" });
    expect(notes.map(({ code }) => code)).toEqual(["tree-made", "tree-made"]);
    for (const allow of [undefined, ["add"] as const])
      expect(text((await fold(tables, { source, name: "w.csv", allow })).bytes)).toBe(
        `${source}Buoys;\nBuoys/Red;\nBuoys/Red/04;\nBuoys/Red/05;\n`,
      );
  });

  test("in several files: a branch goes from one to the other", async () => {
    const other = "Way;Note\nQuays;\nQuays/East;x\n";
    const opened = (): MemorySource[] => [new MemorySource(bytes(WAYS), "a/w.csv"), new MemorySource(bytes(other), "b/w.csv")];
    const { tables } = await hatch(opened(), { plan: WAYS_PLAN().replace("w.csv", '"*/w.csv"') });
    change(tables, [
      ["Harbours/North", "in file", "b/w.csv"],
      ["Harbours/North", "name", "Quays/North"],
    ]);
    const { files } = await fold(tables, { source: opened() });
    expect(files.map((file) => text(file.bytes))).toEqual([
      "Way;Note\nHarbours;\nBuoys;all\nDepots/Old/Skarv;empty\n",
      "Way;Note\nQuays;\nQuays/East;x\nQuays/North;two quays\nQuays/North/Gull;\n",
    ]);
  });
});

test("a plan whose words for a tree do not fit says so", async () => {
  const wrong: [string, string][] = [
    [
      WAYS_PLAN().replace("path: name", "path: nam"),
      'plan-no-such-column {"column":"nam","nearest":"name","table":"parts","titles":["name","note"]}',
    ],
    [WAYS_PLAN().replace("note: Note", "depth: Note"), 'plan-title-taken {"table":"parts","title":"depth"}'],
    [WAYS_PLAN(", match: name"), 'plan-tree-match {"table":"parts"}'],
    [WAYS_PLAN().replace("path: name", "depth: note"), 'plan-tree-label {"table":"parts"}'],
  ];
  for (const [plan, expected] of wrong) expect(await refusal(hatch(WAYS, { plan, name: "w.csv" }))).toBe(expected);
});

describe("a path that is written is taken by no other record", () => {
  const PLACES = [
    ["North", 1],
    ["North/Pier", 2],
    ["North/Pier/Lamp", 3],
    ["South", 4],
    ["South/Pier", 5],
  ];
  const kept = {
    source: JSON.stringify({ places: PLACES.map(([way, no]) => ({ way, no })) }),
    plan: "tree: { path: way }, columns: { way: way, no: no }",
    at: 4,
  };
  const nest = (name: string, ...places: object[]): object => ({ name, places });
  const nested = {
    source: JSON.stringify({ places: [nest("North", nest("Pier", nest("Lamp"))), nest("South", nest("Pier"))] }),
    plan: "tree: places, label: name, columns: { name: name }",
    at: 4,
  };
  const put =
    (row: number, way: string) =>
    (rows: string[][], at: number): void =>
      void ((rows[row] ??= rows[0].map(() => ""))[at] = way);
  const CASES: [what: string, tree: typeof kept, change: (rows: string[][], at: number) => void, wanted: string[]][] = [
    ["a branch that is renamed", kept, put(1, "South"), ["tree-taken 2"]],
    ["a leaf", kept, put(5, "North/Pier"), ["tree-taken 6"]],
    ["a new one", kept, put(6, "North/Pier"), ["tree-taken 7"]],
    ["a space in the last name", kept, put(2, "North/ Pier"), ["edits-slight"]],
    ["a new one with a space", kept, put(6, "North/ Pier"), ["keys-near"]],
    ["nested: one that moves", nested, put(5, "North/Pier"), ["tree-taken 6"]],
    ["nested: a new one", nested, put(6, "South/Pier"), ["tree-taken 7"]],
    [
      "two that change names",
      kept,
      (rows, at) => {
        for (const [row, way] of [
          [1, "South"],
          [4, "North"],
        ] as const)
          rows[row][at] = way;
      },
      [],
    ],
    [
      "one that takes the place of a removed one",
      kept,
      (rows, at) => {
        rows[5][1] = "remove";
        rows[6] = rows[0].map((_, c) => (c === at ? "South/Pier" : ""));
      },
      [],
    ],
  ];
  test.each(CASES)("%s", async (_, { source, plan, at }, change, wanted) => {
    const { tables } = await hatch(source, {
      name: "s.json",
      plan: `hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { places: { rows: places, ${plan} } }\n`,
    });
    edit(tables, "places.csv", (rows) => change(rows, at));
    const { problems, notes } = await compare(tables, { source, name: "s.json" });
    expect([...problems.map(({ code, row }) => `${code} ${row}`), ...notes.map(({ code }) => code)]).toEqual(wanted);
  });
});
