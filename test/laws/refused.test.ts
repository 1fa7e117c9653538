/** Sheets in which rows are read with those around them: good rows and mended ones give what all of them together give. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, MemoryTables } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, copyTables, edit, MARK, readRows, text, writeRows, type Rows } from "../support/sheets.js";

type Named = Record<string, unknown>;

/** A layout: documents, and what people write into its sheet. */
interface Layout {
  readonly plan: string;
  readonly file: string;
  readonly source: (random: Random) => object;
  /** Titles of the cells that may be edited in a row. */
  readonly editable: (row: Named) => readonly string[];
  /** Titles whose cells are the same in all rows that have this cell in common. */
  readonly shared?: { readonly by: string; readonly titles: readonly string[] };
  /** The order of its rows tells what is in what: none may be deleted. */
  readonly ordered?: true;
  /** Cells of a new row behind that one. */
  readonly fresh?: (n: number, above: Named, random: Random) => Record<string, string>;
}

const NAME = "name: { at: name, max-length: 9 }";
const name = (random: Random): string => random.pick(["Skarv", "Tern", "Ærø", "Gull", "007"]);
const some = <T>(random: Random, least: number, most: number, of: (i: number) => T): T[] =>
  Array.from({ length: least + random.next(most - least + 1) }, (_, i) => of(i));

const stations = (random: Random): object => ({
  stations: some(random, 1, 4, (i) => ({
    code: `S-${i}`,
    name: name(random),
    at: i,
    lights: some(random, 0, 3, (k) => ({ name: name(random), at: k })),
  })),
});
const stacked = (word: string): string => `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  stations: { rows: stations, key: code, columns: { code: code, ${NAME} } }
  lights: { rows: stations/lights, inside: stations, ${word}: true, columns: { light: { at: name, max-length: 9 } } }
`;

const branches = (random: Random): object => {
  let ids = 0;
  const branch = (depth: number): object => ({
    id: `B-${++ids}`,
    name: name(random),
    parts: depth === 0 ? [] : some(random, 0, 2, () => branch(depth - 1)),
  });
  return { parts: some(random, 1, 3, () => branch(2)) };
};
const list = (random: Random, record: (i: number, others: Named[]) => Named): object => {
  const all: Named[] = [];
  for (const i of some(random, 2, 6, (at) => at)) all.push(record(i, all));
  return { parts: all };
};
const tree = (rows: string, words: string, columns: string): string => `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  parts: { rows: ${rows}, key: id, tree: ${words}, columns: { id: id, ${columns}${NAME} } }
`;
const below = (n: number, above: Named, random: Random): Record<string, string> => ({
  id: `N-${n}`,
  parent: random.next(3) === 0 ? "" : (above.id as string),
  name: "new",
});

const LAYOUTS: Record<string, Layout> = {
  beneath: {
    plan: stacked("beneath"),
    file: "stations.csv",
    source: stations,
    editable: (row) => [row.code === "" ? "light" : "name"],
    fresh: (n, { code, stations: holder }, random): Record<string, string> => {
      const around = (code as string) || (holder as string);
      if (random.next(2) === 0 || around === "") return { code: `N-${n}`, name: "new" };
      return { light: `light ${n}`, ...(random.next(2) === 0 ? {} : { stations: around }) };
    },
  },
  repeat: {
    plan: stacked("repeat"),
    file: "stations.csv",
    source: stations,
    editable: (row) => (row.light === "" ? ["name"] : ["name", "light"]),
    shared: { by: "code", titles: ["name"] },
    fresh: (n, { code, name: called }) => ({ code: code as string, name: called as string, light: `light ${n}` }),
  },
  "tree, nested": {
    plan: tree("parts", "parts", ""),
    file: "parts.csv",
    source: branches,
    editable: () => ["name"],
    fresh: below,
  },
  "tree, by code": {
    plan: tree("parts", "{ parent: above }", "above: above, "),
    file: "parts.csv",
    source: (random) =>
      list(random, (i, others) => ({
        id: `B-${i}`,
        above: i === 0 ? "" : random.pick(["", ...others]) && random.pick(others).id,
        name: name(random),
      })),
    editable: () => ["name"],
    fresh: (n, above) => ({ id: `N-${n}`, above: above.id as string, name: "new" }),
  },
  "tree, by path": {
    plan: tree("parts", "{ path: way }", "way: way, "),
    file: "parts.csv",
    source: (random) =>
      list(random, (i, others) => ({
        id: `B-${i}`,
        way: `${i === 0 ? "" : `${random.pick(others).way as string}/`}w${i}`,
        name: name(random),
      })),
    editable: () => ["name"],
    fresh: (n, above) => ({ id: `N-${n}`, way: `${above.way as string}/n${n}`, name: "new" }),
  },
  "tree, by depth": {
    plan: tree("parts", "{ depth: level }", "level: level, "),
    file: "parts.csv",
    source: (random) =>
      list(random, (i, others) => ({
        id: `B-${i}`,
        level: i === 0 ? 1 : 1 + random.next((others.at(-1)!.level as number) + 1),
        name: name(random),
      })),
    ordered: true,
    editable: () => ["name"],
    fresh: (n, above) => ({ id: `N-${n}`, level: String(Number(above.level) + 1), name: "new" }),
  },
  cross: {
    plan: `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  people: { rows: people, key: id, label: name, columns: { id: id, name: name } }
  places: { rows: places, key: id, columns: { id: id } }
  duties:
    rows: duties
    cross: { down: person, across: place, cell: duty }
    columns: { person: { at: person, refers: people }, place: { at: place, refers: places }, duty: { at: duty, max-length: 9 } }
`,
    file: "duties.csv",
    source: (random) => ({
      people: some(random, 1, 3, (i) => ({ id: `P-${i}`, name: `Person ${i}` })),
      places: some(random, 1, 3, (i) => ({ id: `Q-${i}` })),
      duties: [...new Set(some(random, 1, 4, () => `0 ${random.next(1)}`))].map((way) => ({
        person: "P-0",
        place: `Q-${way.slice(2)}`,
        duty: "look",
      })),
    }),
    editable: (row) => Object.keys(row).filter((title) => title.startsWith("Q-")),
  },
};

