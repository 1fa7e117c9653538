/** The workbench in a real browser: what is taken along is what the library gives for the same edits. */
import { readFile } from "node:fs/promises";
import type { Server } from "node:http";
import ExcelJS from "exceljs";
import type { Browser, Locator } from "playwright-core";
import { build } from "rolldown";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { draft, fold, hatch, MemorySource, MemoryTables, Workbook } from "hatch-fold";
import { Bench, browse, serve } from "./support/page.js";
import { edit, readRows, setCell, sheetFiles, text } from "./support/sheets.js";

let server: Server;
let address: string;
let browser: Browser;
let bench: Bench;

/** The long journeys, too: `npm run test:pages`. */
const IS_LONG = process.env.PAGES === "long";
const long = test.runIf(IS_LONG);

/** The library as an application loads it: name of the file to its text. */
const library = new Map<string, string>();
const demo = new URL("../demo/", import.meta.url);
const register = await readFile(new URL("register.json", demo), "utf8");

beforeAll(async () => {
  const input = new URL("../dist/index.js", import.meta.url).pathname;
  const { output } = await build({
    input,
    platform: "browser",
    write: false,
    output: { entryFileNames: "hatch-fold.js" },
    logLevel: "silent",
  });
  for (const one of output) if (one.type === "chunk") library.set(`/library/${one.fileName}`, one.code);
  ({ server, address } = await serve(library));
  browser = await browse();
});
afterAll(async () => {
  await browser?.close();
  server?.close();
});
beforeEach(async () => {
  bench = await Bench.open(browser, address);
});
afterEach(async () => {
  expect(bench.errors).toEqual([]);
  await bench.close();
});

/** The same edits by the library, and where columns are. */
async function byLibrary(
  source: string | Uint8Array,
  name: string,
): Promise<{ tables: MemoryTables; column: (file: string, title: string) => number }> {
  const { tables } = await hatch(source, { name });
  return { tables, column: (file, title) => readRows(tables, file)[0].indexOf(title) };
}
const folded = async (tables: MemoryTables, source: string | Uint8Array): Promise<string> => text((await fold(tables, { source })).bytes);

/** Opens what a table's layout is in the plan. */
const layoutOf = async (table: string): Promise<Locator> => {
  const entry = bench.page.locator(".take > li").filter({ has: bench.page.getByRole("checkbox", { name: `Take ${table}`, exact: true }) });
  await entry.getByRole("button", { name: `Layout of ${table}:` }).click();
  return entry;
};
/** Takes the plan as it stands, and gives its text. */
const usePlan = async (): Promise<string> => {
  const { bytes } = await bench.taken(() => bench.page.getByRole("button", { name: "Take it along" }).click());
  await bench.page.getByRole("button", { name: "Use this plan" }).click();
  await bench.page.getByRole("grid").waitFor();
  return bytes.toString();
};

describe("from a file to the file again", () => {
  test("nothing is edited: byte for byte", async () => {
    await bench.demo();
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
    expect((await bench.fold()).toString()).toBe(register);
  });

  test("by the keyboard alone: edits, a pasted block with line breaks, filling, replacing, undo, some left out", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    const at = (title: string): number => column("stations.csv", title);
    await bench.demo();
    await bench.table("stations");

    await bench.type(3, at("name"), 'Gråstein, "west"');
    setCell(tables, "stations.csv", 3, "name", 'Gråstein, "west"');

    await bench.goTo(4, at("note"));
    await bench.paste('"two\nlines"\tC-9\n"say ""so"""\t');
    await expect.poll(() => bench.message()).toBe("4 cells changed.");
    setCell(tables, "stations.csv", 4, "note", "two\nlines");
    setCell(tables, "stations.csv", 4, "catalogue", "C-9");
    setCell(tables, "stations.csv", 5, "note", 'say "so"');
    setCell(tables, "stations.csv", 5, "catalogue", "");
    await bench.cell(5, at("note"), 'say "so"');

    await bench.goTo(6, at("tower/stone"));
    await bench.select(2, 0);
    await bench.page.keyboard.press("Control+D");
    await expect.poll(() => bench.message()).toMatch(/filled/);
    const stone = readRows(tables, "stations.csv")[5][at("tower/stone")];
    for (const row of [7, 8]) setCell(tables, "stations.csv", row, "tower/stone", stone);

    await bench.goTo(10, at("name"));
    await bench.page.keyboard.press("Delete");
    await bench.cell(10, at("name"), "");
    await bench.page.keyboard.press("Control+Z");
    await bench.cell(10, at("name"), readRows(tables, "stations.csv")[9][at("name")]);

    await bench.page.keyboard.press("Control+F");
    await bench.page.getByLabel("Find", { exact: true }).fill("timber");
    await bench.page.getByLabel("Replace with").fill("oak");
    const many = readRows(tables, "stations.csv")
      .flat()
      .filter((cell) => cell === "timber").length;
    await bench.page.getByRole("button", { name: `Replace ${many}` }).click();
    await expect.poll(() => bench.message()).toBe(`${many} cells replaced.`);
    edit(tables, "stations.csv", (rows) => rows.map((row) => row.map((cell) => (cell === "timber" ? "oak" : cell))));

    expect(await bench.counts()).toMatch(/^\d+changed, 0added, 0removed, 0moved$/);
    // one record is left out
    await bench.page.getByLabel("Fold stations S-002").uncheck();
    await expect.poll(() => bench.page.getByTestId("taken").textContent()).toMatch(/records are to be folded/);
    setCell(tables, "stations.csv", 3, "name", "Gråstein");
    expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  });

  long("rows come, are copied and go; a reference is chosen from its list", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    await bench.demo();
    await bench.table("postings");
    const person = column("postings.csv", "person");
    await bench.goTo(3, person);
    await bench.page.getByRole("button", { name: "Add", exact: true }).click();
    await expect.poll(() => bench.message()).toBe("1 row added.");
    await bench.goTo(4, person);
    await bench.page.keyboard.press("F2");
    await bench.page.getByRole("listbox").waitFor();
    await bench.page.keyboard.type("P-003");
    await bench.page.keyboard.press("ArrowDown");
    await bench.page.keyboard.press("Enter");
    await bench.cell(4, person, "P-003");
    await bench.type(4, person + 1, "S-004");
    await bench.goTo(6, person);
    await bench.page.getByRole("button", { name: "Remove" }).click();
    await bench.page.locator(".row.going").waitFor();
    expect(await bench.message()).toBe("1 row will go.");
    await bench.goTo(7, person);
    await bench.page.getByRole("button", { name: "Copy rows" }).click();
    await expect.poll(() => bench.message()).toBe("1 row copied below.");
    edit(tables, "postings.csv", (rows, titles) => {
      const fresh = titles.map((title) => ({ person: "P-003", station: "S-004" })[title] ?? "");
      rows[4][1] = "remove";
      const copy = rows[5].map((cell, i) => (i < 2 ? "" : cell));
      return [...rows.slice(0, 3), fresh, ...rows.slice(3, 6), copy, ...rows.slice(6)];
    });
    expect(await bench.counts()).toBe("0changed, 2added, 1removed, 0moved");
    expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  });

  long.each([
    ["notices.xml", "notice", 2, "title", 'Tårnholm "main" & rear'],
    ["orders.txt", "TSK", 3, "field 2", "Paint, white"],
    ["lights.csv", "lights", 4, "character", "Q; W"],
  ])("%s", async (name, table, row, title, value) => {
    const source = await readFile(new URL(name, demo));
    await bench.give([name, source]);
    await bench.settled();
    const { tables, column } = await byLibrary(new Uint8Array(source), name);
    await bench.table(table);
    await bench.type(row, column(`${table}.csv`, title), value);
    setCell(tables, `${table}.csv`, row, title, value);
    expect(await bench.counts()).toContain("1changed");
    expect((await bench.fold()).toString("latin1")).toBe(Buffer.from(await folded(tables, new Uint8Array(source))).toString("latin1"));
  });

  long("several files: one set of tables, and the file that changed is known", async () => {
    const names = ["east.json", "north.json", "south.json"];
    const files = await Promise.all(names.map((name) => readFile(new URL(`buoys/${name}`, demo))));
    await bench.give(...files.map((file, i) => [names[i], file] as const));
    await expect.poll(() => bench.page.getByTestId("name").textContent()).toBe("3 files");
    await bench.settled();
    await bench.table("buoys");
    const header = await bench.page.getByRole("columnheader", { name: "chain" }).getAttribute("aria-colindex");
    await bench.type(6, Number(header) - 2, "33.00");
    expect(await bench.counts()).toContain("1changed");
    expect((await bench.fold()).toString()).toBe(files[1].toString().replace("31.50", "33.00"));
  });
});

