/** What a survey finds and what a draft makes of it, on small documents. */
import { describe, expect, test } from "vitest";
import { draft, hatch, readPlan, survey } from "hatch-fold";

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
    const [people, postings] = readPlan(plan).tables;
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
  const { tables } = readPlan(plan);
  expect(tables.length).toBeLessThanOrEqual(31);
  // every list of the document is a table, or verbatim in the document's row
  for (const name of Object.keys(document)) expect(plan).toContain(name);
  expect(notes.length).toBeGreaterThan(0);
  for (const note of notes) expect(plan).toContain(note);
});
