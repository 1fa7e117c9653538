/** What rows and cells are called in messages. */
import { formatMark } from "../model/marks.js";
import type { Step } from "../model/path.js";
import type { ColumnPlan, TablePlan } from "../model/plan.js";
import { stepsPointer } from "../model/pointer.js";
import { slotOf, type CompiledTable } from "../plan/compile.js";
import type { Snapshot } from "./snapshot.js";

/** What people call the record: its key, what its rows are matched by, or its mark. */
export function recordName(snapshot: Snapshot): string {
  const { keySlot, salt, plan } = snapshot.table;
  const words = keySlot >= 0 ? [snapshot.content(keySlot)] : callTitles(plan).map(said);
  return words.every((word) => word === "") ? formatMark(salt, snapshot.place) : words.join(", ");

  function said(title: string): string {
    return title === plan.inside ? snapshot.parentIdent : (snapshot.contents[slotOf(plan, title)] ?? "");
  }
}

/** Titles of what a record without a key is called by. */
export function callTitles({ match, calledBy, label, tree }: TablePlan): readonly string[] {
  if (tree?.kind === "path" && label === undefined) return [tree.column];
  return match ?? calledBy ?? (label === undefined ? [] : [label]);
}

export function columnOrder(table: CompiledTable): (readonly Step[])[] {
  return table.plan.columns.filter((column) => column.at.steps.length > 0).map((column) => column.at.steps);
}

export function cellPointer(column: ColumnPlan): string {
  return stepsPointer(column.at.steps);
}