describe("what is wrong is said, and nothing is lost", () => {
  test("a value that is not allowed is a problem that leads to its cell; nothing is folded", async () => {
    const { column } = await byLibrary(register, "register.json");
    await bench.demo();
    await bench.table("stations");
    const height = column("stations.csv", "tower/height");
    await bench.type(3, height, "tall");
    expect(await bench.counts()).toContain("1problem");
    await bench.page.getByRole("button", { name: "stations row 3 tower/height" }).click();
    await bench.page.locator(`#cell-1-${height}.focus.faulty`).waitFor();
    await bench.step("Fold");
    await bench.page.getByRole("button", { name: "Fold", exact: true }).last().click();
    await expect.poll(() => bench.page.getByRole("alert").textContent()).toContain("to mend");
    await bench.table("stations");
    await bench.page.keyboard.press("Control+Z");
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
  });

  long("rows with problems are left out, and the others are folded; what looks like damage is meant when it is typed", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, column("stations.csv", "tower/height"), "tall");
    await bench.type(4, column("stations.csv", "asset"), "7101");
    expect(await bench.counts()).toBe("1changed, 0added, 0removed, 0moved, 1problem");
    await bench.page.getByRole("button", { name: "Leave these rows out" }).click();
    await bench.page.getByText("They are left out of the fold.").waitFor();
    const { bytes } = await fold(setCell(tables, "stations.csv", 4, "asset", "7101"), { source: register, noHeal: ["asset"] });
    expect((await bench.fold()).toString()).toBe(text(bytes));
  });

  long("what does not fit is not pasted; marks stay as they are", async () => {
    await bench.demo();
    await bench.table("channels");
    await bench.goTo(2, 3);
    await bench.paste(["a", "b", "c", "d", "e", "f", "g", "h"].join("\t"));
    await expect.poll(() => bench.message()).toContain("Nothing was pasted");
    await bench.goTo(2, 0);
    await bench.paste("x1");
    await expect.poll(() => bench.message()).toContain("Fold marks say which record a row is");
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
  });

  test("a broken file is named with its place, and the next one opens", async () => {
    await bench.give(["broken.json", '{\n  "a": [1, 2\n}']);
    await expect
      .poll(() => bench.page.getByRole("alert").textContent())
      .toContain('broken.json:3:1: found "}" after an item. Expected a comma or ].');
    await bench.give(["tables.xlsx", "PK"]);
    await expect
      .poll(() => bench.page.getByRole("alert").textContent())
      .toContain("A workbook is no source. Open the file that its tables came from");
    await bench.give(["good.json", '{"a": [{"b": 1}, {"b": 2}]}']);
    await bench.settled();
    expect(await bench.page.getByTestId("name").textContent()).toBe("good.json");
  });

  long("the format can be corrected", async () => {
    await bench.give(["lights.txt", "no;name\n1;Skarv\n2;Måke\n"]);
    await bench.settled();
    await bench.page.getByLabel("Format").selectOption("delimited");
    await bench.settled();
    await bench.table("lights");
    await bench.cell(2, 3, "Skarv");
    // and what its titles are
    await bench.step("Source");
    await bench.page.getByLabel("Titles").selectOption("0");
    await bench.settled();
    await bench.table("lights");
    await bench.cell(2, 3, "name");
  });
});

long("a schema of the owner's: fields that no record has, and what it does not allow", async () => {
  const [source, xsd] = await Promise.all(["dues.xml", "dues.xsd"].map((name) => readFile(new URL(name, demo), "utf8")));
  await bench.give(["dues.xml", source]);
  await bench.settled();
  await bench.page.getByTestId("schema").setInputFiles({ name: "dues.xsd", mimeType: "text/xml", buffer: Buffer.from(xsd) });
  await bench.page.getByText("By dues.xsd.").waitFor();
  await bench.settled();
  await bench.table("line");
  await bench.type(2, 3, "1501");
  expect(await bench.counts()).toContain("1problem");
  await bench.table("line");
  await bench.type(2, 3, "7790");
  expect(await bench.counts()).toBe("1changed, 0added, 0removed, 0moved");
  expect((await bench.fold()).toString()).toBe(source.replace('account="1500"', 'account="7790"'));
});

