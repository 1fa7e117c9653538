/** Faults that were found by people who tried files of their own: each once, where it was. */
import { expect, test } from "vitest";
import { fold, hatch } from "hatch-fold";
import { readRows, text } from "./support/sheets.js";

test("attributes of an element that stands behind many others are hatched", async () => {
  const names = Array.from({ length: 14 }, (_, i) => `c${i}`);
  const record = (n: number): string => `<r>${names.map((name) => `<${name}>${n}</${name}>`).join("")}<light no="L-${n}">lit</light></r>`;
  const source = `<all>${record(1)}${record(2)}</all>`;
  const columns = [...names.map((name) => `${name}: ${name}`), 'no: "light/@no"', "light: light"].join(", ");
  const plan = `hatchfold: 1\nsources: { s: { file: s.xml } }\ntables: { r: { rows: all/r, columns: { ${columns} } } }\n`;
  const { tables } = await hatch(source, { name: "s.xml", plan });
  expect(readRows(tables, "r.csv").map((row) => row.slice(-2))).toEqual([
    ["no", "light"],
    ["L-1", "lit"],
    ["L-2", "lit"],
  ]);
});

test("the name that a long list has in its record is that of every row in it", async () => {
  const lists = ["S-0", 'S"1', "S-2"].map((name) => [name, Array.from({ length: 6000 }, (_, i) => ({ no: `L-${i}`, at: { x: i } }))]);
  const source = JSON.stringify({ stations: Object.fromEntries(lists) as unknown });
  const plan = 'hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { l: { rows: stations/*, columns: { in: ":key", no: no } } }\n';
  const { tables } = await hatch(source, { name: "s.json", plan });
  const rows = readRows(tables, "l.csv").slice(1);
  expect(rows.map((row) => row[2])).toEqual(lists.flatMap(([name, list]) => (list as unknown[]).map(() => name)));
  const { bytes, unchanged } = await fold(tables, { source, name: "s.json" });
  expect([unchanged, text(bytes) === source]).toEqual([true, true]);
});
