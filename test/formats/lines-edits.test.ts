/** Files of lines: edits of fields that depend on each other, of records without line ends, and lines that come with others. */
import { describe, expect, test } from "vitest";
import { compare, fold, hatch } from "hatch-fold";
import { ACTION, edit, text } from "../support/sheets.js";

/** Cells by title: of a row by its number, or of a new one. */
type Cells = Record<string, string>;
type Edits = Record<string, readonly (readonly [row: number | "new", cells: Cells])[]>;
/** The file, or problems as `code row column`. */
type Result = string | readonly string[];

interface Layout {
  readonly format: "fixed" | "tagged" | "delimited" | "blocks";
  /** What the plan says of the source, as YAML in one line. */
  readonly says: string;
  readonly tables: string;
}

const fixed = (says: string, tables = "r: { rows: ., columns: { no: no, name: name } }"): Layout => ({
  format: "fixed",
  says: `layout: { ${says} }`,
  tables,
});
const tagged = (says: string, tables: string): Layout => ({ format: "tagged", says: `layout: { ${says} }`, tables });

function planOf({ format, says, tables }: Layout): string {
  return `hatchfold: 1\nsources: { x: { file: x.txt, format: ${format}, ${says} } }\ntables: { ${tables} }\n`;
}

async function edited(layout: Layout, source: string, edits: Edits): Promise<{ result: Result; notes: readonly string[] }> {
  const { tables } = await hatch(source, { plan: planOf(layout), name: "x.txt" });
  for (const [table, rows] of Object.entries(edits))
    edit(tables, `${table}.csv`, (all, titles) => {
      for (const [row, cells] of rows) {
        const at = row === "new" ? all.push(titles.map(() => "")) - 1 : row - 1;
        for (const [title, cell] of Object.entries(cells)) all[at][titles.indexOf(title)] = cell;
      }
    });
  const { problems, notes } = await compare(tables, { source, name: "x.txt" });
  if (problems.length > 0) return { result: problems.map(({ code, row, column }) => `${code} ${row} ${column}`), notes: [] };
  const { bytes } = await fold(tables, { source, name: "x.txt" });
  return { result: text(bytes), notes: notes.map(({ code }) => code) };
}

type Case = [what: string, layout: Layout, source: string, edits: Edits, result: Result];

const OPEN = fixed("length: 7, records: { r: { fields: { no: 1-2, name: 3- } } }");
const TAGS = fixed(
  'records: { r: { tag: { at: 1-2, is: ["10", "15"] }, fields: { t: 1-2, name: 3-7 } } }',
  "r: { rows: r, columns: { t: t, name: name } }",
);
const SHARED = fixed("records: { r: { fields: { no: 1-2, a: 3-5, both: 3-8 } } }", "r: { rows: ., columns: { no: no, a: a, both: both } }");
const FIRST = fixed(
  "records: { h: { line: first, fields: { name: 1-5 } }, t: { line: last, fields: { name: 1-5 } }, r: { fields: { no: 1-2, name: 3-7 } } }",
  "h: { rows: h, columns: { name: name } }, t: { rows: t, columns: { name: name } }, r: { rows: r, columns: { no: no, name: name } }",
);
const LIKE = tagged('records: { a: { like: "A## *", fields: [t] }, b: { like: "B *", fields: [t] } }', "a: { rows: a, columns: { t: t } }");
const TRAILER = tagged(
  'delimiter: "|", records: { h: { tag: H, fields: [no] }, t: { tag: T, inside: h, closes: true, fields: [{ name: n, total: count d }, who] }, d: { tag: D, inside: h, fields: [name] } }',
  "h: { rows: h, key: no, columns: { no: no } }, d: { rows: h/d, inside: h, columns: { name: name } }",
);
const SPACES = tagged("delimiter: spaces, records: { a: { tag: A, fields: [x, y, z] } }", "a: { rows: a, columns: { x: x, y: y, z: z } }");
const PIPES = tagged('delimiter: "|", records: { a: { tag: A, fields: [x, y, z] } }', "a: { rows: a, columns: { x: x, y: y, z: z } }");
const FILLED = fixed(
  "records: { h: { tag: { at: 1-1, is: H }, fields: { no: 2-2 } }, d: { tag: { at: 1-1, is: D }, inside: h, fields: { no: 2-2, name: 3-3 } }, t: { tag: { at: 1-1, is: T }, inside: h, closes: true, fields: { x: 2-2 } } }",
  "h: { rows: h, key: no, columns: { no: no } }, d: { rows: h/d, inside: h, columns: { no: no, name: name } }",
);

