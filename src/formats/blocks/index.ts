/** Blocks of `Name: value` lines, with blank lines, a separator or `[section]` headings between them. */
import type { Format, Sniffed } from "../format.js";
import { linesOf, looksLikeText } from "../lines/sample.js";
import { isHeading } from "./grammar.js";
import { COMMENTS, PAIR } from "./guess.js";

export const blocks: Format = {
  name: "blocks",
  title: "blocks of Name: value lines",
  endings: [".ini", ".desktop", ".properties"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "windows-1252",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array, name: string): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const named = blocks.endings.some((ending) => name.toLowerCase().endsWith(ending));
  const lines = linesOf(head, head.length < 1 << 16);
  const body = lines.filter((line) => line.trim() !== "" && !/^[ \t]/.test(line) && !COMMENTS.some((mark) => line.startsWith(mark)));
  const headings = body.filter(isHeading).length;
  const pairs = body.filter((line) => PAIR.test(line)).length;
  const share = body.length === 0 ? 0 : (pairs + headings) / body.length;
  const folded = lines.filter((line) => /^[ \t]+\S/.test(line)).length;
  if (pairs === 0 || share < 0.8 || folded > 4 * pairs) return { score: 0, why: "its lines are no pairs of name and value" };
  const blank = lines.some((line) => line.trim() === "");
  const sure = headings > 0 || blank || pairs > 2;
  return {
    score: named ? 0.85 : sure ? 0.65 : 0.3,
    why: headings > 0 ? "it has [headings] over pairs of name and value" : "its lines are pairs of name and value",
  };
}
