/** Rows that a fold refuses: they come back with their problem, are mended, and folded into what was folded. */
import ExcelJS from "exceljs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, MemoryTables, RowTables, Workbook } from "hatch-fold";
import { freshFolder, inProcess, type Done } from "./support/cli.js";
import { law } from "./support/laws.js";
import { Random } from "./support/random.js";
import { ACTION, copyTables, edit, readRows, setCell, sheetFiles, text } from "./support/sheets.js";
import { stationsOf, WORLDS } from "./support/worlds.js";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";

describe.each(WORLDS.map((world) => [world.format, world] as const))("%s", (_, { plan, file: name, write }) => {
  test("good rows and mended ones give what all of them together give", () =>
    law(fc.nat(), async (seed) => {
      const random = new Random(seed);
      const source = write(stationsOf(random));
      const { tables } = await hatch(source, { plan, name });
      const right = copyTables(tables);
      const bad: [file: string, row: number][] = [];
      for (const file of sheetFiles(tables)) {
        const rows = readRows(tables, file);
        for (let row = 2; row <= rows.length; row++) {
          const kind = random.next(6);
          const cells: [title: string, cell: string][] =
            kind === 0 ? [[ACTION, "remove"]] : kind < 3 ? [["name", random.pick(["Tern", "Skua", "007"])]] : [];
          const isBad = kind > 1 && random.next(3) === 0;
          if (isBad) bad.push([file, row]);
          for (const [title, cell] of cells) for (const one of [tables, right]) setCell(one, file, row, title, cell);
          if (isBad) setCell(tables, file, row, ACTION, "away with it");
        }
      }
      const together = await fold(right, { source, name }).catch((error: unknown) => error as Error);
      // an edit in a record that goes away
      if (together instanceof Error) return;
      const refused = new MemoryTables();
      const good = await fold(tables, { source, name, partial: true, refused });
      if (bad.length === 0) {
        expect(text(good.bytes)).toBe(text(together.bytes));
        return;
      }
      for (const file of sheetFiles(refused)) {
        const [titles, ...rows] = readRows(refused, file);
        expect([titles[0], rows.every(([problem]) => problem !== "")]).toEqual(["fold problem", true]);
        for (const [i] of rows.entries()) if (rows[i][2] === "away with it") setCell(refused, file, i + 2, ACTION, "");
      }
      const mended = await fold(refused, { source: good.bytes, name });
      expect(text(mended.bytes)).toBe(text(together.bytes));
    }));
});

const SOURCE = `{"keepers": [{"id": "P-1", "name": "Ane"}, {"id": "P-2", "name": "Bo"}],
 "stations": [
  {"code": "S-1", "height": 12.5, "keeper": "P-1", "lights": [{"name": "main"}, {"name": "rear"}]},
  {"code": "S-2", "height": 7, "keeper": "P-2", "lights": [{"name": "main"}]},
  {"code": "S-3", "height": 9, "keeper": "P-2", "lights": []}
 ]}
`;
const PLAN = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  keepers: { rows: keepers, key: id, label: name, new: { id: "P-{0}" }, columns: { id: id, name: { at: name, required: true } } }
  stations:
    rows: stations
    key: code
    columns:
      code: { at: code, pattern: "S-[0-9]+" }
      height: { at: height, type: decimal, maximum: 99.5 }
      keeper: { at: keeper, refers: keepers }
  lights: { rows: stations/lights, inside: stations, columns: { name: { at: name, max-length: 8 } } }
