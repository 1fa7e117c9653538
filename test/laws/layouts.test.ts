/** The laws for every layout of a list, in every format: the same edits, made in any layout, give the same bytes, or at least the same records. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { CREW_FORMATS, crewPlan, crews, type Station } from "../support/crews.js";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, edit, MARK, readRows, text, writeRows, type Rows } from "../support/sheets.js";

/** A member is told by the mark of its row, or by its id at its station. */
interface Spot {
  readonly mark: string;
  readonly id: string;
  readonly at: string;
}

/** One edit, said without a layout. */
type Edit =
  | ({ readonly kind: "role"; readonly value: string } & Spot)
  | { readonly kind: "name"; readonly station: string; readonly value: string }
  | ({ readonly kind: "remove" } & Spot)
  | ({ readonly kind: "move"; readonly station: string } & Spot)
  | { readonly kind: "add"; readonly station: string; readonly id: string; readonly role: string }
  | { readonly kind: "found"; readonly code: string; readonly name: string; readonly ids: readonly string[] };

/** Makes an edit in the rows of a layout. */
type Editor = (sheet: (file: string, change: (rows: Rows, at: (title: string) => number) => void) => void, edit: Edit) => void;

const withMark = (rows: Rows, mark: string): string[] => rows.find((row) => row[0] === mark)!;

const own: Editor = (sheet, one) =>
  sheet(one.kind === "name" ? "stations.csv" : "crew.csv", (rows, at) => {
    if (one.kind === "role") withMark(rows, one.mark)[at("role")] = one.value;
    else if (one.kind === "name") rows.find((row) => row[at("code")] === one.station)![at("name")] = one.value;
    else if (one.kind === "remove") withMark(rows, one.mark)[at(ACTION)] = "remove";
    else if (one.kind === "move") withMark(rows, one.mark)[at("stations")] = one.station;
    else if (one.kind === "add") rows.push(["", "", one.station, one.id, one.role]);
    else for (const id of one.ids) rows.push(["", "", one.code, id, "cook"]);
  });

const ownFound: Editor = (sheet, one) => {
  own(sheet, one);
  if (one.kind === "found") sheet("stations.csv", (rows) => void rows.push(["", "", one.code, one.name]));
};

const stacked: Editor = (sheet, one) =>
  sheet("stations.csv", (rows, at) => {
    if (one.kind === "role") withMark(rows, one.mark)[at("role")] = one.value;
    else if (one.kind === "remove") withMark(rows, one.mark)[at(ACTION)] = "remove";
    else if (one.kind === "move") withMark(rows, one.mark)[at("stations")] = one.station;
    else if (one.kind === "name") {
      for (const row of rows) if (row[at("code")] === one.station) row[at("name")] = one.value;
    } else if (one.kind === "add") rows.push(filled(rows, { id: one.id, role: one.role, stations: one.station }));
  });

const filled = (rows: Rows, cells: Record<string, string>): string[] => rows[0].map((title) => cells[title] ?? "");

/** New rows beneath a new one need not name it. */
const beneath: Editor = (sheet, one) => {
  stacked(sheet, one);
  if (one.kind === "found")
    sheet("stations.csv", (rows) => {
      rows.push(filled(rows, { code: one.code, name: one.name }), ...one.ids.map((id) => filled(rows, { id, role: "cook" })));
    });
};

/** New rows with one key are one new record; its other cells may be said once. */
const repeated: Editor = (sheet, one) => {
  stacked(sheet, one);
  if (one.kind === "found")
    sheet("stations.csv", (rows) => {
      if (one.ids.length === 0) rows.push(filled(rows, { code: one.code, name: one.name }));
      one.ids.forEach((id, i) => rows.push(filled(rows, { code: one.code, name: i === 0 ? one.name : "", id, role: "cook" })));
    });
};

type Lists = readonly [ids: string[], roles: string[]];

/** Lists in the row of their station: `read` takes them out of its cells, `write` puts them back. */
const hosted =
  (
    read: (row: string[], at: (title: string) => number) => Lists,
    write: (row: string[], lists: Lists, at: (title: string) => number) => void,
  ): Editor =>
  (sheet, one) =>
    sheet("stations.csv", (rows, at) => {
      const station = one.kind === "found" ? one.code : one.kind === "add" || one.kind === "name" ? one.station : one.at;
      if (one.kind === "found") rows.push(filled(rows, { code: station, name: one.name }));
      const row = rows.find((cells) => cells[at("code")] === station)!;
      if (one.kind === "name") row[at("name")] = one.value;
      const [ids, roles] = read(row, at);
      const n = "id" in one ? ids.indexOf(one.id) : -1;
      if (one.kind === "role") roles[n] = one.value;
      else if (one.kind === "remove") for (const list of [ids, roles]) list.splice(n, 1);
      const fresh = one.kind === "add" ? [one.id] : one.kind === "found" ? one.ids : [];
      ids.push(...fresh);
      roles.push(...fresh.map(() => (one.kind === "add" ? one.role : "cook")));
      if (one.kind !== "name") write(row, [ids, roles], at);
    });

