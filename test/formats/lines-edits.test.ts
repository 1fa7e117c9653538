/** Files of lines: edits of fields that depend on each other, of records without line ends, and lines that come with others. */
import { describe, expect, test } from "vitest";
import { compare, draft, fold, hatch, survey } from "hatch-fold";
import fc from "fast-check";
import { law } from "../support/laws.js";
import { ACTION, edit, editCells, readRows, setCell, text, type CellEdits } from "../support/sheets.js";

/** Cells by title: of a row by its number, or of a new one. */
type Cells = Record<string, string>;
type Edits = Record<string, CellEdits>;
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
  editCells(tables, edits);
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
const MIDDLE = fixed(
  "records: { r: { fields: { whole: 1-5, part: 3-5, name: 6-11 } } }",
  "r: { rows: ., columns: { whole: whole, part: { at: part, type: text }, name: name } }",
);
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
  ["the longer one of them", SHARED, "10AAABBB\n", { r: [[2, { both: "XYZQQQ" }]] }, "10XYZQQQ\n"],
  ["one in the middle of another", MIDDLE, "S-001Skarv \n", { r: [[2, { part: "009" }]] }, "S-009Skarv \n"],
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

/** One field `q` in columns 3 to 10, or behind a delimiter. */
const columns = (says: string): Layout =>
  fixed(`records: { r: { fields: { no: 1-2, q: { at: 3-10, ${says} } } } }`, "r: { rows: ., columns: { no: no, q: q } }");
const cells = (says: string, type = "any"): Layout => ({
  format: "delimited",
  says: `delimiter: ";", fields: { q: { ${says} } }`,
  tables: `r: { rows: ., columns: { no: no, q: { at: q, type: ${type} } } }`,
});
const line = (says: string): Layout =>
  tagged(`delimiter: "|", records: { r: { tag: R, fields: [no, { name: q, ${says} }] } }`, "r: { rows: r, columns: { no: no, q: q } }");
const blocks = (says: string): Layout => ({
  format: "blocks",
  says: `fields: { q: { ${says} } }`,
  tables: "r: { rows: ., columns: { no: no, q: q } }",
});

const set = (q: string): Edits => ({ r: [[2, { q }]] });
const both = (q: string, fresh: string): Edits => ({
  r: [
    [2, { q }],
    ["new", { no: "12", q: fresh }],
  ],
});

