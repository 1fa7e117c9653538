/** New rows have a key, and a name where they are members of a record. */
import { Kind } from "../../model/kind.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";

export function checkNames({ news }: Draft, { base, findings }: Context): void {
  for (const { table, sheet, row, values } of news) {
    if (table.host !== null) continue;
    const { columns } = table.plan;
    const { nameSlot } = table.node;
    const named = table.plan.rows.steps.at(-1)?.kind === "any";
    if (named && base.tables[table.index].inLists) findings.add("name-of-list", { table: table.plan.name }, sheet.place(row));
    else if (named && nameSlot < 0) findings.add("name-nowhere", { table: table.plan.name }, sheet.place(row));
    else if (nameSlot >= 0 && values[nameSlot]?.kind !== Kind.Text)
      findings.add("name-empty", { title: columns[nameSlot].title }, sheet.place(row, columns[nameSlot].title));
    else if (table.keySlot >= 0 && values[table.keySlot] === null)
      findings.add("key-missing", { title: columns[table.keySlot].title }, sheet.place(row, columns[table.keySlot].title));
  }
}
