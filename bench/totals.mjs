// Files with totals: a count and a sum in a trailer under every order. As many edits in a file twice as large: memory is not to grow.
// And 400,000 orders: one order of a hundred edited, and one task of a hundred (in one order of twenty).
import { execFileSync } from "node:child_process";
import { closeSync, openSync, readFileSync, rmSync, statSync, writeFileSync, writeSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { join } from "node:path";

const here = fileURLToPath(new URL(".", import.meta.url));
const folder = join(here, "..", ".bench");
const EDITS = 2_000;
const PLAN = `
hatchfold: 1
sources:
  orders:
    file: orders.txt
    format: tagged
    layout:
      delimiter: "|"
      records:
        order: { tag: ORD, fields: [number, day] }
        task: { tag: TSK, inside: order, fields: [no, what, hours] }
        end: { tag: END, inside: order, closes: true, fields: [{ name: tasks, total: count task }, { name: hours, total: sum task/hours }] }
tables:
  orders: { rows: order, key: number, columns: { number: number, day: day } }
  tasks: { rows: order/task, inside: orders, columns: { no: no, what: what, hours: { at: hours, type: decimal } } }
`;

const ORDERS = 400_000;
const TASKS = 5;

function generate(path, megabytes, orders = Infinity) {
  const file = openSync(path, "w");
  let bytes = 0;
  for (let order = 1, text = ""; bytes < megabytes * 1e6 && order <= orders; order++) {
    text += `ORD|W-${String(order).padStart(7, "0")}|2026-11-02\n`;
    for (let no = 1; no <= TASKS; no++) text += `TSK|${no}|Clean the lens and the gallery|2.50\n`;
    text += "END|5|12.50\n";
    if (order % 500 !== 0) continue;
    bytes += writeSync(file, text);
    text = "";
  }
  closeSync(file);
}

/** So many tasks, here and there, take half an hour longer. */
function editRows(tables, edits) {
  const file = join(tables, "tasks.csv");
  const lines = readFileSync(file, "utf8").split("\r\n");
  const every = Math.floor(lines.length / edits);
  writeFileSync(file, lines.map((line, i) => (i > 0 && i % every === 0 ? line.replace(/2\.50$/, "3.00") : line)).join("\r\n"));
}

function run(...args) {
  return JSON.parse(execFileSync(process.execPath, [join(here, "work.mjs"), ...args], { encoding: "utf8" }));
}

export function measureTotals(megabytes, rounds) {
  const plan = join(folder, "plan-totals.yaml");
  writeFileSync(plan, PLAN);
  console.log(`\ntotals under every order, best of ${rounds} rounds`);
  const sizes = [
    { size: megabytes, edits: EDITS },
    { size: 2 * megabytes, edits: EDITS },
    { size: Infinity, orders: ORDERS, edits: ORDERS / 100 },
    { size: Infinity, orders: ORDERS, edits: (ORDERS * TASKS) / 100 },
  ];
  for (const { size, orders, edits } of sizes) {
    const source = join(folder, "orders.txt");
    const tables = join(folder, "tables-totals");
    generate(source, size, orders);
    const best = {};
    const ratios = [];
    for (let round = 0; round < rounds; round++) {
      let hatched = 0;
      for (const work of ["hatch", "fold"]) {
        if (work === "hatch") rmSync(tables, { recursive: true, force: true });
        else editRows(tables, edits);
        const { ms, rss } = run(work, source, tables, ...(work === "hatch" ? [plan] : []));
        best[work] = { ms: Math.min(ms, best[work]?.ms ?? Infinity), rss: Math.max(rss, best[work]?.rss ?? 0) };
        if (work === "hatch") hatched = ms;
        else ratios.push(ms / hatched);
      }
    }
    // of runs in turn: a machine that is slower for a while does not tell
    const ratio = ratios.sort((a, b) => a - b)[Math.floor(ratios.length / 2)];
    const { hatch, fold } = best;
    console.log(
      `  ${(statSync(source).size / 1e6).toFixed(0)} MB${orders === undefined ? "" : `, ${orders.toLocaleString("en")} orders`}, ${edits.toLocaleString("en")} tasks edited: hatch ${(hatch.ms / 1000).toFixed(2)} s, ${(hatch.rss / 1e6).toFixed(0)} MB; ` +
        `fold ${(fold.ms / 1000).toFixed(2)} s (${ratio.toFixed(2)} of the hatch), ${(fold.rss / 1e6).toFixed(0)} MB`,
    );
    rmSync(`${tables}.folded`, { force: true });
    rmSync(tables, { recursive: true, force: true });
    rmSync(source);
  }
}
