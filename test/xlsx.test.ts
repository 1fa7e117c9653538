/** Workbooks, edited and saved by the workbook package as a person with a spreadsheet would. */
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { TextReader, TextWriter, Uint8ArrayReader, Uint8ArrayWriter, ZipReader, ZipWriter } from "@zip.js/zip.js";
import ExcelJS from "exceljs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, Workbook, type MemoryTables } from "hatch-fold";
import { DEMO, freshFolder, inProcess } from "./support/cli.js";
import { law, RUNS } from "./support/laws.js";
import { Random } from "./support/random.js";
import { readRows, setCell, sheetFiles, text } from "./support/sheets.js";
import { stationsOf, WORLDS } from "./support/worlds.js";
import { brief, says } from "./support/brief.js";

async function open(bytes: Uint8Array): Promise<ExcelJS.Workbook> {
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(Uint8Array.from(bytes).buffer);
  return book;
}

async function edited(workbook: Workbook, change: (book: ExcelJS.Workbook) => void): Promise<Workbook> {
  const book = await open(workbook.bytes);
  change(book);
  return new Workbook(new Uint8Array(await book.xlsx.writeBuffer()));
}

/** A cell by the title of its column, without the sign behind it. */
function cellIn(book: ExcelJS.Workbook, sheet: string, row: number, title: string): ExcelJS.Cell {
  const titles = book.getWorksheet(sheet)!.getRow(1).values as string[];
  return book.getWorksheet(sheet)!.getCell(
    row,
    titles.findIndex((one) => one?.replace(/ \W+$/, "") === title),
  );
}

const SOURCE = `{"stations": [
  {"code": "007", "name": "Skarv", "height": 12.50, "since": "1911-04-13", "status": "L", "lights": [{"name": "main"}]},
  {"code": "3/4", "name": " Ytre <Holm> & \\"Perle\\" ", "height": 7, "since": "1899-01-01", "status": "D", "lights": []}
]}`;
const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  stations:
    rows: stations
    key: code
    columns:
      code: code
      name: { at: name, required: true }
      height: { at: height, type: decimal }
      since: { at: since, type: date }
      status: { at: status, choices: { L: lit, D: dark } }
  lights: { rows: stations/lights, inside: stations, columns: { name: name } }
