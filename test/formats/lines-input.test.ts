/** Fixed-width, delimited, tagged and block files with a layout that is said: values, faults, totals, words. */
import { describe, expect, test } from "vitest";
import { check, compare, fold, hatch, HatchFoldError, readPlan, survey, type MemoryTables, type Problem, formatPlace } from "hatch-fold";
import { bytes, edit, setCell, text } from "../support/sheets.js";
import { brief, refusal } from "../support/brief.js";

const LAYOUT = `
hatchfold: 1
sources:
  ledger:
    file: stores.dat
    format: fixed
    layout:
      records:
        batch: { tag: { at: 1-2, is: "01" }, fields: { number: 3-8, day: { at: 9-16, date: YYYYMMDD }, name: 17-36 } }
        item:
          tag: { at: 1-2, is: "02" }
          inside: batch
          fields:
            code: 3-10
            name: 11-26
            quantity: { at: 27-32, align: right, pad: "0" }
            price: { at: 33-41, decimals: 2, sign: overpunch }
            due: { at: 42-47, date: DDMMYY }
            months: { at: 48-49, times: 3 }
        end: { tag: { at: 1-2, is: "09" }, inside: batch, closes: true, fields: { items: { at: 3-8, total: count item }, value: { at: 9-20, decimals: 2, sign: overpunch, total: sum item/price } } }
tables:
  batches: { rows: batch, key: number, columns: { number: number, day: { at: day, type: date }, name: name, items: end/items, value: end/value } }
  items:
    rows: batch/item
    inside: batches
    columns: { code: code, name: name, quantity: { at: quantity, type: integer }, price: { at: price, type: decimal }, due: { at: due, type: date }, month 1: months 1, month 2: months 2, month 3: months 3 }
`;

const SOURCE = [
  "0100000720261103NORTHERN STORES     ",
  "02LAMP-1  OIL LAMP        00012000000450{311226010203",
  "02ROPE-20 ROPE HEMP       00000300000129R      0102  ",
  "0900000200000000032A",
  "",
].join("\r\n");

const name = "stores.dat";
const fresh = async (): Promise<MemoryTables> => (await hatch(SOURCE, { name, plan: LAYOUT })).tables;
const edited = async (row: number, title: string, value: string, file = "items.csv"): Promise<MemoryTables> =>
  setCell(await fresh(), file, row, title, value);
const problemsOf = async (tables: MemoryTables, source: string | Uint8Array = SOURCE): Promise<readonly Problem[]> =>
  (await compare(tables, { source, name })).problems;

