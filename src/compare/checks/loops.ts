/** Records that refer to their own kind make a tree: nobody may come to stand below themselves. */
import { NOTHING } from "../../cells/spelling.js";
import type { Reference } from "../../plan/compile.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { DifferingRow } from "../../rows/row-edits.js";
import type { Sheet } from "../../rows/sheet.js";

export async function checkLoops(draft: Draft, ctx: Context): Promise<void> {
  const own = ctx.compiled.tables.flatMap(({ references }) => references.filter(({ table, target }) => table === target));
  await Promise.all(own.map((reference) => checkReference(reference, draft, ctx)));
}

/** A row that somebody put below another one. */
interface Written {
  readonly sheet: Sheet;
  readonly row: number;
  readonly key: string;
  readonly code: string;
}

async function checkReference({ table, slot }: Reference, { rows, news }: Draft, { records, findings }: Context): Promise<void> {
  const said = (row: DifferingRow, one: number): string | undefined => row.cells.find((cell) => cell.slot === one)?.content;
  const mine = rows.filter((row) => row.snapshot.table === table);
  const written = mine.flatMap((row): Written[] => {
    const code = row.removed ? undefined : said(row, slot);
    const key = said(row, table.keySlot) ?? row.snapshot.content(table.keySlot);
    return code === undefined ? [] : [{ sheet: row.sheet, row: row.row, key, code }];
  });
  for (const { table: of, sheet, row, contents } of news)
    if (of === table && (contents[slot] ?? "") !== "")
      written.push({ sheet, row, key: contents[table.keySlot] ?? "", code: contents[slot]! });
  if (written.length === 0) return;
  const edits = new Map(mine.map((row) => [row.snapshot.place, row]));
  const above = new Map<string, string>();
  await records.rows((row, assembler) => {
    const edit = edits.get(row.place);
    if (row.table !== table || edit?.removed === true) return;
    const now = (one: number): string => (edit === undefined ? undefined : said(edit, one)) ?? assembler.text(row, one);
    above.set(now(table.keySlot), now(slot));
  });
  for (const row of news) if (row.table === table) above.set(row.contents[table.keySlot] ?? "", row.contents[slot] ?? "");
  for (const { sheet, row, key, code } of written) {
    const loop = [key];
    for (let at = above.get(key); at !== undefined && !NOTHING.has(at); at = above.get(at)) {
      if (at !== key && loop.includes(at)) break; // a loop further up: those who made it hear of it
      loop.push(at);
      if (at !== key) continue;
      findings.add("ref-loop", { loop }, sheet.place(row, table.plan.columns[slot].title, code));
      break;
    }
  }
}
