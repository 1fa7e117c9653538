/** What goes with a removed record, and who still refers to it. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, writeReport, type MemoryTables } from "hatch-fold";
import { formatMark, markSalt } from "../src/model/marks.js";
import { law, RUNS } from "./support/laws.js";
import { ACTION, edit, setCell, text } from "./support/sheets.js";
import { brief } from "./support/brief.js";

interface World {
  /** Codes of stations, by district. */
  readonly districts: readonly (readonly string[])[];
  /** Codes of stations, some of nobody's. */
  readonly links: readonly string[];
}
interface Form {
  readonly name: string;
  readonly plan: string;
  readonly write: (world: World) => string;
  readonly read: (source: string) => { stations: string[]; links: string[] };
}

const planOf = (file: string, rows: (kind: string) => string, field: (name: string) => string): string => `
hatchfold: 1
sources: { r: { file: ${file} } }
tables:
  districts: { rows: ${rows("districts")}, key: code, columns: { code: ${field("code")} } }
  stations: { rows: ${rows("stations")}, inside: districts, key: code, columns: { code: ${field("code")} } }
  links: { rows: ${rows("links")}, columns: { at: { at: ${field("at")}, refers: stations } } }
`;
const all = (source: string, pattern: RegExp): string[] => [...source.matchAll(pattern)].map((match) => match[1]);
const JSON_FORM: Form = {
  name: "r.json",
  plan: planOf(
    "r.json",
    (kind) => (kind === "stations" ? "districts/stations" : kind),
    (name) => name,
  ),
  write: ({ districts, links }) =>
    JSON.stringify(
      {
        districts: districts.map((codes, d) => ({ code: `D${d}`, stations: codes.map((code) => ({ code })) })),
        links: links.map((at) => ({ at })),
      },
      null,
      1,
    ),
  read: (source) => ({ stations: all(source, /"code": "(S\d+)"/g), links: all(source, /"at": "(S\d+)"/g) }),
};
const XML_FORM: Form = {
  name: "r.xml",
  plan: planOf(
    "r.xml",
    (kind) => ({ districts: "r/d", stations: "r/d/s", links: "r/l" })[kind]!,
    (name) => `"@${name}"`,
  ),
  write: ({ districts, links }) =>
    `<r>\n${districts.map((codes, d) => ` <d code="D${d}">${codes.map((code) => `<s code="${code}"/>`).join("")}</d>\n`).join("")}${links
      .map((at) => ` <l at="${at}"/>\n`)
      .join("")}</r>\n`,
  read: (source) => ({ stations: all(source, /<s code="(S\d+)"/g), links: all(source, /<l at="(S\d+)"/g) }),
};
const LINES_FORM: Form = {
  name: "r.txt",
  plan: `
hatchfold: 1
sources:
  r:
    file: r.txt
    format: tagged
    layout:
      delimiter: "|"
      records:
        district: { tag: D, fields: [code] }
        station: { tag: S, inside: district, fields: [code] }
        link: { tag: L, fields: [at] }
tables:
  districts: { rows: district, key: code, columns: { code: code } }
  stations: { rows: district/station, inside: districts, key: code, columns: { code: code } }
  links: { rows: link, columns: { at: { at: at, refers: stations } } }
`,
  write: ({ districts, links }) =>
    [...districts.flatMap((codes, d) => [`D|D${d}`, ...codes.map((code) => `S|${code}`)]), ...links.map((at) => `L|${at}`), ""].join("\n"),
  read: (source) => ({ stations: all(source, /^S\|(S\d+)/gm), links: all(source, /^L\|(S\d+)/gm) }),
};
const FORMS: [string, Form][] = [
  ["JSON", JSON_FORM],
  ["XML", XML_FORM],
  ["tagged lines", LINES_FORM],
];

const code = fc.nat({ max: 9 }).map((n) => `S${n}`);
const worlds = fc.record({
  codes: fc.uniqueArray(code, { minLength: 1, maxLength: 8 }),
  cuts: fc.array(fc.nat({ max: 8 }), { minLength: 1, maxLength: 3 }),
  links: fc.array(code, { minLength: 1, maxLength: 6 }),
  edits: fc.array(fc.tuple(fc.constantFrom("district", "station", "link", "move", "code", "rename"), fc.nat(), fc.nat()), {
    minLength: 1,
    maxLength: 5,
  }),
});

