/** New rows: read from their sheets, with the records of the lists that they show. */
import { pushAll } from "../bytes/lists.js";
import { spellCell } from "../cells/spelling.js";
import { MARK_TITLE } from "../model/plan.js";
import { Column } from "../rows/columns.js";
import type { Context } from "../rows/context.js";
import { newValue, type Draft } from "../rows/draft.js";
import type { NewRow } from "../rows/row-edits.js";
import type { NewSheetRow, Sheet } from "../rows/sheet.js";
import { newLists } from "./lists.js";

/** Takes new rows, and the rows of lists that others show, into the draft. */
export async function readNewRows(draft: Draft, ctx: Context): Promise<Draft> {
  const news: NewRow[] = [];
  for (const sheet of ctx.sheets) {
    if (sheet === null || draft.notAdded.has(sheet)) continue;
    for (const row of sheet.newRows) pushAll(news, await readNewRow(sheet, row, ctx));
  }
  checkNames(news, ctx);
  pushAll(
    news,
    draft.rows.flatMap((row) => row.lists?.news ?? []),
  );
  return { ...draft, rows: [...draft.rows, ...draft.rows.flatMap((row) => row.lists?.differing ?? [])], news };
}

/** Two new rows of one name could not be told apart. */
function checkNames(news: readonly NewRow[], { findings }: Context): void {
  const named = new Map<string, NewRow>();
  for (const row of news) {
    if (row.name === "") continue;
    const id = `${row.table.index} ${row.name}`;
    const first = named.get(id);
    if (first === undefined) named.set(id, row);
    else
      findings.add(
        "new-name-twice",
        { name: row.name, first: first.sheet.seenRow(first.row) },
        row.sheet.place(row.row, MARK_TITLE, row.name),
      );
  }
}

async function readNewRow(sheet: Sheet, row: NewSheetRow, { findings, typer }: Context): Promise<NewRow[]> {
  const { table } = sheet;
  const cells = row.at === undefined ? row.cells : await sheet.cellsAt(row.at.offset, row.at.length);
  const cellOf = (slot: number): string | null => {
    const c = sheet.columnOf(slot);
    return c < 0 ? null : (cells[c] ?? "");
  };
  const cleaned = (cell: string | null, slot: number): string | null =>
    cell === null || slot >= table.plan.columns.length ? cell : typer.cleaned(cell, table, slot);
  const contents = Array.from({ length: table.plan.columns.length + table.inline.length }, (_, slot) => cleaned(cellOf(slot), slot));
  const values = table.plan.columns.map((_, slot) => {
    const content = contents[slot];
    const column = table.plan.columns[slot];
    if (column.hidden === true) return null;
    const given = column.at.end !== "index" && !((content ?? "") === "" && table.plan.fresh?.has(column.title) === true);
    // what is the same for others may be left to them
    if (!given || (column.sameFor !== undefined && (content ?? "") === "")) return null;
    return content === null ? null : newValue(typer, { table, sheet, row: row.row }, slot, content);
  });
  for (const [slot, value] of values.entries()) {
    const column = table.plan.columns[slot];
    // a part of a word stands for the whole
    if (column.inPart === true && column.choices !== undefined && value !== null)
      contents[slot] = spellCell(value.kind, value.text, column);
  }
  const parentCell = sheet.columnOf(Column.Parent);
  const made: NewRow = {
    table,
    sheet,
    row: row.row,
    name: row.name ?? "",
    contents,
    values,
    parentText: parentCell < 0 ? "" : (cells[parentCell] ?? "").trim(),
    atTop: sheet.isAtTop(row.row),
    target: null,
    placing: sheet.placingOf(row.row) ?? undefined,
  };
  if (table.inline.length === 0) return [made];
  const { first, dialect } = table.source;
  const context = { sheet, row: row.row, file: first, problems: findings, typer, repeats: dialect.repeats };
  return [made, ...newLists(made, contents, context)];
}
