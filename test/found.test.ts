/** Faults that were found by people who tried files of their own: each once, where it was. */
import { describe, expect, test } from "vitest";
import { check, fold, hatch } from "hatch-fold";
import { bytes, edit, readRows, text } from "./support/sheets.js";

test("attributes of an element that stands behind many others are hatched", async () => {
  const names = Array.from({ length: 14 }, (_, i) => `c${i}`);
  const record = (n: number): string => `<r>${names.map((name) => `<${name}>${n}</${name}>`).join("")}<light no="L-${n}">lit</light></r>`;
  const source = `<all>${record(1)}${record(2)}</all>`;
  const columns = [...names.map((name) => `${name}: ${name}`), 'no: "light/@no"', "light: light"].join(", ");
  const plan = `hatchfold: 1\nsources: { s: { file: s.xml } }\ntables: { r: { rows: all/r, columns: { ${columns} } } }\n`;
  const { tables } = await hatch(source, { name: "s.xml", plan });
  expect(readRows(tables, "r.csv").map((row) => row.slice(-2))).toEqual([
    ["no", "light"],
    ["L-1", "lit"],
    ["L-2", "lit"],
  ]);
});

test("the name that a long list has in its record is that of every row in it", async () => {
  const lists = ["S-0", 'S"1', "S-2"].map((name) => [name, Array.from({ length: 6000 }, (_, i) => ({ no: `L-${i}`, at: { x: i } }))]);
  const source = JSON.stringify({ stations: Object.fromEntries(lists) as unknown });
  const plan = 'hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { l: { rows: stations/*, columns: { in: ":key", no: no } } }\n';
  const { tables } = await hatch(source, { name: "s.json", plan });
  const rows = readRows(tables, "l.csv").slice(1);
  expect(rows.map((row) => row[2])).toEqual(lists.flatMap(([name, list]) => (list as unknown[]).map(() => name)));
  const { bytes: folded, unchanged } = await fold(tables, { source, name: "s.json" });
  expect([unchanged, text(folded) === source]).toEqual([true, true]);
});

