/** A ruler with sample lines under it: where the fields of each record kind begin and end. */
import { largest } from "../../bytes/lists.js";
import type { LayoutInput } from "./settings.js";
import { FixedGrammar } from "./grammar.js";
import { pageOf } from "./stored.js";
import { encode } from "../../bytes/writer.js";

const MOST_COLUMNS = 120;
const SAMPLES = 2;
/** Characters that move what stands behind them. */
const CONTROL = /\p{Cc}/gu;

export function drawRuler(lines: readonly string[], layout: LayoutInput): string[] {
  // the lines are texts already: any page does for numbers that are none
  const grammar = new FixedGrammar(layout, true, { page: pageOf("iso-8859-1"), widthOf: null });
  const width = Math.min(MOST_COLUMNS, Math.max(0, largest(lines.map((line) => [...line].length))));
  const columns = Array.from({ length: width }, (_, i) => i + 1);
  const drawn = [
    columns
      .map((n) => (n % 10 === 0 ? String((n / 10) % 10) : " "))
      .join("")
      .trimEnd(),
    columns.map((n) => String(n % 10)).join(""),
  ];
  grammar.kinds.forEach(({ name, fields, tag }, k) => {
    const own = lines.filter((line, i) => {
      const bytes = encode(line);
      return line.trim() !== "" && grammar.kindOf(bytes, 0, bytes.length, i + 1, i === lines.length - 1) === k;
    });
    const marks = columns.map(() => " ");
    if (tag !== null) for (let c = tag.from; c < Math.min(width, tag.to); c++) marks[c] = "=";
    for (const { from, to } of fields) for (let c = from; c < Math.min(width, to); c++) marks[c] = c === from ? "|" : "-";
    drawn.push(`${marks.join("").trimEnd()}${name === "" ? "" : `  ${name}`}`);
    for (const line of own.slice(0, SAMPLES)) drawn.push([...line].slice(0, MOST_COLUMNS).join("").replace(CONTROL, "·").trimEnd());
  });
  return drawn;
}
