/** The command line as people run it: a process in a folder of its own. */
import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterEach } from "vitest";

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

const folders: string[] = [];
export function freshFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), "hatchfold-test-"));
  folders.push(folder);
  return folder;
}
afterEach(() => {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true });
});
