/**
 * A file operation that fails, and a process that is killed, at every place of a fold in place and of an undo: with one
 * file and with three. Behind each, the files are all old or all new, what was said is true, and both verbs work.
 */
import { spawnSync } from "node:child_process";
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { describe, expect, test } from "vitest";
import { BIN, freshFolder, HOME, inProcess } from "./support/cli.js";
import { death, plan, seen, stop } from "./support/faults.mjs";

const FAULTS = new URL("./support/faults.mjs", import.meta.url);
const old = (i: number) => `{ "stations": [\n  {"code": "S-${i}", "height": 12.50},\n  {"code": "T-${i}", "height": 30.00}\n] }\n`;
const edited = (i: number) => old(i).replace("12.50", "12.75");

type State = "old" | "new" | "mixed";

/** A folder with a source of one or of several files, its tables, and an edit of each file; folded already where `folded` is said. */
async function prepare(files: number, folded: boolean): Promise<{ folder: string; source: string }> {
  const folder = freshFolder(true);
  mkdirSync(join(folder, "r/sub"), { recursive: true });
  const names = namesOf(files);
  for (const [i, name] of names.entries()) writeFileSync(join(folder, name), old(i));
  const source = files === 1 ? names[0] : "r";
  expect((await inProcess(folder, ["hatch", source, "-o", "t"])).status).toBe(0);
  const sheet = join(folder, "t/stations.csv");
  writeFileSync(sheet, readFileSync(sheet, "utf8").replaceAll("12.50", "12.75"));
  if (folded) expect((await inProcess(folder, ["fold", "t", "--in-place"])).status).toBe(0);
  return { folder, source };
}

const namesOf = (files: number): string[] => ["r/a.json", "r/b.json", "r/c.json", "r/sub/d.json", "r/sub/e.json"].slice(0, files);

function stateOf(folder: string, files: number): State {
  const states = namesOf(files).map((name, i) => {
    const text = readFileSync(join(folder, name), "utf8");
    expect([old(i), edited(i)]).toContain(text);
    return text === old(i) ? "old" : "new";
  });
  return new Set(states).size === 1 ? states[0] : "mixed";
}

function expectClean(folder: string): void {
  const names = readdirSync(folder, { recursive: true, encoding: "utf8" });
  expect(names.filter((name) => /\.hatchfold-|pending|lock/.test(name))).toEqual([]);
}

/** A fold, then an undo, whatever was there before; both say what is true. */
async function foldAndUndo(folder: string, source: string, files: number): Promise<void> {
  const again = await inProcess(folder, ["fold", "t", "--in-place"]);
  expect(stateOf(folder, files), again.err).toBe("new");
  expect(again).toMatchObject(
    again.status === 0 ? { out: expect.stringContaining("folded into") } : { err: expect.stringContaining("folded into") },
  );
  const back = await inProcess(folder, ["undo", source]);
  expect(back, back.err).toMatchObject({ status: 0, out: expect.stringContaining("before the fold") });
  expect(stateOf(folder, files)).toBe("old");
  expectClean(folder);
  expect(readdirSync(join(folder, "r/.hatchfold"))).toEqual(["journal.json"]);
}

const CALLS = [
  ["fold", (_: string) => ["fold", "t", "--in-place", "--quiet"], "old"],
  ["undo", (source: string) => ["undo", source], "new"],
] as const;

describe.each([1, 3])("with %i files", (files) => {
  test.each(CALLS)("%s: each operation fails once", async (verb, args, before) => {
    const { folder: fixture, source } = await prepare(files, verb === "undo");
    let failures = 0;
    for (let at = 0; ; at++) {
      const folder = join(freshFolder(true), "w");
      cpSync(fixture, folder, { recursive: true, preserveTimestamps: true });
      // with several files, what only looks is done the same way for each
      plan({ folder, at, kind: "fail", changing: files > 1 });
      const done = await inProcess(folder, args(source));
      const [happened, name] = [seen.length > at, seen[at]];
      stop();
      const where = `operation ${at}, ${name}: ${done.err}`;
      const now = stateOf(folder, files);
      expect(now, where).toBe(done.status === 0 ? (before === "old" ? "new" : "old") : before);
      if (done.status !== 0) {
        failures++;
        expect(done.err, where).toMatch(/^hatchfold: /m);
        expect(done.err, where).not.toMatch(/should not have happened| at .*\.js:/);
      }
      await foldAndUndo(folder, source, files);
      rmSync(folder, { recursive: true });
      if (!happened) break;
    }
    expect(failures).toBeGreaterThan(20);
  });

  test.each(CALLS)("%s: gone at each operation that changes something", async (verb, args) => {
    const { folder: fixture, source } = await prepare(files, verb === "undo");
    const found = new Set<State>();
    for (let at = 0, gone = true; gone; at++) {
      const folder = join(freshFolder(true), "w");
      cpSync(fixture, folder, { recursive: true, preserveTimestamps: true });
      // every seventh in a process of its own, that is really killed
      gone = await (at % 11 === 3 ? killedAt : haltedAt)(folder, at, args(source));
      found.add(await expectWayBack(folder, source, files, at % 2 === 0));
      rmSync(folder, { recursive: true });
    }
    expect([...found].sort()).toEqual(files === 1 ? ["new", "old"] : ["mixed", "new", "old"]);
  });
});

/** Runs a call as far as the operation `at`; says whether it got there. */
async function haltedAt(folder: string, at: number, args: readonly string[]): Promise<boolean> {
  const { pid } = process;
  // the number of a process that is gone when it is asked for later
  Object.defineProperty(process, "pid", { value: spawnSync("true").pid, configurable: true });
  try {
    plan({ folder, at, kind: "halt", changing: true });
    const ended = await Promise.race([inProcess(folder, args), death()]);
    if (ended !== undefined) expect(ended.status, ended.err).toBe(0);
    return ended === undefined;
  } finally {
    process.chdir(HOME);
    stop();
    Object.defineProperty(process, "pid", { value: pid, configurable: true });
  }
}

function killedAt(folder: string, at: number, args: readonly string[]): Promise<boolean> {
  const env = { ...process.env, FAULT_FOLDER: folder, FAULT_AT: String(at), FAULT_KIND: "kill" };
  const { signal, status } = spawnSync(process.execPath, ["--import", pathToFileURL(FAULTS.pathname).href, BIN, ...args], {
    cwd: folder,
    env,
  });
  if (signal !== "SIGKILL") expect(status).toBe(0);
  return Promise.resolve(signal === "SIGKILL");
}

/** Behind a process that is gone: reading verbs change nothing, and `fold` and `undo` settle it, whichever comes first. */
async function expectWayBack(folder: string, source: string, files: number, foldFirst: boolean): Promise<State> {
  const now = stateOf(folder, files);
  if (files === 1) expect(now).not.toBe("mixed");
  const looked = await inProcess(folder, ["survey", source]);
  expect(looked.status).toBe(0);
  expect(stateOf(folder, files)).toBe(now);
  if (now === "mixed") expect(looked.err).toContain("was cut off");
  // nobody is told that somebody else changed the file
  expect((await inProcess(folder, ["compare", "t"])).err).not.toContain("contents have changed");
  if (!foldFirst) {
    // it takes the fold back, or says that there is none: either way the files are the old ones
    const undone = await inProcess(folder, ["undo", source]);
    expect(undone.err).not.toMatch(/should not have happened/);
    expect(stateOf(folder, files), undone.err).toBe("old");
  }
  await foldAndUndo(folder, source, files);
  return now;
}