`;

async function hatched(source = SOURCE, plan = PLAN): Promise<Workbook> {
  const into = new Workbook();
  await hatch(source, { plan, into });
  return into;
}

/** The workbook with its list of sheets changed. */
async function relisted({ bytes }: Workbook, change: (list: string) => string): Promise<Workbook> {
  const writer = new ZipWriter(new Uint8ArrayWriter());
  for (const entry of await new ZipReader(new Uint8ArrayReader(bytes)).getEntries()) {
    if (entry.directory) continue;
    const part = await entry.getData(new TextWriter());
    await writer.add(entry.filename, new TextReader(entry.filename === "xl/workbook.xml" ? change(part) : part));
  }
  return new Workbook(await writer.close());
}

describe("sheets know their hatch", () => {
  const namesOf = async (workbook: Workbook): Promise<string[]> => {
    let names: string[] = [];
    await relisted(workbook, (list) => {
      names = list.match(/<definedName name="hatchfold_hatch"[^>]*>[^<]*/g) ?? [];
      return list;
    });
    return names;
  };

  test("one that was copied into the workbook of another hatch is refused before anything else", async () => {
    const tuesday = SOURCE.replace("Skarv", "Skarven");
    const names = await namesOf(await hatched());
    expect(names).toHaveLength(2);
    const mixed = await relisted(await hatched(tuesday), (list) =>
      list.replace(/<definedName name="hatchfold_hatch"[^>]*>[^<]*/, names[0]),
    );
    await expect(compare(mixed, { source: tuesday })).rejects.toMatchObject({
      code: "sheet-of-another-hatch",
      facts: { sheet: "stations" },
    });
  });

  test("one without a sign is taken", async () => {
    const plain = await relisted(await hatched(), (list) => list.replaceAll(/<definedName name="hatchfold_hatch".*?<.definedName>/g, ""));
    expect((await compare(plain, { source: SOURCE })).changes).toEqual([]);
  });
});

describe("what hatch writes", () => {
  test("texts as texts, numbers and dates as such where nothing is lost, and what may be done is said", async () => {
    const book = await open((await hatched()).bytes);
    expect(book.worksheets.map(({ name, state }) => [name, state])).toEqual([
      ["about these tables", "visible"],
      ["stations", "visible"],
      ["lights", "visible"],
      ["hatchfold receipt", "veryHidden"],
      ["hatchfold words", "veryHidden"],
    ]);
    const sheet = book.getWorksheet("stations")!;
    expect((sheet.getRow(1).values as string[]).slice(1)).toEqual([
      "fold mark ■",
      "fold action",
      "code ◆",
      "name ✱",
      "height",
      "since",
      "status",
    ]);
    const cells = (row: number): unknown[] => [3, 4, 5, 6].map((column) => sheet.getCell(row, column).value);
    expect(cells(2)).toEqual(["007", "Skarv", 12.5, new Date("1911-04-13")]);
    // programs do not agree on days before March 1900
    expect(cells(3)).toEqual(["3/4", ' Ytre <Holm> & "Perle" ', 7, "1899-01-01"]);
    expect([sheet.getCell("C2").numFmt, sheet.getCell("E2").numFmt, sheet.getCell("F2").numFmt]).toEqual(["@", "0.00", "yyyy-mm-dd"]);
    expect([sheet.getCell("A2").protection, sheet.getCell("D2").protection]).toMatchObject([undefined, { locked: false }]);
    expect([sheet.views[0], sheet.autoFilter]).toMatchObject([{ state: "frozen", xSplit: 3, ySplit: 1 }, "A1:G3"]);
    expect(sheet.getCell("G2").dataValidation).toMatchObject({ type: "list", formulae: ['"lit,dark"'] });
    expect(book.getWorksheet("lights")!.getCell("C2").dataValidation).toMatchObject({ type: "list", formulae: ["keys_1"] });
    expect(book.definedNames.getRanges("keys_1").ranges).toEqual(["stations!$C$2:$C$203"]);
  });
});

test("limits of the plan are asked while somebody types", async () => {
  const plan = PLAN.replace("type: decimal", "type: decimal, minimum: 0.5, maximum: { is: 90, severity: warning, say: Not so high. }")
    .replace("type: date", 'type: date, minimum: "1850-01-01"')
    .replace("required: true", "required: true, max-length: 40");
  const sheet = (await open((await hatched(SOURCE, plan)).bytes)).getWorksheet("stations")!;
  const rules = ["D2", "E2", "F2"].map((cell) => sheet.getCell(cell).dataValidation);
  expect(rules).toMatchObject([
    { type: "custom", formulae: ["LEN(D2)<=40"], errorStyle: "stop", error: "name: 40 letters at most." },
    { formulae: ["AND(OR(ISTEXT(E2),E2>=0.5),OR(ISTEXT(E2),E2<=90))"], error: "Not so high." },
    { formulae: ["OR(ISTEXT(F2),F2>=DATE(1850,1,1))"], error: "since: 1850-01-01 or later." },
  ]);
});

test("a record that is referred to can be chosen by its label, and the code follows", async () => {
  const source = `{"keepers": [{"id": "01", "name": "Ane"}, {"id": "02", "name": "Bo"}], "lights": [{"name": "main", "keeper": "01"}]}`;
  const plan = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  keepers: { rows: keepers, key: id, label: name, columns: { id: id, name: name } }
  lights: { rows: lights, columns: { name: name, keeper: { at: keeper, refers: keepers } } }
`;
  const into = await hatched(source, plan);
  const chosen = await edited(into, (book) => {
    const label = cellIn(book, "lights", 2, "keeper name");
    expect(label.dataValidation).toMatchObject({ type: "list", formulae: ["keys_2"] });
    expect(book.definedNames.getRanges("keys_2").ranges).toEqual(["keepers!$D$2:$D$203"]);
    label.value = book.getWorksheet("keepers")!.getCell("D3").value;
  });
  expect(text((await fold(chosen, { source })).bytes)).toBe(source.replace('"keeper": "01"', '"keeper": "02"'));
});