const VALUES: Case[] = [
  ["fewer decimals than the field has", columns("decimals: 2"), "1000001234\n", both("44.5", "7"), "1000004450\n1200000700\n"],
  ["more decimals than it has", columns("decimals: 2"), "1000001234\n", set("44.505"), ["fixed-number 2 q"]],
  [
    "a written point",
    columns('decimal: ".", pad: " ", decimals: 2, sign: trailing'),
    "10  12.34-\n11   7.00 \n",
    both("44.5", "-7.25"),
    "10  44.50 \n11   7.00 \n12   7.25-\n",
  ],
  [
    "a written comma",
    columns('decimal: ",", pad: " ", sign: trailing'),
    "10  12,34-\n11   7,00 \n",
    both("44.5", "-7.25"),
    "10   44,5 \n11   7,00 \n12   7,25-\n",
  ],
  [
    "positive values as the file has them: with a plus",
    columns("sign: trailing"),
    "100000012-\n110000013+\n",
    both("44", "7"),
    "100000044+\n110000013+\n120000007+\n",
  ],
  ["or a blank", columns("sign: trailing"), "100000012-\n110000013 \n", both("44", "7"), "100000044 \n110000013 \n120000007 \n"],
  ["or a digit", columns("sign: trailing"), "100000012-\n1100000013\n", both("44", "7"), "1000000044\n1100000013\n1200000007\n"],
  ["signs over digits", columns("sign: overpunch"), "100000012}\n110000013{\n", both("44", "-7"), "100000004D\n110000013{\n120000000P\n"],
  [
    "signs over digits of negative values only",
    columns("sign: overpunch"),
    "100000012}\n1100000130\n",
    both("44", "-7"),
    "1000000044\n1100000130\n120000000P\n",
  ],
  ["a minus where there is none", columns('pad: "0"'), "1000000012\n", set("-5"), ["fixed-number 2 q"]],
  ["a fraction where there is none", columns('pad: "0"'), "1000000012\n", both("5.5", "5.5"), ["fixed-number 2 q", "fixed-number 3 q"]],
  ["a fraction where the file has some", columns('pad: "0"'), "1000012.50\n", both("5.5", "6.5"), "10000005.5\n12000006.5\n"],
  ["two digits of a year", columns("date: YYMMDD"), "10490305  \n", set("1998-03-05"), "10980305  \n"],
  ["of another century", columns("date: YYMMDD"), "10490305  \n", set("1950-03-05"), ["date-year 2 q"]],
  ["by a pivot of one's own", columns("date: YYMMDD, pivot: 30"), "10490305  \n", set("2050-03-05"), ["date-year 2 q"]],
  ["a day that is not", columns("date: YYMMDD"), "10490305  \n", set("2024-02-31"), ["fixed-date 2 q"]],
  ["the day of the year", columns("date: YYYYDDD"), "102024065 \n", both("2024-12-31", "2023-03-01"), "102024366 \n122023060 \n"],
  ["a month's name", line("date: DDMmmYY"), "R|1|05Mar24\n", both("2024-12-31", "2023-03-01"), "R|1|31Dec24\nR|12|01Mar23\n"],
  ["a month", columns("date: YYYYMM"), "10202403  \n", both("2024-12", "2023-03"), "10202412  \n12202303  \n"],
  ["no end", columns("date: YYYYMMDD"), "1020240305\n1199999999\n", set("99999999"), "1099999999\n1199999999\n"],
  [
    "a decimal comma and groups in cells",
    cells('decimal: ",", group: "."', "decimal"),
    "no;q\n1;1.234,50\n",
    both("2345.6", "-1000.5"),
    "no;q\n1;2.345,6\n12;-1.000,5\n",
  ],
  [
    "no groups where there are none",
    cells('decimal: ",", group: "."', "decimal"),
    "no;q\n1;1234,50\n",
    both("2345.6", "1000000"),
    "no;q\n1;2345,6\n12;1000000\n",
  ],
  [
    "a minus behind the number",
    line('decimal: ",", sign: trailing'),
    "R|1|12,00\n",
    both("2345.6", "-1000.5"),
    "R|1|2345,6\nR|12|1000,5-\n",
  ],
  ["what is no number", line('decimal: ","'), "R|1|12,00\n", both("n/a", "1"), ["number-form 2 q"]],
  [
    "dates without leading zeros",
    cells("date: D.M.YYYY"),
    "no;q\n1;5.3.2024\n",
    both("2024-12-31", "2023-03-01"),
    "no;q\n1;31.12.2024\n12;1.3.2023\n",
  ],
  [
    "a date in a block",
    blocks("date: DD/MM/YYYY"),
    "no: 1\nq: 05/03/2024\n",
    both("2024-12-31", "2023-03-01"),
    "no: 1\nq: 31/12/2024\n\nno: 12\nq: 01/03/2023\n",
  ],
];

