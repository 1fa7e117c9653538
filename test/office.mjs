// npm run check:office: tables of the demo go through a real spreadsheet program, and back. Nothing is edited, so nothing may change.
import { execFileSync, spawnSync } from "node:child_process";
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { fileURLToPath } from "node:url";
import { HatchFoldError } from "hatch-fold";
import { foldInto, hatchInto, withComparison } from "hatch-fold/node";

const SOFFICE = process.env.SOFFICE ?? "soffice";
if (spawnSync(SOFFICE, ["--version"]).status !== 0) {
  console.log("LibreOffice is not here, so no spreadsheet program can be asked. Install libreoffice-calc, or set SOFFICE to its program.");
  process.exit(0);
}
const demo = fileURLToPath(new URL("../demo/", import.meta.url));
const work = mkdtempSync(join(tmpdir(), "hatchfold-office-"));
const profile = `-env:UserInstallation=file://${join(work, "profile")}`;
const plans = new Map(
  readdirSync(demo).flatMap((name) => (name.endsWith("-plan.yaml") ? [[name.replace("-plan.yaml", ""), join(demo, name)]] : [])),
);
const FRAGILE = join(work, "fragile.json");
writeFileSync(FRAGILE, JSON.stringify({ rows: fragile() }, null, 1));
const SOURCES = [
  ...readdirSync(demo)
    .filter((name) => /\.(?:json|xml|csv|txt|dat)$/.test(name))
    .map((name) => join(demo, name)),
  FRAGILE,
];
const LOCALES = [
  ["English", 1033],
  ["German", 1031],
  ["French", 1036],
];

/** Values that spreadsheets have ideas about. */
function fragile() {
  const codes = ["007", "1E5", "3/4", "1-2", "MAR1", "00012", "0427", "12E3", "+5", "1.10"];
  return codes.map((code, i) => ({
    id: `K${i}`,
    code,
    decimal: ["12.50", "42.750", "1000.125", "7.00", "0.10", "-3.50", "1234567.80", "10.1234567890123456", "2.000", "9.999"][i],
    date: [
      "2024-03-05",
      "1999-12-31",
      "2024-11-12",
      "1911-04-13",
      "2000-02-29",
      "2024-01-02",
      "1967-12-05",
      "2030-07-08",
      "2024-10-10",
      "1985-05-06",
    ][i],
    big: ["4006381333931", "123456789012345678", "771908830000303017", "12345678901", "1", "99999999999999999", "5", "6", "7", "8"][i],
    flag: i % 2 === 0,
    text: ['say "x"', "a -- b", "Ærø & Søn", " led", "tail ", "two\nlines", "50 %", "5 kr", "(12)", "wait..."][i],
  }));
}

function convert(folder, to, inFilter, out) {
  const files = readdirSync(folder)
    .filter((name) => !/receipt/.test(name))
    .map((name) => join(folder, name));
  const filter = inFilter === null ? [] : [`--infilter=${inFilter}`];
  execFileSync(SOFFICE, [profile, "--headless", ...filter, "--convert-to", to, "--outdir", out, ...files], {
    stdio: "pipe",
    timeout: 120_000,
  });
}

/** Ways through the program, from a folder of tables to another. */
const trips = LOCALES.flatMap(([name, id]) => [
  ...[true, false].map((detect) => ({
    name: `CSV, ${name}, ${detect ? "types detected" : "numbers detected"}`,
    go: (from, to) =>
      convert(from, `csv:Text - txt - csv (StarCalc):44,34,76,1,,${id},false,true,false`, `CSV:44,34,76,1,,${id},false,${detect}`, to),
  })),
  {
    name: `CSV by way of ODS, ${name}`,
    go: (from, to) => {
      const between = mkdtempSync(join(work, "ods-"));
      convert(from, "ods", `CSV:44,34,76,1,,${id},false,true`, between);
      convert(between, `csv:Text - txt - csv (StarCalc):44,34,76,1,,${id},false,true,false`, null, to);
    },
  },
]);
const bookTrips = [
  { name: "XLSX", go: (from, to) => convert(from, "xlsx", null, to) },
  {
    name: "XLSX by way of ODS",
    go: (from, to) => {
      const between = mkdtempSync(join(work, "ods-"));
      convert(from, "ods", null, between);
      convert(between, "xlsx", null, to);
    },
  },
];

async function outcome(tables, source) {
  const out = join(work, "out");
  rmSync(out, { force: true });
  try {
    return await withComparison(tables, { source }, async (comparison, path) => {
      const { problems, changes, healed } = comparison;
      if (problems.length > 0)
        return {
          what: "refused",
          told: `${problems.length} problems: ${problems[0].message} (${problems[0].column}, row ${problems[0].row})`,
        };
      await foldInto(comparison, path, tables, { out, replace: true });
      if (readFileSync(out).equals(readFileSync(source))) return { what: "same", healed: healed.length };
      const told = changes.slice(0, 9).map(({ column, old, new: now }) => `${column} ${JSON.stringify(old)} -> ${JSON.stringify(now)}`);
      return { what: "changed", told: `${changes.length} changes: ${told.join(", ")}` };
    });
  } catch (error) {
    if (error instanceof HatchFoldError) return { what: "refused", told: error.message };
    throw error;
  }
}

const totals = { same: 0, refused: 0, changed: 0 };
const rows = [];
for (const trip of [...trips, ...bookTrips]) {
  const count = { same: 0, refused: 0, changed: 0, healed: 0 };
  for (const source of SOURCES) {
    const name = basename(source).replace(/\.\w+$/, "");
    const isBook = bookTrips.includes(trip);
    const from = mkdtempSync(join(work, "from-"));
    const to = mkdtempSync(join(work, "to-"));
    const tables = isBook ? join(from, "tables.xlsx") : join(from, "tables");
    const plan = plans.has(name) ? readFileSync(plans.get(name), "utf8") : undefined;
    try {
      await hatchInto(source, tables, { plan });
    } catch (error) {
      if (error instanceof HatchFoldError) continue; // a plan for several sources
      throw error;
    }
    trip.go(isBook ? from : tables, to);
    if (!isBook) cpSync(join(tables, "receipt.json"), join(to, "receipt.json"));
    const { what, told, healed = 0 } = await outcome(isBook ? join(to, "tables.xlsx") : to, source);
    count[what]++;
    count.healed += healed;
    totals[what]++;
    if (what !== "same") console.log(`${trip.name}, ${basename(source)}: ${told}`);
  }
  rows.push([trip.name, count.same, count.refused, count.changed, count.healed]);
}
console.log("\n| way through LibreOffice | as it was | refused | changed | cells healed |\n|---|---|---|---|---|");
for (const row of rows) console.log(`| ${row.join(" | ")} |`);
console.log(
  `\n${totals.same + totals.refused + totals.changed} trips: ${totals.same} gave the source byte for byte, ${totals.refused} were refused, ${totals.changed} changed what nobody had edited`,
);
rmSync(work, { recursive: true, force: true });
process.exitCode = totals.changed > 0 ? 1 : 0;