`;

/** Writes cells by row number and title, in a folder of files or in a workbook. */
async function setCells(
  path: string,
  cells: readonly (readonly [table: string, row: number, title: string, cell: string])[],
): Promise<void> {
  if (!path.endsWith(".xlsx")) {
    const files = [...new Set(cells.map(([table]) => `${table}.csv`))];
    const tables = new MemoryTables(new Map(files.map((file) => [file, readFileSync(join(path, file))])));
    for (const [table, row, title, cell] of cells) setCell(tables, `${table}.csv`, row, title, cell);
    for (const file of files) writeFileSync(join(path, file), tables.contents.get(file)!);
    return;
  }
  const book = new ExcelJS.Workbook();
  await book.xlsx.readFile(path);
  for (const [table, row, title, cell] of cells) {
    const sheet = book.getWorksheet(table)!;
    const titles = (sheet.getRow(1).values as string[]).map((one) => one.replace(/ [^a-z ]+$/, ""));
    sheet.getCell(row, titles.indexOf(title)).value = cell;
  }
  await book.xlsx.writeFile(path);
}

describe.each(["mend", "mend.xlsx"])("the command line, refused rows in %s", (mend) => {
  test("every kind of mistake, a partial fold, the rest mended and folded, and back", async () => {
    const folder = freshFolder();
    const at = (file: string): string => join(folder, file);
    writeFileSync(at("s.json"), SOURCE);
    writeFileSync(at("plan.yaml"), PLAN);
    const run = (...args: string[]): Promise<Done> => inProcess(folder, args);
    const change = (file: string, ...pairs: [was: string, now: string][]): void => {
      let all = readFileSync(at(file), "utf8");
      for (const [was, now] of pairs) {
        expect(all).toContain(was);
        all = all.replace(was, now);
      }
      writeFileSync(at(file), all);
    };
    const end = (file: string, lines: string): void => writeFileSync(at(file), readFileSync(at(file), "utf8") + lines);
    await run("hatch", "s.json", "-p", "plan.yaml", "-o", "t");
    // a key that is renamed, and a row in it that is refused; a new row that another one names
    change("t/stations.csv", ["S-1,12.5", "S-10,12.5"], ["S-2,7,P-2", "S-2,700,P-9"], ["S-3,9", "S-3,9.5"]);
    change("t/lights.csv", ["rear", "much too long"]);
    end("t/keepers.csv", "+c,,,Cy\r\n,,,\r\n+d,,P-3,\r\n");
    end("t/stations.csv", ",,S-4,5,+c,\r\n,,X-5,5,+c,\r\n");
    const partial = await run("fold", "t", "--in-place", "--partial", "--refused", mend, "--json");
    const told = JSON.parse(partial.out) as { counts: object; refused: object };
    expect([partial.status, told.counts, told.refused]).toEqual([
      3,
      { unchanged: 4, changed: 2, added: 2, removed: 0, moved: 0, healed: 0, problems: 5, warnings: 0 },
      { tables: mend, rows: 4 },
    ]);
    const folded = readFileSync(at("s.json"), "utf8");
    expect(folded).toContain('{"code": "S-4", "height": 5, "keeper": "P-4"');
    // nothing was mended: the same is said again, and nothing is written
    const again = JSON.parse((await run("check", mend, "--json")).out) as {
      problems: { table: string; row: number; column: string }[];
      notes: object[];
    };
    expect([again.problems.map(({ table, row, column }) => `${table} ${row} ${column}`), again.notes]).toEqual([
      ["keepers 2 name", "stations 2 keeper", "stations 2 height", "stations 3 code", "lights 2 name"],
      [],
    ]);
    expect((await run("fold", mend, "--in-place")).status).toBe(1);
    expect(await run("fold", mend, "--in-place", "--absent", "remove")).toMatchObject({
      status: 2,
      err: expect.stringContaining("only some of the rows") as unknown,
    });
    if (mend === "mend")
      expect(readFileSync(at("mend/lights.csv"), "utf8")).toBe(
        '\ufefffold problem,fold mark,fold action,stations,name\r\n"name: ""name"" may have 8 letters at most, and has 13",b2wk,,S-10,much too long\r\n',
      );
    await setCells(at(mend), [
      ["lights", 2, "name", "back"],
      ["stations", 2, "height", "70"],
      ["stations", 2, "keeper", "P-4"],
      ["stations", 3, "code", "S-5"],
      ["keepers", 2, "id", "P-9"],
      ["keepers", 2, "name", "Di"],
    ]);
    const rest = await run("fold", mend, "--in-place", "--json");
    expect([rest.status, (JSON.parse(rest.out) as { counts: object }).counts]).toMatchObject([0, { changed: 2, added: 2, problems: 0 }]);
    expect(JSON.parse(readFileSync(at("s.json"), "utf8"))).toMatchObject({
      keepers: [{}, {}, { id: "P-4", name: "Cy" }, { id: "P-9", name: "Di" }],
      stations: [
        { code: "S-10", lights: [{ name: "main" }, { name: "back" }] },
        { code: "S-2", height: 70, keeper: "P-4" },
        { height: 9.5 },
        { code: "S-4", keeper: "P-4" },
        { code: "S-5", keeper: "P-4" },
      ],
    });
    await run("undo", "s.json");
    expect(readFileSync(at("s.json"), "utf8")).toBe(folded);
    await run("undo", "s.json");
    expect(readFileSync(at("s.json"), "utf8")).toBe(SOURCE);
  });
});

test("refused rows in memory and in a workbook say the same", async () => {
  const { tables } = await hatch(SOURCE, { plan: PLAN, name: "s.json" });
  setCell(tables, "stations.csv", 2, "height", "100");
  const rows = new RowTables();
  const book = new Workbook();
  const options = { source: SOURCE, name: "s.json", partial: true };
  const { bytes, aside } = await fold(tables, { ...options, refused: rows });
  await fold(tables, { ...options, refused: book });
  expect([aside, rows.rows("stations")]).toMatchObject([
    [{ table: "stations", row: 2 }],
    [{ code: "S-1", height: "100", "fold problem": 'height: "height" must be 99.5 or less' }],
  ]);
  for (const one of [rows, book])
    expect((await compare(one, { source: bytes, name: "s.json" })).problems).toMatchObject([{ code: "rule-maximum", row: 2 }]);
  await expect(fold(tables, { ...options, sink: () => undefined, refused: rows })).rejects.toMatchObject({ code: "refused-alone" });
});

describe.each(["mend", "mend.xlsx"])("the command line, a sheet in which rows stand beneath each other, in %s", (mend) => {
  test("it comes back whole, with new rows where they stood, and only they are folded", async () => {
    const folder = freshFolder();
    const run = (...args: string[]): Promise<Done> => inProcess(folder, args);
    writeFileSync(join(folder, "s.json"), SOURCE);
    writeFileSync(
      join(folder, "plan.yaml"),
      PLAN.replace("inside: stations, columns: { name", "inside: stations, beneath: true, columns: { light"),
    );
    await run("hatch", "s.json", "-p", "plan.yaml", "-o", "t");
    const sheet = new MemoryTables(new Map([["stations.csv", readFileSync(join(folder, "t/stations.csv"))]]));
    edit(sheet, "stations.csv", ([titles, ...rows]) => {
      const made = (cells: Record<string, string>): string[] => titles.map((title) => cells[title] ?? "");
      rows[0][titles.indexOf("code")] = "S-10";
      rows[2][titles.indexOf("light")] = "much too long";
      // behind a new station that is folded: one light that is, and one that is not
      return [
        titles,
        ...rows.slice(0, 5),
        made({ code: "S-4", height: "5" }),
        made({ light: "one" }),
        made({ light: "two too long" }),
        ...rows.slice(5),
      ];
    });
    writeFileSync(join(folder, "t/stations.csv"), sheet.contents.get("stations.csv")!);
    const partial = await run("fold", "t", "--in-place", "--partial", "--refused", mend, "--json");
    const told = JSON.parse(partial.out) as { counts: object; refused: object };
    expect([partial.status, told.counts, told.refused]).toMatchObject([3, { changed: 1, added: 2, problems: 2 }, { rows: 2 }]);
    const again = JSON.parse((await run("compare", mend, "--json")).out) as {
      problems: { row: number; column: string; value: string }[];
      changes: object[];
    };
    expect([again.problems.map(({ row, column, value }) => `${row} ${column} ${value}`), again.changes]).toEqual([
      ["4 light much too long", "7 light two too long"],
      [],
    ]);
    await setCells(join(folder, mend), [
      ["stations", 4, "light", "back"],
      ["stations", 7, "light", "two"],
    ]);
    expect((await run("fold", mend, "--in-place")).status).toBe(0);
    const lights = (
      JSON.parse(readFileSync(join(folder, "s.json"), "utf8")) as { stations: { code: string; lights: { name: string }[] }[] }
    ).stations;
    expect(lights.map(({ code, lights: own }) => `${code} ${own.map(({ name }) => name).join(" ")}`)).toEqual([
      "S-10 main back",
      "S-2 main",
      "S-3 ",
      "S-4 one two",
    ]);
  });
});

test("marks that could be those of two tables in a sheet are not given back", async () => {
  const plan = PLAN.replace(/stations:$/m, "la:").replace(
    "lights: { rows: stations/lights, inside: stations,",
    "qg: { rows: stations/lights, inside: la, beneath: true,",
  );
  const { tables } = await hatch(SOURCE, { plan, name: "s.json" });
  setCell(tables, "la.csv", 2, "height", "100");
  await expect(fold(tables, { source: SOURCE, name: "s.json", partial: true, refused: new RowTables() })).rejects.toMatchObject({
    code: "refused-laid",
  });
});

test("a key that a refused row keeps is not taken by another", async () => {
  const { tables } = await hatch(SOURCE, { plan: PLAN, name: "s.json" });
  setCell(tables, "stations.csv", 2, "code", "S-9");
  setCell(tables, "stations.csv", 2, "height", "100");
  setCell(tables, "stations.csv", 3, "code", "S-1");
  setCell(tables, "stations.csv", 4, "height", "9.5");
  const { bytes, aside } = await fold(tables, { source: SOURCE, name: "s.json", partial: true });
  expect([text(bytes), aside.map(({ row }) => row)]).toEqual([SOURCE.replace('"height": 9,', '"height": 9.5,'), [2, 3]]);
});
