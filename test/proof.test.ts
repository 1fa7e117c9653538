/** What a fold that cannot be proved looks like: fields of a trailer that overlap contradict each other. */
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, ProofError } from "hatch-fold";
import { freshFolder, inProcess } from "./support/cli.js";
import { edit, setCell, text } from "./support/sheets.js";
import { brief } from "./support/brief.js";

const source = "HSkarv \nTS-001\nHPerle \nTS-002\n";
const plan = `hatchfold: 1
sources: { s: { file: s.dat, format: fixed, layout: { records: { s: { tag: { at: 1-1, is: H }, fields: { name: 2-7 } }, t: { tag: { at: 1-1, is: T }, inside: s, closes: true, fields: { code: 2-6, number: 4-6 } } } } } }
tables: { s: { rows: s, columns: { code: t/code, number: { at: t/number, type: text }, name: name } } }
`;
const name = "s.dat";

describe("the library", () => {
  test("refuses, says where, what was wanted and what would have been written, and gives nothing away", async () => {
    const { tables } = await hatch(source, { name, plan });
    setCell(tables, "s.csv", 3, "number", "009");
    const given: Uint8Array[] = [];
    const error: unknown = await fold(tables, { source, name, sink: (bytes) => void given.push(bytes) }).catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(ProofError);
    expect(error).toMatchObject({ status: 1, place: { file: "s.csv" } });
    expect(brief(error as ProofError)).toBe('unproved {"column":"code","row":3,"table":"s","wanted":"S-002","written":"S-009"}');
    expect(given).toEqual([]);
    // of a review, too
    await expect((await compare(tables, { source, name })).fold()).rejects.toMatchObject({ code: "unproved" });
    const { bytes, proved } = await fold(tables, { source, name, unproved: true });
    expect([text(bytes), proved]).toEqual([source.replace("S-002", "S-009"), false]);
  });

  test("records that come alike into several lists are no disorder", async () => {
    const lists = '{"a": [{"k": 1, "l": [{"v": "x"}]}, {"k": 2, "l": [{"v": "x"}]}]}';
    const { tables } = await hatch(lists, {
      plan: "hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { a: { rows: a, key: k, columns: { k: k } }, l: { rows: a/l, inside: a, columns: { v: v } } }\n",
    });
    edit(tables, "l.csv", (rows) => [...rows, ["", "", "1", "same"], ["", "", "2", "other"], ["", "", "2", "same"], ["", "", "1", "x"]]);
    const { bytes, proved } = await fold(tables, { source: lists });
    expect(JSON.parse(text(bytes))).toMatchObject({
      a: [{ l: [{ v: "x" }, { v: "same" }, { v: "x" }] }, { l: [{ v: "x" }, { v: "other" }, { v: "same" }] }],
    });
    expect(proved).toBe(true);
  });

  test("proves what holds, whatever else the plan says", async () => {
    const { tables } = await hatch(source, { name, plan });
    setCell(tables, "s.csv", 3, "name", "Nord");
    expect(await fold(tables, { source, name })).toMatchObject({ proved: true });
  });
});

test("the command line: exit status 1, nothing written; --unproved says that nothing was proved", async () => {
  const folder = freshFolder(true);
  const call = (...args: string[]) => inProcess(folder, args);
  writeFileSync(join(folder, name), source);
  writeFileSync(join(folder, "plan.yaml"), plan);
  expect((await call("hatch", "-p", "plan.yaml", "-o", "t")).status).toBe(0);
  const sheet = join(folder, "t/s.csv");
  writeFileSync(sheet, readFileSync(sheet, "utf8").replace(",002,", ",009,"));
  for (const where of [["--in-place"], ["-o", "new.dat"], ["-o", "-"]]) {
    const { status, out, err } = await call("fold", "t", ...where);
    expect([status, out]).toEqual([1, ""]);
    expect(err).toMatch(/row 3, column "code": wanted "S-002"[^]*fault of the program[^]*--unproved/);
  }
  expect(readFileSync(join(folder, name), "utf8")).toBe(source);
  expect(() => readFileSync(join(folder, "new.dat"))).toThrow("ENOENT");
  const { status, out } = await call("fold", "t", "-o", "new.dat", "--unproved", "--json");
  expect([status, (JSON.parse(out) as { proved: boolean }).proved]).toEqual([0, false]);
  expect((await call("fold", "t", "-o", "other.dat", "--unproved")).out).toContain("not proved");
});
