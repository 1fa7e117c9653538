/** A process killed at any moment of a fold in place leaves the old file or the new one. */
import { spawn } from "node:child_process";
import { copyFileSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { BIN, freshFolder, hatchfold } from "./support/cli.js";

const ROUNDS = 16;

test("SIGKILL at random moments of --in-place", async () => {
  const folder = freshFolder();
  const stations = Array.from({ length: 4000 }, (_, i) => `    {"code": "S-${i}", "name": "Station ${i}", "height": ${i % 90}.50}`);
  const old = `{\n  "stations": [\n${stations.join(",\n")}\n  ]\n}\n`;
  writeFileSync(join(folder, "source.json"), old);
  hatchfold(folder, ["hatch", "source.json", "-o", "t"]);
  const sheet = join(folder, "t", "stations.csv");
  writeFileSync(sheet, readFileSync(sheet, "utf8").replaceAll(",Station 1", ",Tower 1"));
  const edited = old.replaceAll('"Station 1', '"Tower 1');
  copyFileSync(join(folder, "source.json"), join(folder, "keep"));

  const timed = Date.now();
  hatchfold(folder, ["fold", "t", "-o", "whole.json"]);
  const whole = Date.now() - timed;
  const seen = { old: 0, new: 0 };
  for (let round = 0; round < ROUNDS; round++) {
    copyFileSync(join(folder, "keep"), join(folder, "source.json"));
    rmSync(join(folder, ".hatchfold"), { recursive: true, force: true });
    const child = spawn(process.execPath, [BIN, "fold", "t", "--in-place", "--quiet"], { cwd: folder, stdio: "ignore" });
    const ended = new Promise((done) => child.on("exit", done));
    // most of the time goes to starting up; the last part is where files are written
    setTimeout(() => child.kill("SIGKILL"), whole * (0.5 + (0.7 * round) / ROUNDS));
    await ended;
    const now = readFileSync(join(folder, "source.json"), "utf8");
    expect([old, edited]).toContain(now);
    if (now === old) {
      seen.old++;
      expect(hatchfold(folder, ["fold", "t", "--in-place"]).status).toBe(0);
    } else seen.new++;
    expect(readFileSync(join(folder, "source.json"), "utf8")).toBe(edited);
    expect(hatchfold(folder, ["undo", "source.json"]).status).toBe(0);
    expect(readFileSync(join(folder, "source.json"), "utf8")).toBe(old);
    for (const name of readdirSync(folder).filter((one) => one.includes(".hatchfold-"))) rmSync(join(folder, name));
  }
  expect(seen.old).toBeGreaterThan(0);
  expect(seen.new).toBeGreaterThan(0);
}, 300_000);
