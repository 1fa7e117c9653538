/** Reading and writing header records and their detail lines. */
import type { FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { sampleLines } from "../lines/sample.js";
import { TaggedGrammar } from "./grammar.js";
import { guessTagged } from "./guess.js";
import type { TaggedInput } from "./settings.js";

export const code: FormatCode = {
  guess: async (source) => ({ layout: guessTagged(await sampleLines(source))?.layout ?? { records: { line: { fields: ["text"] } } } }),
  skeleton: () => "",
  dialect: (settings: Settings) => new LineDialect("tagged", settings, new TaggedGrammar(settings.layout as TaggedInput)),
};