const split = (cell: string): string[] => (cell === "" || cell === "[]" ? [] : cell.split(" | "));
const packed = hosted(
  (row, at) => [split(row[at("id")]), split(row[at("role")])],
  (row, lists, at) => ["id", "role"].forEach((title, i) => (row[at(title)] = lists[i].join(" | ") || (row[at(title)] === "" ? "" : "[]"))),
);
const PLACES = 9;
const spread = hosted(
  (row, at) => {
    const used = [...Array(PLACES).keys()].filter((i) => row[at(`id ${i + 1}`)] !== "");
    return [used.map((i) => row[at(`id ${i + 1}`)]), used.map((i) => row[at(`role ${i + 1}`)])];
  },
  (row, lists, at) => {
    for (let i = 0; i < PLACES; i++) ["id", "role"].forEach((title, k) => (row[at(`${title} ${i + 1}`)] = lists[k][i] ?? ""));
  },
);

const LAYOUTS: readonly (readonly [name: string, layout: { crew?: string; columns?: string }, Editor])[] = [
  ["beneath", { crew: "beneath: true," }, beneath],
  ["repeat", { crew: "repeat: true," }, repeated],
  ["packed", { columns: 'id: { at: LIST/id, pack: " | " }, role: { at: LIST/role, pack: " | " }' }, packed],
  ["spread", { columns: `id: { at: LIST/id, spread: ${PLACES} }, role: { at: LIST/role, spread: ${PLACES} }` }, spread],
];

const sheetsOf = (tables: MemoryTables): Parameters<Editor>[0] => {
  return (file, change) => void edit(tables, file, (rows) => change(rows, (title) => rows[0].indexOf(title)));
};

/** Edits that do not speak of one record twice. */
function someEdits(stations: readonly Station[], spots: readonly Spot[], random: Random, hosted: boolean): Edit[] {
  const codes = stations.map(({ code }) => code);
  const left = random.shuffle([...spots]);
  // in a list an empty place is a value, in a row of its own it is none; what moves is written anew
  const values = ["cook", "008", "1E6", "13.50", ...(hosted ? [] : [""]), "b, c", "x y"];
  const edits: Edit[] = [];
  for (let i = random.next(4); i > 0 && left.length > 0; i--) {
    const spot = left.pop()!;
    const kind = random.pick(hosted ? (["role", "remove"] as const) : (["role", "remove", "move"] as const));
    if (kind === "role") edits.push({ kind, ...spot, value: random.pick(values) });
    else if (kind === "remove") edits.push({ kind, ...spot });
    else edits.push({ kind, ...spot, station: random.pick(codes) });
  }
  if (random.chance(2)) edits.push({ kind: "name", station: random.pick(codes), value: random.pick(values) });
  if (random.chance(3)) edits.push({ kind: "found", code: "S-77", name: random.pick(values), ids: ["N-8", "N-9"].slice(random.next(3)) });
  for (let i = random.next(3); i > 0; i--)
    edits.push({ kind: "add", station: random.pick(codes), id: `N-${i}`, role: random.pick(values) });
  return edits;
}

describe.each(CREW_FORMATS.map((format) => [format.name, format] as const))("%s", (_, format) => {
  const { file: name } = format;
  const folded = async (tables: MemoryTables, source: string): Promise<string | string[]> => {
    const { problems } = await compare(tables, { source, name });
    if (problems.length > 0) return problems.map(({ code }) => code).sort();
    return text((await fold(tables, { source, name })).bytes);
  };

  /** The cells of all records, without their marks. */
  const records = async (source: string): Promise<Rows[]> => {
    const { tables } = await hatch(source, { plan: crewPlan(format), name });
    return ["stations.csv", "crew.csv"].map((file) => readRows(tables, file).map((row) => row.slice(2)));
  };

  describe.each(LAYOUTS)("%s", (_, layout, editor) => {
    const plan = crewPlan(format, layout);
    const world = fc.tuple(crews, fc.nat());

    test("nothing edited, nothing changed; order does not matter", () =>
      law(
        world,
        async ([stations, seed]) => {
          const source = format.write(stations);
          const random = new Random(seed);
          const { tables } = await hatch(source, { plan, name });
          expect(await folded(tables, source)).toBe(source);
          const [head, ...body] = readRows(tables, "stations.csv");
          const order = random.shuffle([...head.keys()]).filter((c) => head[c] === MARK || !random.chance(5));
          const kept = random.shuffle(body.filter(() => !random.chance(4)));
          writeRows(
            tables,
            "stations.csv",
            [head, ...kept].map((row) => order.map((c) => row[c])),
          );
          expect(await folded(tables, source)).toBe(source);
        },
        RUNS / 5,
      ));

    test("edits give what they give in tables of their own", async () => {
      let changed = 0;
      await law(
        world,
        async ([stations, seed]) => {
          const source = format.write(stations);
          const random = new Random(seed);
          const [plain, laid] = await Promise.all(
            [crewPlan(format), plan].map(async (text) => (await hatch(source, { plan: text, name })).tables),
          );
          const spots = readRows(plain, "crew.csv")
            .slice(1)
            .map(([mark, , at, id]) => ({ mark, at, id }));
          for (const one of someEdits(stations, spots, random, layout.columns !== undefined)) {
            ownFound(sheetsOf(plain), one);
            editor(sheetsOf(laid), one);
          }
          const expected = await folded(plain, source);
          if (typeof expected === "string" && expected !== source) changed++;
          const got = await folded(laid, source);
          // an item that takes the place of another in its list is written over it: the same records in other words
          if (layout.columns === undefined || typeof got !== "string" || typeof expected !== "string") expect(got).toEqual(expected);
          else expect(await records(got)).toEqual(await records(expected));
        },
        RUNS / 5,
        () => changed > 0,
      );
      expect(changed).toBeGreaterThan(0);
    });
  });
});
