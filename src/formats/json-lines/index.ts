/** JSON Lines, and JSON text sequences (RFC 7464): one JSON value after the other, as if in a list. */
import { decode } from "../../bytes/writer.js";
import type { Format, Sniffed } from "../format.js";

const SEPARATOR = /^\u001e/;

export const jsonLines: Format = {
  name: "json-lines",
  title: "JSON Lines",
  endings: [".jsonl", ".ndjson", ".json-seq"],
  settings: () => Promise.resolve({}),
  sniff,
  otherEncoding: "utf-8",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array, name: string): Sniffed {
  const text = decode(head).replace(/^\ufeff/, "");
  const lines = text.split(/\r\n|\n|\r/).filter((line) => line.trim() !== "");
  if (lines.length > 1 && head.length >= 1 << 16) lines.pop();
  const values = lines.slice(0, 3).filter((line) => isValue(line.replace(SEPARATOR, "")));
  if (SEPARATOR.test(text)) return { score: 1, why: "records stand behind record separators (RFC 7464)" };
  if (lines.length > 1 && values.length === Math.min(3, lines.length)) return { score: 1, why: "each line is a JSON value" };
  const named = jsonLines.endings.find((ending) => name.toLowerCase().endsWith(ending));
  return named === undefined ? { score: 0, why: "its lines are no JSON values" } : { score: 0.95, why: `its name ends in ${named}` };
}

/** A record or a list: a plain value alone on a line could be anything. */
function isValue(line: string): boolean {
  if (!/^\s*[[{]/.test(line)) return false;
  try {
    JSON.parse(line);
    return true;
  } catch {
    return false;
  }
}
