/** What stops nothing and is said: deleted rows, cells without a title, columns that slid, swapped or were sorted, odd keys. */
import { expect, test } from "vitest";
import { compare, hatch } from "hatch-fold";
import { edit, type Rows } from "./support/sheets.js";
import { brief } from "./support/brief.js";

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
  ["rows that were deleted", (rows) => rows.filter((_, i) => i < 2 || i > 4), ['rows-absent {"count":3}']],
  ["the last row", (rows) => rows.slice(0, -1), ['rows-absent {"count":1}']],
  [
    "cells in a column without a title",
    (rows) => rows.map((row, i) => [...row, "", i === 3 ? "ask Ingrid" : ""]),
    ['cells-untitled {"columns":["H"],"count":1}'],
  ],
  ["empty columns without a title", (rows) => rows.map((row) => [...row, "", ""]), []],
  [
    "titles that were swapped",
    (rows) => {
      const [a, b] = [column(rows, "name"), column(rows, "place")];
      [rows[0][a], rows[0][b]] = [rows[0][b], rows[0][a]];
    },
    ['titles-swapped {"other":"name","rows":12,"title":"place"}'],
  ],
  [
    "a cell deleted, and those below it moved up",
    (rows) => cells(rows, "name", (all) => [...all.slice(0, 4), ...all.slice(5), "Light Z"]),
    ['cells-shifted {"rows":"7 in all","title":"name","way":"above"}'],
  ],
  [
    "a cell put in, and those below it moved down",
    (rows) => cells(rows, "name", (all) => [...all.slice(0, 4), "Light Z", ...all.slice(4, -1)]),
    ['cells-shifted {"rows":"7 in all","title":"name","way":"below"}'],
  ],
  ["a column sorted alone", (rows) => cells(rows, "name", (all) => [...all].reverse()), ['column-sorted-alone {"rows":12,"title":"name"}']],
  [
    "one of two values",
    (rows) => cells(rows, "state", (all) => [all[1], all[0], all[3], all[2], all[5], all[4], all[7], all[6], ...all.slice(8)]),
    ['column-sorted-alone {"rows":8,"title":"state"}'],
  ],
  ["two of them exchanged, as people do", (rows) => cells(rows, "state", (all) => [all[1], all[0], ...all.slice(2)]), []],
  [
    "a key of another form",
    (rows) => [...rows, ["", "", "L-12", "Light M", "Skerry", "lit"]],
    ['keys-odd {"keys":[{"key":"L-12","row":14}],"like":"L-000","title":"code"}'],
  ],
  ["a key of the same form", (rows) => [...rows, ["", "", "L-012", "Light M", "Skerry", "lit"]], []],
])("%s", async (_, change, told) => {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  const { notes, problems } = await compare(edit(tables, "lights.csv", change), { source: SOURCE });
  expect(problems).toEqual([]);
  expect(notes.map(brief)).toEqual(told);
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
