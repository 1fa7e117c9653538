/** The command line as people run it: a process in a folder of its own. */
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterEach, expect } from "vitest";
import type { Io, Out } from "../../src/cli/io.js";
import type { main as Main } from "../../src/cli/main.js";

export const BIN = fileURLToPath(new URL("../../dist/cli/bin.js", import.meta.url));
export const DEMO = fileURLToPath(new URL("../../demo/register.json", import.meta.url));

export interface Done {
  readonly status: number | null;
  readonly out: string;
  readonly err: string;
}

export function hatchfold(cwd: string, args: readonly string[], input?: string): Done {
  const done = spawnSync(process.execPath, [BIN, ...args], {
    cwd,
    input,
    encoding: "utf8",
    maxBuffer: 1 << 28,
    env: { ...process.env, NO_COLOR: "1" },
  });
  return { status: done.status, out: done.stdout, err: done.stderr };
}

export const HOME = process.cwd();

/** The same command in this process, for tests that call it hundreds of times. */
export async function inProcess(cwd: string, args: readonly string[]): Promise<Done> {
  const { main } = (await import(new URL("../../dist/cli/main.js", import.meta.url).href)) as { main: typeof Main };
  const kept = { out: [] as Buffer[], err: [] as Buffer[] };
  const sink = (name: "out" | "err"): Out => ({
    write: (text) => void kept[name].push(Buffer.from(text as string)),
    isTTY: false,
    columns: 80,
  });
  process.chdir(cwd);
  try {
    const io: Io = { stdin: (async function* () {})(), stdout: sink("out"), stderr: sink("err"), env: { NO_COLOR: "1" } };
    const status = await main(args, io);
    const text = (name: "out" | "err"): string => Buffer.concat(kept[name]).toString("utf8");
    return { status, out: text("out"), err: text("err") };
  } finally {
    process.chdir(HOME);
  }
}

/**
 * Starts a command again and again and kills it a little later or earlier each time, so that the kills
 * come to lie around the moment when files change; `look` says what it left. Ends when both were seen.
 */
export async function killAround(cwd: string, args: readonly string[], look: () => Promise<"old" | "new">): Promise<void> {
  const seen = { old: 0, new: 0 };
  const least = 5;
  const most = 80;
  let wait = 300;
  for (let round = 0; round < most && (round < least || seen.old === 0 || seen.new === 0); round++) {
    const child = spawn(process.execPath, [BIN, ...args], { cwd, stdio: "ignore" });
    const ended = new Promise((done) => child.on("exit", done));
    const timer = setTimeout(() => child.kill("SIGKILL"), wait);
    await ended;
    clearTimeout(timer);
    const found = await look();
    seen[found]++;
    wait *= found === "old" ? 1.2 : 0.9;
  }
  expect(seen.old).toBeGreaterThan(0);
  expect(seen.new).toBeGreaterThan(0);
}

const folders: string[] = [];
/** `fast`: in memory where there is such a place, for tests that tell the disk thousands of times to take what was written. */
export function freshFolder(fast = false): string {
  const folder = mkdtempSync(join(fast && existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "hatchfold-test-"));
  folders.push(folder);
  return folder;
}
afterEach(() => {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true });
});