describe("views", () => {
  long("sorting and filtering change no row; edits go to the rows that are seen", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    const [name, stone] = [column("stations.csv", "name"), column("stations.csv", "tower/stone")];
    await bench.demo();
    await bench.table("stations");
    await bench.page.getByRole("columnheader", { name: /^name/ }).getByRole("button").click();
    await bench.page.getByRole("menuitem", { name: "Sort, last to first" }).click();
    await expect.poll(() => bench.page.getByText("sorted by name").count()).toBe(1);
    const sorted = readRows(tables, "stations.csv")
      .slice(1)
      .map((row, i) => [row[name], i + 2] as const)
      .sort((a, b) => -a[0].localeCompare(b[0], undefined, { numeric: true }));
    await bench.cell(2, name, sorted[0][0]);
    await bench.type(2, stone, "slate");
    setCell(tables, "stations.csv", sorted[0][1], "tower/stone", "slate");
    await bench.page.getByRole("button", { name: "Show all, as in the source" }).click();
    await bench.page
      .getByRole("columnheader", { name: /^tower\/stone/ })
      .getByRole("button")
      .click();
    await bench.page.getByRole("menuitem", { name: "Values…" }).click();
    await bench.page.getByRole("button", { name: "Tick none" }).click();
    await bench.page
      .getByRole("dialog")
      .getByLabel(/^slate/)
      .check();
    await bench.page.getByRole("button", { name: "Show these rows" }).click();
    await expect.poll(() => bench.page.locator(".view").textContent()).toContain("1 of 24 rows");
    await bench.type(2, name, "Only one");
    setCell(tables, "stations.csv", sorted[0][1], "name", "Only one");
    expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  });
});

long("a table that is too large to be held: rows far apart are found, sorted and edited", async () => {
  const rows = 300_000;
  const state = (i: number): string => (i % 3 === 0 ? "dark" : i % 50_000 === 1 ? 'out, for \\"repair\\"' : "lit");
  const source = `{"log": [\n${Array.from({ length: rows }, (_, i) => `{"no": "L-${String(i).padStart(6, "0")}", "place": "Skarvholmen outer reef, the ${i % 7}th lamp of the row", "state": "${state(i)}", "by": "Ane Bergström"}`).join(",\n")}\n]}\n`;
  await bench.give(["log.json", source]);
  await bench.settled();
  await bench.table("log");
  await bench.page.keyboard.press("Control+F");
  await bench.page.getByLabel("Find", { exact: true }).fill('for "rep');
  await expect.poll(() => bench.page.locator(".hits li").count()).toBe(4);
  await bench.page.getByLabel("Find", { exact: true }).fill("l-29999");
  await bench.page.getByLabel("capitals count").uncheck();
  await expect.poll(() => bench.page.locator(".hits li").count()).toBe(10);
  await bench.page.keyboard.press("Escape");
  await bench.page
    .getByRole("columnheader", { name: /^state/ })
    .getByRole("button")
    .click();
  await bench.page.getByRole("menuitem", { name: "Sort, last to first" }).click();
  await expect.poll(() => bench.page.getByText("sorted by state").count()).toBe(1);
  const column = (await bench.page.getByRole("columnheader").allTextContents()).findIndex((title) => title.startsWith("state"));
  await bench.type(2, column - 1, "mended");
  expect((await bench.fold()).toString()).toBe(source.replace('"out, for \\"repair\\""', '"mended"'));
});

test("the lines of the source around a change, as they are and as they would be, of the file that it is in", async () => {
  const file = (from: number): string =>
    `{"lights": [\n${Array.from({ length: 9 }, (_, i) => `  {"no": "L-${from + i}", "name": "Låmp ${from + i}"}`).join(",\n")}\n]}\n`;
  await bench.give(["north.json", file(1)], ["south.json", file(11)]);
  await bench.settled();
  await bench.table("lights");
  await bench.goTo(14, 4);
  await bench.page.keyboard.type("Gråstein");
  await bench.page.keyboard.press("Enter");
  await bench.counts();
  await bench.page.getByRole("button", { name: "Lines" }).first().click();
  const shown = bench.page.locator(".lens pre");
  await expect.poll(() => shown.count()).toBe(2);
  const lines = (...names: string[]): string[] => names.map((name, i) => `${i + 2}  {"no": "L-${i + 11}", "name": "${name}"},`);
  const around = ["Låmp 11", "Låmp 12", "Låmp 13", "Låmp 14", "Låmp 15", "Låmp 16", "Låmp 17"];
  expect(await shown.evaluateAll((all) => all.map((one) => [...one.children].map((line) => line.textContent)))).toEqual([
    lines(...around),
    lines(...around.with(3, "Gråstein")),
  ]);
});

describe("to a spreadsheet and back", () => {
  test("a workbook with edits: what a spreadsheet damaged is healed, what somebody edited comes back", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, column("stations.csv", "name"), "Gråstein West");
    await bench.page.getByRole("button", { name: "To a spreadsheet" }).click();
    const { name, bytes } = await bench.taken(() => bench.page.getByRole("menuitem", { name: "A workbook" }).click());
    expect(name).toBe("register.xlsx");
    const book = new ExcelJS.Workbook();
    await book.xlsx.load(Uint8Array.from(bytes).buffer);
    const sheet = book.getWorksheet("stations")!;
    const cell = (row: number, title: string): ExcelJS.Cell => sheet.getCell(row, column("stations.csv", title) + 1);
    expect(cell(3, "name").text).toBe("Gråstein West");
    // asset numbers lose their zeros; one name is edited, another edit is taken back in the sheet
    const assets = readRows(tables, "stations.csv")
      .slice(1)
      .map((row) => row[column("stations.csv", "asset")]);
    assets.forEach((asset, i) => /^0\d+$/.test(asset) && (cell(i + 2, "asset").value = Number(asset)));
    cell(3, "name").value = "Gråstein";
    cell(4, "name").value = "Lille Havn South";
    await bench.page
      .getByTestId("bring-back")
      .setInputFiles({ name, mimeType: "application/zip", buffer: Buffer.from(await book.xlsx.writeBuffer()) });
    await expect.poll(() => bench.page.getByRole("dialog").textContent()).toContain("Healed");
    await bench.page.getByRole("button", { name: "See what changes" }).click();
    expect(await bench.counts()).toBe("1changed, 0added, 0removed, 0moved");
    setCell(tables, "stations.csv", 4, "name", "Lille Havn South");
    expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  });
});

