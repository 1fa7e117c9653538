/** Trees in sheets: parts of lanterns, with a parent, a depth and a path, of which any may be edited. */
import { describe, expect, test } from "vitest";
import fastJsonPatch from "fast-json-patch";
import { check, compare, fold, foldNew, hatch, MemorySource, MemoryTables } from "hatch-fold";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { freshFolder, inProcess } from "./support/cli.js";
import { ACTION, bytes, edit, readRows, setCell, text, writeRows } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

const SOURCE = `{"lanterns": [
  {"no": "L-1", "parts": [
    {"name": "Optics", "parts": [
      {"name": "Lens", "qty": 1},
      {"parts": [{"name": "Bulb", "qty": 2}, {"name": "Holder"}], "name": "Lamp"}
    ]},
    {"name": "Housing", "parts": [{"name": "Roof"}, {"name": "Panes", "qty": 8, "parts": []}]}
  ]},
  {"no": "L-2", "parts": [{"name": "Optics"}]}
]}
`;
const PLAN = `
hatchfold: 1
sources: { r: { file: l.json, format: json } }
tables:
  lanterns: { rows: lanterns, key: no, columns: { no: no } }
  parts: { rows: lanterns/parts, inside: lanterns, tree: parts, label: name, columns: { name: name, qty: qty } }
`;
/** Rows of the sheet: Optics 2, Lens 3, Lamp 4, Bulb 5, Holder 6, Housing 7, Roof 8, Panes 9, Optics of L-2 10. */
type Cell = [row: number, title: string, value: string];
async function edited(...cells: Cell[]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  const marks = readRows(tables, "parts.csv").map((row) => row[0]);
  // "mark 7" stands for the mark in row 7
  for (const [row, title, value] of cells)
    setCell(
      tables,
      "parts.csv",
      row,
      title,
      value.replace(/^mark (\d+)$/, (_, n: string) => marks[Number(n) - 1]),
    );
  return tables;
}

test("what the sheet shows", async () => {
  const { tables, receipt } = await hatch(SOURCE, { plan: PLAN });
  const [titles, ...rows] = readRows(tables, "parts.csv");
  expect(titles.slice(2)).toEqual(["lanterns", "parent", "depth", "path", "name", "qty"]);
  expect(rows.map((row) => [row[2], row[4], row[5], row[6], row[7]].join("|"))).toEqual([
    "L-1|1|L-1/Optics|Optics|",
    "|2|L-1/Optics/Lens|Lens|1",
    "|2|L-1/Optics/Lamp|Lamp|",
    "|3|L-1/Optics/Lamp/Bulb|Bulb|2",
    "|3|L-1/Optics/Lamp/Holder|Holder|",
    "L-1|1|L-1/Housing|Housing|",
    "|2|L-1/Housing/Roof|Roof|",
    "|2|L-1/Housing/Panes|Panes|8",
    "L-2|1|L-2/Optics|Optics|",
  ]);
  expect(rows[1][3]).toBe(rows[0][0]);
  expect(receipt.tables.map(({ name, rows, records }) => [name, rows, records])).toEqual([
    ["lanterns", 2, 2],
    ["parts", 9, 9],
  ]);
});

const LENS = '{"name": "Lens", "qty": 1}';
const NO_LENS: [string, string] = [`      ${LENS},\n`, ""];

