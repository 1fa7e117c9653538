/** What the lines of a file of blocks look like. */
import type { Settings } from "../../model/plan.js";
import { isHeading } from "./grammar.js";

/** What a line of comment begins with. */
export const COMMENTS = ["#", ";", "//"];
/** A line with a name and its value. */
export const PAIR = /^[^\s:=[\]{}"'<>][^:=[\]{}"<>]{0,60}?(?:\[[^\s:=[\]]{1,30}\])?\s*([:=])(?:\s|$|[^/\s])/;

export function guessBlocks(lines: readonly string[]): Settings {
  const pairs = lines.flatMap((line) => PAIR.exec(line)?.[1] ?? []);
  const pair = pairs.filter((one) => one === "=").length > pairs.length / 2 ? "=" : ":";
  const sections = lines.some(isHeading);
  const comment = COMMENTS.find((mark) => lines.some((line) => line.trimStart().startsWith(mark)));
  const rules = lines.map((line) => line.trim()).filter((line) => /^([-=*%_])\1{2,}$/.test(line) || line === "%%");
  return {
    pair,
    ...(sections ? { sections } : {}),
    ...(rules.length > 0 && !sections ? { separator: rules[0] } : {}),
    ...(comment === undefined ? {} : { comment }),
  };
}
