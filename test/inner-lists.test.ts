/** Lists in lists, packed in one cell with a separator for each. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, foldNew, hatch, MemoryTables } from "hatch-fold";
import { law, RUNS } from "./support/laws.js";
import { readRows, setCell, text } from "./support/sheets.js";
import { brief, refusal } from "./support/brief.js";

interface Member {
  readonly id: string;
  readonly role: string;
  readonly skills: readonly string[];
}
type World = readonly (readonly Member[])[];

interface Form {
  readonly file: string;
  readonly source: string;
  readonly rows: string;
  readonly code: string;
  readonly id: string;
  readonly skills: string;
  readonly write: (world: World) => string;
}

const code = (s: number): string => `S-0${s + 1}`;
const FORMS: Record<string, Form> = {
  "JSON, lists of texts": {
    file: "s.json",
    source: "{ file: s.json, format: json }",
    rows: "stations",
    code: "code",
    id: "crew/id",
    skills: "crew/skills",
    write: (world) => JSON.stringify({ stations: world.map((crew, s) => ({ code: code(s), crew })) }, null, 1),
  },
  "JSON, lists of records": {
    file: "s.json",
    source: "{ file: s.json, format: json }",
    rows: "stations",
    code: "code",
    id: "crew/id",
    skills: "crew/skills/name",
    write: (world) =>
      JSON.stringify({
        stations: world.map((all, s) => ({
          code: code(s),
          crew: all.map(({ skills, ...one }) => ({ ...one, skills: skills.map((name) => ({ name, since: "2020" })) })),
        })),
      }),
  },
  XML: {
    file: "s.xml",
    source: "{ file: s.xml, format: xml }",
    rows: "r/station",
    code: '"@code"',
    id: "member/@id",
    skills: "member/skill",
    write: (world) =>
      `<r>\n${world
        .map(
          (crew, s) =>
            ` <station code="${code(s)}">\n${crew
              .map(
                ({ id, role, skills }) =>
                  `  <member id="${id}" role="${role}">${skills.map((one) => `<skill>${one}</skill>`).join("")}</member>\n`,
              )
              .join("")} </station>\n`,
        )
        .join("")}</r>\n`,
  },
  "tagged lines": {
    file: "s.txt",
    source:
      '{ file: s.txt, format: tagged, layout: { delimiter: "|", records: { station: { tag: S, fields: [code] }, member: { tag: M, inside: station, fields: [id, role] }, skill: { tag: K, inside: member, fields: [name] } } } }',
    rows: "station",
    code: "code",
    id: "member/id",
    skills: "member/skill/name",
    write: (world) =>
      world
        .map(
          (crew, s) =>
            `S|${code(s)}\n${crew.map(({ id, role, skills }) => `M|${id}|${role}\n${skills.map((one) => `K|${one}\n`).join("")}`).join("")}`,
        )
        .join(""),
  },
};
const planOf = ({ source, rows, code, id, skills }: Form): string =>
  `hatchfold: 1\nsources: { s: ${source} }\ntables: { stations: { rows: ${rows}, key: code, columns: { code: ${code}, ids: { at: "${id}", pack: "; " }, skills: { at: "${skills}", pack: ["; ", ", "] } } } }\n`;

const member = fc.record({
  role: fc.constantFrom("keeper", "cook"),
  skills: fc.array(fc.constantFrom("lamp", "radio", "a, b", "c; d", "007", "1E5", "back\\slash", "Ása"), { maxLength: 3 }),
});
const worlds = fc
  .array(fc.array(member, { maxLength: 4 }), { minLength: 1, maxLength: 4 })
  .map((world) => world.map((crew, s) => crew.map((one, m) => ({ id: `P-${s}${m}`, ...one }))));

/** As many stations as the first world has. */
const fit = (world: World, other: World): World => world.map((_, s) => other[s % other.length]);