describe("values in the file's own forms", () => {
  test.each(VALUES)("%s", async (_, layout, source, edits, result) => {
    expect((await edited(layout, source, edits)).result).toEqual(result);
  });

  test.each(["YYMMXX", "DDMM", "YYYYMMMDDD", "YYYYYYYY", "DAY"])("%s is no picture of a date", async (picture) => {
    await expect(hatch("10202403  \n", { plan: planOf(columns(`date: ${picture}`)), name: "x.txt" })).rejects.toMatchObject({
      code: "date-picture",
    });
  });

  const FORMS: [type: "date" | "number", layout: Layout, old: string][] = [
    ["date", columns("date: DDMMYYYY"), "1005032024\n"],
    ["date", columns("date: YYYYDDD"), "102024065 \n"],
    ["date", line("date: D-MMM-YYYY"), "R|1|5-MAR-2024\n"],
    ["number", columns("decimals: 2, sign: overpunch"), "100000012D\n"],
    ["number", columns("decimals: 2, sign: leading"), "10+0000124\n"],
    ["number", cells('decimal: ",", group: "."'), "no;q\n1;1.234,50\n"],
    ["number", line('decimal: ",", sign: trailing'), "R|1|12,00\n"],
  ];
  test.each(FORMS)("what is written is what is read: a %s in %j", (type, layout, source) =>
    law(fc.tuple(fc.integer({ min: -99_999, max: 99_999 }), fc.integer({ min: 0, max: 80_000 })), async ([number, day]) => {
      const wanted = type === "number" ? (number / 100).toFixed(2) : new Date(Date.UTC(1900, 0, 1 + day)).toISOString().slice(0, 10);
      const { tables } = await hatch(source, { plan: planOf(layout), name: "x.txt" });
      setCell(tables, "r.csv", 2, "q", wanted);
      const { bytes } = await fold(tables, { source, name: "x.txt" });
      const again = await hatch(bytes, { plan: planOf(layout), name: "x.txt" });
      expect(readRows(again.tables, "r.csv")[1].at(-1)).toBe(wanted === "-0.00" ? "0.00" : wanted);
    }),
  );
});

/** A trailer `T` over entries `E` with a code and an amount, in a batch `B`; what its total says. */
const batch = (total: string, more = ""): Layout =>
  tagged(
    `delimiter: "|", records: { b: { tag: B, fields: [no] }, e: { tag: E, inside: b, fields: [code, { name: q, decimal: "," }] }, f: { tag: F, inside: b, fields: [q] }, t: { tag: T, inside: b, closes: true, fields: [{ name: x, decimal: ",", total: ${total} }] }${more} }`,
    "b: { rows: b, key: no, columns: { no: no } }, e: { rows: b/e, inside: b, columns: { code: code, q: q } }, f: { rows: b/f, inside: b, columns: { q: q } }",
  );
const BATCH = "B|1\nE|D|10,50\nE|C|3,25\nF|1\nT|$\n";
const entry = (code: string, q: string): Edits => ({ e: [["new", { b: "1", code, q }]] });
const digits = (standard: string): Layout =>
  tagged(
    `delimiter: "|", records: { r: { tag: R, fields: [no, { name: x, total: ${standard} no }] } }`,
    "r: { rows: r, columns: { no: no, x: x } }",
  );
const BLOCKED = fixed(
  'fill: { with: "9", to: 4 }, records: { h: { tag: { at: 1-1, is: "1" }, fields: { name: 2-5 } }, r: { tag: { at: 1-1, is: "6" }, fields: { no: 2-3, q: { at: 4-5, pad: "0" } } }, t: { tag: { at: 1-1, is: "9" }, fields: { n: { at: 2-3, total: { of: count lines, per: 4 } }, x: { at: 4-5, total: { of: sum r/q, modulo: 100 } } } } }',
  "r: { rows: r, columns: { no: no, q: q } }",
);

