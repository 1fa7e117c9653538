/** What holds the tables makes no difference: files of text or rows in memory, all rows or only those that were touched. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, RowTables, type MemoryTables, type Review, type RowSheet } from "hatch-fold";
import { CREW_FORMATS, crewPlan, crews } from "../support/crews.js";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { ACTION, copyTables, edit, MARK, readRows, sheetFiles, text, type Rows } from "../support/sheets.js";
import { TREE_FORMS, trees } from "../support/trees.js";
import { refusal } from "../support/brief.js";

interface World {
  readonly name: string;
  readonly file: string;
  readonly plan: string;
  readonly sources: fc.Arbitrary<string>;
  /** A row stands for one record, wherever its sheet has it. */
  readonly alone?: boolean;
}

const LAYOUTS: readonly (readonly [name: string, layout: { crew?: string; columns?: string }, alone?: boolean])[] = [
  ["lists of their own", {}],
  ["beneath", { crew: "beneath: true," }],
  ["repeat", { crew: "repeat: true," }, false],
  ["packed", { columns: 'id: { at: LIST/id, pack: " | " }, role: { at: LIST/role, pack: " | " }' }],
  ["spread", { columns: "id: { at: LIST/id, spread: 4 }, role: { at: LIST/role, spread: 4 }" }],
];

const WORLDS: readonly World[] = [
  ...CREW_FORMATS.flatMap((format) =>
    LAYOUTS.map(([name, layout, alone = true]): World => ({
      name: `${format.name}, ${name}`,
      file: format.file,
      plan: crewPlan(format, layout),
      sources: crews.map((stations) => format.write(stations)),
      alone,
    })),
  ),
  ...TREE_FORMS.map((form): World => ({
    name: `tree, ${form.name}`,
    file: form.file,
    plan: form.plan,
    sources: trees.map((tops) => form.write(tops)),
  })),
];

const VALUES = ["", "cook", "008", " S-01", "S-02", "=x", "two words", "(null)", "1", "[]", "a | b"];

/** Slips and edits of all kinds, also such as no fold can take. */
function spoil(tables: MemoryTables, random: Random, kinds: readonly ("cell" | "add" | "remove" | "name")[]): void {
  for (let n = 1 + random.next(4); n > 0; n--) {
    edit(tables, random.pick(sheetFiles(tables)), (rows, titles) => {
      if (rows.length < 2) return;
      const row = rows[1 + random.next(rows.length - 1)];
      const c = 2 + random.next(titles.length - 2);
      const kind = random.pick(kinds);
      const now = random.pick([...VALUES, rows[1 + random.next(rows.length - 1)][c]]);
      // the rows above tell what a depth is below, and in what a row is that does not say it
      if (kind === "cell" && titles[c] !== "depth" && (titles[c] !== "stations" || now.trim() !== "")) row[c] = now;
      else if (kind === "remove") row[titles.indexOf(ACTION)] = random.pick(["remove", "skip", "?"]);
      else if (kind === "add") rows.push(row.map((cell, i) => (i < 2 ? "" : cell)));
      else if (kind === "name") row[0] = random.pick(["c99zz", "", row[0].toUpperCase()]);
    });
  }
}

const sheetOf = ([titles, ...rows]: Rows): RowSheet => ({
  titles,
  rows: rows.map((row) => Object.fromEntries(titles.map((title, i) => [title, row[i]]))),
});

const nameOf = (file: string): string => file.replace(".csv", "");

/** What a comparison says, in words that do not name files. */
const outcome = async (review: Review): Promise<unknown> => {
  const { counts, changes, healed, problems, notes, follows } = review;
  const said = JSON.stringify({ counts, changes, healed, problems, notes, follows }).replaceAll(".csv", "");
  return { said: JSON.parse(said) as unknown, text: text((await review.fold({ partial: true })).bytes) };
};

