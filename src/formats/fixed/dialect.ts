/** Reading and writing fixed-width text. */
import type { FormatCode } from "../format.js";
import { widthsIn, type TextSource } from "../../bytes/encoding.js";
import { decode } from "../../bytes/writer.js";
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
  draw: async (source, settings) => {
    const layout = settings.layout as LayoutInput;
    return drawRuler(layout.length === undefined ? await sampleLines(source) : await recordsOf(source, layout.length), layout);
  },
  skeleton: () => "",
  dialect: (settings: Settings, encoding) =>
    new LineDialect(
      "fixed",
      settings,
      new FixedGrammar(settings.layout as LayoutInput, encoding === "utf-8", { page: pageOf(encoding), widthOf: widthsIn(encoding) }),
    ),
};

const FIRST = 8;

/** The first records of a source without line ends. */
async function recordsOf(source: TextSource, length: number): Promise<string[]> {
  // a character takes four bytes at most
  const text = [...decode(await source.read(0, 4 * length * FIRST))];
  const count = Math.min(FIRST, Math.floor(text.length / length));
  return Array.from({ length: count }, (_, i) => text.slice(i * length, (i + 1) * length).join(""));
}
