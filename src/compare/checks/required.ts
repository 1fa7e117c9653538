/** New rows say what they have to, also where their sheet has no column for it, or others could have said it for them. */
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";

export function checkRequired({ news }: Draft, { findings }: Context): void {
  for (const { table, contents, sheet, row } of news) {
    if (table.host !== null) continue;
    for (const [slot, { title, required, hidden, at, sameFor }] of table.plan.columns.entries()) {
      const cell = contents[slot];
      // a blank cell has been read, and told of, unless it may be left to others
      const unsaid = cell === null || (cell === "" && sameFor !== undefined);
      const others = hidden === true || at.end === "index" || table.plan.fresh?.has(title) === true;
      if (required && unsaid && !others) findings.add("required", { title }, sheet.place(row, title));
    }
  }
}
