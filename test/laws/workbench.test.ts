/**
 * The workbench compares the rows that were touched, and keeps their order in steps; the library reads whole sheets. For any edits
 * both say the same, and what they fold is the same, byte for byte. The page's own worker is driven in a browser.
 */
import { readdirSync, readFileSync } from "node:fs";
import type { Server } from "node:http";
import { Uint8ArrayReader, Uint8ArrayWriter, ZipReader } from "@zip.js/zip.js";
import fc from "fast-check";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { compare, draft, MemoryTables, type Change, type Problem } from "hatch-fold";
import type { Calls, Command, Edited, Found, Range, TableInfo, Verb } from "../../examples/workbench/src/protocol.js";
import { browse, serve } from "../support/page.js";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { readRows, sheetFiles } from "../support/sheets.js";

const register = readFileSync(new URL("../../demo/register.json", import.meta.url), "utf8");
const assets = new URL("../../examples/workbench/dist/assets/", import.meta.url);

let server: Server;
let browser: Browser;
let page: Page;
let drafted: string;

beforeAll(async () => {
  const served = await serve();
  ({ server } = served);
  browser = await browse();
  page = await browser.newPage();
  await page.goto(served.address);
  const worker = readdirSync(assets).find((file) => /^worker-.*\.js$/.test(file))!;
  await page.evaluate(`(() => {
    const worker = new Worker("/assets/${worker}", { type: "module" });
    const waiting = new Map();
    worker.onmessage = ({ data }) => waiting.get(data.id)?.(data);
    let last = 0;
    globalThis.ask = (verb, ...args) => new Promise((resolve) => {
      waiting.set(++last, resolve);
      worker.postMessage({ id: last, verb, args });
    });
  })()`);
  drafted = (await draft(register, { planFile: "register.json" })).plan;
});
afterAll(async () => {
  await browser?.close();
  server?.close();
});

/** What the worker answers; `null` when it refuses. */
async function ask<V extends Verb>(verb: V, ...args: Parameters<Calls[V]>): Promise<ReturnType<Calls[V]> | null> {
  const { ok, failed } = await page.evaluate<{ ok?: ReturnType<Calls[V]>; failed?: { message: string; code: string } }>(
    `ask(${[verb, ...args].map((arg) => JSON.stringify(arg)).join(", ")})`,
  );
  if (failed !== undefined && failed.code !== "") throw new Error(failed.message);
  return failed === undefined ? (ok as ReturnType<Calls[V]>) : null;
}

async function open(name: string, plan: string): Promise<readonly TableInfo[]> {
  return page.evaluate(
    async ([file, text, said]) => {
      const files = [{ name: file, bytes: new Blob([text]) }];
      const { ask: call } = globalThis as unknown as { readonly ask: (...args: unknown[]) => Promise<{ ok: { tables: TableInfo[] } }> };
      return (await call("open", files, {}, said)).ok.tables;
    },
    [name, register, plan] as const,
  );
}

/** All tables as the page exports them. */
async function exported(): Promise<MemoryTables> {
  const bytes = await page.evaluate<number[]>(
    `ask("exportTables", "csv").then(async ({ ok }) => [...new Uint8Array(await (globalThis.taken = ok).bytes.arrayBuffer())])`,
  );
  const tables = new MemoryTables();
  for (const entry of await new ZipReader(new Uint8ArrayReader(Uint8Array.from(bytes))).getEntries())
    if (!entry.directory) tables.contents.set(entry.filename, await entry.getData(new Uint8ArrayWriter()));
  return tables;
}

const folded = (): Promise<string | null> =>
  page.evaluate<string | null>(`ask("fold").then(({ ok }) => ok === undefined ? null : ok.files[0].bytes.text())`);

/** Plans by what rows are read with. */
const PLANS: readonly (readonly [table: string, words: string])[] = [
  ["", ""],
  ["postings", "match: [person, station]"],
  ["lights", "order: sheet"],
  ["lights", "beneath: true"],
  ["tags", "repeat: true"],
  ["people", "order: sheet"],
  ["lights", "beneath: true\n    order: sheet"],
  ["postings", "cross: { down: person, across: station, cell: role }"],
];
const planOf = ([table, words]: (typeof PLANS)[number]): string => {
  const own = words.startsWith("beneath") ? drafted.replace(/ {6}inspections: inspections.*\n/, "") : drafted;
  return table === "" ? own : own.replace(new RegExp(`(\\n  ${table}:\\n    rows: .*\\n)`), `$1    ${words}\n`);
};

const WORDS = ["", "", "remove", "007", "12.5", "Skarv", " x", "null", "S-003", "P-002", "P-099"];

