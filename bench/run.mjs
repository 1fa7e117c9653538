// npm run bench: ratios in one run, each piece of work in its own process, the best of several rounds.
import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { join } from "node:path";
import { draft } from "hatch-fold";
import { openFile } from "hatch-fold/node";
import { generate } from "./generate.mjs";
import { measureLinks } from "./links.mjs";
import { measureTotals } from "./totals.mjs";
import { measureTouched } from "./touched.mjs";
import { measureWorkbench } from "./workbench.mjs";
import { measureWorkbooks } from "./workbooks.mjs";

const here = fileURLToPath(new URL(".", import.meta.url));
const folder = join(here, "..", ".bench");
/** What takes so many milliseconds is measured once. */
const LONG = 30_000;
const megabytes = Number(process.argv[2] ?? 150);
const rounds = Number(process.argv[3] ?? 3);
mkdirSync(folder, { recursive: true });

function run(...args) {
  return JSON.parse(execFileSync(process.execPath, [join(here, "work.mjs"), ...args], { encoding: "utf8", maxBuffer: 1 << 26 }));
}

/** So many rows of the largest table get another name: one of `every`. */
function editRows(tables, every) {
  const sizes = readdirSync(tables)
    .filter((name) => name.endsWith(".csv"))
    .map((name) => [statSync(join(tables, name)).size, name]);
  const file = join(tables, sizes.sort((a, b) => b[0] - a[0])[0][1]);
  const lines = readFileSync(file, "utf8").split("\r\n");
  let n = 0;
  const edited = lines.map((line, i) => {
    if (i === 0 || i % every !== 0 || !/ (north|south|east|west),/.test(line)) return line;
    n++;
    return line.replace(/ (north|south|east|west),/, " moved,");
  });
  writeFileSync(file, edited.join("\r\n"));
  return { n, of: lines.length - 2 };
}

/** A fold with one row of a hundred edited is measured always, and with one of `every` when that is another number. */
async function measure(format, size, baselines, every = 100) {
  const source = join(folder, `source-${size}.${format}`);
  if (!existsSync(source)) generate(source, size, format);
  const file = await openFile(source);
  const plan = join(folder, `plan-${format}.yaml`);
  writeFileSync(plan, (await draft(file, { name: `source-${size}.${format}` })).plan);
  await file.close();
  const tables = join(folder, `tables-${format}-${size}`);
  const best = {};
  const edited = {};
  const folds = every === 100 ? ["fold", "unproved"] : ["fold", "fold-fewer"];
  const ratios = {};
  let hatch = 0;
  for (let round = 0; round < rounds; round++) {
    // what is compared with each other is measured most often
    for (const work of [...baselines, ...folds.flatMap((fold) => ["hatch", fold, "hatch", fold])]) {
      if (best[work]?.ms > LONG) continue;
      if (work === "hatch") rmSync(tables, { recursive: true, force: true });
      if (folds.includes(work)) edited[work] = editRows(tables, work === "fold-fewer" ? every : 100);
      const seen = run(work === "fold-fewer" ? "fold" : work, source, tables, ...(work === "hatch" ? [plan] : []));
      if (work === "hatch") hatch = seen.ms;
      else if (folds.includes(work)) (ratios[work] ??= []).push(seen.ms / hatch);
      best[work] = { ms: Math.min(seen.ms, best[work]?.ms ?? Infinity), rss: Math.max(seen.rss, best[work]?.rss ?? 0) };
    }
  }
  rmSync(`${tables}.folded`, { force: true });
  rmSync(tables, { recursive: true, force: true });
  return { format, bytes: statSync(source).size, edited, best, ratios };
}

const NAMES = {
  parse: "JSON.parse alone",
  script: "script: parse, loop, print",
  saxes: "saxes, a bare pass",
  csv: "csv-parse, a bare pass",
};
const SHORT = { parse: "JSON.parse", script: "the script", saxes: "saxes", csv: "csv-parse" };

/** Of runs in turn, so that a machine that is slower for a while does not tell. */
function median(numbers) {
  return [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)];
}

function print({ format, bytes, edited, best, ratios }) {
  const baselines = Object.keys(best).filter((work) => work in NAMES);
  const row = (what, { ms, rss }, against) => [
    what,
    `${(ms / 1000).toFixed(2)} s`,
    `${(bytes / 1e6 / (ms / 1000)).toFixed(0)} MB/s`,
    `${(rss / 1e6).toFixed(0)} MB`,
    against,
  ];
  const ratio = (a, b) => (best[a].ms / best[b].ms).toFixed(2);
  const rows = [
    ["", "time", "speed", "peak memory", "ratio"],
    ...baselines.map((work, i) => row(NAMES[work], best[work], i === 0 ? "1" : `${ratio(work, baselines[0])} of ${SHORT[baselines[0]]}`)),
    row("hatch to CSV", best.hatch, baselines.map((work) => `${ratio("hatch", work)} of ${SHORT[work]}`).join(", ")),
    ...Object.entries(edited).map(([fold, { n, of }]) =>
      row(
        `fold, ${n} of ${of} rows edited${fold === "unproved" ? ", unproved" : ""}`,
        best[fold],
        `${median(ratios[fold]).toFixed(2)} of the hatch`,
      ),
    ),
  ];
  const widths = rows[0].map((_, i) => Math.max(...rows.map((one) => one[i].length)));
  console.log(`\n${(bytes / 1e6).toFixed(0)} MB (.${format}), best of ${rounds} rounds, Node ${process.versions.node}`);
  for (const one of rows)
    console.log(
      `  ${one
        .map((cell, i) => cell.padEnd(widths[i]))
        .join("  ")
        .trimEnd()}`,
    );
}

print(await measure("json", megabytes, ["parse", "script"]));
// as many edits in a source twice as large: what does memory go with?
print(await measure("json", 2 * megabytes, ["parse", "script"], 200));
for (const [format, baseline] of [
  ["xml", "saxes"],
  ["csv", "csv"],
  ["txt", "csv"],
  ["dat", "csv"],
]) {
  print(await measure(format, Math.max(1, Math.round((2 / 3) * megabytes)), [baseline]));
}
measureTotals(Math.max(1, Math.round(megabytes / 5)), rounds);
measureLinks(rounds);
measureWorkbooks(rounds);
await measureTouched(Math.max(1, Math.round((2 / 3) * megabytes)), rounds);
await measureWorkbench(Math.max(1, Math.round((2 / 3) * megabytes)));
