/** A flat file repeats what belongs to a code: an edit is made in all of the repeats, or is a conflict that names the rows. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, type MemoryTables, type Problem } from "hatch-fold";
import { law, RUNS } from "./support/laws.js";
import { Random } from "./support/random.js";
import { ACTION, edit, readRows, setCell, text } from "./support/sheets.js";
import { refusal } from "./support/brief.js";

const CSV = "no,station,name,by\n1,S-01,Gull,Ada\n2,S-01,Gull,Bo\n3,S-02,Tern,Ada\n4,S-01,Gull,\n5,,,Cy\n";
const PLAN = (name = "same-for: station", more = ""): string => `
hatchfold: 1
sources: { posts: { file: posts.csv, format: delimited } }
tables:
  posts: { rows: ., ${more} columns: { no: no, station: { at: station, type: text }, name: { at: name, ${name} }, by: by } }
`;
const name = "posts.csv";

type Change = (tables: MemoryTables) => MemoryTables;
const cell =
  (row: number, title: string, value: string): Change =>
  (tables) =>
    setCell(tables, "posts.csv", row, title, value);
const rows =
  (change: (all: string[][]) => string[][]): Change =>
  (tables) =>
    edit(tables, "posts.csv", change);
const add = (...cells: string[]): Change => rows((all) => [...all, ["", "", ...cells]]);
const named = (...at: number[]): Change[] => at.map((row) => cell(row, "name", "Kittiwake"));
/** The code, and the values that its rows have. */
const said = ({ facts }: Pick<Problem, "facts">): string => `${facts.code as string} ${JSON.stringify(facts.values)}`;

async function edited(changes: readonly Change[]): Promise<MemoryTables> {
  const { tables } = await hatch(CSV, { plan: PLAN(), name });
  for (const change of changes) change(tables);
  return tables;
}

describe("what is the same for each code", () => {
  const FINE: [what: string, changes: Change[], from: string | RegExp, to: string][] = [
    ["the edit is made in all of its rows", named(2, 3, 5), /Gull/g, "Kittiwake"],
    ["other cells are free", [cell(2, "by", "Di")], "Ada", "Di"],
    ["a row without a code says what it likes", [cell(6, "name", "Skua")], "5,,,", "5,,Skua,"],
    ["a row goes to another code, with its name", [cell(4, "station", "S-01"), cell(4, "name", "Gull")], "S-02,Tern", "S-01,Gull"],
    ["a row goes to a code of its own", [cell(4, "station", "S-03")], "S-02", "S-03"],
    [
      "the one that says otherwise goes",
      [...named(2, 3), cell(5, ACTION, "remove")],
      /1,S[^]*Cy\n/,
      "1,S-01,Kittiwake,Ada\n2,S-01,Kittiwake,Bo\n3,S-02,Tern,Ada\n5,,,Cy\n",
    ],
    ["a new row that leaves it blank has it", [add("6", "S-02", "", "Di")], "5,,,Cy\n", "5,,,Cy\n6,S-02,Tern,Di\n"],
    [
      "also after an edit of the others",
      [cell(4, "name", "Arctic tern"), add("6", "S-02", "", "Di")],
      /Tern([^]*)/,
      "Arctic tern$16,S-02,Arctic tern,Di\n",
    ],
    [
      "new rows of a new code",
      [add("6", "S-09", "", "Di"), add("7", "S-09", "Auk", "")],
      "5,,,Cy\n",
      "5,,,Cy\n6,S-09,Auk,Di\n7,S-09,Auk,\n",
    ],
  ];
  test.each(FINE)("%s", async (_, changes, from, to) => {
    const tables = await edited(changes);
    expect((await check(tables, { source: CSV, name })).problems).toEqual([]);
    expect(text((await fold(tables, { source: CSV, name })).bytes)).toBe(CSV.replace(from, to));
  });

  const CONFLICTS: [what: string, changes: Change[], rows: number[], expected: string][] = [
    ["one of three", named(3), [3], 'S-01 [{"value":"Gull","rows":[2,5],"unseen":0},{"value":"Kittiwake","rows":[3],"unseen":0}]'],
    ["two of three", named(2, 3), [2, 3], 'S-01 [{"value":"Kittiwake","rows":[2,3],"unseen":0},{"value":"Gull","rows":[5],"unseen":0}]'],
    [
      "a code with the name of another",
      [cell(4, "station", "S-01")],
      [4],
      'S-01 [{"value":"Gull","rows":[2,3,5],"unseen":0},{"value":"Tern","rows":[4],"unseen":0}]',
    ],
    [
      "a new row",
      [add("6", "S-02", "Skua", "")],
      [7],
      'S-02 [{"value":"Tern","rows":[4],"unseen":0},{"value":"Skua","rows":[7],"unseen":0}]',
    ],
    ["cleared in one", [cell(2, "name", "")], [2], 'S-01 [{"value":"","rows":[2],"unseen":0},{"value":"Gull","rows":[3,5],"unseen":0}]'],
    [
      "rows that are not in the sheet",
      [...named(2), rows((all) => all.filter((_, i) => i !== 2 && i !== 4))],
      [2],
      'S-01 [{"value":"Kittiwake","rows":[2],"unseen":0},{"value":"Gull","rows":[],"unseen":2}]',
    ],
  ];
  test.each(CONFLICTS)("conflict: %s", async (_, changes, numbers, expected) => {
    const { problems } = await compare(await edited(changes), { source: CSV, name });
    expect(problems.map(({ code, row }) => `${code} ${row}`)).toEqual(numbers.map((row) => `same-differ ${row}`));
    expect(said(problems[0])).toBe(expected);
  });

  test("a file that did not agree may be left so, or mended", async () => {
    const source = CSV.replace("2,S-01,Gull", "2,S-01,Gul");
    const { tables } = await hatch(source, { plan: PLAN(), name });
    cell(2, "name", "Gul")(tables);
    expect((await compare(tables, { source, name })).problems).toEqual([]);
    cell(2, "name", "Auk")(tables);
    expect((await compare(tables, { source, name })).problems).toMatchObject([{ code: "same-differ", row: 2 }]);
    for (const row of [3, 5]) cell(row, "name", "Auk")(tables);
    expect(text((await fold(tables, { source, name })).bytes)).toBe(CSV.replaceAll("Gull", "Auk"));
  });

  test("a new row may leave a required cell to the others, where there are any", async () => {
    const { tables } = await hatch(CSV, { plan: PLAN("same-for: station, required: true"), name });
    add("6", "S-02", "", "Di")(tables);
    expect(text((await fold(tables, { source: CSV, name })).bytes)).toBe(`${CSV}6,S-02,Tern,Di\n`);
    for (const station of ["S-09", ""]) add("7", station, "", "Di")(tables);
    const { problems } = await compare(tables, { source: CSV, name });
    expect(problems.map(({ code, row, column }) => `${code} ${row} ${column}`)).toEqual(["required 8 name", "required 9 name"]);
  });

  test("in part: the rows in conflict are set aside", async () => {
    const tables = await edited([...named(3), cell(4, "name", "Skua")]);
    const folded = await fold(tables, { source: CSV, name, partial: true });
    expect(text(folded.bytes)).toBe(CSV.replace("Tern", "Skua"));
  });

  test.each([
    ["same-for: statoin", "", 'plan-same-column {"nearest":"station","sameFor":"statoin","title":"name","titles":["no","station","by"]}'],
    ["same-for: name", "", 'plan-same-column {"sameFor":"name","title":"name","titles":["no","station","by"]}'],
    ["same-for: station, fill: down", "", 'plan-same-alone {"table":"posts","title":"name"}'],
    ["same-for: station", "tree: { parent: by }, key: no,", 'plan-same-alone {"table":"posts","title":"name"}'],
  ])("a plan with %s %s", async (column, more, expected) => {
    expect(await refusal(hatch(CSV, { plan: PLAN(column, more), name }))).toBe(expected);
  });
});

