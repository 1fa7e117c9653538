/** New rows have a key, a name where they are members of a record, and a value where they are nothing else. */
import { Kind } from "../../model/kind.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { NewRow } from "../../rows/row-edits.js";

export function checkNames({ news, moves }: Draft, { base, findings }: Context): void {
  const targets = [...news.map(({ target }) => target), ...moves.values()];
  const holders = new Set(targets.flatMap((target) => (target !== null && "row" in target ? [target.row] : [])));
  for (const one of news) {
    const { table, sheet, row, values } = one;
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
    else if (!holders.has(one)) {
      const title = unsaid(one);
      if (title !== null) findings.add("value-missing", { title }, sheet.place(row, title));
    }
  }
}

/** The column of what the record is, when that is blank and no other says anything: there would be a record in the place of a value. */
function unsaid({ table, values }: NewRow): string | null {
  const { columns } = table.plan;
  const own = columns.find(({ at, hidden }) => at.end === "value" && at.steps.length === 0 && hidden !== true);
  // an element without content is one with an empty text
  if (own === undefined || table.source.dialect.emptyIsNoText === true) return null;
  const says = columns.some(({ at }, slot) => at.end === "value" && (values[slot]?.kind ?? Kind.Absent) !== Kind.Absent);
  return says ? null : own.title;
}
