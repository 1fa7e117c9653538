/** The formats. A new one is one folder and one line here. */
import type { Format } from "./format.js";
import { blocks } from "./blocks/index.js";
import { contentLines } from "./content-lines/index.js";
import { delimited } from "./delimited/index.js";
import { fixed } from "./fixed/index.js";
import { jsonLines } from "./json-lines/index.js";
import { segments } from "./segments/index.js";
import { tagged } from "./tagged/index.js";
import { json } from "./json/index.js";
import { xml } from "./xml/index.js";

export const FORMATS: readonly Format[] = [jsonLines, json, xml, segments, contentLines, delimited, tagged, blocks, fixed];

export function formatNamed(name: string): Format | undefined {
  return FORMATS.find((format) => format.name === name);
}

/** None is surer than this. */
const SURE = 1;
/** With a name that says so there is no other choice to speak of, nor one that any text would fit. */
const LIKELY = 0.9;
const UNLIKELY = 0.2;

/** What a source was taken for, and what it could be otherwise, where that is not sure. */
export interface Choice {
  readonly format: Format;
  readonly why: string;
  readonly next?: { readonly format: Format; readonly why: string };
}

/** The format (of those that it may be) whose sniffer is surest, why, and the next one. */
export function sniffFormat(head: Uint8Array, name: string, among: readonly Format[] = FORMATS): Choice | null {
  const found: (Choice & { readonly score: number })[] = [];
  for (const format of among) {
    const { score, why } = format.sniff(head, name);
    if (score > 0) found.push({ format, why, score });
    if (score >= SURE) return { format, why };
  }
  // of two that are as likely, the first of the list
  const [best, next] = found.sort((a, b) => b.score - a.score);
  if (best === undefined) return null;
  const isOpen = best.score < LIKELY && next !== undefined && next.score > UNLIKELY;
  return { format: best.format, why: best.why, ...(isOpen ? { next: { format: next.format, why: next.why } } : {}) };
}