describe.each(FORMS)("%s", (_, form) => {
  test("a record that others refer to does not go unseen, with whatever it goes", () => {
    let [folds, refusals] = [0, 0];
    return law(worlds, async ({ codes, cuts, links, edits }) => {
      const bounds = [0, ...cuts.map((cut) => Math.min(cut, codes.length)).sort((a, b) => a - b), codes.length];
      const districts = bounds.slice(1).map((to, d) => codes.slice(bounds[d], to));
      const source = form.write({ districts, links });
      const { tables } = await hatch(source, { plan: form.plan, name: form.name });
      // what the tables say, as a person reads them
      const at = districts.flatMap((held, d) => held.map((one) => ({ now: one, d, from: d, removed: false })));
      const link = links.map((one) => ({ was: one, now: one, removed: false }));
      const goes = new Set<number>();
      for (const [what, n, m] of edits) {
        const [d, s, l] = [n % districts.length, n % at.length, n % link.length];
        if (what === "district") goes.add(d);
        else if (what === "station") at[s].removed = true;
        else if (what === "link") link[l].removed = true;
        else if (what === "move") at[s].d = m % districts.length;
        else if (what === "code") link[l].now = `S${m % 10}`;
        else at[s].now = `S1${s}`;
      }
      for (const d of goes) setCell(tables, "districts.csv", d + 2, ACTION, "remove");
      for (const [s, one] of at.entries()) {
        setCell(tables, "stations.csv", s + 2, "districts", `D${one.d}`);
        setCell(tables, "stations.csv", s + 2, "code", one.now);
        if (one.removed) setCell(tables, "stations.csv", s + 2, ACTION, "remove");
      }
      for (const [l, one] of link.entries()) {
        setCell(tables, "links.csv", l + 2, "at", one.now);
        if (one.removed) setCell(tables, "links.csv", l + 2, ACTION, "remove");
      }
      const { problems } = await check(tables, { source, name: form.name });
      if (at.some(({ d, from, removed }) => d !== from && goes.has(d) && !removed)) {
        expect(problems.map((one) => one.code)).toContain("parent-removed");
        return;
      }
      const stay = new Set(at.filter((one) => !one.removed && !goes.has(one.d)).map((one) => one.now));
      const loose = link.flatMap(({ was, now, removed }, l) => {
        const broken = now !== was ? !stay.has(now) : codes.includes(was) && !stay.has(was);
        return !removed && broken ? [l + 2] : [];
      });
      const told = problems.filter((one) => one.table === "links" && one.column === "at").map(({ row }) => row);
      expect([...told].sort((a, b) => a - b)).toEqual(loose);
      if (loose.length > 0) refusals++;
      if (problems.length > 0) return;
      folds++;
      const { stations, links: kept } = form.read(text((await fold(tables, { source, name: form.name })).bytes));
      expect(new Set(stations)).toEqual(stay);
      expect(kept).toEqual(link.filter(({ removed }) => !removed).map(({ now }) => now));
    }).then(() => expect(Math.min(folds, refusals)).toBeGreaterThan(RUNS / 60));
  });
});

