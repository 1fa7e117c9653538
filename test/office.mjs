// npm run check:office: tables of the demo go through a real spreadsheet program, and back. Where nothing is edited, nothing may
// change, and where one cell is, only that. With --short few of them, with --unedited those without an edit; --model writes test/support/fragile.json.
import { execFileSync, spawnSync } from "node:child_process";
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { fileURLToPath } from "node:url";
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import ExcelJS from "exceljs";
import { HatchFoldError } from "hatch-fold";
import { foldInto, hatchInto, withComparison } from "hatch-fold/node";
import { FRAGILE } from "./support/fragile.mjs";

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
const FRAGILE_FILE = join(work, "fragile.json");
writeFileSync(FRAGILE_FILE, JSON.stringify({ rows: fragile() }, null, 1));
const SOURCES = [
  ...readdirSync(demo)
    .filter((name) => /\.(?:json|xml|csv|txt|dat)$/.test(name))
    .map((name) => join(demo, name)),
  FRAGILE_FILE,
];
/** What the program calls the encoding. */
const UTF_16 = 65535;
const LOCALES = [
  ["English", 1033],
  ["German", 1031],
  ["French", 1036],
];

/** A column of each kind of values. */
function fragile() {
  const kinds = Object.entries(FRAGILE);
  const longest = Math.max(...kinds.map(([, words]) => words.length));
  return Array.from({ length: longest }, (_, i) => ({
    id: `K${i}`,
    ...Object.fromEntries(kinds.map(([kind, words]) => [kind, words[i % words.length]])),
  }));
}

/** So many files are given to the program in one call. */
const MOST_FILES = 80;

/** All files of a folder. */
function convert(folder, to, inFilter, out) {
  const files = readdirSync(folder).map((name) => join(folder, name));
  const filter = inFilter === null ? [] : [`--infilter=${inFilter}`];
  for (let at = 0; at < files.length; at += MOST_FILES)
    execFileSync(SOFFICE, [profile, "--headless", ...filter, "--convert-to", to, "--outdir", out, ...files.slice(at, at + MOST_FILES)], {
      stdio: "pipe",
      timeout: 300_000,
    });
}

/** What comes of the tables without the program: an edit that is refused here is refused for what it says. */
const unopened = { name: "not opened", go: (from, to) => cpSync(from, to, { recursive: true }) };

