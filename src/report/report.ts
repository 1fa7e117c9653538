/** Reports of a comparison: for people (HTML, Markdown) and for programs (JSON, JSON Patch). */
import { MADE_BY } from "./words.js";
import { makePatch } from "./patch.js";
import { htmlReport } from "./html.js";
import { markdownReport } from "./markdown.js";
import type { ReportInput } from "./input.js";
import { inSentences } from "./sentences.js";

export type ReportKind = "html" | "markdown" | "json" | "patch";

/** File name endings, the longest first. */
export const REPORT_KINDS: readonly (readonly [ending: string, kind: ReportKind])[] = [
  [".patch.json", "patch"],
  [".json-patch", "patch"],
  [".html", "html"],
  [".md", "markdown"],
  [".json", "json"],
];

/** The kind of report that a file name asks for, or `null`. */
export function reportKind(file: string): ReportKind | null {
  return REPORT_KINDS.find(([ending]) => file.toLowerCase().endsWith(ending))?.[1] ?? null;
}

/**
 * Writes a report as text.
 *
 * @example
 * ```ts
 * const source = '{"stations": [{"code": "S1"}]}';
 * const { tables } = await hatch(source);
 * const compared = await compare(tables, { source });
 * const text = await writeReport("markdown", { source: "stations.json", tables: "tables", ...compared });
 * text.startsWith("# What a fold would change"); // true
 * ```
 */
export async function writeReport(kind: ReportKind, input: ReportInput): Promise<string> {
  switch (kind) {
    case "html":
      return htmlReport(input);
    case "markdown":
      return markdownReport(input);
    case "json": {
      const { source, tables, counts, changes, healed, follows } = input;
      return `${JSON.stringify({ report: MADE_BY, source, tables, counts, changes, healed, ...inSentences(input), follows }, null, 2)}\n`;
    }
    case "patch": {
      const { before, after } = await input.documents!();
      return `${JSON.stringify(makePatch(before, after), null, 2)}
`;
    }
  }
}