const TOTALS: Case[] = [
  [
    "sums with a comma",
    batch("sum e/q"),
    BATCH.replace("$", "13,75"),
    entry("D", "1.005"),
    BATCH.replace("F|", "E|D|1,005\nF|").replace("$", "14,755"),
  ],
  [
    "only some records",
    batch("{ of: sum e/q, when: { code: [D, X] } }"),
    BATCH.replace("$", "10,50"),
    entry("C", "1.00"),
    BATCH.replace("F|", "E|C|1,00\nF|").replace("$", "10,50"),
  ],
  [
    "these, when one of them comes",
    batch("{ of: sum e/q, when: { code: [D, X] } }"),
    BATCH.replace("$", "10,50"),
    entry("X", "1.00"),
    BATCH.replace("F|", "E|X|1,00\nF|").replace("$", "11,50"),
  ],
  [
    "two kinds together",
    batch("count e + count f"),
    BATCH.replace("$", "3"),
    entry("C", "1.00"),
    BATCH.replace("F|", "E|C|1,00\nF|").replace("$", "4"),
  ],
  [
    "one less the other",
    batch("sum e/q - sum f/q"),
    BATCH.replace("$", "12,75"),
    entry("C", "1.00"),
    BATCH.replace("F|", "E|C|1,00\nF|").replace("$", "13,75"),
  ],
  [
    "all lines of the batch",
    batch("count lines"),
    BATCH.replace("$", "5"),
    entry("C", "1.00"),
    BATCH.replace("F|", "E|C|1,00\nF|").replace("$", "6"),
  ],
  [
    "what is left of a division",
    batch("{ of: sum f/q, modulo: 7 }"),
    BATCH.replace("$", "1"),
    { f: [[2, { q: "20" }]] },
    BATCH.replace("F|1", "F|20").replace("$", "6"),
  ],
  [
    "what is no number",
    batch("sum e/q"),
    BATCH.replace("$", "13,75"),
    { f: [[2, { q: "n/a" }]], e: [[2, { q: "n/a" }]] },
    ["total-addend 2 q"],
  ],
  [
    "a total that does not fit",
    fixed(
      'records: { r: { tag: { at: 1-1, is: R }, fields: { q: { at: 2-3, pad: "0" } } }, t: { tag: { at: 1-1, is: T }, fields: { x: { at: 2-3, total: sum r/q } } } }',
      "r: { rows: r, columns: { q: q } }",
    ),
    "R50\nR40\nT90\n",
    { r: [[2, { q: "99" }]] },
    ["total-unfit 0 x"],
  ],
  [
    "the number of the record",
    tagged('delimiter: "|", records: { r: { tag: R, fields: [no, { name: x, total: number }] } }', "r: { rows: r, columns: { no: no } }"),
    "R|a|1\nR|b|2\nR|c|3\n",
    {
      r: [
        [2, { [ACTION]: "remove" }],
        ["new", { no: "d" }],
      ],
    },
    "R|b|1\nR|c|2\nR|d|3\n",
  ],
  ["a check digit: ISO/IEC 7812", digits("luhn"), "R|7992739871|3\n", { r: [[2, { no: "453201511283036" }]] }, "R|453201511283036|6\n"],
  ["GS1", digits("gs1"), "R|400638133393|1\n", { r: [[2, { no: "978014300723" }]] }, "R|978014300723|4\n"],
  ["ISO/IEC 7064 MOD 11-2", digits("mod-11-2"), "R|0794|0\n", { r: [[2, { no: "000000012146438" }]] }, "R|000000012146438|X\n"],
  [
    "ISO/IEC 7064 MOD 97-10",
    digits("mod-97-10"),
    "R|794|44\n",
    { r: [[2, { no: "WEST12345698765432GB" }]] },
    "R|WEST12345698765432GB|82\n",
  ],
  [
    "a file that is filled up to blocks: one line less",
    BLOCKED,
    "1HEAD\n6A150\n6B260\n90110\n",
    { r: [[2, { [ACTION]: "remove" }]] },
    "1HEAD\n6B260\n90160\n99999\n",
  ],
  [
    "and more",
    BLOCKED,
    "1HEAD\n6A150\n90150\n99999\n",
    {
      r: [
        ["new", { no: "C3", q: "70" }],
        ["new", { no: "D4", q: "1" }],
      ],
    },
    "1HEAD\n6A150\n6C370\n6D401\n90221\n99999\n99999\n99999\n",
  ],
];

