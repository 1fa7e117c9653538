/** Columns that follow from others (`compute:` in a plan): worked out again where somebody wrote something that they name. */
import { Kind } from "../model/kind.js";
import type { ColumnPlan } from "../model/plan.js";
import type { CompiledTable } from "../plan/compile.js";
import { firstLine } from "../plan/expression.js";
import type { Context } from "../rows/context.js";
import { copyNews, copyRows, putCell, type Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import { Action } from "../rows/sheet-index.js";
import { Asking, conditionOf, isNew, Records, type Asked } from "./checks/conditions.js";

export async function computeCells(draft: Draft, ctx: Context): Promise<Draft> {
  let made = draft;
  for (const table of ctx.compiled.tables)
    for (const [slot, column] of table.plan.columns.entries())
      if (column.compute !== undefined) made = await computeColumn(made, ctx, table, slot, column);
  return made;
}

async function computeColumn(
  draft: Draft,
  ctx: Context,
  table: CompiledTable,
  slot: number,
  { compute, title }: ColumnPlan,
): Promise<Draft> {
  const condition = await conditionOf(table, null, { is: compute!, severity: "error" });
  const records = new Records(draft, ctx);
  const asked = new Asking(condition, records).asked();
  if (asked.length === 0) return draft;
  await records.read(asked);
  const others = await rowsFor(asked, table, records, ctx);
  const rows = [...copyRows(draft.rows), ...others.values()];
  const news = copyNews(draft.news);
  const copyOf = new Map<DifferingRow | NewRow, DifferingRow | NewRow>([
    ...draft.rows.map((row, i) => [row, rows[i]] as const),
    ...draft.news.map((row, i) => [row, news[i]] as const),
  ]);
  const moves = new Map([...draft.moves].map(([row, target]) => [copyOf.get(row) as DifferingRow, target]));
  for (const { record, causes } of asked) {
    if (record === "all") continue;
    const own = isNumber(record) ? (others.get(record) ?? copyOf.get(records.rowAt(table, record)!)!) : copyOf.get(record)!;
    const place = own.sheet.place(own.row, title);
    let content: string;
    try {
      content = textOf(condition.run(records.variables(condition, record)));
    } catch (error) {
      ctx.findings.add("id-failed", { title, expression: compute!, reason: firstLine(error) }, place);
      continue;
    }
    if (isNew(own)) computeNew(own, slot, content, title, ctx);
    else setCell(own, slot, content, ctx);
    if ([...causes].some(({ sheet, row }) => sheet !== own.sheet || row !== own.row))
      ctx.findings.together.push([...causes, own].map((row) => ({ table: row.sheet.table.plan.name, row: row.row })));
  }
  const kept = rows.filter((row, i) => i < draft.rows.length || row.cells.length > 0);
  return { ...draft, rows: kept, news, moves, unchanged: draft.unchanged - (kept.length - draft.rows.length) };
}

function isNumber(record: number | NewRow): record is number {
  return typeof record === "number";
}

/** Rows for records that nobody edited. */
async function rowsFor(asked: readonly Asked[], table: CompiledTable, records: Records, ctx: Context): Promise<Map<number, DifferingRow>> {
  const rows = new Map<number, DifferingRow>();
  const sheet = ctx.sheets[table.index];
  const wanted = new Set(
    asked.flatMap(({ record }) => (typeof record === "number" && records.rowAt(table, record) === undefined ? [record] : [])),
  );
  if (wanted.size === 0 || sheet === null) return rows;
  await ctx.records.rows((row, assembler) => {
    if (row.table !== table || !wanted.has(row.place)) return;
    const sheetRow = sheet.rowOf(row.place);
    const snapshot = ctx.base.snapshot(row, sheetRow, Action.None, assembler);
    rows.set(row.place, { snapshot, sheet, row: sheetRow, cells: [], parent: null, removed: false, pointer: "", source: {} });
  });
  for (const row of rows.values()) {
    row.pointer = await ctx.pointers.of(row.snapshot.trail);
    row.source = ctx.pointers.source(row.snapshot.file);
  }
  return rows;
}

function textOf(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (typeof value === "string" || typeof value === "number" || typeof value === "bigint" || typeof value === "boolean")
    return String(value);
  throw new Error("it gives no text, no number and no truth");
}

/** With as many decimals as there were; the same number is no change. */
function asItWas(was: string, content: string): string {
  if (was === "" || content === "" || !Number.isFinite(Number(was)) || !Number.isFinite(Number(content))) return content;
  if (Number(was) === Number(content)) return was;
  const decimals = /\.(\d+)$/.exec(was)?.[1].length ?? 0;
  const own = /\.(\d+)$/.exec(content)?.[1].length ?? 0;
  return own >= decimals || /e/i.test(content) ? content : Number(content).toFixed(decimals);
}

function setCell(row: DifferingRow, slot: number, computed: string, { typer }: Context): void {
  const { snapshot, cells, sheet } = row;
  const was = snapshot.content(slot);
  const content = asItWas(was, computed);
  const at = cells.findIndex((cell) => cell.slot === slot);
  if (at >= 0) cells.splice(at, 1);
  if (content === was) return;
  const { table, file, kinds } = snapshot;
  const kind = kinds[slot] as Kind;
  const place = { table, slot, file, was: kind, spot: kind === Kind.Absent ? "add" : "set" } as const;
  const value = typer.read(content, place, sheet.place(row.row, table.plan.columns[slot].title, content));
  if (value !== null && !(value.kind === Kind.Absent && kind === Kind.Absent)) cells.push({ slot, content, value });
}

function computeNew(row: NewRow, slot: number, content: string, title: string, { typer, findings }: Context): void {
  const said = row.contents[slot] ?? "";
  if (said !== "" && asItWas(said, content) !== said)
    findings.add("computed-other", { title, computed: content }, row.sheet.place(row.row, title, said));
  else if (said === "") putCell(typer, row, slot, content);
}
