/** What a survey finds and what a draft makes of it, on small documents. */
import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { copyTables, draft, fold, hatch, MemoryTables, readPlan, RowTables, survey, Workbook } from "hatch-fold";
import { setCell } from "./support/sheets.js";

const list = (n: number, make: (i: number) => unknown): unknown[] => Array.from({ length: n }, (_, i) => make(i));
const kindsOf = async (document: unknown): Promise<string[]> => {
  const { kinds } = await survey(JSON.stringify(document));
  return kinds.map((kind) => `${kind.name} ${kind.count} ${kind.form}${kind.inside === null ? "" : ` in ${kind.inside}`}`);
};

describe("are names data or fields?", () => {
  test.each<[string, unknown, string[]]>([
    ["codes with records", { lights: { "L-1": { n: 1 }, "L-2": { n: 2 } } }, ["lights 2 keyed"]],
    ["two places of one record", { start: { x: 1, y: 2 }, end: { x: 3, y: 4 } }, ["document 1 document"]],
    [
      "many words with records",
      Object.fromEntries(list(14, (i) => ["abcdefghijklmn"[i].repeat(3), { n: i }]) as [string, unknown][]),
      ["records 14 keyed"],
    ],
    ["a record of many texts", { s: list(3, (i) => ({ a: "x", b: "y", c: `${i}` })) }, ["s 3 list"]],
    [
      "maps of values that change",
      { p: list(4, (i) => ({ id: i, d: Object.fromEntries(list(4, (j) => [`lib-${i}${j}`, "1.0"]) as [string, string][]) })) },
      ["p 4 list", "d 16 keyed in p"],
    ],
    [
      "a dump of many tables",
      Object.fromEntries(
        list(13, (i) => [`table${"abcdefghijklm"[i]}`, list(2, (j) => ({ [`f${"abcdefghijklm"[i]}`]: j }))]) as [string, unknown][],
      ),
      list(13, (i) => `table${"abcdefghijklm"[i]} 2 list`) as string[],
    ],
    [
      "few maps of few, whose names differ",
      { g: { east: { a: { n: 1 }, b: { n: 2 } }, west: { c: { n: 3 } }, mid: { d: { n: 4 }, e: { n: 5 }, f: { n: 6 } } } },
      ["g 3 keyed", "g items 6 keyed in g"],
    ],
    [
      "fields of fields that differ",
      {
        g: {
          home: { street: { at: 1 }, town: { of: 2 } },
          work: { tel: { no: 3 }, fax: { no: 3 } },
          mail: { to: { at: 1 }, cc: { at: 4 } },
        },
      },
      ["document 1 document"],
    ],
    ["keyed lists", { g: { "A-1": [{ n: 1 }], "A-2": [{ n: 2 }, { n: 3 }], "A-3": [] } }, ["g 3 keyed"]],
  ])("%s", async (_, document, kinds) => {
    expect(await kindsOf(document)).toEqual(kinds);
  });

  test("names by the thousand do not make a shape of thousands", async () => {
    const document = {
      codes: Object.fromEntries(list(5000, (i) => [`word${String.fromCharCode(97 + (i % 26))}${i}`, { at: i }]) as [string, unknown][]),
    };
    const shape = await survey(JSON.stringify(document));
    expect(shape.kinds).toHaveLength(1);
    expect(shape.kinds[0]).toMatchObject({ name: "codes", count: 5000, form: "keyed", path: "codes/*" });
  });
});

