/** The built workbench in a real browser, and the hands of somebody who uses it. */
import { readFile } from "node:fs/promises";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { extname, join } from "node:path";
import { chromium, type Browser, type BrowserContext, type Page } from "playwright-core";
import { expect } from "vitest";
import { findChromium } from "./chromium.mjs";

const root = new URL("../../examples/workbench/dist/", import.meta.url).pathname;
const TYPES: Record<string, string> = {
  ".html": "text/html",
  ".js": "text/javascript",
  ".css": "text/css",
  ".json": "application/json",
  ".wasm": "application/wasm",
};
const ARGS = [
  "--no-sandbox",
  "--disable-gpu",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

/** Serves the built page, and whatever else is given by its address. */
export async function serve(more: ReadonlyMap<string, string> = new Map()): Promise<{ server: Server; address: string }> {
  const server = createServer((request, response) => {
    const url = request.url ?? "";
    const code = more.get(url);
    if (code !== undefined) {
      response.writeHead(200, { "content-type": "text/javascript" }).end(code);
      return;
    }
    const path = join(root, url === "/" ? "index.html" : url);
    readFile(path).then(
      (content) => response.writeHead(200, { "content-type": TYPES[extname(path)] ?? "application/octet-stream" }).end(content),
      () => response.writeHead(404).end(),
    );
  });
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  return { server, address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/` };
}

export async function browse(): Promise<Browser> {
  const executablePath = findChromium();
  if (executablePath === null) throw new Error("no Chromium: run node scripts/ensure-chromium.mjs");
  return chromium.launch({ executablePath, args: ARGS });
}

const AXE = await readFile(new URL("../../node_modules/axe-core/axe.min.js", import.meta.url), "utf8");
interface Violation {
  readonly id: string;
  readonly nodes: readonly { readonly target: readonly string[]; readonly failureSummary: string }[];
}

export interface Look {
  readonly width?: number;
  readonly height?: number;
  readonly dark?: boolean;
}

/** One person's browser: what it keeps is theirs. */
export class Bench {
  readonly errors: string[] = [];

  private constructor(
    readonly page: Page,
    private readonly context: BrowserContext,
  ) {
    page.setDefaultTimeout(60_000);
    page.on("pageerror", (error) => this.errors.push(error.message));
  }

  static async open(browser: Browser, address: string, { width = 1280, height = 800, dark = false }: Look = {}): Promise<Bench> {
    const context = await browser.newContext({
      viewport: { width, height },
      colorScheme: dark ? "dark" : "light",
      permissions: ["clipboard-read", "clipboard-write"],
    });
    const bench = new Bench(await context.newPage(), context);
    await bench.page.goto(address);
    return bench;
  }

  /** Another page of the same person. */
  async second(address: string): Promise<Bench> {
    const other = new Bench(await this.context.newPage(), this.context);
    await other.page.goto(address);
    return other;
  }

  close(): Promise<void> {
    return this.context.close();
  }

  async demo(): Promise<void> {
    await this.page.getByRole("button", { name: "Open the demo" }).click();
    await this.settled();
  }

  async give(...files: readonly (readonly [name: string, content: string | Uint8Array])[]): Promise<void> {
    await this.page
      .locator('input[type=file]:not([data-testid="bring-back"], [data-testid="schema"])')
      .first()
      .setInputFiles(files.map(([name, content]) => ({ name, mimeType: "application/octet-stream", buffer: Buffer.from(content) })));
  }

  /** Nothing is under way any more. */
  async settled(): Promise<void> {
    await expect.poll(() => this.page.getByTestId("name").textContent()).not.toBe("");
    await expect.poll(() => this.page.locator(".working").count()).toBe(0);
  }

  async step(name: string): Promise<void> {
    await this.page.getByRole("navigation", { name: "Steps" }).getByRole("button", { name }).click();
  }

  async table(name: string): Promise<void> {
    await this.step("Tables");
    await this.page
      .getByRole("navigation", { name: "Tables" })
      .getByRole("button", { name: new RegExp(`^${name}\\b`) })
      .click();
    await expect.poll(() => this.page.locator(".grid .row:not(.coming)").count()).toBeGreaterThan(0);
  }

  /** Goes to a cell with the keyboard: rows as the sheet numbers them, columns from 0. */
  async goTo(row: number, column: number): Promise<void> {
    await this.page.getByRole("grid").focus();
    await this.page.keyboard.press("Control+Home");
    const cell = this.page.locator(`#cell-${row - 2}-${column}`);
    // what is in view is clicked, for the sake of time
    const box = (await cell.count()) > 0 ? await cell.boundingBox({ timeout: 1000 }).catch(() => null) : null;
    if (box !== null && box.x + box.width < 1280 && box.y + box.height < 700) {
      await cell.click();
      return;
    }
    for (let i = 2; i < row; i++) await this.page.keyboard.press("ArrowDown");
    for (let i = 0; i < column; i++) await this.page.keyboard.press("ArrowRight");
    await this.page.locator(`#cell-${row - 2}-${column}.focus`).waitFor();
  }

  async type(row: number, column: number, text: string): Promise<void> {
    await this.goTo(row, column);
    await this.page.keyboard.type(text);
    await this.page.keyboard.press("Enter");
    await this.cell(row, column, text);
  }

  /** The cell says this. */
  async cell(row: number, column: number, text: string): Promise<void> {
    await expect.poll(() => this.page.locator(`#cell-${row - 2}-${column}`).textContent()).toBe(text);
  }

  async select(down: number, right: number): Promise<void> {
    for (let i = 0; i < down; i++) await this.page.keyboard.press("Shift+ArrowDown");
    for (let i = 0; i < right; i++) await this.page.keyboard.press("Shift+ArrowRight");
  }

  /** Pastes as a spreadsheet's clipboard does. */
  async paste(text: string): Promise<void> {
    await this.page.evaluate(async (said) => navigator.clipboard.writeText(said), text);
    await this.page.keyboard.press("Control+V");
  }

  async counts(): Promise<string> {
    await this.settled();
    await this.step("Compare");
    await this.page.getByTestId("counts").waitFor();
    return this.page
      .getByTestId("counts")
      .locator("div:not([hidden])")
      .evaluateAll((all) => all.map((one) => one.textContent).join(", "));
  }

  /** What axe finds wrong with the page as it is. */
  async faults(): Promise<string[]> {
    await this.page.evaluate(AXE);
    return this.page.evaluate(async () => {
      const { violations } = await (globalThis as unknown as { axe: { run(): Promise<{ violations: readonly Violation[] }> } }).axe.run();
      return violations.flatMap(({ id, nodes }) =>
        nodes.map(({ target, failureSummary }) => `${id}: ${target.join(" ")}: ${failureSummary}`),
      );
    });
  }

  message(): Promise<string | null> {
    return this.page.getByTestId("message").textContent();
  }

  /** What a click downloads. */
  async taken(click: () => Promise<void>): Promise<{ readonly name: string; readonly bytes: Buffer }> {
    const [file] = await Promise.all([this.page.waitForEvent("download"), click()]);
    return { name: file.suggestedFilename(), bytes: await readFile(await file.path()) };
  }

  /** Folds, and takes the first file of the result. */
  async fold(): Promise<Buffer> {
    await this.settled();
    await this.step("Fold");
    await this.page.getByRole("button", { name: "Fold", exact: true }).last().click();
    await this.page.getByText("Folded and proved").waitFor();
    return (await this.taken(() => this.page.locator(".made .files button.main, .made .files button").first().click())).bytes;
  }
}
