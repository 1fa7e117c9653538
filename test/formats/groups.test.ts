/** Groups of fields that stand several times in a line: rows of their own. */
import { describe, expect, test } from "vitest";
import { compare, draft, fold, hatch, survey } from "hatch-fold";
import { ACTION, editCells, readRows, text, type CellEdits } from "../support/sheets.js";

type Edits = Record<string, CellEdits>;
type Case = [what: string, edits: Edits, result: string | readonly string[]];

async function edited(plan: string, source: string, edits: Edits): Promise<string | readonly string[]> {
  const { tables } = await hatch(source, { plan, name: "s.txt" });
  editCells(tables, edits);
  const { problems } = await compare(tables, { source, name: "s.txt" });
  if (problems.length > 0) return problems.map(({ code, table, row, column }) => `${code} ${table} ${row} ${column}`);
  return text((await fold(tables, { source, name: "s.txt" })).bytes);
}

const planOf = (says: string, more = "", stations = "."): string => `hatchfold: 1
sources: { s: { file: s.txt, ${says} } }
tables:
  stations: { rows: ${stations}, key: code, columns: { code: code, name: name } }
  lamps: { rows: ${stations === "." ? "" : `${stations}/`}lamps, inside: stations, ${more} columns: { kind: kind, hours: hours } }
`;
const FIELDS =
  "code: 1-3, name: 4-9, count: { at: 10, total: count lamps }, sum: { at: 11-14, pad: ' ', total: sum lamps/hours }, lamps: { at: 15-21, times: 3, fields: { kind: 1-3, hours: { at: 4-6, align: right }, flag: 7 } }, end: 36";
const FIXED = planOf(`format: fixed, layout: { records: { station: { fields: { ${FIELDS} } } } }`);
const SOURCE =
  "S01Skarv 2  42FOG 12aLMP 30b       x\nS02Perle 0   0                     y\nS03Holm  3   6AAA  1pBBB  2qCCC  3rz\nS04Nord  1   7LMP  7\n";

describe("by columns", () => {
  const CASES: readonly Case[] = [
    ["a cell is edited, and the total of its line follows", { lamps: [[2, { hours: "15" }]] }, SOURCE.replace("  42FOG 12", "  45FOG 15")],
    [
      "a row is removed: the others stay where they are",
      { lamps: [[4, { [ACTION]: "remove" }]] },
      SOURCE.replace("3   6AAA  1p", "2   5       "),
    ],
    [
      "new rows go behind the others, in a line that is too short, too",
      {
        lamps: [
          ["new", { stations: "S02", kind: "NEW", hours: "5" }],
          ["new", { stations: "S04", kind: "NEW", hours: "6" }],
        ],
      },
      SOURCE.replace("0   0       ", "1   5NEW  5 ").replace("1   7LMP  7", "2  13LMP  7 NEW  6"),
    ],
    [
      "one that moves takes along what no column shows, and its edit",
      { lamps: [[5, { stations: "S02", hours: "9" }]] },
      SOURCE.replace("0   0       ", "1   9BBB  9q").replace("3   6AAA  1pBBB  2q", "2   4AAA  1p       "),
    ],
    [
      "where the last place is taken, the others close up",
      {
        lamps: [
          [4, { [ACTION]: "remove" }],
          ["new", { stations: "S03", kind: "NEW", hours: "5" }],
        ],
      },
      SOURCE.replace("3   6AAA  1pBBB  2qCCC  3r", "3  10BBB  2qCCC  3rNEW  5 "),
    ],
    [
      "a new record has its groups",
      {
        stations: [["new", { code: "S05", name: "Sund" }]],
        lamps: [
          ["new", { stations: "S05", kind: "NEW", hours: "5" }],
          [2, { stations: "S05" }],
        ],
      },
      `${SOURCE.replace("2  42FOG 12a", "1  30       ")}S05Sund  2  17FOG 12aNEW  5         \n`,
    ],
    ["no room", { lamps: [["new", { stations: "S03", kind: "NEW" }]] }, ["group-full lamps 8 "]],
    ["nothing is left of one", { lamps: [[7, { kind: "", hours: "" }]] }, ["group-emptied lamps 7 "]],
    ["what no column shows is left of one", { lamps: [[2, { kind: "", hours: "" }]] }, SOURCE.replace("  42FOG 12a", "  30      a")],
    ["a value that does not fit", { lamps: [[2, { hours: "1234" }]] }, ["fixed-wide lamps 2 hours"]],
  ];
  test.each(CASES)("%s", async (_, edits, result) => expect(await edited(FIXED, SOURCE, edits)).toEqual(result));

  test("rows are put between others where the plan lets their order be edited", async () => {
    const plan = FIXED.replace("inside: stations,", "inside: stations, order: sheet,");
    const source = SOURCE.replace("LMP 30b", "       ").replace("2  42", "1  12");
    const { tables } = await hatch(source, { plan, name: "s.txt" });
    const rows = readRows(tables, "lamps.csv");
    const [head, first, ...others] = rows;
    const added = head.map((title) => ({ stations: "S01", kind: "NEW", hours: "5" })[title] ?? "");
    tables.contents.set("lamps.csv", Buffer.from([head, added, first, ...others].map((row) => row.join(",")).join("\r\n")));
    const { bytes } = await fold(tables, { source, name: "s.txt" });
    expect(text(bytes)).toBe(source.replace("1  12FOG 12a       ", "2  17NEW  5 FOG 12a"));
  });

  test("a survey and a draft have them as records inside those of the lines", async () => {
    const settings = {
      layout: {
        records: { station: { fields: { code: "1-3", lamps: { at: "15-21", times: 3, fields: { kind: "1-3", hours: "4-6" } } } } },
      },
    };
    const { kinds, source } = await survey(SOURCE, { format: "fixed", settings });
    expect(kinds.map(({ path, count }) => [path, count])).toEqual([
      [".", 4],
      ["lamps", 6],
    ]);
    expect(source.drawing[2]).toBe("|--           |--|--|--|--|--|--".replace(/\|--\|--/g, "|--|-- ").trimEnd());
    expect((await draft(SOURCE, { format: "fixed", settings })).plan).toMatch(/rows: lamps\n\s+inside: /);
  });
});