describe("the work is kept", () => {
  test("a page that is loaded again goes on where it was; leaving asks", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, column("stations.csv", "name"), "Kept");
    const asked = new Promise<string>((resolve) => {
      bench.page.once("dialog", (dialog) => {
        resolve(dialog.type());
        void dialog.accept();
      });
    });
    await bench.page.reload();
    expect(await asked).toBe("beforeunload");
    await bench.settled();
    await expect.poll(() => bench.message()).toContain("with the edit of last time");
    setCell(tables, "stations.csv", 3, "name", "Kept");
    expect((await bench.fold()).toString()).toBe(await folded(tables, register));
    // and undo goes on, too
    await bench.table("stations");
    await bench.page.getByRole("grid").focus();
    await bench.page.keyboard.press("Control+Z");
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
    // and its files are known: it can be read otherwise
    await bench.step("Source");
    await bench.page.getByLabel("Encoding").selectOption("windows-1252");
    await bench.settled();
    await bench.table("stations");
    await bench.cell(3, column("stations.csv", "name"), "GrÃ¥stein");
  });

  long("the same file again: its edits are there, or are not wanted", async () => {
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, 4, "Kept");
    await bench.give(["register.json", register]);
    await expect.poll(() => bench.message()).toContain("with the edit of last time");
    expect(await bench.counts()).toContain("1changed");
    await bench.step("Source");
    await bench.page.getByRole("button", { name: "Start without it" }).click();
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
    expect((await bench.fold()).toString()).toBe(register);
  });

  long("a file that differs in the middle alone is another one", async () => {
    const rows = Array.from({ length: 60_000 }, (_, i) => `{"no": ${100_000 + i}, "name": "a light of the coast"}`);
    const source = `{"lights": [\n${rows.join(",\n")}\n]}`;
    await bench.give(["log.json", source]);
    await bench.settled();
    await bench.table("lights");
    await bench.type(3, 3, "edited");
    await bench.counts();
    await bench.give(["log.json", source.replace('"no": 130000,', '"no": 930000,')]);
    await expect.poll(() => bench.message()).toBe("log.json is open: one table.");
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
    await bench.give(["log.json", source]);
    await expect.poll(() => bench.message()).toContain("with the edit of last time");
  });

  long("the same file in two pages: one keeps the edits, and the other says that it does not", async () => {
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, 4, "First page");
    const other = await bench.second(address);
    await other.demo();
    await other.page.getByText("open in another page").waitFor();
    await other.table("stations");
    await other.type(4, 4, "Second page");
    expect(await other.counts()).toContain("1changed");
    bench.page.on("dialog", (dialog) => void dialog.accept());
    await bench.page.reload();
    await bench.settled();
    await bench.table("stations");
    await bench.cell(3, 4, "First page");
    await bench.cell(4, 4, "Lille Havn");
  });

  long("a session as a file goes on in another browser", async () => {
    const { tables, column } = await byLibrary(register, "register.json");
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, column("stations.csv", "name"), "Carried");
    await bench.step("Fold");
    const session = await bench.taken(() => bench.page.getByRole("button", { name: "The session" }).click());
    await bench.close();
    bench = await Bench.open(browser, address);
    await bench.give([session.name, session.bytes]);
    await expect.poll(() => bench.page.getByTestId("name").textContent()).toContain("register.json");
    expect(await bench.counts()).toContain("1changed");
    setCell(tables, "stations.csv", 3, "name", "Carried");
    expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  });

  long("another file while the first one is compared: the old answer is not shown", async () => {
    await bench.demo();
    await bench.table("stations");
    await bench.type(3, 4, "x");
    await bench.give(["other.json", '{"a": [{"b": 1}, {"b": 2}]}']);
    await expect.poll(() => bench.page.getByTestId("name").textContent()).toBe("other.json");
    expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved");
  });
});

describe.each([
  ["light", {}],
  ["dark", { dark: true }],
  ["at 200 %", { width: 640, height: 400 }],
] as const)("no faults of accessibility that axe knows, %s", (name, look) => {
  test.runIf(IS_LONG || name === "light")("in every step", async () => {
    await bench.close();
    bench = await Bench.open(browser, address, look);
    const found: string[] = [];
    const see = async (where: string): Promise<void> => void found.push(...(await bench.faults()).map((fault) => `${where}: ${fault}`));
    await see("start");
    await bench.demo();
    await see("source");
    await bench.step("Plan");
    await bench.page.locator(".cm-content").waitFor();
    await (await layoutOf("postings")).getByLabel("Rows", { exact: true }).selectOption("cross");
    await see("plan");
    await bench.page.getByRole("button", { name: "Settings of status of stations" }).click();
    await bench.page.getByRole("dialog").waitFor();
    await see("settings of a column");
    await bench.page.keyboard.press("Escape");
    await (await layoutOf("stations")).getByLabel("the order of rows counts").check();
    await usePlan();
    await bench.table("stations");
    await bench.page.getByRole("button", { name: "Move", exact: true }).click();
    await bench.page.getByRole("menu").waitFor();
    await see("menu");
    await bench.page.getByRole("menuitem", { name: "To another place" }).click();
    await bench.page.getByRole("dialog").waitFor();
    await see("dialog");
    await bench.page.keyboard.press("Escape");
    await bench.goTo(3, 4);
    await bench.page.keyboard.type("Gråstein  West");
    await see("editor");
    await bench.page.keyboard.press("Enter");
    await bench.goTo(4, 6);
    await bench.page.keyboard.type("tall");
    await bench.page.keyboard.press("Enter");
    await bench.page.locator(".cell.faulty").waitFor();
    await bench.page.keyboard.press("Control+F");
    await bench.page.getByLabel("Find", { exact: true }).fill("timber");
    await bench.page.locator(".hits li").first().waitFor();
    await see("find");
    await bench.page.keyboard.press("Escape");
    await bench.counts();
    await see("problems");
    await bench.step("Tables");
    await bench.page.getByRole("button", { name: "Undo" }).click();
    await bench.counts();
    await bench.page.getByRole("button", { name: "Lines" }).first().click();
    await bench.page.locator(".lens pre").first().waitFor();
    await see("changes");
    await bench.fold();
    await see("result");
    expect(found).toEqual([]);
  });
});

