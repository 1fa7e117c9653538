/** Delimited text under a line of headers: comma, tab, semicolon or bar. */
import type { Format, Sniffed } from "../format.js";
import { linesOf, looksLikeText } from "../lines/sample.js";
import { guessDelimited, isRegular } from "./guess.js";

const NAMES: Readonly<Record<number, string>> = {
  0x2c: "commas",
  0x09: "tabs",
  0x3b: "semicolons",
  0x7c: "bars",
  0x3a: "colons",
  0: "blanks",
};
const COLON = 0x3a;

export const delimited: Format = {
  name: "delimited",
  title: "delimited text",
  endings: [".csv", ".tsv", ".tab", ".psv"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  own: ["delimiter", "header", "quotes", "comment"],
  sniff,
  otherEncoding: "windows-1252",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array, name: string): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const named = delimited.endings.find((ending) => name.toLowerCase().endsWith(ending));
  const guess = guessDelimited(linesOf(head, head.length < 1 << 16));
  const { delimiter, header, width } = guess;
  if (named !== undefined) return { score: 0.9, why: `its name ends in ${named}` };
  if (!isRegular(guess)) return { score: 0, why: "its lines have no cells in common" };
  const why = `its lines have ${width} cells between ${NAMES[delimiter]}${header > 0 ? `, with titles in line ${header}` : ""}`;
  // blanks stand between words, too
  return { score: delimiter !== 0 && (header > 0 || delimiter === COLON) ? 0.7 : 0.45, why };
}