describe("fixed-width: what the characters of a field say", () => {
  test("padding, dates, implied decimals, overpunched signs, fields that stand several times", async () => {
    const tables = await fresh();
    expect(tables.text("batches.csv")).toBe(
      "fold mark,fold action,number,day,name,items,value\r\nb1sj,,000007,2026-11-03,NORTHERN STORES,2,3.21\r\n".replace(
        /b1\w\w/,
        tables.text("batches.csv").slice(51, 55),
      ),
    );
    const rows = tables
      .text("items.csv")
      .split("\r\n")
      .slice(1, 3)
      .map((row) => row.split(",").slice(3).join(","));
    expect(rows).toEqual(["LAMP-1,OIL LAMP,120,45.00,2026-12-31,01,02,03", "ROPE-20,ROPE HEMP,3,-12.99,,01,02,"]);
    expect(text((await fold(tables, { source: SOURCE, name })).bytes)).toBe(SOURCE);
  });
  test("an edit that is written as what is there is none", async () => {
    for (const [row, value] of [
      [2, "45"],
      [3, "-12.990"],
    ] as const) {
      const { counts, changes } = await compare(await edited(row, "price", value), { source: SOURCE, name });
      expect([counts.changed, counts.problems, changes]).toEqual([0, 0, []]);
    }
  });
  test.each<[title: string, value: string, before: string, after: string]>([
    ["name", "BRASS LAMP", "OIL LAMP  ", "BRASS LAMP"],
    ["quantity", "7", "000120", "000007"],
    ["price", "-45.01", "00000450{", "00000450J"],
    ["due", "2027-02-28", "311226", "280227"],
    ["due", "", "311226", "      "],
    ["month 3", "12", "010203", "010212"],
  ])("%s set to %s", async (title, value, before, after) => {
    const { bytes: folded } = await fold(await edited(2, title, value), { source: SOURCE, name });
    const lines = text(folded).split("\r\n");
    expect(lines[1]).toBe(SOURCE.split("\r\n")[1].replace(before, after));
    expect([lines[0], lines[2], lines[4]]).toEqual([0, 2, 4].map((i) => SOURCE.split("\r\n")[i]));
  });
  test.each<[title: string, value: string, expected: string]>([
    ["name", "A LAMP WITH A LONG NAME", 'fixed-wide {"length":23,"name":"name","width":16}'],
    ["name", "two\nlines", 'fixed-line {"name":"name"}'],
    ["quantity", "1234567", 'fixed-wide {"length":7,"name":"quantity","width":6}'],
    ["price", "1.234", 'fixed-number {"decimals":2,"name":"price","signed":true}'],
    ["due", "31.12.2026x", 'type {"title":"due","type":"date"}'],
    ["code", "trail ", 'fixed-padding {"name":"code","pad":" ","right":false}'],
  ])("%s set to %s is refused", async (title, value, expected) => {
    const problems = await problemsOf(await edited(2, title, value));
    expect(problems).toMatchObject([{ column: title, row: 2 }]);
    expect(problems.map(brief)).toEqual([expected]);
  });
});

describe("totals", () => {
  test("are recomputed when the records change, and shown", async () => {
    const tables = await fresh();
    setCell(tables, "items.csv", 2, "price", "50.00");
    setCell(tables, "items.csv", 3, "fold action", "remove");
    const { changes } = await compare(tables, { source: SOURCE, name });
    expect(changes.filter((change) => change.row === 0)).toMatchObject([
      { table: "batches", column: "items", old: "2", new: "1", path: "/batch/end/items" },
      { table: "batches", column: "value", old: "3.21", new: "50.00" },
    ]);
    expect(
      text((await fold(tables, { source: SOURCE, name })).bytes)
        .split("\r\n")
        .slice(1),
    ).toEqual(
      [
        "02LAMP-1  OIL LAMP        00012000000500{311226010203".replace("00012000000500{", "00001200000500{"),
        "0900000100000000500{",
        "",
      ].map((line, i) => (i === 0 ? SOURCE.split("\r\n")[1].replace("00000450{", "00000500{") : line)),
    );
  });
  test("one that was wrong before is named, and stays while its records stay", async () => {
    const wrong = SOURCE.replace("0900000200", "0900000900");
    const { tables } = await hatch(wrong, { name, plan: LAYOUT });
    const { notes, changes } = await compare(tables, { source: wrong, name });
    expect(changes).toEqual([]);
    expect(notes.map(brief)).toContain('total-wrong {"actual":"2","field":"items","line":4,"said":"9"}');
    setCell(tables, "items.csv", 2, "name", "LAMP");
    expect(text((await fold(tables, { source: wrong, name })).bytes)).toContain("0900000900");
    const { remarks } = await survey(wrong, { name, format: "fixed" });
    expect(remarks).toBeDefined();
  });
  test("cannot be edited by hand", async () => {
    expect(await problemsOf(await edited(2, "items", "5", "batches.csv"))).toMatchObject([{ code: "total-edited", column: "items" }]);
  });
  test("an added record counts, and its batch's trailer too", async () => {
    const tables = await fresh();
    tables.contents.set("batches.csv", bytes(`${tables.text("batches.csv")},,000008,2026-12-01,SOUTHERN,,\r\n`));
    tables.contents.set("items.csv", bytes(`${tables.text("items.csv")},,000008,WICK-1,WICK,100,0.75,,,,\r\n`));
    const lines = text((await fold(tables, { source: SOURCE, name })).bytes).split("\r\n");
    expect(lines.slice(4).map((line) => line.trimEnd())).toEqual([
      "0100000820261201SOUTHERN",
      "02WICK-1  WICK            00010000000007E",
      "0900000100000000007E",
      "",
    ]);
  });
});

