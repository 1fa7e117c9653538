/** The laws of relations: links seen from both sides, new ids, references over several sources, rows without marks, flat sheets taken apart. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, foldNew, hatch, MemoryTables } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, bytes, edit, readRows, text } from "../support/sheets.js";

interface World {
  readonly people: readonly string[];
  readonly stations: readonly string[];
  readonly postings: readonly { readonly person: string; readonly station: string; readonly role: string }[];
}

const worlds: fc.Arbitrary<World> = fc
  .record({
    people: fc.integer({ min: 1, max: 5 }),
    stations: fc.integer({ min: 1, max: 4 }),
    links: fc.uniqueArray(fc.tuple(fc.nat({ max: 4 }), fc.nat({ max: 3 }), fc.constantFrom("keeper", "cook", "")), {
      maxLength: 8,
      selector: ([p, s]) => `${p} ${s}`,
    }),
  })
  .map(({ people, stations, links }) => ({
    people: Array.from({ length: people }, (_, p) => `P-00${p + 1}`),
    stations: Array.from({ length: stations }, (_, s) => `S-0${s + 1}`),
    postings: links
      .filter(([p, s]) => p < people && s < stations)
      .map(([p, s, role]) => ({ person: `P-00${p + 1}`, station: `S-0${s + 1}`, role })),
  }));
const nameOf = (id: string): string => `N ${id.slice(-2)}`;

interface Form {
  readonly name: string;
  readonly format: string;
  readonly rows: (kind: "people" | "stations" | "postings") => string;
  readonly field: (name: string) => string;
  readonly write: (world: World) => string;
}
const JSON_FORM: Form = {
  name: "w.json",
  format: "json",
  rows: (kind) => kind,
  field: (name) => name,
  write: ({ people, stations, postings }) =>
    JSON.stringify(
      { people: people.map((id) => ({ id, name: nameOf(id) })), stations: stations.map((code) => ({ code })), postings },
      null,
      1,
    ),
};
const XML_FORM: Form = {
  name: "w.xml",
  format: "xml",
  rows: (kind) => ({ people: "w/person", stations: "w/station", postings: "w/posting" })[kind],
  field: (name) => `"@${name}"`,
  write: ({ people, stations, postings }) =>
    `<w>\n${[
      ...people.map((id) => ` <person id="${id}" name="${nameOf(id)}"/>\n`),
      ...stations.map((code) => ` <station code="${code}"/>\n`),
      ...postings.map(({ person, station, role }) => ` <posting person="${person}" station="${station}" role="${role}"/>\n`),
    ].join("")}</w>\n`,
};

function planOf({ name, format, rows, field }: Form, more: { people?: string; postings?: string; seen?: boolean } = {}): string {
  const seen = (column: string): string => (more.seen === true ? column : "");
  return `
hatchfold: 1
sources: { w: { file: ${name}, format: ${format} } }
tables:
  people: { rows: ${rows("people")}, key: id, label: name, ${more.people ?? ""} columns: { id: ${field("id")}, name: ${field("name")}${seen(", at: { through: postings, show: station }")} } }
  stations: { rows: ${rows("stations")}, key: code, columns: { code: ${field("code")}${seen(", who: { through: postings, show: person }")} } }
  postings: { rows: ${rows("postings")}, ${more.postings ?? ""} columns: { person: { at: ${field("person")}, refers: people }, station: { at: ${field("station")}, refers: stations }, role: ${field("role")} } }
`;
}

/** Postings change, come and go; codes are those of records that are there. */
function editPostings(tables: MemoryTables, world: World, random: Random): void {
  edit(tables, "postings.csv", (rows, titles) => {
    const [person, station] = [titles.indexOf("person"), titles.indexOf("station")];
    for (const row of rows.slice(1)) {
      if (random.chance(4)) row[person] = random.pick(world.people);
      if (random.chance(4)) row[station] = random.pick(world.stations);
      if (random.chance(6)) row[1] = "remove";
    }
    for (let n = random.next(3); n > 0; n--)
      rows.push(
        titles.map((title) => (title === "person" ? random.pick(world.people) : title === "station" ? random.pick(world.stations) : "")),
      );
  });
  // the labels beside the codes follow: they are left out
  edit(tables, "postings.csv", (rows, titles) => rows.map((row) => row.filter((_, c) => titles[c] !== "person name")));
}

