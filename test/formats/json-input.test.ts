/** What bad and odd JSON gets: exact places and words, in a table; and the scanner against JSON.parse. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { fold, formatPlace, hatch, HatchFoldError, survey } from "hatch-fold";
import { json } from "../support/json-docs.js";
import { bytes, text } from "../support/sheets.js";
import { brief } from "../support/brief.js";

const BROKEN: [what: string, source: string | Uint8Array, place: string, expected: string][] = [
  ["nothing", "", "f.json:1:1", "json-empty"],
  ["white space", " \n ", "f.json:2:2", "json-empty"],
  ["no value", '{"a": }', "f.json:1:7", 'json-value {"byte":125,"seen":"}"}'],
  ["no comma", '{"a": 1\n "b": 2}', "f.json:2:2", 'json-record-goes-on {"byte":34,"seen":"\\"b\\": 2}"}'],
  ["no colon", '{"a" 1}', "f.json:1:6", 'json-colon {"byte":49,"seen":"1}"}'],
  ["no quotes", "{a: 1}", "f.json:1:2", 'json-name {"byte":97,"seen":"a: 1}"}'],
  ["comma at the end of a list", "[1, 2,]", "f.json:1:7", 'json-comma {"byte":93,"seen":"]"}'],
  ["comma at the end of a record", '{"a": 1,}', "f.json:1:9", 'json-name {"byte":125,"seen":"}"}'],
  ["wrong bracket", '{"a": [1}', "f.json:1:9", 'json-list-goes-on {"byte":125,"seen":"}"}'],
  ["cut off", '{"a": [1, 2', "f.json:1:12", 'json-cut {"open":{"list":true,"byte":6}}'],
  ["cut in a text", '["abc', "f.json:1:6", 'json-cut {"open":{"list":true,"byte":0}}'],
  ["cut in a word", "[tru", "f.json:1:5", 'json-cut {"open":{"list":true,"byte":0}}'],
  ["two values", "{} {}", "f.json:1:4", 'json-trailing {"byte":123,"seen":"{}"}'],
  ["leading zero", '{"Ærø": 007}', "f.json:1:9", 'json-number {"byte":48,"seen":"007}"}'],
  ["bare point", "[.5]", "f.json:1:2", 'json-value {"byte":46,"seen":".5]"}'],
  ["point at the end", "[1.]", "f.json:1:2", 'json-number {"byte":49,"seen":"1.]"}'],
  ["plus", "[+1]", "f.json:1:2", 'json-value {"byte":43,"seen":"+1]"}'],
  ["line break in a text", '["a\nb"]', "f.json:1:4", 'json-control {"byte":10,"seen":""}'],
  ["unknown escape", '["\\x41"]', "f.json:1:3", 'json-escape {"byte":92,"seen":"\\\\x41\\"]"}'],
  ["short escape", '["\\u12"]', "f.json:1:3", 'json-escape {"byte":92,"seen":"\\\\u12\\"]"}'],
  ["single quotes", "['a']", "f.json:1:2", 'json-value {"byte":39,"seen":"\'a\']"}'],
  ["a comment", "[1] // done", "f.json:1:5", 'json-trailing {"byte":47,"seen":"// done"}'],
  ["not UTF-8", Uint8Array.from([0x5b, 0x22, 0xff, 0x22, 0x5d]), "f.json:1:3", 'utf8 {"byte":255,"seen":"�\\"]"}'],
  ["an overlong form", Uint8Array.from([0x5b, 0x22, 0xc0, 0x80, 0x22, 0x5d]), "f.json:1:3", 'utf8 {"byte":192,"seen":"��\\"]"}'],
];

describe("broken JSON", () => {
  test.each(BROKEN)("%s", async (_, source, place, expected) => {
    for (const verb of [survey, hatch]) {
      const error: unknown = await verb(source, { name: "f.json" }).catch((caught: unknown) => caught);
      expect(error).toBeInstanceOf(HatchFoldError);
      const known = error as HatchFoldError;
      expect([formatPlace(known.place), brief(known)]).toEqual([place, expected]);
      expect(known.status).toBe(2);
    }
  });
});

describe("odd but right", () => {
  const ODD: [what: string, source: string][] = [
    ["a scalar at the top", "42"],
    ["a text at the top", ' "Ærø"\n'],
    ["null at the top", "null"],
    ["an empty record", "{}"],
    ["an empty list", "[ ]"],
    ["names twice in a record", '{"stations": [{"code": "A", "code": "B", "n": 1}, {"code": "C"}]}'],
    ["half characters", '{"a": "\\ud800 and \\udc00", "\\udfff": 1}'],
    ["long numbers", '{"a": [{"n": 12345678901234567890.10}, {"n": 1e400}, {"n": -0.0}]}'],
    ["names that are no names", '{"__proto__": {"constructor": [{"": 1, "a/b": 2, "~": 3}]}, "hasOwnProperty": null}'],
    ["depth 100,000", "[".repeat(100_000) + "]".repeat(100_000)],
    ["depth 100,000 of records", '{"a":'.repeat(100_000) + "1" + "}".repeat(100_000)],
    ["one or many", '{"s": [{"l": {"n": 1}}, {"l": [{"n": 2}, {"n": 3}]}, {"l": []}, {"l": null}, {}]}'],
    ["lists of places", '{"routes": [[1.5, 2, "A"], [3, 4.0, "B"], [5, 6]]}'],
    ["lists in lists in lists", '{"rings": [[[1, 2], [3, 4]], [[5, 6]]]}'],
    ["keyed records in keyed records", '{"d": {"D-1": {"s": {"S-1": {"n": 1}, "S-2": {"n": 2}}}, "D-2": {"s": {"S-3": {"n": 3}}}}}'],
    ["a map of plain values at the top", `{${Array.from({ length: 12 }, (_, i) => `"k-${i}": "v${i}"`).join(", ")}}`],
    ["its own kind inside", '{"part": {"n": "a", "part": [{"n": "b", "part": [{"n": "c"}]}, {"n": "d"}]}}'],
    [
      "hundreds of kinds",
      `{${Array.from({ length: 300 }, (_, i) => `"kind ${"abcdefghij"[i % 10]}${String.fromCharCode(97 + (i % 26))}${i}": [{"f${i}": ${i}}]`).join(", ")}}`,
    ],
  ];
  test.each(ODD)("%s", async (_, source) => {
    const { tables, plan } = await hatch(source);
    expect(text((await fold(tables, { source })).bytes)).toBe(source);
    expect(plan.text.length).toBeLessThan(20_000);
  });

  test("shapes come out usable", async () => {
    const titles = async (source: string): Promise<Record<string, string[]>> => {
      const { receipt } = await hatch(source);
      return Object.fromEntries(receipt.tables.map((table) => [table.name, table.titles.slice(2)]));
    };
    expect(await titles('{"routes": [[1.5, 2], [3, 4.0]]}')).toEqual({ routes: ["item 1", "item 2"] });
    expect(await titles('{"d": {"D-1": {"s": {"S-1": {"n": 1}, "S-2": {"n": 2}}}, "D-2": {"s": {"S-3": {"n": 3}}}}}')).toEqual({
      d: ["key"],
      s: ["d", "key", "n"],
    });
    expect(await titles('{"s": [{"c": "x", "l": {"n": 1}}, {"c": "y", "l": [{"n": 2}]}]}')).toEqual({ s: ["c"], l: ["s", "n"] });
    expect(await titles('[{"id": 1, "tower": {"h": 2}}, {"id": 2, "tower": null}]')).toEqual({ records: ["id", "tower", "tower/h"] });
  });

  test("the survey points out what is odd", async () => {
    const shape = await survey(
      '{"s": [{"id": "A", "id": "B"}, {"id": "a "}, {"id": 12345678901234567890}, {"id": "\\ud800", "x": 1}, {"id": "c"}]}',
    );
    const said = shape.remarks.map((remark) => remark.message).join("\n");
    for (const part of [
      "stands more than once in 1 record",
      "more digits than a double",
      "half a character",
      '"A", "a "',
      "mixed types",
      "in one record only",
    ])
      expect(said).toContain(part);
  });
});

test("the scanner takes what JSON.parse takes, and refuses what it refuses", () =>
  fc.assert(
    fc.asyncProperty(json, fc.nat(), fc.constantFrom("", "x", ",", "}", '"', "\\", "0"), async (source, at, damage) => {
      const cut = at % (source.length + 1);
      const damaged = source.slice(0, cut) + damage + source.slice(cut + (at % 2));
      const parsed = (): unknown => JSON.parse(damaged.replace(/^\ufeff/, "")) as unknown;
      const right = await survey(bytes(damaged), { format: "json" }).then(
        () => true,
        (error: unknown) => {
          expect(error).toBeInstanceOf(HatchFoldError);
          return false;
        },
      );
      // a lone surrogate cut in the test's own text becomes U+FFFD in UTF-8: no difference for either reader
      if (right) expect(parsed).not.toThrow();
      else expect(parsed).toThrow();
    }),
    { numRuns: 600 },
  ));