describe("records of one length without line ends, in bytes", () => {
  const plan = (unit: string): string => `
hatchfold: 1
sources: { s: { file: x.dat, format: fixed, layout: { unit: ${unit}, length: 8, records: { r: { fields: { code: 1-3, name: 4-8 } } } } } }
tables: { r: { rows: ., columns: { code: code, name: name } } }`;
  test.each([
    ["characters", "001Ærø  002Skarv"],
    ["bytes", "001Ær\u00f8002Skarv"],
  ])("%s", async (unit, source) => {
    const { tables } = await hatch(source, { name: "x.dat", plan: plan(unit) });
    expect(tables.text("r.csv")).toContain("001,Ærø\r\n");
    setCell(tables, "r.csv", 3, "name", "N");
    expect(text((await fold(tables, { source, name: "x.dat" })).bytes)).toBe(source.replace("Skarv", "N    "));
    setCell(tables, "r.csv", 3, "name", "Ærøøø");
    expect(await problemsOf(tables, source)).toHaveLength(unit === "bytes" ? 1 : 0);
  });
});

describe("columns of a screen", () => {
  const plan = (length: string): string => `
hatchfold: 1
sources: { s: { file: x.dat, format: fixed, layout: { unit: screen, ${length}records: { r: { fields: { code: 1-3, name: 4-9, kind: 10 } } } } } }
tables: { r: { rows: ., columns: { code: { at: code, type: text }, name: name, kind: kind } } }`;
  // wide characters take two columns, combining ones none, and two that make one sign two
  const ROWS = ["001灯台  A", "002Ae\u0301ro\u0308  B", "003👩‍🚒 x  C", "004Skarv D"];
  test.each([
    ["with line ends", "", "\n"],
    ["without", "length: 10, ", ""],
  ])("%s", async (_, length, end) => {
    const source = ROWS.map((row) => row + end).join("");
    const { tables } = await hatch(source, { name: "x.dat", plan: plan(length) });
    expect(
      tables
        .text("r.csv")
        .split("\r\n")
        .slice(1, 5)
        .map((row) => row.slice(6)),
    ).toEqual(["001,灯台,A", "002,Ae\u0301ro\u0308,B", "003,👩‍🚒 x,C", "004,Skarv,D"]);
    expect(text((await fold(tables, { source, name: "x.dat" })).bytes)).toBe(source);
    setCell(tables, "r.csv", 5, "name", "岬灯");
    expect(text((await fold(tables, { source, name: "x.dat" })).bytes)).toBe(source.replace("Skarv ", "岬灯  "));
    setCell(tables, "r.csv", 5, "name", "岬の灯台");
    expect((await check(tables, { source, name: "x.dat" })).problems.map(brief)).toEqual([
      'fixed-wide {"length":8,"name":"name","width":6}',
    ]);
  });
});