const COLONS = tagged('delimiter: "::", records: { r: { tag: R, fields: [no, q, z] } }', "r: { rows: r, columns: { no: no, q: q } }");
const MARKED: Case[] = [
  [
    "a delimiter of several characters",
    { format: "delimited", says: 'delimiter: "~|~"', tables: "r: { rows: ., columns: { no: no, q: q } }" },
    "no~|~q\n1~|~a|b\n",
    both("c~d", "x"),
    "no~|~q\n1~|~c~d\n12~|~x\n",
  ],
  [
    "it cannot be in a cell",
    { format: "delimited", says: 'delimiter: "~|~"', tables: "r: { rows: ., columns: { no: no, q: q } }" },
    "no~|~q\n1~|~a|b\n",
    set("c~|~d"),
    ["cell-unquoted 2 q"],
  ],
  [
    "but where it can be escaped",
    {
      format: "delimited",
      says: String.raw`delimiter: tab, escape: '\\'`.replace("\\\\", "\\"),
      tables: "r: { rows: ., columns: { no: no, q: q } }",
    },
    "no\tq\n1\ta\\tb\\\\\n2\t\\N\n",
    both("one\ntwo\tthree \\", "x"),
    "no\tq\n1\tone\\ntwo\\\tthree \\\\\n2\t\\N\n12\tx\n",
  ],
  ["tags, and delimiters of several characters", COLONS, "R::1::a:b::end\n", both("c:d", "x"), "R::1::c:d::end\nR::12::x::\n"],
  ["a cell that ends like one", COLONS, "R::1::a:b::end\n", set("c:"), ["cell-unquoted 2 q"]],
];

test.each(MARKED)("%s", async (_, layout, source, edits, result) => {
  expect((await edited(layout, source, edits)).result).toEqual(result);
});

describe("totals", () => {
  test.each(TOTALS)("%s", async (_, layout, source, edits, result) => {
    expect((await edited(layout, source, edits)).result).toEqual(result);
  });

  test("in the first line of a file, over all of it, and again at the end", async () => {
    const layout = tagged(
      'delimiter: ";", records: { j: { tag: J, fields: [no, { name: n, total: count e }, { name: x, decimal: ",", total: sum e/q }] }, e: { tag: E, inside: j, fields: [no, { name: q, decimal: "," }] }, z: { tag: Z, inside: j, closes: true, fields: [{ name: x, decimal: ",", total: sum e/q }] } }',
      "e: { rows: j/e, columns: { no: no, q: q } }",
    );
    const { result } = await edited(layout, "J;1;2;30,75\nE;1;10,50\nE;2;20,25\nZ;30,75\n", { e: [[2, { q: "-0.5" }]] });
    expect(result).toBe("J;1;2;19,75\nE;1;-0,5\nE;2;20,25\nZ;19,75\n");
  });
});

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

describe("what no record takes is told by every verb", () => {
  const KINDS = fixed(
    'records: { h: { tag: { at: 1-2, is: "01" }, fields: { no: 3-4 } }, d: { tag: { at: 1-2, is: "02" }, inside: h, fields: { name: 3-8 } } }',
    "h: { rows: h, key: no, columns: { no: no } }, d: { rows: h/d, inside: h, columns: { name: name } }",
  );
  const TITLES: Layout = { format: "delimited", says: "header: 1", tables: "r: { rows: ., columns: { a: a, b: b } }" };
  const BLOCKS: Layout = { format: "blocks", says: "comment: '#'", tables: "r: { rows: ., columns: { Name: Name } }" };
  test.each<[what: string, layout: Layout, source: string, code: string, said: string]>([
    ["lines of no kind", KINDS, "02lost  \n01AA\n02xx    \nGARBAGE\n", "lines-unheld", 'lines 1, 4: "02lost"'],
    ["cells beyond the titles", TITLES, "a,b\n1,2\n3,4,5\n", "parts-unheld", 'line 3: "5"'],
    ["lines of a block without a name", BLOCKS, "Name: x\n# remark\n\nName: y\nno name here\n", "parts-unheld", 'line 5: "no name here"'],
  ])("%s", async (_, layout, source, code, said) => {
    const plan = planOf(layout);
    const { tables, notes } = await hatch(source, { plan, name: "x.txt" });
    expect(notes.filter((note) => note.includes(said))).toHaveLength(1);
    const compared = await compare(tables, { source, name: "x.txt" });
    expect(compared.notes.filter((note) => note.code === code && note.message.includes(said))).toHaveLength(1);
    expect(text((await fold(tables, { source, name: "x.txt" })).bytes)).toBe(source);
  });
});

