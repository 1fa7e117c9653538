/**
 * Columns that say the same in all records with one code, as the name beside a number that a flat file
 * repeats: an edit is made in all of them, or is a problem that names the rows.
 */
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import type { CompiledTable } from "../plan/compile.js";
import { isNothing } from "../cells/spelling.js";
import type { Context } from "../rows/context.js";
import { copyNews, putCell, type Draft } from "../rows/draft.js";

/** Rows that have one code, by what they say beside it. */
interface Group {
  /** What the source says. */
  readonly before: Set<string>;
  /** What is said after all edits: in which rows of the sheet, and by how many records that have no row. */
  readonly now: Map<string, { readonly rows: number[]; unseen: number }>;
}

interface Edited {
  readonly code: string;
  readonly row: number;
  /** Its number where the analyst sees it. */
  readonly seen: number;
  readonly said: string;
  readonly fresh: NewRow | null;
}

/** Makes new rows agree with the others, and says where rows do not. */
export async function keepAgreements(draft: Draft, ctx: Context): Promise<Draft> {
  const columns = ctx.compiled.tables.flatMap((table) =>
    table.plan.columns.flatMap(({ sameFor }, slot) => (sameFor === undefined ? [] : [{ table, slot, sameFor }])),
  );
  const news = copyNews(draft.news);
  const agreement = new Agreement(draft.rows, news, ctx);
  for (const { table, slot, sameFor } of columns) {
    await agreement.checkColumn(
      table,
      slot,
      table.plan.columns.findIndex(({ title }) => title === sameFor),
    );
  }
  return { ...draft, news };
}

class Agreement {
  constructor(
    private readonly differing: readonly DifferingRow[],
    private readonly news: readonly NewRow[],
    private readonly ctx: Context,
  ) {}

  async checkColumn(table: CompiledTable, slot: number, by: number): Promise<void> {
    const sheet = this.ctx.sheets[table.index];
    const edited = this.edited(table, slot, by);
    if (sheet === null || edited.length === 0) return;
    const groups = new Map<string, Group>(edited.map(({ code }) => [code, { before: new Set(), now: new Map() }]));
    const rows = new Map(this.differing.filter(({ snapshot }) => snapshot.table === table).map((row) => [row.snapshot.place, row]));
    await this.ctx.records.rows((row, assembler) => {
      if (row.table !== table) return;
      const differing = rows.get(row.place);
      const was = assembler.text(row, by);
      const said = assembler.text(row, slot);
      groups.get(was)?.before.add(said);
      if (differing?.removed === true) return;
      tell(groups.get(now(differing, by) ?? was), now(differing, slot) ?? said, sheet.seenRow(sheet.rowOf(row.place)));
    });
    const isBlank = ({ said }: Edited): boolean => said === "";
    const fresh = edited.filter((one) => one.fresh !== null);
    for (const { code, seen, said } of fresh.filter((one) => !isBlank(one))) tell(groups.get(code), said, seen);
    // a new row that leaves the cell blank says what the others say
    for (const { code, seen, said, fresh: made } of fresh.filter(isBlank)) {
      const group = groups.get(code)!;
      const [only, other] = group.now.keys();
      if (only !== undefined && other === undefined) putCell(this.ctx.typer, made!, slot, only);
      else tell(group, said, seen);
    }
    this.tell(table, slot, by, edited, groups);
  }

  /** Rows in which somebody wrote one of the two. */
  private edited(table: CompiledTable, slot: number, by: number): Edited[] {
    const old = this.differing.flatMap((row): Edited[] => {
      const { snapshot, removed } = row;
      if (snapshot.table !== table || removed || (now(row, slot) ?? now(row, by)) === null) return [];
      const code = now(row, by) ?? snapshot.content(by);
      return isNothing(code)
        ? []
        : [{ code, row: row.row, seen: row.sheet.seenRow(row.row), said: now(row, slot) ?? snapshot.content(slot), fresh: null }];
    });
    const fresh = this.news.flatMap((row): Edited[] => {
      const code = row.contents[by] ?? "";
      return row.table !== table || isNothing(code)
        ? []
        : [{ code, row: row.row, seen: row.sheet.seenRow(row.row), said: row.contents[slot] ?? "", fresh: row }];
    });
    return [...old, ...fresh];
  }

  private tell(table: CompiledTable, slot: number, by: number, edited: readonly Edited[], groups: ReadonlyMap<string, Group>): void {
    const { columns, name } = table.plan;
    const sheet = this.ctx.sheets[table.index]!;
    for (const { code, row, said } of edited) {
      const { before, now } = groups.get(code)!;
      // records that did not agree before may go on so
      if (now.size < 2 || [...now.keys()].every((one) => before.has(one))) continue;
      const values = [...now].map(([value, { rows, unseen }]) => ({ value, rows: rows.sort((a, b) => a - b), unseen }));
      const title = columns[slot].title;
      this.ctx.findings.add("same-differ", { title, by: columns[by].title, code, table: name, values }, sheet.place(row, title, said));
    }
  }
}

/** What the sheet says in place of what is there; `null` where that was not edited. */
function now(row: DifferingRow | undefined, slot: number): string | null {
  return row?.cells.find((cell) => cell.slot === slot)?.content ?? null;
}

/** `row` is 0 for a record that is not in the sheet. */
function tell(group: Group | undefined, said: string, row: number): void {
  if (group === undefined) return;
  const told = group.now.get(said) ?? { rows: [], unseen: 0 };
  group.now.set(said, told);
  if (row > 0) told.rows.push(row);
  else told.unseen++;
}