describe("an item that says what it said keeps what is not shown, wherever it goes; one that says something else is another", () => {
  const json = '{"t": [{"code": "S", "cast": [{"p": "A", "fee": 1}, {"p": "B", "fee": 2}, {"p": "C", "fee": 3}]}]}';
  const xml = '<t code="S"><cast p="A" fee="1"/><cast p="B" fee="2"/><cast p="C" fee="3"/></t>';
  const planOf = (form: string, name: string): string =>
    `hatchfold: 1\nsources: { s: { file: ${name} } }\ntables: { t: { rows: t, columns: { code: ${name === "s.xml" ? '"@code"' : "code"}, cast: { at: ${name === "s.xml" ? '"cast/@p"' : "cast/p"}, ${form} } } } }\n`;
  const read = (text: string): string[] =>
    [...text.matchAll(/[{<](?:cast )?"?p"?[:=] ?"(.)"(?:,? "?fee"?[:=] ?"?(\d))?/g)].map(([, p, fee]) => `${p}${fee ?? ""}`);
  const CASES: [string, string][] = [
    ["B|A|C", "B2 A1 C3"],
    ["C|B|A", "C3 B2 A1"],
    ["C|A|B", "C3 A1 B2"],
    ["A|X|C", "A1 X C3"],
    ["X|C|A", "X C3 A1"],
    ["B|C", "B2 C3"],
  ];
  test.each(
    ["s.json", "s.xml"].flatMap((name) =>
      ['pack: "|"', "spread: 3"].flatMap((form) => CASES.map(([now, wanted]) => [name, form, now, wanted])),
    ),
  )("%s, %s: %s", async (name, form, now, wanted) => {
    const source = name === "s.xml" ? xml : json;
    const { tables } = await hatch(source, { name, plan: planOf(form, name) });
    edit(tables, "t.csv", (rows) => [
      rows[0],
      [...rows[1].slice(0, 3), ...(form === "spread: 3" ? [...now.split("|"), ""].slice(0, 3) : [now])],
    ]);
    const { bytes: folded, notes } = await fold(tables, { source, name });
    expect(read(text(folded)).join(" ")).toBe(wanted);
    // an item went and another stands in its place: that is told
    if (now === "A|X|C") expect(notes.map((note) => note.code)).toContain("item-other");
  });
});

describe("one fold", () => {
  const planOf = (columns: string, rows = "a", file = "s.json"): string =>
    `hatchfold: 1\nsources: { s: { file: ${file} } }\ntables: { a: { rows: ${rows}, columns: { ${columns} } } }\n`;
  const parts = planOf("u: u, x: u/x, y: u/y");
  const records = '{"a": [{"u": {"x": 1, "y": 2}}, {"u": null}]}';
  const keyed = '{"a": {"one": [{"v": 1}], "two": []}}';
  const doubled = '{"a": [{"v": 1, "v": 2, "u": {"x": 3}, "u": {"x": 4}}, {"v": 9}]}';
  const elements = '<all><s><q a="1"><z>2</z></q></s><s><q>t</q></s></all>';
  const CASES: [what: string, source: string, plan: string, change: (rows: string[][]) => void, wanted: string | readonly string[]][] = [
    [
      "makes a record null and clears its parts",
      records,
      parts,
      ([, one]) => one.splice(2, 3, "(null)", "", ""),
      records.replace('{"x": 1, "y": 2}', "null"),
    ],
    ["gives a new record no value beside its parts", records, parts, (rows) => rows.push(["", "", "(null)", "7", ""]), ["rest-filled"]],
    [
      "makes a new record of its parts",
      records,
      parts,
      (rows) => rows.push(["", "", "{}", "7", ""]),
      records.replace("null}", 'null}, {"u": {"x": 7}}'),
    ],
    [
      "writes a number over an empty text",
      '{"a": [{"t": ""}, {"t": 5}]}',
      planOf("t: { at: t, type: integer }"),
      ([, one]) => (one[2] = "12"),
      '{"a": [{"t": 12}, {"t": 5}]}',
    ],
    [
      "puts no second member of a name beside an empty list",
      keyed,
      planOf('k: ":key", v: v', "a/*"),
      (rows) => rows.push(["", "", "two", "2"]),
      ["name-of-list"],
    ],
    [
      "gives an element a text and clears what was in it",
      elements,
      planOf("q: q, z: q/z", "all/s", "s.xml"),
      ([, one]) => one.splice(2, 2, "words", ""),
      elements.replace("<z>2</z>", "words"),
    ],
    ["uncovers no member before one that goes", doubled, planOf("v: v, x: u/x"), ([, one]) => one.splice(2, 1, ""), ["repeated-cleared"]],
    ["uncovers none in a record, either", doubled, planOf("v: v, x: u/x"), ([, one]) => one.splice(3, 1, ""), ["repeated-cleared"]],
    [
      "writes over the last member of a name",
      doubled,
      planOf("v: v, x: u/x"),
      ([, one]) => one.splice(2, 2, "(null)", "5"),
      doubled.replace("2", "null").replace("4", "5"),
    ],
    [
      "uncovers no element before one that goes",
      "<all><s><q>1</q><q>2</q></s><s><q>3</q></s></all>",
      planOf("q: q", "all/s", "s.xml"),
      ([, one]) => one.splice(2, 1, ""),
      ["repeated-cleared"],
    ],
  ];
  test.each(CASES)("%s", async (_, source, plan, change, wanted) => {
    const name = source.startsWith("<") ? "s.xml" : "s.json";
    const { tables } = await hatch(source, { name, plan });
    edit(tables, "a.csv", (rows) => {
      change(rows);
    });
    const { problems } = await check(tables, { source, name });
    if (typeof wanted !== "string") expect(problems.map(({ code }) => code)).toEqual(wanted);
    else expect(text((await fold(tables, { source, name })).bytes)).toBe(wanted);
  });
});

test.each([
  ["v\nnew\nx\ny\nz\n", '{"v": "new"}, {"v": "x", "fee": 1}, {"v": "y", "fee": 2}, {"v": "z", "fee": 3}', 0],
  ["v\ny\nx\nz\n", '{"v": "y", "fee": 2}, {"v": "x", "fee": 1}, {"v": "z", "fee": 3}', 1],
  ["v\ny\nq\n", '{"v": "y", "fee": 2}, {"v": "q"}', 0],
])("rows %j in place of a list: each record keeps what is not shown of it, and moves are told", async (sheet, wanted, moved) => {
  const source = '{"tags": [{"v": "x", "fee": 1}, {"v": "y", "fee": 2}, {"v": "z", "fee": 3}]}';
  const plan = "hatchfold: 1\nsources: { s: { file: s.json } }\ntables: { tags: { rows: tags, columns: { v: v } } }\n";
  const { tables } = await hatch(source, { name: "s.json", plan });
  tables.contents.set("tags.csv", bytes(sheet));
  const folded = await fold(tables, { source, name: "s.json", replace: ["tags"] });
  expect(text(folded.bytes)).toBe(`{"tags": [${wanted}]}`);
  expect(folded.counts.moved).toBe(moved);
});

test("a text that is longer than a cell of a spreadsheet is pointed out, and one that was cut there is healed", async () => {
  const source = JSON.stringify({ a: [{ t: "x".repeat(40_000) }, { t: "y".repeat(40_000) }, { t: "short" }] });
  const { tables, notes } = await hatch(source, { name: "s.json" });
  expect(notes.join()).toContain('a: 2 cells of "t" are longer than the 32,767 letters that a spreadsheet keeps');
  edit(tables, "a.csv", (rows) => {
    rows[1][2] = rows[1][2].slice(0, 32_767);
    rows[2][2] = rows[2][2].slice(0, 32_766);
  });
  const { bytes: folded, counts } = await fold(tables, { source, name: "s.json" });
  expect(counts).toMatchObject({ healed: 1, changed: 1 });
  expect(text(folded)).toBe(source.replace("y".repeat(40_000), "y".repeat(32_766)));
});
