// Link rows: people, stations and the postings between them, with codes that must exist and labels shown. Three sizes: growth is to be linear.
import { execFileSync } from "node:child_process";
import { closeSync, openSync, readFileSync, rmSync, statSync, writeFileSync, writeSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { join } from "node:path";

const here = fileURLToPath(new URL(".", import.meta.url));
const folder = join(here, "..", ".bench");
const PEOPLE = 20_000;
const STATIONS = 2_000;
const PLAN = `
hatchfold: 1
sources: { links: { file: links.json, format: json } }
tables:
  people: { rows: people, key: id, label: name, columns: { id: id, name: name } }
  stations: { rows: stations, key: code, columns: { code: code } }
  postings:
    rows: postings
    columns:
      person: { at: person, refers: people }
      station: { at: station, refers: stations }
      role: role
`;

const code = (letter, n, width) => `${letter}-${String(n).padStart(width, "0")}`;

function generate(path, links) {
  const file = openSync(path, "w");
  let buffer = '{"people": [\n';
  const put = (text) => {
    buffer += text;
    if (buffer.length > 1 << 20) {
      writeSync(file, buffer);
      buffer = "";
    }
  };
  for (let i = 0; i < PEOPLE; i++) put(`${i > 0 ? ",\n" : ""} {"id": "${code("P", i, 5)}", "name": "Person ${i}"}`);
  put('\n], "stations": [\n');
  for (let i = 0; i < STATIONS; i++) put(`${i > 0 ? ",\n" : ""} {"code": "${code("S", i, 4)}"}`);
  put('\n], "postings": [\n');
  for (let i = 0; i < links; i++) {
    const [person, station] = [(i * 7919) % PEOPLE, (i * 104729) % STATIONS];
    put(`${i > 0 ? ",\n" : ""} {"person": "${code("P", person, 5)}", "station": "${code("S", station, 4)}", "role": "role ${i % 7}"}`);
  }
  put("\n]}\n");
  writeSync(file, buffer);
  closeSync(file);
}

function run(...args) {
  return JSON.parse(execFileSync(process.execPath, [join(here, "work.mjs"), ...args], { encoding: "utf8", maxBuffer: 1 << 26 }));
}

/** Every hundredth posting goes to another person. */
function editRows(tables) {
  const file = join(tables, "postings.csv");
  let n = 0;
  const lines = readFileSync(file, "utf8").split("\r\n");
  const edited = lines.map((line, i) => {
    if (i === 0 || i % 100 !== 0 || line === "") return line;
    n++;
    return line.replace(/,P-\d+,/, `,${code("P", (i * 13) % PEOPLE, 5)},`);
  });
  writeFileSync(file, edited.join("\r\n"));
  return n;
}

export function measureLinks(rounds) {
  const plan = join(folder, "plan-links.yaml");
  writeFileSync(plan, PLAN);
  console.log("\nlink rows: codes checked, labels shown");
  for (const links of [250_000, 500_000, 1_000_000]) {
    const source = join(folder, "links.json");
    const tables = join(folder, "tables-links");
    generate(source, links);
    const best = {};
    let edited = 0;
    for (let round = 0; round < rounds; round++) {
      for (const work of ["copy", "hatch", "fold"]) {
        if (work === "hatch") rmSync(tables, { recursive: true, force: true });
        if (work === "fold") edited = editRows(tables);
        const { ms, rss } = run(work, source, tables, ...(work === "hatch" ? [plan] : []));
        best[work] = { ms: Math.min(ms, best[work]?.ms ?? Infinity), rss: Math.max(rss, best[work]?.rss ?? 0) };
      }
    }
    const { copy, hatch, fold } = best;
    const per = (ms) => `${((1e6 * ms) / links).toFixed(0)} ns a link`;
    console.log(
      `  ${links.toLocaleString("en").padStart(9)} links, ${(statSync(source).size / 1e6).toFixed(0)} MB: copy ${(copy.ms / 1000).toFixed(2)} s; ` +
        `hatch ${(hatch.ms / 1000).toFixed(2)} s (${per(hatch.ms)}, ${(hatch.ms / copy.ms).toFixed(1)} of the copy); ` +
        `fold with ${edited.toLocaleString("en")} edited ${(fold.ms / 1000).toFixed(2)} s (${per(fold.ms)}, ${(fold.ms / copy.ms).toFixed(1)} of the copy), ${(fold.rss / 1e6).toFixed(0)} MB`,
    );
    rmSync(`${tables}.folded`, { force: true });
    rmSync(tables, { recursive: true, force: true });
    rmSync(source);
  }
}
