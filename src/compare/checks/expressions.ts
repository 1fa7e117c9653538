/** What a column's `check:` says of its cells, where somebody wrote them. */
import type { ColumnPlan } from "../../model/plan.js";
import { compileExpression, firstLine, type Expression } from "../../plan/expression.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { Sheet } from "../../rows/sheet.js";
import { contentValues, newValues } from "../../rows/values.js";

/** A cell that was written, in the row that it stands in. */
interface Written {
  readonly column: ColumnPlan;
  readonly content: string;
  readonly sheet: Sheet;
  readonly row: number;
}

export async function checkExpressions({ rows, news }: Draft, { plan, findings }: Context): Promise<void> {
  const compiled = new Map<string, Expression>();
  for (const { columns } of plan.tables)
    for (const { check } of columns) if (check !== undefined) compiled.set(check, await compileExpression(check));
  const run = ({ column, content, sheet, row }: Written, values: Readonly<Record<string, unknown>>): void => {
    const check = column.check!;
    const place = sheet.place(row, column.title, content);
    try {
      if (compiled.get(check)!({ ...values, row: values, value: values[column.title] }) === true) return;
      findings.add("check-failed", { title: column.title, check, reason: null }, place);
    } catch (error) {
      findings.add("check-failed", { title: column.title, check, reason: firstLine(error) }, place);
    }
  };
  for (const { snapshot, cells, sheet, row } of rows) {
    const { columns } = snapshot.table.plan;
    const written = cells.filter(({ slot }) => columns[slot].check !== undefined);
    if (written.length === 0) continue;
    const values = contentValues(snapshot.table, snapshot.contents, snapshot.kinds, cells);
    for (const { slot, content } of written) run({ column: columns[slot], content, sheet, row }, values);
  }
  for (const { table, contents, values, sheet, row } of news) {
    const { columns } = table.plan;
    const written = columns.flatMap((column, slot) => (column.check === undefined || values[slot] === null ? [] : [slot]));
    if (written.length === 0) continue;
    const all = newValues({ table, values });
    for (const slot of written) run({ column: columns[slot], content: contents[slot] ?? "", sheet, row }, all);
  }
}
