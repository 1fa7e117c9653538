/** The command line as a process: statuses, outputs, files. */
import { spawnSync } from "node:child_process";
import {
  chmodSync,
  copyFileSync,
  existsSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import fastJsonPatch from "fast-json-patch";
import { beforeEach, describe, expect, test } from "vitest";
import { BIN, DEMO, freshFolder, hatchfold, inProcess, type Done } from "./support/cli.js";
import { says } from "./support/brief.js";

let folder: string;
const run = (...args: string[]): Promise<Done> => inProcess(folder, args);
const file = (...parts: string[]): string => join(folder, ...parts);
const read = (...parts: string[]): string => readFileSync(file(...parts), "utf8");
const replaceIn = (path: string, from: string, to: string): void => {
  const before = read(path);
  expect(before).toContain(from);
  writeFileSync(file(path), before.replace(from, to));
};

beforeEach(() => {
  folder = freshFolder();
  copyFileSync(DEMO, file("register.json"));
});

describe("from survey to undo on the demo's register", () => {
  test("survey tells kinds, keys, references and oddities", async () => {
    const { status, out } = await run("survey", "register.json");
    expect(status).toBe(0);
    for (const part of [
      "stations   24 records at districts/stations, inside districts",
      "could refer to people (id)",
      'the same but for spaces or case: "lit", "Lit"',
      "mixed types: 3 text, 30 number",
    ]) {
      expect(out).toContain(part);
    }
    const shape = JSON.parse((await run("survey", "register.json", "--json")).out);
    expect(shape.kinds.map((kind: { name: string; count: number }) => [kind.name, kind.count])).toContainEqual(["lights", 33]);
  });

  test("draft, hatch by the plan, edit, compare, fold in place, undo", async () => {
    expect((await run("draft", "register.json", "-o", "plan.yaml")).status).toBe(0);
    expect((await run("hatch", "-p", "plan.yaml", "-o", "t")).status).toBe(0);
    replaceIn("t/stations.csv", "38.00", "39.50");
    const compared = JSON.parse((await run("compare", "t", "--json")).out);
    expect(compared.counts).toEqual({ unchanged: 174, changed: 1, added: 0, removed: 0, moved: 0, healed: 0, problems: 0, warnings: 0 });
    expect(compared.changes).toEqual([
      {
        kind: "changed",
        table: "stations",
        row: 4,
        record: "S-003",
        column: "tower/height",
        old: "38.00",
        new: "39.50",
        path: "/districts/0/stations/2/tower/height",
      },
    ]);
    const before = read("register.json");
    const folded = JSON.parse((await run("fold", "t", "--in-place", "--json")).out);
    expect(folded).toMatchObject({ counts: { changed: 1 }, written: ["register.json"] });
    expect(read("register.json")).toBe(before.replace("38.00", "39.50"));
    const again = await run("fold", "t", "--in-place");
    expect(again).toMatchObject({ status: 1 });
    expect(again.err).toContain("were folded into register.json already");
    expect((await run("undo", "register.json")).status).toBe(0);
    expect(read("register.json")).toBe(before);
    expect(await run("undo", "register.json")).toMatchObject({ status: 1 });
  });

  test("says its version", async () => {
    const { version } = JSON.parse(readFileSync(new URL("../package.json", import.meta.url), "utf8")) as { version: string };
    expect(await run("--version")).toMatchObject({ status: 0, out: `${version}\n` });
    for (const verb of ["survey", "draft", "hatch", "check", "compare", "fold", "undo", "demo"])
      expect((await run(verb, "--help")).out).toMatch(/--color .*\n +--no-color /);
  });

  test("undo refuses when the file was changed after the fold", async () => {
    await run("hatch", "register.json", "-o", "t");
    replaceIn("t/stations.csv", "38.00", "39.50");
    await run("fold", "t", "--in-place");
    replaceIn("register.json", "39.50", "40.00");
    const undone = await run("undo", "t");
    expect(undone).toMatchObject({ status: 1 });
    expect(undone.err).toContain("was changed after the fold");
    expect(read("register.json")).toContain("40.00");
  });

  test("reports: the patch applied by a standard library gives the folded document", async () => {
    await run("hatch", "register.json", "-o", "t");
    replaceIn("t/stations.csv", "38.00", "39.50");
    writeFileSync(file("t/lights.csv"), `${read("t/lights.csv").replace("b2it,,", "b2it,remove,")},,S-001,0099,Q W,W,5,\r\n`);
    const marked = read("t/lights.csv")
      .split("\r\n")
      .find((line) => line.includes(",0002,"))!;
    replaceIn("t/lights.csv", marked, marked.replace(/^(\w+),,/, "$1,remove,"));
    const { status, out } = await run(
      "compare",
      "t",
      "--report",
      "r.html",
      "--report",
      "r.md",
      "--report",
      "r.json",
      "--report",
      "r.patch.json",
    );
    expect(status, out).toBe(0);
    expect((await run("fold", "t", "-o", "out.json")).status).toBe(0);
    const patch = JSON.parse(read("r.patch.json"));
    const patched = fastJsonPatch.applyPatch(JSON.parse(read("register.json")), patch, true).newDocument;
    expect(patched).toEqual(JSON.parse(read("out.json")));
    expect(patch.length).toBeLessThanOrEqual(5);
    expect(read("r.html")).toContain("<del>38.00</del>");
    expect(read("r.md")).toContain("| 4 | S-003 | tower/height | 38.00 | 39.50 |");
    expect(JSON.parse(read("r.json")).counts.added).toBe(1);
  });

  test("--partial folds the good rows and names the rows set aside", async () => {
    await run("hatch", "register.json", "-o", "t");
    replaceIn("t/stations.csv", "38.00", "39.50");
    replaceIn("t/stations.csv", "15.00", "fifteen");
    expect(await run("fold", "t", "-o", "out.json")).toMatchObject({ status: 1 });
    expect(existsSync(file("out.json"))).toBe(false);
    const { status, out } = await run("fold", "t", "-o", "out.json", "--partial", "--json");
    expect(status).toBe(3);
    expect(JSON.parse(out)).toMatchObject({ aside: [{ table: "stations", row: 5 }], counts: { problems: 1, changed: 1 } });
    expect(read("out.json")).toBe(read("register.json").replace("38.00", "39.50"));
  });

  test("one cause in many rows is told once", async () => {
    writeFileSync(file("many.json"), JSON.stringify({ a: Array.from({ length: 30 }, (_, n) => ({ n })) }));
    await run("hatch", "many.json", "-o", "many");
    writeFileSync(file("many/a.csv"), read("many/a.csv").replace(/,(\d+)(\r?\n)/g, ",no$1$2"));
    const { out } = await run("check", "many");
    expect(out).toContain('✗ rows 2, 3, 4, 5, 6, 7, 8, 9 and 22 more, n: no0, no1, no2, …  "n" must be a whole number');
    expect(out).toMatch(/1 problem \(30 rows\) in many\n$/);
    expect((JSON.parse((await run("check", "many", "--json")).out) as { problems: object[] }).problems).toHaveLength(30);
  });

  test("where, tables, columns, sample and blank", async () => {
    await run("hatch", "register.json", "-o", "w", "--where", 'stations: row["tower/height"] != null && row["tower/height"] > 40.0');
    const rows = read("w/stations.csv").trimEnd().split("\r\n");
    expect(rows.length).toBeGreaterThan(2);
    for (const row of rows.slice(1)) expect(Number(row.split(",")[6])).toBeGreaterThan(40);
    await run("hatch", "register.json", "-o", "c", "--columns", "code,people.name");
    expect(read("c/people.csv").split("\r\n")[0]).toBe("\ufefffold mark,fold action,name");
    await run("hatch", "register.json", "-o", "s", "--sample", "2");
    expect(read("s/people.csv").trimEnd().split("\r\n")).toHaveLength(3);
    // a condition on districts holds for what is inside them
    await run("hatch", "register.json", "-o", "i", "--where", 'districts: code == "02"', "--tables", "lights,districts, stations");
    expect(readdirSync(file("i")).sort()).toEqual(["districts.csv", "lights.csv", "receipt.json", "stations.csv"]);
    const inside = read("i/stations.csv").trimEnd().split("\r\n").slice(1);
    expect(inside.length).toBeGreaterThan(2);
    for (const row of inside) expect(row.split(",")[2]).toBe("02");
    await run("hatch", "register.json", "-o", "b", "--blank", "--for", "script");
    expect(read("b/people.csv")).toBe("fold mark,fold action,id,name,since,telephone\r\n");
    for (const tables of ["w", "c", "s", "i", "b"]) {
      expect((await run("fold", tables, "-o", "out.json", "--force")).status).toBe(0);
      expect(read("out.json")).toBe(read("register.json"));
    }
    // a row of the whole hatch brought into the filtered one is recognised
    await run("hatch", "register.json", "-o", "all");
    copyFileSync(file("all/stations.csv"), file("w/stations.csv"));
    const { status, err, out } = await run("fold", "w", "-o", "out.json");
    expect(status, err).toBe(1);
    expect(out).toContain("was not among the rows that were hatched");
  });

  test("standard input and output, and one JSON document", async () => {
    const { out } = hatchfold(folder, ["survey", "-", "--json"], '{"a": [{"b": 1}]}');
    expect(JSON.parse(out).source.name).toBe("standard input");
    await run("hatch", "register.json", "-o", "t");
    replaceIn("t/stations.csv", "38.00", "39.50");
    expect((await run("fold", "t", "-o", "-")).out).toBe(read("register.json").replace("38.00", "39.50"));
    for (const args of [
      ["hatch", "register.json", "-o", "t2", "--json"],
      ["draft", "register.json", "--json"],
      ["check", "t", "--json"],
      ["compare", "t", "--json"],
    ]) {
      const { out } = await run(...args);
      expect(() => JSON.parse(out) as unknown).not.toThrow();
    }
  });

  test("a second hatch does not write over edits", async () => {
    await run("hatch", "register.json", "-o", "t");
    expect((await run("hatch", "register.json", "-o", "t")).status).toBe(0);
    replaceIn("t/stations.csv", "38.00", "39.50");
    const { status, err } = await run("hatch", "register.json", "-o", "t");
    expect(status).toBe(2);
    expect(err).toContain("was edited since it was hatched");
    expect((await run("hatch", "register.json", "-o", "t", "--force")).status).toBe(0);
  });

  test("a new document from a sheet alone; problems first, all at once", async () => {
    mkdirSync(file("sheets"));
    const sheet = "Person;Station\nP-1;S-1\nP-1 ;S-2\n";
    writeFileSync(file("sheets", "list.csv"), sheet);
    writeFileSync(
      file("plan.yaml"),
      `hatchfold: 1
sources: { n: { file: n.json, format: json } }
tables:
  people: { rows: people, key: id, sheet: { file: list.csv, titles: { id: Person } }, columns: { id: id } }
  stations: { rows: stations, key: code, sheet: { file: list.csv, titles: { code: Station } }, columns: { code: code } }
`,
    );
    const fold = (): Promise<Done> => run("fold", "sheets", "--new", "-p", "plan.yaml", "-o", "n.json");
    expect(await fold()).toMatchObject({
      status: 1,
      out: expect.stringContaining('"P-1 " and "P-1" in row 2 are the same but for spaces'),
    });
    const dry = (verb: string): Promise<Done> => run(verb, "sheets", "--new", "-p", "plan.yaml", "--json");
    expect((JSON.parse((await dry("check")).out) as { problems: unknown[] }).problems).toMatchObject([
      { file: "list.csv", row: 3, column: "id" },
    ]);
    expect(existsSync(file("n.json"))).toBe(false);
    writeFileSync(file("sheets", "list.csv"), sheet.replace("P-1 ;", "P-1;"));
    expect(await dry("check")).toMatchObject({ status: 0 });
    expect((JSON.parse((await dry("compare")).out) as { counts: object }).counts).toMatchObject({ added: 3, problems: 0 });
    expect((await fold()).status).toBe(0);
    expect(JSON.parse(read("n.json"))).toEqual({ people: [{ id: "P-1" }], stations: [{ code: "S-1" }, { code: "S-2" }] });
    expect(await run("fold", "sheets", "--new", "-o", "n.json")).toMatchObject({
      status: 2,
      err: expect.stringContaining("--new needs a plan"),
    });
  });

  test("demo runs to its end and leaves the source as it was", async () => {
    const { status, out } = await run("demo");
    expect(status, out).toBe(0);
    expect(readFileSync(file("demo-out", "register.json"))).toEqual(readFileSync(DEMO));
    expect(out).toContain("is as it was before the fold");
  });
});

describe("a plan that says how a file is read, and has no tables yet", () => {
  const LAYOUT = "format: fixed, layout: { records: { r: { fields: { code: 1-3, height: 4-6 } } } }";
  const PLAN = `hatchfold: 1\nsources: { s: { file: s.dat, ${LAYOUT} } }\ntables: {}\n`;

  test("is drawn over the lines by survey, and given tables by draft", async () => {
    writeFileSync(file("s.dat"), "S01 12\nS02  7\n");
    writeFileSync(file("layout.yaml"), PLAN);
    const { out } = await run("survey", "s.dat", "-p", "layout.yaml");
    expect(out).toContain("  |--|--\n  S01 12\n");
    expect(out).toMatch(/height +text +2 of 2/);
    const drafted = await run("draft", "s.dat", "-p", "layout.yaml", "-o", "plan.yaml");
    expect(drafted).toMatchObject({ status: 0, err: "" });
    expect(await run("hatch", "s.dat", "-p", "plan.yaml", "-o", "s")).toMatchObject({ status: 0, err: "" });
    expect(await run("hatch", "s.dat", "-p", "layout.yaml", "-o", "s2")).toMatchObject({ status: 2 });
  });

  test("of several sources that of the file is meant, where it is one", async () => {
    writeFileSync(file("s.dat"), "S01 12\n");
    writeFileSync(file("two.yaml"), PLAN.replace("sources: { ", "sources: { t: { file: t.dat, format: delimited }, "));
    expect((await run("survey", "s.dat", "-p", "two.yaml")).out).toContain("|--|--");
    const { status, err } = await run("survey", "register.json", "-p", "two.yaml");
    expect({ status, err }).toEqual({ status: 2, err: expect.stringContaining("none of them names register.json") as string });
  });
});

describe("when the system refuses, the target is as it was", () => {
  const setUp = async (): Promise<void> => {
    await run("hatch", "register.json", "-o", "t");
    replaceIn("t/stations.csv", "38.00", "39.50");
    writeFileSync(file("out.json"), "precious");
  };
  const shell = (command: string): Done => {
    const done = spawnSync("bash", ["-c", command], { cwd: folder, encoding: "utf8" });
    return { status: done.status, out: done.stdout, err: done.stderr };
  };
  const bin = `"${process.execPath}" "${BIN}"`;

  test.skipIf(process.platform === "win32")("no room for the file", async () => {
    await setUp();
    const source = read("register.json");
    for (const [where, target] of [
      ["-o out.json --force", "out.json"],
      ["--in-place", "register.json"],
    ]) {
      const { status, err } = shell(`ulimit -f 8; ${bin} fold t ${where}`);
      expect(status).toBe(2);
      expect(err).toContain(`${target}: ${says("file-unwritable", { reason: "the file would be too large" })}\n`);
    }
    expect(read("out.json")).toBe("precious");
    expect(read("register.json")).toBe(source);
    expect(readdirSync(folder).filter((name) => name.includes(".hatchfold-"))).toEqual([]);
    const hatched = shell(`ulimit -f 1; ${bin} hatch register.json -o t2`);
    expect(hatched.status).toBe(2);
    expect(existsSync(file("t2")) ? readdirSync(file("t2")) : []).toEqual([]);
  });

  test.skipIf(process.platform === "win32" || process.getuid?.() === 0)("no permission to write", async () => {
    await setUp();
    chmodSync(file("out.json"), 0o444);
    expect((await run("fold", "t", "-o", "out.json")).err).toContain(
      `out.json: ${says("file-unwritable", { reason: "permission denied" })}`,
    );
    expect(read("out.json")).toBe("precious");
  });

  test("a folder that is not there, a part of the path that is a file", async () => {
    await setUp();
    expect((await run("fold", "t", "-o", "no/such/out.json")).err).toContain(
      says("file-unwritable", { reason: "there is no such file or folder" }),
    );
    expect((await run("hatch", "register.json", "-o", "out.json")).err).toContain("out.json: cannot be written");
    expect((await run("fold", "t", "-o", "t")).err).toContain(`t: ${says("file-unwritable", { reason: "it is a folder" })}`);
    expect(read("out.json")).toBe("precious");
  });

  test.skipIf(process.platform === "win32")("a pipe or a device is not replaced by a file", async () => {
    await setUp();
    shell("mkfifo pipe");
    expect((await run("fold", "t", "-o", "pipe")).err).toContain(
      `pipe: ${says("file-unwritable", { reason: "it is a device or a pipe, not a file" })}`,
    );
    expect(lstatSync(file("pipe")).isFIFO()).toBe(true);
  });

  test("the mode of the file is kept, and a link stays a link", async () => {
    await setUp();
    chmodSync(file("register.json"), 0o640);
    symlinkSync("out.json", file("link.json"));
    expect((await run("fold", "t", "-o", "link.json")).status).toBe(2);
    expect((await run("fold", "t", "-o", "link.json", "--force")).status).toBe(0);
    expect(lstatSync(file("link.json")).isSymbolicLink()).toBe(true);
    expect(read("out.json")).toContain("39.50");
    expect((await run("fold", "t", "--in-place")).status).toBe(0);
    expect(statSync(file("register.json")).mode & 0o777).toBe(0o640);
  });
});

describe("what does not belong together is refused", () => {
  const refusals: [string, () => unknown, string[], number, string][] = [
    [
      "another source",
      () => replaceIn("register.json", "Skarvøy", "Skarvøj"),
      ["fold", "t", "-o", "o"],
      1,
      says("source-changed", { file: "register.json", was: "register.json" }),
    ],
    [
      "a source of another length",
      () => writeFileSync(file("register.json"), "{}"),
      ["fold", "t", "-o", "o"],
      1,
      says("source-changed", { file: "register.json", was: "register.json" }),
    ],
    [
      "an edited receipt",
      () => replaceIn("t/receipt.json", '"rows": 24', '"rows": 23'),
      ["check", "t"],
      1,
      says("receipt-edited", { file: "t/receipt.json" }),
    ],
    ["no receipt", () => writeFileSync(file("t/receipt.json"), "]"), ["check", "t"], 1, says("receipt-broken", { file: "t/receipt.json" })],
    [
      "another plan",
      async () => {
        await run("draft", "register.json", "-o", "p.yaml");
        replaceIn("p.yaml", "type: integer", "type: number");
      },
      ["fold", "t", "-o", "o", "-p", "p.yaml"],
      1,
      says("plan-other", {}),
    ],
    [
      "a source that is gone",
      () => writeFileSync(file("t/receipt.json"), read("t/receipt.json")),
      ["check", "t", "--source", "gone.json"],
      1,
      says("source-not-found", { file: "gone.json" }),
    ],
    ["the source as output", () => undefined, ["fold", "t", "-o", "register.json"], 2, says("out-is-source", {})],
    ["neither -o nor --in-place", () => undefined, ["fold", "t"], 2, "it is not clear where the result goes"],
    ["an empty folder as source", () => mkdirSync(file("d")), ["survey", "d"], 2, `d: ${says("set-empty", {})}`],
    ["tables as source", () => undefined, ["survey", "t"], 2, `t: ${says("tables-as-source", {})}`],
    [
      "a missing source",
      () => undefined,
      ["survey", "nothing.json"],
      2,
      `nothing.json: ${says("file-unreadable", { reason: "there is no such file or folder" })}`,
    ],
    ["an unknown option", () => undefined, ["survey", "register.json", "--jsno"], 2, "unknown option '--jsno'"],
    ["an unknown verb", () => undefined, ["hatchh"], 2, "Did you mean hatch?"],
    [
      "a wrong expression",
      () => undefined,
      ["hatch", "register.json", "-o", "x", "--where", "stations: height >"],
      2,
      says("expression", { text: "height >", reason: "Unexpected token: EOF" }),
    ],
    [
      "a pattern that might never end",
      () => undefined,
      ["hatch", "register.json", "-o", "x", "--where", 'stations: name.matches("(a+)+$")'],
      2,
      says("expression-matches", { text: 'name.matches("(a+)+$")' }),
    ],
    [
      "a condition on a column that is not there",
      () => undefined,
      ["hatch", "register.json", "-o", "x", "--where", 'stations: sttaus == "lit"'],
      2,
      `"stations" has no column "sttaus"\n  Perhaps "status" is meant`,
    ],
    [
      "a table that is not there",
      () => undefined,
      ["hatch", "register.json", "-o", "x", "--tables", "peple"],
      2,
      `${says("tables-unknown", { table: "peple", nearest: "people", names: [] })}\n  Perhaps "people" is meant`,
    ],
    [
      "an expression without a table",
      () => undefined,
      ["hatch", "register.json", "-o", "x", "--where", "height > 3.0"],
      2,
      "does not say for which table",
    ],
    [
      "an unknown column",
      () => undefined,
      ["hatch", "register.json", "-o", "x", "--columns", "nmae"],
      2,
      'no column "nmae"\n  Perhaps "name" is meant',
    ],
    ["a report of no kind", () => undefined, ["compare", "t", "--report", "r.doc"], 2, "what kind of report r.doc should be"],
  ];
  test.each(refusals)("%s", async (_, damage, args, status, said) => {
    await run("hatch", "register.json", "-o", "t");
    await damage();
    const done = await run(...args);
    expect(done.err).toContain(said);
    expect(done.status).toBe(status);
    expect(done.err).not.toMatch(/\n\s+at /);
    expect(existsSync(file("o"))).toBe(false);
    expect(readdirSync(folder).filter((name) => name.includes(".hatchfold-"))).toEqual([]);
  });

  test("with --json, too: the error is the one document", async () => {
    for (const args of [["survey", "d"], ["check", "d"], ["hatchh"]]) {
      const { status, out } = await run(...args, "--json");
      expect(status).toBe(2);
      expect(JSON.parse(out).error.message).toMatch(/\w/);
    }
  });
});