test("a trailer with a table of its own: a new header needs a row there, too", async () => {
  const layout: Layout = { ...TRAILER, tables: `${TRAILER.tables}, t: { rows: h/t, inside: h, columns: { who: who } }` };
  const source = "H|1\nD|a\nT|1|me\n";
  expect((await edited(layout, source, { h: [["new", { no: "2" }]] })).result).toEqual(["trailer-missing 3 "]);
  expect((await edited(layout, source, { h: [["new", { no: "2" }]], t: [["new", { h: "2", who: "you" }]] })).result).toBe(
    `${source}H|2\nT|0|you\n`,
  );
});

test("numbers of new rows may count anew in each record around", async () => {
  const layout = tagged(
    'delimiter: "|", records: { h: { tag: H, fields: [no] }, d: { tag: D, inside: h, fields: [no, name] } }',
    'h: { rows: h, key: no, columns: { no: no } }, d: { rows: h/d, inside: h, new: { no: "{0 inside}" }, columns: { no: no, name: name } }',
  );
  const fresh = (h: string, called: string): readonly ["new", Cells] => ["new", { h, name: called }];
  const edits: Edits = { h: [["new", { no: "3" }]], d: [fresh("2", "x"), fresh("1", "y"), fresh("2", "z"), fresh("3", "w")] };
  expect((await edited(layout, "H|1\nD|1|a\nD|2|b\nH|2\nD|1|c\n", edits)).result).toBe(
    "H|1\nD|1|a\nD|2|b\nD|3|y\nH|2\nD|1|c\nD|2|x\nD|3|z\nH|3\nD|1|w\n",
  );
});

describe("what a file is taken for", () => {
  const tagsOf = (plan: string): string[] => [...plan.matchAll(/^ {8}(\S.*):$/gm)].map(([, kind]) => kind);
  test("cells with decimal commas between semicolons", async () => {
    const { kinds } = await survey(
      "Datum;Betrag;Text\n01.02.2024;1.234,50;Miete, kalt\n02.02.2024;12,00;Strom, Gas\n03.02.2024;7,25;Brot\n",
      { name: "x.csv" },
    );
    expect(kinds[0].fields.map(({ path }) => path)).toEqual(["Datum", "Betrag", "Text"]);
  });

  test("tags of three digits, in columns", async () => {
    const lines = Array.from({ length: 4 }, (_, i) => [
      `010HEAD${i}   20240101`,
      `020ROPE    0000${i}`,
      `020LAMP    0001${i}`,
      "090002",
    ]).flat();
    const { plan } = await draft(`${lines.join("\n")}\n`, { name: "x.txt" });
    expect(tagsOf(plan)).toEqual(["record 010", "record 020", "record 090"]);
  });

  test("cells between colons or blanks, where all lines have as many", async () => {
    const people = ["root:x:0:0:root:/root:/bin/bash", "ane:x:7:7:Ane, keeper:/home/ane:/bin/sh", "bo:x:8:8::/home/bo:", "cy:x:9:9::/:"];
    const words = ["aa_DJ UTF-8", "nb_NO.UTF-8 UTF-8", "da_DK ISO-8859-1", "se_NO UTF-8", "fo_FO.UTF-8 UTF-8"];
    for (const [lines, delimiter] of [
      [people, '":"'],
      [words, "spaces"],
    ] as const)
      expect((await draft(`${lines.join("\n")}\n`, { name: "list" })).plan).toMatch(new RegExp(`delimiter: ${delimiter}`));
    const prose = ["It was a dark night", "and the light was out", "so nobody saw them"];
    expect((await survey(`${prose.join("\n")}\n`, { name: "list" })).source.format).toBe("fixed");
  });

  test("no nesting that leaves lines over", async () => {
    const lines = ["A|1", "B|1", "C|1", "A|2", "B|2", "C|1", "C|2", "A|3", "C|9", "B|3", "C|5"];
    for (const order of [lines, ["B|0", "C|0", ...lines], ["C|0", ...lines]]) {
      const source = `${order.join("\n")}\n`;
      const { plan } = await draft(source, { name: "x.txt" });
      expect((await hatch(source, { plan, name: "x.txt" })).notes.filter((note) => note.includes("no record"))).toEqual([]);
    }
  });
});

