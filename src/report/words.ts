/** What reports say of a change, in words that all of them share. */
import type { Change, Counts } from "../model/findings.js";

/** Stands near the beginning of reports and diagrams, so that it can be seen who made them. */
export const MADE_BY = "made by hatchfold";

export function counted(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString("en")} ${n === 1 ? one : many}`;
}

/** Counts worth showing, with their names. */
export function countWords(counts: Counts): [number, string, keyof Counts][] {
  const all: [number, string, keyof Counts][] = [
    [counts.changed, counts.changed === 1 ? "row changed" : "rows changed", "changed"],
    [counts.added, "added", "added"],
    [counts.removed, "removed", "removed"],
    [counts.moved, "moved", "moved"],
    [counts.healed, counts.healed === 1 ? "cell healed" : "cells healed", "healed"],
    [counts.warnings, counts.warnings === 1 ? "warning" : "warnings", "warnings"],
    [counts.problems, counts.problems === 1 ? "problem" : "problems", "problems"],
    [counts.unchanged, "rows unchanged", "unchanged"],
  ];
  return all;
}

export function groupByTable<T extends { table: string }>(list: readonly T[]): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const one of list) groups.set(one.table, [...(groups.get(one.table) ?? []), one]);
  return groups;
}

/** Where a change stands in its sheet: a copied label follows a code elsewhere, a record may go because its row is missing. */
export function rowWord({ row, kind }: Change): string {
  return row > 0 ? String(row) : kind === "removed" ? "no row" : "follows";
}

/** A blank cell has to be seen, too. */
export function shown(cell: string | null): string {
  return cell === null || cell === "" ? "blank" : cell;
}

export function holds(change: Change): string {
  return change.holds === undefined || change.holds === 0 ? "" : `with ${counted(change.holds, "record")} in it`;
}
