/** A new record that others of its kind end with a trailer has one, too: where the plan has a table of these, as a row. */
import { formatPath } from "../../model/path.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";

export function checkTrailers({ news }: Draft, { compiled, findings }: Context): void {
  for (const row of news) {
    const { source, plan, host } = row.table;
    if (host !== null) continue;
    for (const name of source.dialect.bringsAlong?.(plan.rows.steps) ?? []) {
      const path = formatPath({ ...plan.rows, steps: [...plan.rows.steps, { kind: "name", name }] });
      const trailers = compiled.tables.find((table) => table.source === source && formatPath(table.plan.rows) === path);
      if (trailers === undefined) continue;
      const isThere = news.some(({ table, target }) => table === trailers && target !== null && "row" in target && target.row === row);
      if (!isThere) findings.add("trailer-missing", { kind: plan.name, table: trailers.plan.name }, row.sheet.place(row.row));
    }
  }
}
