/** Texts that are edited and hold more than letters, as comments between them: it goes with the old text, and is told of. */
import { decode, encode } from "../bytes/writer.js";
import { pushTo } from "../model/push-to.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import { titleOf, type CompiledTable } from "../plan/compile.js";

export async function noteComments({ rows }: Draft, { parts, findings }: Context): Promise<void> {
  const told = new Map<CompiledTable, Map<number, number[]>>();
  for (const { snapshot, cells, sheet, row, removed } of rows) {
    const { table, file } = snapshot;
    const { dialect } = table.source;
    if (dialect.hasComment === undefined || removed) continue;
    for (const { slot } of cells) {
      const { start, end } = snapshot.spanOf(slot);
      // a text that is as long in the source as in the sheet is all there is
      if (end - start <= encode(snapshot.content(slot)).length) continue;
      if (!dialect.hasComment(decode(await parts[file].text.read(start, end)))) continue;
      const slots = told.get(table) ?? new Map<number, number[]>();
      told.set(table, slots);
      pushTo(slots, slot, sheet.seenRow(row));
    }
  }
  for (const [{ plan }, slots] of told)
    for (const [slot, seen] of slots) findings.note("comments-go", { title: titleOf(plan, slot), rows: seen }, plan.name);
}