test.each<[string, Cell[], [string, string][]]>([
  ["a part goes below another, by its mark", [[3, "parent", "mark 7"]], [NO_LENS, ['"parts": []}', `"parts": []}, ${LENS}`]]],
  ["by its path", [[3, "path", "L-1/Housing/Lens"]], [NO_LENS, ['"parts": []}', `"parts": []}, ${LENS}`]]],
  [
    "by both alike",
    [
      [3, "path", "L-1/Housing/Lens"],
      [3, "parent", "mark 7"],
    ],
    [NO_LENS, ['"parts": []}', `"parts": []}, ${LENS}`]],
  ],
  [
    "by its depth",
    [[9, "depth", "3"]],
    [
      [', {"name": "Panes", "qty": 8, "parts": []}', ""],
      ['{"name": "Roof"}', '{"name": "Roof", "parts": [{"name": "Panes", "qty": 8, "parts": []}]}'],
    ],
  ],
  [
    "to the top of another lantern, by its path",
    [[3, "path", "L-2/Lens"]],
    [NO_LENS, ['{"name": "Optics"}]', `{"name": "Optics"}, ${LENS}]`]],
  ],
  [
    "to the top of another lantern, by its column",
    [[3, "lanterns", "L-2"]],
    [NO_LENS, ['{"name": "Optics"}]', `{"name": "Optics"}, ${LENS}]`]],
  ],
  [
    "to the top of its own lantern",
    [[8, "parent", ""]],
    [
      ['{"name": "Roof"}, ', ""],
      ['"parts": []}]}\n', '"parts": []}]},\n    {"name": "Roof"}\n'],
    ],
  ],
  [
    "a list that was empty gets its first",
    [[8, "parent", "mark 9"]],
    [
      ['{"name": "Roof"}, ', ""],
      ['"parts": []', '"parts": [{"name": "Roof"}]'],
    ],
  ],
  ["another name by the path", [[5, "path", "L-1/Optics/Lamp/Globe"]], [['"Bulb"', '"Globe"']]],
  ["another name by the name", [[5, "name", "Globe"]], [['"Bulb"', '"Globe"']]],
  [
    "find and replace in all paths",
    [
      [2, "path", "L-1/Lights"],
      [3, "path", "L-1/Lights/Lens"],
      [4, "path", "L-1/Lights/Lamp"],
      [5, "path", "L-1/Lights/Lamp/Bulb"],
      [6, "path", "L-1/Lights/Lamp/Holder"],
    ],
    [['"Optics"', '"Lights"']],
  ],
  ["a cell of the record", [[5, "qty", "3"]], [['"qty": 2', '"qty": 3']]],
  ["a path that a spreadsheet trimmed or padded", [[5, "path", "L-1/Optics/Lamp/Bulb "]], []],
])("%s", async (_, cells, changes) => {
  const tables = await edited(...cells);
  expect((await check(tables, { source: SOURCE })).problems).toEqual([]);
  const expected = changes.reduce((all, [from, to]) => {
    expect(all).toContain(from);
    return all.replace(from, to);
  }, SOURCE);
  expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(expected);
});

test.each<[string, Cell[], string[]]>([
  ["a part goes below one that is below it", [[4, "parent", "mark 5"]], ['4 parent: ref-loop {"loop":["Lamp","Bulb","Lamp"]}']],
  ["a part goes below itself", [[4, "parent", "mark 4"]], ['4 parent: ref-loop {"loop":["Lamp","Lamp"]}']],
  [
    "two columns that do not agree",
    [
      [3, "parent", "mark 7"],
      [3, "path", "L-1/Optics/Lamp/Lens"],
    ],
    [
      '3 path: tree-differ {"says":[{"title":"parent","value":"b6pu","above":"Housing"},{"title":"path","value":"L-1/Optics/Lamp/Lens","above":"Lamp"}]}',
    ],
  ],
  [
    "a path and a name that do not agree",
    [
      [5, "name", "Globe"],
      [5, "path", "L-1/Optics/Lamp/Ball"],
    ],
    ['5 path: tree-label {"label":"Globe","name":"Ball","title":"name"}'],
  ],
  [
    "a branch that is there but for a space",
    [[3, "path", "L-1/housing /Lens"]],
    ['3 path: tree-near {"near":"L-1/Housing","path":"L-1/housing "}'],
  ],
  ["no lantern in the path", [[3, "path", "Lens"]], ['3 path: tree-outside {"title":"lanterns"}']],
  [
    "a lantern that is not there",
    [[3, "path", "L-9/Lens"]],
    ['3 lanterns: parent-unknown {"key":"no","nearest":"L-1","parent":"lanterns","text":"L-9"}'],
  ],
  ["a depth that skips one", [[3, "depth", "3"]], ['3 depth: tree-depth {"base":1,"depth":"3"}']],
  ["a depth that is no number", [[3, "depth", "two"]], ['3 depth: tree-depth {"base":1,"depth":"two"}']],
  [
    "a parent that is not there",
    [[3, "parent", "nobody"]],
    ['3 parent: parent-unknown {"key":"fold mark","parent":"parts","text":"nobody"}'],
  ],
  [
    "a column that is no longer called so",
    [[1, "path", "pth"]],
    ['1 pth: column-unknown {"nearest":"path","title":"pth","titles":"8 in all"}'],
  ],
])("%s", async (_, cells, expected) => {
  const { problems } = await check(await edited(...cells), { source: SOURCE });
  expect(problems.map((one) => `${one.row} ${one.column}: ${brief(one)}`)).toEqual(expected);
});

