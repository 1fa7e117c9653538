/** A real spreadsheet program, where it is installed: the short form of `npm run check:office`. */
import { execFileSync, spawnSync } from "node:child_process";
import { fileURLToPath } from "node:url";
import { expect, test } from "vitest";

const isThere = spawnSync(process.env.SOFFICE ?? "soffice", ["--version"]).status === 0;

test.skipIf(!isThere)("tables that went through it: nothing changes that nobody edited, and edits arrive", { timeout: 300_000 }, () => {
  const told = execFileSync(process.execPath, [fileURLToPath(new URL("./office.mjs", import.meta.url)), "--short"], { encoding: "utf8" });
  expect(told).toMatch(/\d+ trips: \d+ as they should be, \d+ refused, 0 with changes that nobody made/);
});
