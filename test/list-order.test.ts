/** Order in lists, edited by a column with the place or by the order of the sheet; test/laws/model.test.ts tries it in all formats. */
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type CompareInput } from "hatch-fold";
import { edit, text, type Rows } from "./support/sheets.js";

const SOURCE = JSON.stringify({
  piers: [
    { code: "A", lamps: [{ no: 1 }, { no: 2 }, { no: 3 }] },
    { code: "B", lamps: [{ no: 4 }] },
  ],
});
const PLACE = 'columns: { place: ":index", no: no }';
const SHEET = "order: sheet, columns: { no: no }";
const planOf = (words: string): string => `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  piers: { rows: piers, key: code, columns: { code: code } }
  lamps: { rows: piers/lamps, inside: piers, key: no, ${words} }
`;

type Change = (rows: Rows) => Rows;
const set =
  (row: number, column: number, value: string): Change =>
  (rows) =>
    rows.map((cells, i) => (i === row ? cells.with(column, value) : cells));
const add =
  (...rows: string[]): Change =>
  (all) => [...all, ...rows.map((row) => row.split(","))];
const both =
  (...changes: Change[]): Change =>
  (rows) =>
    changes.reduce((now, change) => change(now), rows);
const pick =
  (...order: (number | string)[]): Change =>
  (rows) =>
    order.map((one) => (typeof one === "number" ? rows[one] : one.split(",")));

type Case = [what: string, words: string, change: Change, wanted: string, options?: Partial<CompareInput>];
const CASES: Case[] = [
  ["a new row goes to its place", PLACE, add(",,A,2,9"), "1 9 2 3; 4"],
  ["beyond the end it comes last", PLACE, add(",,A,9,9", ",,A,,8"), "1 2 3 8 9; 4"],
  ["a place is edited", PLACE, set(1, 3, "3"), "2 3 1; 4"],
  ["all are numbered anew", PLACE, both(set(1, 3, "3"), set(2, 3, "1"), set(3, 3, "2")), "2 3 1; 4"],
  ["a row goes to another list, and its place there is said", PLACE, both(set(4, 2, "A"), set(4, 3, "2")), "1 4 2 3; "],
  ["a row that goes to another list and says no other place comes last", PLACE, set(4, 2, "A"), "1 2 3 4; "],
  ["one goes, another takes its place", PLACE, both(set(1, 1, "remove"), set(3, 3, "1")), "3 2; 4"],
  ["two want one place", PLACE, both(set(1, 3, "2"), set(3, 3, "2")), "place-twice 4"],
  ["no place", PLACE, both(set(1, 3, "0"), set(2, 3, "first")), "place-unread 2, place-unread 3"],
  ["places are left aside", PLACE, set(1, 3, "3"), "1 2 3; 4", { allow: ["add"] }],
  ["a sheet turned round", SHEET, pick(0, 4, 3, 2, 1), "3 2 1; 4"],
  ["rows put in between", SHEET, pick(0, ",,A,7", 1, ",,B,8", 2, 3, ",,A,9", 4), "7 1 2 3 9; 8 4"],
  ["records without rows stay behind those that they follow", SHEET, pick(0, 3, 1), "3 1 2; 4"],
  ["rows may not move, and new ones go behind the row above", SHEET, pick(0, 3, ",,A,9", 1), "1 2 3 9; 4", { allow: ["add"] }],
  ["the place in a sheet that says the order", `order: sheet, ${PLACE}`, set(1, 3, "2"), "place-edited 2"],
];
test.each(CASES)("%s", async (_, words, change, wanted, options = {}) => {
  const { tables } = await hatch(SOURCE, { plan: planOf(words), name: "s.json" });
  edit(tables, "lamps.csv", change);
  const made = await fold(tables, { source: SOURCE, name: "s.json", ...options }).then(
    ({ bytes }) =>
      (JSON.parse(text(bytes)) as { piers: { lamps: { no: number }[] }[] }).piers
        .map(({ lamps }) => lamps.map(({ no }) => no).join(" "))
        .join("; "),
    (error: { problems: { code: string; row: number }[] }) => error.problems.map(({ code, row }) => `${code} ${row}`).join(", "),
  );
  expect(made).toBe(wanted);
});

test("compare tells which records move, and only those", async () => {
  const { tables } = await hatch(SOURCE, { plan: planOf(PLACE), name: "s.json" });
  edit(tables, "lamps.csv", set(3, 3, "1"));
  const { changes, counts } = await compare(tables, { source: SOURCE, name: "s.json" });
  expect(changes).toEqual([
    { kind: "moved", table: "lamps", row: 4, record: "3", column: "place", old: "3", new: "1", path: "/piers/0/lamps/2", holds: 0 },
  ]);
  expect(counts).toMatchObject({ unchanged: 5, moved: 1 });
});

describe("not where records stand otherwise than in rows of their own", () => {
  test.each(["tree: lamps", "cross: { down: a, across: b }"])("%s", async (words) => {
    const columns = "columns: { no: no, a: { at: a, refers: piers }, b: { at: b, refers: piers } }";
    const plan = planOf(`order: sheet, label: no, ${words}, ${columns}`);
    await expect(hatch(SOURCE, { plan, name: "s.json" })).rejects.toMatchObject({ code: "plan-order-alone" });
  });
});
