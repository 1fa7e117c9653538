/** Rows that name records: matched by labels, unique together, parents called by their labels, ids made of what is around. */
import { describe, expect, test } from "vitest";
import { fold, hatch, type FoldInput } from "hatch-fold";
import { edit, text, type Rows } from "./support/sheets.js";

type Change = (rows: Rows) => Rows | void;

/** What a fold gives: the document as JSON, or the codes of its problems, each with its row. */
async function folded(source: object, plan: string, edits: Record<string, Change>, options: Partial<FoldInput> = {}): Promise<unknown> {
  const document = JSON.stringify(source);
  const { tables } = await hatch(document, { plan: `hatchfold: 1\nsources: { s: { file: s.json } }\ntables:\n${plan}`, name: "s.json" });
  for (const [file, change] of Object.entries(edits)) edit(tables, file, change);
  return fold(tables, { source: document, name: "s.json", ...options }).then(
    ({ bytes }) => JSON.parse(text(bytes)) as unknown,
    (error: { problems?: { code: string; row: number }[] }) => error.problems?.map(({ code, row }) => `${code} ${row}`) ?? error,
  );
}

const PEOPLE = [
  { id: "P-1", name: "Ana" },
  { id: "P-2", name: "Bo" },
];
const STATIONS = [
  { code: "S-1", name: "North" },
  { code: "S-2", name: "South" },
];
const ONE = { person: "P-1", station: "S-1", role: "keeper", fee: 1 };
const TWO = { person: "P-2", station: "S-2", role: "relief", fee: 2 };
const POSTED = { people: PEOPLE, stations: STATIONS, postings: [ONE, TWO] };
const posted = (words: string): string => `
  people: { rows: people, key: id, label: name, columns: { id: id, name: name } }
  stations: { rows: stations, key: code, label: name, columns: { code: code, name: name } }
  postings: { rows: postings, ${words}, columns: { person: { at: person, refers: people }, station: { at: station, refers: stations }, role: role } }
`;
const given =
  (...rows: string[]): Change =>
  () =>
    rows.map((row) => row.split(","));
const add =
  (...rows: string[]): Change =>
  (all) => [...all, ...rows.map((row) => row.split(","))];

describe("rows without marks are matched when their labels are codes", () => {
  const COOK = { ...TWO, role: "cook" };
  const CASES: [what: string, words: string, sheet: Change, postings: object[] | string[]][] = [
    [
      "labels alone",
      "match: [person, station]",
      given("person name,station name,role", "Ana,North,keeper", "Bo,South,cook", "Bo,North,new"),
      [ONE, COOK, { person: "P-2", station: "S-1", role: "new" }],
    ],
    ["label titles in match", "match: [person name, station name]", given("person name,station name,role", "Bo,South,cook"), [ONE, COOK]],
    [
      "codes here, labels there",
      "match: [person, station]",
      given("person,person name,station,station name,role", ",Ana,S-1,,keeper", "P-2,,,South,cook"),
      [ONE, COOK],
    ],
    [
      "a code and another's label",
      "match: [person, station]",
      given("person,person name,station,role", "P-1,Bo,S-1,keeper"),
      ["label-other 2"],
    ],
    ["a label that nobody has", "match: [person, station]", given("person name,station,role", "Cy,S-1,x"), ["label-unknown 2"]],
    [
      "one row twice",
      "match: [person, station]",
      given("person name,station,role", "Ana,S-1,x", "Ana,S-1,y"),
      ["match-twice 2", "match-twice 3"],
    ],
  ];
  test.each(CASES)("%s", async (_, words, sheet, wanted) => {
    const made = await folded(POSTED, posted(words), { "postings.csv": sheet });
    expect(typeof wanted[0] === "string" ? made : (made as typeof POSTED).postings).toEqual(wanted);
  });

  test("a record that is called otherwise in the same fold is not added a second time", async () => {
    const edits = {
      "people.csv": (rows: Rows) => void (rows[1][3] = "Anna"),
      "postings.csv": given("person name,station,role", "Anna,S-1,keeper"),
    };
    expect(await folded(POSTED, posted("match: [person, station]"), edits)).toEqual(["unique-taken 2"]);
  });
});

