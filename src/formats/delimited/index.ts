/** Delimited text under a line of headers: comma, tab, semicolon or bar. */
import { z } from "zod";
import type { Format, Sniffed } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { delimiterByte, delimiterName } from "../lines/cells.js";
import { LineDialect } from "../lines/dialect.js";
import { linesOf, looksLikeText, sampleLines } from "../lines/sample.js";
import { DelimitedGrammar } from "./grammar.js";
import { guessDelimited } from "./guess.js";

const NAMES: Readonly<Record<number, string>> = { 0x2c: "commas", 0x09: "tabs", 0x3b: "semicolons", 0x7c: "bars" };

export const delimited: Format = {
  name: "delimited",
  title: "delimited text",
  endings: [".csv", ".tsv", ".tab", ".psv"],
  settings: {
    delimiter: z.union([z.enum(["tab", "spaces"]), z.string().length(1)]).describe("between cells"),
    header: z.number().int().min(0).describe("number of the line with the titles; 0 when there is none"),
    quotes: z.boolean().describe("cells may stand in double quotes"),
    comment: z.string().min(1).describe("lines that begin with this are comments"),
  },
  own: ["delimiter", "header", "quotes", "comment"],
  sniff,
  otherEncoding: "windows-1252",
  async guess(source, known) {
    const { delimiter, header, comment, quotes } = guessDelimited(await sampleLines(source), true, known);
    return { delimiter: delimiterName(delimiter), header, ...(quotes ? {} : { quotes }), ...(comment === null ? {} : { comment }) };
  },
  /** The line of titles. */
  skeleton(tables, settings) {
    const { delimiter = "," } = settings as { delimiter?: string };
    const names = (tables[0]?.columns ?? []).flatMap(({ at }) => at.steps.flatMap((step) => (step.kind === "name" ? [step.name] : [])));
    const cells = names.map((name) => (/["\r\n]/.test(name) || name.includes(delimiter) ? `"${name.replaceAll('"', '""')}"` : name));
    return `${cells.join(String.fromCharCode(delimiterByte(delimiter)))}\n`;
  },
  dialect(settings: Settings) {
    const {
      delimiter = ",",
      header = 1,
      quotes = true,
      comment = null,
    } = settings as { delimiter?: string; header?: number; quotes?: boolean; comment?: string };
    return new LineDialect("delimited", settings, new DelimitedGrammar({ delimiter: delimiterByte(delimiter), header, quotes, comment }));
  },
};

function sniff(head: Uint8Array, name: string): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const named = delimited.endings.find((ending) => name.toLowerCase().endsWith(ending));
  const { delimiter, header, width, share, lines } = guessDelimited(linesOf(head, head.length < 1 << 16));
  if (named !== undefined) return { score: 0.9, why: `its name ends in ${named}` };
  const regular = share >= 0.9 || (share >= 0.6 && width >= 3 && header > 0);
  if (width < 2 || lines < 2 || !regular) return { score: 0, why: "its lines have no cells in common" };
  const why = `its lines have ${width} cells between ${NAMES[delimiter]}${header > 0 ? `, with titles in line ${header}` : ""}`;
  return { score: header > 0 ? 0.7 : 0.45, why };
}