test("a depth in a sheet that was sorted says nothing", async () => {
  const tables = await edited([3, "depth", "1"]);
  edit(tables, "parts.csv", ([titles, ...rows]) => [titles, ...rows.sort((a, b) => b[6].localeCompare(a[6]))]);
  const { problems } = await check(tables, { source: SOURCE });
  expect(problems.map(({ code }) => code)).toEqual(["tree-order"]);
});

describe("new parts", () => {
  async function added(...rows: Record<string, string>[]): Promise<MemoryTables> {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    const [titles, ...body] = readRows(tables, "parts.csv");
    writeRows(tables, "parts.csv", [titles, ...body, ...rows.map((row) => titles.map((title) => row[title] ?? ""))]);
    return tables;
  }
  const inRoof = (parts: string): [string, string] => ['{"name": "Roof"}', `{"name": "Roof", "parts": [${parts}]}`];

  test.each<[string, Record<string, string>[], [string, string]]>([
    ["by a path", [{ path: "L-1/Housing/Roof/Vane" }], inRoof('{"name": "Vane"}')],
    [
      "a branch that is missing is made once",
      [{ path: "L-1/Housing/Roof/Vent/Cap" }, { path: "L-1/Housing/Roof/Vent/Mesh" }],
      inRoof('{"name": "Vent", "parts": [{"name": "Cap"}, {"name": "Mesh"}]}'),
    ],
    [
      "a branch that stands in a later row",
      [{ path: "L-1/Housing/Roof/Vent/Cap" }, { path: "L-1/Housing/Roof/Vent", qty: "2" }],
      inRoof('{"name": "Vent", "qty": 2, "parts": [{"name": "Cap"}]}'),
    ],
    [
      "below a new one, by the name that it calls itself",
      [
        { "fold mark": "+v", path: "L-1/Housing/Roof/Vane" },
        { parent: "+v", name: "Bolt" },
      ],
      inRoof('{"name": "Vane", "parts": [{"name": "Bolt"}]}'),
    ],
    ["to the top of a lantern", [{ lanterns: "L-2", name: "Base" }], ['{"name": "Optics"}]', '{"name": "Optics"}, {"name": "Base"}]']],
    [
      "by depth, behind the last row",
      [{ depth: "2", name: "Prism" }],
      ['{"name": "Optics"}]', '{"name": "Optics", "parts": [{"name": "Prism"}]}]'],
    ],
  ])("%s", async (_, rows, [from, to]) => {
    const tables = await added(...rows);
    expect((await check(tables, { source: SOURCE })).problems).toEqual([]);
    expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(SOURCE.replace(from, to));
  });

  test("what is made for a path is noted", async () => {
    const { notes } = await compare(await added({ path: "L-1/Housing/Roof/Vent/Cap" }), { source: SOURCE });
    expect(notes.map(brief)).toEqual(['tree-made {"path":"L-1/Housing/Roof/Vent","row":11}']);
  });

  test("a record that needs a key is not made for a path, unless the plan says how", async () => {
    const source = '{"parts": [{"id": "P-1", "name": "Roof"}]}';
    const keyed = (more: string): string => `
hatchfold: 1
sources: { r: { file: l.json, format: json } }
tables:
  parts: { rows: parts, tree: parts, key: id, label: name, ${more} columns: { id: id, name: name } }
`;
    const made = async (more: string): Promise<MemoryTables> => {
      const { tables } = await hatch(source, { plan: keyed(more) });
      return edit(tables, "parts.csv", (rows) => [...rows, ["", "", "", "", "Roof/Vent/Cap", "P-9", ""]]);
    };
    const { problems } = await check(await made(""), { source });
    expect(problems.map(brief)).toEqual(['tree-key {"key":"id","path":"Roof/Vent"}']);
    const { bytes: folded } = await fold(await made('new: { id: "P-{0}" },'), { source });
    expect(JSON.parse(text(folded))).toEqual({
      parts: [{ id: "P-1", name: "Roof", parts: [{ id: "P-10", name: "Vent", parts: [{ id: "P-9", name: "Cap" }] }] }],
    });
  });
});