describe("keys and references", () => {
  const document = {
    people: list(12, (i) => ({ id: `P-${i}`, name: `N${i % 11}`, age: 20 + i })),
    postings: list(20, (i) => ({ person: `P-${i % 12}`, since: `2001-01-${10 + i}`, n: i % 5 })),
  };
  test("a key is always there and never twice; a reference is found in a key", async () => {
    const { kinds } = await survey(JSON.stringify(document));
    const field = (kind: string, path: string) => kinds.find((one) => one.name === kind)!.fields.find((one) => one.path === path)!;
    expect(field("people", "id")).toMatchObject({ couldBeKey: true, present: 12, types: { text: 12 } });
    expect(field("people", "name").couldBeKey).toBe(false);
    expect(field("postings", "person").couldRefer).toEqual([{ kind: "people", field: "id" }]);
    expect(field("postings", "n").couldRefer).toEqual([]);
  });
  test("a key that stands twice is pointed out", async () => {
    const doubled = { people: [...document.people, { id: "P-3", name: "again", age: 1 }] };
    const { remarks } = await survey(JSON.stringify(doubled));
    expect(remarks.map((remark) => remark.message)).toContain('nearly a key, but these stand twice: "P-3"');
  });
  test("the draft takes it as the key, types its columns, and reads back the same", async () => {
    const { plan } = await draft(JSON.stringify(document), { name: "d.json" });
    const [people, postings] = (await readPlan(plan)).tables;
    expect(people).toMatchObject({ name: "people", key: "id" });
    expect(people.columns.map(({ title, type }) => `${title}:${type}`)).toEqual(["id:text", "name:text", "age:integer"]);
    expect(postings.columns.map(({ title, type }) => `${title}:${type}`)).toEqual(["person:text", "since:date", "n:integer"]);
    expect(plan).toContain("# 12 records");
  });
  test("one edit of a text does not change the draft", async () => {
    const before = await hatch(JSON.stringify(document));
    const after = await hatch(JSON.stringify(document).replace('"N3"', '"N3, \\"x\\" & <b>"'));
    expect(after.plan.text).toBe(before.plan.text);
  });
});

test("a deep, irregular document is drafted small, and what is left verbatim is said", async () => {
  const letters = (i: number): string => `${"abcdefghijklmnopqrstuvwxyz"[i % 26]}${"abc"[Math.floor(i / 26)]}`;
  const lists = list(60, (i) => [`kind ${letters(i)}`, list(i + 1, (j) => ({ [letters(i)]: j, b: [{ [`c${letters(i)}`]: [{ d: j }] }] }))]);
  const document = Object.fromEntries(lists as [string, unknown][]);
  const { plan, notes } = await draft(JSON.stringify({ head: 1, ...document, tail: { deep: document } }));
  const { tables } = await readPlan(plan);
  expect(tables.length).toBeLessThanOrEqual(31);
  // every list of the document is a table, or verbatim in the document's row
  for (const name of Object.keys(document)) expect(plan).toContain(name);
  expect(notes.length).toBeGreaterThan(0);
  for (const note of notes) expect(plan).toContain(note);
});

describe("hierarchy in flat records is pointed out", () => {
  const FOUND: [what: string, rows: string, remarks: string[]][] = [
    [
      "a path in a cell",
      "way,n\nHarbours,1\nHarbours/North,1\nHarbours/South,8\nBuoys,4\nBuoys/Red,2\n",
      ['way: paths, with "/" between the names: the records could be a tree'],
    ],
    [
      "with another separator, and steps that are no records",
      "at,n\nA > B > C,1\nA > B > D,1\nA > E > F,9\nA > E > G,9\nA > E > H,9\n",
      ['at: paths, with " > " between the names: the records could be a tree'],
    ],
    ["a depth", "l,name\n0,a\n1,b\n2,c\n2,d\n1,e\n0,f\n", ["l: depths down to 2 in the order of the records: they could be a tree"]],
    [
      "the code of the one above",
      "code,above\na1,\na2,a1\na3,a2\na4,a1\na5,a2\n",
      ['above: names the record above by its "code": the records could be a tree'],
    ],
    [
      "once, and blank below",
      "district,code\nNorth,a\n,b\n,c\nSouth,d\n,e\n",
      ["district: stands in the first of several records, and is blank in those below it"],
    ],
    [
      "repeated parents",
      "light,station,station name\n1,a,Gull\n2,a,Gull\n3,b,Tern\n4,b,Tern\n5,c,Alk\n6,c,Alk\n",
      ['station: 3 values in 6 records, each always with the same "station name": they could be records of their own'],
    ],
    ["numbers that count up and begin anew", "n,m\n1,a\n2,b\n3,c\n1,d\n2,e\n", []],
    [
      "dates, fractions and addresses",
      "d,f,u\n1/2/99,1/2,http://a/b\n2/2/99,1/3,http://a/c\n3/2/99,2/3,http://a/d\n4/2/99,3/4,http://b\n5/2/99,4/5,http://c\n",
      [],
    ],
    ["yes and no", "in,code\n0,a\n1,b\n1,c\n0,d\n1,e\n0,f\n", []],
    ["a column that few fill", "note,code\n,a\nx,b\n,c\n,d\ny,e\n", []],
  ];
  test.each(FOUND)("%s", async (_, rows, remarks) => {
    const shape = await survey(rows, { name: "flat.csv" });
    const said = shape.remarks.map(({ path, message }) => `${path}: ${message}`);
    expect(said.filter((one) => /tree|of their own|blank in those/.test(one))).toEqual(remarks);
  });

  test("a draft says which column could be filled down", async () => {
    const { plan } = await draft("district,code\nNorth,a\n,b\n,c\nSouth,d\n,e\n", { name: "w.csv" });
    expect(plan).toContain("district: { at: district, type: text } # blank below its first: with fill: down each row shows it");
  });

  test("a draft says which columns could be kept the same", async () => {
    const { plan } = await draft("light,station,station name\n1,a,Gull\n2,a,Gull\n3,b,Tern\n4,b,Tern\n5,c,Alk\n6,c,Alk\n", {
      name: "w.csv",
    });
    expect(plan).toContain("# the same for each station: with same-for: station an edit has to be made in all of them");
  });

  test("a draft says how each would be a tree, and the plan with it can be read", async () => {
    const { plan } = await draft("way,level\nA,1\nA|B,2\nA|C,2\nD,1\nD|E,2\n", { name: "w.csv" });
    expect(plan).toContain('# 5 records; a tree with tree: { path: way, separator: "|" }, or with tree: { depth: level } and a label');
    const tree = plan.replace("    rows: .\n", '    rows: .\n    tree: { path: way, separator: "|" }\n');
    expect((await readPlan(tree)).tables[0].tree).toEqual({ kind: "path", column: "way", separator: "|" });
  });
});

