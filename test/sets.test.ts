/** Sets of files: several, a folder, a pattern, a zip archive; each gets its own changes, all or none. */
import { mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Uint8ArrayReader, Uint8ArrayWriter, ZipReader, ZipWriter } from "@zip.js/zip.js";
import { beforeEach, describe, expect, test } from "vitest";
import { fold, hatch, MemorySource } from "hatch-fold";
import { freshFolder, inProcess, type Done } from "./support/cli.js";
import { setCell } from "./support/sheets.js";
import { says } from "./support/brief.js";

const NORTH = `{ "districts": [
  { "code": "N1", "name": "North", "stations": [ { "code": "007", "height": 12.50 }, { "code": "008", "height": 9 } ] },
  { "code": "N2", "name": "Nord" } ] }
`;
const SOUTH = `{"districts":[{"code":"Z1","name":"South","stations":[{"code":"009","height":7}]}]}`;

let folder: string;
const run = (...args: string[]): Promise<Done> => inProcess(folder, args);
const at = (...parts: string[]): string => join(folder, ...parts);
const read = (...parts: string[]): string => readFileSync(at(...parts), "utf8");
const replaceIn = (path: string, from: string, to: string): void => {
  expect(read(path)).toContain(from);
  writeFileSync(at(path), read(path).replace(from, to));
};

beforeEach(() => {
  folder = freshFolder();
  mkdirSync(at("registers", "sub"), { recursive: true });
  writeFileSync(at("registers", "north.json"), NORTH);
  writeFileSync(at("registers", "sub", "south.json"), SOUTH);
  writeFileSync(at("registers", "notes.xml"), "<notes><n>read me</n></notes>");
});

