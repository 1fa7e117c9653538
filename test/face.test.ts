/** The public face: options, progress, stopping, errors that show their place, and what an application has to load. */
import { execFileSync } from "node:child_process";
import { readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { build, type OutputChunk } from "rolldown";
import { describe, expect, test } from "vitest";
import {
  check,
  compare,
  draft,
  fold,
  foldNew,
  hatch,
  MemoryTables,
  ProblemsError,
  readPlan,
  survey,
  type HatchFoldError,
} from "hatch-fold";
import { setCell } from "./support/sheets.js";

const SOURCE = '{"stations": [\n  {"code": "S1", "height": 12.50},\n  {"code": "S2", "height": 3}\n]}';
const caught = (call: Promise<unknown>): Promise<HatchFoldError> =>
  call.then(
    () => expect.fail("no error"),
    (error: unknown) => error as HatchFoldError,
  );

describe("options that are not known", () => {
  const tables = new MemoryTables();
  const CALLS: Record<string, (options: object) => Promise<unknown>> = {
    survey: (options) => survey(SOURCE, options),
    draft: (options) => draft(SOURCE, options),
    hatch: (options) => hatch(SOURCE, options),
    check: (options) => check(tables, { source: SOURCE, ...options }),
    compare: (options) => compare(tables, { source: SOURCE, ...options }),
    fold: (options) => fold(tables, { source: SOURCE, ...options }),
    foldNew: (options) => foldNew(tables, { plan: "", ...options }),
  };
  test.each(Object.entries(CALLS))("%s names the nearest", async (call, run) => {
    const error = await caught(run({ progres: 3 }));
    expect(error).toMatchObject({ code: "option-unknown", facts: { call, option: "progres", nearest: "progress" }, status: 2 });
  });
  test("one that is like none gets them all", async () =>
    expect((await caught(hatch(SOURCE, { zzzzzzz: 1 } as object))).hint).toMatch(/It has .*sample/));
});

test.each(["register.json", "C:\\data\\register.XML", "a/b.csv", "notes.txt", "x.json.gz"])(
  "%s is a file's name, not a text",
  async (name) => {
    expect(await caught(hatch(name))).toMatchObject({ code: "source-is-name", hint: expect.stringContaining("hatch-fold/node") });
    expect(await caught(survey([name, name]))).toMatchObject({ code: "source-is-name" });
  },
);
test("a text that ends like a name and has lines is a text", async () =>
  expect((await survey("file\na.json\nb.json")).kinds).toHaveLength(1));

test("a source is only taken for one of the formats that are given", async () => {
  const lines = "name,light\nSkarv,1\nHolm,2\n";
  expect((await survey(lines, { formats: ["json", "delimited"] })).source.format).toBe("delimited");
  const error = await caught(hatch(lines, { formats: ["blocks", "xml"] }));
  expect(error).toMatchObject({ code: "format-unknown", facts: { formats: ["xml", "blocks"] } });
  expect(await caught(draft(lines, { formats: ["jsn"] }))).toMatchObject({ code: "format-wrong", facts: { nearest: "json" } });
});

describe("errors show the line", () => {
  test.each<[string, () => Promise<unknown>, string]>([
    ["JSON", () => survey('{"a": [\n  {"b": 1 "c": 2}\n]}', { name: "a.json" }), '  {"b": 1 "c": 2}\n          ^'],
    ["XML, wide letters", () => survey("<a>\n<b>灯台 & x</b></a>", { name: "a.xml" }), "<b>灯台 & x</b></a>\n        ^"],
    ["a plan", () => readPlan("hatchfold: 1\nsources: {}\ntabels: {}\n"), "tabels: {}\n^"],
    [
      "a long line",
      () => survey(`{"a": "${"x".repeat(500)}", "b" 1, "c": "${"y".repeat(500)}"}`, { name: "a.json" }),
      `…${"x".repeat(53)}", "b" 1, "c": "${"y".repeat(31)}…\n${" ".repeat(61)}^`,
    ],
  ])("%s", async (_, call, excerpt) => {
    const error = await caught(call());
    expect(error.excerpt).toBe(excerpt);
    expect(error.toString()).toContain(excerpt.replace(/^/gm, "    "));
  });
  test("nothing that steers a terminal gets out", async () => {
    const { excerpt } = await caught(survey('{"a\u001b[2J": x}', { name: "a.json" }));
    expect(excerpt).not.toContain("\u001b");
  });
});

describe("work can be watched and stopped", () => {
  const large = JSON.stringify({ stations: Array.from({ length: 30_000 }, (_, i) => ({ code: `S${i}`, name: `Station ${i}` })) });
  test("each verb tells its phases, from nothing to all of it", async () => {
    const told = new Map<string, number[]>();
    const progress = (phase: string, done: number, size: number): void => {
      told.set(phase, [...(told.get(phase) ?? []), done / size]);
    };
    await survey(large, { progress });
    const { tables } = await hatch(large, { progress });
    setCell(tables, "stations.csv", 2, "name", "Skarv");
    await fold(tables, { source: large, progress });
    expect([...told.keys()]).toEqual(["survey", "hatch", "compare", "prove", "fold"]);
    for (const [phase, parts] of told) {
      expect(parts.at(-1), phase).toBe(1);
      expect(
        parts.every((part) => part >= 0 && part <= 1),
        phase,
      ).toBe(true);
    }
  });
  test.each(["survey", "hatch", "compare", "prove", "fold"])("a signal stops it in the phase %s, with its reason", async (when) => {
    const { tables } = await hatch(large);
    setCell(tables, "stations.csv", 2, "name", "Skarv");
    const stop = new AbortController();
    const progress = (phase: string): void => {
      if (phase === when) stop.abort(new Error("enough"));
    };
    const watch = { progress, signal: stop.signal };
    let written = 0;
    const sink = (piece: Uint8Array): void => void (written += piece.length);
    const calls = [() => survey(large, watch), () => hatch(large, watch), () => fold(tables, { source: large, sink, ...watch })];
    const call = calls[["survey", "hatch"].includes(when) ? ["survey", "hatch"].indexOf(when) : 2];
    await expect(call()).rejects.toThrow("enough");
    expect(written).toBeLessThan(large.length);
  });
});

test("the problems of a refused fold are there with their type", async () => {
  const { tables } = await hatch(SOURCE);
  setCell(tables, "stations.csv", 2, "height", "tall");
  const error = await caught(fold(tables, { source: SOURCE }));
  expect(error).toBeInstanceOf(ProblemsError);
  expect((error as ProblemsError).problems.map(({ code }) => code)).toEqual(["type"]);
});

describe("a review is folded as it was compared", () => {
  const register = {
    people: [
      { id: "P-1", name: "Rut" },
      { id: "P-2", name: "Ada" },
    ],
    posts: [
      { no: 1, who: "P-1" },
      { no: 2, who: "P-2" },
    ],
  };
  const source = JSON.stringify(register, null, 1);
  const plan = `
hatchfold: 1
sources: { r: { file: r.json } }
tables:
  people: { rows: people, key: id, columns: { id: id, name: name } }
  posts: { rows: posts, columns: { no: no, who: { at: who, refers: people } } }
`;
  async function edited(): Promise<MemoryTables> {
    const { tables } = await hatch(source, { plan });
    setCell(tables, "people.csv", 2, "name", "Ruth");
    setCell(tables, "people.csv", 3, "id", "P-9");
    setCell(tables, "posts.csv", 3, "who", "P-9");
    setCell(tables, "posts.csv", 2, "no", "11");
    return tables;
  }
  const folded = (bytes: Uint8Array): typeof register => JSON.parse(new TextDecoder().decode(bytes)) as typeof register;
  /** What came of all edits, but for those that are taken back. */
  const expected = (back: (one: typeof register) => void): typeof register => {
    const all: typeof register = {
      people: [
        { id: "P-1", name: "Ruth" },
        { id: "P-9", name: "Ada" },
      ],
      posts: [
        { no: 11, who: "P-1" },
        { no: 2, who: "P-9" },
      ],
    };
    back(all);
    return all;
  };

  test("all of it: the source is read for the writing alone", async () => {
    const tables = await edited();
    const review = await compare(tables, { source, plan });
    expect(review.changes).toHaveLength(4);
    tables.contents.clear();
    const { bytes, changes } = await review.fold();
    expect(folded(bytes)).toEqual(expected(() => undefined));
    expect(changes).toEqual(review.changes);
  });
  test.each<[what: string, only: (row: { table: string; row: number }) => boolean, back: (one: typeof register) => void]>([
    ["one table", ({ table }) => table === "posts", (all) => ((all.people = register.people), (all.posts[1].who = "P-2"))],
    [
      "without a row that others need",
      ({ table, row }) => `${table} ${row}` !== "people 3",
      (all) => ((all.people[1].id = "P-2"), (all.posts[1].who = "P-2")),
    ],
    [
      "without a row that needs others",
      ({ table, row }) => `${table} ${row}` !== "posts 3",
      (all) => ((all.people[1].id = "P-2"), (all.posts[1].who = "P-2")),
    ],
    ["nothing", () => false, (all) => Object.assign(all, register)],
  ])("only %s", async (_, only, back) => {
    const review = await compare(await edited(), { source, plan });
    const { bytes, unchanged } = await review.fold({ only });
    expect(folded(bytes)).toEqual(expected(back));
    expect(unchanged).toBe(new TextDecoder().decode(bytes) === source);
  });
  test("a sheet that cannot be read stops it, whichever rows are wanted", async () => {
    const tables = await edited();
    tables.contents.set("posts.csv", new TextEncoder().encode("fold mark,fold action,no,who,who\r\n"));
    const review = await compare(tables, { source, plan });
    await expect(review.fold({ only: ({ table }) => table === "people" })).rejects.toBeInstanceOf(ProblemsError);
  });
  test("a problem of a row that is not wanted stops nothing", async () => {
    const tables = await edited();
    setCell(tables, "posts.csv", 2, "who", "P-7");
    const review = await compare(tables, { source, plan });
    await expect(review.fold()).rejects.toBeInstanceOf(ProblemsError);
    await expect(review.fold({ only: ({ table }) => table === "posts" })).rejects.toBeInstanceOf(ProblemsError);
    const { bytes } = await review.fold({ only: ({ table }) => table === "people" });
    expect(folded(bytes).people).toEqual([
      { id: "P-1", name: "Ruth" },
      { id: "P-2", name: "Ada" },
    ]);
  });
});

test("hints name options, not flags", () => {
  const words = ["cells", "plans", "rows", "rules", "sheets", "sources", "writing"].map((name) =>
    readFileSync(new URL(`../src/errors/words/${name}.ts`, import.meta.url), "utf8"),
  );
  expect(words.join("\n")).not.toMatch(/[\s"'`(]--[a-z]/);
});

describe("what an application loads", () => {
  /** Sizes in kB, gzipped, of what is loaded at once and for some modules that are loaded when they are wanted. */
  async function sizeWith(code: string, wanted: readonly string[] = []): Promise<number> {
    const chunks = await (built.get(code) ?? built.set(code, bundle(code)).get(code)!);
    const first = [...chunks.values()].filter(
      ({ isEntry, facadeModuleId }) => isEntry || wanted.some((module) => facadeModuleId?.endsWith(`/dist/${module}`) === true),
    );
    expect(first).toHaveLength(1 + wanted.length);
    const loaded = new Set(first.map(({ fileName }) => fileName));
    for (const name of loaded) for (const one of chunks.get(name)!.imports) loaded.add(one);
    return [...loaded].reduce((sum, name) => sum + gzipSync(chunks.get(name)!.code).length / 1000, 0);
  }
  const built = new Map<string, ReturnType<typeof bundle>>();
  async function bundle(code: string): Promise<Map<string, OutputChunk>> {
    const input = new URL("./.size-entry.mjs", import.meta.url).pathname;
    writeFileSync(input, code);
    try {
      const { output } = await build({ input, platform: "browser", write: false, output: { minify: true }, logLevel: "silent" });
      return new Map(output.flatMap((one) => (one.type === "chunk" ? [[one.fileName, one] as const] : [])));
    } finally {
      rmSync(input);
    }
  }
  const HATCH = 'import { hatch } from "../dist/index.js"; globalThis.hatch = hatch;';
  test("hatching JSON by a plan that was read: at most 90 kB", async () =>
    expect(await sizeWith(HATCH, ["hatch/write-tables.js", "formats/json/dialect.js"])).toBeLessThan(90));
  test.each(["xml", "delimited", "fixed", "tagged", "blocks"])("the format %s adds at most 30 kB", async (format) => {
    const json = ["hatch/write-tables.js", "formats/json/dialect.js"];
    expect((await sizeWith(HATCH, [...json, `formats/${format}/dialect.js`])) - (await sizeWith(HATCH, json))).toBeLessThan(30);
  });
  test("the way there and back of JSON: at most 140 kB, 50 of them at once", async () => {
    const all = 'import { hatch, compare, fold } from "../dist/index.js"; globalThis.all = [hatch, compare, fold];';
    expect(await sizeWith(all)).toBeLessThan(50);
    expect(await sizeWith(all, ["hatch/write-tables.js", "compare/compare.js", "formats/json/dialect.js"])).toBeLessThan(140);
  });
  test.each([
    ["page", /^index-[^.]*\.js$/, 200],
    ["worker", /^worker-.*\.js$/, 150],
  ])("the %s of the workbench, with what it loads at once", (_, name, most) => {
    const folder = new URL("../examples/workbench/dist/assets/", import.meta.url);
    const read = (file: string): string => readFileSync(new URL(file, folder), "utf8");
    const loaded = new Set(readdirSync(folder).filter((file) => name.test(file) && !file.startsWith("index-browser")));
    expect(loaded.size).toBe(1);
    for (const file of loaded) for (const [, from] of read(file).matchAll(/(?:from|import)\s*"\.\/([^"]+\.js)"/g)) loaded.add(from);
    expect([...loaded].reduce((sum, file) => sum + gzipSync(read(file)).length / 1000, 0)).toBeLessThan(most);
  });
});

test("every type that the public ones name is exported", () => {
  const bin = new URL("../node_modules/typedoc/bin/typedoc", import.meta.url).pathname;
  execFileSync(process.execPath, [bin, "--emit", "none", "--readme", "none", "--skipErrorChecking", "--treatWarningsAsErrors"], {
    cwd: new URL("..", import.meta.url).pathname,
    stdio: "pipe",
  });
});