test("a part is removed with all below it, and one of those goes elsewhere first", async () => {
  const tables = await edited([4, ACTION, "remove"], [5, "parent", "mark 8"]);
  expect(JSON.parse(text((await fold(tables, { source: SOURCE })).bytes))).toMatchObject({
    lanterns: [
      {
        parts: [
          { name: "Optics", parts: [{ name: "Lens" }] },
          { parts: [{ name: "Roof", parts: [{ name: "Bulb", qty: 2 }] }, { name: "Panes" }] },
        ],
      },
      { no: "L-2" },
    ],
  });
});

test("compare says where parts go, and the JSON Patch gives the folded document", async () => {
  const tables = await edited([5, "path", "L-1/Housing/Roof/Globe"], [9, "lanterns", "L-2"], [6, ACTION, "remove"]);
  const comparison = await compare(tables, { source: SOURCE });
  expect(comparison.counts).toMatchObject({ changed: 1, moved: 2, removed: 1, problems: 0 });
  expect(comparison.changes.map(({ kind, record, path }) => `${kind} ${record} ${path}`)).toEqual([
    "changed Bulb /lanterns/0/parts/0/parts/1/parts/0/name",
    "moved Bulb /lanterns/0/parts/0/parts/1/parts/0",
    "removed Holder /lanterns/0/parts/0/parts/1/parts/1",
    "moved Panes /lanterns/0/parts/1/parts/1",
  ]);
  const folder = freshFolder();
  const at = (name: string): string => join(folder, name);
  writeFileSync(at("l.json"), SOURCE);
  writeFileSync(at("plan.yaml"), PLAN);
  await inProcess(folder, ["hatch", "l.json", "-p", "plan.yaml", "-o", "t"]);
  writeFileSync(at("t/parts.csv"), tables.contents.get("parts.csv")!);
  expect((await inProcess(folder, ["compare", "t", "--report", "p.patch.json"])).status).toBe(0);
  expect((await inProcess(folder, ["fold", "t", "-o", "out.json"])).status).toBe(0);
  const read = (name: string): unknown => JSON.parse(readFileSync(at(name), "utf8"));
  const patched = fastJsonPatch.applyPatch(read("l.json"), read("p.patch.json") as [], true).newDocument;
  expect(patched).toEqual(read("out.json"));
});

test("compare names what new parts are below as the sheet does, also those that a path makes", async () => {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  edit(tables, "parts.csv", (rows, titles) => [...rows, titles.map((title) => (title === "path" ? "L-1/Housing/Vane/Bolt" : ""))]);
  const { changes } = await compare(tables, { source: SOURCE });
  expect(changes.map(({ kind, row, cells }) => [kind, row, cells])).toEqual([
    ["added", 11, { parent: "L-1/Housing/Vane", name: "Bolt" }],
    ["added", 0, { parent: "L-1/Housing", name: "Vane" }],
  ]);
});

test("a part with a problem is set aside with what is new below it; the rest is folded", async () => {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  setCell(tables, "parts.csv", 5, "qty", "3");
  setCell(tables, "parts.csv", 8, "path", "L-1/housing/Roof");
  edit(tables, "parts.csv", (rows) => [...rows, ["+v", "", "", "nobody", "", "", "Vane", ""], ["", "", "", "+v", "", "", "Bolt", ""]]);
  const { bytes: folded, aside } = await fold(tables, { source: SOURCE, partial: true });
  expect(text(folded)).toBe(SOURCE.replace('"qty": 2', '"qty": 3'));
  expect(aside.map(({ row }) => row)).toEqual([8, 11, 12]);
});

test("codes in other tables refer to parts at any depth", async () => {
  const source =
    '{"parts": [{"id": "P-1", "parts": [{"id": "P-2", "parts": [{"id": "P-3"}]}]}], "orders": [{"part": "P-3"}, {"part": "P-2"}]}';
  const plan = `
hatchfold: 1
sources: { r: { file: l.json, format: json } }
tables:
  parts: { rows: parts, tree: parts, key: id, columns: { id: id } }
  orders: { rows: orders, columns: { part: { at: part, refers: parts } } }
`;
  const { tables } = await hatch(source, { plan });
  setCell(tables, "parts.csv", 4, ACTION, "remove");
  setCell(tables, "orders.csv", 3, "part", "P-4");
  expect((await check(tables, { source })).problems.map((one) => `${one.table} ${one.row}: ${brief(one)}`)).toEqual(
    [
      'orders 3: ref-unknown {"code":"P-4","key":"id","nearest":"P-3","table":"parts"}',
      'orders 2: ref-lost {"by":"parts","key":"P-3","mirrored":false,"row":4,"table":"parts"}',
    ].sort((a, b) => a.localeCompare(b)),
  );
});

