/**
 * Fields that cannot be written one by one: they stand in the same columns of a line, or tell what kind of record it is.
 * Edits that agree arrive, and what nobody edited follows; edits that differ, or make another record of it, are problems.
 */
import { spellCell } from "../cells/spelling.js";
import type { FieldTrial, Tried } from "../formats/format.js";
import { Kind } from "../model/kind.js";
import type { ColumnPlan } from "../model/plan.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";

export async function settleFields(draft: Draft, ctx: Context): Promise<Draft> {
  const trials = ctx.parts.map((part) => part.dialect.trial?.(part.text) ?? null);
  if (trials.every((trial) => trial === null)) return draft;
  const isNeeded = (trial: FieldTrial | null | undefined, { plan, host }: CompiledTable): trial is FieldTrial =>
    host === null && trial?.isNeeded(plan.rows.steps) === true;
  for (const row of draft.rows) {
    const { table, file } = row.snapshot;
    const placed = row.removed && table.host === null ? (trials[file]?.placeOf(table.plan.rows.steps) ?? null) : null;
    if (placed !== null) ctx.findings.add("line-placed", { kind: table.plan.name, place: placed }, row.sheet.place(row.row));
    if (row.cells.length > 0 && isNeeded(trials[file], table)) await settleRow(row, trials[file], ctx);
  }
  const news: NewRow[] = [];
  const copied = new Set<string>();
  for (const row of draft.news) {
    // files of one set are read in one way
    const file = row.table.source.first;
    const trial = trials[file];
    const { name, rows } = row.table.plan;
    const placed = row.table.host === null ? (trial?.placeOf(rows.steps) ?? null) : null;
    const others = ctx.base.tables[row.table.index].records + news.filter(({ table }) => table === row.table).length;
    if (placed !== null && others > 0) ctx.findings.add("line-placed", { kind: name, place: placed }, row.sheet.place(row.row));
    if (trial !== null && !copied.has(name)) {
      copied.add(name);
      for (const facts of await trial.copied(rows.steps)) ctx.findings.note("columns-copied", facts, name);
    }
    news.push(isNeeded(trials[file], row.table) ? await settleNew(row, trials[file], file, ctx) : row);
  }
  return { ...draft, news };
}

async function settleRow({ snapshot, cells, sheet, row }: DifferingRow, trial: FieldTrial, { parts, findings }: Context): Promise<void> {
  const { columns, rows } = snapshot.table.plan;
  const texts = new Map<string, string>();
  for (const { slot, value } of cells) {
    const name = fieldOf(columns[slot]);
    if (name !== null) texts.set(name, textOf(value));
  }
  if (texts.size === 0) return;
  const tried = await trial.change(rows.steps, snapshot.unitStart - parts[snapshot.file].base, texts);
  const told = (slot: number): string | undefined => cells.find((cell) => cell.slot === slot)?.content;
  if ("fault" in tried) {
    const slot = columns.findIndex((column) => fieldOf(column) === tried.field);
    findings.add(tried.fault.code, tried.fault.facts, sheet.place(row, columns[slot].title, told(slot) ?? ""));
    return;
  }
  for (const [slot, value, content] of following(columns, tried, texts))
    if (!snapshot.says(slot, content)) cells.push({ slot, content, value });
}

async function settleNew(row: NewRow, trial: FieldTrial, file: number, { base, findings, parts }: Context): Promise<NewRow> {
  const { table, values, sheet } = row;
  const { columns, rows } = table.plan;
  const texts = new Map<string, string>();
  for (const [slot, value] of values.entries()) {
    const name = slot < columns.length ? fieldOf(columns[slot]) : null;
    if (name !== null && value !== null && value.kind !== Kind.Absent) texts.set(name, textOf(value));
  }
  const model = base.tables[table.index].models[file]?.start;
  const tried = await trial.add(rows.steps, model === undefined ? null : model - parts[file].base, texts);
  if ("fault" in tried) {
    const slot = columns.findIndex((column) => fieldOf(column) === tried.field);
    const column = slot < 0 ? "" : columns[slot].title;
    findings.add(tried.fault.code, tried.fault.facts, sheet.place(row.row, column, slot < 0 ? "" : (row.contents[slot] ?? "")));
    return row;
  }
  const [contents, filled] = [[...row.contents], [...values]];
  for (const [slot, value, content] of following(columns, tried, texts)) {
    if (value.kind === Kind.Absent) continue;
    contents[slot] = content;
    filled[slot] = value;
  }
  return { ...row, contents, values: filled };
}

/** What columns say that nobody edited. */
function following(
  columns: readonly ColumnPlan[],
  { says }: Extract<Tried, { says: unknown }>,
  edited: ReadonlyMap<string, string>,
): [slot: number, value: { kind: Kind; text: string }, content: string][] {
  return columns.flatMap((column, slot) => {
    const name = fieldOf(column);
    const text = name === null || edited.has(name) ? undefined : says.get(name);
    if (text === undefined) return [];
    const kind = text === "" ? Kind.Absent : Kind.Text;
    return [[slot, { kind, text }, spellCell(kind, text, column)]];
  });
}

/** The field of the record's own line that a column shows. */
function fieldOf({ at: { steps } }: ColumnPlan): string | null {
  const [step] = steps;
  return steps.length === 1 && step.kind === "name" ? step.name : null;
}

function textOf({ kind, text }: { readonly kind: Kind; readonly text: string }): string {
  return kind === Kind.Absent ? "" : text;
}
