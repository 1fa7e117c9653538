/** Header records and their detail lines, told apart by a tag, a pattern or the indentation. */
import type { Format, Sniffed } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { linesOf, looksLikeText, sampleLines } from "../lines/sample.js";
import { TaggedGrammar } from "./grammar.js";
import { guessTagged } from "./guess.js";
import { taggedSchema, type TaggedInput } from "./layout.js";

export const tagged: Format = {
  name: "tagged",
  title: "tagged lines",
  endings: [],
  settings: { layout: taggedSchema.describe("record kinds and their fields, by tags") },
  sniff,
  otherEncoding: "windows-1252",
  guess: async (source) => ({ layout: guessTagged(await sampleLines(source))?.layout ?? { records: { line: { fields: ["text"] } } } }),
  skeleton: () => "",
  dialect: (settings: Settings) => new LineDialect("tagged", settings, new TaggedGrammar(settings.layout as TaggedInput)),
};

function sniff(head: Uint8Array): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const guess = guessTagged(linesOf(head, head.length < 1 << 16));
  if (guess === null) return { score: 0, why: "its lines do not begin with tags" };
  return { score: 0.6, why: guess.why };
}
