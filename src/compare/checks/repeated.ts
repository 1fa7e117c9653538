/** A value whose name stands more than once in its record cannot just be taken out: the one before it would be read in its place. */
import { Kind } from "../../model/kind.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";

export function checkRepeated({ rows }: Draft, { findings }: Context): void {
  for (const { snapshot, cells, sheet, row, removed } of rows) {
    const { repeated, table } = snapshot;
    if (repeated === null || removed) continue;
    for (const { slot, content, value } of cells) {
      const { title } = table.plan.columns[slot];
      if (repeated.has(slot) && value.kind === Kind.Absent) findings.add("repeated-cleared", { title }, sheet.place(row, title, content));
    }
  }
}
