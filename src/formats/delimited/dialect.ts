/** Reading and writing delimited text. */
import type { FormatCode } from "../format.js";
import type { Settings } from "../../model/plan.js";
import { cellStyle, delimiterName, delimiterText } from "../lines/cells.js";
import { LineDialect } from "../lines/dialect.js";
import type { FieldForms } from "../lines/form-settings.js";
import { withForms } from "../lines/formed.js";
import { sampleLines } from "../lines/sample.js";
import { DelimitedGrammar, type DelimitedSettings } from "./grammar.js";
import { guessDelimited } from "./guess.js";

export const code: FormatCode = {
  async guess(source, known) {
    const { delimiter, header, comment, quotes } = guessDelimited(await sampleLines(source), true, known);
    return { delimiter: delimiterName(delimiter), header, ...(quotes ? {} : { quotes }), ...(comment === null ? {} : { comment }) };
  },
  /** The line of titles. */
  skeleton(tables, settings) {
    const { delimiter = "," } = settings as { delimiter?: string };
    const names = (tables[0]?.columns ?? []).flatMap(({ at }) => at.steps.flatMap((step) => (step.kind === "name" ? [step.name] : [])));
    const cells = names.map((name) => (/["\r\n]/.test(name) || name.includes(delimiter) ? `"${name.replaceAll('"', '""')}"` : name));
    return `${cells.join(delimiterText(cellStyle(delimiter, undefined, undefined, true)))}\n`;
  },
  dialect(settings: Settings) {
    const {
      delimiter = ",",
      header = 1,
      quotes,
      escape,
      comment = null,
      fields = {},
      groups = {},
    } = settings as {
      delimiter?: string;
      header?: number;
      quotes?: boolean;
      escape?: string;
      comment?: string;
      fields?: FieldForms;
      groups?: DelimitedSettings["groups"];
    };
    const grammar = new DelimitedGrammar({ ...cellStyle(delimiter, quotes, escape, true), header, comment, groups });
    return new LineDialect("delimited", settings, withForms(grammar, Object.entries(fields)));
  },
};