describe.each([
  ["JSON", JSON_FORM],
  ["XML", XML_FORM],
])("%s", (_, form) => {
  const { name } = form;

  test("both sides show the links, and compare says what they will say", () =>
    law(
      fc.tuple(worlds, fc.nat()),
      async ([world, seed]) => {
        const plan = planOf(form, { seen: true });
        const source = form.write(world);
        const { tables } = await hatch(source, { plan, name });
        expect(text((await fold(tables, { source, name })).bytes)).toBe(source);
        const cells = (all: MemoryTables): Map<string, string> =>
          new Map(
            ["people", "stations"].flatMap((table) =>
              readRows(all, `${table}.csv`)
                .slice(1)
                .map((row) => [`${table} ${row[2]}`, row.at(-1)!] as const),
            ),
          );
        const before = cells(tables);
        editPostings(tables, world, new Random(seed));
        const { follows, problems } = await compare(tables, { source, name });
        expect(problems).toEqual([]);
        const after = cells((await hatch((await fold(tables, { source, name })).bytes, { plan, name })).tables);
        const told = new Map(follows.map((one) => [`${one.table} ${one.record}`, one]));
        for (const [record, cell] of after) {
          expect([record, cell]).toEqual([record, told.get(record)?.new ?? before.get(record)]);
          if (told.has(record)) expect(told.get(record)!.old).toBe(before.get(record));
        }
      },
      RUNS / 3,
    ));

  test("new ids are free ones, and what names a new record by + has its id", () =>
    law(
      fc.tuple(worlds, fc.integer({ min: 1, max: 3 }), fc.nat()),
      async ([world, news, seed]) => {
        const random = new Random(seed);
        const plan = planOf(form, { people: 'new: { id: "P-{000}" },' });
        const source = form.write(world);
        const { tables } = await hatch(source, { plan, name });
        const row = (cells: Record<string, string>) => (rows: string[][], titles: string[]) => [
          ...rows,
          titles.map((title) => cells[title] ?? ""),
        ];
        for (let n = 0; n < news; n++) {
          const table = random.chance(2) ? ["postings", "people"] : ["people", "postings"];
          for (const one of table)
            edit(
              tables,
              `${one}.csv`,
              row(
                one === "people" ? { "fold mark": `+${n}`, name: `New ${n}` } : { person: `+${n}`, station: random.pick(world.stations) },
              ),
            );
        }
        if (random.chance(2)) edit(tables, "people.csv", (rows) => [rows[0], ...random.shuffle(rows.slice(1))]);
        const folded = await fold(tables, { source, name });
        const again = (await hatch(folded.bytes, { plan, name })).tables;
        const people = readRows(again, "people.csv")
          .slice(1)
          .map((one) => one.slice(2, 4));
        const ids = people.map(([id]) => id);
        expect(new Set(ids).size).toBe(world.people.length + news);
        expect(ids.every((id) => /^P-\d{3}$/.test(id))).toBe(true);
        expect(people.slice(0, world.people.length)).toEqual(world.people.map((id) => [id, nameOf(id)]));
        const labels = readRows(again, "postings.csv")
          .slice(1)
          .map((one) => one.slice(2, 4));
        for (const [person, label] of labels) expect(people).toContainEqual([person, label]);
        expect(labels.flatMap(([, label]) => (label.startsWith("New") ? [label] : [])).sort()).toEqual(
          Array.from({ length: news }, (_, n) => `New ${n}`),
        );
      },
      RUNS / 3,
    ));

  test("rows that are matched without marks fold as rows with marks do", () =>
    law(
      fc.tuple(worlds, fc.nat()),
      async ([world, seed]) => {
        const random = new Random(seed);
        const plan = planOf(form, { people: "match: id,", postings: "match: [person, station]," });
        const source = form.write(world);
        const made = async (): Promise<MemoryTables> => (await hatch(source, { plan, name })).tables;
        const [marked, bare] = [await made(), await made()];
        const value = (): string => random.pick(["cook", "mate", "007", ""]);
        for (const [file, title] of [
          ["people.csv", "name"],
          ["postings.csv", "role"],
        ]) {
          const edited = readRows(marked, file)
            .slice(1)
            .map(() => (random.chance(3) ? value() : null));
          const order = random.shuffle(edited.map((_, i) => i)).filter(() => !random.chance(5));
          for (const [tables, withMarks] of [
            [marked, true],
            [bare, false],
          ] as const)
            edit(tables, file, (rows, titles) => {
              edited.forEach((now, i) => now !== null && (rows[i + 1][titles.indexOf(title)] = now));
              const kept = [rows[0], ...order.map((i) => rows[i + 1])];
              const columns = titles
                .map((one, c) => ({ one, c }))
                .filter(({ one }) => one !== "person name" && (withMarks || (one !== "fold mark" && one !== ACTION)));
              return kept.map((row) => columns.map(({ c }) => row[c]));
            });
        }
        const folded = async (tables: MemoryTables): Promise<string> => text((await fold(tables, { source, name })).bytes);
        expect(await folded(bare)).toBe(await folded(marked));
      },
      RUNS / 3,
    ));

  test("one flat sheet is taken apart into each record once, in whatever order its rows are", () =>
    law(
      fc.tuple(
        worlds.filter(({ postings }) => postings.length > 0),
        fc.nat(),
      ),
      async ([world, seed]) => {
        const random = new Random(seed);
        const titles = ["Person no", "Person", "Station", "Role"];
        const rows = random.shuffle(world.postings.map(({ person, station, role }) => [person, nameOf(person), station, role]));
        const sheet = {
          file: "flat.csv",
          people: "{ id: Person no, name: Person }",
          stations: "{ code: Station }",
          postings: "{ person: Person no, station: Station, role: Role }",
        };
        const plan = planOf(form).replace(
          /(people|stations|postings): \{ rows: ([^,]+),/g,
          (_, kind: "people" | "stations" | "postings", at: string) =>
            `${kind}: { rows: ${at}, sheet: { file: ${sheet.file}, titles: ${sheet[kind]} },`,
        );
        const flat = (all: string[][]): MemoryTables =>
          new MemoryTables([["flat.csv", bytes([titles, ...all].map((row) => row.join(";")).join("\r\n"))]]);
        const made = await foldNew(flat(rows), { plan });
        const again = (await hatch(made.bytes, { plan: planOf(form), name })).tables;
        const cells = (file: string): string[] =>
          readRows(again, file)
            .slice(1)
            .map((row) => row.slice(2).join(" ").trim());
        const once = (all: string[]): string[] => [...new Set(all)];
        expect(cells("people.csv")).toEqual(once(rows.map(([id, called]) => `${id} ${called}`)));
        expect(cells("stations.csv")).toEqual(once(rows.map(([, , station]) => station)));
        expect(cells("postings.csv")).toEqual(rows.map(([id, called, station, role]) => `${id} ${called} ${station} ${role}`.trim()));
        const again_ = rows.find(([id], i) => rows.findIndex((one) => one[0] === id) < i);
        fc.pre(again_ !== undefined);
        again_[1] = "Somebody else";
        await expect(foldNew(flat(rows), { plan })).rejects.toMatchObject({ code: "problems-left" });
      },
      RUNS / 3,
    ));
});

describe("over two sources of different formats", () => {
  const plan = `
hatchfold: 1
sources: { register: { file: w.json, format: json }, notices: { file: n.xml, format: xml } }
tables:
  people: { from: register, rows: people, key: id, label: name, new: { id: "P-{000}" }, columns: { id: id, name: name } }
  notices: { from: notices, rows: n/notice, key: no, columns: { no: "@no", by: { at: "@by", refers: people, label: "@name", copied: true } } }
`;

  test("codes, labels and new ids agree in both files after a fold; a code of nobody is a problem", () =>
    law(
      fc.tuple(worlds, fc.array(fc.nat({ max: 4 }), { maxLength: 6 }), fc.nat()),
      async ([world, by, seed]) => {
        const random = new Random(seed);
        const known = by.map((p) => world.people[p % world.people.length]);
        const register = JSON_FORM.write(world);
        const notices = `<n>${known.map((id, i) => `<notice no="${i}" by="${id}" name="${nameOf(id)}"/>`).join("")}</n>`;
        const given = (): Map<string, string> => new Map(Object.entries({ register, notices }));
        const { tables } = await hatch(given(), { plan });
        expect((await fold(tables, { source: given() })).files.map((file) => text(file.bytes))).toEqual([register, notices]);
        const renamed = random.pick(world.people);
        edit(tables, "people.csv", (rows, titles) => {
          if (random.chance(2)) rows.find((row) => row[titles.indexOf("id")] === renamed)![titles.indexOf("name")] = "Renamed";
          rows.push(["+x", "", "", "Newly come"]);
        });
        const nobody = random.chance(4);
        edit(tables, "notices.csv", (rows, titles) => {
          const row = rows.length > 1 ? random.pick(rows.slice(1)) : null;
          if (row !== null) row[titles.indexOf("by")] = nobody ? "P-9" : random.pick(["+x", ...world.people]);
          rows.push(titles.map((title) => (title === "no" ? "99" : title === "by" ? "+x" : "")));
        });
        const { problems } = await compare(tables, { source: given() });
        expect(problems.map(({ code }) => code)).toEqual(nobody && known.length > 0 ? ["ref-unknown"] : []);
        fc.pre(problems.length === 0);
        const { files } = await fold(tables, { source: given() });
        const again = (
          await hatch(
            new Map([
              ["register", text(files[0].bytes)],
              ["notices", text(files[1].bytes)],
            ]),
            { plan },
          )
        ).tables;
        const people = readRows(again, "people.csv")
          .slice(1)
          .map((row) => row.slice(2).join(" "));
        for (const [, , , id, called] of readRows(again, "notices.csv").slice(1)) expect(people).toContain(`${id} ${called}`);
        expect(readRows(again, "notices.csv").at(-1)!.slice(4)).toEqual(["Newly come"]);
      },
      RUNS / 2,
    ));
});
