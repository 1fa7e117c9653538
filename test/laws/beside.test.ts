/** Sheets whose rows stand in the order of the source are read beside it, others before it: what comes of it is the same. */
import fc from "fast-check";
import { expect, test } from "vitest";
import { compare, fold, hatch, MemoryTables, type ByteSource } from "hatch-fold";
import { law, RUNS } from "../support/laws.js";
import { Random } from "../support/random.js";
import { text, readRows, writeRows, type Rows } from "../support/sheets.js";

const NAMES = ["north", "Ærø, south", 'the "old" one', "two\r\nlines", " edge ", "a;b\tc", "", "東"];
const PLAN = `
hatchfold: 1
sources: { r: { file: r.json } }
tables:
  districts: { rows: districts, key: code, columns: { code: { at: code } } }
  stations:
    rows: districts/stations
    inside: districts
    key: code
    columns:
      code: { at: code }
      name: { at: name }
      height: { at: height, type: number }
      note: { at: note }
      tags: { at: tags, pack: "; " }
`;

/** Some sources take several pieces, and some of their sheets, too. */
function sourceOf(random: Random): string {
  const stations = (d: number): string[] =>
    Array.from({ length: random.pick([0, 3, 40, 300]) }, (_, n) => {
      const note = random.chance(3) ? `, "note": ${random.chance(4) ? "null" : JSON.stringify("x".repeat(random.next(90)))}` : "";
      const name = JSON.stringify(random.pick(NAMES));
      return `{"code": "S${d}-${n}", "name": ${name}, "height": ${random.next(90)}.50${note}, "tags": ${random.chance(3) ? '["a","b"]' : "[]"}}`;
    });
  const districts = Array.from(
    { length: random.pick([1, 3, 30]) },
    (_, d) => `{"code": "D${d}", "stations": [\n${stations(d).join(",\n")}]}`,
  );
  return `{"districts": [${districts.join(",\n")}]}\n`;
}

/** Rows from this on are edited. */
const FROM = 4;

const EDITS: readonly ((rows: Rows, at: number, random: Random) => void)[] = [
  (rows, at, random) => (rows[at][3 + random.next(5)] = random.pick([...NAMES, "7", "D0", "S0-2"])),
  (rows, at, random) => (rows[at][3] += random.pick([" ", "x"])),
  (rows, at, random) => rows.splice(at, 1 + random.next(3)),
  (rows, at) => rows.splice(at, 0, [...rows[at]]),
  (rows, at, random) => rows.splice(FROM + random.next(rows.length - FROM), 0, [...rows[at]]),
  (rows, at) => rows.push([...rows[at]]),
  (rows, at) => {
    rows.push([...rows[at]]);
    rows[at][4] += "!"; // the copy is the original
  },
  (rows, at, random) => rows.splice(at, 0, ["", "", "D0", `N${random.next(1000)}`, "new", "1", "", ""]),
  (rows, at, random) => (rows[at][1] = random.pick(["remove", "skip", "drop"])),
  (rows, at) => (rows[at][0] = "c99zz"),
  (rows, at) => (rows[at][0] = rows[at][0].toUpperCase()),
  (rows, at) => rows.splice(at, 0, [""]),
  (rows, at) => rows[at].push("more"),
  (rows, at) => rows[at].pop(),
];
const MOVES: typeof EDITS = [
  (rows, at) => rows.push(...rows.splice(at, 1)),
  (rows, at) => rows.splice(FROM, 0, ...rows.splice(at, 1)),
  (rows, at, random) => rows.splice(Math.max(FROM, at - random.next(4)), 0, ...rows.splice(at, 1)),
  (rows) => rows.splice(FROM, rows.length, ...rows.slice(FROM).sort((a, b) => (a[4] < b[4] ? -1 : 1))),
];

/** Sheets that come in pieces of some size. */
class Pieces extends MemoryTables {
  size = 1000;
  override async open(file: string): Promise<ByteSource | null> {
    const { size } = this;
    const whole = await super.open(file);
    if (whole === null) return null;
    return {
      name: whole.name,
      size: whole.size,
      read: (start, end) => whole.read(start, end),
      async *chunks() {
        for (let at = 0; at < whole.size; at += size) yield await whole.read(at, at + size);
      },
    };
  }
}

test("beside the source or before it", () =>
  law(
    fc.nat(),
    async (seed) => {
      const random = new Random(seed);
      const source = sourceOf(random);
      const { tables } = await hatch(source, { plan: PLAN, name: "r.json" });
      const rows = readRows(tables, "stations.csv");
      for (let n = random.next(9); n > 0 && rows.length > FROM; n--) {
        const edits = random.chance(4) ? MOVES : EDITS;
        const at = FROM + random.next(rows.length - FROM);
        if (rows[at].length >= 8) random.pick(edits)(rows, at, random);
      }
      const style = random.pick([{}, {}, { line: "\n" }, { delimiter: ";" }, { delimiter: "\t", quoted: true }]);
      const order = random.pick([null, null, random.shuffle([...rows[0].keys()])]);
      const options = { source, name: "r.json", copies: random.pick(["new", "refuse"] as const) };
      const outcome = async (sheet: Rows): Promise<unknown> => {
        const edited = new Pieces(tables.contents);
        edited.size = random.pick([1000, 70_000, 1 << 18]);
        const ordered = order === null ? sheet : sheet.map((row) => (row.length === order.length ? order.map((c) => row[c]) : row));
        writeRows(edited, "stations.csv", ordered, style);
        const { counts, changes, healed, problems, notes } = await compare(edited, options);
        const folded = await fold(edited, { ...options, partial: true });
        return { counts, changes, healed, problems, notes, text: text(folded.bytes) };
      };
      // the first two rows the other way round: not in the order of the source
      const other = rows.length > 2 ? [rows[0], rows[2], rows[1], ...rows.slice(3)] : rows;
      expect(await outcome(rows)).toEqual(await outcome(other));
    },
    RUNS / 2,
  ));

test("a sheet that is not in UTF-8 from some row on is refused as a whole", async () => {
  const list = Array.from({ length: 9000 }, (_, n) => ({ code: `L${n}`, colour: "white, then red" }));
  const source = JSON.stringify({ lights: list });
  const { tables } = await hatch(source, { name: "lights.json" });
  const [file] = [...tables.contents.keys()].filter((name) => name.startsWith("lights"));
  const sheet = tables.contents.get(file)!.slice();
  const at = text(sheet).indexOf("L8000");
  sheet.set([0xe9], at);
  tables.contents.set(file, sheet);
  const { problems, counts } = await compare(tables, { source, name: "lights.json" });
  expect(problems).toMatchObject([{ code: "sheet-encoding", file, row: 1, facts: { byte: at } }]);
  expect(counts).toMatchObject({ changed: 0, unchanged: 0 });
  expect(source.length).toBeGreaterThan(1 << 18);
});
