/** Cross tables: who is posted where, with the role in the cell. */
import { describe, expect, test } from "vitest";
import { check, compare, fold, foldNew, hatch, MemoryTables } from "hatch-fold";
import { ACTION, bytes, edit, MARK, readRows, setCell, text } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

const SOURCE = `{
  "people": [{"id": "001", "name": "Ása"}, {"id": "002", "name": "Rut"}],
  "stations": [{"code": "S-1"}, {"code": "S-2"}, {"code": "S-3"}],
  "postings": [
    {"person": "001", "station": "S-1", "role": "keeper", "since": "2019"},
    {"person": "001", "station": "S-2", "role": "relief"},
    {"person": "002", "station": "S-1", "role": "cook"},
    {"person": "002", "station": "S-1", "role": "boatman"},
    {"person": null, "station": "S-3", "role": "nobody"}
  ]
}
`;
const plan = (cross: string): string => `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  people: { rows: people, key: id, label: name, new: { id: "{000}" }, columns: { id: id, name: name } }
  stations: { rows: stations, key: code, columns: { code: code } }
  postings:
    rows: postings
    cross: ${cross}
    columns: { person: { at: person, refers: people }, station: { at: station, refers: stations }, role: role, since: since }
`;
const PEOPLE = plan("{ down: person, across: station, cell: role }");

type Cell = [row: number, title: string, value: string];
async function edited(...cells: Cell[]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: PEOPLE });
  for (const [row, title, value] of cells) setCell(tables, "postings.csv", row, title, value);
  return tables;
}

test.each([
  [
    "people down",
    PEOPLE,
    [
      ["person", "person name", "S-1", "S-2", "S-3"],
      ["001", "Ása", "keeper", "relief", ""],
      ["002", "Rut", "cook; boatman", "", ""],
    ],
  ],
  [
    "stations down, only that there is a link",
    plan("{ down: station, across: person }"),
    [
      ["station", "001", "002"],
      ["S-1", "x", "x; x"],
      ["S-2", "x", ""],
      ["S-3", "", ""],
    ],
  ],
])("what the sheet shows: %s", async (_, text, rows) => {
  const { tables } = await hatch(SOURCE, { plan: text });
  expect(readRows(tables, "postings.csv").map((row) => row.slice(2))).toEqual(rows);
  const { notes, counts } = await compare(tables, { source: SOURCE });
  expect(counts).toMatchObject({ changed: 0, added: 0, removed: 0, problems: 0 });
  expect(notes.map(brief)).toEqual([
    text === PEOPLE
      ? 'cross-loose {"across":"station","count":1,"down":"person"}'
      : 'cross-loose {"across":"person","count":1,"down":"station"}',
  ]);
});

const LAST = '{"person": null, "station": "S-3", "role": "nobody"}';
test.each<[string, Cell[], [string, string][]]>([
  ["another role: what the cell does not show stays", [[2, "S-1", "head"]], [['"keeper", "since"', '"head", "since"']]],
  ["a link that goes", [[2, "S-2", ""]], [['    {"person": "001", "station": "S-2", "role": "relief"},\n', ""]]],
  ["a link that comes", [[3, "S-2", "cook"]], [[LAST, `${LAST},\n    {"person": "002", "station": "S-2", "role": "cook"}`]]],
  ["one of two goes", [[3, "S-1", "boatman"]], [['    {"person": "002", "station": "S-1", "role": "cook"},\n', ""]]],
  [
    "all links of a row go",
    [[2, ACTION, "remove"]],
    [
      [
        '    {"person": "001", "station": "S-1", "role": "keeper", "since": "2019"},\n    {"person": "001", "station": "S-2", "role": "relief"},\n',
        "",
      ],
    ],
  ],
  [
    "a row that is skipped",
    [
      [2, ACTION, "skip"],
      [2, "S-1", "head"],
    ],
    [],
  ],
  ["zeros that a spreadsheet has eaten", [[2, "person", "1"]], []],
  [
    "a mark that is gone: the code is enough",
    [
      [2, MARK, ""],
      [2, "S-1", "head"],
    ],
    [['"keeper", "since"', '"head", "since"']],
  ],
])("%s", async (_, cells, changes) => {
  const tables = await edited(...cells);
  expect((await check(tables, { source: SOURCE })).problems).toEqual([]);
  expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(changes.reduce((all, [from, to]) => all.replace(from, to), SOURCE));
});