describe.each(Object.entries(FORMS))("%s", (_, form) => {
  const plan = planOf(form);
  const { file: name } = form;
  const cells = async (source: string): Promise<string[][]> =>
    readRows((await hatch(source, { plan, name })).tables, "stations.csv").map((row) => row.slice(2));

  test("nothing edited, nothing changed", () =>
    law(
      worlds.filter((world) => world.some((crew) => crew.some(({ skills }) => skills.length > 0))),
      async (world) => {
        const source = form.write(world);
        const { tables } = await hatch(source, { plan, name });
        expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
      },
      RUNS / 3,
    ));

  test("cells of another document: what was written is what a new hatch shows", () =>
    law(
      fc.tuple(worlds, worlds).filter((both) => both.every((world) => world.some((crew) => crew.some(({ skills }) => skills.length > 0)))),
      async ([world, other]) => {
        const source = form.write(world);
        const { tables } = await hatch(source, { plan, name });
        const wanted = await cells(form.write(fit(world, other)));
        wanted
          .slice(1)
          .forEach((row, r) => ["ids", "skills"].forEach((title, c) => setCell(tables, "stations.csv", r + 2, title, row[c + 1])));
        expect((await check(tables, { source, name })).problems).toEqual([]);
        const folded = text((await fold(tables, { source, name })).bytes);
        if (fit(world, other).some((crew) => crew.some(({ skills }) => skills.length > 0))) expect(await cells(folded)).toEqual(wanted);
      },
      RUNS / 2,
    ));

  test("a document of its own from the rows", async () => {
    const world = [
      [
        { id: "P-1", role: "", skills: ["lamp", "a, b"] },
        { id: "P-2", role: "", skills: [] },
        { id: "P-3", role: "", skills: ["007"] },
      ],
    ];
    const tables = new MemoryTables();
    tables.contents.set("stations.csv", (await hatch(form.write(world), { plan, name })).tables.contents.get("stations.csv")!);
    const made = await foldNew(tables, { plan });
    expect(await cells(text(made.bytes))).toEqual(await cells(form.write(world)));
  });
});

describe("what people write", () => {
  const form = FORMS["JSON, lists of texts"];
  const source =
    '{"stations": [\n  {"code": "S-01", "crew": [{"id": "P-1", "role": "keeper", "skills": ["lamp", "radio"]}, {"id": "P-2", "skills": []}, {"id": "P-3"}]}\n]}';
  const CASES: [what: string, ids: string, skills: string, from: string, to: string][] = [
    ["one more in a list in the list", "", "lamp, siren, radio; []; ", '"lamp"', '"lamp", "siren"'],
    ["one less", "", "radio; []; ", '"lamp", "radio"', '"radio"'],
    ["the first of an empty one", "", "lamp, radio; rope; ", "[]", '["rope"]'],
    ["one where there was none", "", "lamp, radio; []; rope, sail", '{"id": "P-3"}', '{"id": "P-3", "skills": ["rope", "sail"]}'],
    [
      "a new record with a list",
      "P-1; P-9; P-2; P-3",
      "lamp, radio; rope, sail; []; ",
      '{"id": "P-2"',
      '{"id": "P-9", "skills": ["rope", "sail"]}, {"id": "P-2"',
    ],
    ["a record that goes, with its list", "P-2; P-3", "[]; ", '{"id": "P-1", "role": "keeper", "skills": ["lamp", "radio"]}, ', ""],
    ["a separator in a value", "", "lamp, radio\\\\, old; []; ", '"radio"', '"radio, old"'],
  ];
  test.each(CASES)("%s", async (_, ids, skills, from, to) => {
    const { tables } = await hatch(source, { plan: planOf(form), name: form.file });
    expect(readRows(tables, "stations.csv")[1].slice(3)).toEqual(["P-1; P-2; P-3", "lamp, radio; []; "]);
    if (ids !== "") setCell(tables, "stations.csv", 2, "ids", ids);
    setCell(tables, "stations.csv", 2, "skills", skills);
    expect(text((await fold(tables, { source, name: form.file })).bytes)).toBe(source.replace(from, to));
  });

  test("lists that are not as long", async () => {
    const { tables } = await hatch(source, { plan: planOf(form), name: form.file });
    setCell(tables, "stations.csv", 2, "skills", "lamp; rope");
    const { problems } = await compare(tables, { source, name: form.file });
    expect(problems.map((one) => `${one.row} ${one.column}: ${brief(one)}`)).toEqual([
      '2 skills: pack-lengths {"lengths":["ids 3","skills 2"]}',
    ]);
  });

  test.each([
    ["skills", '["; ", ", "]', 'plan-pack-deep {"column":"skills","levels":2,"path":"skills"}'],
    ["crew/skills", '["; ", ", "], pair: "="', 'plan-layout {"column":"skills"}'],
  ])("a plan with at: %s, pack: %s", async (at, pack, expected) => {
    const plan = `hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { stations: { rows: stations, columns: { skills: { at: ${at}, pack: ${pack} } } } }`;
    expect(await refusal(hatch(source, { plan, name: "s.json" }))).toBe(expected);
  });
});
