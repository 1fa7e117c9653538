/** Problems and changes for people at a terminal. */
import { rowsOf, type Change, type Counts, type Healed, type Note, type Problem } from "../model/findings.js";
import type { Follow } from "../relations/follows.js";
import type { Context } from "./io.js";
import { rowWord } from "../report/words.js";
import { asFlags, columns, counted, oneLine } from "./print.js";

/** Of problems with one cause so many rows and values are named. */
const MOST_ROWS = 8;
const MOST_VALUES = 3;
/** Rows of this many changes are shown, the rest counted. */
const MOST_SHOWN = 200;

/** What rules warn of: how many, then each. */
export function printWarnings(warnings: readonly Problem[], context: Context): void {
  if (warnings.length === 0) return;
  const { say, colors } = context;
  say(
    colors.yellow(
      `${counted(warnings.length, "warning")}, which ${warnings.length === 1 ? "stops" : "stop"} nothing (--strict makes ${warnings.length === 1 ? "it a problem" : "them problems"})`,
    ),
  );
  printFound(warnings, context, colors.yellow("!"));
  say();
}

/** Gives the number of causes. */
export function printProblems(problems: readonly Problem[], context: Context): number {
  return printFound(problems, context, context.colors.red("✗"));
}

function printFound(problems: readonly Problem[], { say, colors }: Context, sign: string): number {
  let causes = 0;
  const byFile = groupBy(problems, (problem) => problem.file);
  for (const [file, list] of byFile) {
    say(colors.bold(oneLine(file, 80)));
    // one cause in many rows is told once
    for (const same of groupBy(list, ({ code, column, message, hint }) => [code, column, message, hint].join("\n")).values()) {
      causes++;
      const [{ column, message, hint, path, line }] = same;
      const where = [rowsText(same), oneLine(column, 80)].filter((part) => part !== "").join(", ");
      const values = [...new Set(same.map(({ value }) => value))].filter((value) => value !== "" && !message.includes(oneLine(value, 40)));
      const found = values.slice(0, MOST_VALUES).map((value) => colors.yellow(oneLine(value)));
      const more = values.length > MOST_VALUES ? ", …" : "";
      say(`  ${sign} ${colors.bold(where)}${found.length === 0 ? "" : `: ${found.join(", ")}${more}`}  ${message}`);
      if (hint !== "") say(`      ${asFlags(hint)}`);
      const places = [line === undefined ? "" : `line ${line}`, oneLine(path ?? "", 200)].filter((place) => place !== "");
      if (places.length > 0 && same.length === 1) say(colors.dim(`      in the source at ${places.join(", ")}`));
    }
  }
  return causes;
}

/** The rows of problems with one cause. */
function rowsText(same: readonly Problem[]): string {
  const rows = [...new Set(same.flatMap(rowsOf))].filter((row) => row > 0);
  if (rows.length < 2) return rows.length === 0 ? "" : `row ${rows[0]}`;
  const left = rows.length - MOST_ROWS;
  return `rows ${rows.slice(0, MOST_ROWS).join(", ")}${left > 0 ? ` and ${counted(left, "more", "more")}` : ""}`;
}

export function printNotes(notes: readonly Note[], { say, colors }: Context): void {
  for (const { table, message } of notes) say(`${colors.yellow("!")} ${table === "" ? "" : `${oneLine(table, 80)}: `}${asFlags(message)}`);
}

export function printChanges(changes: readonly Change[], { say, colors, width }: Context): void {
  const byTable = groupBy(changes, (change) => change.table);
  let left = MOST_SHOWN;
  for (const [table, list] of byTable) {
    say();
    say(`${colors.bold(colors.cyan(oneLine(table, 80)))}   ${summary(list)}`);
    const rows = list
      .slice(0, Math.max(0, left))
      .map((change) => [
        `  ${change.row > 0 ? "row " : ""}${rowWord(change)}`,
        colors.bold(oneLine(change.record, 24)),
        change.kind === "changed" ? oneLine(change.column, 80) : MARKS[change.kind](colors),
        what(change, colors),
      ]);
    for (const line of columns(rows, [], width)) say(line);
    if (list.length > left)
      say(colors.dim(`  … and ${counted(list.length - Math.max(0, left), "more change")}; --json or --report lists all`));
    left -= list.length;
  }
}

