/** Damage and edits are told apart by what happened to the whole sheet: a column, its other cells, and how dates are written. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch } from "hatch-fold";
import { law, RUNS } from "./support/laws.js";
import { edit, text, type Rows } from "./support/sheets.js";

const DATES = ["2024-01-12", "2024-02-03", "2024-11-25", "1999-12-31", "2024-05-05"];
const DECIMALS = ["1.10", "2.50", "42.750", "7.000", "12.5", "3"];
const SOURCE = JSON.stringify({
  rows: DATES.map((date, i) => ({ id: `r${i}`, date, version: DECIMALS[i], height: `${i + 1}.${i}50`, code: `0${i}`, flag: i % 2 === 0 })),
});
const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables: { rows: { rows: rows, key: id, columns: { id: id, date: { at: date, type: date }, version: { at: version, type: text },
  height: { at: height, type: decimal }, code: { at: code, type: text }, flag: { at: flag, type: boolean } } } }
`;

/** Cells of a column, as a program or a person changes them. */
type Change = Readonly<Record<string, (was: string, row: number) => string>>;

async function compared(change: Change): Promise<{ changes: string[]; healed: number; problems: string[]; unchanged: boolean }> {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  edit(tables, "rows.csv", (rows: Rows, titles) => {
    for (const [title, of] of Object.entries(change)) {
      const at = titles.indexOf(title);
      for (const [i, row] of rows.slice(1).entries()) row[at] = of(row[at], i);
    }
  });
  const review = await compare(tables, { source: SOURCE });
  const { changes, healed, problems } = review;
  const unchanged = problems.length === 0 && text((await review.fold()).bytes) === SOURCE;
  return {
    changes: changes.map((one) => `${one.record} ${one.column} ${one.old} ${one.new}`),
    healed: healed.length,
    problems: problems.map(({ code }) => code),
    unchanged,
  };
}

const british = (date: string): string => date.replace(/^(\d{4})-(\d\d)-(\d\d)$/, "$3/$2/$1");
const american = (date: string): string => date.replace(/^(\d{4})-(\d\d)-(\d\d)$/, "$2/$3/$1");
const once =
  (row: number, now: string, others = (was: string): string => was) =>
  (was: string, i: number): string =>
    i === row ? now : others(was);
const withoutZeros = (was: string): string => (was.includes(".") ? was.replace(/\.?0+$/, "") : was);

describe("what a program does to all cells is healed", () => {
  test.each<[string, Change]>([
    ["dates, the day first", { date: british }],
    ["dates, the month first", { date: american }],
    ["zeros behind the point", { version: withoutZeros, height: withoutZeros }],
    ["zeros before codes", { code: (was) => String(Number(was)) }],
    ["decimal commas", { version: (was) => was.replace(".", ","), height: (was) => was.replace(".", ",") }],
    [
      "points taken for thousands separators",
      { height: (was) => was.replace(".", ""), version: (was) => (/^\d+\.\d{3}$/.test(was) ? was.replace(".", "") : was) },
    ],
    ["true in German", { flag: (was) => (was === "true" ? "WAHR" : "FALSCH") }],
    ["true as a number", { flag: (was) => (was === "true" ? "1" : "0") }],
    ["days as numbers", { date: (was) => String((Date.parse(was) - Date.UTC(1899, 11, 30)) / 86_400_000) }],
  ])("%s", async (_, change) => {
    expect(await compared(change)).toMatchObject({ changes: [], problems: [], unchanged: true });
  });
});

describe("what a person does to one cell is an edit", () => {
  test.each<[string, Change, string]>([
    ["a day and a month swapped where days come first", { date: once(0, "01/12/2024", british) }, "r0 date 2024-01-12 01/12/2024"],
    ["and where months do", { date: once(0, "12/01/2024", american) }, "r0 date 2024-01-12 12/01/2024"],
    ["a version in a column that is intact", { version: once(0, "1.1") }, "r0 version 1.10 1.1"],
    ["a code in such a column", { code: once(3, "3") }, "r3 code 03 3"],
    ["a thousandfold", { height: once(0, "1050") }, "r0 height 1.050 1050"],
    ["a decimal where commas are written", { height: once(0, "8,5", (was) => was.replace(".", ",")) }, "r0 height 1.050 8,5"],
  ])("%s", async (_, change, told) => {
    expect(await compared(change)).toMatchObject({ changes: [told], problems: [] });
  });

  test("a zero put behind, where all others of the column were edited and commas are written", async () => {
    const { changes } = await compared({ version: (_, row) => (row === 0 ? "1.100" : `x${row}`), height: (was) => was.replace(".", ",") });
    expect(changes).toContain("r0 version 1.10 1.100");
  });

  test("what is typed as the sheet writes it becomes what the source writes", async () => {
    const { tables } = await hatch(SOURCE, { plan: PLAN });
    edit(tables, "rows.csv", (rows, titles) => {
      const [date, height] = ["date", "height"].map((title) => titles.indexOf(title));
      for (const row of rows.slice(1)) [row[date], row[height]] = [british(row[date]), row[height].replace(".", ",")];
      [rows[1][date], rows[1][height]] = ["01/12/2024", "8,5"];
      rows.push(
        titles.map((title) => ({ id: "r5", date: "02/03/2025", height: "42,5", version: "1", code: "1", flag: "true" })[title] ?? ""),
      );
    });
    const { bytes, notes, proved } = await fold(tables, { source: SOURCE });
    const { rows } = JSON.parse(text(bytes)) as { rows: { date: string; height: string }[] };
    expect([rows[0], rows[5]]).toMatchObject([
      { date: "2024-12-01", height: "8.5" },
      { date: "2025-03-02", height: "42.5" },
    ]);
    expect([notes.map(({ code }) => code), proved]).toEqual([["cells-meant", "cells-meant"], true]);
  });
});