test("the first sheet says what tables and columns mean, as the plan has it", async () => {
  const plan = PLAN.replace("rows: stations\n", "rows: stations\n    note: all that are lit\n").replace(
    "type: decimal",
    "type: decimal, note: above high water, unit: m",
  );
  const rows = (await open((await hatched(SOURCE, plan)).bytes)).getWorksheet("about these tables")!;
  const lines: string[] = [];
  rows.eachRow((row) => void lines.push((row.values as string[]).slice(1).join(" | ")));
  expect(lines).toEqual(
    expect.arrayContaining(["stations | 2 |  | all that are lit", "stations | height | yes | above high water; in m; a decimal number"]),
  );
});

test("it says which columns follow from others, and where the order of rows counts", async () => {
  const source = '{"people": [{"id": "P1"}], "stations": [{"code": "S1"}], "posts": [{"at": "S1", "by": "P1"}]}';
  const plan = `hatchfold: 1
sources: { r: { file: r.json } }
tables:
  people: { rows: people, key: id, columns: { id: id, posted to: { through: posts, show: at } } }
  stations: { rows: stations, key: code, order: sheet, columns: { code: code } }
  posts: { rows: posts, columns: { at: { at: at, refers: stations }, by: { at: by, refers: people } } }
`;
  const rows = (await open((await hatched(source, plan)).bytes)).getWorksheet("about these tables")!;
  const lines: string[] = [];
  rows.eachRow((row) => void lines.push((row.values as string[]).slice(1).join(" | ")));
  expect(lines).toContain("people | posted to | no | follows from what posts say");
  expect(lines).toContain("stations | 1 |  | the order of its rows counts: keep it when you sort");
});

describe("what comes back", () => {
  const cases: [string, (book: ExcelJS.Workbook) => void, (source: string) => string][] = [
    ["nothing", () => undefined, (source) => source],
    ["a number", (book) => (cellIn(book, "stations", 2, "height").value = 13.125), (source) => source.replace("12.50", "13.125")],
    ["fewer decimals", (book) => (cellIn(book, "stations", 2, "height").value = 13.5), (source) => source.replace("12.50", "13.50")],
    [
      "a date",
      (book) => (cellIn(book, "stations", 2, "since").value = new Date("1912-01-02")),
      (s) => s.replace("1911-04-13", "1912-01-02"),
    ],
    [
      "a text of several fonts",
      (book) => (cellIn(book, "stations", 2, "name").value = { richText: [{ text: "Skarv " }, { font: { bold: true }, text: "& Søn" }] }),
      (source) => source.replace("Skarv", "Skarv & Søn"),
    ],
    [
      "what a formula gives",
      (book) => (cellIn(book, "stations", 2, "name").value = { formula: 'UPPER("Skarv")', result: "SKARV" }),
      (source) => source.replace("Skarv", "SKARV"),
    ],
    [
      "text that looks like an escape, a line end, a tab",
      (book) => (cellIn(book, "stations", 2, "name").value = "_x005F_x0041_\n\t."),
      (source) => source.replace("Skarv", "_x0041_\\n\\t."),
    ],
    ["a word of a list", (book) => (cellIn(book, "stations", 2, "status").value = "dark"), (source) => source.replace('"L"', '"D"')],
    [
      "another order of sheets, rows and columns, and colours",
      (book) => {
        const sheet = book.getWorksheet("stations")!;
        const [first, second] = [2, 3].map((row) => (sheet.getRow(row).values as ExcelJS.CellValue[]).slice(1));
        sheet.getRow(2).values = second;
        sheet.getRow(3).values = first;
        sheet.spliceColumns(2, 1);
        sheet.getCell("B2").fill = { type: "pattern", pattern: "solid", fgColor: { argb: "FFFF0000" } };
        sheet.getRow(3).hidden = true;
        Object.assign(sheet, { orderNo: 9 });
      },
      (source) => source,
    ],
    ["a sheet with another name", (book) => (book.getWorksheet("stations")!.name = "my stations"), (source) => source],
    [
      "a row more, and one that goes",
      (book) => {
        book.getWorksheet("lights")!.addRow(["", "", "3/4", "rear"]);
        book.getWorksheet("lights")!.getCell("B2").value = "remove";
      },
      (source) => source.replace('[{"name": "main"}]', "[]").replace('"D", "lights": []', '"D", "lights": [{"name": "rear"}]'),
    ],
    [
      "cells that were merged all say the same",
      (book) => {
        book.getWorksheet("stations")!.mergeCells("D2:D3");
      },
      (source) => source.replace(' Ytre <Holm> & \\"Perle\\" ', "Skarv"),
    ],
  ];
  test.each(cases)("%s", async (_, change, expected) => {
    const { bytes } = await fold(await edited(await hatched(), change), { source: SOURCE });
    expect(text(bytes)).toBe(expected(SOURCE));
  });

  test.each<[string, (book: ExcelJS.Workbook) => void, object]>([
    ["an error", (book) => (cellIn(book, "stations", 2, "name").value = { error: "#REF!" }), { value: "#REF!", column: "name", row: 2 }],
    [
      "a formula that nobody has worked out",
      (book) => (cellIn(book, "stations", 2, "name").value = { formula: "A1" }),
      { value: "#VALUE!", column: "name", row: 2 },
    ],
    ["a word that is in no list", (book) => (cellIn(book, "stations", 2, "status").value = "off"), { column: "status", row: 2 }],
  ])("a problem: %s", async (_, change, problem) => {
    const { problems } = await compare(await edited(await hatched(), change), { source: SOURCE });
    expect(problems).toMatchObject([{ file: "stations", ...problem }]);
  });

  test("sheets of colleagues are named and left alone", async () => {
    const { notes, changes } = await compare(await edited(await hatched(), (book) => void book.addWorksheet("my notes").addRow(["a"])), {
      source: SOURCE,
    });
    expect([changes, notes.map(brief)]).toEqual([[], ['file-unused {"file":"my notes"}']]);
  });
});

