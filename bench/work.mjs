// One piece of work in a process of its own: prints its time and its peak memory.
import { createReadStream, createWriteStream, readFileSync, rmSync } from "node:fs";
import { pipeline } from "node:stream/promises";
import { parse as csvParser } from "csv-parse";
import ExcelJS from "exceljs";
import { stringify } from "csv-stringify/sync";
import { SaxesParser } from "saxes";
import { foldInto, hatchInto, withComparison } from "hatch-fold/node";

const [work, source, folder, planFile] = process.argv.slice(2);
const plan = planFile === undefined ? undefined : readFileSync(planFile, "utf8");

const works = {
  /** JSON.parse alone, on bytes that are in memory already. */
  parse() {
    const bytes = readFileSync(source);
    return timed(() => JSON.parse(bytes.toString()));
  },
  /** What a person would write: parse, loop, print with a package. */
  script() {
    return timed(async () => {
      const data = JSON.parse(readFileSync(source, "utf8"));
      const rows = [["district", "code", "name", "height", "status", "manned", "since", "tower/stone", "tower/storeys", "note"]];
      for (const district of data.districts) {
        for (const s of district.stations)
          rows.push([district.code, s.code, s.name, s.height, s.status, s.manned, s.since, s.tower.stone, s.tower.storeys, s.note]);
      }
      const out = createWriteStream(`${folder}.script.csv`);
      for (let i = 0; i < rows.length; i += 10_000) out.write(stringify(rows.slice(i, i + 10_000)));
      await new Promise((done) => out.end(done));
      rmSync(`${folder}.script.csv`);
    });
  },
  /** A bare pass of saxes: every event is made, nothing is kept. */
  saxes() {
    return timed(async () => {
      const parser = new SaxesParser();
      let n = 0;
      parser.on("opentag", () => n++);
      parser.on("text", () => n++);
      for await (const chunk of createReadStream(source, { encoding: "utf8", highWaterMark: 1 << 18 })) parser.write(chunk);
      parser.close();
    });
  },
  /** A bare pass of csv-parse: every record is made, nothing is kept. */
  csv() {
    return timed(async () => {
      const options = source.endsWith(".csv")
        ? {}
        : { delimiter: source.endsWith(".txt") ? "|" : "\u0001", relax_column_count: true, relax_quotes: true };
      const parser = createReadStream(source).pipe(csvParser(options));
      let n = 0;
      for await (const record of parser) n += record.length;
    });
  },
  /** The plain copy of a file. */
  copy() {
    return timed(async () => {
      await pipeline(createReadStream(source), createWriteStream(`${source}.copy`));
      rmSync(`${source}.copy`);
    });
  },
  hatch() {
    return timed(() => hatchInto(source, folder, { plan, replace: true }));
  },
  compare() {
    return timed(() => withComparison(folder, { source }, ({ counts }) => counts));
  },
  /** The same rows, read from JSON and written by the workbook package. */
  "package-write"() {
    return timed(async () => {
      const { lights } = JSON.parse(readFileSync(source, "utf8"));
      const book = new ExcelJS.stream.xlsx.WorkbookWriter({ filename: folder });
      const sheet = book.addWorksheet("lights");
      for (const light of lights) sheet.addRow(Object.values(light)).commit();
      sheet.commit();
      await book.commit();
    });
  },
  "package-read"() {
    return timed(async () => {
      let cells = 0;
      for await (const sheet of new ExcelJS.stream.xlsx.WorkbookReader(folder)) for await (const row of sheet) cells += row.cellCount;
      return cells;
    });
  },
  fold: () => folded(false),
  unproved: () => folded(true),
};

function folded(unproved) {
  return timed(() =>
    withComparison(folder, { source, unproved }, (comparison, path) =>
      foldInto(comparison, path, folder, { out: `${folder}.folded`, replace: true, unproved }),
    ),
  );
}

async function timed(run) {
  const start = performance.now();
  await run();
  return performance.now() - start;
}

const before = process.cpuUsage();
const ms = await works[work]();
const { user, system } = process.cpuUsage(before);
console.log(JSON.stringify({ ms, cpu: (user + system) / 1000, rss: process.resourceUsage().maxRSS * 1024 }));
