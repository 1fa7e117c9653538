/** Labels of records that others refer to, where the sheet shows them beside the code: one pass before the rows. */
import type { Guide } from "../plan/guide.js";
import { Assembler } from "../tables/assemble.js";
import { scanParts } from "../tables/scan.js";
import type { Part } from "../source/parts.js";

export async function readLabels(parts: readonly Part[], guide: Guide): Promise<void> {
  const shown = guide.tables.flatMap((table) => table.hosted.filter(({ column }) => column.lookup !== undefined));
  if (shown.length === 0) return;
  const slots = new Map(shown.map(({ table, slot }) => [table, slot]));
  const assembler: Assembler = new Assembler(guide, {
    row: (row) => {
      const slot = slots.get(row.table);
      if (slot === undefined) return;
      const key = assembler.text(row, row.table.keySlot);
      if (!row.table.labels.has(key)) row.table.labels.set(key, assembler.text(row, slot));
    },
  });
  await scanParts(parts, (part) => assembler.begin(part));
}
