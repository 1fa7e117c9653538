/** Fixed-width text: record kinds told apart by tags, fields by columns. */
import type { Format, Sniffed } from "../format.js";
import { linesOf, looksLikeText } from "../lines/sample.js";
import { guessLayout, guessTag } from "./guess.js";

export const fixed: Format = {
  name: "fixed",
  title: "fixed-width",
  endings: [".dat", ".fix", ".prn", ".asc"],
  settings: () => import("./settings.js").then(({ settings }) => settings),
  sniff,
  otherEncoding: "windows-1252",
  load: () => import("./dialect.js").then(({ code }) => code),
};

function sniff(head: Uint8Array, name: string): Sniffed {
  if (!looksLikeText(head)) return { score: 0, why: "it is not text" };
  const named = fixed.endings.some((ending) => name.toLowerCase().endsWith(ending));
  const lines = linesOf(head, head.length < 1 << 16).filter((line) => line.trim() !== "");
  if (lines.length === 0) return { score: named ? 0.3 : 0, why: "its name ends like that of a fixed-width file" };
  const lengths = new Set(lines.map((line) => [...line].length));
  const tagged = guessTag(lines) > 0;
  if (lines.length > 1 && lengths.size === 1)
    return { score: named ? 0.75 : 0.55, why: `all its lines are ${[...lengths][0]} characters long` };
  const columns = Object.keys(Object.values(guessLayout(lines).records)[0]?.fields ?? {}).length;
  if (tagged && lengths.size <= 8) return { score: named ? 0.7 : 0.5, why: "its lines begin with tags, and are of a few lengths" };
  if (lines.length >= 5 && columns > 2) return { score: named ? 0.6 : 0.4, why: `its lines have ${columns} columns in the same places` };
  // whatever it is, it can be taken line by line
  return { score: named ? 0.3 : 0.15, why: "nothing else fits: each line is a record" };
}
