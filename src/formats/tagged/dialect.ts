/** Reading and writing header records and their detail lines. */
import type { FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { LineDialect } from "../lines/dialect.js";
import { sampleLines } from "../lines/sample.js";
import type { FormInput } from "../lines/form-settings.js";
import { withForms } from "../lines/formed.js";
import { TaggedGrammar } from "./grammar.js";
import { guessTagged } from "./guess.js";
import type { TaggedInput } from "./settings.js";

export const code: FormatCode = {
  guess: async (source) => ({ layout: guessTagged(await sampleLines(source))?.layout ?? { records: { line: { fields: ["text"] } } } }),
  skeleton: () => "",
  dialect(settings: Settings) {
    const layout = settings.layout as TaggedInput;
    const grammar = new TaggedGrammar(layout);
    const fields = Object.entries(layout.records).flatMap(([kind, record]) =>
      record.fields.flatMap((field): (readonly [string, FormInput])[] => {
        if (typeof field === "string") return [];
        if (!("fields" in field)) return [[`${kind}/${field.name}`, field]];
        return field.fields.flatMap((one) => (typeof one === "string" ? [] : [[`${kind}/${field.name}/${one.name}`, one] as const]));
      }),
    );
    return new LineDialect(
      "tagged",
      settings,
      withForms(grammar, fields, (kind, field) => `${kind}/${field}`),
    );
  },
};
