/** Files on disk: pieces that cut characters in two, in the source and in the edited table. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, type ByteSource } from "hatch-fold";
import { foldInto, hatchInto, renewTables, undoFold, withComparison } from "hatch-fold/node";
import { setCell } from "./support/sheets.js";

test.each([
  ["JSON", "wide.json", (rows: string[]) => `[\n${rows.map((row) => `{"n": "${row}"}`).join(",\n")}\n]`],
  ["delimited, in windows-1252", "wide.csv", (rows: string[]) => `n,m\r\n${rows.map((row) => `${row},x\r\n`).join("")}`],
])("%s: every byte may be the last one of a piece", async (_, name, write) => {
  const folder = mkdtempSync(join(tmpdir(), "hatch-fold-files-"));
  try {
    // more than two pieces of 256 kB, and characters of two bytes at every place
    const rows = Array.from({ length: 60_000 }, (_row, i) => `${"ø".repeat(1 + (i % 7))}${"x".repeat(i % 3)}`);
    const source = join(folder, name);
    const bytes = name.endsWith(".csv") ? Buffer.from(write(rows), "latin1") : Buffer.from(write(rows));
    writeFileSync(source, bytes);
    const tables = join(folder, "t");
    const { receipt } = await hatchInto(source, tables);
    const [{ file }] = receipt.tables;
    const sheet = readFileSync(join(tables, file), "utf8");
    // the edits move all that follows by one byte each
    writeFileSync(join(tables, file), sheet.replaceAll("øøøøøøø,", "Å,").replaceAll("øøøøøøø\r", "Å\r"));
    const out = join(folder, "out");
    const folded = await withComparison(tables, {}, (comparison, path) => foldInto(comparison, path, tables, { out }));
    expect(folded.problems).toEqual([]);
    const text = readFileSync(out, name.endsWith(".csv") ? "latin1" : "utf8");
    expect(text).toBe(write(rows.map((row) => (row === "øøøøøøø" ? "Å" : row))));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});

/** A piece is valid only until the next one is asked for: this one is then written over, and it is a `Buffer`. */
function fleeting(whole: Uint8Array, name: string, size: number): ByteSource {
  return {
    name,
    size: whole.length,
    read: (start, end) => Promise.resolve(Buffer.from(whole.subarray(start, end))),
    async *chunks(start = 0) {
      let last = Buffer.alloc(0);
      for (let at = start; at < whole.length; at += size) {
        const piece = Buffer.from(whole.subarray(at, at + size));
        last.fill(0xff);
        last = piece;
        yield await Promise.resolve(piece);
      }
    },
  };
}

test.each([1, 2, 3, 5, 64])("nothing is kept of a piece of %i bytes", async (size) => {
  const rows = Array.from({ length: 40 }, (_, i) => `${"ø".repeat(1 + (i % 5))}漢${"x".repeat(i % 3)}`);
  const utf16 = Uint8Array.from(Buffer.from(`\ufeff[${rows.map((row) => `{"n": "${row}"}`).join()}]`, "utf16le"));
  const { tables } = await hatch(fleeting(utf16, "n.json", size));
  const sheet = new TextEncoder().encode(tables.text("n.csv").replace("øø漢x\r", "Å漢x\r"));
  const hostile = {
    name: "tables",
    files: () => tables.files(),
    open: async (file: string) => (file === "n.csv" ? fleeting(sheet, file, size) : tables.open(file)),
  };
  const { problems, changes } = await compare(hostile, { source: fleeting(utf16, "n.json", size) });
  expect(problems).toEqual([]);
  expect(changes.map((change) => change.new)).toEqual(["Å漢x"]);
});

