/** How often the source is read goes with the rules that ask, not with the number of rows, edits or problems. */
import { expect, test } from "vitest";
import { compare, hatch, MemorySource, type MemoryTables } from "hatch-fold";
import { bytes } from "./support/sheets.js";

const PLAN = `
hatchfold: 1
sources: { register: { file: r.json, format: json } }
tables:
  stations:
    rows: stations
    key: code
    label: name
    new: { code: "S{000}" }
    columns: { code: code, name: name, near: { at: near, refers: stations } }
  lights:
    rows: stations/lights
    inside: stations
    key: id
    columns:
      id: id
      range: { at: range, type: integer }
      area: area
      sector: { at: sector, same-for: area }
      backup: { at: backup, refers: stations, label: backupName, copied: true }
`;

const STATIONS = 200;
const SOURCE = JSON.stringify({
  stations: Array.from({ length: STATIONS }, (_, i) => ({
    code: `S${String(i).padStart(3, "0")}`,
    name: `Skarv ${i}`,
    near: `S${String((i + 1) % STATIONS).padStart(3, "0")}`,
    lights: [
      {
        id: `L${i}`,
        range: i,
        area: `A${i}`,
        sector: "n",
        backup: `S${String((i + 5) % STATIONS).padStart(3, "0")}`,
        backupName: `Skarv ${(i + 5) % STATIONS}`,
      },
    ],
  })),
});

class Counted extends MemorySource {
  passes = 0;
  override chunks(): AsyncIterable<Uint8Array> {
    this.passes++;
    return super.chunks();
  }
}

/** Edits the first `count` rows, by title; the header is row 0. */
function edit(tables: MemoryTables, file: string, count: number, title: string, write: (row: number, was: string) => string): void {
  const rows = tables
    .text(file)
    .split("\r\n")
    .filter((row) => row !== "")
    .map((row) => row.split(","));
  const c = rows[0].indexOf(title);
  for (let i = 1; i <= count; i++) rows[i][c] = write(i, rows[i][c]);
  tables.contents.set(file, bytes(rows.map((row) => row.join(",")).join("\r\n")));
}
function add(tables: MemoryTables, file: string, rows: readonly string[]): void {
  tables.contents.set(file, bytes([tables.text(file).trimEnd(), ...rows].join("\r\n")));
}

const EDITS: Record<string, (tables: MemoryTables, count: number) => void> = {
  "cells of the wrong kind": (tables, count) => edit(tables, "lights.csv", count, "range", () => "far"),
  "codes that nobody has": (tables, count) => edit(tables, "stations.csv", count, "near", (row) => `X${row}`),
  "labels that nobody has": (tables, count) => edit(tables, "lights.csv", count, "backup name", (row) => `Nobody ${row}`),
  "new names, with copies of them": (tables, count) => edit(tables, "stations.csv", count, "name", (row) => `Holm ${row}`),
  "keys that are called otherwise": (tables, count) => edit(tables, "stations.csv", count, "code", (row) => `T${row}`),
  "records that others refer to go": (tables, count) => edit(tables, "stations.csv", count, "fold action", () => "remove"),
  "codes that say two things": (tables, count) => {
    edit(tables, "lights.csv", count + 1, "area", () => "A1");
    edit(tables, "lights.csv", count, "sector", (row) => `s${row}`);
  },
  "parents that nobody has": (tables, count) => edit(tables, "lights.csv", count, "stations", (row) => `Q${row}`),
  loops: (tables, count) => edit(tables, "stations.csv", count, "near", (row) => `S${String(row - 1).padStart(3, "0")}`),
  "new rows": (tables, count) =>
    add(
      tables,
      "stations.csv",
      Array.from({ length: count }, (_, i) => `+n${i},,,New ${i},S000`),
    ),
  "new rows with keys like others": (tables, count) =>
    add(
      tables,
      "stations.csv",
      Array.from({ length: count }, (_, i) => `,,s${String(i).padStart(3, "0")},New ${i},S000`),
    ),
};

async function passes(change: (tables: MemoryTables, count: number) => void, count: number): Promise<{ passes: number; told: number }> {
  const { tables } = await hatch(SOURCE, { plan: PLAN });
  change(tables, count);
  const source = new Counted(bytes(SOURCE), "r.json");
  const { problems, changes, notes } = await compare(tables, { source, paths: true });
  return { passes: source.passes, told: problems.length + changes.length + notes.length };
}

test.each(Object.entries(EDITS))("%s", async (_, change) => {
  const few = await passes(change, 2);
  const many = await passes(change, 60);
  expect(few.told).toBeGreaterThan(0);
  expect(many.told).toBeGreaterThanOrEqual(few.told);
  expect(many.passes).toBe(few.passes);
  expect(many.passes).toBeLessThanOrEqual(6);
});

test("all at once", async () => {
  const all = (tables: MemoryTables, count: number): void => Object.values(EDITS).forEach((change) => change(tables, count));
  expect((await passes(all, 60)).passes).toBeLessThanOrEqual(12);
});