describe.each(WORLDS.map((world) => [world.name, world] as const))("%s", (_, { file: name, plan, sources, alone = true }) => {
  const world = fc.tuple(sources, fc.nat());
  const hatchBoth = async (source: string): Promise<{ tables: MemoryTables; rows: RowTables }> => {
    const rows = new RowTables();
    await hatch(source, { plan, name, into: rows });
    return { tables: (await hatch(source, { plan, name })).tables, rows };
  };

  test("rows in memory say what the files say, and are compared as these are", () =>
    law(
      world,
      async ([source, seed]) => {
        const { tables, rows } = await hatchBoth(source);
        const sheets = (from: MemoryTables): Record<string, RowSheet> =>
          Object.fromEntries(sheetFiles(from).map((file) => [nameOf(file), sheetOf(readRows(from, file))]));
        expect(Object.fromEntries(rows.sheets)).toEqual(sheets(tables));
        const edited = copyTables(tables);
        spoil(edited, new Random(seed), ["cell", "cell", "add", "remove", "name"]);
        const input = { source, name, copies: "refuse" } as const;
        expect(await outcome(await compare(rows.with(sheets(edited)), input))).toEqual(await outcome(await compare(edited, input)));
      },
      RUNS / 6,
    ));

  test.runIf(alone)("the touched rows say as much as all rows, and their touched cells do", () =>
    law(
      world,
      async ([source, seed]) => {
        const { tables, rows } = await hatchBoth(source);
        const edited = copyTables(tables);
        spoil(edited, new Random(seed), ["cell", "cell", "remove"]);
        const touched: Record<string, RowSheet> = {};
        for (const file of sheetFiles(tables)) {
          const [titles, ...before] = readRows(tables, file);
          const [, ...after] = readRows(edited, file);
          const numbers = [...after.keys()].filter((i) => after[i].join("\n") !== before[i].join("\n"));
          if (numbers.length === 0) continue;
          touched[nameOf(file)] = {
            numbers: numbers.map((i) => i + 2),
            rows: numbers.map((i) =>
              Object.fromEntries(
                titles.flatMap((title, c) => (title === MARK || after[i][c] !== before[i][c] ? [[title, after[i][c]]] : [])),
              ),
            ),
          };
        }
        const few = await compare(rows.touched(touched), { source, name });
        const all = await compare(edited, { source, name });
        // of a row that is not given nobody knows the number
        const seen = (file: string, row: number): number => (touched[nameOf(file)]?.numbers?.includes(row) === true ? row : 0);
        const said = async (review: Review): Promise<unknown> => {
          const { healed } = review;
          const problems = review.problems.map(({ code, table, file, row, column }) => `${code} ${table} ${seen(file, row)} ${column}`);
          const fileOf = (table: string): string => (table in touched ? table : "stations");
          const changes = review.changes.map((change) => JSON.stringify({ ...change, row: seen(fileOf(change.table), change.row) }));
          return { changes: changes.sort(), healed, problems: problems.sort(), ...(await folded(review)) };
        };
        expect(await said(few)).toEqual(await said(all));
      },
      RUNS / 6,
    ),
  );
});

async function folded(review: Review): Promise<{ text: string }> {
  return { text: text((await review.fold({ partial: true })).bytes) };
}

const SOURCE = '{"stations": [{"code": "S1", "height": 12.50}, {"code": "S2", "height": 9.00}]}';

async function hatched(): Promise<RowTables> {
  const tables = new RowTables();
  await hatch(SOURCE, { into: tables });
  return tables;
}

test("only some rows: what they cannot say is refused", async () => {
  const touched = (await hatched()).touched({ stations: [{ [MARK]: "b1ji", height: "13" }] });
  for (const more of [{ absent: "remove" }, { replace: ["stations"] }] as const)
    await expect(compare(touched, { source: SOURCE, ...more })).rejects.toMatchObject({ code: "rows-touched" });
  const { changes, notes } = await compare(touched, { source: SOURCE });
  expect(changes).toMatchObject([{ row: 2, column: "height", old: "12.50", new: "13" }]);
  expect(notes).toEqual([]);
});

test("a new row among the touched says what it has, and nothing of what it leaves out", async () => {
  const touched = (await hatched()).touched({ stations: { rows: [{ code: "S3" }], numbers: [4] } });
  const review = await compare(touched, { source: SOURCE });
  expect(review.changes).toMatchObject([{ kind: "added", row: 4, cells: { code: "S3" } }]);
  expect(JSON.parse(text((await fold(touched, { source: SOURCE })).bytes))).toMatchObject({ stations: [{}, {}, { code: "S3" }] });
});

test.each([
  ["a cell that is no text", { rows: [{ [MARK]: "b1ji", height: 13 as unknown as string }] }, { code: "row-cell" }],
  ["two rows of one number", { numbers: [2, 2], rows: [{ [MARK]: "b1ji" }, { code: "S4" }] }, { code: "rows-numbers" }],
  ["a cell under no title", { titles: [MARK, "height"], rows: [{ [MARK]: "b1ji", hight: "13" }] }, { code: "row-title" }],
])("%s is an error", async (_, sheet, error) => {
  const tables = (await hatched()).touched({ stations: sheet });
  await expect(compare(tables, { source: SOURCE })).rejects.toMatchObject(error);
});

test.each([
  [
    "a table that is none",
    (tables: RowTables) => compare(tables.touched({ statoins: [] }), { source: SOURCE }),
    'row-table {"nearest":"stations","table":"statoins","tables":["stations"]}',
  ],
  [
    "rows that are none",
    (tables: RowTables) => compare(tables.touched({ stations: 3 as never }), { source: SOURCE }),
    'rows-strange {"table":"stations"}',
  ],
  ["something else for tables", () => compare({ stations: [] } as never, { source: SOURCE }), 'tables-strange {"given":"Object"}'],
  ["something else to hatch into", () => hatch(SOURCE, { into: new Map() as never }), 'tables-strange {"given":"Map"}'],
])("%s is an error in words", async (_, call, expected) => {
  const tables = await hatched();
  const refused = Promise.resolve().then(() => call(tables) as Promise<unknown>);
  expect(await refusal(refused)).toBe(expected);
});

test("rows that nothing was hatched into are an error; a title that is not known is a problem", async () => {
  await expect(compare(new RowTables(), { source: SOURCE })).rejects.toMatchObject({ code: "rows-unhatched" });
  const tables = (await hatched()).touched({ stations: { rows: [{ [MARK]: "b1ji", hight: "13" }] } });
  const { problems } = await compare(tables, { source: SOURCE });
  expect(problems).toMatchObject([{ code: "column-unknown", column: "hight", hint: expect.stringContaining("height") as string }]);
});