describe("gzip", () => {
  const source = '{"s": [{"id": "S-1", "n": "Skarv"}, {"id": "S-2", "n": "Nord"}]}';
  test("is read as what is in it, and packed again; without changes it is the file it was", async () => {
    const packed = new Uint8Array(gzipSync(source, { level: 1 }));
    const { tables, plan } = await hatch(packed, { name: "register.json.gz" });
    expect(plan.sources[0]).toMatchObject({ file: "register.json", format: "json" });
    expect((await fold(tables, { source: packed, name: "register.json.gz" })).bytes).toEqual(packed);
    setCell(tables, "s.csv", 3, "n", "Nordlys");
    const { bytes } = await fold(tables, { source: packed, name: "register.json.gz" });
    expect(gunzipSync(bytes).toString()).toBe(source.replace("Nord", "Nordlys"));
  });
  test("folds in place and goes back", async () => {
    const folder = mkdtempSync(join(tmpdir(), "hatch-fold-gzip-"));
    try {
      const path = join(folder, "register.json.gz");
      const packed = gzipSync(source);
      writeFileSync(path, packed);
      const tables = join(folder, "t");
      await hatchInto(path, tables);
      writeFileSync(join(tables, "s.csv"), readFileSync(join(tables, "s.csv"), "utf8").replace("Skarv", "Skarv Reef"));
      await withComparison(tables, {}, (comparison, file) => foldInto(comparison, file, tables, { inPlace: true }));
      expect(gunzipSync(readFileSync(path)).toString()).toBe(source.replace("Skarv", "Skarv Reef"));
      await undoFold(path);
      expect(readFileSync(path)).toEqual(packed);
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
  test.each<[string, Uint8Array, string]>([
    ["cut off", gzipSync(source).subarray(0, 40), "gzip-broken"],
    ["a wrong check sum", gzipSync(source).map((b, i, all) => (i === all.length - 6 ? b ^ 1 : b)), "gzip-broken"],
    ["made to burst", gzipSync(Buffer.alloc(200_000_000, 32), { level: 9 }), "gzip-large"],
  ])("%s", async (_, packed, code) => {
    await expect(hatch(new Uint8Array(packed), { name: "register.json.gz" })).rejects.toMatchObject({ code });
  });
});

describe("tables that go on after a fold", () => {
  const source = '{"s": [\n  {"id": "S-1", "n": "Skarv", "in": [{"k": "a"}]},\n  {"id": "S-2", "n": "Nord"}\n]}';
  const plan = `
hatchfold: 1
sources: { s: { file: s.json } }
tables:
  s: { rows: s, key: id, label: n, new: { id: "S-{0}" }, columns: { id: id, n: n } }
  in: { rows: s/in, inside: s, columns: { k: k, next: { at: next, refers: s } } }
`;
  test("ids and fresh marks are written back; the order of rows and columns stays", async () => {
    const folder = mkdtempSync(join(tmpdir(), "hatch-fold-renew-"));
    try {
      const path = join(folder, "s.json");
      const tables = join(folder, "t");
      writeFileSync(path, source);
      await hatchInto(path, tables, { plan });
      const marks = readFileSync(join(tables, "s.csv"), "utf8").match(/^b\w+/gm)!;
      // sorted, in another order of columns; the first row is removed, two are new
      const [first, second] = marks;
      writeFileSync(
        join(tables, "s.csv"),
        `n;id;fold mark;fold action\nNils;;+x;\nNord;S-2;${second};\nSkarv;S-1;${first};remove\nRut;;;\n`,
      );
      writeFileSync(join(tables, "in.csv"), readFileSync(join(tables, "in.csv"), "utf8").replace(",S-1,a,", ",+x,b,+x"));
      const fold = async (): Promise<void> => {
        await withComparison(tables, {}, async (comparison, file) => {
          await foldInto(comparison, file, tables, { inPlace: true });
          return comparison;
        }).then((comparison) => renewTables(tables, path, comparison));
      };
      await fold();
      expect(JSON.parse(readFileSync(path, "utf8"))).toEqual({
        s: [
          { id: "S-2", n: "Nord" },
          { id: "S-3", n: "Nils", in: [{ k: "b", next: "S-3" }] },
          { id: "S-4", n: "Rut" },
        ],
      });
      const [fresh] = marks;
      expect(
        readFileSync(join(tables, "s.csv"), "utf8")
          .split("\r\n")
          .map((row) => row.split(",").slice(0, 2).join()),
      ).toEqual(["\ufeffn,id", "Nils,S-3", "Nord,S-2", "Rut,S-4", ""]);
      expect(readFileSync(join(tables, "s.csv"), "utf8")).toContain(`Nord,S-2,${fresh},`);
      // and the work goes on
      writeFileSync(join(tables, "s.csv"), readFileSync(join(tables, "s.csv"), "utf8").replace("Rut,", "Rut Holm,"));
      await fold();
      expect(readFileSync(path, "utf8")).toContain('"Rut Holm"');
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });

  test("items of a packed cell that call new rows by their names get their ids, too", async () => {
    const folder = mkdtempSync(join(tmpdir(), "hatch-fold-renew-"));
    try {
      const [path, tables] = [join(folder, "s.json"), join(folder, "t")];
      writeFileSync(path, '{"s": [{"id": "S-1"}], "r": [{"n": 1, "to": ["S-1"]}]}');
      const packed = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  s: { rows: s, key: id, new: { id: "S-{0}" }, columns: { id: id } }
  r: { rows: r, key: n, columns: { n: n, to: { at: to, pack: "|", refers: s } } }
`;
      await hatchInto(path, tables, { plan: packed });
      const sheet = (name: string): string => readFileSync(join(tables, name), "utf8");
      writeFileSync(join(tables, "s.csv"), `${sheet("s.csv")}+x,,\r\n`);
      writeFileSync(join(tables, "r.csv"), `${sheet("r.csv").replace(",S-1", ",S-1 | +x")},,2,+x\r\n`);
      const done = await withComparison(tables, {}, async (comparison, file) => {
        await foldInto(comparison, file, tables, { inPlace: true });
        return comparison;
      });
      expect(done.changes.filter(({ table }) => table === "r").map((change) => change.new ?? change.cells?.to)).toEqual([
        "S-1 | S-2",
        "S-2",
      ]);
      await renewTables(tables, path, done);
      expect(
        sheet("r.csv")
          .split("\r\n")
          .slice(1, 3)
          .map((row) => row.split(",").slice(2).join()),
      ).toEqual(["1,S-1|S-2", "2,S-2"]);
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
