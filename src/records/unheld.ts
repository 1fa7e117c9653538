/** What stands in the lines of a file and no record takes: every verb tells of it. */
import { decode } from "../bytes/writer.js";
import type { Facts } from "../errors/words.js";

const MOST_LINES = 5;
const MOST_BYTES = 60;

/** Lines with something that no table can show: how many, the first of them by number, and what stands in the first. */
export class Unheld {
  count = 0;
  readonly lines: number[] = [];
  text = "";

  add(line: number, window: Uint8Array, start: number, end: number): void {
    if (this.count === 0) this.text = decode(window, start, Math.min(end, start + MOST_BYTES)).trim();
    if (this.lines.length < MOST_LINES) this.lines.push(line);
    this.count++;
  }
}

type UnheldNote = { [C in "lines-unheld" | "parts-unheld"]: { readonly code: C; readonly facts: Facts<C> } }[
  "lines-unheld" | "parts-unheld"];

/** What is to be told of the files, by number; `names` are what they are called. */
export function notesOnUnheld(
  unheld: readonly { readonly lines: Unheld; readonly parts: Unheld }[],
  names: readonly string[],
): UnheldNote[] {
  return unheld.flatMap(({ lines, parts }, file) => {
    const facts = (one: Unheld): Facts<"lines-unheld"> => ({ file: names[file], count: one.count, lines: one.lines, text: one.text });
    return [
      ...(lines.count > 0 ? [{ code: "lines-unheld" as const, facts: facts(lines) }] : []),
      ...(parts.count > 0 ? [{ code: "parts-unheld" as const, facts: facts(parts) }] : []),
    ];
  });
}
