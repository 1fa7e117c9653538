/** Cost follows the work: what would take all day or all memory is linear, or refused with the bound that is named. */
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, survey, type ByteSource, type HatchFoldError } from "hatch-fold";
import { bytes, copyTables, text } from "./support/sheets.js";
import { brief } from "./support/brief.js";

const code = (error: unknown): string => (error as { code: string }).code;

describe("a hundred and thirty thousand of a kind", () => {
  const N = 130_000;
  const records = Array.from({ length: N }, (_, i) => ({ code: `S-${i}`, name: `Station ${i}`, n: i + 0.5, asset: `00${i}` }));
  const source = JSON.stringify({ stations: records });
  const hatched = hatch(source);
  const EDITS: [string, (sheet: string) => string, object][] = [
    ["changed", (sheet) => sheet.replaceAll(",Station ", ",Tower "), { changed: N }],
    [
      "removed and added",
      (sheet) =>
        sheet.replace(/\r\n(\w+),,/g, "\r\n$1,remove,") + Array.from({ length: N }, (_, i) => `,,N-${i},New ${i},1,7\r\n`).join(""),
      { removed: N, added: N },
    ],
    ["wrong", (sheet) => sheet.replace(/\.5,/g, ".five,"), { problems: N }],
    ["healed", (sheet) => sheet.replace(/,00(\d+)\r\n/g, (_, digits: string) => `,${Number(digits)}\r\n`), { healed: N, unchanged: N }],
  ];
  test.each(EDITS)("%s", async (_, edit, counts) => {
    const tables = copyTables((await hatched).tables);
    tables.contents.set("stations.csv", bytes(edit(tables.text("stations.csv"))));
    expect((await compare(tables, { source })).counts).toMatchObject(counts);
  });
});

describe("problems", () => {
  test("a mark that was filled down is one problem with its rows", async () => {
    const source = JSON.stringify({ stations: Array.from({ length: 20_000 }, (_, i) => ({ code: `S-${i}`, n: i })) });
    const { tables } = await hatch(source);
    const sheet = tables.text("stations.csv");
    const first = /\r\n(\w+),/.exec(sheet)![1];
    tables.contents.set("stations.csv", bytes(sheet.replace(/\r\n\w+,/g, `\r\n${first},`)));
    const { problems } = await compare(tables, { source });
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatchObject({ code: "mark-copied", row: 2 });
    expect(problems[0].rows).toHaveLength(20_000);
    expect(problems[0].message.length).toBeLessThan(200);
    // with the good rows alone, none of them is taken
    const { aside, unchanged } = await fold(tables, { source, partial: true });
    expect(aside).toHaveLength(20_000);
    expect(unchanged).toBe(true);
  });

  const plan = `hatchfold: 1
sources: { s: { file: s.json } }
tables:
  people: { rows: people, key: id, label: name, columns: { id: id, name: name } }
  links: { rows: links, columns: { person: { at: person, refers: people, label: person-name }, role: role } }
  notes: { rows: people/notes, inside: people, columns: { text: text } }
`;
  const people = Array.from({ length: 500 }, (_, i) => ({ id: `P-${i}`, name: `Name ${i}`, notes: [{ text: `t${i}` }] }));
  const source = JSON.stringify({ people, links: people.map(({ id }) => ({ person: id, role: "keeper" })) });

  /** How often the source was gone through from its beginning. */
  async function passes(wrong: number): Promise<number> {
    const { tables } = await hatch(source, { plan });
    let codes = 0;
    let parents = 0;
    const broken = tables.text("links.csv").replace(/,P-(\d+),/g, (cell, n: string) => (codes++ < wrong ? `,Q-${n}x,` : cell));
    tables.contents.set("links.csv", bytes(broken));
    const moved = tables.text("notes.csv").replace(/,P-(\d+),/g, (cell, n: string) => (parents++ < wrong ? `,Z-${n}y,` : cell));
    tables.contents.set("notes.csv", bytes(moved));
    let count = 0;
    const whole = bytes(source);
    const counted: ByteSource = {
      name: "s.json",
      size: whole.length,
      read: (start, end) => Promise.resolve(whole.subarray(start, end)),
      async *chunks(start = 0) {
        if (start === 0) count++;
        yield await Promise.resolve(whole.subarray(start));
      },
    };
    const { problems } = await compare(tables, { source: counted });
    expect(problems).toHaveLength(2 * wrong);
    expect(problems[0].hint).toContain("Perhaps");
    return count;
  }
  test("five hundred wrong codes and parents read the source as often as two", async () => {
    const few = await passes(2);
    expect(await passes(500)).toBe(few);
    expect(few).toBeLessThanOrEqual(5);
  });
});