describe.each(WORLDS.map((world) => [world.format, world] as const))("%s", (_, { plan, file: name, write }) => {
  test("a workbook says what files of text say, and gives the source back when another program has saved it", () =>
    law(
      fc.nat(),
      async (seed) => {
        const random = new Random(seed);
        const source = write(stationsOf(random));
        const into = new Workbook();
        await hatch(source, { plan, name, into });
        const { tables } = await hatch(source, { plan, name });
        const resaved = await edited(into, () => undefined);
        expect(text((await fold(resaved, { source, name })).bytes)).toBe(source);
        const [file, row] = anyRow(tables, random);
        if (row === 0) return;
        const book = await edited(into, (one) => (cellIn(one, file.replace(".csv", ""), row, "name").value = "007"));
        setCell(tables, file, row, "name", "007");
        expect(text((await fold(book, { source, name })).bytes)).toBe(text((await fold(tables, { source, name })).bytes));
      },
      RUNS / 20,
    ));
});

/** A row of a table with names; 0 when there is none. */
function anyRow(tables: MemoryTables, random: Random): [file: string, row: number] {
  const file = random.pick(sheetFiles(tables));
  const rows = readRows(tables, file);
  return [file, rows.length < 2 || !rows[0].includes("name") ? 0 : 2 + random.next(rows.length - 1)];
}

test("any text that a source holds comes back from a workbook that was saved by another program", () =>
  law(
    fc.array(
      fc.oneof(fc.string({ unit: "binary" }), fc.constantFrom("", " ", "_x0041_", "=1+1", "'", "1E5", "\r\n", "\u00a0x", "]]>", "01")),
      {
        minLength: 1,
        maxLength: 12,
      },
    ),
    async (texts) => {
      const source = JSON.stringify({ rows: texts.map((one) => ({ one })) });
      const into = new Workbook();
      await hatch(source, { into });
      const { bytes, unchanged } = await fold(await edited(into, () => undefined), { source });
      expect([text(bytes), unchanged]).toEqual([source, true]);
    },
    RUNS / 4,
  ));