describe("what people read", () => {
  const source = JSON_FORM.write({ districts: [["S1", "S2"], ["S3"]], links: ["S1", "S3"] });
  const tablesOf = async (): Promise<MemoryTables> => (await hatch(source, { plan: JSON_FORM.plan, name: "r.json" })).tables;
  const without = (tables: MemoryTables, file: string, row: number): void =>
    void edit(tables, file, (rows) => rows.filter((_, i) => i !== row - 1));

  test.each<[string, (tables: MemoryTables) => void, string, string[]]>([
    [
      "a district with stations that are referred to",
      (tables) => void setCell(tables, "districts.csv", 2, ACTION, "remove"),
      "leave",
      ['links 2 ref-lost {"by":"districts","key":"S1","mirrored":false,"row":2,"table":"stations"}'],
    ],
    [
      "a station",
      (tables) => void setCell(tables, "stations.csv", 2, ACTION, "remove"),
      "leave",
      ['links 2 ref-lost {"by":"stations","key":"S1","mirrored":false,"row":2,"table":"stations"}'],
    ],
    [
      "a station without a row",
      (tables) => without(tables, "stations.csv", 4),
      "remove",
      ['links 3 ref-lost {"by":"stations","key":"S3","mirrored":false,"row":0,"table":"stations"}'],
    ],
    [
      "a station, and what refers to it has no row",
      (tables) => {
        without(tables, "links.csv", 2);
        setCell(tables, "stations.csv", 2, ACTION, "remove");
      },
      "leave",
      [
        `links 0 ref-lost {"by":"stations","key":"S1","mirrored":false,"record":"${formatMark(markSalt("links"), 0)}","row":2,"table":"stations"}`,
      ],
    ],
    [
      "a station, and what refers to it has a row that is wrong",
      (tables) => {
        setCell(tables, "links.csv", 2, ACTION, "away");
        setCell(tables, "stations.csv", 2, ACTION, "remove");
      },
      "leave",
      [
        'links 2 action-unknown {"action":"away"}',
        'links 2 ref-lost {"by":"stations","key":"S1","mirrored":false,"row":2,"table":"stations"}',
      ],
    ],
    [
      "a district without a row, whose stations have theirs",
      (tables) => {
        without(tables, "districts.csv", 2);
        setCell(tables, "links.csv", 2, "at", "S3");
      },
      "remove",
      ['stations 2 inside-absent {"record":"D0","rows":[2,3],"table":"districts"}'],
    ],
    [
      "nothing of a district has a row",
      (tables) => {
        without(tables, "districts.csv", 3);
        without(tables, "stations.csv", 4);
      },
      "remove",
      ['links 3 ref-lost {"by":"stations","key":"S3","mirrored":false,"row":0,"table":"stations"}'],
    ],
    [
      "a station that moves out before its district goes",
      (tables) => {
        setCell(tables, "districts.csv", 3, ACTION, "remove");
        setCell(tables, "stations.csv", 4, "districts", "D0");
      },
      "leave",
      [],
    ],
  ])("%s", async (_, change, absent, expected) => {
    const tables = await tablesOf();
    change(tables);
    const { problems } = await check(tables, { source, name: "r.json", absent: absent as "leave" | "remove" });
    expect(problems.map((one) => `${one.table} ${one.row} ${brief(one)}`)).toEqual(expected);
  });

  test("lists that mirror each other: a record that goes with another has to say so itself", async () => {
    const crew = '{"d": [{"c": "D0", "s": [{"c": "S1", "who": ["P1"]}]}, {"c": "D1", "s": []}], "p": [{"id": "P1", "at": ["S1"]}]}';
    const plan = `
hatchfold: 1
sources: { r: { file: r.json, format: json } }
tables:
  d: { rows: d, key: c, columns: { c: c } }
  s: { rows: d/s, inside: d, key: c, columns: { c: c, who: { at: who, pack: ", ", refers: p, mirror: at } } }
  p: { rows: p, key: id, columns: { id: id, at: { at: at, pack: ", ", refers: s, mirror: who } } }
`;
    const { tables } = await hatch(crew, { plan });
    setCell(tables, "d.csv", 2, ACTION, "remove");
    const { problems } = await check(tables, { source: crew });
    expect(problems.map(brief)).toEqual(['ref-lost {"by":"d","key":"S1","mirrored":true,"row":2,"table":"s"}']);
    setCell(tables, "s.csv", 2, ACTION, "remove");
    expect(JSON.parse(text((await fold(tables, { source: crew })).bytes))).toEqual({ d: [{ c: "D1", s: [] }], p: [{ id: "P1", at: [] }] });
  });

  test("records that go because their rows are missing are all counted, and no row is named for them", async () => {
    const list = JSON.stringify({ s: ["A", "B", "C"].map((code) => ({ code })) });
    const { tables } = await hatch(list);
    for (const row of [4, 3]) without(tables, "s.csv", row);
    const { counts } = await compare(tables, { source: list, absent: "remove" });
    expect(counts.removed).toBe(2);
    const { notes } = await compare(tables, { source: list, absent: "remove", allow: ["change"] });
    expect(notes.map(brief)).toEqual(['rows-left {"kind":"remove","rows":[0,0]}']);
  });

  test("a record that goes because its row is missing has no row in a report", async () => {
    const tables = await tablesOf();
    without(tables, "links.csv", 3);
    const comparison = await compare(tables, { source, name: "r.json", absent: "remove" });
    const input = { ...comparison, source: "r.json", tables: "t" };
    expect(await writeReport("markdown", input)).toMatch(/\| no row \| b2\w+ \|/);
    expect(await writeReport("html", input)).toContain(">no row<");
  });
});
