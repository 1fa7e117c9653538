/** Lists of codes on both sides of a link: a station names its crew, and each of them the station. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { law, RUNS } from "./support/laws.js";
import { Random } from "./support/random.js";
import { ACTION, edit, readRows, setCell, text } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

const SOURCE = `{
  "people": [
    {"id": "P-1", "name": "Ása", "posts": ["S-1", "S-2"]},
    {"id": "P-2", "name": "Rut", "posts": ["S-1"]},
    {"id": "P-3", "name": "Iria"},
    {"id": "P-4", "name": "Odd", "posts": ["S-3"]}
  ],
  "stations": [
    {"code": "S-1", "crew": ["P-1", "P-2"]},
    {"code": "S-2", "crew": ["P-1"]},
    {"code": "S-3", "crew": []}
  ]
}
`;
const PLAN = `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  people: { rows: people, key: id, columns: { id: id, name: name, posts: { at: posts, pack: ", ", refers: stations, mirror: crew } } }
  stations: { rows: stations, key: code, columns: { code: code, crew: { at: crew, pack: ", ", refers: people } } }
`;
type Cell = [file: string, row: number, title: string, value: string];
async function edited(...cells: Cell[]): Promise<MemoryTables> {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  for (const [file, ...cell] of cells) setCell(tables, `${file}.csv`, ...cell);
  return tables;
}

test("what the source does not have on both sides is noted, and stays", async () => {
  const tables = await edited();
  const { notes } = await compare(tables, { source: SOURCE });
  expect(notes.map(brief)).toEqual(['mirror-apart {"count":1,"first":[{"key":"P-4","code":"S-3"}],"other":"crew","title":"posts"}']);
  expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(SOURCE);
});

test.each<[string, Cell[], [string, string][]]>([
  [
    "a code that comes on one side",
    [["stations", 3, "crew", "P-1, P-2"]],
    [
      ['["P-1"]', '["P-1", "P-2"]'],
      ['"posts": ["S-1"]', '"posts": ["S-1", "S-2"]'],
    ],
  ],
  [
    "on the other side",
    [["people", 3, "posts", "S-1, S-2"]],
    [
      ['["P-1"]', '["P-1", "P-2"]'],
      ['"posts": ["S-1"]', '"posts": ["S-1", "S-2"]'],
    ],
  ],
  [
    "on both sides",
    [
      ["stations", 3, "crew", "P-1, P-2"],
      ["people", 3, "posts", "S-1, S-2"],
    ],
    [
      ['["P-1"]', '["P-1", "P-2"]'],
      ['"posts": ["S-1"]', '"posts": ["S-1", "S-2"]'],
    ],
  ],
  [
    "a code that goes",
    [["stations", 2, "crew", "P-2"]],
    [
      ['["P-1", "P-2"]', '["P-2"]'],
      ['["S-1", "S-2"]', '["S-2"]'],
    ],
  ],
  [
    "the last that goes",
    [["people", 3, "posts", "[]"]],
    [
      ['"posts": ["S-1"]', '"posts": []'],
      ['["P-1", "P-2"]', '["P-1"]'],
    ],
  ],
  [
    "a list that was not there",
    [["stations", 4, "crew", "P-3"]],
    [
      ['"crew": []', '"crew": ["P-3"]'],
      ['"Iria"', '"Iria", "posts": ["S-3"]'],
    ],
  ],
  [
    "a record that goes",
    [["stations", 2, ACTION, "remove"]],
    [
      ['    {"code": "S-1", "crew": ["P-1", "P-2"]},\n', ""],
      ['["S-1", "S-2"]', '["S-2"]'],
      ['"posts": ["S-1"]', '"posts": []'],
    ],
  ],
  [
    "a key that changes",
    [["people", 2, "id", "P-9"]],
    [
      ['"id": "P-1"', '"id": "P-9"'],
      ['["P-1", "P-2"]', '["P-9", "P-2"]'],
      ['["P-1"]', '["P-9"]'],
    ],
  ],
  ["a disagreement that is settled", [["stations", 4, "crew", "P-4"]], [['"crew": []', '"crew": ["P-4"]']]],
])("%s", async (_, cells, changes) => {
  const tables = await edited(...cells);
  expect((await check(tables, { source: SOURCE })).problems).toEqual([]);
  expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(changes.reduce((all, [from, to]) => all.replace(from, to), SOURCE));
});

test("rows, columns and tables may be left out: the other side follows all the same", async () => {
  const expected = SOURCE.replace('["P-1"]', '["P-1", "P-3"]').replace('"Iria"', '"Iria", "posts": ["S-2"]');
  const change: Cell = ["stations", 3, "crew", "P-1, P-3"];
  const noRow = edit(await edited(change), "people.csv", (rows) => rows.filter((row) => row[2] !== "P-3"));
  const noColumn = edit(await edited(change), "people.csv", (rows) => rows.map((row) => row.slice(0, 4)));
  const noTable = await edited(change);
  noTable.contents.delete("people.csv");
  for (const tables of [noRow, noColumn, noTable]) expect(text((await fold(tables, { source: SOURCE })).bytes)).toBe(expected);
  // what follows stands in no row of the sheet
  const { changes } = await compare(noRow, { source: SOURCE });
  expect(changes.map(({ table, row, record, new: now }) => [table, row, record, now])).toEqual([
    ["people", 0, "P-3", "S-2"],
    ["stations", 3, "S-2", "P-1, P-3"],
  ]);
});

test("new records on both sides name each other", async () => {
  const tables = await edited();
  edit(tables, "people.csv", (rows) => [...rows, ["", "", "P-5", "Nils", ""]]);
  edit(tables, "stations.csv", (rows) => [...rows, ["", "", "S-4", "P-5, P-1"]]);
  const { people, stations } = JSON.parse(text((await fold(tables, { source: SOURCE })).bytes)) as Record<
    "people" | "stations",
    Record<string, unknown>[]
  >;
  expect([people[0].posts, people[4].posts, stations[3].crew]).toEqual([["S-1", "S-2", "S-4"], ["S-4"], ["P-5", "P-1"]]);
});

test.each<[string, Cell[], string[]]>([
  [
    "a code of nobody",
    [["stations", 3, "crew", "P-1, P-7"]],
    ['stations 3 crew: ref-unknown {"code":"P-7","key":"id","nearest":"P-1","table":"people"}'],
  ],
  [
    "a link taken out on one side and put in on the other",
    [
      ["people", 5, "posts", "[]"],
      ["stations", 4, "crew", "P-4"],
    ],
    [
      'people 5 posts: mirror-differ {"code":"S-3","other":"crew","row":4,"stays":false}',
      'stations 4 crew: mirror-differ {"code":"P-4","other":"posts","row":5,"stays":true}',
    ],
  ],
])("%s", async (_, cells, expected) => {
  const { problems } = await check(await edited(...cells), { source: SOURCE });
  expect(problems.map((one) => `${one.table} ${one.row} ${one.column}: ${brief(one)}`)).toEqual(expected);
});

test.each([
  [
    "no such list",
    PLAN.replace("mirror: crew", "mirror: crews"),
    'plan-mirror {"mirror":"crews","table":"people","target":"stations","title":"posts"}',
  ],
  [
    "a list that refers elsewhere",
    PLAN.replace("refers: people", "refers: stations"),
    'plan-mirror {"mirror":"crew","table":"people","target":"stations","title":"posts"}',
  ],
  [
    "no list",
    PLAN.replace('crew: { at: crew, pack: ", ", refers: people }', "crew: crew"),
    'plan-mirror {"mirror":"crew","table":"people","target":"stations","title":"posts"}',
  ],
])("plans: %s", async (_, plan, expected) => {
  expect(await refusal(hatch(SOURCE, { plan }))).toBe(expected);
});

describe("laws", () => {
  interface World {
    readonly people: number;
    readonly stations: number;
    readonly links: readonly (readonly [person: number, station: number])[];
  }
  const worlds: fc.Arbitrary<World> = fc
    .record({
      people: fc.integer({ min: 1, max: 5 }),
      stations: fc.integer({ min: 1, max: 5 }),
      pairs: fc.array(fc.tuple(fc.nat(), fc.nat()), { maxLength: 10 }),
    })
    .map(({ people, stations, pairs }) => {
      const links = pairs.map(([a, b]) => [a % people, b % stations] as const);
      return { people, stations, links: links.filter(([a, b], i) => links.findIndex(([x, y]) => x === a && y === b) === i) };
    });
  const range = (n: number): number[] => [...Array(n).keys()];

  const FORMS = [
    {
      name: "JSON",
      file: "m.json",
      plan: PLAN.replace("r.json", "m.json"),
      write: ({ people, stations, links }: World) =>
        JSON.stringify({
          people: range(people).map((p) => ({
            id: `P-${p}`,
            name: `p${p}`,
            posts: links.filter(([a]) => a === p).map(([, b]) => `S-${b}`),
          })),
          stations: range(stations).map((s) => ({ code: `S-${s}`, crew: links.filter(([, b]) => b === s).map(([a]) => `P-${a}`) })),
        }),
    },
    {
      name: "XML",
      file: "m.xml",
      plan: `
hatchfold: 1
sources: { r: { file: m.xml, format: xml } }
tables:
  people: { rows: r/person, key: id, columns: { id: "@id", posts: { at: post/@at, pack: ", ", refers: stations, mirror: crew } } }
  stations: { rows: r/station, key: code, columns: { code: "@code", crew: { at: member/@id, pack: ", ", refers: people } } }
`,
      write: ({ people, stations, links }: World) =>
        `<r>\n${[
          ...range(people).map(
            (p) => `  <person id="P-${p}">${links.flatMap(([a, b]) => (a === p ? [`\n    <post at="S-${b}"/>`] : [])).join("")}</person>\n`,
          ),
          ...range(stations).map(
            (s) => `  <station code="S-${s}">${links.flatMap(([a, b]) => (b === s ? [`<member id="P-${a}"/>`] : [])).join("")}</station>\n`,
          ),
        ].join("")}</r>\n`,
    },
    {
      name: "tagged lines",
      file: "m.txt",
      plan: `
hatchfold: 1
sources:
  r:
    file: m.txt
    format: tagged
    layout:
      delimiter: "|"
      records:
        person: { tag: P, fields: [id, name] }
        post: { tag: A, inside: person, fields: [at] }
        station: { tag: S, fields: [code] }
        member: { tag: M, inside: station, fields: [id] }
tables:
  people: { rows: person, key: id, columns: { id: id, name: name, posts: { at: post/at, pack: ", ", refers: stations, mirror: crew } } }
  stations: { rows: station, key: code, columns: { code: code, crew: { at: member/id, pack: ", ", refers: people } } }
`,
      write: ({ people, stations, links }: World) =>
        [
          ...range(people).map((p) => `P|P-${p}|p${p}\n${links.flatMap(([a, b]) => (a === p ? [`A|S-${b}\n`] : [])).join("")}`),
          ...range(stations).map((s) => `S|S-${s}\n${links.flatMap(([a, b]) => (b === s ? [`M|P-${a}\n`] : [])).join("")}`),
        ].join(""),
    },
  ];

  test.each(FORMS.map((form) => [form.name, form] as const))(
    "%s: edits of either side, or of both, keep the two in step",
    async (_, { file: name, plan, write }) => {
      const codes = (cell: string): string[] => (cell === "" || cell === "[]" ? [] : cell.split(", "));
      const pairs = (tables: MemoryTables): [string[], string[]] => {
        const of = (file: string, title: string, swap: boolean): string[] => {
          const [titles, ...rows] = readRows(tables, file);
          const told = rows.flatMap((row) => codes(row[titles.indexOf(title)]).map((code) => (swap ? [code, row[2]] : [row[2], code])));
          return told.map((pair) => pair.join(" ")).sort();
        };
        return [of("people.csv", "posts", false), of("stations.csv", "crew", true)];
      };
      await law(
        fc.tuple(worlds, fc.nat()),
        async ([world, seed]) => {
          const source = write(world);
          const random = new Random(seed);
          const { tables } = await hatch(source, { plan, name });
          expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
          const links = new Set(pairs(tables)[0]);
          for (let i = random.next(5); i > 0; i--) {
            const [p, s] = [`P-${random.next(world.people)}`, `S-${random.next(world.stations)}`];
            const there = links.has(`${p} ${s}`);
            if (there) links.delete(`${p} ${s}`);
            else links.add(`${p} ${s}`);
            const side = random.chance(2) ? ["people.csv", "posts", p, s] : ["stations.csv", "crew", s, p];
            edit(tables, side[0], (rows) => {
              const row = rows.find((one) => one[2] === side[2])!;
              const c = rows[0].indexOf(side[1]);
              const now = there ? codes(row[c]).filter((one) => one !== side[3]) : [...new Set([...codes(row[c]), side[3]])];
              row[c] = now.join(", ");
            });
            // the same link once more would be told of by two sides
            if (random.chance(3)) break;
          }
          const { problems } = await compare(tables, { source, name });
          if (problems.length > 0) {
            expect(new Set(problems.map(({ code }) => code))).toEqual(new Set(["mirror-differ"]));
            fc.pre(false);
          }
          const again = await hatch(text((await fold(tables, { source, name })).bytes), { plan, name });
          const [posts, crew] = pairs(again.tables);
          expect(posts).toEqual(crew);
        },
        RUNS / 2,
      );
    },
  );
});
