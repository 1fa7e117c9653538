// Workbooks of 10 columns: written and compared, beside the workbook package's own streams; memory at two sizes.
import { execFileSync } from "node:child_process";
import { closeSync, openSync, rmSync, statSync, writeFileSync, writeSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { join } from "node:path";

const here = fileURLToPath(new URL(".", import.meta.url));
const folder = join(here, "..", ".bench");
const COLUMNS = ["code", "name", "tower", "keeper", "place", "sea", "colour", "sign", "note", "since"];
const PLAN = `hatchfold: 1
sources: { lights: { file: lights.json, format: json } }
tables: { lights: { rows: lights, key: code, columns: { ${COLUMNS.map((name) => `${name}: ${name}`).join(", ")} } } }
`;

function generate(path, rows) {
  const file = openSync(path, "w");
  writeSync(file, '{"lights": [\n');
  for (let i = 0; i < rows; i++) {
    const cells = COLUMNS.map(
      (name, c) => `"${name}": "${c === 0 ? `L-${String(i).padStart(6, "0")}` : `${name} ${(i * 7919 + c) % 9973}`}"`,
    );
    writeSync(file, `  {${cells.join(", ")}}${i < rows - 1 ? "," : ""}\n`);
  }
  writeSync(file, "]}\n");
  closeSync(file);
}

function run(...args) {
  return JSON.parse(execFileSync(process.execPath, [join(here, "work.mjs"), ...args], { encoding: "utf8" }));
}

export function measureWorkbooks(rounds) {
  const plan = join(folder, "plan-workbook.yaml");
  writeFileSync(plan, PLAN);
  for (const rows of [100_000, 300_000]) {
    const source = join(folder, "lights.json");
    const book = join(folder, "tables.xlsx");
    generate(source, rows);
    const best = {};
    const works = rows === 100_000 ? ["hatch", "compare", "package-write", "package-read"] : ["hatch", "compare"];
    for (let round = 0; round < rounds; round++)
      for (const work of works) {
        const { ms, cpu, rss } = run(
          work,
          source,
          work.startsWith("package") ? `${book}.package.xlsx` : book,
          ...(work === "hatch" ? [plan] : []),
        );
        best[work] = {
          ms: Math.min(ms, best[work]?.ms ?? Infinity),
          cpu: Math.min(cpu, best[work]?.cpu ?? Infinity),
          rss: Math.max(rss, best[work]?.rss ?? 0),
        };
      }
    console.log(
      `\nworkbook of ${rows.toLocaleString("en")} rows of ${COLUMNS.length} cells, ${(statSync(source).size / 1e6).toFixed(0)} MB of JSON`,
    );
    const say = (what, { ms, cpu, rss }, against) =>
      console.log(
        `  ${what.padEnd(36)}  ${(ms / 1000).toFixed(2)} s  ${(cpu / 1000).toFixed(2)} s of CPU  ${(rss / 1e6).toFixed(0)} MB${against === undefined ? "" : `  ${(cpu / against.cpu).toFixed(2)} of the package's CPU time`}`,
      );
    say("hatch into the workbook", best.hatch, best["package-write"]);
    say("compare it with the source", best.compare, best["package-read"]);
    if (best["package-write"] !== undefined) {
      say("the package's stream writes the rows", best["package-write"]);
      say("the package's stream reads them", best["package-read"]);
    }
    for (const file of [source, book, `${book}.package.xlsx`]) rmSync(file, { force: true });
  }
}