test.each([
  ["nothing that a path could be made of", PLAN.replace(", label: name", ""), 'plan-tree-label {"table":"parts"}'],
  [
    "a column that is called like one of the tree's",
    PLAN.replace("qty: qty", "depth: qty"),
    'plan-title-taken {"table":"parts","title":"depth"}',
  ],
  ["codes without a key", PLAN.replace("tree: parts", "tree: { parent: qty }"), 'plan-tree-key {"table":"parts"}'],
  [
    "a column that is not there",
    PLAN.replace("tree: parts, label: name", "tree: { parent: upper }, key: name"),
    'plan-no-such-column {"column":"upper","table":"parts","titles":["name","qty"]}',
  ],
  ["shown beneath", PLAN.replace("tree: parts", "beneath: true, tree: parts"), 'plan-tree-alone {"other":"lanterns","table":"parts"}'],
])("plans: %s", async (_, plan, expected) => {
  expect(await refusal(hatch(SOURCE, { plan }))).toBe(expected);
});

test("a tree from a sheet alone: paths are enough", async () => {
  const sheet = "path,qty\nMast,\nMast/Lamp,\nMast/Lamp/Bulb,2\nBoom/Hook,\n";
  const plan = `
hatchfold: 1
sources: { new: { file: new.json, format: json } }
tables:
  parts: { rows: parts, tree: parts, label: name, columns: { name: name, qty: qty } }
`;
  const { bytes: made } = await foldNew(new MemoryTables([["parts.csv", bytes(sheet)]]), { plan });
  expect(JSON.parse(text(made))).toEqual({
    parts: [
      { name: "Mast", parts: [{ name: "Lamp", parts: [{ name: "Bulb", qty: 2 }] }] },
      { name: "Boom", parts: [{ name: "Hook" }] },
    ],
  });
});

describe("trees in several files: a path begins with the file", () => {
  const A = '{"parts": [{"name": "Optics", "parts": [{"name": "Lens"}, {"name": "Lamp", "parts": [{"name": "Bulb"}]}]}]}';
  const B = '{"parts": [{"name": "Frame"}]}';
  const plan =
    'hatchfold: 1\nsources: { r: { file: "*.json", format: json } }\ntables: { parts: { rows: parts, tree: parts, label: name, columns: { name: name } } }\n';
  const opened = (): MemorySource[] => [new MemorySource(bytes(A), "a.json"), new MemorySource(bytes(B), "b.json")];
  const LAMP = '{"name": "Lamp", "parts": [{"name": "Bulb"}]}';

  test.each<[string, (rows: string[][], titles: string[]) => void, string, string]>([
    [
      "below a record of another, by its path",
      (rows, titles) => (rows[3][titles.indexOf("path")] = "b.json/Frame/Lamp"),
      A.replace(`, ${LAMP}`, ""),
      B.replace('"Frame"', `"Frame", "parts": [${LAMP}]`),
    ],
    [
      "to the top of another, by its path",
      (rows, titles) => (rows[3][titles.indexOf("path")] = "b.json/Lamp"),
      A.replace(`, ${LAMP}`, ""),
      B.replace("}]", `}, ${LAMP}]`),
    ],
    [
      "to another, by the file",
      (rows, titles) => (rows[1][titles.indexOf("in file")] = "b.json"),
      '{"parts": []}',
      B.replace("}]", `}, ${A.slice(11, -2)}]`),
    ],
    [
      "new ones along a path",
      (rows, titles) => rows.push(titles.map((title) => (title === "path" ? "b.json/Frame/Bolt/Nut" : ""))),
      A,
      B.replace('"Frame"', '"Frame", "parts": [{"name": "Bolt", "parts": [{"name": "Nut"}]}]'),
    ],
  ])("%s", async (_, change, a, b) => {
    const { tables } = await hatch(opened(), { plan });
    edit(tables, "parts.csv", (rows, titles) => {
      change(rows, titles);
    });
    const { files } = await fold(tables, { source: opened() });
    expect(files.map((file) => text(file.bytes))).toEqual([a, b]);
  });
});
