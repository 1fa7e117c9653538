/** Reading and writing JSON Lines and JSON text sequences. */
import type { FormatCode } from "../format.js";
import { jsonDialect } from "../json/dialect.js";
import { JsonScanner } from "../json/scan.js";
import { LinesRenderer } from "./render.js";

function valuesIn(text: string): unknown[] {
  return text.split(/[\r\n\u001e]+/).flatMap((line) => (line.trim() === "" ? [] : [JSON.parse(line) as unknown]));
}

export const code: FormatCode = {
  guess: () => Promise.resolve({}),
  skeleton: () => "",
  dialect: () => ({
    ...jsonDialect,
    name: "json-lines",
    parse: valuesIn,
    // the lines are checked as a list
    validator: (files) => import("../json/schema.js").then(({ validatorOf }) => validatorOf(files, valuesIn)),
    scanner: (root, listener) => new JsonScanner(root, listener, -1, true),
    renderer: (source, style) => new LinesRenderer(source, style),
  }),
};
