/** What stops nothing and is said: deleted rows, cells without a title, columns that slid, swapped or were sorted, odd keys. */
import { expect, test } from "vitest";
import { compare, hatch } from "hatch-fold";
import { edit, type Rows } from "./support/sheets.js";

const STATES = ["lit", "dark"];
const SOURCE = JSON.stringify({
  lights: Array.from({ length: 12 }, (_, i) => ({
    code: `L-${String(i).padStart(3, "0")}`,
    name: `Light ${String.fromCharCode(65 + i)}`,
    place: `Skerry ${i}`,
    state: STATES[i % 2],
  })),
});
const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables: { lights: { rows: lights, key: code, columns: { code: code, name: name, place: place, state: state } } }
`;
const column = (rows: Rows, title: string): number => rows[0].indexOf(title);
const cells = (rows: Rows, title: string, of: (cells: string[]) => string[]): void => {
  const c = column(rows, title);
  const now = of(rows.slice(1).map((row) => row[c]));
  rows.slice(1).forEach((row, i) => (row[c] = now[i]));
};

test.each<[string, (rows: Rows) => Rows | void, string[]]>([
  [
    "rows that were deleted",
    (rows) => rows.filter((_, i) => i < 2 || i > 4),
    ['3 records have no row and stay as they are. { absent: "remove" } takes them out.'],
  ],
  ["the last row", (rows) => rows.slice(0, -1), ['1 record has no row and stays as it is. { absent: "remove" } takes it out.']],
  [
    "cells in a column without a title",
    (rows) => rows.map((row, i) => [...row, "", i === 3 ? "ask Ingrid" : ""]),
    ["1 cell stands in column H, which has no title, and is not used."],
  ],
  ["empty columns without a title", (rows) => rows.map((row) => [...row, "", ""]), []],
  [
    "titles that were swapped",
    (rows) => {
      const [a, b] = [column(rows, "name"), column(rows, "place")];
      [rows[0][a], rows[0][b]] = [rows[0][b], rows[0][a]];
    },
    ['in 12 rows "place" holds what "name" held, and "name" what "place" held: were their titles swapped?'],
  ],
  [
    "a cell deleted, and those below it moved up",
    (rows) => cells(rows, "name", (all) => [...all.slice(0, 4), ...all.slice(5), "Light Z"]),
    ['7 cells of "name" hold what the row below held (rows 6, 7, 8, 9, 10, …): was a cell deleted and the others moved up?'],
  ],
  [
    "a cell put in, and those below it moved down",
    (rows) => cells(rows, "name", (all) => [...all.slice(0, 4), "Light Z", ...all.slice(4, -1)]),
    ['7 cells of "name" hold what the row above held (rows 7, 8, 9, 10, 11, …): was a cell put in and the others moved down?'],
  ],
  [
    "a column sorted alone",
    (rows) => cells(rows, "name", (all) => [...all].reverse()),
    ['the 12 changed cells of "name" hold the old values in another order: was the column sorted on its own?'],
  ],
  [
    "one of two values",
    (rows) => cells(rows, "state", (all) => [all[1], all[0], all[3], all[2], all[5], all[4], all[7], all[6], ...all.slice(8)]),
    ['the 8 changed cells of "state" hold the old values in another order: was the column sorted on its own?'],
  ],
  ["two of them exchanged, as people do", (rows) => cells(rows, "state", (all) => [all[1], all[0], ...all.slice(2)]), []],
  [
    "a key of another form",
    (rows) => [...rows, ["", "", "L-12", "Light M", "Skerry", "lit"]],
    ['the code "L-12" in row 14 has another form than all others, such as "L-000".'],
  ],
  ["a key of the same form", (rows) => [...rows, ["", "", "L-012", "Light M", "Skerry", "lit"]], []],
])("%s", async (_, change, told) => {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  const { notes, problems } = await compare(edit(tables, "lights.csv", change), { source: SOURCE });
  expect(problems).toEqual([]);
  expect(notes.map(({ message }) => message)).toEqual(told);
});

test("a sheet that was opened with another separator is one problem", async () => {
  const { tables } = await hatch(SOURCE.replaceAll("Skerry", 'the \\"Skerry\\"'), { plan: PLAN });
  const csv = new TextDecoder().decode(tables.contents.get("lights.csv"));
  const lines = csv.split("\r\n").map((line) => (line.includes('"') ? `"${line.replaceAll('"', '""')}"` : line));
  tables.contents.set("lights.csv", new TextEncoder().encode(lines.join("\r\n")));
  const { problems } = await compare(tables, { source: SOURCE.replaceAll("Skerry", 'the \\"Skerry\\"') });
  expect(problems).toMatchObject([{ code: "delimiter", row: 2 }]);
});

test("a row of which only the mark is left is asked about", async () => {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  edit(tables, "lights.csv", (rows) => void rows[3].fill("", 1));
  expect((await compare(tables, { source: SOURCE })).problems).toMatchObject([{ code: "row-cleared", row: 4 }]);
});
