/** Segments: separators as the file declares them, parts of fields, signs that are text, and segments inside others. */
import { describe, expect, test } from "vitest";
import { compare, draft, fold, hatch, survey } from "hatch-fold";
import { ACTION, edit, editCells, readRows, text, type CellEdits } from "../support/sheets.js";

const name = "stocks.edi";
const SEGMENTS = [
  "UNA:+.? ",
  "UNB+UNOC:3+HAVLAND:14+DEPOT:14+261103:0915+R17",
  "UNH+M1+STOCKS:D",
  "DTM+137:20261103:102",
  "LIN+1++ROPE-1:SA",
  "IMD+F++:::Rope?, hemp? 12?+mm",
  "QTY+145:868:MTR",
  "DTM+36:20270101:102",
  "LIN+2++LAMP-2:SA",
  "QTY+145:12",
  "UNT+9+M1",
  "UNH+M2+STOCKS:D",
  "LIN+1++ROPE-1:SA",
  "QTY+145:487",
  "UNT+4+M2",
  "UNZ+2+R17",
];
const SOURCE = `${SEGMENTS.join("'")}'`;
const PLAN = `hatchfold: 1
sources:
  stocks:
    file: stocks.edi
    format: segments
    layout:
      end: "'"
      delimiter: "+"
      parts: ":"
      release: "?"
      skip: UNA
      records:
        sheet: { tag: UNB, fields: [syntax, from, to, on, number] }
        message: { tag: UNH, inside: sheet, fields: [no, [kind, version]] }
        day: { tag: DTM, inside: message, fields: [[as, { name: day, date: YYYYMMDD }, form]] }
        line: { tag: LIN, inside: message, fields: [no, action, [item, list]] }
        note: { tag: IMD, inside: line, fields: [sort, code, [a, b, c, text]] }
        stock: { tag: QTY, inside: line, fields: [[as, count, unit]] }
        due: { tag: DTM, inside: line, fields: [[as, { name: day, date: YYYYMMDD }, form]] }
        end: { tag: UNT, inside: message, closes: true, fields: [{ name: lines, total: count lines }, { name: no, total: copy message/no }] }
        last: { tag: UNZ, inside: sheet, closes: true, fields: [{ name: messages, total: count message }, { name: number, total: copy sheet/number }] }
tables:
  messages: { rows: sheet/message, key: no, columns: { no: no, kind: kind, version: version, day: day/day } }
  lines:
    rows: sheet/message/line
    inside: messages
    columns: { no: no, item: item, text: note/text, count: stock/count, unit: stock/unit, due: due/day }
`;

type Edits = Record<string, CellEdits>;

async function edited(source: string, plan: string, edits: Edits): Promise<string | string[]> {
  const { tables } = await hatch(source, { plan, name });
  editCells(tables, edits);
  const { problems } = await compare(tables, { source, name });
  if (problems.length > 0) return problems.map(({ code, row, column }) => `${code} ${row} ${column}`);
  return text((await fold(tables, { source, name })).bytes);
}

/** The source with some segments in place of others. */
const with_ = (...pairs: [was: string, now: string][]): string =>
  pairs.reduce((all, [was, now]) => {
    expect(all).toContain(was);
    return all.replace(was, now);
  }, SOURCE);

test.each([
  ["'", 1],
  ["'\n", 5],
])("problems say the line of the file, however many segments stand in it: %j", async (between, line) => {
  const source = `${SEGMENTS.join(between)}'`;
  const { tables } = await hatch(source, { plan: PLAN, name });
  editCells(tables, { lines: [[2, { due: "soon" }]] });
  const { problems } = await compare(tables, { source, name });
  expect(problems.map((problem) => problem.line)).toEqual([line]);
});

const CASES: [what: string, edits: Edits, result: string | string[]][] = [
  ["a part of a field", { lines: [[2, { count: "900" }]] }, with_(["145:868", "145:900"])],
  [
    "signs of the file are text in it",
    { lines: [[2, { text: "It's 3+4: a question?" }]] },
    with_(["Rope?, hemp? 12?+mm", "It?'s 3?+4?: a question??"]),
  ],
  ["a part that was not there", { lines: [[3, { unit: "PCE" }]] }, with_(["145:12", "145:12:PCE"])],
  [
    "a segment that was not there",
    { lines: [[3, { due: "2027-02-03" }]] },
    with_(["145:12'", "145:12'DTM+:20270203'"], ["UNT+9", "UNT+10"]),
  ],
  [
    "a segment that belongs to a line, and one that belongs to the message",
    { messages: [[2, { day: "2026-11-04" }]], lines: [[2, { due: "2027-01-02" }]] },
    with_(["20261103:", "20261104:"], ["20270101", "20270102"]),
  ],
  [
    "a line more, and the counts follow",
    { lines: [["new", { messages: "M2", no: "2", item: "WICK-3", count: "5", unit: "BOX" }]] },
    with_(["145:487'", "145:487'LIN+2++WICK-3'QTY+:5:BOX'"], ["UNT+4", "UNT+6"]),
  ],
  [
    "a line less",
    { lines: [[2, { [ACTION]: "remove" }]] },
    with_(["LIN+1++ROPE-1:SA'IMD+F++:::Rope?, hemp? 12?+mm'QTY+145:868:MTR'DTM+36:20270101:102'", ""], ["UNT+9", "UNT+5"]),
  ],
  [
    "a line goes to another message",
    { lines: [[3, { messages: "M2" }]] },
    with_(
      ["LIN+2++LAMP-2:SA'QTY+145:12'", ""],
      ["145:487'", "145:487'LIN+2++LAMP-2:SA'QTY+145:12'"],
      ["UNT+9", "UNT+7"],
      ["UNT+4", "UNT+6"],
    ),
  ],
  [
    "a message more: its trailer counts it and repeats its number",
    {
      messages: [["new", { no: "M3", kind: "STOCKS", version: "D" }]],
      lines: [["new", { messages: "M3", no: "1", item: "ROPE-1", count: "1" }]],
    },
    with_(["UNT+4+M2'", "UNT+4+M2'UNH+M3+STOCKS:D'LIN+1++ROPE-1'QTY+:1'UNT+4+M3'"], ["UNZ+2", "UNZ+3"]),
  ],
  ["a number that a trailer repeats", { messages: [[3, { no: "M9" }]] }, with_(["UNH+M2", "UNH+M9"], ["UNT+4+M2", "UNT+4+M9"])],
  ["a line break is not in it", { lines: [[2, { text: "two\nlines" }]] }, ["fixed-line 2 text"]],
];

