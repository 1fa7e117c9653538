/**
 * What a spreadsheet does to cells is no edit, and an edit among damaged cells is not lost: random tables go through a model of
 * a real program, made with it (`npm run check:office -- --model`).
 */
import { readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, hatch } from "hatch-fold";
import { FRAGILE } from "../support/fragile.mjs";
import { law, RUNS } from "../support/laws.js";
import { edit, text } from "../support/sheets.js";

type Model = Readonly<Record<string, string>>;
const MODELS = JSON.parse(readFileSync(new URL("../support/fragile.json", import.meta.url), "utf8")) as Readonly<Record<string, Model>>;

interface Table {
  readonly kinds: readonly string[];
  readonly rows: readonly (readonly string[])[];
}
/** A cell, and what somebody types there. */
interface Edit {
  readonly row: number;
  readonly column: number;
  readonly value: string;
}

const table: fc.Arbitrary<Table> = fc
  .uniqueArray(fc.constantFrom(...Object.keys(FRAGILE)), { minLength: 1, maxLength: 4 })
  .chain((kinds) =>
    fc
      .array(fc.tuple(...kinds.map((kind) => fc.constantFrom(...FRAGILE[kind]))), { minLength: 1, maxLength: 12 })
      .map((rows) => ({ kinds, rows })),
  );
const tableAndEdits: fc.Arbitrary<{ readonly table: Table; readonly edits: readonly Edit[] }> = table.chain((one) =>
  fc.record({
    table: fc.constant(one),
    edits: fc.uniqueArray(
      fc
        .record({ row: fc.nat({ max: one.rows.length - 1 }), column: fc.nat({ max: one.kinds.length - 1 }) })
        .chain(({ row, column }) =>
          fc.record({ row: fc.constant(row), column: fc.constant(column), value: fc.constantFrom(...FRAGILE[one.kinds[column]]) }),
        ),
      { maxLength: 2, selector: ({ row, column }) => `${row} ${column}` },
    ),
  }),
);

/** The same number, truth, code or day, as people in two countries write it: whether that is an edit is left open. */
const isSame = (one: string, other: string): boolean =>
  [one, other].every((text) => /^(?:true|wahr|vrai)$/.test(text)) ||
  ([one, other].every((text) => /^[\d.,]+,[\d.,]+$|^1.000$|[€$]|kr|EUR/.test(text)) && digits(one) === digits(other)) ||
  ([one, other].every((text) => /^(?:\d+|JAN)[-/]\d+(?:[-/]\d+)?$/.test(text)) && runs(one) === runs(other));
const digits = (text: string): string => text.replace(/\D/g, "").replace(/0+$/, "");
const runs = (text: string): string =>
  text
    .replace("JAN", "1")
    .split(/\D/)
    .map(Number)
    .sort((a, b) => a - b)
    .join(" ");

const sourceOf = ({ kinds, rows }: Table): string =>
  JSON.stringify({
    rows: rows.map((cells, i) => ({ id: `K${i}`, ...Object.fromEntries(cells.map((cell, c) => [kinds[c], cell])) })),
  });
const planOf = ({ kinds }: Table): string => `hatchfold: 1
sources: { s: { file: s.json } }
tables: { rows: { rows: rows, key: id, columns: { id: id, ${kinds.map((kind) => `${kind}: ${kind}`).join(", ")} } } }
`;

describe.each(Object.entries(MODELS))("%s", (_, model) => {
  test("no change that nobody made, and no edit lost", () =>
    law(
      tableAndEdits,
      async ({ table: one, edits }) => {
        const source = sourceOf(one);
        const { tables } = await hatch(source, { plan: planOf(one) });
        const expected = new Set<string>();
        const open = new Set<string>();
        edit(tables, "rows.csv", (rows, titles) => {
          const cells = rows.slice(1).map((row) => one.kinds.map((kind) => row[titles.indexOf(kind)]));
          for (const { row, column, value } of edits) {
            const [was, now] = [cells[row][column], value];
            // what the program makes of both alike is no edit
            if (isSame(was, now)) open.add(`${row + 2} ${one.kinds[column]}`);
            else if ((model[was] ?? was) !== (model[now] ?? now)) expected.add(`${row + 2} ${one.kinds[column]}`);
            cells[row][column] = now;
          }
          for (const [i, row] of rows.slice(1).entries())
            for (const [c, kind] of one.kinds.entries()) row[titles.indexOf(kind)] = model[cells[i][c]] ?? cells[i][c];
        });
        const review = await compare(tables, { source });
        const told = new Set(review.changes.map(({ row, column }) => `${row} ${column}`));
        const asked = new Set(review.problems.map(({ row, column }) => `${row} ${column}`));
        // where one cell does not tell, it is said
        const noted = new Set(review.notes.flatMap(({ code, facts }) => (code === "cells-doubtful" ? (facts.title as string) : [])));
        for (const cell of told) if (!noted.has(cell.split(" ")[1]) && !open.has(cell)) expect(expected).toContain(cell);
        // rows with a problem are told of by that
        const rowsAsked = new Set(review.problems.map(({ row }) => String(row)));
        for (const cell of expected) if (!rowsAsked.has(cell.split(" ")[0])) expect(told).toContain(cell);
        if (edits.length === 0 && asked.size + told.size === 0) expect(text((await review.fold()).bytes)).toBe(source);
      },
      RUNS * 3,
    ));
});