describe("delimited text", () => {
  const source = '# notes above\r\nno;name;range\r\n0001;"Skarv; N";12,5\r\n0002; Ytre ;7 \r\n\r\n0003;x\r\n';
  test("notes, spaces, quotes and blank lines stay; the titles' line is found", async () => {
    const { tables, plan } = await hatch(source, { name: "lights.txt" });
    expect(plan.sources[0]).toMatchObject({ format: "delimited", settings: { delimiter: ";", header: 2, comment: "#" } });
    setCell(tables, "lights.csv", 2, "name", 'say "N"');
    setCell(tables, "lights.csv", 4, "range", "9");
    expect(text((await fold(tables, { source, name: "lights.txt" })).bytes)).toBe(
      source.replace('"Skarv; N"', '"say ""N"""').replace("0003;x", "0003;x;9"),
    );
  });
  test("a file without titles gets names by place; a wrong title twice gets a number", async () => {
    const shape = await survey("1,2\n3,4\n5,6\n", { name: "x.csv" });
    expect(shape.kinds[0].fields.map((field) => field.path)).toEqual(["column 1", "column 2"]);
    const places = "AD\t+4230+00131\tAndorra\nAE\t+2518+05518\tDubai\nAF\t+3431+06912\tKabul\n";
    const times = "2026-11-29T10:00:00Z,lit\n2026-11-30T10:00:00Z,dark\n2026-12-01T10:00:00Z,lit\n";
    for (const [name, source] of Object.entries({ "x.tab": places, "x.csv": times }))
      expect((await survey(source, { name })).kinds[0].fields.map((field) => field.path)[1]).toBe("column 2");
    const twice = await survey("a,b,a\n1,2,3\n", { name: "x.csv" });
    expect(twice.kinds[0].fields.map((field) => field.path)).toHaveLength(3);
  });

  test("titles behind a # are titles when no other line begins so", async () => {
    const titles = async (source: string): Promise<string[]> =>
      (await survey(source, { name: "a.csv" })).kinds[0].fields.map(({ path }) => path);
    expect(await titles("#id,name\n1,Skarv\n2,Holm\n")).toEqual(["#id", "name"]);
    expect(await titles("# of 2026, by hand\nid,name\n1,Skarv\n2,Holm\n")).toEqual(["id", "name"]);
    expect(await titles("#id,name\n# old\n1,Skarv\n2,Holm\n")).toEqual(["column 1", "column 2"]);
  });
  test("a first cell that begins like a comment is put in quotes", async () => {
    const source = "name,light\nSkarv,1\nHolm,2\n";
    const { tables } = await hatch(source, { name: "a.csv" });
    const { bytes: folded } = await fold(setCell(tables, "a.csv", 2, "name", "#1"), { source, name: "a.csv" });
    expect(text(folded)).toBe('name,light\n"#1",1\nHolm,2\n');
  });
});

describe("plans of line formats: what is wrong, where, what would be right", () => {
  test.each<[string, string, string]>([
    [
      "inside: batch\n",
      "inside: bacth\n",
      'layout-inside {"inside":"bacth","kind":"item","names":["batch","item","end"],"nearest":"batch"}',
    ],
    ["at: 9-16", "at: 16-9", 'layout-columns {"at":"16-9","field":"day"}'],
    ["count item", "count itme", 'layout-total {"field":"items","total":"count itme"}'],
  ])("%s", async (right, wrong, expected) => {
    const plan = LAYOUT.replace(right, wrong);
    expect(await refusal(hatch(SOURCE, { name, plan }))).toBe(expected);
  });
  test("a word of another format, a word misspelled: with line and column", async () => {
    const error = async (plan: string): Promise<HatchFoldError> => {
      const caught: unknown = await readPlan(plan, "plan.yaml").catch((one: unknown) => one);
      expect(caught).toBeInstanceOf(HatchFoldError);
      return caught as HatchFoldError;
    };
    expect(await error(LAYOUT.replace("align: right", "aling: right"))).toMatchObject({
      code: "plan-unknown-key",
      facts: { key: "aling", nearest: "align" },
      place: { line: 16 },
    });
    expect(await error(LAYOUT.replace("format: fixed", "format: xml"))).toMatchObject({
      code: "plan-unknown-key",
      facts: { key: "layout", nearest: null },
    });
  });
});