test("thousands of edits beside damage do not count as intact cells", async () => {
  const source = JSON.stringify({ rows: Array.from({ length: 3000 }, (_, i) => ({ id: i, version: `${i}.10` })) });
  const { tables } = await hatch(source);
  edit(tables, "rows.csv", (rows, titles) => {
    const at = titles.indexOf("version");
    for (const [i, row] of rows.slice(1).entries()) row[at] = i < 600 ? `${i}.1` : i < 2900 ? `${i}.25` : row[at];
  });
  expect(await compare(tables, { source })).toMatchObject({ counts: { healed: 600, changed: 2300 } });
});

test("no damage to a whole column becomes an edit, and no edit in a damaged column is lost", () =>
  law(
    fc.record({
      program: fc.constantFrom<Change>(
        { date: british },
        { date: american },
        { version: withoutZeros },
        { code: (was) => String(Number(was)) },
        {},
      ),
      row: fc.nat({ max: 4 }),
      column: fc.constantFrom("version", "code"),
      value: fc.constantFrom("9.90", "1.1", "007", "7", "12", "0x"),
    }),
    async ({ program, row, column, value }) => {
      const was = (column === "version" ? DECIMALS : DATES.map((_, i) => `0${i}`))[row];
      const change: Change = { ...program, [column]: once(row, value, (one) => program[column]?.(one, 0) ?? one) };
      const { changes, problems } = await compared(change);
      const damaged = program[column]?.(was, 0) ?? was;
      // what the program would have made of it is no edit
      expect([changes, problems]).toEqual([value === damaged ? [] : [`r${row} ${column} ${was} ${value}`], []]);
    },
    RUNS / 2,
  ));

describe("spaces around values", () => {
  const PADDED = JSON.stringify({ rows: [1, 2, 3].map((i) => ({ id: `r${i}`, a: ` a${i}`, b: `b${i} `, c: `c${i}` })) });
  test.each<[string, readonly string[], number]>([
    ["trimmed in all columns: a program did it", ["a", "b", "c"], 0],
    ["trimmed in one column: somebody did", ["a"], 3],
  ])("%s", async (_, columns, count) => {
    const { tables } = await hatch(PADDED);
    edit(tables, "rows.csv", (rows, titles) => {
      for (const row of rows.slice(1)) for (const title of columns) row[titles.indexOf(title)] = row[titles.indexOf(title)].trim();
    });
    const { changes, problems } = await compare(tables, { source: PADDED });
    expect([problems, changes.length]).toEqual([[], count]);
  });
});

describe("codes of new and moved rows whose zeros were eaten", () => {
  const NESTED = JSON.stringify({
    districts: ["01", "02", "3", "03", "1E5", "3/4"].map((code) => ({ code, stations: [{ id: `s${code}`, keeper: "007" }] })),
    people: ["007", "012", "12"].map((id) => ({ id, name: `P${id}` })),
  });
  const RELATED = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  districts: { rows: districts, key: code, columns: { code: code } }
  stations: { rows: districts/stations, inside: districts, key: id, columns: { id: id, keeper: { at: keeper, refers: people } } }
  people: { rows: people, key: id, columns: { id: id, name: name } }
`;
  const stations = async (
    change: (rows: Rows) => void,
  ): Promise<{ where: Record<string, string>; notes: string[]; problems: string[] }> => {
    const { tables } = await hatch(NESTED, { plan: RELATED });
    const review = await compare(edit(tables, "stations.csv", change), { source: NESTED });
    const where: Record<string, string> = {};
    if (review.problems.length === 0) {
      const { districts } = JSON.parse(text((await review.fold()).bytes)) as {
        districts: { code: string; stations: { id: string; keeper: string }[] }[];
      };
      for (const { code, stations: inside } of districts) for (const { id, keeper } of inside) where[id] = `${code} ${keeper}`;
    }
    return { where, notes: review.notes.map(({ code }) => code), problems: review.problems.map(({ code }) => code) };
  };

  test.each<[string, (rows: Rows) => void, Record<string, string>]>([
    ["a new row's parent", (rows) => void rows.push(["", "", "1", "new", "007"]), { new: "01 007" }],
    ["a parent shown with an exponent", (rows) => void rows.push(["", "", "100000", "new", "007"]), { new: "1E5 007" }],
    ["a parent that became a date", (rows) => void rows.push(["", "", "03.Apr", "new", "007"]), { new: "3/4 007" }],
    ["a new row's code", (rows) => void rows.push(["", "", "02", "new", "7"]), { new: "02 007" }],
    ["a moved row's parent", (rows) => void (rows[2][2] = "1"), { s02: "01 007" }],
    ["an edited code", (rows) => void (rows[2][4] = "12"), { s02: "02 12" }],
    ["a parent that there is, beside one with a zero", (rows) => void rows.push(["", "", "3", "new", "007"]), { new: "3 007" }],
    ["a move between such", (rows) => void (rows[4][2] = "3"), { s03: "3 007" }],
  ])("%s", async (_, change, told) => {
    const { where, problems } = await stations(change);
    expect(problems).toEqual([]);
    expect(where).toMatchObject(told);
  });

  test("what was taken for another is said, and what may be two is asked", async () => {
    const added = await stations((rows) => void rows.push(["", "", "1", "new", "7"]));
    expect(added.notes.filter((code) => code === "codes-meant")).toHaveLength(2);
    const unclear = await stations((rows) => void rows.push(["", "", "03", "new", "0012"]));
    expect(unclear.problems).toEqual(["ref-unknown"]);
  });
});