describe("a folder", () => {
  test("is surveyed as one; files of another kind are named", async () => {
    const { status, out } = await run("survey", "registers");
    expect(status).toBe(0);
    expect(out).toContain("registers   2 files, JSON (by what is in the files)");
    expect(out).toContain(says("file-left-out", { file: "notes.xml", title: "XML", format: "JSON" }));
    expect(out).toContain("stations   3 records at districts/stations, inside districts");
  });

  test("each file gets its own changes; one without changes is not touched", async () => {
    expect((await run("hatch", "registers", "-o", "t")).out).toContain("hatched 2 tables from 2 files into t");
    expect(read("t", "districts.csv")).toContain("in file,code,name");
    expect(read("t", "districts.csv")).toContain("sub/south.json,Z1,South");
    replaceIn("t/stations.csv", "12.50", "12.75");
    const before = statSync(at("registers", "sub", "south.json"));
    const compared = JSON.parse((await run("compare", "t", "--json")).out);
    expect(compared.changes).toMatchObject([{ source: "north.json", path: "/districts/0/stations/0/height", new: "12.75" }]);
    const { status, out } = await run("fold", "t", "--in-place", "--json");
    expect([status, JSON.parse(out).written]).toEqual([0, ["registers/north.json"]]);
    expect(read("registers", "north.json")).toBe(NORTH.replace("12.50", "12.75"));
    const after = statSync(at("registers", "sub", "south.json"));
    expect([after.ino, after.mtimeMs]).toEqual([before.ino, before.mtimeMs]);
    expect((await run("undo", "t")).status).toBe(0);
    expect(read("registers", "north.json")).toBe(NORTH);
  });

  test("a set of chosen files leaves the others of the folder alone, also when its tables are renewed", async () => {
    writeFileSync(at("registers", "west.json"), SOUTH.replaceAll("Z1", "W1").replace("009", "010"));
    await run("hatch", "registers/north.json", "registers/west.json", "-o", "t");
    replaceIn("t/stations.csv", "12.50", "12.75");
    writeFileSync(at("t", "districts.csv"), `${read("t", "districts.csv")},,west.json,W2,Outer west\r\n`);
    const done = await run("fold", "t", "--in-place", "--renew");
    expect(done).toMatchObject({ status: 0, err: "" });
    expect(read("t", "districts.csv")).toMatch(/^[a-z0-9]+,,west\.json,W2,Outer west\r?$/m);
    expect(read("t", "districts.csv")).not.toContain("south");
    expect((await run("compare", "t")).out).toBe("no changes: 7 rows unchanged\n");
  });

  test("records move from file to file with all that they hold, and go back together", async () => {
    await run("hatch", "registers", "-o", "t");
    replaceIn("t/districts.csv", "sub/south.json,Z1", "north.json,Z1");
    replaceIn("t/stations.csv", ",N1,007,12.50", ",Z1,007,12.75");
    writeFileSync(at("t", "districts.csv"), `${read("t", "districts.csv")},,sub/south.json,Z2,Sund,\r\n`);
    const { status, out } = await run("fold", "t", "--in-place");
    expect(status).toBe(0);
    expect(out).toContain("1 row changed, 1 added, 2 moved");
    expect(JSON.parse(read("registers", "north.json")).districts.map((one: { code: string }) => one.code)).toEqual(["N1", "N2", "Z1"]);
    expect(read("registers", "north.json")).toContain(
      '{"code":"Z1","name":"South","stations":[{"code":"009","height":7},{ "code": "007", "height": 12.75 }]}',
    );
    expect(read("registers", "sub", "south.json")).toBe('{"districts":[{"code":"Z2","name":"Sund"}]}');
    expect((await run("fold", "t", "--in-place")).err).toContain("were folded into registers already");
    expect((await run("undo", "registers/north.json")).err).toContain(says("undo-together", { file: "north.json", count: 2, folder: "" }));
    expect((await run("undo", "registers")).out).toContain("2 files are as they were");
    expect([read("registers", "north.json"), read("registers", "sub", "south.json")]).toEqual([NORTH, SOUTH]);
  });

  test("-o makes a folder of its own, with all files", async () => {
    await run("hatch", "registers", "-o", "t");
    replaceIn("t/stations.csv", "12.50", "12.75");
    expect((await run("fold", "t", "-o", "out")).status).toBe(0);
    expect(read("out", "sub", "south.json")).toBe(SOUTH);
    expect(read("out", "north.json")).toBe(NORTH.replace("12.50", "12.75"));
    expect(await run("fold", "t", "-o", "out")).toMatchObject({
      status: 2,
      err: expect.stringContaining(says("out-folder", { folder: "out" })),
    });
    expect(await run("fold", "t", "-o", "-")).toMatchObject({
      status: 2,
      err: expect.stringContaining("several files cannot go to standard"),
    });
    expect(readdirSync(folder).filter((name) => name.startsWith("."))).toEqual([]);
  });

  test.each([
    ["no file said", ",,,Z2,Sund,\r\n", says("file-missing", { files: [] })],
    ["no such file", ",,nort.json,Z2,Sund,\r\n", says("file-unknown", { text: "nort.json", nearest: null, files: [] })],
  ])("a new row with %s", async (_, row, said) => {
    await run("hatch", "registers", "-o", "t");
    writeFileSync(at("t", "districts.csv"), read("t", "districts.csv") + row);
    expect(await run("check", "t")).toMatchObject({ status: 1, out: expect.stringContaining(said) });
  });

  test("a file that is gone, or was changed since", async () => {
    await run("hatch", "registers", "-o", "t");
    writeFileSync(at("registers", "sub", "south.json"), SOUTH.replace("7", "8"));
    expect(await run("compare", "t")).toMatchObject({
      status: 1,
      err: expect.stringContaining(says("source-changed", { file: "sub/south.json", was: "sub/south.json" })),
    });
    rmSync(at("registers", "sub", "south.json"));
    expect(await run("compare", "t")).toMatchObject({
      status: 1,
      err: expect.stringContaining(says("source-not-found", { file: "registers/sub/south.json" })),
    });
  });
});

test("several files, a pattern, and what a draft says of them", async () => {
  const files = ["registers/north.json", "registers/sub/south.json"];
  expect((await run("draft", ...files, "-o", "plan.yaml")).status).toBe(0);
  expect(read("plan.yaml")).toContain("file:\n      - registers/north.json\n      - registers/sub/south.json");
  expect((await run("hatch", "-p", "plan.yaml", "-o", "t")).out).toContain("from 2 files");
  const rows = read("t", "stations.csv");
  expect((await run("hatch", "registers/**/*.json", "-o", "t2")).out).toContain("from 2 files");
  expect(read("t2", "stations.csv")).toBe(rows);
  expect(await run("survey", ...files, "registers/notes.xml")).toMatchObject({
    status: 2,
    err: expect.stringContaining(says("set-mixed", { file: "notes.xml", title: "XML", format: "JSON" })),
  });
  expect(await run("survey", "registers/*.csv")).toMatchObject({ status: 2, err: expect.stringContaining("no file has such a name") });
});

test("each file of delimited text has its own delimiter and titles; a row cannot go where they differ", async () => {
  const files = (first: string): MemorySource[] =>
    [first, "name|code\nSkarv|007\n", "code,name\r\n008,Ytre\r\n"].map(
      (text, i) => new MemorySource(new TextEncoder().encode(text), `${i}.csv`),
    );
  const source = files("code,name\r\n006,Nord\r\n");
  const { tables } = await hatch(source);
  expect(tables.text("records.csv")).toContain(",1.csv,007,Skarv");
  setCell(tables, "records.csv", 3, "name", "Skarv Reef");
  setCell(tables, "records.csv", 2, "in file", "2.csv");
  const { files: folded } = await fold(tables, { source });
  expect(folded.map(({ bytes }) => new TextDecoder().decode(bytes))).toEqual([
    "code,name\r\n",
    "name|code\nSkarv Reef|007\n",
    "code,name\r\n008,Ytre\r\n006,Nord\r\n",
  ]);
  setCell(tables, "records.csv", 2, "in file", "1.csv");
  await expect(fold(tables, { source })).rejects.toMatchObject({ problems: [{ code: "move-unlike", row: 2 }] });
});