test("what is taken for what, and why", async () => {
  const taken: [file: string, source: string, why: string][] = [
    ["a.txt", "<?xml version='1.0'?><a/>", "xml: it begins with <?xml"],
    ["a", '{"a": 1}\n{"a": 2}\n', "json-lines: each line is a JSON value"],
    ["a.txt", "a;b\n1;2\n3;4\n", "delimited: its lines have 2 cells between semicolons, with titles in line 1"],
    ["a.txt", "ORD|1|x\nTSK|1\nTSK|2\nORD|2|y\nTSK|3\n", "tagged: its lines begin with tags before a |: ORD, TSK"],
    ["a.txt", "Name: a\nTown: b\n\nName: c\nTown: d\n", "blocks: its lines are pairs of name and value"],
    ["a.txt", "[one]\na=1\n[two]\na=2\n", "blocks: it has [headings] over pairs of name and value"],
    ["a.txt", "AB 01  x\nCD 02  y\n", "fixed: all its lines are 8 characters long"],
    ["a", "[one]\nName=a\nName[de]=b\nName[nb_NO]=c\n", "blocks: it has [headings] over pairs of name and value"],
    ["a.log", "[2026-11-01 06:00] lamp lit\n[2026-11-01 18:00] lamp out, again\n", "fixed: nothing else fits: each line is a record"],
    ["a", "[1, 2,\n3]", "json: it begins with ["],
    ["a.txt", "some words\nthat are\nno records at all, are they?\n", "fixed: nothing else fits: each line is a record"],
  ];
  for (const [file, source, why] of taken) {
    const shape = await survey(source, { name: file });
    expect(`${shape.source.format}: ${shape.source.why}`).toBe(why);
    const { tables } = await hatch(source, { name: file });
    expect(text((await fold(tables, { source, name: file })).bytes)).toBe(source);
  }
});

describe("what is broken in files made of lines", () => {
  const quoted =
    "hatchfold: 1\nsources: { s: { file: a.csv, format: delimited, header: 1 } }\ntables: { r: { rows: ., columns: { b: b } } }";
  test.each<[what: string, file: string, source: string | Uint8Array, plan: string | undefined, expected: string]>([
    ["an empty file", "a.csv", "", undefined, "a.csv: source-empty"],
    ["a quote that stays open", "a.csv", 'a,b\n1,x\n2,"open\n3,y\n', quoted, "a.csv:3:1: cell-quote-open"],
    [
      "another encoding, far down",
      "a.csv",
      bytes(`a,b\n${"x,y\n".repeat(40_000)}`)
        .slice(0, -2)
        .map((b, i, all) => (i === all.length - 1 ? 0xe6 : b)),
      undefined,
      'a.csv:40001:2: utf8 {"byte":230,"seen":""}',
    ],
    [
      "no text at all",
      "a.bin",
      Uint8Array.of(127, 69, 76, 70, 0, 0, 1, 2),
      undefined,
      'a.bin: format-unknown {"formats":"9 in all","isEbcdic":false,"name":"a.bin"}',
    ],
  ])("%s", async (_, file, source, plan, expected) => {
    const error = (await hatch(source, { name: file, plan }).catch((caught: unknown) => caught)) as HatchFoldError;
    expect(`${formatPlace(error.place)}: ${brief(error)}`).toBe(expected);
  });
  test("without a plan, a quote that stays open is only a character", async () => {
    const source = 'a,b\n1,x\n2,"open\n3,y\n';
    const { tables } = await hatch(source, { name: "a.csv" });
    expect(tables.text("a.csv")).toContain('"""open"');
    setCell(tables, "a.csv", 3, "b", "closed");
    expect(text((await fold(tables, { source, name: "a.csv" })).bytes)).toBe(source.replace('"open', "closed"));
  });
  test("a short line whose only cell is cleared stays a record", async () => {
    const source = "a,b\n1,x\nalone\n2,y\n";
    const { tables } = await hatch(source, { name: "a.csv" });
    setCell(tables, "a.csv", 3, "a", "");
    expect(text((await fold(tables, { source, name: "a.csv" })).bytes)).toBe(source.replace("alone", '""'));
    setCell(tables, "a.csv", 3, "b", "z");
    expect(text((await fold(tables, { source, name: "a.csv" })).bytes)).toBe(source.replace("alone", ",z"));
  });
  test("text behind a closing quote belongs to the cell", async () => {
    const source = 'a,b\n"x"y,1\n';
    const { tables } = await hatch(source, { name: "a.csv" });
    expect(tables.text("a.csv")).toContain('"""x""y",1');
  });
});

