/** The page in a real browser: what is downloaded is what the library gives for the same edits. */
import { readFile } from "node:fs/promises";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { extname, join } from "node:path";
import ExcelJS from "exceljs";
import { chromium, type Browser, type Page } from "playwright-core";
import { build } from "rolldown";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { fold, hatch } from "hatch-fold";
import { findChromium } from "./support/chromium.mjs";
import { setCell, text } from "./support/sheets.js";

const root = new URL("../examples/workbench/dist/", import.meta.url).pathname;
const types: Record<string, string> = { ".html": "text/html", ".js": "text/javascript", ".css": "text/css", ".json": "application/json" };

let server: Server;
let browser: Browser;
let page: Page;
const errors: string[] = [];

/** The library as an application loads it: name of the file to its text. */
const library = new Map<string, string>();

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
  server = createServer((request, response) => {
    const code = library.get(request.url ?? "");
    if (code !== undefined) {
      response.writeHead(200, { "content-type": "text/javascript" }).end(code);
      return;
    }
    const path = join(root, request.url === "/" ? "index.html" : (request.url ?? ""));
    readFile(path).then(
      (content) => response.writeHead(200, { "content-type": types[extname(path)] ?? "application/octet-stream" }).end(content),
      () => response.writeHead(404).end(),
    );
  });
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  const executablePath = findChromium();
  if (executablePath === null) throw new Error("no Chromium: run node scripts/ensure-chromium.mjs");
  const args = [
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ];
  browser = await chromium.launch({ executablePath, args });
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on("pageerror", (error) => errors.push(error.message));
  await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
});

afterAll(async () => {
  await browser?.close();
  server?.close();
});

async function editCell(row: number, title: string, value: string): Promise<void> {
  // columns out of view are not in the page
  const column = await page.getByRole("columnheader", { name: title, exact: true }).getAttribute("aria-colindex");
  const cell = page.locator(`.grid [role=row][aria-rowindex="${row}"] [role=gridcell][aria-colindex="${column}"]`);
  await cell.dblclick();
  await page.keyboard.press("ControlOrMeta+A");
  await page.keyboard.type(value);
  await page.keyboard.press("Enter");
}

async function download(): Promise<string> {
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "Download folded" }).click()]);
  return readFile(await file.path(), "utf8");
}

describe("workbench", () => {
  const counts = () => page.getByTestId("counts");

  test("the demo, unedited, is downloaded byte for byte", async () => {
    await page.getByRole("button", { name: "Open the demo" }).click();
    await counts().waitFor();
    expect(await counts().textContent()).toBe("0 changed, 0 added, 0 removed, 0 moved");
    expect(await download()).toBe(await readFile(new URL("../demo/register.json", import.meta.url), "utf8"));
  });

  test("an edited cell is shown as a change, and the download is what the library folds", async () => {
    await page.getByRole("navigation").getByRole("button", { name: "stations" }).click();
    await editCell(3, "name", 'Gråstein, "west"');
    await expect.poll(() => counts().textContent()).toContain("1 changed");
    expect(await page.getByRole("complementary").textContent()).toContain("GråsteinGråstein".slice(0, 8));
    const source = await readFile(new URL("../demo/register.json", import.meta.url), "utf8");
    const { tables } = await hatch(source, { name: "register.json" });
    setCell(tables, "stations.csv", 3, "name", 'Gråstein, "west"');
    expect(await download()).toBe(text((await fold(tables, { source })).bytes));
  });

  test("an edit that nobody sees is pointed out", async () => {
    await editCell(4, "status", "LIT");
    const notes = page.getByRole("list", { name: "Notes" });
    await expect.poll(() => notes.textContent()).toContain('an edit of "status" changes nothing but spaces, case');
    await editCell(4, "status", "lit");
    await expect.poll(() => notes.count()).toBe(0);
  });

  test("a value that is not allowed is a problem, and there is nothing to download", async () => {
    await editCell(3, "tower/height", "tall");
    const button = page.getByRole("button", { name: "Download folded file" });
    await expect.poll(() => button.isDisabled()).toBe(true);
    expect(await page.getByRole("complementary").textContent()).toContain('"tower/height" must be a number');
    await editCell(3, "tower/height", "31.00");
    await expect.poll(() => button.isDisabled()).toBe(false);
  });

  test.each([
    ["notices.xml", "notice", 2, "title", 'Tårnholm "main" & rear'],
    ["orders.txt", "TSK", 3, "field 2", "Paint, white"],
    ["lights.csv", "lights", 4, "character", "Q; W"],
  ])("%s: the page folds what the library folds", async (name, table, row, title, value) => {
    const source = await readFile(new URL(`../demo/${name}`, import.meta.url));
    await page.setInputFiles("input[type=file]", { name, mimeType: "application/octet-stream", buffer: source });
    await expect.poll(() => page.locator(".name").textContent()).toBe(name);
    await expect.poll(() => counts().textContent()).toBe("0 changed, 0 added, 0 removed, 0 moved");
    await page.getByRole("navigation").getByRole("button", { name: table, exact: false }).first().click();
    await editCell(row, title, value);
    await expect.poll(() => counts().textContent()).toContain("1 changed");
    const { tables } = await hatch(new Uint8Array(source), { name });
    setCell(tables, `${table}.csv`, row, title, value);
    expect(await download()).toBe(text((await fold(tables, { source: new Uint8Array(source) })).bytes));
  });

  test("several files: one set of tables, and only the file that changed is taken back", async () => {
    const names = ["east.json", "north.json", "south.json"];
    const files = await Promise.all(names.map((name) => readFile(new URL(`../demo/buoys/${name}`, import.meta.url))));
    await page.setInputFiles(
      "input[type=file]",
      files.map((buffer, i) => ({ name: names[i], mimeType: "application/json", buffer })),
    );
    await expect.poll(() => page.locator(".name").textContent()).toBe("3 files");
    await page.getByRole("navigation").getByRole("button", { name: "buoys", exact: false }).first().click();
    await editCell(6, "chain", "33.00");
    await expect.poll(() => counts().textContent()).toContain("1 changed");
    expect(await download()).toBe(files[1].toString().replace("31.50", "33.00"));
  });

  test("a broken file is named, not shown as a stack", async () => {
    await page.setInputFiles("input[type=file]", {
      name: "broken.json",
      mimeType: "application/json",
      buffer: Buffer.from('{\n  "a": [1, 2\n}'),
    });
    await expect.poll(() => page.getByRole("alert").textContent()).toBe('broken.json:3:1: found "}" after an item. Expected a comma or ].');
    expect(errors).toEqual([]);
  });
});

test("a workbook is written and read in a browser", async () => {
  const source = '{"stations": [{"code": "007", "height": 12.50}]}';
  const hatched = await page.evaluate<number[]>(`import("/library/hatch-fold.js").then(async ({ hatch, Workbook }) => {
    const into = new Workbook();
    await hatch(${JSON.stringify(source)}, { into });
    return [...into.bytes];
  })`);
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(Uint8Array.from(hatched).buffer);
  book.getWorksheet("stations")!.getCell("D2").value = 13;
  const edited = [...new Uint8Array(await book.xlsx.writeBuffer())];
  const folded = await page.evaluate(`import("/library/hatch-fold.js").then(async ({ fold, Workbook }) => {
    const { bytes, proved } = await fold(new Workbook(Uint8Array.from(${JSON.stringify(edited)})), { source: ${JSON.stringify(source)} });
    return [new TextDecoder().decode(bytes), proved];
  })`);
  expect(folded).toEqual([source.replace("12.50", "13.00"), true]);
});
