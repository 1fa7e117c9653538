/** Reports: the patch on any two documents, and what the page does with markup in values. */
import fastJsonPatch from "fast-json-patch";
import fc from "fast-check";
import { SaxesParser } from "saxes";
import { describe, expect, test } from "vitest";
import { compare, hatch, mermaidDiagram, reportKind, survey, svgDiagram, writeReport } from "hatch-fold";
import { makePatch } from "../src/report/patch.js";
import { setCell } from "./support/sheets.js";

const value = fc.jsonValue({ maxDepth: 3, noUnicodeString: false });
const clone = (one: unknown): unknown => JSON.parse(JSON.stringify(one)) as unknown;

test("a patch applied by a standard library to one document gives the other", () =>
  fc.assert(
    fc.property(value, value, fc.array(fc.nat({ max: 9 }), { maxLength: 8 }), (a, b, picks) => {
      fc.pre(!JSON.stringify([a, b]).includes("__proto__"));
      // lists of records that were shuffled, shortened and lengthened, as a fold leaves them
      const records = Array.from({ length: 10 }, (_, i) => ({ id: i, v: a }));
      const edited = [...picks.map((i) => records[i]), { id: 99, v: b }];
      for (const [before, after] of [
        [a, b],
        [{ list: records }, { list: edited }],
      ]) {
        const patched = fastJsonPatch.applyPatch(clone(before), clone(makePatch(clone(before), clone(after))) as never).newDocument;
        expect(patched).toEqual(clone(after));
      }
    }),
    { numRuns: 400 },
  ));

test("one record taken out of a long list is one operation", () => {
  const before = { s: Array.from({ length: 500 }, (_, i) => ({ id: i })) };
  const after = { s: before.s.filter(({ id }) => id !== 100) };
  expect(makePatch(before, after)).toEqual([{ op: "remove", path: "/s/100" }]);
});

test("values are text in every report, never markup", async () => {
  const source = '{"s": [{"id": 1, "note": "<script>alert(1)</script> | a"}]}';
  const { tables } = await hatch(source);
  setCell(tables, "s.csv", 2, "note", "<b>bold</b> | b\nnext");
  const input = { source: "<s>.json", tables: "t", ...(await compare(tables, { source })) };
  const html = await writeReport("html", input);
  expect(html).not.toMatch(/<script|<b>bold/);
  expect(html).toContain("&lt;script&gt;alert(1)&lt;/script&gt;");
  const markdown = await writeReport("markdown", input);
  expect(markdown).toContain("&lt;b&gt;bold&lt;/b&gt; \\| b<br>next");
  expect(JSON.parse(await writeReport("json", input))).toMatchObject({ counts: { changed: 1 } });
});

test.each([
  ["a.html", "html"],
  ["A.HTML", "html"],
  ["a.md", "markdown"],
  ["a.json", "json"],
  ["a.patch.json", "patch"],
  ["a.json-patch", "patch"],
  ["a.txt", null],
])("%s asks for %s", (file, kind) => {
  expect(reportKind(file)).toBe(kind);
});

describe("diagrams", () => {
  const source = JSON.stringify({
    people: Array.from({ length: 6 }, (_, i) => ({ id: `P-${i}`, name: `Person <${i}>` })),
    stations: Array.from({ length: 6 }, (_, i) => ({ code: `S-${i}`, lights: [{ no: `L-${i}` }, { no: `M-${i}` }] })),
    postings: Array.from({ length: 9 }, (_, i) => ({ person: `P-${i % 5}`, station: `S-${(i * 2) % 6}`, role: "keeper" })),
  });

  test("Mermaid: nested, referring and link kinds", async () => {
    const text = mermaidDiagram(await survey(source));
    for (const line of [
      '  "stations" ||--o{ "lights" : holds',
      '  "people" ||..o{ "postings" : "person"',
      '  "stations" ||..o{ "postings" : "station"',
      '  "postings":::link {',
      "    text id PK",
      "    text person FK",
    ])
      expect(text.split("\n")).toContain(line);
  });

  test("SVG: well formed, a box for each kind, a line for each relation", async () => {
    const svg = svgDiagram(await survey(source));
    const parser = new SaxesParser();
    const names: string[] = [];
    parser.on("error", (error) => {
      throw error;
    });
    parser.on("opentag", (tag) => names.push(tag.name));
    parser.write(svg).close();
    expect(names.filter((name) => name === "g")).toHaveLength(4);
    expect(svg.match(/stroke-dasharray="5 4" marker-start/g)).toHaveLength(2);
  });
});
