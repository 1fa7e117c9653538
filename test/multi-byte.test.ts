/** Encodings of several bytes a character, and code pages of DOS: exact there and back, whatever the bytes. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compare, fold, hatch, MemorySource } from "hatch-fold";
import { PC } from "../src/bytes/pc-names.js";
import { pcPage } from "../src/bytes/pc-pages.js";
import { law } from "./support/laws.js";
import { setCell } from "./support/sheets.js";

/** A word of each, as bytes; and one that each can write. */
const WORDS: readonly (readonly [encoding: string, word: string, bytes: readonly number[]])[] = [
  ["shift_jis", "灯台ｱ", [0x93, 0x94, 0x91, 0xe4, 0xb1]],
  ["euc-jp", "灯台ｱ", [0xc5, 0xf4, 0xc2, 0xe6, 0x8e, 0xb1]],
  ["gbk", "灯塔", [0xb5, 0xc6, 0xcb, 0xfe]],
  ["gb18030", "灯塔😀", [0xb5, 0xc6, 0xcb, 0xfe, 0x94, 0x39, 0xfc, 0x36]],
  ["big5", "燈塔", [0xbf, 0x4f, 0xb6, 0xf0]],
  ["euc-kr", "등대", [0xb5, 0xee, 0xb4, 0xeb]],
  ["cp437", "Ñandú", [0xa5, 0x61, 0x6e, 0x64, 0xa3]],
  ["ibm850", "Skarvøy", [0x53, 0x6b, 0x61, 0x72, 0x76, 0x9b, 0x79]],
  ["ibm855", "маяк", [0xd2, 0xa0, 0xde, 0xc6]],
  ["cp857", "ışık", [0x8d, 0x9f, 0x8d, 0x6b]],
];

const ascii = (text: string): number[] => [...text].map((char) => char.charCodeAt(0));
const source = (bytes: readonly number[]): MemorySource => new MemorySource(Uint8Array.from(bytes), "s.csv");
const planOf = (encoding: string): string =>
  `hatchfold: 1\nsources: { s: { file: s.csv, format: delimited, delimiter: "|", quotes: false, encoding: ${encoding} } }\ntables: { s: { rows: ., columns: { code: code, name: name } } }\n`;

describe.each(WORDS)("%s", (encoding, word, bytes) => {
  const file = [...ascii("code|name\nS1|"), ...bytes, ...ascii("\nS2|x\n")];

  test("cells show its characters, and new ones are written in its bytes", async () => {
    const { tables } = await hatch(source(file), { plan: planOf(encoding) });
    expect(tables.text("s.csv")).toContain(`S1,${word}\r\n`);
    setCell(tables, "s.csv", 3, "name", word);
    const { bytes: folded } = await fold(tables, { source: source(file) });
    expect([...folded]).toEqual([...ascii("code|name\nS1|"), ...bytes, ...ascii("\nS2|"), ...bytes, ...ascii("\n")]);
  });

  test("a letter that it does not have is a problem", async () => {
    const { tables } = await hatch(source(file), { plan: planOf(encoding) });
    setCell(tables, "s.csv", 3, "name", "x\ufffd");
    const { problems } = await compare(tables, { source: source(file) });
    expect(problems.map(({ row, column }) => [row, column])).toEqual([[3, "name"]]);
  });

  test("any bytes at all come back, also in small pieces", () =>
    law(fc.tuple(fc.uint8Array({ minLength: 1, maxLength: 80 }), fc.integer({ min: 1, max: 5 })), async ([any, size]) => {
      const whole = Uint8Array.from([...ascii("code|name\nS1|x\n"), ...any]);
      const pieces = {
        name: "s.csv",
        size: whole.length,
        read: (start: number, end: number) => Promise.resolve(whole.subarray(start, end)),
        async *chunks(start = 0) {
          for (let at = start; at < whole.length; at += size) yield await Promise.resolve(whole.slice(at, at + size));
        },
      };
      const { tables } = await hatch(pieces, { plan: planOf(encoding) });
      expect([...(await fold(tables, { source: pieces })).bytes]).toEqual([...whole]);
      setCell(tables, "s.csv", 2, "name", word);
      const folded = [...(await fold(tables, { source: pieces })).bytes];
      expect(folded).toEqual([...ascii("code|name\nS1|"), ...bytes, ...ascii("\n"), ...any]);
    }));
});

test.each(PC)("%s: each byte is a character of its own, and its name and that of programs are known", async (encoding) => {
  expect(new Set(pcPage(encoding)).size).toBe(256);
  const upper = Array.from({ length: 128 }, (_, i) => 0x80 + i);
  const said = encoding.replace(/^ibm0*/, "cp");
  const file = source([...ascii(`<?xml version="1.0" encoding="${said}"?><r><name>`), ...upper, ...ascii("</name></r>")]);
  const { tables } = await hatch(file, { name: "r.xml" });
  expect(tables.text("document.csv")).toContain(pcPage(encoding)[0x80]);
  expect((await fold(tables, { source: file, name: "r.xml" })).bytes).toEqual(await file.read(0, file.size));
});

test("columns that count bytes are those of the file", async () => {
  const [, , lamp] = WORDS[0];
  const record = (name: readonly number[], end: string): number[] => [...ascii("S1"), ...name, ...ascii(" ".repeat(8 - name.length) + end)];
  const file = [...record(lamp, "ab"), ...record(ascii("x"), "cd")];
  const plan =
    "hatchfold: 1\nsources: { s: { file: s.csv, format: fixed, encoding: shift_jis, layout: { unit: bytes, length: 12, records: { r: { fields: { code: 1-2, name: 3-10, end: 11-12 } } } } } }\ntables: { s: { rows: ., columns: { name: name, end: end } } }\n";
  const { tables } = await hatch(source(file), { plan });
  expect(tables.text("s.csv")).toMatch(/灯台ｱ,ab\r\n.*x,cd/s);
  setCell(tables, "s.csv", 3, "name", "灯台灯台");
  expect([...(await fold(tables, { source: source(file) })).bytes]).toEqual([
    ...record(lamp, "ab"),
    ...record([...lamp.slice(0, 4), ...lamp.slice(0, 4)], "cd"),
  ]);
  setCell(tables, "s.csv", 3, "name", "灯台灯台x");
  const { problems } = await compare(tables, { source: source(file) });
  expect(problems.map(({ code }) => code)).toEqual(["fixed-wide"]);
});