describe("other ways to tell lines apart", () => {
  const TELLING: [what: string, source: string, layout: string, tables: string, file: string, rows: string[]][] = [
    [
      "by place: first and last",
      "HEAD 2026\nS-1 Skarv\nS-2 Nord\nTAIL 0002\n",
      "{ format: fixed, layout: { records: { head: { line: first, fields: { year: 6-9 } }, tail: { line: last, fields: { count: { at: 6-9, total: count station } } }, station: { fields: { code: 1-3, name: 5- } } } } }",
      "{ s: { rows: station, columns: { code: code, name: name } }, t: { rows: tail, columns: { count: count } } }",
      "s.csv",
      ["S-1,Skarv", "S-2,Nord"],
    ],
    [
      "by a pattern",
      "2026-11-02 W-1\n- paint\n- oil\n2026-11-03 W-2\n- wick\n",
      '{ format: tagged, layout: { records: { order: { like: "####-##-## *", fields: [head] }, task: { tag: "-", inside: order, fields: [what] } } } }',
      "{ t: { rows: order/task, columns: { what: what } } }",
      "t.csv",
      ["paint", "oil", "wick"],
    ],
    [
      "by indentation",
      "Skarv\n  0001 white\n  # a remark\n  0002 red\nNord\n  0003 green\n",
      '{ format: tagged, layout: { delimiter: spaces, comment: "#", records: { station: { indent: 0, fields: [name] }, light: { indent: 2, inside: station, fields: [no, colour] } } } }',
      "{ l: { rows: station/light, columns: { no: no, colour: colour } } }",
      "l.csv",
      ["0001,white", "0002,red", "0003,green"],
    ],
    [
      "by a separator line",
      "Name: a\nTown: b\n%%\nName: c\nTown: d\n",
      '{ format: blocks, separator: "%%" }',
      "{ c: { rows: ., columns: { name: Name, town: Town } } }",
      "c.csv",
      ["a,b", "c,d"],
    ],
  ];
  test.each(TELLING)("%s", async (_, source, layout, tables, file, rows) => {
    const plan = `hatchfold: 1\nsources: { s: ${layout.replace("{ format", "{ file: x.txt, format")} }\ntables: ${tables}`;
    const hatched = await hatch(source, { name: "x.txt", plan });
    expect(
      hatched.tables
        .text(file)
        .trimEnd()
        .split("\r\n")
        .slice(1)
        .map((row) => row.split(",").slice(2).join(",")),
    ).toEqual(rows);
    expect(text((await fold(hatched.tables, { source, name: "x.txt" })).bytes)).toBe(source);
    const last = rows[0].split(",").at(-1)!;
    setCell(hatched.tables, file, 2, hatched.tables.text(file).split("\r\n")[0].split(",").at(-1)!, "new");
    expect(text((await fold(hatched.tables, { source, name: "x.txt" })).bytes)).toBe(source.replace(last, "new"));
  });
  test("a total in a header is over what is in its record, at any depth", async () => {
    const source = "H|a|2|5\nS|x|1\nI|2\nS|y|1\nI|3\nH|b|0|0\n";
    const plan = `hatchfold: 1
sources: { s: { file: x.txt, format: tagged, layout: { delimiter: "|", records: {
  head: { tag: H, fields: [name, { name: items, total: count item }, { name: hours, total: sum item/hours }] },
  sub: { tag: S, inside: head, fields: [name, { name: items, total: count item }] },
  item: { tag: I, inside: sub, fields: [hours] } } } } }
tables:
  heads: { rows: head, key: name, columns: { name: name, items: items, hours: hours } }
  subs: { rows: head/sub, inside: heads, key: name, columns: { name: name, items: items } }
  items: { rows: head/sub/item, inside: subs, columns: { hours: { at: hours, type: number } } }`;
    const { remarks } = await survey(source, { name: "x.txt" });
    expect(remarks).toEqual([]);
    const { tables } = await hatch(source, { name: "x.txt", plan });
    expect(text((await fold(tables, { source, name: "x.txt" })).bytes)).toBe(source);
    edit(tables, "items.csv", (rows) => [...rows, ["", "", "y", "0.5"], ["", "", "z", "7"]]);
    edit(tables, "subs.csv", (rows) => [...rows, ["", "", "b", "z", ""]]);
    setCell(tables, "items.csv", 2, "fold action", "remove");
    expect(text((await fold(tables, { source, name: "x.txt" })).bytes)).toBe("H|a|2|3.5\nS|x|0\nS|y|2\nI|3\nI|0.5\nH|b|1|7\nS|z|1\nI|7\n");
  });
  test.each([
    ["whose lines no table takes", "2.5", "3.00", "5.00", "5.50"],
    ["of a hundred and of thousandths", "100", "0.125", "102.50", "2.625"],
    ["beyond what a double holds", "9007199254740993.01", "9007199254740993.02", "9007199254740995.51", "9007199254740995.52"],
    ["of small and negative numbers", "-0.0001", "0.00001", "2.4999", "2.50001"],
  ])("follow exactly: those %s", async (_, was, is, before, after) => {
    const source = `O|1\nT|${was}\nT|2.50\nE|2|${before}|Perle\nO|2\nT|7\nE|1|7|Ost\n`;
    const plan = `hatchfold: 1
sources: { s: { file: x.txt, format: tagged, layout: { delimiter: "|", records: {
  order: { tag: O, fields: [no] }, task: { tag: T, inside: order, fields: [hours] },
  end: { tag: E, inside: order, closes: true, fields: [{ name: tasks, total: count task }, { name: hours, total: sum task/hours }, by] } } } } }
tables: { orders: { rows: order, key: no, columns: { no: no } }, tasks: { rows: order/task, inside: orders, columns: { hours: { at: hours, type: text } } } }`;
    const { tables } = await hatch(source, { name: "x.txt", plan });
    expect((await compare(tables, { source, name: "x.txt" })).notes).toEqual([]);
    setCell(tables, "tasks.csv", 2, "hours", is);
    const { bytes, proved } = await fold(tables, { source, name: "x.txt" });
    expect([text(bytes), proved]).toEqual([source.replace(was, is).replace(before, after), true]);
  });
  test("a removed line counts in a total over the whole file", async () => {
    const [, source, layout, tables] = TELLING[0];
    const plan = `hatchfold: 1\nsources: { s: ${layout.replace("{ format", "{ file: x.txt, format")} }\ntables: ${tables}`;
    const hatched = await hatch(source, { name: "x.txt", plan });
    setCell(hatched.tables, "s.csv", 2, "fold action", "remove");
    expect(text((await fold(hatched.tables, { source, name: "x.txt" })).bytes)).toBe("HEAD 2026\nS-2 Nord\nTAIL 0001\n");
  });
});