describe("what no two records may have the same", () => {
  const pairs = posted("unique: [person, station]");
  const swap: Change = (rows) => void ([rows[1], rows[2]] = [1, 2].map((r) => [rows[r][0], "", ...rows[3 - r].slice(2, 6), rows[r][6]]));
  const CASES: [what: string, plan: string, edits: Record<string, Change>, wanted: string[] | null][] = [
    ["a new link of a pair", pairs, { "postings.csv": add(",,P-1,,S-1,,again") }, ["unique-taken 4"]],
    [
      "two new ones, by code and by label",
      pairs,
      { "postings.csv": add(",,P-1,,S-2,,x", ",,,Ana,,South,y") },
      ["unique-twice 4", "unique-twice 5"],
    ],
    ["an edited one", pairs, { "postings.csv": (rows) => void rows[2].splice(2, 4, "P-1", "Ana", "S-1", "North") }, ["unique-taken 3"]],
    ["two that change places", pairs, { "postings.csv": swap }, null],
    [
      "one that takes the place of a removed one",
      pairs,
      { "postings.csv": (rows) => [rows[0], [rows[1][0], "remove", ...rows[1].slice(2)], rows[2], ["", "", "P-1", "", "S-1", "", "x"]] },
      null,
    ],
    ["a blank is like no other", pairs, { "postings.csv": add(",,,,S-1,,x", ",,,,S-1,,y") }, null],
  ];
  test.each(CASES)("%s", async (_, plan, edits, wanted) => {
    const made = await folded(POSTED, plan, edits);
    if (wanted === null) expect(made).toHaveProperty("postings");
    else expect(made).toEqual(wanted);
  });

  const LIGHTS = {
    stations: [
      { code: "A", lights: [{ no: 1 }, { no: 2 }] },
      { code: "B", lights: [{ no: 1 }] },
    ],
  };
  const within = `
  stations: { rows: stations, key: code, columns: { code: code } }
  lights: { rows: stations/lights, inside: stations, unique: [[stations, no]], columns: { no: no } }
`;
  test.each<[string, Change, string[] | object]>([
    ["numbers are unique in their station", add(",,B,1", ",,B,2"), ["unique-taken 5"]],
    ["also when a light moves", (rows) => void (rows[1][2] = "B"), ["unique-taken 2"]],
    ["the same number elsewhere is none of that", add(",,B,2"), { no: 2 }],
  ])("%s", async (_, change, wanted) => {
    const made = await folded(LIGHTS, within, { "lights.csv": change });
    expect(Array.isArray(wanted) ? made : (made as typeof LIGHTS).stations[1].lights.at(-1)).toEqual(wanted);
  });
});

test("blank: keep leaves what the source has there, and (absent) clears it", async () => {
  const plan = "  a: { rows: a, columns: { v: { at: v, blank: keep }, w: { at: w, pack: '|', blank: keep } } }\n";
  const source = { a: [{ v: null, w: ["x"] }, { v: "", w: [] }, {}, { v: "gone", w: ["y"] }] };
  const edits: Change = (rows) => [
    rows[0],
    ...rows.slice(1, 4).map(([mark]) => [mark, "", "", ""]),
    [rows[4][0], "", "(absent)", "z"],
    ["", "", "new", ""],
  ];
  expect(await folded(source, plan, { "a.csv": edits })).toEqual({ a: [...source.a.slice(0, 3), { w: ["z"] }, { v: "new" }] });
});