test("a draft says what refers to what where all values are keys, and asks where that may be by chance", async () => {
  const ids = ["P-1", "P-2", "P-3", "P-4"];
  const { plan } = await draft(
    JSON.stringify({
      people: ids.map((id) => ({ id })),
      words: ["red", "green", "blue"].map((code) => ({ code })),
      postings: ids.map((person, i) => ({ person, deputy: ids[3 - i], seen: ["red", "green"][i % 2], words: ["red", "blue"][i % 2] })),
    }),
  );
  const lines = plan.split("\n").map((line) => line.trim());
  expect(lines).toContain("person: { at: person, type: text, refers: people }");
  expect(lines).toContain("deputy: { at: deputy, type: text, refers: people }");
  expect(lines).toContain("words: { at: words, type: text, refers: words }");
  expect(lines).toContain("seen: { at: seen, type: text } # could be refers: words: all values are keys there");
});

test.each([
  ["lights.json", "lights"],
  ["depots of 2026.json", "depots of 2026"],
  ["lights.ndjson.gz", "lights"],
  ["2026.json", "records"],
  [undefined, "records"],
])("a list that has no name of its own is called as its file %s", async (name, called) => {
  const { kinds } = await survey('[{"n": 1}, {"n": 2}]', name === undefined ? {} : { name });
  expect(kinds.map((kind) => kind.name)).toEqual([called]);
});

