/** The laws for cross tables: edits of cells give what the same edits give in rows of links. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, edit, readRows, text, writeRows } from "../support/sheets.js";

interface World {
  readonly people: readonly string[];
  readonly stations: readonly string[];
  readonly links: readonly { readonly person: string; readonly station: string; readonly role: string; readonly mind: string }[];
}

const roles = ["keeper", "007", "a; b", "x", "two words", "\\", "1E5"];
const worlds: fc.Arbitrary<World> = fc
  .record({
    people: fc.nat({ max: 4 }),
    stations: fc.nat({ max: 4 }),
    links: fc.array(fc.record({ person: fc.nat(), station: fc.nat(), role: fc.constantFrom(...roles) }), { maxLength: 8 }),
  })
  .map(({ people, stations, links }) => {
    const [persons, places] = [
      Array.from({ length: people + 1 }, (_, i) => `00${i + 1}`),
      Array.from({ length: stations + 1 }, (_, i) => `S-${i + 1}`),
    ];
    const of = (list: readonly string[], n: number): string => list[n % list.length];
    return {
      people: persons,
      stations: places,
      // no column shows what each has for itself
      links: links.map((one, i) => ({ ...one, person: of(persons, one.person), station: of(places, one.station), mind: `its own ${i}` })),
    };
  });

const tablesOf = (people: string, stations: string): string =>
  `  people: { rows: ${people}, key: id, columns: { id: ${people.includes("/") ? '"@id"' : "id"} } }\n  stations: { rows: ${stations}, key: code, columns: { code: ${stations.includes("/") ? '"@code"' : "code"} } }\n`;

interface Form {
  readonly name: string;
  readonly file: string;
  readonly write: (world: World) => string;
  /** The plan; `layout` says how the links are shown. */
  readonly plan: (layout: string) => string;
  /** What the column of each side is called. */
  readonly sides: { readonly person: string; readonly station: string };
}

