/** Relations: references with labels, new ids, names of new rows. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, readPlan, type MemoryTables } from "hatch-fold";
import { law } from "./support/laws.js";
import { edit, MARK, readRows, setCell, text, writeRows } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

const SOURCE = `{
  "people": [
    {"id": "P-001", "name": "Ása Lind", "post": "keeper"},
    {"id": "P-002", "name": "Iria Costa", "post": "keeper"},
    {"id": "P-007", "name": "Ása Lind", "post": "clerk"}
  ],
  "stations": [
    {"code": "S-01", "keeper": {"id": "P-001", "name": "Ása Lind"}, "lights": [{"no": "1"}]},
    {"code": "S-02", "keeper": {"id": "P-002", "name": "Iria Costa"}, "lights": []},
    {"code": "S-03", "lights": []}
  ],
  "postings": [
    {"person": "P-001", "station": "S-01"},
    {"person": "P-002", "station": "S-03"}
  ]
}
`;
const PLAN = `
hatchfold: 1
sources: { register: { file: register.json } }
tables:
  people:
    rows: people
    key: id
    label: name
    new: { id: "P-{000}" }
    columns: { id: id, name: name, post: post }
  stations:
    rows: stations
    key: code
    columns:
      code: code
      keeper: { at: keeper/id, refers: people, label: keeper/name, copied: true, only: 'post == "keeper"' }
  lights:
    rows: stations/lights
    inside: stations
    columns: { no: no }
  postings:
    rows: postings
    columns:
      person: { at: person, refers: people }
      station: { at: station, refers: stations }
`;

type Edit = (tables: MemoryTables) => void;
const cell =
  (table: string, row: number, title: string, value: string): Edit =>
  (tables) =>
    void setCell(tables, `${table}.csv`, row, title, value);
const add =
  (table: string, ...cells: string[]): Edit =>
  (tables) =>
    void edit(tables, `${table}.csv`, (rows) => [...rows, cells]);

async function edited(...edits: Edit[]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  for (const one of edits) one(tables);
  return tables;
}
async function folded(...edits: Edit[]): Promise<string> {
  return text((await fold(await edited(...edits), { source: SOURCE })).bytes);
}
async function problems(...edits: Edit[]): Promise<string[]> {
  const found = await check(await edited(...edits), { source: SOURCE });
  return found.problems.map((one) => `${one.table} ${one.row} ${one.column}: ${brief(one)}`);
}

describe("references", () => {
  test("a label stands beside its code", async () => {
    const rows = readRows(await edited(), "stations.csv");
    expect(rows.map((row) => row.slice(2))).toEqual([
      ["code", "keeper", "keeper name"],
      ["S-01", "P-001", "Ása Lind"],
      ["S-02", "P-002", "Iria Costa"],
      ["S-03", "", ""],
    ]);
  });

  test.each<[string, Edit[], [string, string][]]>([
    [
      "a code is edited, its label follows",
      [cell("stations", 2, "keeper", "P-002")],
      [['{"id": "P-001", "name": "Ása Lind"}, "lights": [{', '{"id": "P-002", "name": "Iria Costa"}, "lights": [{']],
    ],
    [
      "a label is edited, its code follows",
      [cell("stations", 2, "keeper name", "Iria Costa")],
      [['{"id": "P-001", "name": "Ása Lind"}, "lights": [{', '{"id": "P-002", "name": "Iria Costa"}, "lights": [{']],
    ],
    [
      "a reference where there was none",
      [cell("stations", 4, "keeper", "P-002")],
      [['{"code": "S-03", "lights"', '{"code": "S-03", "keeper": {"id": "P-002", "name": "Iria Costa"}, "lights"']],
    ],
    [
      "a cleared code takes its label along",
      [cell("stations", 3, "keeper", "")],
      [['"keeper": {"id": "P-002", "name": "Iria Costa"}', '"keeper": {}']],
    ],
    [
      "a label changes where it stands, and in its copies",
      [cell("people", 3, "name", "Iria C. Costa")],
      [
        ['"P-002", "name": "Iria Costa", "post"', '"P-002", "name": "Iria C. Costa", "post"'],
        ['"Iria Costa"}', '"Iria C. Costa"}'],
      ],
    ],
    [
      "a copy that somebody gave another reference follows that",
      [cell("people", 3, "name", "Iria C. Costa"), cell("stations", 3, "keeper", "P-001")],
      [
        ['"P-002", "name": "Iria Costa", "post"', '"P-002", "name": "Iria C. Costa", "post"'],
        ['{"id": "P-002", "name": "Iria Costa"}', '{"id": "P-001", "name": "Ása Lind"}'],
      ],
    ],
    [
      "a new person is named by a label at once",
      [add("people", "", "", "P-100", "Nils Ek", "keeper"), cell("stations", 3, "keeper name", "Nils Ek")],
      [
        ['"clerk"}', '"clerk"},\n    {"id": "P-100", "name": "Nils Ek", "post": "keeper"}'],
        ['{"id": "P-002", "name": "Iria Costa"}', '{"id": "P-100", "name": "Nils Ek"}'],
      ],
    ],
    [
      "a key changes together with what refers to it",
      [cell("people", 3, "id", "P-2"), cell("postings", 3, "person", "P-2"), cell("stations", 3, "keeper", "P-2")],
      [
        ['{"id": "P-002", "name": "Iria Costa", "post"', '{"id": "P-2", "name": "Iria Costa", "post"'],
        ['{"id": "P-002"', '{"id": "P-2"'],
        ['"person": "P-002"', '"person": "P-2"'],
      ],
    ],
  ])("%s", async (_, edits, changes) => {
    expect(await folded(...edits)).toBe(changes.reduce((all, [was, is]) => all.replace(was, is), SOURCE));
  });

  test.each<[string, Edit[], string[]]>([
    [
      "a code that is not there",
      [cell("postings", 2, "person", "P-0O2"), cell("postings", 3, "station", "S-09")],
      [
        'postings 2 person: ref-unknown {"code":"P-0O2","key":"id","nearest":"P-002","table":"people"}',
        'postings 3 station: ref-unknown {"code":"S-09","key":"code","nearest":"S-01","table":"stations"}',
      ],
    ],
    [
      "a label that fits nobody",
      [cell("stations", 2, "keeper name", "Iria Kosta")],
      ['stations 2 keeper name: label-unknown {"label":"Iria Kosta","nearest":"Iria Costa","table":"people"}'],
    ],
    [
      "a label that fits two",
      [cell("stations", 3, "keeper name", "Ása Lind")],
      ['stations 3 keeper name: label-many {"keys":["P-001","P-007"],"label":"Ása Lind","table":"people","title":"keeper"}'],
    ],
    [
      "code and label that do not agree",
      [cell("stations", 2, "keeper", "P-002"), cell("stations", 2, "keeper name", "Ása L.")],
      ['stations 2 keeper name: label-other {"code":"P-002","label":"Ása L.","right":"Iria Costa"}'],
    ],
    [
      "a label cleared alone",
      [cell("stations", 2, "keeper name", "")],
      ['stations 2 keeper name: label-cleared {"code":"P-001","title":"keeper"}'],
    ],
    [
      "a record that may not stand there",
      [cell("stations", 2, "keeper", "P-007")],
      ['stations 2 keeper: ref-not-allowed {"key":"P-007","only":"post == \\"keeper\\"","table":"people"}'],
    ],
    [
      "a record that goes away while others refer to it",
      [cell("people", 3, "fold action", "remove"), cell("stations", 3, "keeper", "P-001")],
      ['postings 3 person: ref-lost {"by":"people","key":"P-002","mirrored":false,"row":3,"table":"people"}'],
    ],
    [
      "a key that changes alone",
      [cell("stations", 4, "code", "S-3")],
      ['postings 3 station: ref-lost {"by":"stations","key":"S-03","mirrored":false,"now":"S-3","row":4,"table":"stations"}'],
    ],
  ])("%s", async (_, edits, expected) => {
    expect(await problems(...edits)).toEqual(expected);
  });

  test("what refers to nothing in the source is noted, not refused", async () => {
    const source = SOURCE.replace('"station": "S-03"', '"station": "S-44"');
    const { tables } = await hatch(source, { plan: PLAN });
    const { problems, notes } = await check(tables, { source });
    expect(problems).toEqual([]);
    expect(notes.map(brief)).toEqual(['refs-loose {"rows":[3],"table":"stations","title":"station"}']);
  });
});

describe("new ids", () => {
  test("the next free number, also for what refers to the new row by its name", async () => {
    const result = await folded(
      add("people", "+nils", "", "", "Nils Ek", "keeper"),
      add("people", "", "", "", "Rut Holm", "clerk"),
      add("stations", "+s", "", "S-04", "+nils", ""),
      add("lights", "", "", "+s", "9"),
      add("postings", "", "", "+nils", "", "+s"),
    );
    const data = JSON.parse(result) as Record<string, Record<string, unknown>[]>;
    expect(data.people.slice(3)).toEqual([
      { id: "P-008", name: "Nils Ek", post: "keeper" },
      { id: "P-009", name: "Rut Holm", post: "clerk" },
    ]);
    expect(data.stations[3]).toEqual({ code: "S-04", keeper: { id: "P-008", name: "Nils Ek" }, lights: [{ no: "9" }] });
    expect(data.postings[2]).toEqual({ person: "P-008", station: "S-04" });
  });

  test.each([
    ["uuid", /^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/],
    ["\"'P ' + name\"", /^P Nils Ek$/],
    ['"N{00000}"', /^N00001$/],
  ])("%s", async (pattern, expected) => {
    const { tables } = await hatch(SOURCE, { plan: PLAN.replace('"P-{000}"', pattern) });
    add("people", "", "", "", "Nils Ek", "keeper")(tables);
    const ids = async (): Promise<unknown> => (await compare(tables, { source: SOURCE })).changes[0].cells?.id;
    expect(await ids()).toMatch(expected);
    expect(await ids()).toBe(await ids());
  });

  test("two new rows of one name, and an expression that fails", async () => {
    expect(await problems(add("people", "+n", "", "", "Nils", ""), add("people", "+n", "", "", "Rut", ""))).toEqual([
      'people 6 fold mark: new-name-twice {"first":5,"name":"+n"}',
    ]);
    const { tables } = await hatch(SOURCE, { plan: PLAN.replace('"P-{000}"', '"name.size() + post"') });
    add("people", "", "", "", "Nils", "keeper")(tables);
    expect((await check(tables, { source: SOURCE })).problems[0].code).toBe("id-failed");
  });

  test("order of tables and rows does not matter", async () => {
    const tables = await edited(add("people", "+n", "", "", "Nils Ek", "keeper"), add("postings", "", "", "+n", "", "S-01"));
    for (const file of ["people.csv", "postings.csv"]) {
      const [head, ...rows] = readRows(tables, file);
      writeRows(tables, file, [head, ...rows.reverse()]);
    }
    const { bytes } = await fold(tables, { source: SOURCE });
    expect(JSON.parse(text(bytes)).postings.at(-1)).toEqual({ person: "P-008", station: "S-01" });
    expect(readRows(tables, "people.csv")[0]).toContain(MARK);
  });
});

describe("a label that does not stand beside the code", () => {
  test("is shown, from the record referred to", async () => {
    expect(readRows(await edited(), "postings.csv").map((row) => row.slice(2))).toEqual([
      ["person", "person name", "station"],
      ["P-001", "Ása Lind", "S-01"],
      ["P-002", "Iria Costa", "S-03"],
    ]);
  });

  test.each<[string, Edit[], [string, string][]]>([
    ["the code is edited", [cell("postings", 2, "person", "P-002")], [['"person": "P-001"', '"person": "P-002"']]],
    ["the label is edited", [cell("postings", 2, "person name", "Iria Costa")], [['"person": "P-001"', '"person": "P-002"']]],
    [
      "a new row by the label alone",
      [add("postings", "", "", "", "Iria Costa", "S-01")],
      [['"station": "S-03"}', '"station": "S-03"},\n    {"person": "P-002", "station": "S-01"}']],
    ],
  ])("%s", async (_, edits, changes) => {
    expect(await folded(...edits)).toBe(changes.reduce((all, [was, is]) => all.replace(was, is), SOURCE));
  });

  test.each<[string, Edit[], string]>([
    [
      "fits two",
      [cell("postings", 3, "person name", "Ása Lind")],
      'label-many {"keys":["P-001","P-007"],"label":"Ása Lind","table":"people","title":"person"}',
    ],
    [
      "has a stray space",
      [cell("postings", 3, "person name", "Iria Costa ")],
      'label-unknown {"label":"Iria Costa ","nearest":"Iria Costa","table":"people"}',
    ],
    [
      "fits nobody",
      [cell("postings", 3, "person name", "Iria Kosta")],
      'label-unknown {"label":"Iria Kosta","nearest":"Iria Costa","table":"people"}',
    ],
    [
      "does not agree with the code",
      [cell("postings", 3, "person", "P-001"), cell("postings", 3, "person name", "Nils")],
      'label-other {"code":"P-001","label":"Nils","right":"Ása Lind"}',
    ],
    ["is cleared alone", [cell("postings", 3, "person name", "")], 'label-cleared {"code":"P-002","title":"person"}'],
  ])("%s", async (_, edits, expected) => {
    expect((await problems(...edits))[0]).toContain(expected);
  });
});

describe("rows without marks", () => {
  const MATCHED = PLAN.replace("    key: id\n", "    key: id\n    match: id\n").replace(
    "    rows: postings\n",
    "    rows: postings\n    match: [person, station]\n",
  );
  async function matched(file: string, csv: string, options: object = {}): Promise<Awaited<ReturnType<typeof compare>>> {
    const { tables } = await hatch(SOURCE, { plan: MATCHED });
    tables.contents.set(file, new TextEncoder().encode(csv));
    return compare(tables, { source: SOURCE, ...options });
  }
  const told = (changes: readonly { kind: string; row: number; record: string; column: string; new: string | null }[]): string[] =>
    changes.map((change) => `${change.row} ${change.record} ${change.kind} ${change.column} ${change.new ?? ""}`.trim());

  test("are matched by the columns that the plan says, in any order", async () => {
    const { changes, problems, counts } = await matched("people.csv", "name;id\nIria C. Costa;P-002\nNils Ek;P-050\nÁsa Lind;P-001\n");
    expect(problems).toEqual([]);
    expect(told(changes)).toEqual(["2 P-002 changed name Iria C. Costa", "3 P-050 added", "3 S-02 changed keeper name Iria C. Costa"]);
    expect(counts).toMatchObject({ changed: 2, added: 1, removed: 0 });
  });

  test.each<[string, object, string[], string[]]>([
    [
      "only change",
      { allow: ["change"] },
      ["2 P-002 changed name Iria C. Costa", "3 S-02 changed keeper name Iria C. Costa"],
      ['rows-left {"kind":"add","rows":[3]}'],
    ],
    ["only add", { allow: ["add"] }, ["3 P-050 added"], ['rows-left {"kind":"change","rows":[2]}']],
    ["absent rows removed", { absent: "remove", allow: ["remove"] }, ["0 P-007 removed"], []],
  ])("%s", async (_, options, expected, notes) => {
    const found = await matched("people.csv", "id,name\nP-002,Iria C. Costa\nP-050,Nils Ek\nP-001,Ása Lind\n", options);
    expect(found.problems).toEqual([]);
    expect(told(found.changes)).toEqual(expected);
    for (const note of notes) expect(found.notes.map(brief)).toContain(note);
  });

  test.each([
    ["a space more", "people.csv", "id,name\nP-002 ,Iria\n", 'match-near {"near":"P-002","titles":["id"]}'],
    ["another case", "people.csv", "id,name\np-002,Iria\n", 'match-near {"near":"P-002","titles":["id"]}'],
    ["one key twice", "people.csv", "id,name\nP-002,Iria\nP-002,Costa\n", 'match-twice {"rows":[2,3],"titles":["id"]}'],
    ["marked elsewhere", "people.csv", "fold mark,id,name\n%,P-001,Ása Lind\n,P-001,Ása\n", 'match-marked {"titles":["id"]}'],
  ])("%s", async (_, file, csv, expected) => {
    const { tables } = await hatch(SOURCE, { plan: MATCHED });
    const mark = readRows(tables, file)[1][0];
    const { problems } = await matched(file, csv.replace("%", mark));
    expect(problems.map(brief)).toContain(expected);
  });

  test("by a field of the record referred to", async () => {
    const { tables } = await hatch(SOURCE, { plan: MATCHED.replace("match: [person, station]", "match: [person name, station]") });
    tables.contents.set("postings.csv", new TextEncoder().encode("station,person name,fold action\nS-03,Iria Costa,remove\n"));
    const { changes, problems } = await compare(tables, { source: SOURCE });
    expect(problems).toEqual([]);
    expect(told(changes)).toEqual(["2 Iria Costa, S-03 removed"]);
  });

  test("by several columns", async () => {
    const { changes, problems } = await matched(
      "postings.csv",
      "station,person,fold action\nS-03,P-002,remove\nS-01,P-001,\nS-02,P-001,\n",
    );
    expect(problems).toEqual([]);
    expect(told(changes)).toEqual(["2 P-002, S-03 removed", "4 P-001, S-02 added"]);
  });
});

describe("edits that nobody sees", () => {
  test.each<[string, string, string, boolean]>([
    ["a space behind", "Iria Costa", "Iria Costa ", true],
    ["a space between", "Iria Costa", "Iria  Costa", true],
    ["a space that does not break", "Iria Costa", "Iria\u00a0Costa", false],
    ["another case", "Iria Costa", "iria costa", true],
    ["a letter in two parts", "Ása Lind", "A\u0301sa Lind", false],
    ["another letter", "Iria Costa", "Iria Kosta", false],
  ])("%s", async (_, was, is, noted) => {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    setCell(tables, "people.csv", readRows(tables, "people.csv").findIndex((row) => row.includes(was)) + 1, "name", is);
    const { notes, changes, healed } = await compare(tables, { source: SOURCE });
    expect(changes.length + healed.length).toBeGreaterThan(0);
    const told = notes.filter(({ code }) => code === "edits-slight").map((one) => `${one.table}: ${brief(one)}`);
    const people = told.filter((one) => one.startsWith("people"));
    const row = was === "Iria Costa" ? 3 : 2;
    expect(people).toEqual(noted ? [`people: edits-slight {"rows":[${row}],"title":"name"}`] : []);
  });
});

describe("new rows and values with a space too many", () => {
  test.each<[string, Edit[], string[]]>([
    [
      "a key that is another one's",
      [add("stations", "", "", "S-02 ")],
      ['keys-near {"near":[{"key":"S-02 ","row":5,"other":"S-02"}],"title":"code"}', 'edits-spaced {"rows":[5],"title":"code"}'],
    ],
    ["another case", [add("stations", "", "", "s-02")], ['keys-near {"near":[{"key":"s-02","row":5,"other":"S-02"}],"title":"code"}']],
    [
      "two new ones",
      [add("stations", "", "", "X"), add("stations", "", "", "x")],
      ['keys-near {"near":[{"key":"x","row":6,"other":"X"}],"title":"code"}'],
    ],
    [
      "a key that is edited",
      [cell("stations", 3, "code", "s-01"), cell("stations", 3, "keeper", "")],
      ['keys-near {"near":[{"key":"s-01","row":3,"other":"S-01"}],"title":"code"}'],
    ],
    [
      "a name of its own",
      [cell("people", 2, "name", "Rut Lind ")],
      ['edits-spaced {"rows":[2],"title":"name"}', 'edits-spaced {"rows":[2],"title":"keeper name"}'],
    ],
    ["a row that has a problem already", [add("stations", "", "", "S-02 ", "P-999")], []],
    ["the key of a record that goes", [cell("stations", 4, "fold action", "remove"), add("stations", "", "", "s-03")], []],
  ])("%s", async (_, edits, expected) => {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    for (const change of edits) change(tables);
    const { notes } = await compare(tables, { source: SOURCE });
    const told = notes.filter(({ code }) => code === "keys-near" || code === "edits-spaced").map(brief);
    expect(told).toEqual(expected);
  });
});

describe("a tree by parent codes", () => {
  const parts =
    '[\n {"id": "lantern"},\n {"id": "lamp", "of": "lantern"},\n {"id": "wick", "of": "lamp"},\n {"id": "glass", "of": "lantern"}\n]\n';
  const plan = `
hatchfold: 1
sources: { parts: { file: parts.json, format: json } }
tables: { parts: { rows: ., key: id, columns: { id: id, of: { at: of, refers: parts } } } }
`;
  test("a part goes to another one; a new branch comes in one go", async () => {
    const { tables } = await hatch(parts, { plan });
    setCell(tables, "parts.csv", 4, "of", "glass");
    edit(tables, "parts.csv", (rows) => [...rows, ["+b", "", "burner", "lamp"], ["", "", "screw", "+b"]]);
    const { bytes } = await fold(tables, { source: parts });
    expect(JSON.parse(text(bytes))).toEqual([
      { id: "lantern" },
      { id: "lamp", of: "lantern" },
      { id: "wick", of: "glass" },
      { id: "glass", of: "lantern" },
      { id: "burner", of: "lamp" },
      { id: "screw", of: "burner" },
    ]);
  });

  test.each<[string, [number, string][], string[]]>([
    ["itself", [[3, "lamp"]], ['ref-loop {"loop":["lamp","lamp"]}']],
    ["a loop of three", [[2, "wick"]], ['ref-loop {"loop":["lantern","wick","lamp","lantern"]}']],
  ])("%s", async (_, cells, expected) => {
    const { tables } = await hatch(parts, { plan });
    for (const [row, value] of cells) setCell(tables, "parts.csv", row, "of", value);
    const { problems } = await check(tables, { source: parts });
    expect(problems.map(brief)).toEqual(expected);
  });
});

describe("laws of references", () => {
  const people = fc.uniqueArray(
    fc.record({ id: fc.integer({ min: 1, max: 40 }).map((n) => `P-${n}`), name: fc.constantFrom("Ása", "Rut", "Nils", "Iria", "Tor") }),
    {
      selector: (one) => one.id,
      minLength: 2,
      maxLength: 8,
    },
  );
  const worlds = people.chain((list) =>
    fc.record({
      people: fc.constant(list),
      stations: fc.array(fc.option(fc.constantFrom(...list), { nil: undefined }), { minLength: 1, maxLength: 6 }),
      edits: fc.array(fc.tuple(fc.nat(), fc.constantFrom("keeper", "keeper name", "person", "remove", "add", "key", "bad"), fc.nat()), {
        minLength: 1,
        maxLength: 8,
      }),
    }),
  );

  test("after a fold, of all rows or of the good ones, every code is there, and every label is that of its code", () => {
    return law(worlds, async ({ people, stations, edits }) => {
      const source = JSON.stringify(
        {
          people,
          stations: stations.map((keeper, i) => ({
            code: `S-${i}`,
            ...(keeper && { keeper: { id: keeper.id, name: keeper.name } }),
            lights: [],
          })),
          postings: [],
        },
        null,
        1,
      );
      const plan = PLAN.replace(`, only: 'post == "keeper"'`, "");
      const { tables } = await hatch(source, { plan });
      for (const [at, what, pick] of edits) {
        const row = (count: number): number => 2 + (at % count);
        const { id, name } = people[pick % people.length];
        if (what === "keeper") setCell(tables, "stations.csv", row(stations.length), what, pick % 5 === 0 ? "" : id);
        else if (what === "keeper name") setCell(tables, "stations.csv", row(stations.length), what, name);
        else if (what === "person") setCell(tables, "people.csv", row(people.length), "name", `${name} ${pick % 3}`);
        else if (what === "key") setCell(tables, "people.csv", row(people.length), "id", `${id}-${pick % 4}`);
        else if (what === "bad")
          setCell(
            tables,
            pick % 2 === 0 ? "people.csv" : "stations.csv",
            row(pick % 2 === 0 ? people.length : stations.length),
            "fold action",
            "?",
          );
        else if (what === "remove") setCell(tables, "people.csv", row(people.length), "fold action", "remove");
        else
          edit(tables, "stations.csv", (rows) => [
            ...rows,
            ["", "", `N-${at}-${pick}`, pick % 2 === 0 ? id : "", pick % 2 === 0 ? "" : name],
          ]);
      }
      const { problems } = await check(tables, { source });
      for (const { message, hint } of problems) expect(message + hint).toMatch(/\w/);
      const data = JSON.parse(text((await fold(tables, { source, partial: true })).bytes)) as {
        people: { id: string; name: string }[];
        stations: { keeper?: { id?: string; name?: string } }[];
      };
      for (const { keeper } of data.stations) {
        if (keeper?.id === undefined) expect(keeper?.name).toBeUndefined();
        else expect(data.people.find((one) => one.id === keeper.id)?.name).toBe(keeper.name);
      }
    });
  });
});

describe("what a plan says of relations", () => {
  test.each([
    [
      "refers: people, label",
      "refers: peple, label",
      'plan-no-such-table {"names":["people","stations","lights","postings"],"nearest":"people","table":"peple"}',
    ],
    ["    key: id\n", "", 'plan-refers-keyless {"column":"keeper","table":"people"}'],
    ["    label: name\n", "", 'plan-label-missing {"column":"keeper","table":"people"}'],
    ["refers: people, label: keeper/name", "label: keeper/name", 'plan-label-alone {"column":"keeper"}'],
    [
      'new: { id: "P-{000}" }',
      'new: { ids: "P-{000}" }',
      'plan-no-such-column {"column":"ids","nearest":"id","table":"people","titles":["id","name","post"]}',
    ],
    ['new: { id: "P-{000}" }', 'new: { id: "name +" }', 'expression {"reason":"Unexpected token: EOF","text":"name +"}'],
  ])("%s → %s", async (was, is, expected) => {
    expect(PLAN).toContain(was);
    expect(await refusal(hatch(SOURCE, { plan: PLAN.replace(was, is) }))).toBe(expected);
  });
});

describe("links seen from both sides", () => {
  const JSON_LINKS = { name: "r.json", rows: "links", field: (name: string) => name };
  const XML_LINKS = { name: "r.xml", rows: "r/link", field: (name: string) => `"@${name}"` };
  const source = (format: typeof JSON_LINKS): string =>
    format === JSON_LINKS
      ? '{"people": [{"id": "P1"}, {"id": "P2"}], "links": [{"who": "P1", "at": "S1"}, {"who": "P1", "at": "S2"}], "stations": [{"code": "S1"}, {"code": "S2"}]}'
      : '<r><person id="P1"/><person id="P2"/><link who="P1" at="S1"/><link who="P1" at="S2"/><station code="S1"/><station code="S2"/></r>';
  const seenPlan = ({ name, rows, field }: typeof JSON_LINKS): string => `
hatchfold: 1
sources: { r: { file: ${name} } }
tables:
  people: { rows: ${rows === "links" ? "people" : "r/person"}, key: id, columns: { id: ${field("id")}, at: { through: links, show: at } } }
  stations: { rows: ${rows === "links" ? "stations" : "r/station"}, key: code, columns: { code: ${field("code")}, who: { through: links, show: who, pack: ", " } } }
  links: { rows: ${rows}, columns: { who: { at: ${field("who")}, refers: people }, at: { at: ${field("at")}, refers: stations } } }
`;
  const FORMATS = [
    ["JSON", JSON_LINKS],
    ["XML", XML_LINKS],
  ] as const;

  test.each(FORMATS)("%s: both tables show the other ends, and follow the links", async (_, format) => {
    const { name } = format;
    const input = { source: source(format), name };
    const { tables } = await hatch(input.source, { name, plan: seenPlan(format) });
    expect(readRows(tables, "people.csv").map((row) => row.at(-1))).toEqual(["at", "S1 | S2", ""]);
    expect(readRows(tables, "stations.csv").map((row) => row.at(-1))).toEqual(["who", "P1", "P1"]);
    expect(text((await fold(tables, input)).bytes)).toBe(input.source);
    cell("links", 3, "who", "P2")(tables);
    add("links", "", "", "P2", "S1")(tables);
    const { counts, follows } = await compare(tables, input);
    expect(counts).toMatchObject({ changed: 1, added: 1, problems: 0 });
    expect(follows).toEqual([
      { table: "people", record: "P1", column: "at", old: "S1 | S2", new: "S1" },
      { table: "people", record: "P2", column: "at", old: "", new: "S2 | S1" },
      { table: "stations", record: "S2", column: "who", old: "P1", new: "P2" },
      { table: "stations", record: "S1", column: "who", old: "P1", new: "P1, P2" },
    ]);
    const again = await hatch((await fold(tables, input)).bytes, { name, plan: seenPlan(format) });
    for (const { table, record, column, new: now } of follows) {
      const [titles, ...rows] = readRows(again.tables, `${table}.csv`);
      expect(rows.find((row) => row[2] === record)![titles.indexOf(column)]).toBe(now);
    }
    cell("links", 2, "fold action", "remove")(tables);
    expect((await compare(tables, input)).follows[0]).toEqual({ table: "people", record: "P1", column: "at", old: "S1 | S2", new: "" });
  });

  test("a label in the place of a code is recognised; rows with problems change no links", async () => {
    const source = '{"people": [{"id": "P1", "name": "Rut"}, {"id": "P2", "name": "Ole"}], "links": [{"who": "P1"}]}';
    const plan = `
hatchfold: 1
sources: { r: { file: r.json } }
tables:
  people: { rows: people, key: id, label: name, columns: { id: id, name: name, n: { through: links, show: who } } }
  links: { rows: links, columns: { who: { at: who, refers: people } } }
`;
    const { tables } = await hatch(source, { plan });
    add("links", "", "", "Ole", "")(tables);
    const { problems, follows } = await compare(tables, { source });
    expect(problems).toMatchObject([{ code: "ref-unknown", row: 3, value: "Ole", facts: { nearest: "P2" } }]);
    expect(follows).toEqual([]);
  });

  test("links inside one of the two, and the names that new rows call themselves by", async () => {
    const nested = '{"stations": [{"code": "S1", "crew": [{"who": "P1"}]}, {"code": "S2", "crew": []}], "people": [{"id": "P1"}]}';
    const plan = `
hatchfold: 1
sources: { r: { file: r.json } }
tables:
  stations: { rows: stations, key: code, columns: { code: code, who: { through: crew, show: who } } }
  crew: { rows: stations/crew, inside: stations, columns: { who: { at: who, refers: people } } }
  people: { rows: people, key: id, new: { id: "P{0}" }, columns: { id: id, at: { through: crew, show: stations } } }
`;
    const { tables } = await hatch(nested, { plan });
    expect(readRows(tables, "people.csv")[1].at(-1)).toBe("S1");
    add("people", "+x", "", "", "S9")(tables);
    add("crew", "", "", "S2", "+x")(tables);
    cell("crew", 2, "stations", "S2")(tables);
    const { follows, notes, problems } = await compare(tables, { source: nested });
    expect(problems).toEqual([]);
    expect(notes.map(brief)).toEqual(['links-not-taken {"links":"crew","rows":[3],"title":"at"}']);
    expect(follows).toEqual([
      { table: "stations", record: "S1", column: "who", old: "P1", new: "" },
      { table: "stations", record: "S2", column: "who", old: "", new: "P1 | P2" },
      { table: "people", record: "P1", column: "at", old: "S1", new: "S2" },
      { table: "people", record: "P2", column: "at", old: "", new: "S2" },
    ]);
    cell("people", 2, "at", "S2")(tables);
    const found = (await check(tables, { source: nested })).problems;
    expect(found).toMatchObject([{ code: "links-elsewhere", row: 2, column: "at", facts: { links: "crew", was: "S1" } }]);
  });

  test.each([
    ["no key", "key: id, columns: { id: id, at", "columns: { id: id, at", 'plan-refers-keyless {"column":"who","table":"people"}'],
    ["not refer to it", "refers: people", "required: true", 'plan-through {"column":"at","links":"crew","table":"people"}'],
    ["no such column", "show: who", "show: whom", 'plan-no-such-column {"column":"whom","nearest":"who","table":"crew","titles":["who"]}'],
    ["a misspelled word", "show: who", "shw: who", 'plan-unknown-key {"key":"shw","known":["through","show","pack"],"nearest":"show"}'],
  ])("a plan with %s", async (_, from, to, expected) => {
    const plan = `
hatchfold: 1
sources: { r: { file: r.json } }
tables:
  crew: { rows: stations/crew, columns: { who: { at: who, refers: people } } }
  people: { rows: people, key: id, columns: { id: id, at: { through: crew, show: who } } }
`;
    await readPlan(plan);
    expect(await refusal(readPlan(plan.replace(from, to)))).toBe(expected);
  });
});
