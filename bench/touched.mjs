// One touched row, given as an object: what its comparison takes, against a pass over the records that writes none of them.
import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { compare, draft, hatch, MemorySource, RowTables } from "hatch-fold";
import { generate } from "./generate.mjs";

const folder = join(fileURLToPath(new URL(".", import.meta.url)), "..", ".bench");

export async function measureTouched(megabytes, rounds) {
  const path = join(folder, `source-${megabytes}.json`);
  if (!existsSync(path)) generate(path, megabytes, "json");
  const bytes = readFileSync(path);
  const source = () => new MemorySource(bytes, "source.json");
  const { plan } = await draft(source());
  const tables = new RowTables();
  await hatch(source(), { plan, into: tables, sample: 1000 });
  const row = tables.rows("stations")[500];
  const touched = tables.touched({ stations: { rows: [{ "fold mark": row["fold mark"], name: `${row.name} moved` }], numbers: [502] } });
  const best = { pass: Infinity, compare: Infinity };
  for (let round = 0; round < 2 * rounds + 2; round++) {
    best.pass = Math.min(best.pass, await timed(() => hatch(source(), { plan, into: new RowTables(), blank: true })));
    best.compare = Math.min(best.compare, await timed(() => compare(touched, { source: source(), plan })));
  }
  console.log(`\n${(bytes.length / 1e6).toFixed(0)} MB (.json), one touched row in memory, best of ${2 * rounds + 2} rounds`);
  console.log(`  pass over the records  ${best.pass.toFixed(0)} ms`);
  console.log(`  compare                ${best.compare.toFixed(0)} ms, ${(best.compare / best.pass).toFixed(2)} of the pass`);
}

async function timed(run) {
  const start = performance.now();
  await run();
  return performance.now() - start;
}
