/** What reaches a terminal, a sheet or a report from names and values that somebody chose to do harm. */
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import fc from "fast-check";
import { SaxesParser } from "saxes";
import { beforeEach, describe, expect, test } from "vitest";
import { compare, fold, hatch, survey, svgDiagram, writeReport } from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { readRows, setCell, text } from "./support/sheets.js";

const ESC = "\u001b]0;owned\u0007\u001b[2J";
const HOSTILE = `${ESC}\u009b31m\u202eevil\u2066\u200f`;
/** What may not be printed: all that steers a terminal or turns text round. */

const STEERS = /[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069]/;

describe("a terminal", () => {
  let folder: string;
  beforeEach(() => {
    folder = freshFolder();
  });

  test("shows them as characters, in every verb, and JSON escapes them", async () => {
    const name = `s\u001b[31m\u202e.json`;
    const record = (code: string) => ({ [`code${HOSTILE}`]: code, [`n${HOSTILE}\n=x`]: HOSTILE, o: `${HOSTILE} ` });
    const source = { [`k${HOSTILE}`]: ["a", "b", "c", "d", "e", "f"].map((one) => record(`${one}${HOSTILE}`)) };
    writeFileSync(join(folder, name), JSON.stringify(source));
    const outputs: string[] = [];
    const run = async (...args: string[]): Promise<number> => {
      const { status, out, err } = await inProcess(folder, args);
      outputs.push(out, err);
      expect(out + err).not.toMatch(STEERS);
      return status!;
    };
    expect(await run("survey", name)).toBe(0);
    expect(await run("survey", name, "--json")).toBe(0);
    expect(await run("draft", name, "--json")).toBe(0);
    expect(await run("hatch", name, "-o", "t")).toBe(0);
    const receipt = JSON.parse(readFileSync(join(folder, "t/receipt.json"), "utf8")) as { tables: { file: string }[] };
    const sheet = join(folder, "t", receipt.tables[0].file);
    const text = readFileSync(sheet, "utf8");
    writeFileSync(sheet, text.replace("evil", "EVIL"));
    for (const more of [[], ["--json"], ["--report", "r.html", "--report", "r.md"]]) {
      expect(await run("check", "t", ...more, "--force")).toBe(0);
      expect(await run("compare", "t", ...more, "--force")).toBe(0);
    }
    for (const report of ["r.html", "r.md"]) expect(readFileSync(join(folder, report), "utf8")).not.toMatch(STEERS);
    writeFileSync(sheet, text.replace(/\r\n(\w+),,/, `\r\n$1,${HOSTILE.replaceAll('"', "")},`));
    expect(await run("check", "t")).toBe(1);
    expect(await run("fold", "t", "-o", "out.json", "--partial")).toBe(3);
    expect(await run("hatch", `${HOSTILE}.json`, "-o", "u")).toBe(2);
    expect(await run("hatch", name, "-o", "v", "--where", `${HOSTILE} ==`)).toBe(2);
    expect(await run(`${HOSTILE}`)).toBe(2);
    expect(outputs.join("")).toContain("␛");
    expect(await run("fold", "t", "--in-place", "--partial")).toBe(3);
    expect(await run("undo", name)).toBe(1);
  });
});

