/** Reading and writing segments. */
import type { FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { withForms } from "../lines/formed.js";
import { SegmentGrammar } from "./grammar.js";
import { guessSegments } from "./guess.js";
import type { SegmentsInput } from "./settings.js";

const SAMPLE = 1 << 20;

export const code: FormatCode = {
  async guess(source) {
    const bytes = await source.read(0, SAMPLE);
    return { layout: guessSegments(bytes, bytes.length < SAMPLE) ?? { end: "'", delimiter: "+", records: {} } };
  },
  skeleton: () => "",
  dialect(settings: Settings) {
    const layout = settings.layout as SegmentsInput;
    const fields = Object.entries(layout.records).flatMap(([kind, record]) =>
      record.fields.flat().flatMap((field) => (typeof field === "string" ? [] : [[`${kind}/${field.name}`, field] as const])),
    );
    return new LineDialect(
      "segments",
      settings,
      withForms(new SegmentGrammar(layout), fields, (kind, field) => `${kind}/${field}`),
    );
  },
};
