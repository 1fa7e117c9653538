/** The scanner of the sheets, with a CSV package as the judge. */
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import fc from "fast-check";
import { expect, test } from "vitest";
import { ByteWriter } from "../../src/bytes/writer.js";
import { DelimitedScanner } from "../../src/sheets/csv/scan.js";
import { writeCells } from "../../src/sheets/csv/write.js";
import { bytes, text } from "../support/sheets.js";

const cell = fc.oneof(
  fc.constantFrom("", "a", "a,b", 'say "x"', '""', "two\nlines", "cr\r\nlf", " lead", "tail ", "æ漢😀", ";", "\t"),
  fc.string({ maxLength: 6 }),
);
const rows = fc.array(fc.array(cell, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 6 });

function scan(source: Uint8Array, delimiter: string, piece: number): { rows: string[][]; spans: number } {
  const found: string[][] = [];
  let spans = 0;
  const scanner = new DelimitedScanner(delimiter.charCodeAt(0), {
    row: (one) => {
      found.push(Array.from({ length: one.cells }, (_, i) => one.text(i)));
      spans = one.base + one.rowEnd;
    },
  });
  for (let at = 0; at < source.length; at += piece) scanner.write(source.slice(at, at + piece));
  scanner.end();
  return { rows: found, spans };
}

test("reads what a CSV package writes, cut at every place", () =>
  fc.assert(
    fc.property(
      rows,
      fc.constantFrom(",", ";", "\t", "|"),
      fc.constantFrom("\r\n", "\n"),
      fc.boolean(),
      fc.integer({ min: 1, max: 40 }),
      (table, delimiter, line, quoted, piece) => {
        const source = bytes(stringify(table, { delimiter, record_delimiter: line, quoted, quoted_match: /[\r\n]/ }));
        const scanned = scan(source, delimiter, piece);
        expect(scanned.rows).toEqual(table);
        expect(scanned.spans).toBe(source.length - line.length);
      },
    ),
    { numRuns: 500 },
  ));

test("reads any text as the package does, where both take it", () =>
  fc.assert(
    fc.property(
      fc.string({ unit: fc.constantFrom("a", ",", '"', "\n", "\r\n", " ", "b"), maxLength: 30 }),
      fc.integer({ min: 1, max: 7 }),
      (source, piece) => {
        let judged: string[][];
        try {
          judged = parse(source, { relax_column_count: true, record_delimiter: ["\r\n", "\n", "\r"] });
        } catch {
          return;
        }
        // a trailing line end, or an empty text, makes no row for the package
        const scanned = scan(bytes(source), ",", piece).rows;
        if (judged.length < scanned.length) expect(scanned.at(-1)).toEqual([""]);
        expect(scanned.slice(0, judged.length)).toEqual(judged);
      },
    ),
    { numRuns: 1000 },
  ));

test("the package reads what we write", () =>
  fc.assert(
    fc.property(rows, (table) => {
      const out = new ByteWriter();
      for (const row of table) writeCells(out, row);
      expect(parse(text(out.take()), { relax_column_count: true, record_delimiter: ["\r\n"] })).toEqual(table);
    }),
  ));