const MARKS = {
  added: (colors: Context["colors"]) => colors.green("added"),
  removed: (colors: Context["colors"]) => colors.red("removed"),
  moved: (colors: Context["colors"]) => colors.magenta("moved"),
};

function what(change: Change, colors: Context["colors"]): string {
  const arrow = `${cell(change.old, colors)} ${colors.dim("→")} ${cell(change.new, colors)}`;
  const holds = change.holds === undefined || change.holds === 0 ? "" : `  with ${counted(change.holds, "record")} in it`;
  switch (change.kind) {
    case "changed":
      return arrow;
    case "moved":
      return `${arrow}${holds}`;
    case "removed":
      return holds.trim();
    case "added":
      return Object.entries(change.cells ?? {})
        .map(([title, value]) => `${colors.dim(`${oneLine(title, 80)} `)}${oneLine(value, 24)}`)
        .join(colors.dim(", "));
  }
}

function cell(value: string | null, colors: Context["colors"]): string {
  if (value === null || value === "") return colors.dim("blank");
  // a space at an end would not be seen
  return value === value.trim() ? oneLine(value) : `"${oneLine(value)}"`;
}

/** Groups in the order in which they first come. */
export function groupBy<T>(list: readonly T[], name: (one: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const one of list) {
    const group = groups.get(name(one));
    if (group === undefined) groups.set(name(one), [one]);
    else group.push(one);
  }
  return groups;
}

function summary(changes: readonly Change[]): string {
  const kinds = ["changed", "added", "removed", "moved"] as const;
  return kinds
    .map((kind) => {
      const list = changes.filter((change) => change.kind === kind);
      return list.length === 0
        ? ""
        : kind === "changed"
          ? `${counted(list.length, "cell")} changed`
          : `${counted(list.length, "row")} ${kind}`;
    })
    .filter((part) => part !== "")
    .join(", ");
}

/** Columns that show the other ends of links. */
export function printFollows(follows: readonly Follow[], { say, colors, width }: Context): void {
  if (follows.length === 0) return;
  say();
  say(colors.bold("Seen from the other side"));
  const rows = follows
    .slice(0, MOST_SHOWN)
    .map((one) => [
      `  ${oneLine(one.table, 80)}`,
      colors.bold(oneLine(one.record, 24)),
      oneLine(one.column, 80),
      `${cell(one.old, colors)} ${colors.dim("→")} ${cell(one.new, colors)}`,
    ]);
  for (const line of columns(rows, [], width)) say(line);
  if (follows.length > MOST_SHOWN)
    say(colors.dim(`  … and ${counted(follows.length - MOST_SHOWN, "more cell")}; --json or --report lists all`));
}

export function printHealed(healed: readonly Healed[], { say, colors }: Context): void {
  if (healed.length === 0) return;
  say();
  say(colors.bold("Healed: damage by a spreadsheet, not edits"));
  const groups = groupBy(healed, ({ table, column, why }) => `${table}\n${column}\n${why}`);
  const rows = [...groups.values()].map((group) => {
    const [{ table, row, column, found, restored, why }] = group;
    const cells = group.length === 1 ? `row ${row}` : `${counted(group.length, "cell")}, as row ${row}`;
    return [
      `  ${oneLine(table, 80)}`,
      oneLine(column, 80),
      cells,
      `${oneLine(found, 24)} ${colors.dim("back to")} ${oneLine(restored, 24)}`,
      colors.dim(why),
    ];
  });
  for (const line of columns(rows.slice(0, MOST_SHOWN))) say(line);
}

export function countsLine(counts: Counts): string {
  const parts: [number, string, string][] = [
    [counts.changed, "row changed", "rows changed"],
    [counts.added, "added", "added"],
    [counts.removed, "removed", "removed"],
    [counts.moved, "moved", "moved"],
    [counts.healed, "cell healed", "cells healed"],
    [counts.warnings, "warning", "warnings"],
    [counts.problems, "problem", "problems"],
    [counts.unchanged, "row unchanged", "rows unchanged"],
  ];
  const said = parts.filter(([n], i) => n > 0 || i === parts.length - 1).map(([n, one, many]) => counted(n, one, many));
  return said.join(", ");
}