const CASES: Case[] = [
  ["an open last field of records without line ends is filled up", OPEN, "01AAA  02BBB  ", { r: [[2, { name: "CC" }]] }, "01CC   02BBB  "],
  ["what is longer than such a record is told", OPEN, "01AAA  02BBB  ", { r: [[2, { name: "CCCCCC" }]] }, ["fixed-wide 2 name"]],
  [
    "a line end behind the last of them stays there",
    OPEN,
    "01AAA  02BBB  \n",
    { r: [["new", { no: "03", name: "X" }]] },
    "01AAA  02BBB  03X    \n",
  ],
  [
    "a short last one is filled up when another comes",
    OPEN,
    "01AAA  02BBB",
    { r: [["new", { no: "03", name: "X" }]] },
    "01AAA  02BBB  03X    ",
  ],
  [
    "a tag in a column may be another of its kind",
    TAGS,
    "10AAA\n15BBB\n",
    {
      r: [
        [2, { t: "15" }],
        ["new", { t: "15", name: "C" }],
      ],
    },
    "15AAA\n15BBB\n15C\n",
  ],
  [
    "but not one of no kind",
    TAGS,
    "10AAA\n15BBB\n",
    {
      r: [
        [2, { t: "20" }],
        ["new", { t: "11", name: "C" }],
      ],
    },
    ["record-kind 2 t", "record-kind 4 t"],
  ],
  ["a line that is told by a pattern keeps to it", LIKE, "A12 x\nB foo\n", { a: [[2, { t: "C foo" }]] }, ["record-kind 2 t"]],
  ["and may change within it", LIKE, "A12 x\nB foo\n", { a: [[2, { t: "A34 y" }]] }, "A34 y\nB foo\n"],
  ["one of two fields in the same columns: the other follows", SHARED, "10AAABBB\n", { r: [[2, { a: "XXX" }]] }, "10XXXBBB\n"],
  ["both, and they agree", SHARED, "10AAABBB\n", { r: [[2, { a: "XXX", both: "XXXCCC" }]] }, "10XXXCCC\n"],
  ["both, and they do not", SHARED, "10AAABBB\n", { r: [[2, { a: "XXX", both: "YYYYYY" }]] }, ["fields-differ 2 a"]],
  ["a new row says one of them", SHARED, "10AAABBB\n", { r: [["new", { no: "11", both: "XYZ" }]] }, "10AAABBB\n11XYZ   \n"],
  [
    "a new row says both, and they do not agree",
    SHARED,
    "10AAABBB\n",
    { r: [["new", { no: "11", a: "X", both: "YYY" }]] },
    ["fields-differ 3 a"],
  ],
  ["the first line is edited", FIRST, "HEAD1\n10AAA\nEND\n", { h: [[2, { name: "HEAD2" }]] }, "HEAD2\n10AAA\nEND\n"],
  ["a second first line", FIRST, "HEAD1\n10AAA\nEND\n", { h: [["new", { name: "HEAD2" }]] }, ["line-placed 3 "]],
  ["no first line", FIRST, "HEAD1\n10AAA\nEND\n", { h: [[2, { [ACTION]: "remove" }]] }, ["line-placed 2 "]],
  ["no last line", FIRST, "HEAD1\n10AAA\nEND\n", { t: [[2, { [ACTION]: "remove" }]] }, ["line-placed 2 "]],
  ["lines go before the last", FIRST, "HEAD1\n10AAA\nEND\n", { r: [["new", { no: "11", name: "B" }]] }, "HEAD1\n10AAA\n11B\nEND\n"],
  [
    "what the plan names behind the trailer stands before it",
    TRAILER,
    "H|1\nT|0|me\n",
    {
      h: [["new", { no: "2" }]],
      d: [
        ["new", { h: "1", name: "a" }],
        ["new", { h: "2", name: "b" }],
      ],
    },
    "H|1\nD|a\nT|1|me\nH|2\nD|b\nT|1|\n",
  ],
  [
    "blanks between fields: none can be blank",
    SPACES,
    "A 1 2 3\nA 4 5 6\n",
    {
      a: [
        [2, { y: "" }],
        ["new", { x: "7", z: "9" }],
      ],
    },
    ["cell-unquoted 2 y", "cell-unquoted 4 y"],
  ],
  ["a new line has as many delimiters as its siblings", PIPES, "A|1|2|\nA|4||\n", { a: [["new", { x: "7" }]] }, "A|1|2|\nA|4||\nA|7||\n"],
  ["and none where they have none", PIPES, "A|1\nA|4\n", { a: [["new", { x: "7" }]] }, "A|1\nA|4\nA|7\n"],
  [
    "columns that no field names are as in the siblings, also in lines that come along",
    FILLED,
    "H1  FILLER\nD1a ZZ9\nT   END\n",
    { h: [["new", { no: "3" }]], d: [["new", { h: "3", no: "1", name: "q" }]] },
    "H1  FILLER\nD1a ZZ9\nT   END\nH3  FILLER\nD1q ZZ9\nT   END\n",
  ],
];

describe("fields that depend on each other, and lines that come with others", () => {
  test.each(CASES)("%s", async (_, layout, source, edits, result) => {
    expect((await edited(layout, source, edits)).result).toEqual(result);
  });

  test("what is copied from siblings is told", async () => {
    const { notes } = await edited(FILLED, "H1  FILLER\nD1a ZZ9\nT   END\n", { h: [["new", { no: "3" }]] });
    expect(notes).toEqual(["columns-copied", "columns-copied"]);
  });

  test("records without line ends: a field beyond them is an error of the plan, and order can be edited", async () => {
    await expect(
      hatch("01AAA  ", { plan: planOf(fixed("length: 7, records: { r: { fields: { no: 1-2, name: 3-9 } } }")), name: "x.txt" }),
    ).rejects.toMatchObject({
      code: "layout-beyond",
    });
    const { tables } = await hatch("01AAA  02BBB", {
      plan: planOf({ ...OPEN, tables: "r: { rows: ., order: sheet, columns: { no: no, name: name } }" }),
      name: "x.txt",
    });
    edit(tables, "r.csv", ([titles, first, second]) => [titles, second, first]);
    expect(text((await fold(tables, { source: "01AAA  02BBB", name: "x.txt" })).bytes)).toBe("02BBB  01AAA  ");
  });
});
