/** Reading and writing content lines. */
import type { FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { sampleLines } from "../lines/sample.js";
import { ContentGrammar } from "./grammar.js";
import { guessContent } from "./guess.js";
import type { ContentInput } from "./settings.js";

export const code: FormatCode = {
  guess: async (source) => ({ layout: guessContent(await sampleLines(source)) }),
  skeleton: () => "",
  dialect: (settings: Settings) => new LineDialect("content-lines", settings, new ContentGrammar(settings.layout as ContentInput)),
};