const FORMS: readonly Form[] = [
  {
    name: "JSON, records of their own",
    file: "links.json",
    write: ({ people, stations, links }) =>
      JSON.stringify({ people: people.map((id) => ({ id })), stations: stations.map((code) => ({ code })), links }, null, 1),
    plan: (layout) =>
      `hatchfold: 1\nsources: { s: { file: links.json, format: json } }\ntables:\n${tablesOf("people", "stations")}  links: { rows: links, ${layout} columns: { person: { at: person, refers: people }, station: { at: station, refers: stations }, role: role } }\n`,
    sides: { person: "person", station: "station" },
  },
  {
    name: "JSON, inside the stations",
    file: "links.json",
    write: ({ people, stations, links }) =>
      JSON.stringify({
        people: people.map((id) => ({ id })),
        stations: stations.map((code) => ({
          code,
          crew: links.filter((one) => one.station === code).map(({ person, role, mind }) => ({ person, mind, role })),
        })),
      }),
    plan: (layout) =>
      `hatchfold: 1\nsources: { s: { file: links.json, format: json } }\ntables:\n${tablesOf("people", "stations")}  links: { rows: stations/crew, inside: stations, ${layout} columns: { person: { at: person, refers: people }, role: role } }\n`,
    sides: { person: "person", station: "stations" },
  },
  {
    name: "XML",
    file: "links.xml",
    write: ({ people, stations, links }) => {
      const clean = (role: string): string => role.replace(/[&<"]/g, (c) => `&#${c.charCodeAt(0)};`);
      return `<r>\n${[
        ...people.map((id) => `  <person id="${id}"/>\n`),
        ...stations.map((code) => `  <station code="${code}"/>\n`),
        ...links.map(
          ({ person, station, role, mind }) => `  <link person="${person}" mind="${mind}" station='${station}' role="${clean(role)}"/>\n`,
        ),
      ].join("")}</r>\n`;
    },
    plan: (layout) =>
      `hatchfold: 1\nsources: { s: { file: links.xml, format: xml } }\ntables:\n${tablesOf("r/person", "r/station")}  links: { rows: r/link, ${layout} columns: { person: { at: "@person", refers: people }, station: { at: "@station", refers: stations }, role: "@role" } }\n`,
    sides: { person: "person", station: "station" },
  },
  {
    name: "tagged lines",
    file: "links.txt",
    write: ({ people, stations, links }) =>
      [
        ...people.map((id) => `P|${id}\n`),
        ...stations.map((code) => `S|${code}\n`),
        ...links.map(({ person, station, role, mind }) => `L|${person}|${station}|${role}|${mind}\n`),
      ].join(""),
    plan: (layout) => `hatchfold: 1
sources:
  s:
    file: links.txt
    format: tagged
    layout:
      delimiter: "|"
      records: { person: { tag: P, fields: [id] }, place: { tag: S, fields: [code] }, link: { tag: L, fields: [person, station, role, mind] } }
tables:
${tablesOf("person", "place")}  links: { rows: link, ${layout} columns: { person: { at: person, refers: people }, station: { at: station, refers: stations }, role: role } }
`,
    sides: { person: "person", station: "station" },
  },
];

const SEPARATOR = "; ";
/** Items of a cell, by a reading of the guide: what has a backslash before it belongs to the item. */
const items = (cell: string): string[] =>
  cell === "" ? [] : [...cell.matchAll(/((?:\\.|[^\\;])*)(?:; |$)/gs)].slice(0, -1).map(([, one]) => one.replace(/\\(.)/gs, "$1"));
const packed = (list: readonly string[]): string => list.map((one) => one.replace(/[\\;]/g, "\\$&")).join(SEPARATOR);

/** What each link has for itself, by the role of it, in order. */
function mindsIn(json: string): string[] {
  const found: string[] = [];
  JSON.parse(json, (_, value: { role?: string; mind?: string } | null) => {
    if (typeof value?.role === "string") found.push(`${value.role} ${value.mind}`);
    return value;
  });
  return found.sort();
}

describe.each(FORMS.map((form) => [form.name, form] as const))("%s", (_, form) => {
  const { file: name, sides } = form;
  const folded = async (tables: MemoryTables, source: string): Promise<string> => {
    expect((await compare(tables, { source, name })).problems).toEqual([]);
    return text((await fold(tables, { source, name })).bytes);
  };

  describe.each([
    ["people down", sides.person, sides.station],
    ["stations down", sides.station, sides.person],
  ])("%s", (_, down, across) => {
    const cross = form.plan(`cross: { down: ${down}, across: ${across}, cell: role },`);

    test("every link is in its cell; nothing edited, nothing changed, in any order", () =>
      law(
        fc.tuple(worlds, fc.nat()),
        async ([world, seed]) => {
          const source = form.write(world);
          const random = new Random(seed);
          const { tables } = await hatch(source, { plan: cross, name });
          const [head, ...body] = readRows(tables, "links.csv");
          const shown = body.flatMap((row) =>
            row.slice(3).flatMap((cell, c) => items(cell).map((role) => [row[2], head[c + 3], role].join())),
          );
          const told = (one: World["links"][number]): string =>
            (down === sides.person ? [one.person, one.station, one.role] : [one.station, one.person, one.role]).join();
          expect(shown.sort()).toEqual(world.links.map(told).sort());
          const order = [0, ...random.shuffle([...head.keys()].slice(1)).filter((c) => c < 3 || !random.chance(4))];
          writeRows(
            tables,
            "links.csv",
            [head, ...random.shuffle(body.filter(() => !random.chance(4)))].map((row) => order.map((c) => row[c])),
          );
          expect(await folded(tables, source)).toBe(source);
        },
        RUNS / 8,
      ));

    test.runIf(name.endsWith(".json"))("items put in another order in their cells keep what no column shows", () =>
      law(
        fc.tuple(worlds, fc.nat()),
        async ([world, seed]) => {
          // no role twice in a cell: of two alike nobody can say which is which
          const cellOf = ({ person, station, role }: World["links"][number]): string => [person, station, role].join();
          const links = world.links.filter((one, i) => world.links.findIndex((other) => cellOf(other) === cellOf(one)) === i);
          const source = form.write({ ...world, links });
          const random = new Random(seed);
          const { tables } = await hatch(source, { plan: cross, name });
          edit(tables, "links.csv", (rows) => {
            for (const row of rows.slice(1)) for (let c = 3; c < row.length; c++) row[c] = packed(random.shuffle(items(row[c])));
          });
          expect(mindsIn(await folded(tables, source))).toEqual(mindsIn(source));
        },
        RUNS / 2,
      ),
    );

    test("cells filled, changed and cleared give what rows of links give", async () => {
      let changed = 0;
      await law(
        fc.tuple(worlds, fc.nat()),
        async ([world, seed]) => {
          const source = form.write(world);
          const random = new Random(seed);
          const [links, crossed] = await Promise.all(
            [form.plan(""), cross].map(async (plan) => (await hatch(source, { plan, name })).tables),
          );
          edit(crossed, "links.csv", (rows) => {
            const [head, ...body] = rows;
            for (const row of body) {
              for (let c = 3; c < head.length; c++) {
                if (!random.chance(3)) continue;
                const old = items(row[c]);
                // one more, one less, or another role for the first
                const kind = old.length === 0 ? 0 : random.next(3);
                const now = kind === 0 ? [...old, "new"] : kind === 1 ? old.slice(0, -1) : ["other", ...old.slice(1)];
                row[c] = packed(now);
                edit(links, "links.csv", (plain) => {
                  const at = (title: string): number => plain[0].indexOf(title);
                  const mine = plain.filter((one) => one[at(down)] === row[2] && one[at(across)] === head[c] && one[0] !== "");
                  if (kind === 1) mine.at(-1)![at(ACTION)] = "remove";
                  else if (kind === 2) mine[0][at("role")] = "other";
                  else plain.push(plain[0].map((title) => ({ [down]: row[2], [across]: head[c], role: "new" })[title] ?? ""));
                });
              }
            }
          });
          const expected = await folded(links, source);
          if (expected !== source) changed++;
          expect(await folded(crossed, source)).toBe(expected);
        },
        RUNS / 8,
        () => changed > 0,
      );
      expect(changed).toBeGreaterThan(0);
    });
  });
});