long("links from both sides and as a cross table: ticks are rows of the link's own table", async () => {
  const { tables } = await byLibrary(register, "register.json");
  await bench.demo();
  await bench.table("postings");
  await bench.page.getByLabel("Seen as").selectOption("links");
  await bench.page.getByLabel(/^S-005/).check();
  await expect.poll(() => bench.message()).toBe("1 link: linking P-001 and S-005.");
  await bench.page.getByRole("button", { name: "From the other side" }).click();
  await bench.page.getByRole("button", { name: /^S-009/ }).click();
  await bench.page.getByLabel(/^P-004/).uncheck();
  await expect.poll(() => bench.message()).toBe("1 link: unlinking P-004 and S-009.");
  await bench.page.getByLabel("Seen as").selectOption("cross table");
  await bench.page.getByLabel(/^P-003 .* and S-001 /).check();
  await expect.poll(() => bench.message()).toBe("1 link: linking P-003 and S-001.");
  edit(tables, "postings.csv", (rows, titles) => {
    const [person, station] = [titles.indexOf("person"), titles.indexOf("station")];
    const added = (one: string, other: string): string[] => titles.map((_, i) => (i === person ? one : i === station ? other : ""));
    const made: string[][] = [];
    for (const [i, row] of rows.entries()) {
      made.push(row[person] === "P-004" && row[station] === "S-009" ? row.map((cell, at) => (at === 1 ? "remove" : cell)) : row);
      for (const [one, other] of [
        ["P-001", "S-005"],
        ["P-003", "S-001"],
      ])
        if (row[person] === one && rows.findLastIndex((last) => last[person] === one) === i) made.push(added(one, other));
    }
    return made;
  });
  expect(await bench.counts()).toBe("0changed, 2added, 1removed, 0moved");
  expect((await bench.fold()).toString()).toBe(await folded(tables, register));
});

long("a fixed-width file: a border is moved, another one added on the ruler", async () => {
  const source = await readFile(new URL("stores.dat", demo));
  await bench.give(["stores.dat", source]);
  await bench.settled();
  const border = bench.page.getByRole("slider", { name: "column 37 begins" });
  await border.focus();
  await bench.page.keyboard.press("ArrowLeft");
  await expect.poll(() => border.getAttribute("aria-valuenow")).toBe("36");
  const box = (await border.boundingBox())!;
  await bench.page.mouse.move(box.x + box.width / 2, box.y + 10);
  await bench.page.mouse.down();
  const scale = bench.page.locator('section[aria-label="record 03"] .scale');
  const { width, x, y } = (await scale.boundingBox())!;
  const letter = await scale.evaluate((element) => element.parentElement!.querySelector(".probe")!.getBoundingClientRect().width / 100);
  expect(width).toBeGreaterThan(50 * letter);
  await bench.page.mouse.move(x + 36 * letter, box.y + 10, { steps: 4 });
  await bench.page.mouse.up();
  await expect.poll(() => border.getAttribute("aria-valuenow")).toBe("37");
  await bench.page.mouse.click(x + 45.1 * letter, y + 4);
  await bench.page.getByRole("slider", { name: "column 46 begins" }).waitFor();
  await bench.page.getByRole("button", { name: "Use these columns" }).click();
  await bench.table("record 03");
  await bench.cell(2, 5, "000246000");
  await bench.type(2, 5, "000247000");
  expect(await bench.counts()).toContain("1changed");
  expect((await bench.fold()).equals(Buffer.from(source.toString("latin1").replace("000246000", "000247000"), "latin1"))).toBe(true);
});

test("a plan: columns are left out by ticks, in the text, and edits go along", async () => {
  const { tables, column } = await byLibrary(register, "register.json");
  await bench.demo();
  await bench.table("stations");
  await bench.type(3, column("stations.csv", "name"), "Planned");
  await bench.step("Plan");
  await bench.page.getByLabel("Find a column").fill("stations tower/stone");
  await bench.page.getByRole("checkbox", { name: "tower/stone" }).uncheck();
  await expect.poll(() => bench.page.locator(".yaml").textContent()).not.toContain("tower/stone");
  await bench.page.getByRole("button", { name: "Use this plan" }).click();
  await bench.page.getByRole("grid").waitFor();
  await bench.table("stations");
  expect(await bench.page.getByRole("columnheader", { name: /^tower\/stone/ }).count()).toBe(0);
  setCell(tables, "stations.csv", 3, "name", "Planned");
  expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  // the plan and its edits are kept, and no others
  bench.page.on("dialog", (dialog) => void dialog.accept());
  await bench.page.reload();
  await bench.settled();
  expect(await bench.counts()).toContain("1changed");
  await bench.table("stations");
  expect(await bench.page.getByRole("columnheader", { name: /^tower\/stone/ }).count()).toBe(0);
  await bench.page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(() => bench.page.getByRole("button", { name: "Undo" }).isDisabled()).toBe(true);
});

long("a plan: a list beneath its records, a column with words of its own; both are seen in its first rows, and edited", async () => {
  await bench.demo();
  await bench.step("Plan");
  const lights = await layoutOf("lights");
  await lights.getByLabel("Rows", { exact: true }).selectOption("beneath");
  await bench.page.getByRole("button", { name: "Settings of status of stations" }).click();
  await bench.page.getByLabel("Title", { exact: true }).fill("state");
  await bench.page.getByLabel("Words to choose from").fill("lit=burning, dark, Lit=Burning");
  await bench.page.getByRole("button", { name: "Done" }).click();
  const sample = bench.page.getByRole("region", { name: "First rows of stations" });
  await expect.poll(() => sample.textContent()).toContain("burning");
  await expect.poll(() => sample.textContent()).toContain("Fl W 5s");
  const plan = await bench.page.evaluate(() => document.querySelector(".cm-content")!.textContent);
  expect(plan).toContain("hatchfold: 1");
  await bench.page.getByRole("button", { name: "Use this plan" }).click();
  await bench.page.getByRole("grid").waitFor();
  await bench.table("stations");
  const at = async (title: string): Promise<number> =>
    Number(await bench.page.getByRole("columnheader", { name: new RegExp(`^${title}`) }).getAttribute("aria-colindex")) - 2;
  await bench.goTo(2, await at("code"));
  for (let i = 0; i < 6; i++) await bench.page.keyboard.press("ArrowRight");
  await bench.type(2, await at("state"), "dark");
  await bench.goTo(3, 17);
  await bench.page.keyboard.press("End");
  await bench.type(3, await at("character"), "Fl W 9s");
  expect(await bench.counts()).toBe("2changed, 0added, 0removed, 0moved");
  // through a spreadsheet and back, rows of both tables in one sheet
  await bench.step("Tables");
  await bench.page.getByRole("button", { name: "To a spreadsheet" }).click();
  const { name, bytes } = await bench.taken(() => bench.page.getByRole("menuitem", { name: "A workbook" }).click());
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(Uint8Array.from(bytes).buffer);
  const sheet = book.getWorksheet("stations")!;
  const character = (sheet.getRow(1).values as string[]).indexOf("character");
  expect(sheet.getRow(3).getCell(character).text).toBe("Fl W 9s");
  sheet.getRow(3).getCell(character).value = "Fl W 7s";
  await bench.page
    .getByTestId("bring-back")
    .setInputFiles({ name, mimeType: "application/zip", buffer: Buffer.from(await book.xlsx.writeBuffer()) });
  await bench.page.getByRole("dialog").getByText("one edit").waitFor();
  await bench.page.getByRole("button", { name: "See what changes" }).click();
  expect(await bench.counts()).toBe("2changed, 0added, 0removed, 0moved");
  const result = (await bench.fold()).toString();
  expect(result).toBe(register.replace('"status": "lit"', '"status": "dark"').replace('"Fl W 5s"', '"Fl W 7s"'));
});

