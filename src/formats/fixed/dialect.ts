/** Reading and writing fixed-width text. */
import type { FormatCode } from "../format.js";
import { widthsIn } from "../../bytes/encoding.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { sampleLines } from "../lines/sample.js";
import { FixedGrammar } from "./grammar.js";
import { guessLayout } from "./guess.js";
import { drawRuler } from "./ruler.js";
import { pageOf } from "./stored.js";
import type { LayoutInput } from "./settings.js";

export const code: FormatCode = {
  guess: async (source) => ({ layout: guessLayout(await sampleLines(source)) }),
  draw: async (source, settings) => drawRuler(await sampleLines(source), settings.layout as LayoutInput),
  skeleton: () => "",
  dialect: (settings: Settings, encoding) =>
    new LineDialect(
      "fixed",
      settings,
      new FixedGrammar(settings.layout as LayoutInput, encoding === "utf-8", { page: pageOf(encoding), widthOf: widthsIn(encoding) }),
    ),
};