test.each<[string, Cell[], string[]]>([
  [
    "another person's code over a mark",
    [[2, "person", "002"]],
    ['2 person: cross-mark {"code":"001","mark":"b1yd","said":"002","title":"person"}'],
  ],
  ["a name that is only shown", [[2, "person name", "Åse"]], ['2 person name: read-only {"title":"person name","was":"Ása"}']],
  ["a damaged mark", [[2, MARK, "b7"]], ['2 fold mark: mark-damaged {"mark":"b7"}']],
  [
    "a station that is not there",
    [
      [1, "S-3", "S-4"],
      [2, "S-4", "cook"],
    ],
    ['2 S-4: ref-unknown {"code":"S-4","key":"code","nearest":"S-1","table":"stations"}'],
  ],
  ["a station twice", [[1, "S-3", "S-1"]], ['1 S-1: title-twice {"first":5,"second":7,"title":"S-1"}']],
  [
    "a person twice",
    [
      [3, MARK, ""],
      [3, "person", "001"],
      [3, "person name", "Ása"],
    ],
    ['3 person: cross-twice {"code":"001","first":2}'],
  ],
  ["an action that nobody knows", [[2, ACTION, "drop"]], ['2 fold action: action-unknown {"action":"drop"}']],
  [
    "cells without a person",
    [
      [3, MARK, ""],
      [3, "person", ""],
      [3, "person name", ""],
    ],
    ['3 person: required {"title":"person"}'],
  ],
])("%s", async (_, cells, expected) => {
  const { problems } = await check(await edited(...cells), { source: SOURCE });
  expect(problems.map((one) => `${one.row} ${one.column}: ${brief(one)}`)).toEqual(expected);
});

test("changes are named by the cells in which they were made", async () => {
  const { changes } = await compare(await edited([2, "S-1", "head"], [3, "S-2", "cook"], [2, "S-2", ""]), { source: SOURCE });
  expect(changes.map(({ kind, row, column, record, old, new: now }) => [kind, row, column, record, old, now].join("|"))).toEqual([
    "changed|2|S-1|001, S-1|keeper|head",
    "removed|2|S-2|001, S-2||",
    "added|3|S-2|002, S-2||",
  ]);
});

test("new people and new stations are named in the cross table before they have an id", async () => {
  const tables = await edited();
  edit(tables, "people.csv", (rows) => [...rows, ["+new", "", "", "Iria"]]);
  edit(tables, "stations.csv", (rows) => [...rows, ["", "", "S-4"]]);
  edit(tables, "postings.csv", ([titles, ...rows]) => [
    [...titles, "S-4"],
    ...rows.map((row) => [...row, ""]),
    ["", "", "+new", "", "", "", "cook", "keeper"],
  ]);
  const { postings, people } = JSON.parse(text((await fold(tables, { source: SOURCE })).bytes)) as { postings: object[]; people: object[] };
  expect(people.at(-1)).toEqual({ id: "003", name: "Iria" });
  expect(postings.slice(-2)).toEqual([
    { person: "003", station: "S-3", role: "cook" },
    { person: "003", station: "S-4", role: "keeper" },
  ]);
});

test("a list of codes as a cross table goes back to the list", async () => {
  const source = '{"people": [{"id": "P-1"}, {"id": "P-2"}], "stations": [{"code": "S-1", "crew": ["P-1"]}, {"code": "S-2"}]}';
  const codes = `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  people: { rows: people, key: id, columns: { id: id } }
  stations: { rows: stations, key: code, columns: { code: code } }
  crew: { rows: stations/crew, inside: stations, cross: { down: stations, across: person }, columns: { person: { at: ., refers: people } } }
`;
  const { tables } = await hatch(source, { plan: codes });
  setCell(tables, "crew.csv", 2, "P-2", "yes");
  setCell(tables, "crew.csv", 3, "P-1", "x");
  expect(text((await fold(tables, { source })).bytes)).toBe(
    source.replace('["P-1"]', '["P-1", "P-2"]').replace('{"code": "S-2"}', '{"code": "S-2", "crew": ["P-1"]}'),
  );
});

test("good rows are folded and bad ones set aside, by the rows of the cross table", async () => {
  const tables = await edited([2, "person", "002"], [2, "S-1", "head"], [3, "S-2", "cook"]);
  const { bytes: folded, aside, problems } = await fold(tables, { source: SOURCE, partial: true });
  expect(text(folded)).toBe(SOURCE.replace(LAST, `${LAST},\n    {"person": "002", "station": "S-2", "role": "cook"}`));
  expect([aside, problems.map(({ row }) => row)]).toEqual([[{ table: "postings", row: 2 }], [2]]);
});

