/** A process killed at any moment of a fold in place leaves the old file or the new one. */
import { copyFileSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { freshFolder, inProcess, killAround } from "./support/cli.js";

test("SIGKILL at random moments of --in-place", async () => {
  const folder = freshFolder();
  const stations = Array.from({ length: 4000 }, (_, i) => `    {"code": "S-${i}", "name": "Station ${i}", "height": ${i % 90}.50}`);
  const old = `{\n  "stations": [\n${stations.join(",\n")}\n  ]\n}\n`;
  writeFileSync(join(folder, "source.json"), old);
  await inProcess(folder, ["hatch", "source.json", "-o", "t"]);
  const sheet = join(folder, "t", "stations.csv");
  writeFileSync(sheet, readFileSync(sheet, "utf8").replaceAll(",Station 1", ",Tower 1"));
  const edited = old.replaceAll('"Station 1', '"Tower 1');
  copyFileSync(join(folder, "source.json"), join(folder, "keep"));

  await killAround(folder, ["fold", "t", "--in-place", "--quiet"], async () => {
    const now = readFileSync(join(folder, "source.json"), "utf8");
    expect([old, edited]).toContain(now);
    if (now === old) expect((await inProcess(folder, ["fold", "t", "--in-place"])).status).toBe(0);
    expect(readFileSync(join(folder, "source.json"), "utf8")).toBe(edited);
    expect((await inProcess(folder, ["undo", "source.json"])).status).toBe(0);
    expect(readFileSync(join(folder, "source.json"), "utf8")).toBe(old);
    expect(readdirSync(folder).filter((one) => one.includes(".hatchfold-"))).toEqual([]);
    copyFileSync(join(folder, "keep"), join(folder, "source.json"));
    rmSync(join(folder, ".hatchfold"), { recursive: true, force: true });
    return now === old ? "old" : "new";
  });
}, 300_000);