test("a text put behind a tag that stood alone keeps its distance", async () => {
  const source = "A-1\r\nA b\r\nA-1";
  const { tables } = await hatch(source, { name: "anything.txt" });
  setCell(tables, "A-1.csv", 3, "text", "word");
  expect(text((await fold(tables, { source, name: "anything.txt" })).bytes)).toBe("A-1\r\nA b\r\nA-1 word");
});

test.each<[string, string, (rows: string[][]) => void]>([
  ["in a row that is there", "delimited", (rows) => (rows[1][3] = "x")],
  ["in a new row", "delimited", (rows) => rows.push(["", "", "7", "x"])],
])("a value for which the source has no field is an error, and nothing is lost: %s", async (_, format, change) => {
  const source = "no,name\n1,a\n2,b\n";
  const plan = `hatchfold: 1\nsources: { s: { file: x.csv, format: ${format} } }\ntables: { r: { rows: ., columns: { no: no, nmae: nmae } } }\n`;
  const { tables, notes } = await hatch(source, { plan, name: "x.csv" });
  expect(notes[0]).toContain("nmae");
  edit(tables, "r.csv", (rows) => {
    change(rows);
  });
  expect(await refusal(fold(tables, { source, name: "x.csv" }))).toBe('field-nowhere {"name":"nmae"}');
});