describe("by what stands between cells", () => {
  const DELIMITED = planOf(
    `format: delimited, delimiter: ";", groups: { lamps: { from: 3, times: 2, fields: [kind, hours] } }, fields: { "lamps/hours": { decimal: "," } }`,
  );
  const TAGGED = planOf(
    `format: tagged, layout: { delimiter: ";", records: { station: { tag: ST, fields: [code, name, { name: lamps, times: 2, fields: [kind, { name: hours, decimal: "," }] }] } } }`,
    "",
    "station",
  );
  const CELLS = "S01;Skarv;FOG;1,5;LMP;30\nS02;Perle\nS03;Holm;;;AAA;2,5\n";
  const EDITS: Edits = {
    lamps: [
      [2, { hours: "2.5" }],
      [3, { stations: "S02" }],
      ["new", { stations: "S03", kind: "NEW", hours: "7" }],
    ],
  };
  const FOLDED = "S01;Skarv;FOG;2,5;;\nS02;Perle;LMP;30\nS03;Holm;AAA;2,5;NEW;7\n";
  test.each([
    ["delimited", DELIMITED, `code;name;a;b;c;d\n${CELLS}`, `code;name;a;b;c;d\n${FOLDED}`],
    ["tagged", TAGGED, CELLS.replace(/^S/gm, "ST;S"), FOLDED.replace(/^S/gm, "ST;S")],
  ])("%s", async (_, plan, source, folded) => expect(await edited(plan, source, EDITS)).toBe(folded));

  test("without titles, the columns of a file are those of its longest line", async () => {
    const source = "S01;Skarv\nS02;Perle;x;y\n";
    const { tables } = await hatch(source, {
      plan: 'hatchfold: 1\nsources: { s: { file: s.txt, format: delimited, delimiter: ";", header: 0 } }\ntables: { r: { rows: ., columns: { last: column 4 } } }\n',
      name: "s.txt",
    });
    expect(readRows(tables, "r.csv").map((row) => row.at(-1))).toEqual(["last", "", "y"]);
  });
});

test("in records of a mainframe, groups of packed zeros are blank", async () => {
  const ebcdic = (text: string): number[] =>
    [...text].map((char) => (char === " " ? 0x40 : char >= "0" && char <= "9" ? 0xf0 + Number(char) : char.charCodeAt(0) + 0x80));
  // two groups of a code and packed hours; capital letters up to I
  const record = (code: string, ...groups: [string, number[]][]): number[] => [
    ...ebcdic(code),
    ...groups.flatMap(([kind, hours]) => [...ebcdic(kind), ...hours]),
  ];
  const source = Uint8Array.from([
    ...record("A1", ["BC", [0x01, 0x2c]], ["  ", [0x00, 0x0c]]),
    ...record("A2", ["  ", [0x00, 0x0c]], ["  ", [0x00, 0x0c]]),
  ]);
  const plan =
    "hatchfold: 1\nsources: { s: { file: s.dat, format: fixed, encoding: cp037, layout: { unit: bytes, length: 10, records: { r: { fields: { code: 1-2, lamps: { at: 3-6, times: 2, fields: { kind: 1-2, hours: { at: 3-4, stored: packed } } } } } } } } }\n" +
    "tables: { r: { rows: ., key: code, columns: { code: code } }, lamps: { rows: lamps, inside: r, columns: { kind: kind, hours: hours } } }\n";
  const { tables } = await hatch(source, { plan, name: "s.dat" });
  expect(readRows(tables, "lamps.csv").map((row) => row.slice(-3))).toEqual([
    ["r", "kind", "hours"],
    ["A1", "BC", "12"],
  ]);
  editCells(tables, {
    lamps: [
      [2, { r: "A2" }],
      ["new", { r: "A2", kind: "DD", hours: "-3" }],
    ],
  });
  const { bytes } = await fold(tables, { source, name: "s.dat" });
  expect([...bytes]).toEqual([
    ...record("A1", ["  ", [0x00, 0x0c]], ["  ", [0x00, 0x0c]]),
    ...record("A2", ["BC", [0x01, 0x2c]], ["DD", [0x00, 0x3d]]),
  ]);
});

describe("plans that cannot be", () => {
  const group = (says: string): string =>
    planOf(`format: fixed, layout: { length: 30, records: { station: { fields: { code: 1-3, name: 4-9, lamps: { ${says} } } } } }`);
  test.each([
    ["no times", "at: 10-12, fields: { kind: 1-3 }", "layout-times"],
    ["to the end of the line", "at: 10-, times: 2, fields: { kind: 1-3 }", "layout-columns"],
    ["more columns than the record has", "at: 10-19, times: 3, fields: { kind: 1-3 }", "layout-beyond"],
    ["a field beyond its group", "at: 10-12, times: 2, fields: { kind: 1-5 }", "layout-beyond"],
    ["a total in a group", "at: 10-12, times: 2, fields: { kind: { at: 1-3, total: number } }", "layout-total"],
  ])("%s", (_, says, code) => expect(hatch("x".repeat(30), { plan: group(says), name: "s.txt" })).rejects.toMatchObject({ code }));
});