test("groups: settings of many edited in bulk, and members put in and taken out, in one set of tables", async () => {
  const source = `{"people": [{"id": "P-1"}, {"id": "P-2"}], "groups": [
  {"name": "boats", "settings": {"alarm": "on", "hours": "12"}, "members": [{"person": "P-1", "since": "2020"}]},
  {"name": "lamps", "settings": {"alarm": "off"}, "members": [{"person": "P-1"}, {"person": "P-2"}]},
  {"name": "fog", "settings": {}, "members": []}
]}
`;
  const groups = `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  people: { rows: people, key: id, columns: { id: id } }
  groups: { rows: groups, key: name, columns: { name: name, settings: { at: settings, pack: ", ", pair: "=" } } }
  members: { rows: groups/members, inside: groups, cross: { down: groups, across: person }, columns: { person: { at: person, refers: people }, since: since } }
`;
  const { tables } = await hatch(source, { plan: groups });
  edit(tables, "groups.csv", (rows) =>
    rows.map((row, r) => (r === 0 ? row : [...row.slice(0, 3), row[3].replace("{}", "").replace(/alarm=\w+|^$/, "alarm=on")])),
  );
  setCell(tables, "members.csv", 2, "P-2", "x");
  setCell(tables, "members.csv", 3, "P-1", "");
  setCell(tables, "members.csv", 4, "P-1", "x");
  expect(text((await fold(tables, { source })).bytes)).toBe(
    source
      .replace('{"alarm": "off"}', '{"alarm": "on"}')
      .replace('"settings": {}', '"settings": {"alarm": "on"}')
      .replace('"since": "2020"}', '"since": "2020"}, {"person": "P-2"}')
      .replace('[{"person": "P-1"}, {"person": "P-2"}]', '[{"person": "P-2"}]')
      .replace('"members": []', '"members": [{"person": "P-1"}]'),
  );
});

test("links from a cross table alone", async () => {
  const tables = new MemoryTables([
    ["people.csv", bytes("id,name\n001,Ása\n")],
    ["stations.csv", bytes("code\nS-1\nS-2\n")],
    ["postings.csv", bytes("person;S-1;S-2\n001;keeper;relief\n")],
  ]);
  const { bytes: made } = await foldNew(tables, { plan: PEOPLE });
  expect((JSON.parse(text(made)) as { postings: object[] }).postings).toEqual([
    { person: "001", station: "S-1", role: "keeper" },
    { person: "001", station: "S-2", role: "relief" },
  ]);
});

describe("plans", () => {
  test.each([
    ["a side that refers to nothing", "{ down: role, across: station }", 'plan-cross-side {"title":"role"}'],
    [
      "a column that is not there",
      "{ down: persn, across: station }",
      'plan-no-such-column {"column":"persn","nearest":"person","table":"postings","titles":["person","station","role","since"]}',
    ],
    ["one column for both", "{ down: person, across: person }", 'plan-cross-alone {"table":"postings"}'],
  ])("%s", async (_, cross, expected) => {
    expect(await refusal(hatch(SOURCE, { plan: plan(cross) }))).toBe(expected);
  });
});

describe("codes may be given as labels", () => {
  const named = PEOPLE.replace("key: code, columns: { code: code }", "key: code, label: name, columns: { code: code, name: name }");
  const source = SOURCE.replace('{"code": "S-1"}, {"code": "S-2"}', '{"code": "S-1", "name": "North"}, {"code": "S-2", "name": "South"}');
  const role = (is: string): string => source.replace('"keeper"', `"${is}"`);

  test.each(["person", "person name"])("under %s, and over the columns", async (title) => {
    const { tables } = await hatch(source, { plan: named });
    edit(tables, "postings.csv", () => [
      [title, "North", "South"],
      ["Ása", "mate", "relief"],
      ["Rut", "cook; boatman", ""],
    ]);
    expect(text((await fold(tables, { source })).bytes)).toBe(role("mate"));
  });

  test("also those of new records", async () => {
    const { tables } = await hatch(source, { plan: named });
    edit(tables, "people.csv", (rows) => [...rows, ["", "", "", "Cy"]]);
    edit(tables, "postings.csv", (rows) => [...rows, ["", "", "", "Cy", "", "guest", ""]]);
    const { postings } = JSON.parse(text((await fold(tables, { source })).bytes)) as { postings: object[] };
    expect(postings.at(-1)).toEqual({ person: "003", station: "S-2", role: "guest" });
  });

  test("in a new document", async () => {
    const sheets = {
      "people.csv": "id,name\n1,Ása\n2,Rut\n",
      "stations.csv": "code,name\nA,North\nB,South\n",
      "postings.csv": "person,North,South\nÁsa,k,\nRut,,h\n",
    };
    const tables = new MemoryTables(Object.entries(sheets).map(([file, value]) => [file, bytes(value)]));
    const { postings } = JSON.parse(text((await foldNew(tables, { plan: named })).bytes)) as { postings: object[] };
    expect(postings).toEqual([
      { person: 1, station: "A", role: "k" },
      { person: 2, station: "B", role: "h" },
    ]);
  });
});