/** A table, what is chosen in its layout, and what the first rows then say: titles and cells with blanks between. */
type LayoutCase = [table: string, chosen: Readonly<Record<string, string>>, shown: RegExp];
const stockOf = (depot: number): object => Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`${1000 * depot + 7 * i}`, `${i} kg`]));
const PARTS = {
  parts: [{ name: "lamp", parts: [{ name: "lens", parts: [] }] }],
  depots: [null, "D0", "D1"].map((up, i) => ({ id: `D${i}`, up, stock: stockOf(i) })),
};
const LAYOUTS: [what: string, source: string | null, cases: LayoutCase[]][] = [
  [
    "lists and links",
    null,
    [
      ["tags", { Rows: "packed" }, /asset tags lights note[^]*0001812 fog horn Landing/],
      ["tags", { Separator: " + " }, /helipad \+ fog horn \+ listed building/],
      ["tags", { Rows: "spread" }, /asset tags 1 tags 2 tags 3 lights[^]*helipad fog horn listed building/],
      ["tags", { Columns: "1" }, /asset tags 1 lights[^]*496000506755482311 helipad 007/],
      ["tags", { Rows: "repeat" }, /stations value\n[^]*S-004 helipad\n[^]*S-004 fog horn\n/],
      ["tags", { Rows: "beneath" }, /stations value\n[^]*\n\S+ S-004 helipad/],
      ["tags", { Rows: "own" }, /^fold mark fold action stations value\n\S+ S-002 fog horn/],
      ["inspections", { Rows: "packed" }, /inspections on inspections by inspections result\n[^]*2023-08-18; 2024-08-15 P-007; P-005/],
      ["lights", { Rows: "packed" }, /lights no lights character[^]*0004; 0005; 0006 [^]*\[\] \| \[\] \| 2025-06-15; 2025-08-19 /],
      ["postings", { Rows: "cross" }, /person S-001 S-002[^]*P-001 relief keeper electrician/],
      ["postings", { "In cells": "" }, /P-001 x x x/],
    ],
  ],
  [
    "trees and keyed records",
    JSON.stringify(PARTS),
    [
      ["parts", { Rows: "tree", "Called by": "name" }, /parent depth path name\n(\S+) 1 lamp lamp\n\S+ \1 2 lamp\/lens lens/],
      ["parts", { Rows: "own" }, /^fold mark fold action name\n\S+ lamp$/],
      ["depots", { Rows: "tree", "Tree by": "parent up" }, /depth path id up\n\S+ 1 D0 D0\n\S+ 2 D0\/D1 D1 D0/],
      ["depots", { Rows: "own" }, /id up\n\S+ D0\n\S+ D1 D0/],
      ["stock", { Rows: "packed" }, /id up stock\n\S+ D0 0=0 kg; 7=1 kg; 14=2 kg;/],
    ],
  ],
];
long.each(LAYOUTS)("each layout is seen in the first rows: %s; what is folded is the library's", async (_, source, cases) => {
  if (source === null) await bench.demo();
  else await bench.give(["parts.json", source]);
  await bench.settled();
  await bench.step("Plan");
  const sample = bench.page.locator(".sample");
  const rows = async (): Promise<string> =>
    (await sample.count()) === 0 ? "" : (await sample.innerText()).replace(/[\t ]+/g, " ").replace(/ +$/gm, "");
  const opened = new Map<string, Locator>();
  for (const [table, chosen, shown] of cases) {
    const entry = opened.get(table) ?? (await layoutOf(table));
    opened.set(table, entry);
    for (const [label, word] of Object.entries(chosen)) {
      const control = entry.getByLabel(label, { exact: true });
      if (/Separator|Columns/.test(label)) await control.fill(word);
      else await control.selectOption(word);
    }
    await expect.poll(rows, { message: `${table} ${JSON.stringify(chosen)}` }).toMatch(shown);
  }
  const plan = await usePlan();
  const given = source ?? register;
  const { tables } = await hatch(given, { plan, name: "given.json" });
  const [file, title, from, to] =
    source === null ? ["stations.csv", "name", "Gråstein", "Gråstein W"] : ["depots.csv", "stock", "7=1 kg", "7=none; 8=1 kg"];
  const row = readRows(tables, file).findIndex((cells) => cells.some((cell) => cell.includes(from))) + 1;
  const column = readRows(tables, file)[0].indexOf(title);
  const text = readRows(tables, file)[row - 1][column].replace(from, to);
  setCell(tables, file, row, title, text);
  await bench.table(file.replace(".csv", ""));
  await bench.type(row, column, text);
  expect((await bench.fold()).toString()).toBe(await folded(tables, given));
});

long("a sheet that somebody else made: rows without marks are matched; a second row of one record is to be mended", async () => {
  await bench.demo();
  await bench.step("Plan");
  await expect.poll(() => bench.page.locator(".cm-content").textContent()).toContain("hatchfold: 1");
  const { plan: drafted } = await draft(register, { planFile: "register.json" });
  const plan = drafted
    .replace("    rows: postings\n", "    rows: postings\n    match: [person, station]\n")
    .replace("    rows: people\n", "    rows: people\n    label: name\n");
  await bench.page.getByLabel("Open a plan").setInputFiles({ name: "plan.yaml", mimeType: "text/plain", buffer: Buffer.from(plan) });
  await bench.page.getByRole("button", { name: "Use this plan" }).click();
  await bench.page.getByRole("grid").waitFor();
  const { tables } = await hatch(register, { plan, name: "register.json" });
  const hatched = readRows(tables, "postings.csv");
  const [role, since, person] = ["role", "since", "person"].map((title) => hatched[0].indexOf(title));
  // of two people one name would not say which
  const isNamed = (cells: readonly string[], i: number): boolean => i < 12 || cells.includes("Torben Vik");
  const edited = hatched
    .map((cells, i) => (isNamed(cells, i) ? cells : cells.with(person, "")))
    .map((cells, i) => (i === 3 ? cells.with(role, "stoker") : i === 5 ? cells.with(since, "2030-01-01") : cells));
  const own = [
    ...edited.slice(0, 1),
    ...edited.slice(1).toReversed(),
    hatched[0].map((title) => ({ person: "P-001", station: "S-005", role: "cook", since: "2026-01-02" })[title] ?? ""),
  ];
  edit(tables, "postings.csv", () => own.map((cells) => cells.slice(2)));
  const bring = async (): Promise<void> => {
    const buffer = Buffer.from(text(tables.contents.get("postings.csv")!));
    await bench.page.getByTestId("bring-back").setInputFiles({ name: "postings.csv", mimeType: "text/csv", buffer });
    await bench.page.getByRole("button", { name: "See what changes" }).click();
  };
  await bring();
  expect(await bench.counts()).toBe("2changed, 1added, 0removed, 0moved");
  expect((await bench.fold()).toString()).toBe(await folded(tables, register));
  await bench.table("postings");
  expect(await bench.page.locator(".row.changed").count()).toBe(2);
  // the same row twice: both are there, and what is wrong is said
  edit(tables, "postings.csv", () => [...hatched, hatched[4]]);
  await bring();
  expect(await bench.counts()).toBe("0changed, 0added, 0removed, 0moved, 1problem");
  await bench.table("postings");
  expect(await bench.page.locator(".row.changed").count()).toBe(0);
  const only = bench.page.locator(".view select").first();
  await only.selectOption("faulty");
  await expect.poll(() => bench.page.locator(".grid .row").count()).toBe(2);
  // without its mark it is matched, and the record has a row
  await only.selectOption("all");
  await bench.goTo(hatched.length + 1, 0);
  await bench.page.keyboard.press("Delete");
  await bench.cell(hatched.length + 1, 0, "");
  expect(await bench.counts()).toContain("1problem");
});