describe("segments in one line", () => {
  test("nothing edited gives the same bytes, and cells show texts", async () => {
    const { tables } = await hatch(SOURCE, { plan: PLAN, name });
    expect(readRows(tables, "lines.csv")[1].slice(2)).toEqual(["M1", "1", "ROPE-1", "Rope, hemp 12+mm", "868", "MTR", "2027-01-01"]);
    expect(
      readRows(tables, "messages.csv")
        .slice(1)
        .map((row) => row.slice(2)),
    ).toEqual([
      ["M1", "STOCKS", "D", "2026-11-03"],
      ["M2", "STOCKS", "D", ""],
    ]);
    expect(text((await fold(tables, { source: SOURCE, name })).bytes)).toBe(SOURCE);
  });

  test.each(CASES)("%s", async (_, edits, result) => {
    expect(await edited(SOURCE, PLAN, edits)).toEqual(result);
  });

  test.each(["\n", "\r\n"])("each in a line of its own, ended by %j", async (end) => {
    const source = SEGMENTS.map((one) => `${one}'`).join(end);
    const result = await edited(source, PLAN, {
      lines: [["new", { messages: "M2", no: "2", item: "X" }]],
      messages: [["new", { no: "M3" }]],
    });
    expect(result).toBe(
      source
        .replace("145:487'", `145:487'${end}LIN+2++X'`)
        .replace("UNT+4+M2'", `UNT+5+M2'${end}UNH+M3'${end}UNT+2+M3'`)
        .replace("UNZ+2", "UNZ+3"),
    );
  });
});

describe("what the file says itself", () => {
  const X12 = [
    "ISA*00*          *00*          *ZZ*HAVLAND        *ZZ*DEPOT          *261103*0915*U*00401*000000017*0*P*>",
    "GS*IB*HAVLAND*DEPOT*20261103*0915*17*X*004010",
    "ST*846*0001",
    "LIN**VC*ROPE-1",
    "QTY*17*868",
    "SE*4*0001",
    "GE*1*17",
    "IEA*1*000000017",
    "",
  ].join("~");

  test("separators, pairs and counts of both standards are drafted, and hold", async () => {
    for (const [source, table, counts] of [
      [SOURCE, "UNB", ["UNZ+2+R17", "UNT+9+M1"]],
      [X12, "ISA", ["IEA*1*000000017", "SE*4*0001"]],
    ] as const) {
      expect((await survey(source, { name })).source.format).toBe("segments");
      const { plan } = await draft(source, { name });
      expect(plan).toContain(table);
      const { tables } = await hatch(source, { plan, name });
      const { bytes, proved } = await fold(tables, { source, name });
      expect([text(bytes), proved]).toEqual([source, true]);
      for (const count of counts) expect(source).toContain(count);
    }
  });

  test("a line more by a drafted plan", async () => {
    const { plan } = await draft(X12, { name });
    const { tables } = await hatch(X12, { plan, name });
    const [titles] = readRows(tables, "QTY.csv");
    edit(tables, "QTY.csv", (rows) => [
      ...rows,
      titles.map((title) => ({ ST: rows[1][titles.indexOf("ST")], "field 1": "17", "field 2": "5" })[title] ?? ""),
    ]);
    expect(text((await fold(tables, { source: X12, name })).bytes)).toBe(X12.replace("868~SE*4", "868~QTY*17*5~SE*5"));
  });

  test("a sign of the file where none can make it text", async () => {
    const { plan } = await draft(X12, { name });
    const { tables } = await hatch(X12, { plan, name });
    edit(tables, "LIN.csv", (rows, titles) => void (rows[1][titles.indexOf("field 3")] = "ROPE*1"));
    expect((await compare(tables, { source: X12, name })).problems).toMatchObject([{ code: "segment-sign" }]);
  });
});
