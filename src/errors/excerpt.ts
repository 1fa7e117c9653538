/** The line in which something is wrong, with a sign under the place. */
import { visible } from "./visible.js";

/** So much of a long line is shown before the place, and behind it. */
const BEFORE = 60;
const BEHIND = 40;

/** Letters that take two columns of a terminal (the wide ones of Unicode's East Asian Width). */
const WIDE = /[\u1100-\u115f\u2e80-\ua4cf\uac00-\ud7a3\uf900-\ufaff\ufe30-\ufe6f\uff00-\uff60\uffe0-\uffe6]|[\u{1f300}-\u{1faff}]/gu;

/** @param column - counted in characters, from 1 */
export function excerptOf(line: string, column: number): string {
  const chars = [...line];
  const at = Math.min(column - 1, chars.length);
  const from = Math.max(0, at - BEFORE);
  const to = Math.min(chars.length, at + BEHIND);
  const shown = (begin: number, end: number): string => visible(chars.slice(begin, end).join("").replaceAll("\t", " "));
  const head = (from > 0 ? "…" : "") + shown(from, at);
  const blanks = head.replace(WIDE, "  ").replace(/[^ ]/gu, " ");
  return `${head}${shown(at, to)}${to < chars.length ? "…" : ""}\n${blanks}^`;
}