/** Plans of the demo, with their files. */
const PLANNED: [plan: string, ...files: string[]][] = [
  ["dues-plan.yaml", "dues.xml", "dues.xsd"],
  ["lamps-plan.yaml", "lamps.txt"],
  ["stocks-plan.yaml", "stocks.edi"],
  ["wages-plan.yaml", "wages.dat"],
  ["watches-plan.yaml", "watches.json"],
  ["rounds-plan.yaml", "rounds.csv"],
];
const demoFile = async (name: string): Promise<[string, Uint8Array]> => [name, new Uint8Array(await readFile(new URL(name, demo)))];
long.each(PLANNED)("a plan with its files: %s", async (planFile, ...files) => {
  const [[, plan], ...given] = await Promise.all([planFile, ...files].map(demoFile));
  await bench.give([planFile, plan], ...given);
  await bench.settled();
  await bench.step("Tables");
  const [name, source] = given[0];
  const { tables } = await hatch(source, { plan: text(plan), name });
  const named = bench.page.getByRole("navigation", { name: "Tables" }).locator("button > span");
  const sheets = async (): Promise<string[]> => (await named.allTextContents()).map((one) => `${one.replace(/,.*/, "")}.csv`).sort();
  await expect.poll(sheets).toEqual(sheetFiles(tables).sort());
  expect((await bench.fold()).equals(source)).toBe(true);
});

test("a plan with several sources: edits of both are folded, each into its file; a schema of the plan's is asked", async () => {
  const [[, plan], ...files] = await Promise.all(["bulletin-plan.yaml", "register.json", "notices.xml"].map(demoFile));
  await bench.give(["plan.yaml", plan], ...files.toReversed());
  await bench.settled();
  expect(await bench.message()).toBe("2 files are open: 4 tables.");
  const source = new Map(files.map(([name, bytes]) => [name.replace(/\..*/, ""), new MemorySource(bytes, name)]));
  const { tables } = await hatch(source, { plan: text(plan) });
  const change = async (file: string, title: string, row: number, value: string): Promise<void> => {
    setCell(tables, file, row, title, value);
    await bench.table(file.replace(".csv", ""));
    await bench.type(row, readRows(tables, file)[0].indexOf(title), value);
  };
  await change("people.csv", "name", 2, "Berit Berg");
  await change("notices.csv", "title", 3, "Fog signal is back");
  expect(await bench.counts()).toContain("2changed");
  await bench.page.getByRole("button", { name: "Lines" }).last().click();
  await expect.poll(() => bench.page.locator(".lens pre").last().textContent()).toContain("Fog signal is back");
  const first = await bench.fold();
  const said = await bench.page.locator(".made .files").textContent();
  expect(said).toContain("people: 1 changed");
  expect(said).toContain("notices: 1 changed");
  const wanted = await fold(tables, { source });
  for (const { name, bytes } of wanted.files) {
    const taken = await bench.taken(() => bench.page.getByRole("button", { name: `Take ${name}` }).click());
    expect(taken.bytes.equals(bytes), name).toBe(true);
  }
  expect(wanted.files.some(({ bytes }) => first.equals(bytes))).toBe(true);

  // loaded again, both are there with their edits
  bench.page.on("dialog", (dialog) => void dialog.accept());
  await bench.page.reload();
  await bench.settled();
  expect(await bench.counts()).toContain("2changed");

  const give = async (...names: string[]): Promise<void> => {
    const given = await Promise.all(names.map(demoFile));
    await bench.page
      .getByTestId("open")
      .setInputFiles(given.map(([name, bytes]) => ({ name, mimeType: "text/plain", buffer: Buffer.from(bytes) })));
  };
  await give("bulletin-plan.yaml", "register.json");
  await expect.poll(() => bench.page.locator(".failure").textContent()).toContain("The plan takes notices.xml for notices");
  await bench.page.getByRole("button", { name: "Close" }).click();
  await give("dues-plan.yaml", "dues.xml");
  await bench.page.getByText("The plan names the schema dues.xsd, which was not opened").waitFor();
  await give("dues-plan.yaml", "dues.xml", "dues.xsd");
  await bench.settled();
  await bench.table("lines");
  await bench.type(2, 3, "9999");
  expect(await bench.counts()).toContain("1problem");
  await bench.page
    .getByText(/schema/)
    .first()
    .waitFor();
});

test("what is worth a look leads to its rows", async () => {
  const { column } = await byLibrary(register, "register.json");
  await bench.demo();
  for (const [remark, table, title, cells] of [
    ["lights range", "lights", "range", ["about 12"]],
    ["stations status", "stations", "status", ["lit", "Lit"]],
    ["stations tower", "stations", "tower", ["(null)"]],
  ] as const) {
    await bench.step("Source");
    await bench.page.getByRole("button", { name: remark, exact: true }).click();
    const at = bench.page.locator(`.grid .row [data-column="${column(`${table}.csv`, title)}"]`);
    await expect.poll(async () => [...new Set(await at.allTextContents())].sort()).toEqual([...new Set(cells)].sort());
  }
});