describe("a sheet", () => {
  const FORMULAS = ["=1+1", "+A1", "-2+3", "@SUM(A1)", "\t=1", "\r=1", "\n=1", "＝1+1", "＋1", "－1", "＠x", "'=1"];
  /** What some spreadsheet takes for a formula. */
  const RUNS = /^[=+\-@\t\r\n＝＋－＠]/;

  test("holds no cell, title or file name that a spreadsheet would run; all come back", async () => {
    const record = (i: number) => Object.fromEntries(FORMULAS.map((one) => [one, `${one}${i}`]));
    const source = JSON.stringify([record(1), record(2), record(3)]);
    const columns = Object.fromEntries(FORMULAS.map((one) => [one, { at: one }]));
    const plan = JSON.stringify({
      hatchfold: 1,
      sources: { s: { file: "s", format: "json" } },
      tables: { records: { rows: ".", columns } },
    });
    const named = (name: string, body: string): File => new File([body], name);
    for (const input of [source, [named("=cmd.json", source), named("＠b.json", source)]]) {
      const { tables } = await hatch(input, { plan });
      const rows = readRows(tables, "records.csv");
      for (const cell of rows.flat()) expect(cell).not.toMatch(RUNS);
      expect((await compare(tables, { source: input })).counts).toMatchObject({ changed: 0, problems: 0 });
      expect((await compare(tables, { source: input })).notes).toEqual([]);
      setCell(tables, "records.csv", 2, rows[0].at(-1)!, "=now");
      expect((await compare(tables, { source: input })).problems).toEqual([]);
      const folded = await fold(tables, { source: input });
      const now = Array.isArray(input) ? folded.files[0].bytes : folded.bytes;
      expect(text(now)).toBe(source.replace(`"'=1":"'=11"`, `"'=1":"=now"`));
    }
  });

  test("any text comes back from its cell", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.constantFrom("", "'", "''", " "), fc.constantFrom(...FORMULAS, "x", "(", "ﬀ")), { minLength: 1 }),
        async (parts) => {
          const values = parts.map(([before, after]) => before + after);
          const source = JSON.stringify(values.map((value) => ({ value })));
          const { tables } = await hatch(source);
          expect(text((await fold(tables, { source })).bytes)).toBe(source);
          for (const [, , cell] of readRows(tables, "records.csv").slice(1)) expect(/^-?\d+$/.test(cell) || !RUNS.test(cell)).toBe(true);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe("a report", () => {
  test("in Markdown, names and notes are text", async () => {
    const name = "![x](http://evil/?`a`) <img src=x> & a\\b *c* | [d](e)";
    const source = JSON.stringify({
      [name]: [
        { code: "a", [name]: name },
        { code: "b", [name]: "y" },
      ],
    });
    const { tables, receipt } = await hatch(source);
    const [{ file }] = receipt.tables;
    setCell(tables, file, 3, name, `${name}\nz`);
    const compared = await compare(tables, { source });
    const report = await writeReport("markdown", { source: "a`b.json", tables: "t", ...compared });
    const body = report.replace("<!-- made by hatchfold -->", "").replaceAll("<br>", "");
    expect(body).not.toMatch(/[^\\][![\]*]|<|(?<!\\)\|.*<img|&(?!amp;|lt;|gt;)/);
    expect(report).toContain("a\\`b.json");
  });

  test("a diagram is well formed whatever the keys are", async () => {
    const odd = ["\u0000", "\u001b", "\ufffe", "\ud800", "&", "<", '"', "]]>", "\u202e", "--"];
    const source = JSON.stringify({ [odd.join("")]: odd.map((one, i) => ({ [`k${odd.join("")}`]: `${one}${i}`, [one + i]: 1 })) });
    const parser = new SaxesParser({ xmlns: true });
    parser.on("error", (error) => {
      throw error;
    });
    parser.write(svgDiagram(await survey(source))).close();
  });
});

test("fields and records that are called like the columns that every sheet has come back", async () => {
  const sources = [
    '{"fold action":[{"fold mark":[{"q":1},{"q":2}]},{"fold mark":[{"q":3}]}]}',
    '[{"in file":"a","records":[{"fold mark":1}]},{"in file":"b","records":[{"fold mark":2}]}]',
    '[{"k":1,"fold mark":[1,2]},{"k":2,"fold mark":[3]}]',
  ];
  for (const source of sources) {
    const { tables } = await hatch(source);
    expect(text((await fold(tables, { source })).bytes)).toBe(source);
  }
});

test("two files of one name, given by hand, are told apart", async () => {
  const files = ["1", "2"].map((n) => new File([`[{"n": ${n}}]`], "a.json"));
  const { tables } = await hatch(files);
  expect(readRows(tables, "records.csv").map((row) => row[2])).toEqual(["in file", "a.json", "a.json (2)"]);
  setCell(tables, "records.csv", 3, "n", "7");
  const { files: folded } = await fold(tables, { source: files });
  expect(folded.map(({ bytes }) => text(bytes))).toEqual(['[{"n": 1}]', '[{"n": 7}]']);
});

test("a folder of odd names is a set like any other", async () => {
  const folder = freshFolder();
  mkdirSync(join(folder, "set"));
  for (const name of ["=a.json", "@b.json"]) writeFileSync(join(folder, "set", name), '[{"n": 1}]');
  await inProcess(folder, ["hatch", "set", "-o", "t"]);
  const sheet = join(folder, "t/records.csv");
  writeFileSync(sheet, `${readFileSync(sheet, "utf8")},,'@b.json,2\r\n`);
  expect(await inProcess(folder, ["fold", "t", "--in-place"])).toMatchObject({ status: 0 });
  expect(readFileSync(join(folder, "set/@b.json"), "utf8")).toBe('[{"n": 1}, {"n": 2}]');
});