async function editAtRandom(random: Random, tables: readonly TableInfo[]): Promise<readonly TableInfo[]> {
  const table = random.pick(tables.filter(({ rows }) => rows > 0));
  const { name, columns } = table;
  const top = random.next(table.shown);
  const bottom = Math.min(table.shown - 1, top + random.next(3));
  const left = random.next(columns.length);
  const range: Range = { top, bottom, left, right: Math.min(columns.length - 1, left + random.next(2)) };
  const said = async (): Promise<string> => {
    const from = random.next(table.shown);
    return random.chance(2) ? random.pick(WORDS) : ((await ask("window", name, from, from + 1))?.[0].cells[left] ?? "");
  };
  const put = async (at: Range, how: "typed" | "pasted"): Promise<Command> => ({ kind: "put", range: at, block: [[await said()]], how });
  const commands: (() => Promise<Command>)[] = [
    () => put({ ...range, bottom: top, right: left }, "typed"),
    () => put({ ...range, bottom: top, right: left }, "typed"),
    () => put(range, "pasted"),
    // marks of new rows can be written: most are those of records that have a row
    async () => ({
      kind: "put",
      range: { top, bottom: top, left: 0, right: 0 },
      block: [[(await ask("window", name, 0, 1))![0].cells[0]]],
      how: "typed",
    }),
    async () => ({ kind: "insert", at: top, count: 1 + random.next(2) }),
    async () => ({ kind: "copy rows", from: top, to: bottom }),
    async () => ({ kind: "remove rows", from: top, to: bottom }),
    async () => ({ kind: "fill", range, how: "down" }),
    async () => ({ kind: "move rows", from: top, to: bottom, where: random.pick(["up", "down", 2 + random.next(table.rows)] as const) }),
  ];
  let done: Edited | null;
  if (random.chance(6)) done = await ask(random.pick(["undo", "undo", "redo"]));
  else done = await ask("edit", name, await random.pick(commands)());
  return done?.tables ?? tables;
}

/** Edits, undone and done anew before any of them can have been kept. */
async function inHaste(random: Random, tables: readonly TableInfo[]): Promise<void> {
  const { name, shown } = random.pick(tables.filter(({ rows }) => rows > 0));
  const row = random.next(shown);
  const calls = Array.from({ length: 2 + random.next(5) }, () =>
    random.chance(2) ? ["edit", name, { kind: "remove rows", from: row, to: row }] : [random.pick(["undo", "redo"])],
  );
  await page.evaluate(`Promise.all(${JSON.stringify(calls)}.map((call) => ask(...call))).then(() => null)`);
}

const changesOf = (all: readonly Change[]): string[] =>
  all.map(({ kind, table, row, record, column, old, new: made }) => JSON.stringify([table, row, kind, record, column, old, made])).sort();
const problemsOf = (all: readonly Problem[]): string[] =>
  all.map(({ code, table, row, rows, column }) => JSON.stringify([table, row, rows, code, column])).sort();

async function shownNow(): Promise<{ problems: string[]; changes: string[] }> {
  const all = { table: null, kind: null, text: "" };
  const found = (await ask("take", all, [], true)) as Found;
  const { records } = (await ask("changes", all, 0, 100_000))!;
  return { problems: problemsOf(found.problems), changes: changesOf(records.flatMap(({ changes }) => changes)) };
}

/** What a search finds is what is in the sheets. */
async function searchesFind(random: Random, sheets: MemoryTables): Promise<void> {
  const file = random.pick(sheetFiles(sheets));
  const rows = readRows(sheets, file).slice(1);
  for (let i = 0; i < 4; i++) {
    const cell = random.pick(random.pick(rows).slice(2));
    const from = random.next(cell.length + 1);
    const part = cell.slice(from, from + 1 + random.next(4));
    const [isExact, isWhole] = [random.chance(2), random.chance(3)];
    const text = isWhole && random.chance(2) ? cell : random.chance(2) ? part : part.toUpperCase();
    if (text === "") continue;
    const plain = (one: string): string => (isExact ? one : one.toLowerCase());
    const holds = (one: string): boolean => (isWhole ? plain(one) === plain(text) : plain(one).includes(plain(text)));
    const wanted = rows.flatMap((row) => row.slice(2).filter(holds)).length;
    const found = await ask("search", file.replace(".csv", ""), { text, isExact, isWhole, columns: null }, "");
    expect({ text, isExact, isWhole, total: found?.total }).toEqual({ text, isExact, isWhole, total: wanted });
  }
}

/** Brings back what is exported last; says how many cells were healed. */
const bringBack = (): Promise<number> => page.evaluate<number>(`ask("bringBack", [taken]).then(({ ok }) => ok.healed.length)`);

test("touched rows are compared as whole sheets are, and folded to the same bytes", async () => {
  let turn = 0;
  let foldedAll = 0;
  let broughtAll = 0;
  await law(
    fc.nat(),
    async (seed) => {
      const random = new Random(seed);
      const name = `register ${turn++}.json`;
      const plan = planOf(random.pick(PLANS));
      let tables = await open(name, plan);
      const steps = 1 + random.next(10);
      for (let i = 0; i < steps; i++) tables = await editAtRandom(random, tables);
      if (random.chance(2)) await inHaste(random, tables);
      const shown = await shownNow();
      const sheets = await exported();
      await searchesFind(random, sheets);
      const noHeal = sheetFiles(sheets).flatMap((file) => readRows(sheets, file)[0]);
      const review = await compare(sheets, { source: register, name, plan, noHeal });
      expect(shown).toEqual({ problems: problemsOf(review.problems), changes: changesOf(review.changes) });
      const result = await folded();
      if (review.problems.length > 0) expect(result).toBeNull();
      else {
        expect(result).toBe(new TextDecoder().decode((await review.fold()).bytes));
        foldedAll++;
      }
      // opened again, all edits are there
      if (random.chance(2)) {
        await open(name, plan);
        expect(await shownNow()).toEqual(shown);
      }
      // what is brought back is what was taken along, unless something in it looks like damage; blank rows stay away
      if (sheetFiles(sheets).some((file) => readRows(sheets, file).some((row) => row.every((cell) => cell.trim() === "")))) return;
      await ask("undoAll");
      expect(await shownNow()).toEqual({ problems: [], changes: [] });
      const healed = await bringBack();
      if (healed > 0) return;
      expect(await shownNow()).toEqual(shown);
      broughtAll++;
    },
    RUNS / 2,
    () => foldedAll > 0 && broughtAll > 0,
  );
});