long("files of each source of a plan are told by patterns of their names", async () => {
  const plan = `hatchfold: 1
sources: { one: { file: "**/log.?.json" }, other: { file: ["west/*.json", east/plain.json] } }
tables:
  a: { from: one, rows: rows, columns: { no: no } }
  b: { from: other, rows: rows, columns: { no: no } }
`;
  const files = ["log.1.json", "log.2.json", "plain.json"].map((name, i) => [name, `{"rows": [{"no": ${i}}]}`] as const);
  await bench.give(["plan.yaml", plan], ...files);
  await bench.settled();
  await bench.table("a");
  expect(await bench.page.locator(".grid .row").count()).toBe(2);
  await bench.table("b");
  expect(await bench.page.locator(".grid .row").count()).toBe(1);
  expect((await bench.fold()).toString()).toBe(files[0][1]);
});

test("a letter that is made of several strokes begins a cell", async () => {
  await bench.demo();
  await bench.table("people");
  await bench.goTo(3, 3);
  await bench.page.evaluate(() =>
    document.querySelector(".grid")!.dispatchEvent(new KeyboardEvent("keydown", { key: "Dead", bubbles: true, cancelable: true })),
  );
  await bench.page.keyboard.insertText("Á");
  await bench.page.keyboard.type("sa");
  await bench.page.keyboard.press("Enter");
  await bench.cell(3, 3, "Ása");
});

test("where the order of rows counts they are moved: by keys, to a number, in a spreadsheet; what comes back is in order", async () => {
  const source = JSON.stringify({ piers: [{ code: "A", lamps: [1, 2, 3, 4, 5, 6].map((no) => ({ no, name: `lamp ${no}` })) }] });
  const order = async (): Promise<string> => {
    const cells = bench.page.locator('.grid .row [role="gridcell"][data-column="3"]');
    return (await cells.allTextContents()).join(" ");
  };
  await bench.give(["lamps.json", source]);
  await bench.settled();
  await bench.step("Plan");
  await (await layoutOf("lamps")).getByLabel("the order of rows counts").check();
  const plan = await usePlan();
  await bench.table("lamps");
  await bench.goTo(6, 3);
  await bench.page.keyboard.press("Shift+ArrowDown");
  await bench.page.keyboard.press("Alt+ArrowUp");
  await expect.poll(order).toBe("1 2 3 5 6 4");
  expect(await bench.message()).toBe("2 rows moved: the first is row 5 now.");
  await bench.page.keyboard.press("Alt+ArrowUp");
  await expect.poll(order).toBe("1 2 5 6 3 4");
  await bench.goTo(5, 3);
  await bench.page.getByRole("button", { name: "Add", exact: true }).click();
  await bench.type(6, 3, "7");
  await bench.goTo(2, 3);
  await bench.page.getByRole("button", { name: "Move", exact: true }).click();
  await bench.page.getByRole("menuitem", { name: "To another place" }).click();
  await bench.page.getByLabel("In front of row").fill("7");
  await bench.page.keyboard.press("Enter");
  await expect.poll(order).toBe("2 5 6 7 1 3 4");
  expect(await bench.counts()).toBe("0changed, 1added, 0removed, 3moved");
  await bench.table("lamps");
  for (const wanted of ["1 2 5 6 7 3 4", "1 2 5 6  3 4", "1 2 5 6 3 4", "1 2 3 5 6 4", "1 2 3 4 5 6"]) {
    await bench.page.getByRole("button", { name: "Undo" }).click();
    await expect.poll(order).toBe(wanted);
  }
  for (let i = 0; i < 5; i++) await bench.page.getByRole("button", { name: "Redo" }).click();
  await expect.poll(order).toBe("2 5 6 7 1 3 4");
  // only what is seen counts: the row goes past the next one that the filter shows
  await bench.page.locator(".view select").first().selectOption("touched");
  await expect.poll(order).toBe("2 5 6 7");
  await bench.goTo(5, 3);
  await bench.page.keyboard.press("Alt+ArrowUp");
  await expect.poll(order).toBe("2 5 7 6");
  await bench.page.getByRole("button", { name: "Undo" }).click();
  await bench.page.getByRole("button", { name: "Show all" }).click();
  await expect.poll(order).toBe("2 5 6 7 1 3 4");

  // through a spreadsheet: sorted otherwise, a row put in between, one left out
  await bench.page.getByRole("button", { name: "To a spreadsheet" }).click();
  const { name, bytes } = await bench.taken(() => bench.page.getByRole("menuitem", { name: "A workbook" }).click());
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(Uint8Array.from(bytes).buffer);
  const sheet = book.getWorksheet("lamps")!;
  const rows = Array.from({ length: 7 }, (_, i) => Array.from({ length: 5 }, (__, at) => sheet.getRow(i + 2).getCell(at + 1).text));
  const [two, five, six, seven, one, three] = rows;
  const made = [six, five.with(4, "the fifth"), ["", "", six[2], "8", ""], two, seven, one, three];
  made.forEach((cells, i) => (sheet.getRow(i + 2).values = cells));
  const edited = Buffer.from(await book.xlsx.writeBuffer());
  await bench.page.getByTestId("bring-back").setInputFiles({ name, mimeType: "application/zip", buffer: edited });
  await bench.page.getByRole("button", { name: "See what changes" }).click();
  const wanted = await fold(new Workbook(new Uint8Array(edited)), { source, plan, name: "lamps.json" });
  expect((await bench.fold()).toString()).toBe(text(wanted.bytes));
  await bench.table("lamps");
  await expect.poll(order).toBe("6 5 8 2 7 1 3 4");
  await bench.page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(order).toBe("2 5 6 7 1 3 4");
});

test("a workbook is written and read in a browser", async () => {
  const source = '{"stations": [{"code": "007", "height": 12.50}]}';
  const hatched = await bench.page.evaluate<number[]>(`import("/library/hatch-fold.js").then(async ({ hatch, Workbook }) => {
    const into = new Workbook();
    await hatch(${JSON.stringify(source)}, { into });
    return [...into.bytes];
  })`);
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(Uint8Array.from(hatched).buffer);
  book.getWorksheet("stations")!.getCell("D2").value = 13;
  const edited = [...new Uint8Array(await book.xlsx.writeBuffer())];
  const again = await bench.page.evaluate(`import("/library/hatch-fold.js").then(async ({ fold, Workbook }) => {
    const { bytes, proved } = await fold(new Workbook(Uint8Array.from(${JSON.stringify(edited)})), { source: ${JSON.stringify(source)} });
    return [new TextDecoder().decode(bytes), proved];
  })`);
  expect(again).toEqual([source.replace("12.50", "13.00"), true]);
});