/** Ways through the program, from a folder of files to another. */
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
const tabTrips = LOCALES.map(([name, id]) => ({
  name: `TSV in UTF-16, ${name}`,
  program: "tab-spreadsheet",
  go: (from, to) =>
    convert(from, `csv:Text - txt - csv (StarCalc):9,34,76,1,,${id},false,true,false`, `CSV:9,34,${UTF_16},1,,${id},false,true`, to),
}));
const bookTrips = [
  { ...unopened, name: "workbook, not opened" },
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

/** What becomes of the cells of fragile values in each locale: `--model` writes it down for test/laws/damage.test.ts. */
async function writeModel() {
  const words = [...new Set(Object.values(FRAGILE).flat())];
  const from = mkdtempSync(join(work, "from-"));
  const source = join(work, "words.json");
  writeFileSync(source, JSON.stringify({ words: words.map((word, i) => ({ id: `k${i}`, word })) }));
  await hatchInto(source, from);
  rmSync(join(from, "receipt.json"));
  const cells = (folder) =>
    parse(readFileSync(join(folder, "words.csv")), { bom: true, columns: true, relax_column_count: true }).map(({ word }) => word);
  const model = {};
  for (const [name, id] of LOCALES) {
    const to = mkdtempSync(join(work, "to-"));
    convert(from, `csv:Text - txt - csv (StarCalc):44,34,76,1,,${id},false,true,false`, `CSV:44,34,76,1,,${id},false,true`, to);
    const after = cells(to);
    model[name] = Object.fromEntries(cells(from).flatMap((before, i) => (after[i] === before ? [] : [[before, after[i]]])));
  }
  writeFileSync(fileURLToPath(new URL("./support/fragile.json", import.meta.url)), `${JSON.stringify(model, null, 1)}\n`);
}

/** What a fold of the tables would do: of nothing, or of one edit. */
async function outcome(tables, source, edit) {
  const out = join(work, "out");
  rmSync(out, { force: true });
  try {
    return await withComparison(tables, { source }, async (comparison, path) => {
      const { problems, changes, healed } = comparison;
      if (problems.length > 0) {
        const [{ message, column, row }] = problems;
        return { what: "refused", told: `${problems.length} problems: ${message} (${column}, row ${row})` };
      }
      await foldInto(comparison, path, tables, { out, replace: true });
      const isSame = readFileSync(out).equals(readFileSync(source));
      const isRight = edit === null ? isSame : changes.length === 1 && changes[0].new === edit;
      const told = changes.slice(0, 9).map(({ column, old, new: now }) => `${column} ${JSON.stringify(old)} -> ${JSON.stringify(now)}`);
      return { what: isRight ? "right" : "wrong", told: `${changes.length} changes: ${told.join(", ")}`, healed };
    });
  } catch (error) {
    if (error instanceof HatchFoldError) return { what: "refused", told: error.message };
    throw error;
  }
}

/** Cells with words in them: where people write other words. */
const WORDS = /^\p{L}[\p{L} ]+$/u;

/** Writes another word into one cell, another one for each number; null where no cell has words. */
function editedCsv(folder, number) {
  const files = readdirSync(folder).filter((name) => name.endsWith(".csv"));
  const cells = files.flatMap((file) => {
    const rows = parse(readFileSync(join(folder, file)), { bom: true, relax_column_count: true });
    return rows.flatMap((row, r) => row.flatMap((cell, c) => (r > 0 && WORDS.test(cell) ? [{ file, rows, r, c }] : [])));
  });
  if (cells.length === 0) return null;
  const { file, rows, r, c } = cells[(number * 7919) % cells.length];
  const value = `Written anew ${number}`;
  rows[r][c] = value;
  writeFileSync(join(folder, file), `\ufeff${stringify(rows, { record_delimiter: "\r\n" })}`);
  return value;
}

async function editedBook(path, number) {
  const book = new ExcelJS.Workbook();
  await book.xlsx.readFile(path);
  const cells = [];
  for (const sheet of book.worksheets.filter(({ state, name }) => state === "visible" && name !== "about these tables"))
    sheet.eachRow((row, r) =>
      row.eachCell((cell) => r > 1 && typeof cell.value === "string" && WORDS.test(cell.value) && cells.push(cell)),
    );
  if (cells.length === 0) return null;
  const value = `Written anew ${number}`;
  cells[(number * 7919) % cells.length].value = value;
  await book.xlsx.writeFile(path);
  return value;
}

if (process.argv.includes("--model")) {
  await writeModel();
  rmSync(work, { recursive: true, force: true });
  process.exit(0);
}

/** How many tables of each source have an edit in them, beside those that have none. */
const isShort = process.argv.includes("--short");
const EDITS = isShort ? 1 : process.argv.includes("--unedited") ? 0 : 11;
const totals = { trips: 0, right: 0, refused: 0, wrong: 0 };
const table = [];
/** Cells that were healed, by what had become of them and the way that they went. */
const kinds = new Map();
for (const trip of isShort ? [trips[0], trips[3], bookTrips[1]] : [unopened, ...trips, ...tabTrips, ...bookTrips]) {
  const isBook = bookTrips.includes(trip);
  const [from, to] = [mkdtempSync(join(work, "from-")), mkdtempSync(join(work, "to-"))];
  const cases = [];
  for (const [s, source] of SOURCES.entries()) {
    if (isShort && !/(?:fragile|register)\.json$/.test(source)) continue;
    const name = basename(source).replace(/\.\w+$/, "");
    const plan = plans.has(name) ? readFileSync(plans.get(name), "utf8") : undefined;
    for (let number = 0; number <= (trip.program === undefined ? EDITS : 0); number++) {
      const folder = mkdtempSync(join(work, "case-"));
      const tables = isBook ? join(folder, "tables.xlsx") : folder;
      try {
        await hatchInto(source, tables, { plan, program: trip.program });
      } catch (error) {
        if (error instanceof HatchFoldError) break; // a plan for several sources
        throw error;
      }
      const edit = number === 0 ? null : isBook ? await editedBook(tables, number) : editedCsv(tables, number);
      if (number > 0 && edit === null) break;
      const files = isBook ? ["tables.xlsx"] : readdirSync(folder).filter((file) => /\.[ct]sv$/.test(file));
      for (const file of files) cpSync(join(folder, file), join(from, `${s}-${number}-${file}`));
      cases.push({ source, folder, files, edit, id: `${s}-${number}` });
    }
  }
  trip.go(from, to);
  const count = { right: 0, refused: 0, wrong: 0, healed: 0, edits: 0, arrived: 0, stopped: 0, lost: 0 };
  for (const { source, folder, files, edit, id } of cases) {
    for (const file of files) cpSync(join(to, `${id}-${file}`.replace(".tsv", ".csv")), join(folder, file));
    const { what, told, healed = [] } = await outcome(isBook ? join(folder, "tables.xlsx") : folder, source, edit);
    if (edit === null) {
      count[what]++;
      count.healed += healed.length;
      for (const { why } of healed) {
        const ways = kinds.get(why) ?? new Map();
        kinds.set(why, ways.set(trip.name, (ways.get(trip.name) ?? 0) + 1));
      }
    } else count[{ right: "arrived", refused: "stopped", wrong: "lost" }[what]]++;
    totals.trips++;
    totals[what]++;
    if (what === "wrong" || (edit === null && what === "refused"))
      console.log(`${trip.name}, ${basename(source)}, ${edit ?? "no edit"}: ${told}`);
    rmSync(folder, { recursive: true });
  }
  table.push([trip.name, count.right, count.refused, count.wrong, count.healed, count.arrived, count.stopped, count.lost]);
}
console.log(
  "\n| way through LibreOffice | as it was | refused | changed | cells healed | one edit: arrived | refused | something else |\n|---|---|---|---|---|---|---|---|",
);
for (const row of table) console.log(`| ${row.join(" | ")} |`);
const ways = table.map(([name]) => name).filter((name) => [...kinds.values()].some((one) => one.has(name)));
console.log(`\n| cells healed | ${ways.join(" | ")} |\n|---|${"---|".repeat(ways.length)}`);
for (const [why, counts] of kinds) console.log(`| ${why} | ${ways.map((way) => counts.get(way) ?? "").join(" | ")} |`);
console.log(
  `\n${totals.trips} trips: ${totals.right} as they should be, ${totals.refused} refused, ${totals.wrong} with changes that nobody made`,
);
rmSync(work, { recursive: true, force: true });
process.exitCode = totals.wrong > 0 ? 1 : 0;