test("the command line: hatch to a workbook, edit, check, compare, fold in place, undo", async () => {
  const folder = freshFolder();
  const call = (...args: string[]) => inProcess(folder, args);
  const [source, book] = [join(folder, "register.json"), join(folder, "tables.xlsx")];
  const old = readFileSync(DEMO);
  writeFileSync(source, old);
  expect((await call("hatch", "register.json", "-o", "tables.xlsx")).out).toContain("hatched 9 tables from register.json into tables.xlsx");
  expect((await call("hatch", "register.json", "-o", "new/folder/tables.xlsx")).status).toBe(0);
  // as nothing was edited yet, it may be written again
  expect((await call("hatch", "register.json", "-o", "tables.xlsx")).status).toBe(0);
  expect((await call("check", "tables.xlsx")).out).toBe("✓ tables.xlsx: no problems in 175 rows\n");
  const changed = await edited(new Workbook(readFileSync(book)), (one) => (cellIn(one, "stations", 3, "name").value = "Another name"));
  writeFileSync(book, changed.bytes);
  const again = await call("hatch", "register.json", "-o", "tables.xlsx");
  expect([again.status, again.err]).toMatchObject([2, expect.stringContaining(says("out-edited", { file: "tables.xlsx" }))]);
  const compared = await call("compare", "tables.xlsx", "--json");
  expect(JSON.parse(compared.out)).toMatchObject({
    counts: { changed: 1, problems: 0 },
    changes: [{ table: "stations", row: 3, column: "name", new: "Another name" }],
  });
  const done = await call("fold", "tables.xlsx", "--in-place", "--json");
  expect(JSON.parse(done.out)).toMatchObject({ proved: true, written: ["register.json"] });
  expect(readFileSync(source, "utf8")).toContain('"Another name"');
  expect((await call("undo", "tables.xlsx")).status).toBe(0);
  expect(readFileSync(source)).toEqual(old);
});

test.each([
  ["no zip archive", Buffer.from("hello"), says("zip-broken", {})],
  ["cut off", null, says("zip-broken", {})],
])("a file that is no workbook is told: %s", async (_, bytes, said) => {
  const folder = freshFolder(true);
  writeFileSync(join(folder, "tables.xlsx"), bytes ?? (await hatched()).bytes.subarray(0, 3000));
  const { status, err } = await inProcess(folder, ["check", "tables.xlsx"]);
  expect([status, err]).toMatchObject([2, expect.stringContaining(said)]);
});