describe("where a row belongs", () => {
  const NESTED = {
    districts: [
      { code: "A", name: "Alpha", stations: [{ no: "1" }, { no: "2" }] },
      { code: "B", name: "Beta", stations: [{ no: "3" }] },
    ],
  };
  const nested = (words = ""): string => `
  stations: { rows: districts/stations, inside: districts, key: no, ${words} columns: { no: no } }
  districts: { rows: districts, key: code, label: name, new: { code: "D-{0}" }, columns: { code: code, name: name } }
`;
  const rename: Change = (rows) => [rows[0], [...rows[1].slice(0, 3), "Omega"], rows[2], ["+x", "", "", "Gamma"]];
  const stations = (made: unknown): string[] =>
    (made as typeof NESTED).districts.map((one) =>
      [one.code, ...((one as { stations?: { no: string }[] }).stations ?? []).map(({ no }) => no)].join(" "),
    );

  test.each<[string, string, Record<string, Change>, string[]]>([
    [
      "a label says it",
      "",
      { "stations.csv": (rows) => [...rows.slice(0, 3), [...rows[3].slice(0, 2), "Alpha", "3"], ["", "", "Beta", "9"]] },
      ["A 1 2 3", "B 9"],
    ],
    [
      "as records will be called",
      "",
      { "districts.csv": rename, "stations.csv": add(",,Omega,8", ",,Gamma,9") },
      ["A 1 2 8", "B 3", "D-1 9"],
    ],
    [
      "and what is new there is made of what is around",
      "new: { no: 'districts + \"/\" + parent.name' },",
      { "districts.csv": rename, "stations.csv": add(",,A,", ",,+x,", ",,Beta,") },
      ["A 1 2 A/Omega", "B 3 B/Beta", "D-1 D-1/Gamma"],
    ],
  ])("%s", async (_, words, edits, wanted) => {
    expect(stations(await folded(NESTED, nested(words), edits))).toEqual(wanted);
  });

  test("a label of two is a problem", async () => {
    const edits = { "districts.csv": (rows: Rows) => void (rows[1][3] = "Beta"), "stations.csv": add(",,Beta,9") };
    expect(await folded(NESTED, nested(), edits)).toEqual(["parent-many 5"]);
  });
});

describe("records around that are new, in a sheet with those in them", () => {
  const HEADS = {
    heads: [
      { no: "H-1", name: "x", lines: [{ what: "A" }, { what: "B" }] },
      { no: "H-2", name: "y", lines: [{ what: "C" }] },
    ],
  };
  const stacked = (how: string, fresh = ""): string => `
  heads: { rows: heads, key: no, ${fresh} columns: { no: no, name: name } }
  lines: { rows: heads/lines, inside: heads, ${how}: true, columns: { what: what } }
`;
  const NUMBERS = 'new: { no: "H-{0}" },';
  /** A block of rows copied to the end, with this in its first `column`. */
  const copied =
    (count: number, column: number, value: string, all = false): Change =>
    (rows) => [...rows, ...rows.slice(1, 1 + count).map((row, i) => (i === 0 || all ? row.with(column, value) : row))];
  const heads = (made: unknown): unknown =>
    Array.isArray(made)
      ? made
      : (made as typeof HEADS).heads.map(({ no, lines }) =>
          [no, ...((lines as typeof lines | undefined) ?? []).map(({ what }) => what)].join(" "),
        );

  test.each<[string, string, Change, "new" | undefined, string[]]>([
    [
      "repeat: an id is made as elsewhere",
      stacked("repeat", NUMBERS),
      add(",,,new,,Z", ",,,new,,Y"),
      undefined,
      ["H-1 A B", "H-2 C", "H-3 Z", "H-4 Y"],
    ],
    ["repeat: an id that is not made is missing", stacked("repeat"), add(",,,new,,Z"), undefined, ["key-missing 5"]],
    ["beneath: a copied block is one", stacked("beneath"), copied(3, 2, "H-9"), "new", ["H-1 A B", "H-2 C", "H-9 A B"]],
    ["beneath: its id is made", stacked("beneath", NUMBERS), copied(3, 2, ""), "new", ["H-1 A B", "H-2 C", "H-3 A B"]],
    ["beneath: copied lines alone stay where they say", stacked("beneath"), (rows) => [...rows, rows[2]], "new", ["H-1 A B A", "H-2 C"]],
    [
      "beneath: not without a word",
      stacked("beneath"),
      copied(3, 2, "H-9"),
      undefined,
      ["mark-copied 2", "mark-copied 3", "mark-copied 4"],
    ],
    ["repeat: a copied block is one", stacked("repeat"), copied(2, 2, "H-9", true), "new", ["H-1 A B", "H-2 C", "H-9 A B"]],
    [
      "beneath: the copy above the original",
      stacked("beneath"),
      (rows) => [rows[0], ...rows.slice(1, 4).map((row, i) => (i === 0 ? row.with(2, "H-9") : row)), ...rows.slice(1)],
      "new",
      ["H-1 A B", "H-2 C", "H-9 A B"],
    ],
  ])("%s", async (_, plan, change, copies, wanted) => {
    expect(heads(await folded(HEADS, plan, { "heads.csv": change }, { copies }))).toEqual(wanted);
  });
});
