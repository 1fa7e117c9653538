/** The laws for every layout of a list, in every format: the same edits, made in any layout, give the same bytes. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { CREW_FORMATS, crewPlan, crews, type Station } from "../support/crews.js";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, edit, MARK, readRows, text, writeRows, type Rows } from "../support/sheets.js";

/** One edit, said without a layout. Members are told by the mark of their row. */
type Edit =
  | { readonly kind: "role"; readonly mark: string; readonly value: string }
  | { readonly kind: "name"; readonly station: string; readonly value: string }
  | { readonly kind: "remove"; readonly mark: string }
  | { readonly kind: "move"; readonly mark: string; readonly station: string }
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

const LAYOUTS: readonly (readonly [name: string, layout: Parameters<typeof crewPlan>[1], Editor])[] = [
  ["beneath", { crew: "beneath: true," }, beneath],
  ["repeat", { crew: "repeat: true," }, repeated],
];

const sheetsOf = (tables: MemoryTables): Parameters<Editor>[0] => {
  return (file, change) => void edit(tables, file, (rows) => change(rows, (title) => rows[0].indexOf(title)));
};

/** Edits that do not speak of one record twice. */
function someEdits(stations: readonly Station[], marks: readonly string[], random: Random): Edit[] {
  const codes = stations.map(({ code }) => code);
  const left = random.shuffle([...marks]);
  const values = ["cook", "008", "1E6", "13.50", "", "b, c", "x y"];
  const edits: Edit[] = [];
  for (let i = random.next(4); i > 0 && left.length > 0; i--) {
    const mark = left.pop()!;
    const kind = random.pick(["role", "remove", "move"] as const);
    if (kind === "role") edits.push({ kind, mark, value: random.pick(values) });
    else if (kind === "remove") edits.push({ kind, mark });
    else edits.push({ kind, mark, station: random.pick(codes) });
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
          const marks = readRows(plain, "crew.csv")
            .slice(1)
            .map((row) => row[0]);
          for (const one of someEdits(stations, marks, random)) {
            ownFound(sheetsOf(plain), one);
            editor(sheetsOf(laid), one);
          }
          const expected = await folded(plain, source);
          if (typeof expected === "string" && expected !== source) changed++;
          expect(await folded(laid, source)).toEqual(expected);
        },
        RUNS / 5,
      );
      expect(changed).toBeGreaterThan(RUNS / 20);
    });
  });
});