describe("a workbook goes on after a fold in place", () => {
  const RENEWED = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  stations: { rows: stations, key: code, new: { code: "{000}" }, columns: { code: code, name: name, height: { at: height, type: decimal } } }
  lights: { rows: stations/lights, inside: stations, LAYOUT columns: { name: name, colour: colour } }
`;
  const DOCUMENT = JSON.stringify({
    stations: ["001", "002", "003"].map((code) => ({ code, name: `Name ${code}`, height: 7, lights: [{ name: "main", colour: "W" }] })),
  });

  test.each(["", "beneath: true,", "repeat: true,"])("with ids and marks, and all else as it was (%s)", async (layout) => {
    const folder = freshFolder();
    const call = (...args: string[]) => inProcess(folder, args);
    const [source, path] = [join(folder, "s.json"), join(folder, "t.xlsx")];
    writeFileSync(source, DOCUMENT);
    writeFileSync(join(folder, "plan.yaml"), RENEWED.replace("LAYOUT ", layout));
    expect((await call("hatch", "s.json", "-p", "plan.yaml", "-o", "t.xlsx")).err).toBe("");
    const book = await edited(new Workbook(readFileSync(path)), (one) => {
      const sheet = one.getWorksheet("stations")!;
      const c = (title: string): number => cellIn(one, "stations", 2, title).fullAddress.col;
      sheet.getRow(2).getCell(c("name")).value = "Edited";
      sheet.getRow(2).getCell(c("name")).note = "look again";
      sheet.getRow(3).getCell(c("fold action")).value = "remove";
      sheet.getRow(4).getCell(c("name")).value = { formula: '"Name " & "003"', result: "Name 003" };
      sheet.getRow(4).getCell(c("name")).fill = { type: "pattern", pattern: "solid", fgColor: { argb: "FFABCDEF" } };
      const mine = sheet.columnCount + 1;
      sheet.getRow(1).getCell(mine).value = "my notes";
      sheet.getRow(2).getCell(mine).value = "seen";
      if (layout === "") sheet.getRow(6).getCell(c("name")).value = "New";
      const other = one.addWorksheet("of a colleague");
      other.getCell("B2").value = { formula: "1+1", result: 2 };
    });
    writeFileSync(path, book.bytes);
    const done = await call("fold", "t.xlsx", "--in-place", "--renew");
    expect(done).toMatchObject({
      status: 0,
      err: "",
      out: expect.stringContaining("t.xlsx goes on: ids and fresh marks are in its sheets"),
    });
    const { stations } = JSON.parse(readFileSync(source, "utf8")) as { stations: { code: string; name: string }[] };
    expect(stations.map(({ code, name }) => `${code} ${name}`)).toEqual(
      {
        "": ["001 Edited", "003 Name 003", "004 New"],
        "beneath: true,": ["001 Edited", "002 Name 003", "003 Name 003"],
        "repeat: true,": ["001 Edited", "002 Name 002", "003 Name 003"],
      }[layout]!,
    );
    const after = await open(readFileSync(path));
    expect(after.getWorksheet("of a colleague")!.getCell("B2").value).toEqual({ formula: "1+1", result: 2 });
    const sheet = after.getWorksheet("stations")!;
    const cell = (row: number, title: string): ExcelJS.Cell => cellIn(after, "stations", row, title);
    expect([cell(2, "name").note, sheet.getRow(2).getCell(sheet.columnCount).value]).toMatchObject(["look again", "seen"]);
    if (layout === "") {
      expect(cell(4, "name")).toMatchObject({ formula: '"Name " & "003"', fill: { fgColor: { argb: "FFABCDEF" } } });
      expect([cell(6, "code").value, cell(3, "code").value, cell(3, "fold mark").value]).toEqual(["004", null, null]);
    }
    // nothing is left to fold, and the next edit arrives
    expect((await call("compare", "t.xlsx")).out).toContain("no changes: ");
    const next = await edited(new Workbook(readFileSync(path)), (one) => (cellIn(one, "stations", 2, "name").value = "Again"));
    writeFileSync(path, next.bytes);
    expect((await call("fold", "t.xlsx", "--in-place")).status).toBe(0);
    expect(readFileSync(source, "utf8")).toContain('"Again"');
  });

  test("also when the first letter of a title is another, a helper stands beside and words stand above, in text", async () => {
    const folder = freshFolder();
    const call = (...args: string[]) => inProcess(folder, args);
    writeFileSync(join(folder, "s.json"), DOCUMENT);
    writeFileSync(join(folder, "plan.yaml"), RENEWED.replace("LAYOUT ", ""));
    await call("hatch", "s.json", "-p", "plan.yaml", "-o", "t");
    const sheet = join(folder, "t/stations.csv");
    const [titles, ...rows] = readFileSync(sheet, "utf8").trimEnd().split("\r\n");
    const notes = rows.reverse().map((row, i) => `${row},note ${i}`);
    writeFileSync(
      sheet,
      ["our stations", `${titles.replace("fold mark", "Fold Mark").replace("name", "Name")},my notes`, ...notes, ",,,New,7,mine"].join(
        "\r\n",
      ),
    );
    expect(await call("fold", "t", "--in-place", "--renew")).toMatchObject({ status: 0, err: "" });
    const lines = readFileSync(sheet, "utf8").trimEnd().split("\r\n");
    expect(lines.map((line) => line.replace(/^b\w+,/, "x,"))).toEqual([
      "\ufefffold mark,fold action,code,name,height,my notes",
      "x,,003,Name 003,7,note 0",
      "x,,002,Name 002,7,note 1",
      "x,,001,Name 001,7,note 2",
      "x,,004,New,7,mine",
    ]);
  });
});
