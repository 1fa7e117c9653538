/** Text for a terminal: columns, sizes, values in one line. */
import type { Problem } from "../model/findings.js";
import type { Findings } from "../report/sentences.js";
import stringWidth from "string-width";
import wrapAnsi from "wrap-ansi";
import { visible } from "../errors/visible.js";

/** Lines that are wider than a terminal are broken between words, and go on where they began; those of a source (four blanks) are not. */
export function wrapLines(text: string, width: number): string {
  return text
    .split("\n")
    .map((line) => {
      const indent = line.startsWith("  ") ? "  " : "";
      if (stringWidth(line) <= width || line.startsWith("    ")) return line;
      return indent + wrapAnsi(line.trimStart(), width - 2).replaceAll("\n", `\n${indent}`);
    })
    .join("\n");
}

/** In a last column narrower than this nothing is wrapped. */
const NARROW = 24;

/**
 * Pads cells so that columns line up; the last column is not padded, but wrapped where the terminal is not as wide.
 * `right` names columns of numbers.
 */
export function columns(rows: readonly (readonly string[])[], right: readonly number[] = [], width = Infinity): string[] {
  const gap = "  ";
  const widths: number[] = [];
  for (const row of rows) row.forEach((cell, i) => (widths[i] = Math.max(widths[i] ?? 0, stringWidth(cell))));
  return rows.flatMap((row) => {
    const before = widths.slice(0, row.length - 1).reduce((sum, one) => sum + one + gap.length, 0);
    const left = width - before;
    const cells = row.map((cell, i) => {
      const space = " ".repeat(widths[i] - stringWidth(cell));
      if (right.includes(i)) return space + cell;
      if (i < row.length - 1) return cell + space;
      return left < NARROW || stringWidth(cell) <= left ? cell : wrapAnsi(cell, left).replaceAll("\n", `\n${" ".repeat(before)}`);
    });
    return cells.join(gap).trimEnd().split("\n");
  });
}

export function size(bytes: number): string {
  const units = ["bytes", "kB", "MB", "GB"];
  let value = bytes;
  let unit = 0;
  while (value >= 1000 && unit < units.length - 1) [value, unit] = [value / 1000, unit + 1];
  return `${unit === 0 ? value : value.toFixed(1)} ${units[unit]}`;
}

export function counted(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString("en")} ${n === 1 ? one : many}`;
}

/** A value in one line: what cannot be seen is shown, long ones are cut in the middle. */
export function oneLine(text: string, most = 40): string {
  // what is cut out is not looked at
  const flat = visible(text.length <= 8 * most ? text : `${text.slice(0, 4 * most)}${text.slice(-4 * most)}`);
  const chars = [...flat];
  if (chars.length <= most) return flat;
  const tail = Math.floor(most / 4);
  return `${chars.slice(0, most - tail - 1).join("")}…${chars.slice(-tail).join("")}`;
}

/** Flags that are not called as the option is. */
const FLAGS: Readonly<Record<string, string>> = { "replace: true": "--force" };

/** What was found, with hints that name flags. */
export function withFlags({ problems, warnings, notes }: Findings): Findings {
  const flagged = (problem: Problem): Problem => ({ ...problem, hint: asFlags(problem.hint) });
  return {
    problems: problems.map(flagged),
    warnings: warnings.map(flagged),
    notes: notes.map((note) => ({ ...note, message: asFlags(note.message) })),
  };
}

/** The options that a hint names, as flags. */
export function asFlags(hint: string): string {
  return hint.replace(/\{ (\w+)(?:: (true|"([\w-]+)"))? \}/g, (_, name: string, said: string | undefined, value: string | undefined) => {
    const flag = FLAGS[`${name}: ${said}`] ?? `--${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}`;
    return value === undefined ? flag : `${flag} ${value}`;
  });
}
