/** The formats. A new one is one folder and one line here. */
import type { Format } from "./format.js";
import { blocks } from "./blocks/index.js";
import { delimited } from "./delimited/index.js";
import { fixed } from "./fixed/index.js";
import { jsonLines } from "./json-lines/index.js";
import { tagged } from "./tagged/index.js";
import { json } from "./json/index.js";
import { xml } from "./xml/index.js";

export const FORMATS: readonly Format[] = [jsonLines, json, xml, delimited, tagged, blocks, fixed];

export function formatNamed(name: string): Format | undefined {
  return FORMATS.find((format) => format.name === name);
}

/** None is surer than this. */
const SURE = 1;

/** The format (of those that it may be) whose sniffer is surest, and why. */
export function sniffFormat(head: Uint8Array, name: string, among: readonly Format[] = FORMATS): { format: Format; why: string } | null {
  let best: { format: Format; why: string; score: number } | null = null;
  for (const format of among) {
    const { score, why } = format.sniff(head, name);
    if (score > 0 && score > (best?.score ?? 0)) best = { format, why, score };
    if (best !== null && best.score >= SURE) break;
  }
  return best;
}