describe("problems say the line of the source", () => {
  const NUMBERS: readonly (readonly [what: string, layout: Layout, source: string, row: number, line: number])[] = [
    [
      "under titles and notes",
      { format: "delimited", says: "header: 2", tables: "r: { rows: ., columns: { no: { at: no, type: integer } } }" },
      "# notes\nno,name\n1,a\n\n2,b\n",
      3,
      5,
    ],
    [
      "with quoted line ends",
      { format: "delimited", says: "header: 1", tables: "r: { rows: ., columns: { no: { at: no, type: integer } } }" },
      'no,name\n1,"a\nb"\n2,b\n',
      3,
      4,
    ],
    [
      "by columns",
      fixed("records: { r: { fields: { no: 1-2, name: 3-7 } } }", "r: { rows: ., columns: { no: { at: no, type: integer } } }"),
      "1 a\n\n2 b\n",
      3,
      3,
    ],
    [
      "of blocks",
      { format: "blocks", says: "", tables: "r: { rows: ., columns: { no: { at: no, type: integer } } }" },
      "no: 1\nname: a\n\nno: 2\nname: b\n",
      3,
      4,
    ],
    [
      "inside others",
      tagged(
        'delimiter: "|", records: { h: { tag: H, fields: [a] }, d: { tag: D, inside: h, fields: [no] } }',
        "r: { rows: h/d, columns: { no: { at: no, type: integer } } }",
      ),
      "H|x\nD|1\nH|y\nD|2\n",
      3,
      4,
    ],
  ];
  test.each(NUMBERS)("%s", async (_, layout, source, row, line) => {
    const { tables } = await hatch(source, { plan: planOf(layout).replace(", }", " }"), name: "x.txt" });
    setCell(tables, "r.csv", row, "no", "two");
    const { problems } = await compare(tables, { source, name: "x.txt" });
    expect(problems.map((problem) => [problem.code, problem.line])).toEqual([["type", line]]);
  });
});

describe("a new row that could go into several records is refused, in lines as elsewhere", () => {
  const HEADERS =
    'layout: { delimiter: "|", records: { o: { tag: O, fields: [no, { name: g, times: 2, fields: [w] }] }, k: { tag: K, inside: o, fields: [w] } } }';
  const SOURCES: [what: string, settings: string, rows: string, source: string][] = [
    ["JSON", "format: json", "o/k", '{"o": [{"k": [{"w": "a"}]}, {"k": [{"w": "b"}]}]}'],
    ["XML", "format: xml", "r/o/k", "<r><o><k><w>a</w></k><k><w>c</w></k></o><o><k><w>b</w></k></o></r>"],
    ["tagged lines", `format: tagged, ${HEADERS}`, "o/k", "O|1\nK|a\nO|2\nK|b\n"],
    ["groups in lines", `format: tagged, ${HEADERS}`, "o/g", "O|1|a|\nO|2|b|\n"],
    [
      "by columns",
      "format: fixed, layout: { records: { o: { tag: { at: 1, is: O }, fields: { no: 2 } }, k: { tag: { at: 1, is: K }, inside: o, fields: { w: 2-4 } } } }",
      "o/k",
      "O1\nKa\nO2\nKb\n",
    ],
  ];
  test.each(SOURCES)("%s", async (_, settings, rows, source) => {
    const plan = `hatchfold: 1\nsources: { s: { file: s.txt, ${settings} } }\ntables: { t: { rows: ${rows}, columns: { w: w } } }\n`;
    const { tables } = await hatch(source, { plan, name: "s.txt" });
    editCells(tables, { t: [["new", { w: "x" }]] });
    await expect(fold(tables, { source, name: "s.txt" })).rejects.toMatchObject({ code: "add-nowhere" });
  });
});
