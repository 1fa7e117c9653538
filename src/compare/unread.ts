/** What sheets hold and nobody reads, and which records they do not hold: it is said, and stops nothing. */
import type { Context } from "../rows/context.js";
import { columnName } from "../sheets/column-names.js";
import type { CompareInput } from "./comparison.js";

export function noteUnread({ base, sheets, findings }: Context, input: CompareInput): void {
  for (const sheet of sheets) {
    if (sheet === null || !sheet.usable) continue;
    const { name } = sheet.table.plan;
    const columns = [...sheet.untitledCells.keys()].sort((a, b) => a - b).map(columnName);
    const count = [...sheet.untitledCells.values()].reduce((sum, cells) => sum + cells, 0);
    if (count > 0) findings.note("cells-untitled", { columns, count }, name);
    const { missing } = base.tables[sheet.table.index];
    if (missing > 0 && !sheet.hasOwnTitles && input.fresh !== true) findings.note("rows-absent", { count: missing }, name);
  }
}