const asObjects = ([titles, ...rows]: Rows): Named[] =>
  rows.map((cells) => Object.fromEntries(titles.map((title, c) => [title, cells[c] ?? ""])));

/** Lists in one order: new records stand in that of their coming. */
const inOneOrder = (value: unknown): unknown => {
  if (Array.isArray(value)) return value.map(inOneOrder).sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, inOneOrder(one)]));
};
const meant = (bytes: Uint8Array): unknown => inOneOrder(JSON.parse(text(bytes)));

describe.each(Object.entries(LAYOUTS))("%s", (_, { plan, file, source: sourceOf, editable, shared, fresh, ordered }) => {
  test("good rows and mended ones give what all of them together give", async () => {
    let refusals = 0;
    await law(
      fc.nat(),
      async (seed) => {
        const random = new Random(seed);
        const source = JSON.stringify(sourceOf(random), null, 1);
        const { tables } = await hatch(source, { plan, name: "s.json" });
        const [titles, ...rows] = readRows(tables, file);
        const right: Rows = [titles];
        const wrong: Rows = [titles];
        const mended = new Map<string, string>();
        const wordFor = new Map<string, readonly [string, string]>();
        const words = (): readonly [string, string] => {
          const good = `w${random.next(50)}`;
          const bad = random.next(2) === 0 ? good : `much too long ${mended.size}`;
          if (bad !== good) mended.set(bad, good);
          return [good, bad];
        };
        let n = 0;
        for (const [i, cells] of rows.entries()) {
          const row = asObjects([titles, cells])[0];
          const [good, bad] = [[...cells], [...cells]];
          for (const title of editable(row)) {
            const one = shared?.titles.includes(title) === true ? `${title} ${row[shared.by] as string}` : `${title} ${i}`;
            if (!wordFor.has(one)) wordFor.set(one, random.next(3) === 0 ? words() : [row[title] as string, row[title] as string]);
            const at = titles.indexOf(title);
            [good[at], bad[at]] = wordFor.get(one)!;
          }
          if (random.next(8) === 0) {
            bad[titles.indexOf(ACTION)] = "away with it";
            good[titles.indexOf(ACTION)] = random.pick(["", "remove"]);
            if (good.includes("remove")) bad[titles.indexOf(ACTION)] = "away";
          }
          right.push(good);
          wrong.push(bad);
          if (fresh === undefined || random.next(4) > 0) continue;
          const said = fresh(++n, row, random);
          const made = titles.map((title) => said[title] ?? "");
          const spoilt = [...made];
          if (random.next(2) === 0) spoilt[titles.indexOf(ACTION)] = "away with it";
          right.push(made);
          wrong.push(spoilt);
        }
        const all = copyTables(tables);
        writeRows(all, file, right);
        writeRows(tables, file, wrong);
        const together = await fold(all, { source, name: "s.json" }).catch((error: unknown) => error as Error);
        fc.pre(!(together instanceof Error));
        const refused = new MemoryTables();
        const good = await fold(tables, { source, name: "s.json", partial: true, refused });
        if (!refused.contents.has(file)) {
          expect(meant(good.bytes)).toEqual(meant(together.bytes));
          return;
        }
        refusals++;
        const again = await compare(refused, { source: good.bytes, name: "s.json" });
        expect([readRows(refused, file)[0].slice(0, 2), again.problems.length > 0, again.changes]).toEqual([
          ["fold problem", MARK],
          true,
          [],
        ]);
        edit(refused, file, (cells) =>
          cells
            .filter((one, i) => i === 0 || one[0] !== "" || ordered === true || random.next(3) > 0)
            .map((one) => one.map((cell) => (cell === "away with it" ? "" : cell === "away" ? "remove" : (mended.get(cell) ?? cell)))),
        );
        const done = await fold(refused, { source: good.bytes, name: "s.json" });
        expect(meant(done.bytes)).toEqual(meant(together.bytes));
      },
      RUNS,
      () => refusals > 0,
    );
    expect(refusals).toBeGreaterThan(0);
  });
});