test("a key is short: a long text is none, and of several the shortest is taken", async () => {
  const rows = list(12, (i) => ({ title: `The light on the ${i} rocks`, tag: `t${i}`, told: `${i} `.repeat(40), parts: [{ n: 1 }] }));
  const { plan } = await draft(JSON.stringify({ rows }));
  expect(plan).toContain("key: tag");
  const { plan: flat } = await draft(
    JSON.stringify({ rows: list(12, (i) => ({ title: `The light on the ${i} rocks`, told: `${i} `.repeat(40) })) }),
  );
  expect(flat).toMatch(/title: .* # never twice: could be the key\n\s+told: [^#]*\n/);
});

test("maps in maps by the ten thousand are seen as such, level by level", async () => {
  const map = (n: number, letter: string, make: (i: number) => unknown): unknown =>
    Object.fromEntries(list(n, (i) => [`${letter}${i}`, make(i)]) as [string, unknown][]);
  // every name stands once in the file
  let n = 0;
  const document = map(40, "k", () => map(25, `n${n++}x`, () => map(12, `f${n++}x`, () => ({ x: 1, y: "a" }))));
  expect(await kindsOf(document)).toEqual([
    "records 40 keyed",
    "records items 1000 keyed in records",
    "records items items 12000 keyed in records items",
  ]);
});

test("where names are no data, no more places are told apart than memory bears, and that is said", async () => {
  let n = 0;
  // names without digits, whose members are not alike: nothing says that they are data
  const word = (): string =>
    Array.from(String(n++), (digit) => "abcdefghij"[Number(digit)])
      .join("")
      .padStart(4, "z");
  const chain = (depth: number): unknown => (depth === 0 ? 1 : { [word()]: chain(depth - 1), [word()]: "x", [word()]: 1, [word()]: [1] });
  const { remarks } = await survey(JSON.stringify(Object.fromEntries(list(1500, () => [word(), chain(12)]) as [string, unknown][])));
  expect(remarks.map(({ message }) => message).join()).toMatch(/more places than are told apart: [\d,]+ values were not looked at/);
});

describe("the head of a large source", () => {
  const stations = Array.from({ length: 40_000 }, (_, i) => ({ code: `S${i}`, height: i / 10, lamps: [{ no: 1 }, { no: 2 }] }));
  const SOURCES: readonly (readonly [name: string, text: string])[] = [
    ["s.json", JSON.stringify({ register: { stations } })],
    [
      "s.xml",
      `<register>${stations.map(({ code }) => `<station code="${code}"><lamp no="1"/><lamp no="2"/></station>`).join("")}</register>`,
    ],
    ["s.csv", `code,height\r\n${stations.map(({ code, height }) => `${code},${height}\r\n`).join("")}`],
  ];
  test.each(SOURCES)("%s: a draft by it is one that all of the source can be hatched with", async (name, source) => {
    const { plan } = await draft(source, { name, head: 1 });
    const { plan: whole } = await draft(source, { name });
    expect(plan.replace(/# .*/g, "")).toBe(whole.replace(/# .*/g, ""));
    const { kinds } = await survey(source, { name, head: 1 });
    const last = kinds.at(-1)!;
    expect(last.count).toBeGreaterThan(100);
    expect(last.count).toBeLessThan(name === "s.csv" ? 40_000 : 80_000);
  });
});

test("tables are copied from one container into another with their receipt, edits with them", async () => {
  const source = '{"stations": [{"code": "007", "height": 12.50, "tags": ["a", "b"]}]}';
  const { tables } = await hatch(source, { name: "s.json" });
  setCell(tables, "stations.csv", 2, "height", "13.00");
  const [book, rows, files] = [new Workbook(), new RowTables(), new MemoryTables()];
  await copyTables(tables, book);
  await copyTables(book, rows);
  await copyTables(rows, files);
  expect(rows.rows("stations")[0]).toMatchObject({ code: "007", height: "13.00" });
  for (const copy of [book, rows, files])
    expect(new TextDecoder().decode((await fold(copy, { source, name: "s.json" })).bytes)).toBe(source.replace("12.50", "13.00"));
  await expect(copyTables(new MemoryTables(), new Workbook())).rejects.toMatchObject({ name: "TablesError" });
});

test.each([
  ["lines.dat", "0012345\n0022346\n0032347\n", "fixed", undefined],
  ["orders.txt", readFileSync(new URL("../demo/orders.txt", import.meta.url), "utf8"), "tagged", "delimited"],
  ["s.csv", "1;a\n2;b\n3;c\n", "delimited", undefined],
  ["s.json", "{}", "json", undefined],
])("%s: what it is taken for, and what it could be otherwise", async (name, source, format, next) => {
  const { source: found } = await survey(source, { name });
  expect([found.format, found.next?.format]).toEqual([format, next]);
});

test("bytes that stand for no letter tell that a text is in another encoding than it was taken to be", async () => {
  const rows = (bytes: readonly number[]): Uint8Array =>
    Uint8Array.from([...Buffer.from("no;name\n1;Skarv"), ...bytes, ...Buffer.from("y\n2;Holm\n")]);
  const said = async (bytes: readonly number[], encoding?: string): Promise<string[]> =>
    (await survey(rows(bytes), { name: "s.csv", encoding })).remarks
      .map((remark) => remark.message)
      .filter((one) => one.includes("windows-1252"));
  expect(await said([0x9b, 0x81])).toEqual([expect.stringMatching(/\(81\).*cp850/) as string]);
  expect(await said([0x9b, 0x81], "cp850")).toEqual([]);
  expect(await said([0xf8])).toEqual([]);
});
