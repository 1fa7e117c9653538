// The workbench with a large source, in a real browser: what the page's own thread is kept from, and what all of it costs.
import { createServer } from "node:http";
import { closeSync, existsSync, openSync, readFileSync, writeSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { extname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { chromium } from "playwright-core";
import { findChromium } from "../test/support/chromium.mjs";

const here = fileURLToPath(new URL(".", import.meta.url));
const root = join(here, "..", "examples", "workbench", "dist");
const TYPES = { ".html": "text/html", ".js": "text/javascript", ".css": "text/css" };
const ROWS_A_MEGABYTE = 9812.4;

/** A log of lights, a record of some 100 bytes each. */
function generateLog(path, megabytes) {
  const rows = Math.round(megabytes * ROWS_A_MEGABYTE);
  const file = openSync(path, "w");
  let text = '{ "log": [';
  for (let i = 0; i < rows; i++) {
    const day = `${2000 + (i % 26)}-${String(1 + (i % 12)).padStart(2, "0")}-${String(1 + (i % 28)).padStart(2, "0")}`;
    text += `${i === 0 ? "" : ","}\n{"no":"L-${String(i).padStart(7, "0")}","height":${(i % 500) / 10},"state":"${i % 7 === 0 ? "dark" : "lit"}","day":"${day}","by":"Ane Berg"}`;
    if (text.length > 1 << 20) {
      writeSync(file, text);
      text = "";
    }
  }
  writeSync(file, `${text}\n]}\n`);
  closeSync(file);
  return rows;
}

/** Megabytes 100: 981,240 rows. */
export async function measureWorkbench(megabytes = 100) {
  const source = join(here, "..", ".bench", `log-${megabytes}.json`);
  if (!existsSync(source)) generateLog(source, megabytes);
  const executablePath = findChromium();
  if (executablePath === null || !existsSync(root)) {
    console.log("\nthe workbench is not measured: no Chromium, or it is not built (npm run build:examples)");
    return;
  }
  const server = createServer((request, response) => {
    const path = join(root, request.url === "/" ? "index.html" : request.url);
    readFile(path).then(
      (content) => response.writeHead(200, { "content-type": TYPES[extname(path)] ?? "application/octet-stream" }).end(content),
      () => response.writeHead(404).end(),
    );
  });
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const system = await browser.newBrowserCDPSession();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(() => {
    globalThis.longTasks = [];
    new PerformanceObserver((list) => globalThis.longTasks.push(...list.getEntries().map(({ duration }) => Math.round(duration)))).observe({
      type: "longtask",
    });
  });
  await page.goto(`http://127.0.0.1:${server.address().port}/`);
  await page.waitForTimeout(500);

  const renderer = async () => {
    const { processInfo } = await system.send("SystemInfo.getProcessInfo");
    return processInfo.filter(({ type }) => type === "renderer").sort((a, b) => b.cpuTime - a.cpuTime)[0];
  };
  const said = [];
  let [cpu, most, own] = [(await renderer()).cpuTime, 0, 0];
  await page.evaluate(() => (globalThis.longTasks.length = 0));
  const lap = async (what) => {
    const { cpuTime, id } = await renderer();
    const status = existsSync(`/proc/${id}/status`) ? readFileSync(`/proc/${id}/status`, "utf8") : "";
    // the browser's own program is in the memory of each of its processes, and there once
    const [highest, program] = ["VmHWM", "RssFile"].map((part) => Number(new RegExp(`${part}:\\s+(\\d+)`).exec(status)?.[1] ?? 0) / 1000);
    most = Math.max(most, highest);
    own = Math.max(own, highest - program);
    const tasks = await page.evaluate(() => globalThis.longTasks.splice(0));
    said.push([
      what,
      `${(cpuTime - cpu).toFixed(2)} CPU s`,
      `${own.toFixed(0)} MB so far`,
      tasks.length === 0 ? "no task over 50 ms on the page" : `tasks over 50 ms: ${tasks.join(", ")}`,
    ]);
    cpu = (await renderer()).cpuTime;
  };
  const settled = async () => {
    await page.waitForTimeout(250);
    await page.locator(".working").waitFor({ state: "detached", timeout: 120_000 });
  };

  await page.locator("input[type=file]").first().setInputFiles(source);
  await page.locator("header nav button", { hasText: "Tables" }).and(page.locator(":enabled")).waitFor({ timeout: 60_000 });
  await page.locator("header nav button", { hasText: "Tables" }).click();
  await page.locator(".row:not(.coming) .cell").first().waitFor({ timeout: 60_000 });
  await lap("first rows");
  await settled();
  await lap("all of it read and compared");
  const grid = page.getByRole("grid");
  await grid.focus();
  for (let i = 0; i < 40; i++) await page.keyboard.press("PageDown");
  await grid.evaluate(async (element) => {
    for (let i = 1; i <= 60; i++) {
      element.scrollTop = (element.scrollHeight * i) / 60;
      await new Promise((done) => requestAnimationFrame(done));
    }
  });
  await page.waitForTimeout(300);
  await lap("scrolling, 100 screens");
  await page.keyboard.press("Control+Home");
  for (let i = 0; i < 3; i++) await page.keyboard.press("ArrowRight");
  await page.keyboard.type("12.25");
  await page.keyboard.press("Enter");
  await settled();
  await lap("an edit, compared");
  await page.keyboard.press("Control+F");
  await page.getByLabel("Find", { exact: true }).fill("dark");
  await page.locator(".hits li").first().waitFor();
  await lap("a search through all rows");
  await page.keyboard.press("Escape");
  await page
    .getByRole("columnheader", { name: /^state/ })
    .getByRole("button")
    .click();
  await page.getByRole("menuitem", { name: "Sort, first to last" }).click();
  await page.getByText("sorted by state").waitFor({ timeout: 60_000 });
  await lap("all rows sorted");
  const step = (name) => page.locator("header nav button", { hasText: name }).click();
  await step("Compare");
  await page.getByRole("button", { name: "Lines" }).first().click();
  await page.locator(".lens pre").first().waitFor({ timeout: 60_000 });
  await lap("the lines around the change");
  await step("Fold");
  await page.getByRole("button", { name: "Fold", exact: true }).last().click();
  await page.getByText("Folded and proved").waitFor({ timeout: 60_000 });
  await lap("folded and proved");
  // a change in one row of fifty
  await step("Tables");
  await page.keyboard.press("Control+F");
  await page.getByLabel("Find", { exact: true }).fill("12.");
  await page.getByLabel("Replace with").fill("13.");
  await page.getByRole("button", { name: /^Replace \d/ }).click({ timeout: 60_000 });
  await page.getByText(/cells replaced/).waitFor({ timeout: 60_000 });
  await settled();
  await step("Compare");
  await page.getByTestId("taken").waitFor({ timeout: 60_000 });
  const records = /of ([\d,]+) records/.exec(await page.getByTestId("taken").textContent())[1];
  await lap(`${records} rows edited, compared`);
  await page.getByRole("region", { name: "Records with changes" }).evaluate(async (element) => {
    for (let i = 1; i <= 60; i++) {
      element.scrollTop = (element.scrollHeight * i) / 60;
      await new Promise((done) => requestAnimationFrame(done));
    }
  });
  await page.waitForTimeout(300);
  await lap("their changes, scrolled");
  await browser.close();
  server.close();
  console.log(
    `\nthe workbench, ${megabytes} MB (.json), ${Math.round(megabytes * ROWS_A_MEGABYTE).toLocaleString("en")} rows; memory at most ${own.toFixed(0)} MB, and ${(most - own).toFixed(0)} of the browser's program`,
  );
  for (const [what, time, memory, tasks] of said) console.log(`  ${what.padEnd(30)} ${time.padStart(12)}   ${memory}   ${tasks}`);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await measureWorkbench(Number(process.argv[2] ?? 100));
