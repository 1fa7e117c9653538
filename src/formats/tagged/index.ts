/** Header records and their detail lines, told apart by a tag, a pattern or the indentation. */
import type { Format, Sniffed } from "../format.js";
import { linesOf, looksLikeText } from "../lines/sample.js";
import { guessTagged } from "./guess.js";

export const tagged: Format = {
  name: "tagged",
  title: "tagged lines",
  endings: [],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "windows-1252",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const guess = guessTagged(linesOf(head, head.length < 1 << 16));
  if (guess === null) return { score: 0, why: "its lines do not begin with tags" };
  return { score: 0.6, why: guess.why };
}