describe("expressions", () => {
  const nested = (levels: number): string =>
    Array.from({ length: levels }, (_, i) => `[0,1,2,3,4,5,6,7,8,9].all(x${i}, `).join("") + "true" + ")".repeat(levels);
  const source = '{"s": [{"n": 1, "t": "a"}]}';
  const plan = (check: string): string =>
    `hatchfold: 1\nsources: { s: { file: s.json } }\ntables:\n  s:\n    rows: s\n    columns:\n      n: { at: n, check: ${JSON.stringify(check)} }\n`;

  test.each([
    [nested(8), "expression-steps"],
    ["row.all(a, row.all(b, true))", "expression-steps"],
    ["row.exists(a, [1,2,3].map(b, row.filter(c, true)).size() > 0)", "expression-steps"],
    ["n >", "expression"],
    ['"a".matches("(a+)+$")', "expression-matches"],
  ])("%s is refused when the plan is read, at its line", async (check, wanted) => {
    const error: unknown = await hatch(source, { plan: plan(check) }).catch((caught: unknown) => caught);
    expect(code(error)).toBe(wanted);
    expect(error).toMatchObject({ place: { line: 7 } });
  });
  test.each([nested(4), "row.exists(a, true)", "[1,2].all(a, row.exists(b, true))", "n > 0.0"])("%s is taken", async (check) => {
    await hatch(source, { plan: plan(check) });
  });
});

describe("sources", () => {
  test.each<[string, string, string, string]>([
    [
      "a line of a million commas",
      `${",".repeat(1_000_000)}\n${",".repeat(1_000_000)}\n`,
      "a.csv",
      'line-wide {"cells":1000001,"most":16384}',
    ],
    [
      "namespaces 10,000 deep",
      Array.from({ length: 10_000 }, (_, i) => `<p${i}:e xmlns:p${i}="u${i}">`).join(""),
      "a.xml",
      'xml-namespaces {"byte":120,"most":1000,"open":"1001 in all","seen":"xmlns:p1000=\\"u1000\\"><p10"}',
    ],
  ])("%s: refused, with the bound", async (_, source, name, expected) => {
    const error: unknown = await survey(source, { name }).catch((caught: unknown) => caught);
    expect(brief(error as HatchFoldError)).toBe(expected);
  });

  test.each<[string, () => string, string]>([
    ["50,000 attributes", () => `<r><s ${Array.from({ length: 50_000 }, (_, i) => `a${i}="${i}"`).join(" ")}/><s/></r>`, "a.xml"],
    ["a cell of 16 MB", () => `a,b\n1,${"x".repeat(1 << 24)}\n2,y\n`, "a.csv"],
    ["a name of 1 MB", () => JSON.stringify([{ ["k".repeat(1 << 20)]: 1 }, { b: 2 }]), "a.json"],
    [
      "400 columns",
      () => JSON.stringify(Array.from({ length: 300 }, () => Object.fromEntries(Array.from({ length: 400 }, (_, i) => [`c${i}`, i])))),
      "a.json",
    ],
  ])("%s: taken, and given back", async (_, make, name) => {
    const source = make();
    const { tables } = await hatch(source, { name });
    expect(text((await fold(tables, { source, name })).bytes) === source).toBe(true);
  });
});