const OTHERS: [name: string, source: string, at: (field: string) => string, rows: string][] = [
  [
    "p.json",
    '{"posts": [{"no": "1", "station": "S-01", "name": "Gull"}, {"no": "2", "station": "S-01", "name": "Gull"}]}',
    (f) => f,
    "posts",
  ],
  ["p.xml", '<r><post no="1" station="S-01" name="Gull"/><post no="2" station="S-01" name="Gull"/></r>', (f) => `"@${f}"`, "r/post"],
  ["p.txt", "no: 1\nstation: S-01\nname: Gull\n\nno: 2\nstation: S-01\nname: Gull\n", (f) => f, "."],
];
test.each(OTHERS)("in %s, too", async (file, source, at, rows) => {
  const plan = `hatchfold: 1\nsources: { s: { file: ${file} } }\ntables: { posts: { rows: ${rows}, columns: { no: ${at("no")}, station: ${at("station")}, name: { at: ${at("name")}, same-for: station } } } }`;
  const { tables } = await hatch(source, { plan, name: file });
  cell(2, "name", "Tern")(tables);
  expect((await compare(tables, { source, name: file })).problems.map(({ code, row }) => `${code} ${row}`)).toEqual(["same-differ 2"]);
  cell(3, "name", "Tern")(tables);
  expect(text((await fold(tables, { source, name: file })).bytes)).toBe(source.replaceAll("Gull", "Tern"));
});

test("whatever was edited: after a fold without problems those who agreed agree", () =>
  law(
    fc.tuple(fc.array(fc.nat({ max: 3 }), { minLength: 1, maxLength: 9 }), fc.nat()),
    async ([codes, seed]) => {
      const random = new Random(seed);
      const source = `no,station,name,by\n${codes.map((c, i) => `${i},S-${c},N${c},x\n`).join("")}`;
      const { tables } = await hatch(source, { plan: PLAN(), name });
      const pick = (): string => random.pick(["N0", "N1", "M", ""]);
      for (let n = random.next(5); n > 0; n--) {
        const row = 2 + random.next(codes.length);
        const was = readRows(tables, "posts.csv")[row - 1][4];
        const now = pick();
        if (random.chance(2)) rows((all) => all.map((one) => (one[4] === was ? [...one.slice(0, 4), now, one[5]] : one)))(tables);
        else if (random.chance(2)) cell(row, "station", `S-${random.next(4)}`)(tables);
        else if (random.chance(2)) cell(row, "name", now)(tables);
        else add("9", `S-${random.next(5)}`, pick(), "y")(tables);
      }
      const { problems } = await compare(tables, { source, name });
      fc.pre(problems.length === 0);
      const folded = text((await fold(tables, { source, name })).bytes);
      const names = new Map<string, Set<string>>();
      for (const line of folded.trimEnd().split("\n").slice(1)) {
        const [, station, called] = line.split(",");
        names.set(station, (names.get(station) ?? new Set()).add(called));
      }
      for (const [station, called] of names) expect(`${station} ${[...called].join(" ")}`).toMatch(/^\S+ \S*$/);
    },
    RUNS * 2,
  ));