describe("a zip archive", () => {
  const entries = async (bytes: Uint8Array): Promise<Record<string, string>> => {
    const reader = new ZipReader(new Uint8ArrayReader(bytes));
    const texts: Record<string, string> = {};
    for (const entry of await reader.getEntries())
      texts[entry.filename] = entry.directory ? "" : new TextDecoder().decode(await entry.arrayBuffer({ checkSignature: true }));
    return texts;
  };
  const zip = async (files: Record<string, string>, level = 6): Promise<Uint8Array> => {
    const writer = new ZipWriter(new Uint8ArrayWriter(), { level, useWebWorkers: false });
    for (const [name, text] of Object.entries(files)) await writer.add(name, new Uint8ArrayReader(new TextEncoder().encode(text)));
    return writer.close();
  };

  test("is a set of files, and goes back into an archive", async () => {
    const packed = await zip({ "north.json": NORTH, "docs/": "", "docs/read.md": "# Read me", "sub/south.json": SOUTH });
    writeFileSync(at("registers.zip"), packed);
    expect((await run("hatch", "registers.zip", "-o", "t")).out).toContain("docs/read.md was left out");
    expect((await run("fold", "t", "-o", "same.zip")).status).toBe(0);
    expect(readFileSync(at("same.zip"))).toEqual(Buffer.from(packed));
    replaceIn("t/stations.csv", "12.50", "12.75");
    expect((await run("fold", "t", "--in-place")).status).toBe(0);
    const folded = await entries(readFileSync(at("registers.zip")));
    expect(folded).toEqual({
      "north.json": NORTH.replace("12.50", "12.75"),
      "docs/": "",
      "docs/read.md": "# Read me",
      "sub/south.json": SOUTH,
    });
    expect((await run("undo", "registers.zip")).status).toBe(0);
    expect(readFileSync(at("registers.zip"))).toEqual(Buffer.from(packed));
  });

  test.each<[string, () => Promise<Uint8Array>, string]>([
    ["cut off", async () => (await zip({ "a.json": NORTH })).subarray(0, 60), "zip-broken"],
    ["a wrong check sum", async () => (await zip({ "a.json": NORTH }, 0)).map((b, i) => (i === 60 ? b ^ 1 : b)), "zip-broken"],
    ["two files of one name", () => Promise.resolve(emptyFiles(["a.json", "b.json", "a.json"])), "zip-twice"],
    ["more files than are taken", () => Promise.resolve(emptyFiles(Array.from({ length: 20_001 }, (_, i) => `${i}.json`))), "zip-many"],
    ["a name that leads out", () => zip({ "../a.json": NORTH }), "zip-name"],
    ["made to burst", () => zip({ "a.json": " ".repeat(200_000_000) }), "zip-large"],
    ["nothing in it", () => zip({}), "set-empty"],
  ])("%s", async (_, make, code) => {
    await expect(hatch(await make(), { name: "registers.zip" })).rejects.toMatchObject({ code });
  });
});

/** An archive of empty files with any names, also such as the package would not write (section 4.3 of the format's specification). */
function emptyFiles(names: readonly string[]): Uint8Array {
  const local: Buffer[] = [];
  const central: Buffer[] = [];
  let offset = 0;
  for (const name of names) {
    const text = Buffer.from(name);
    const head = Buffer.alloc(30);
    head.writeUInt32LE(0x04034b50, 0);
    head.writeUInt16LE(20, 4);
    head.writeUInt16LE(text.length, 26);
    const entry = Buffer.alloc(46);
    entry.writeUInt32LE(0x02014b50, 0);
    entry.writeUInt16LE(20, 4);
    entry.writeUInt16LE(20, 6);
    entry.writeUInt16LE(text.length, 28);
    entry.writeUInt32LE(offset, 42);
    local.push(head, text);
    central.push(entry, text);
    offset += head.length + text.length;
  }
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(names.length, 8);
  end.writeUInt16LE(names.length, 10);
  end.writeUInt32LE(
    central.reduce((sum, { length }) => sum + length, 0),
    12,
  );
  end.writeUInt32LE(offset, 16);
  return new Uint8Array(Buffer.concat([...local, ...central, end]));
}
