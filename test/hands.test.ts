/** Files and folders that others made, and calls that a tired person makes: nothing but what the call names is touched. */
import { spawn } from "node:child_process";
import {
  appendFileSync,
  chownSync,
  copyFileSync,
  existsSync,
  linkSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { execFileSync } from "node:child_process";
import { beforeEach, describe, expect, test } from "vitest";
import { compare, hatch } from "hatch-fold";
import { BIN, freshFolder, hatchfold, inProcess, type Done } from "./support/cli.js";
import { setCell } from "./support/sheets.js";
import { says } from "./support/brief.js";

const OLD = '{ "stations": [\n  {"code": "S-1", "height": 12.50},\n  {"code": "S-2", "height": 30.00}\n] }\n';
const NEW = OLD.replace("12.50", "12.75");
const isRoot = process.getuid?.() === 0;

let folder: string;
const at = (...parts: string[]): string => join(folder, ...parts);
const read = (...parts: string[]): string => readFileSync(at(...parts), "utf8");
const run = (...args: string[]): Promise<Done> => inProcess(folder, args);

/** All files below the folder, links as what they lead to in words, with their bytes. */
function contents(): Record<string, string> {
  const names = readdirSync(folder, { recursive: true, encoding: "utf8" }).sort();
  return Object.fromEntries(
    names.flatMap((name) => {
      const info = lstatSync(at(name));
      return info.isFile() ? [[name, read(name)]] : info.isSymbolicLink() ? [[name, "link"]] : [];
    }),
  );
}

/** The call is refused with words, and every file is as it was. */
async function expectRefused(args: readonly string[], words: string | RegExp, status: number | null = null): Promise<void> {
  const before = contents();
  const done = await run(...args);
  expect(done.err).toMatch(words);
  expect(done.err).not.toMatch(/should not have happened|\n\s+at /);
  if (status === null) expect([1, 2]).toContain(done.status);
  else expect(done.status).toBe(status);
  expect(contents()).toEqual(before);
}

beforeEach(async () => {
  folder = freshFolder();
  writeFileSync(at("source.json"), OLD);
  mkdirSync(at("other"));
  writeFileSync(at("other/precious.txt"), "do not touch");
  expect((await run("hatch", "source.json", "-o", "t")).status).toBe(0);
});

const edit = (): void => writeFileSync(at("t/stations.csv"), read("t/stations.csv").replace("12.50", "12.75"));

/** A fingerprint as the program writes them, of a file that it folded. */
async function journalOfFold(): Promise<{ files: Record<string, string>[]; time: string; tables: string }[]> {
  edit();
  expect((await run("fold", "t", "--in-place")).status).toBe(0);
  return JSON.parse(read(".hatchfold/journal.json"));
}

describe("what a folder beside the source says", () => {
  const VERBS = [
    ["survey", "source.json"],
    ["draft", "source.json"],
    ["hatch", "source.json", "-o", "t2"],
    ["check", "t"],
    ["compare", "t"],
  ];
  const temporary = ".source.json.hatchfold-0a1b2c3d-99-0123456789ab";
  const record = (file: object): string =>
    JSON.stringify({
      hatchfold: 1,
      verb: "fold",
      time: "2026-01-01T00:00:00.000Z",
      tables: "t",
      files: [
        { file: "source.json", temporary, backup: ".hatchfold/source.json.1", before: "0".repeat(16), after: "1".repeat(16), ...file },
      ],
    });
  const PLANTED: [string, string][] = [
    ["the form of earlier versions", JSON.stringify({ renames: [{ from: "evil", to: "other/precious.txt" }], journal: [] })],
    ["a target outside", record({ file: "../precious.txt", temporary: "../.precious.txt.hatchfold-0a1b2c3d-99-0123456789ab" })],
    ["an absolute target", record({ file: "/etc/passwd" })],
    ["a temporary of any name", record({ temporary: "evil" })],
    ["a temporary elsewhere", record({ temporary: `other/${temporary}` })],
    ["a backup elsewhere", record({ backup: "other/precious.txt" })],
    ["a backup above", record({ backup: ".hatchfold/../other/precious.txt" })],
    ["a word more", record({ extra: 1 })],
    ["no JSON", "{ not json"],
    ["a list", "[]"],
  ];

  test.each(PLANTED)("a record of %s: reading verbs work, fold and undo refuse", async (_, text) => {
    mkdirSync(at(".hatchfold"));
    writeFileSync(at(".hatchfold/pending.json"), text);
    writeFileSync(at("evil"), "evil");
    for (const verb of VERBS) expect((await run(...verb)).status, verb[0]).toBe(0);
    rmSync(at("t2"), { recursive: true });
    edit();
    await expectRefused(["fold", "t", "--in-place"], "was not made by this program", 2);
    await expectRefused(["undo", "source.json"], "was not made by this program", 2);
    expect(read("evil")).toBe("evil");
  });

  test("a record that looks right replaces and deletes nothing whose fingerprint is another", async () => {
    mkdirSync(at(".hatchfold"));
    writeFileSync(at(temporary), "evil");
    writeFileSync(at(".hatchfold/pending.json"), record({}));
    const noted = await run("survey", "source.json");
    expect(noted.err).toContain("was cut off");
    edit();
    expect((await run("fold", "t", "--in-place")).status).toBe(0);
    expect(read("source.json")).toBe(NEW);
    expect(read("other/precious.txt")).toBe("do not touch");
  });

  test.each(["symlink", "fifo", "folder"])("a %s in its place is neither followed nor waited for", async (kind) => {
    mkdirSync(at(".hatchfold"));
    for (const name of ["pending.json", "journal.json"]) {
      if (kind === "symlink") symlinkSync(at("other/precious.txt"), at(".hatchfold", name));
      else if (kind === "fifo") execFileSync("mkfifo", [at(".hatchfold", name)]);
      else mkdirSync(at(".hatchfold", name));
    }
    for (const verb of VERBS) expect((await run(...verb)).status, verb[0]).toBe(0);
    rmSync(at("t2"), { recursive: true });
    edit();
    await expectRefused(["fold", "t", "--in-place"], "not a plain file", 2);
    await expectRefused(["undo", "source.json"], "not a plain file", 2);
  });

  test("records in folders above are not looked at", async () => {
    mkdirSync(at(".hatchfold"));
    writeFileSync(at(".hatchfold/pending.json"), "{ not json");
    mkdirSync(at("sub"));
    renameSync(at("source.json"), at("sub/source.json"));
    edit();
    expect(await run("fold", "t", "--source", "sub/source.json", "--in-place")).toMatchObject({ status: 0, err: "" });
    expect((await run("undo", "sub/source.json")).status).toBe(0);
    expect(read("sub/source.json")).toBe(OLD);
  });

  test("the folder itself is a link, or belongs to another user", async () => {
    edit();
    symlinkSync(at("other"), at(".hatchfold"));
    await expectRefused(["fold", "t", "--in-place"], "it is a link", 2);
    rmSync(at(".hatchfold"));
    if (!isRoot) return;
    mkdirSync(at(".hatchfold"));
    chownSync(at(".hatchfold"), 12345, 12345);
    await expectRefused(["fold", "t", "--in-place"], "belongs to another user", 2);
    await expectRefused(["undo", "source.json"], "belongs to another user", 2);
  });

  test.each<[string, (entry: Record<string, string>) => void]>([
    ["another file", (entry) => (entry.file = "other/precious.txt")],
    ["a file above", (entry) => (entry.file = "../precious.txt")],
    ["a backup elsewhere", (entry) => (entry.backup = "other/precious.txt")],
    ["no such backup", (entry) => (entry.backup = ".hatchfold/none")],
    ["other contents", (entry) => (entry.before = "0".repeat(16))],
  ])("undo with a journal that was edited to name %s", async (_, change) => {
    const journal = await journalOfFold();
    change(journal[0].files[0]);
    writeFileSync(at(".hatchfold/journal.json"), JSON.stringify(journal));
    await expectRefused(["undo", "source.json"], /hatchfold: /);
    expect(read("source.json")).toBe(NEW);
  });

  test("undo of one file does not touch others that a journal names beside it", async () => {
    const journal = await journalOfFold();
    journal[0].files.push({ ...journal[0].files[0], file: "other/precious.txt" });
    writeFileSync(at(".hatchfold/journal.json"), JSON.stringify(journal));
    await expectRefused(["undo", "source.json"], "folded together with 1 other file", 1);
  });
});

describe("files that receipts and plans name", () => {
  /** Writes a receipt that holds together, as an attacker would: the seal is no secret. */
  async function reseal(change: (receipt: { source: { file: string }; tables: { file: string }[] }) => void): Promise<void> {
    const { sealReceipt, printReceipt } = (await import(new URL("../dist/sheets/receipt.js", import.meta.url).href)) as {
      sealReceipt: (receipt: unknown) => Promise<unknown>;
      printReceipt: (receipt: unknown) => string;
    };
    const { seal: _, ...receipt } = JSON.parse(read("t/receipt.json"));
    change(receipt);
    writeFileSync(at("t/receipt.json"), printReceipt(await sealReceipt(receipt)));
  }

  test.each(["../evil.csv", "/tmp/evil.csv", "a/b.csv", "..", "receipt.json", "con.csv", "a\u0000.csv"])("a table in %j", async (file) => {
    await reseal((receipt) => (receipt.tables[0].file = file));
    for (const verb of [
      ["check", "t"],
      ["compare", "t"],
      ["fold", "t", "-o", "out"],
      ["fold", "t", "--in-place", "--renew"],
    ])
      await expectRefused(verb, "is not a receipt (tables → 0 → file", 1);
  });

  test.each(["in-place", "undo"])("a source far from the tables has to be named: %s", async (verb) => {
    const far = freshFolder();
    copyFileSync(at("source.json"), join(far, "source.json"));
    await reseal((receipt) => (receipt.source.file = join(far, "source.json")));
    edit();
    if (verb === "undo") {
      await expectRefused(["undo", "t"], join(far, "source.json"), 2);
      return;
    }
    await expectRefused(["fold", "t", "--in-place"], join(far, "source.json"), 2);
    expect(readFileSync(join(far, "source.json"), "utf8")).toBe(OLD);
    // its contents can be had, as they are those that were hatched
    expect((await run("fold", "t", "-o", "out.json")).status).toBe(0);
    expect((await run("fold", "t", "--in-place", "--source", join(far, "source.json"))).status).toBe(0);
    expect(readFileSync(join(far, "source.json"), "utf8")).toBe(NEW);
    expect(read("source.json")).toBe(OLD);
  });

  test("a receipt that is no receipt", async () => {
    for (const text of ["null", "[]", "7", '{"hatchfold":1}', '{"hatchfold":1,"source":null,"plan":7,"tables":{}}']) {
      writeFileSync(at("t/receipt.json"), text);
      await expectRefused(["compare", "t"], "is not a receipt", 1);
    }
  });

  test("a plan that names a file far away", async () => {
    const far = join(freshFolder(), "far.json");
    writeFileSync(far, OLD);
    const plan = (file: string): string =>
      `hatchfold: 1\nsources: { s: { file: ${JSON.stringify(file)} } }\ntables: { stations: { rows: stations, columns: { code: code } } }\n`;
    writeFileSync(at("plan.yaml"), plan(far));
    await expectRefused(["hatch", "-p", "plan.yaml", "-o", "t3"], far, 2);
    expect((await run("hatch", far, "-p", "plan.yaml", "-o", "t3")).status).toBe(0);
    writeFileSync(at("plan.yaml"), plan("source.json"));
    expect((await run("hatch", "-p", "plan.yaml", "-o", "t4")).status).toBe(0);
  });

  test("tables of odd names get files that every system can hold", async () => {
    const names = ["CON", "nul.", "a.", "..", "a/b", "a\u0000b", "x".repeat(300), "Light", "light"];
    const source = Object.fromEntries(names.map((name, i) => [`k${i}`, [{ n: name }]]));
    writeFileSync(at("odd.json"), JSON.stringify(source));
    const tables = names.map((name, i) => `  ${JSON.stringify(name)}: { rows: k${i}, columns: { n: n } }`).filter((_, i) => i !== 8);
    writeFileSync(at("plan.yaml"), `hatchfold: 1\nsources: { s: { file: odd.json } }\ntables:\n${tables.join("\n")}\n`);
    const done = await run("hatch", "-p", "plan.yaml", "-o", "odd", "--json");
    expect(done.err).toBe("");
    const files = readdirSync(at("odd")).filter((name) => name !== "receipt.json");
    expect(files).toHaveLength(tables.length);
    for (const file of files) {
      expect(file).toMatch(/^[^<>:"/\\|?*\p{Cc}]{1,104}$/u);
      expect(file).not.toMatch(/^(con|nul)\b|[. ]\.csv$|^\./i);
    }
    writeFileSync(at("odd", files[0]), readFileSync(at("odd", files[0]), "utf8").replace("CON", "KON"));
    expect(await run("fold", "odd", "-o", "out.json", "--json")).toMatchObject({ status: 0 });
  });
});

/** Files of the test's folder that this process has not closed, where the system tells. */
function openFiles(): string[] {
  if (!existsSync("/proc/self/fd")) return [];
  return readdirSync("/proc/self/fd").flatMap((fd) => {
    const info = lstatSync(`/proc/self/fd/${fd}`, { throwIfNoEntry: false });
    const to = info?.isSymbolicLink() === true ? readlinkSync(`/proc/self/fd/${fd}`) : "";
    return to.startsWith(folder) ? [to] : [];
  });
}

describe("careless calls", () => {
  const CALLS: [string, string[], string][] = [
    ["hatch beside a sheet of one's own", ["hatch", "source.json", "-o", "mine"], "exists already"],
    ["hatch over the source", ["hatch", "real/stations.csv", "-o", "real"], "one and the same file"],
    ["hatch over the source, forced", ["hatch", "real/stations.csv", "-o", "real", "--force"], "one and the same file"],
    ["hatch over the plan", ["hatch", "source.json", "-p", "mine/stations.csv", "-o", "mine", "--force"], "one and the same file"],
    ["draft over the source", ["draft", "source.json", "-o", "source.json", "--force"], "one and the same file"],
    ["a diagram over the source", ["survey", "drawing.svg", "--diagram", "drawing.svg"], "one and the same file"],
    ["a diagram over a picture", ["survey", "source.json", "--diagram", "drawing.svg"], "exists already"],
    ["a report over the source", ["compare", "t", "--report", "source.json"], "one and the same file"],
    ["a report over the receipt", ["compare", "t", "--report", "t/receipt.json"], "one and the same file"],
    ["a report over notes of one's own", ["compare", "t", "--report", "notes.md"], "exists already"],
    ["a report over the result", ["fold", "t", "-o", "r.json", "--report", "r.json"], "one and the same file"],
    ["a result over the source", ["fold", "t", "-o", "source.json", "--force"], "is the source itself"],
    ["a result over a link to the source", ["fold", "t", "-o", "link.json", "--force"], "is the source itself"],
    ["a result over another name of the source", ["fold", "t", "-o", "twin.json", "--force"], "is the source itself"],
    ["a result over the sheet", ["fold", "t", "-o", "t/stations.csv", "--force"], "one and the same file"],
    ["a result over the plan", ["fold", "t", "-p", "plan.yaml", "-o", "plan.yaml", "--force"], "one and the same file"],
    ["a result over a file that is there", ["fold", "t", "-o", "there.json"], "exists already"],
    ["a result into a folder", ["fold", "t", "-o", "other"], "it is a folder"],
    ["a demo over a folder of one's own", ["demo", "-o", "other"], "not a folder that a demo made"],
  ];
  test.each(CALLS)("%s", async (_, args, words) => {
    mkdirSync(at("mine"));
    mkdirSync(at("real"));
    writeFileSync(
      at("mine/stations.csv"),
      "hatchfold: 1\nsources: {}\ntables: { stations: { rows: stations, columns: { code: code } } }\n",
    );
    writeFileSync(at("real/stations.csv"), "code,height\nS-1,12.50\n");
    copyFileSync(at("real/stations.csv"), at("real/records.csv"));
    if (args[1] === "real/stations.csv") args = args.map((arg) => arg.replace("stations", "records"));
    writeFileSync(at("drawing.svg"), "<svg><g/><g/></svg>");
    writeFileSync(at("notes.md"), "# mine");
    writeFileSync(at("there.json"), "{}");
    writeFileSync(at("plan.yaml"), JSON.parse(read("t/receipt.json")).plan.text);
    symlinkSync("source.json", at("link.json"));
    linkSync(at("source.json"), at("twin.json"));
    edit();
    await expectRefused(args, words, 2);
    expect(openFiles()).toEqual([]);
  });

  test("what the program made itself may be made again", async () => {
    edit();
    for (const verb of [
      ["compare", "t", "--report", "r.html", "--report", "r.md", "--report", "r.json"],
      ["survey", "source.json", "--diagram", "d.svg", "--diagram", "d.mmd"],
    ]) {
      expect(await run(...verb)).toMatchObject({ status: 0, err: "" });
      expect(await run(...verb)).toMatchObject({ status: 0, err: "" });
    }
    expect((await run("hatch", "source.json", "-o", "t")).err).toContain("was edited since it was hatched");
    expect(openFiles()).toEqual([]);
    expect((await run("hatch", "source.json", "-o", "u")).status).toBe(0);
    expect((await run("hatch", "source.json", "-o", "u")).status).toBe(0);
    expect((await run("fold", "t", "-o", "there.json")).status).toBe(0);
    expect((await run("fold", "t", "-o", "there.json", "--force")).status).toBe(0);
  });

  test("a sheet that is a link is read, and never written through", async () => {
    renameSync(at("t/stations.csv"), at("other/stations.csv"));
    symlinkSync("../other/stations.csv", at("t/stations.csv"));
    const sheet = read("other/stations.csv").replace("12.50", "12.75");
    writeFileSync(at("other/stations.csv"), sheet);
    const done = await run("fold", "t", "--in-place", "--renew");
    expect(done).toMatchObject({ status: 2, err: expect.stringContaining("the source was folded, but its tables were not renewed") });
    expect(read("other/stations.csv")).toBe(sheet);
    expect(read("source.json")).toBe(NEW);
    await expectRefused(["hatch", "source.json", "-o", "t", "--force"], "is a link", 2);
  });

  test("a source that is a link is folded where it leads, and undone by either name", async () => {
    mkdirSync(at("data"));
    renameSync(at("source.json"), at("data/source.json"));
    symlinkSync("data/source.json", at("source.json"));
    for (const name of ["source.json", "data/source.json"]) {
      writeFileSync(at("t/stations.csv"), read("t/stations.csv").replace("12.50", "12.75"));
      expect((await run("fold", "t", "--in-place")).status).toBe(0);
      expect(lstatSync(at("source.json")).isSymbolicLink()).toBe(true);
      expect(read("data/source.json")).toBe(NEW);
      expect(readdirSync(at("data/.hatchfold"))).toContain("journal.json");
      expect((await run("undo", name)).status).toBe(0);
      expect(read("data/source.json")).toBe(OLD);
    }
    expect(existsSync(at(".hatchfold"))).toBe(false);
  });

  test("links in a folder: each file once, none outside, no loops", async () => {
    mkdirSync(at("set/sub"), { recursive: true });
    writeFileSync(at("set/a.json"), OLD);
    writeFileSync(at("outside.json"), OLD);
    symlinkSync("a.json", at("set/again.json"));
    symlinkSync("../outside.json", at("set/out.json"));
    symlinkSync("..", at("set/sub/loop"));
    const { out, status } = await run("hatch", "set", "-o", "t5", "--json");
    expect(status).toBe(0);
    const { notes, tables } = JSON.parse(out);
    expect(tables[0].rows).toBe(2);
    expect(notes.join()).toContain("3 links in the folder were not followed");
    // named twice is there once
    expect(JSON.parse((await run("hatch", "set/a.json", "set/again.json", "-o", "t6", "--json")).out).tables[0].rows).toBe(2);
  });
});

describe("others at work", () => {
  const start = (...args: string[]): Promise<Done> =>
    new Promise((resolve) => {
      const child = spawn(process.execPath, [BIN, ...args], { cwd: folder, stdio: ["ignore", "pipe", "pipe"] });
      const done = { status: null as number | null, out: "", err: "" };
      child.stdout.on("data", (text) => (done.out += text));
      child.stderr.on("data", (text) => (done.err += text));
      child.on("close", (status) => resolve({ ...done, status }));
    });

  test("of two folds at the same time one is done and the other refused", async () => {
    await run("hatch", "source.json", "-o", "u");
    edit();
    writeFileSync(at("u/stations.csv"), read("u/stations.csv").replace("30.00", "31.00"));
    for (let round = 0; round < 3; round++) {
      const both = await Promise.all([start("fold", "t", "--in-place"), start("fold", "u", "--in-place")]);
      const done = both.map(({ status }) => status === 0);
      expect(done.filter(Boolean), JSON.stringify(both)).toHaveLength(1);
      expect(read("source.json")).toBe(done[0] ? NEW : OLD.replace("30.00", "31.00"));
      expect((await run("undo", "source.json")).status).toBe(0);
      expect(read("source.json")).toBe(OLD);
    }
  });

  test("a lock is waited for, and taken over when its owner is gone", async () => {
    edit();
    const { HOST } = (await import(new URL("../dist/node/out-file.js", import.meta.url).href)) as { HOST: string };
    const gone = (await import("node:child_process")).spawnSync("true").pid;
    const lock = (pid: number): string => JSON.stringify({ host: HOST, pid, since: "2026-01-01T00:00:00.000Z", token: "0123456789abcdef" });
    mkdirSync(at(".hatchfold"));
    writeFileSync(at(".hatchfold/lock"), lock(gone));
    expect((await run("fold", "t", "--in-place")).status).toBe(0);
    writeFileSync(at(".hatchfold/lock"), lock(process.ppid));
    const waiting = run("undo", "source.json");
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(read("source.json")).toBe(NEW);
    rmSync(at(".hatchfold/lock"));
    expect((await waiting).status).toBe(0);
    expect(read("source.json")).toBe(OLD);
  });

  const node = () => import(new URL("../dist/node/index.js", import.meta.url).href) as Promise<typeof import("../src/node/index.js")>;

  test.each<[string, () => void]>([
    ["written again", () => writeFileSync(at("source.json"), OLD.replace("S-2", "S-3"))],
    ["replaced", () => (writeFileSync(at("new"), OLD.replace("S-2", "S-3")), renameSync(at("new"), at("source.json")))],
    ["added to", () => appendFileSync(at("source.json"), "\n")],
  ])("a source that is %s while it is folded is kept", async (what, save) => {
    edit();
    const { withComparison, foldInto } = await node();
    for (const target of [{ inPlace: true }, { out: at("out.json") }]) {
      writeFileSync(at("source.json"), OLD);
      let saved = "";
      const folding = withComparison(at("t"), {}, async (comparison, path) => {
        save();
        saved = read("source.json");
        return foldInto(comparison, path, at("t"), target);
      });
      // what was opened is still there when another file has taken its name
      if (what === "replaced" && target.inPlace !== true) await folding;
      else await expect(folding).rejects.toMatchObject({ code: "source-meanwhile" });
      expect(read("source.json")).toBe(saved);
      expect(readdirSync(folder).filter((name) => name.includes(".hatchfold-"))).toEqual([]);
      if (existsSync(at("out.json"))) expect(read("out.json")).toBe(NEW);
    }
  });

  test("each backup has a name of its own", async () => {
    for (let i = 0; i < 3; i++) {
      edit();
      expect((await run("fold", "t", "--in-place")).status).toBe(0);
      writeFileSync(at("source.json"), OLD);
    }
    const backups = readdirSync(at(".hatchfold")).filter((name) => name !== "journal.json");
    expect(new Set(backups).size).toBe(3);
    for (const name of backups) expect(read(".hatchfold", name)).toBe(OLD);
  });

  test("owner, group and mode are kept, and what a killed fold left is cleaned up", async () => {
    edit();
    if (isRoot) chownSync(at("source.json"), 1234, 2345);
    const before = statSync(at("source.json"));
    const { HOST } = (await import(new URL("../dist/node/out-file.js", import.meta.url).href)) as { HOST: string };
    const gone = (await import("node:child_process")).spawnSync("true").pid;
    const left = `.source.json.hatchfold-${HOST}-${gone}-0123456789ab`;
    const written = `.source.json.hatchfold-${HOST}-${process.pid}-0123456789ab`;
    for (const name of [left, written]) writeFileSync(at(name), "half");
    expect((await run("fold", "t", "--in-place")).status).toBe(0);
    const { uid, gid, mode } = statSync(at("source.json"));
    expect({ uid, gid, mode }).toEqual({ uid: before.uid, gid: before.gid, mode: before.mode });
    expect([existsSync(at(left)), existsSync(at(written))]).toEqual([false, true]);
  });
});

describe("Monday's sheet with Tuesday's receipt", () => {
  const records = (keyed: boolean): object[] =>
    Array.from({ length: 12 }, (_, i) => ({ ...(keyed ? { code: `S-${i}` } : {}), name: `Station ${i}`, height: i % 4 }));
  const added = { code: "S-99", name: "New", height: 1 };
  const plan = (keyed: boolean): string =>
    `hatchfold: 1\nsources: { s: { file: s.json, format: json } }\ntables: { s: { rows: ., ${keyed ? "key: code, " : ""}columns: { ${keyed ? "code: code, " : ""}name: name, height: height } } }\n`;
  const CASES: [string, boolean, (list: object[]) => object[], string][] = [
    ["a record more at the top", false, (list) => [added, ...list], "sheet-shifted"],
    ["a record more in the middle", false, (list) => [...list.slice(0, 5), added, ...list.slice(5)], "sheet-shifted"],
    ["two records less", false, (list) => list.slice(2), "sheet-shifted"],
    ["a record more at the top, with keys", true, (list) => [added, ...list], "mark-misplaced"],
    ["a record less, with keys", true, (list) => list.slice(1), "mark-misplaced"],
  ];
  test.each(CASES)("%s", async (_, keyed, change, code) => {
    const monday = records(keyed);
    const tuesday = JSON.stringify(change(monday));
    const old = await hatch(JSON.stringify(monday), { plan: plan(keyed) });
    const { tables } = await hatch(tuesday, { plan: plan(keyed) });
    setCell(old.tables, "s.csv", 8, "height", "77");
    tables.contents.set("s.csv", old.tables.contents.get("s.csv")!);
    const { problems } = await compare(tables, { source: tuesday });
    expect(problems.map((problem) => problem.code)).toContain(code);
  });

  const SMALL: [string, number, (list: object[]) => object[]][] = [
    ["one record, and another before it", 1, (list) => [added, ...list]],
    ["two records, and another before them", 2, (list) => [added, ...list]],
    ["two records, and another between them", 2, ([one, two]) => [one, added, two]],
    ["three records, and two before them", 3, (list) => [added, { ...added, name: "Newer" }, ...list]],
    ["three records, the last of which went for one in front", 3, (list) => [added, ...list.slice(0, -1)]],
    ["four records, and another in the middle", 4, (list) => [...list.slice(0, 2), added, ...list.slice(2)]],
  ];
  test.each(SMALL)("without keys: %s", async (_, count, change) => {
    const monday = records(false).slice(0, count);
    const tuesday = JSON.stringify(change(monday));
    const old = await hatch(JSON.stringify(monday), { plan: plan(false) });
    const { tables } = await hatch(tuesday, { plan: plan(false) });
    tables.contents.set("s.csv", old.tables.contents.get("s.csv")!);
    const { problems } = await compare(tables, { source: tuesday });
    expect(problems.map((problem) => problem.code)).toEqual(["sheet-shifted"]);
  });

  test("that differs in values only is listed, and it is told that it was saved before its receipt", async () => {
    edit();
    const notes = (): string[] =>
      (JSON.parse(hatchfold(folder, ["compare", "t", "--json"]).out) as { notes: { code: string }[] }).notes.map(({ code }) => code);
    expect(notes()).toEqual([]);
    const sheet = readdirSync(at("t")).find((file) => file.endsWith(".csv"))!;
    utimesSync(at("t", sheet), 1_000_000, 1_000_000);
    expect(notes()).toEqual(["sheet-older"]);
  });

  test("edits of many rows are not taken for it", async () => {
    const source = JSON.stringify(records(false));
    for (const edit of [
      (sheet: string) => sheet.replaceAll("Station", "Tower"),
      (sheet: string) => sheet.replace(/,2\r/g, ",5\r").replace(/,3\r/g, ",2\r"),
      (sheet: string) =>
        sheet
          .split("\r\n")
          .map((line, i) => (i % 3 === 1 ? line.replace(/,\w*$/, ",1") : line))
          .join("\r\n"),
    ]) {
      const { tables } = await hatch(source, { plan: plan(false) });
      tables.contents.set("s.csv", new TextEncoder().encode(edit(tables.text("s.csv"))));
      const { problems, counts } = await compare(tables, { source });
      expect(problems).toEqual([]);
      expect(counts.changed).toBeGreaterThan(2);
    }
  });
});

describe("what is not a file", () => {
  test("a pipe is a source, a device is none", () => {
    const sh = (command: string): string =>
      execFileSync("bash", ["-c", command], { cwd: folder, encoding: "utf8", env: { ...process.env, NO_COLOR: "1" } });
    expect(sh(`node ${BIN} survey <(cat source.json)`)).toContain("2 records");
    edit();
    expect(sh(`node ${BIN} fold t -o - --source <(cat source.json)`)).toBe(NEW);
    expect(sh(`node ${BIN} fold t --in-place --source <(cat source.json) 2>&1 || true`)).toContain("is a pipe: there is no file");
    expect(hatchfold(folder, ["survey", "/dev/zero"])).toMatchObject({
      status: 2,
      err: expect.stringContaining(says("file-is-device", {})),
    });
  });

  test("a full disk at standard output is told in one sentence", () => {
    if (!existsSync("/dev/full")) return;
    for (const command of ["survey source.json", "fold t -o -", "compare t --json"]) {
      const script = `node ${BIN} ${command} > /dev/full 2> err; echo $?`;
      const status = execFileSync("bash", ["-c", script], { cwd: folder, encoding: "utf8", env: { ...process.env, NO_COLOR: "1" } });
      expect(status.trim(), command).toBe("2");
      expect(read("err")).toBe("hatchfold: standard output cannot be written: the disk is full\n");
    }
  });

  test("a sheet that is a pipe is not waited for", async () => {
    rmSync(at("t/stations.csv"));
    execFileSync("mkfifo", [at("t/stations.csv")]);
    const done = await run("compare", "t");
    expect(done).toMatchObject({ status: 2, err: expect.stringContaining(says("file-is-device", {})) });
  });
});
