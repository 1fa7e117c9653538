/** What holds for the whole house: parts, words, examples. */
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, test } from "vitest";

const src = new URL("../src/", import.meta.url).pathname;

function files(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: "utf8" })
    .filter((name) => name.endsWith(".ts"))
    .map((name) => join(folder, name));
}
const all = files(src).map((file) => ({ file: file.slice(src.length), text: readFileSync(file, "utf8") }));

test("every code that is used has its words, and every code with words is used", () => {
  const words = all.flatMap(({ file, text }) => (file.startsWith("errors/words/") ? [text] : [])).join("\n");
  const said = new Set([...words.matchAll(/^ {2}(?:"([a-z0-9-]+)"|([a-z0-9]+)): \(/gm)].map((match) => match[1] ?? match[2]));
  expect(said.size).toBeGreaterThan(80);
  const elsewhere = all
    .filter(({ file }) => !file.startsWith("errors/words"))
    .map(({ text }) => text)
    .join("\n");
  expect([...said].filter((code) => !elsewhere.includes(`"${code}"`))).toEqual([]);
});

test("the core imports no Node module, no files and no command line", () => {
  const outer = /^(?:node|cli)\//;
  const core = all.filter(({ file }) => !outer.test(file));
  expect(core.length).toBeGreaterThan(30);
  for (const { file, text } of core) {
    for (const [, from] of text.matchAll(/from "([^"]+)"/g)) expect(from, file).not.toMatch(/^node:|\/node\/|\/cli\//);
  }
});

test("one format, one folder: nothing outside names a format's files but the list", () => {
  const folders = readdirSync(join(src, "formats"), { withFileTypes: true }).flatMap((one) => (one.isDirectory() ? [one.name] : []));
  expect(folders.length).toBeGreaterThan(6);
  // `lines` is what formats made of lines share: they alone know it
  const inside = new RegExp(`formats/(?:${folders.join("|")})/`);
  const outside = all.filter(({ file }) => !file.startsWith("formats/"));
  expect(outside.flatMap(({ file, text }) => (inside.test(text) ? [file] : []))).toEqual([]);
});

describe("examples in doc comments run, and say what they say", () => {
  const examples = all.flatMap(({ file, text }) =>
    [...text.matchAll(/@example\n \* ```ts\n([\s\S]*?) \* ```/g)].map((match, i) => ({
      name: `${file} ${i + 1}`,
      code: match[1].replace(/^ \* ?/gm, ""),
    })),
  );
  test("there are some", () => expect(examples.length).toBeGreaterThan(6));
  test.each(examples)("$name", ({ code }) => {
    // `expression; // value` becomes an assertion
    const body = code.replace(
      /^(?!const |import )(.+?); \/\/ (.+)$/gm,
      (_, expression: string, value: string) => `assert.deepEqual(${expression}, ${value});`,
    );
    expect(body).toContain("assert.");
    const folder = mkdtempSync(new URL("./example-", import.meta.url).pathname);
    const file = join(folder, "example.mjs");
    const imports =
      'import assert from "node:assert/strict";\nimport { survey, draft, hatch, check, compare, fold, foldNew, copyTables, readPlan, MemoryTables, RowTables, Workbook, mermaidDiagram, writeReport } from "hatch-fold";\n';
    writeFileSync(file, imports + body);
    try {
      execFileSync(process.execPath, [file], { encoding: "utf8", stdio: "pipe" });
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});

test("the guide's page of layouts shows what the library does", () => {
  const script = new URL("../scripts/write-layouts.mjs", import.meta.url).pathname;
  execFileSync(process.execPath, [script, "--check"], { stdio: "pipe" });
});
