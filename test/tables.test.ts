/** Spellings, marks and what spreadsheets do to sheets. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, type MemoryTables } from "hatch-fold";
import { damage } from "../src/cells/heal.js";
import { formatMark, markSalt, parseMark } from "../src/model/marks.js";
import { readCell, spellText } from "../src/cells/spelling.js";
import { bytes, edit, readRows, setCell, text, writeRows } from "./support/sheets.js";
import { brief } from "./support/brief.js";

describe("law 7: blank is not nothing", () => {
  const tricky = fc.oneof(
    fc.string({ unit: "binary" }),
    fc.constantFrom(
      "",
      "(null)",
      "(empty)",
      "(absent)",
      "[]",
      "{}",
      "((null))",
      "([])",
      '("x")',
      "=1",
      "'=1",
      "''+x",
      "-5",
      "+a",
      "@",
      "\t",
      "\ud800",
      "(",
      "((",
      "()",
    ),
    fc
      .tuple(fc.nat({ max: 3 }), fc.constantFrom("null", "empty", "absent", "[]", "{}", '"a"', '"\\ud800"'), fc.nat({ max: 3 }))
      .map(([a, word, b]) => "(".repeat(a) + word + ")".repeat(b)),
  );
  test("no text can be taken for a spelling, and every text comes back", () => {
    fc.assert(
      fc.property(tricky, fc.constantFrom("absent" as const, "null" as const, "empty" as const), (value, blank) => {
        const cell = spellText(value, blank);
        expect(readCell(cell, blank)).toMatchObject({ kind: "text", text: value });
        expect(cell).not.toMatch(/^[=@]/);
        expect(cell).not.toMatch(/\p{Cs}/u);
      }),
      { numRuns: 2000 },
    );
  });

  test("absent, null, empty text, empty list and empty record: told apart in the sheet, and each can be made any other", async () => {
    const values: Record<string, string> = { absent: "", null: "(null)", empty: "(empty)", list: "[]", record: "{}", text: "word" };
    const sources: Record<string, string> = { null: "null", empty: '""', list: "[]", record: "{}", text: '"word"' };
    const doc = (kind: string): string =>
      `{"s": [{"id": 1, "v": [1]}, {"id": 2${kind === "absent" ? "" : `, "v": ${sources[kind]}`}}, {"id": 3, "v": {"a": 1}}]}`;
    const plan = "hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { s: { rows: s, columns: { id: id, v: v } } }\n";
    for (const from of Object.keys(values)) {
      for (const to of Object.keys(values)) {
        const source = doc(from);
        const { tables } = await hatch(source, { plan });
        expect(tables.text("s.csv")).toContain(`,,2,${values[from]}\r\n`);
        setCell(tables, "s.csv", 3, "v", values[to]);
        expect(text((await fold(tables, { source })).bytes), `${from} to ${to}`).toBe(doc(to));
      }
    }
  });
});

describe("fold marks", () => {
  const salt = markSalt("stations");
  test("spell a place, sort in the order of the source, and are not for another table", () => {
    fc.assert(
      fc.property(fc.nat({ max: 10 ** 9 }), fc.nat({ max: 10 ** 9 }), (a, b) => {
        expect(parseMark(salt, formatMark(salt, a))).toBe(a);
        expect(parseMark(salt, ` ${formatMark(salt, a).toUpperCase()} `)).toBe(a);
        expect(parseMark(markSalt("lights"), formatMark(salt, a))).toBe(-1);
        expect(formatMark(salt, a) < formatMark(salt, b)).toBe(a < b);
      }),
    );
  });
  test("a changed character, two characters swapped, one left out or doubled: found", () => {
    for (let place = 0; place < 3000; place += 7) {
      const mark = formatMark(salt, place);
      for (let i = 0; i < mark.length; i++) {
        for (const c of "0123456789abcdefghijklmnopqrstuvwxyz") {
          if (c !== mark[i]) expect(parseMark(salt, mark.slice(0, i) + c + mark.slice(i + 1))).toBe(-1);
        }
        expect(parseMark(salt, mark.slice(0, i) + mark.slice(i + 1))).toBe(-1);
        const swapped = mark.slice(0, i) + (mark[i + 1] ?? "") + mark[i] + mark.slice(i + 2);
        if (swapped !== mark) expect(parseMark(salt, swapped)).toBe(-1);
      }
    }
  });
});

describe("healing: damage is told from an edit", () => {
  test.each([
    ["007", "7", "leading zeros lost"],
    ["1.50", "1.5", "trailing zeros lost"],
    ["1E5", "100000", "number written another way"],
    ["100000", "1.00E+05", "number written another way"],
    ["1.5", "1,5", "decimal comma"],
    ["123456789012345678", "123456789012345000", "digits lost beyond the fifteenth"],
    ["123456789012345678", "1.23457E+17", "digits lost beyond the fifteenth"],
    ["true", "TRUE", "TRUE for true"],
    ["2024-03-05", "05/03/2024", "date written another way"],
    ["2024-03-05", "3/5/24", "date written another way"],
    ["2024-03-05", "5-Mar-24", "date written another way"],
    ["2024-03-05", "45356", "date as the number of its day"],
    ["2024-03-05", "43894", "date as the number of its day"],
    ["1234.5", "1,234.50", "thousands separators"],
    ["1234.5", "1.234,5", "thousands separators"],
    ["0.15", "15%", "shown as a percentage"],
    ["12.50", "€ 12.50", "shown as money"],
    ["-5", "(5)", "shown in parentheses"],
    ["50 %", "50%", "text taken for a number"],
    ["(12)", "-12", "text taken for a number"],
    ["9:30", "09:30:00", "time written another way"],
    ["21:30", "9:30 PM", "time written another way"],
    ["771908830000303017", "7,71908830000303E+017", "digits lost beyond the fifteenth"],
    ["99999999999999999", "1E+017", "digits lost beyond the fifteenth"],
    ["4006381333931", "4.00638E+12", "shown with an exponent, digits lost"],
    ["3/4", "03.Apr", "code turned into a date"],
    ["3/4", "4-Mar", "code turned into a date"],
    ["MAR1", "01-Mar", "code turned into a date"],
    ["2024-03-05", "5. März 2024", "date written another way"],
    ["2024-12-05", "05 déc. 2024", "date written another way"],
    ["true", "WAHR", "WAHR for true"],
    ["Ærø", "Ã†rÃ¸", "UTF-8 read as another encoding"],
    ["a -- b", "a \u2013 b", "dashes in place of hyphens"],
    ["wait...", "wait\u2026", "signs put in place of others"],
    ["\u00c5sa", "A\u030asa", "letters composed another way"],
    ["a\tb", "a b", "tabs inside the cell"],
    ["9007199254740993.01", "9007199254740993.02", null],
    ["1.2.3", "123", null],
    ["10.1234567890123456", "10.12", null],
    ["42.750", "42750", null],
    ["true", "1", null],
    ["12", "12%", null],
    ["a\r\nb", "a\nb", "line ends inside the cell"],
    ["a b", "a\u00a0b", "non-breaking spaces"],
    ['say "x"', "say \u201cx\u201d", "curled quotes"],
    ["007", "8", null],
    ["1.50", "1.6", null],
    ["-5", "5", null],
    ["2024-03-05", "06/03/2024", null],
    ["123456789012345678", "123456789012399000", null],
    ["lit", "Lit", null],
    [" Harbours", "Harbours", null],
  ])("%s seen as %s: %s", (was, found, why) => {
    expect(damage(was, found)).toBe(why);
  });

  test("is counted, listed and can be switched off for a column", async () => {
    const source = '{"s": [{"id": 1, "code": "007"}]}';
    const { tables } = await hatch(source);
    setCell(tables, "s.csv", 2, "code", "7");
    expect(await compare(tables, { source })).toMatchObject({
      counts: { healed: 1, changed: 0 },
      healed: [{ row: 2, found: "7", restored: "007" }],
    });
    expect(await compare(tables, { source, noHeal: ["s.code"] })).toMatchObject({ counts: { healed: 0, changed: 1 } });
  });
});

test("a line of words above the titles and a helper column are named, and nothing else comes of them", async () => {
  const source = '{"s": [{"id": 1, "code": "A"}, {"id": 2, "code": "B"}]}';
  for (const delimiter of [",", ";"]) {
    const { tables } = await hatch(source);
    const rows = readRows(tables, "s.csv").map((row, i) => [...row, ["my notes", "ask him", ""][i]]);
    rows[2][3] = "C";
    writeRows(tables, "s.csv", [["Stations, November", "", "", "", ""], [], ...rows], { delimiter });
    const { bytes: folded, notes } = await fold(tables, { source });
    expect(text(folded)).toBe(source.replace('"B"', '"C"'));
    expect(notes.filter(({ code }) => code === "file-unused").map(brief)).toEqual([
      'file-unused {"file":"row 1"}',
      'file-unused {"file":"column \\"my notes\\""}',
    ]);
  }
});

describe("damaged sheets: every problem with row, column, value and hint", () => {
  const source =
    '{"districts": [{"code": "D1", "s": [{"code": "A", "n": 1}, {"code": "B", "n": 2}]}, {"code": "D2", "s": [{"code": "C", "n": 3}]}]}';
  const put = (tables: MemoryTables, content: string): void => void tables.contents.set("s.csv", bytes(content));
  const line = (tables: MemoryTables, n: number): string => tables.text("s.csv").split("\r\n")[n];
  type Case = [what: string, damage: (tables: MemoryTables) => void, code: string, row: number, column: string];
  const CASES: Case[] = [
    ["no header", (t) => put(t, t.text("s.csv").split("\r\n").slice(1).join("\r\n")), "header-missing", 1, ""],
    ["an empty file", (t) => put(t, ""), "sheet-empty", 1, ""],
    ["no mark column", (t) => void edit(t, "s.csv", (rows) => rows.map((row) => row.slice(1))), "mark-column-missing", 1, ""],
    ["a title twice", (t) => put(t, t.text("s.csv").replace("fold action", "code")), "title-twice", 1, "code"],
    ["an unknown title", (t) => put(t, t.text("s.csv").replace(",n\r", ",numbr\r")), "column-unknown", 1, "numbr"],
    ["a wrong delimiter", (t) => put(t, t.text("s.csv").replaceAll(",", "#")), "delimiter", 1, ""],
    ["an unclosed quote", (t) => put(t, t.text("s.csv").replace("A,1", '"A,1')), "quote-open", 2, ""],
    ["text behind a quote", (t) => put(t, t.text("s.csv").replace("A,1", '"A"x,1')), "quote-after", 2, ""],
    ["a row too long", (t) => put(t, t.text("s.csv").replace("A,1", "A,1,9")), "row-long", 2, ""],
    ["a row too short", (t) => put(t, t.text("s.csv").replace("D1,A,1", "D1")), "row-short", 2, ""],
    [
      "not UTF-8",
      (t) => void t.contents.set("s.csv", Uint8Array.from([...bytes(`${line(t, 0)}\r\n`), 0xe6, 0x0d, 0x0a])),
      "sheet-encoding",
      1,
      "",
    ],
    ["a damaged mark", (t) => void setCell(t, "s.csv", 3, "fold mark", "b9zz"), "mark-damaged", 3, "fold mark"],
    [
      "a mark of another table",
      (t) => void setCell(t, "s.csv", 3, "fold mark", formatMark(markSalt("districts"), 0)),
      "mark-foreign",
      3,
      "fold mark",
    ],
    [
      "a mark beyond the records",
      (t) => void setCell(t, "s.csv", 3, "fold mark", formatMark(markSalt("s"), 77)),
      "mark-beyond",
      3,
      "fold mark",
    ],
    ["a mark twice", (t) => void edit(t, "s.csv", (rows) => [...rows, rows[1]]), "mark-copied", 2, "fold mark"],
    ["an unknown action", (t) => void setCell(t, "s.csv", 2, "fold action", "delete"), "action-unknown", 2, "fold action"],
    ["a wrong type", (t) => void setCell(t, "s.csv", 2, "n", "one"), "type", 2, "n"],
    ["a key twice", (t) => void setCell(t, "s.csv", 2, "code", "C"), "key-taken", 2, "code"],
    ["an unknown parent", (t) => void setCell(t, "s.csv", 2, "districts", "D3"), "parent-unknown", 2, "districts"],
    [
      "a new row without a parent",
      (t) => void edit(t, "s.csv", (rows) => [...rows, ["", "", "", "E", "5"]]),
      "parent-missing",
      5,
      "districts",
    ],
    ["a new row without a key", (t) => void edit(t, "s.csv", (rows) => [...rows, ["", "", "D1", "", "5"]]), "key-missing", 5, "code"],
    [
      "two new rows with one key",
      (t) => void edit(t, "s.csv", (rows) => [...rows, ["", "", "D1", "E", "5"], ["", "", "D2", "E", "6"]]),
      "key-twice",
      5,
      "code",
    ],
    [
      "removing what was never there",
      (t) => void edit(t, "s.csv", (rows) => [...rows, ["", "remove", "D1", "E", "5"]]),
      "remove-new",
      5,
      "fold action",
    ],
  ];
  test.each(CASES)("%s", async (_, spoil, code, row, column) => {
    const { tables } = await hatch(source);
    spoil(tables);
    const { problems } = await check(tables, { source });
    expect(problems[0]).toMatchObject({ code, table: "s", file: "s.csv", row, column });
    expect(problems[0].hint).not.toBe("");
    await expect(fold(tables, { source })).rejects.toMatchObject({ code: "problems-left" });
  });

  test.each([
    ["blank", "", "value-missing"],
    ["meant to be empty", "(empty)", '["a","b",""]'],
    ["null", "(null)", '["a","b",null]'],
    ["an object", "{}", '["a","b",{}]'],
  ])("a new row in a list of values, whose value is %s", async (_, cell, wanted) => {
    const values = '{"s": [{"c": "C", "t": ["a","b"]}]}';
    const { tables } = await hatch(values);
    edit(tables, "t.csv", (rows) => [...rows, ["", "", rows[1][2], cell]]);
    const made = await fold(tables, { source: values }).then(
      ({ bytes }) => JSON.stringify((JSON.parse(text(bytes)) as { s: { t: unknown }[] }).s[0].t),
      ({ problems }: { problems: { code: string }[] }) => problems.map(({ code }) => code).join(", "),
    );
    expect(made).toBe(wanted);
  });

  test("marks sorted without their rows are noticed", async () => {
    const { tables } = await hatch(source);
    edit(tables, "s.csv", (rows) => {
      [rows[1][0], rows[2][0], rows[3][0]] = [rows[3][0], rows[1][0], rows[2][0]];
    });
    const { problems } = await check(tables, { source });
    expect(problems.filter((problem) => problem.code === "mark-misplaced")).toHaveLength(3);
  });

  test("a removed parent takes its records along, and says how many; edits in it are a problem", async () => {
    const { tables } = await hatch(source);
    setCell(tables, "districts.csv", 2, "fold action", "remove");
    const { changes } = await compare(tables, { source });
    expect(changes).toMatchObject([{ kind: "removed", record: "D1", holds: 2, path: "/districts/0" }]);
    expect(JSON.parse(text((await fold(tables, { source })).bytes))).toEqual({ districts: [{ code: "D2", s: [{ code: "C", n: 3 }] }] });
    setCell(tables, "s.csv", 2, "n", "9");
    expect((await check(tables, { source })).problems).toMatchObject([{ code: "inside-removed", row: 2 }]);
  });

  test("--copies new takes a copied row as a new record", async () => {
    const { tables } = await hatch(source);
    edit(tables, "s.csv", (rows) => [rows[0], [rows[1][0], "", "D2", "A2", "7"], ...rows.slice(1)]);
    const folded = await fold(tables, { source, copies: "new" });
    expect(folded.counts).toMatchObject({ added: 1, changed: 0, moved: 0 });
    expect(JSON.parse(text(folded.bytes)).districts[1].s).toEqual([
      { code: "C", n: 3 },
      { code: "A2", n: 7 },
    ]);
  });

  test("a new parent and its new children come in one go, in any order", async () => {
    const { tables } = await hatch(source);
    edit(tables, "s.csv", (rows) => [rows[0], ["", "", "D3", "E", "5"], ...rows.slice(1)]);
    edit(tables, "districts.csv", (rows) => [...rows, ["", "", "D3"]]);
    expect(text((await fold(tables, { source })).bytes)).toBe(
      source.replace("}]}]}", '}]}, {"code": "D3", "s": [{"code": "E", "n": 5}]}]}'),
    );
  });
});

test.each([
  [
    "JSON",
    "r.json",
    '{"s": [{"k": "  ", "t": [{"v": "1"}]}, {"k": "", "t": [{"v": "2"}]}, {"k": "x", "t": [{"v": "3"}]}]}',
    ["b1cq", "(empty)", "x"],
  ],
  ["XML", "r.xml", "<s><a><k>  </k><t>1</t><t>4</t></a><a><k/><t>2</t></a><a><k>x</k><t>3</t></a></s>", ["b1cq", "b1cq", "(empty)", "x"]],
])("a record whose key nobody sees is called by its mark: %s", async (format, name, source, called) => {
  const [rows, value] = format === "JSON" ? ["s", "v: v"] : ["s/a", "v: ."];
  const plan = `hatchfold: 1\nsources: { s: { file: ${name} } }\ntables:\n  s: { rows: ${rows}, key: k, columns: { k: k } }\n  t: { rows: ${rows}/t, inside: s, columns: { ${value} } }\n`;
  const { tables } = await hatch(source, { plan, name });
  const sheet = readRows(tables, "t.csv");
  expect(sheet.slice(1).map((row) => row[2])).toEqual(called);
  setCell(tables, "t.csv", sheet.length, "s", called[0]);
  const { bytes: folded } = await fold(tables, { source, name });
  const again = await hatch(folded, { plan, name });
  expect(
    readRows(again.tables, "t.csv")
      .filter((row) => row[2] === called[0])
      .map((row) => row[3]),
  ).toContain("3");
});

test("a new record that would stand under no name is a problem, not a broken file", async () => {
  const source = '{"parts": {"x": {"name": "a"}}}';
  const plan =
    'hatchfold: 1\nsources: { r: { file: l.json, format: json } }\ntables: { parts: { rows: "parts/*", columns: { name: name } } }\n';
  const { tables } = await hatch(source, { plan });
  edit(tables, "parts.csv", (rows) => [...rows, ["", "", "b"]]);
  expect((await check(tables, { source })).problems.map(({ code, row }) => [code, row])).toEqual([["name-nowhere", 3]]);
});
