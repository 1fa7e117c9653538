/** Sheets of every layout as rows of their tables, a row for each record: what is behind them knows only these. */
import type { SheetReading, GivenLists, TableRows } from "./layout.js";
import type { ProblemList } from "../model/findings.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import type { RecordReader } from "../records/reader.js";
import type { SheetContainer } from "../sheets/container.js";
import type { RowFilter } from "../records/filter.js";
import type { Receipt } from "../sheets/receipt.js";
import { Cross } from "./cross.js";
import { unfill } from "./fill.js";
import { givenTables, listSheet } from "./given.js";
import { keepInStep, mirrorsOf, type MirrorSheet } from "./mirror.js";
import { stacksOf } from "./stack.js";
import { untree } from "./tree.js";
import { readTrees } from "./tree-index.js";
import { unstack } from "./unstack.js";

/** What the layouts read. */
export interface LaidOut {
  readonly guide: CompiledPlan;
  readonly receipt: Receipt;
  readonly container: SheetContainer;
  readonly problems: ProblemList;
  /** All rows are new. */
  readonly fresh: boolean;
  readonly filter: RowFilter;
  readonly records: RecordReader;
  readonly lists: GivenLists;
}

/** The rows of tables whose sheets have a layout; `null` for tables whose sheet cannot be taken apart. */
export async function readLayouts(what: LaidOut): Promise<ReadonlyMap<CompiledTable, TableRows | null>> {
  const { guide, receipt, container, problems, fresh, filter, records, lists } = what;
  const readSource = records.rows;
  const laid = new Map<CompiledTable, TableRows | null>();
  const readSheet = async (table: CompiledTable): Promise<SheetReading | null> => {
    const entry = receipt.tables.find(({ name }) => name === table.plan.name);
    const sheet = entry === undefined ? null : await container.sheet(entry.file);
    return sheet === null ? null : { sheet, problems, fresh, isWhole: container.isWhole, readSource };
  };
  for (const list of givenTables(guide.tables, lists)) {
    const sheet = await readSheet(list.table);
    const made = sheet === null ? null : await listSheet(list, sheet, filter);
    if (made !== null) laid.set(list.table, made);
  }
  for (const table of guide.tables.filter(({ fills }) => fills.length > 0)) {
    const sheet = await readSheet(table);
    const made = sheet === null ? null : await unfill(table, sheet);
    if (made !== null) laid.set(table, made);
  }
  for (const stack of stacksOf(guide.tables, (table) => table.shown)) {
    const [root, ...others] = stack.members;
    const sheet = await readSheet(root.table);
    if (sheet === null) continue;
    const rows = await unstack(stack, sheet);
    for (const { table } of rows === null ? others : stack.members) laid.set(table, rows?.get(table) ?? null);
  }
  for (const [table, index] of await readTrees(guide, records.cells)) {
    const sheet = await readSheet(table);
    const own = sheet === null ? null : await untree(index, sheet);
    if (own !== null) laid.set(table, own);
  }
  for (const table of guide.tables.filter(({ plan }) => plan.cross !== undefined)) {
    const sheet = await readSheet(table);
    if (sheet === null) continue;
    const cross = new Cross(table);
    await readSource((row, assembler) =>
      cross.row(row, assembler, row.table === table && (!filter.active || filter.passes(row, assembler))),
    );
    const links = await cross.read(sheet);
    if (links === null) continue;
    laid.set(table, links);
    const facts = { count: cross.loose, down: cross.down.title, across: cross.across.title };
    if (cross.loose > 0) problems.note("cross-loose", facts, table.plan.name);
  }
  for (const pair of mirrorsOf(guide.tables)) {
    const sheets = new Map<CompiledTable, MirrorSheet | null>();
    for (const { table } of pair) {
      const read = await readSheet(table);
      sheets.set(table, read === null ? null : { sheet: read.sheet, laid: laid.get(table) ?? undefined });
    }
    const given = (table: CompiledTable): MirrorSheet | null => sheets.get(table) ?? null;
    for (const [table, rows] of await keepInStep(pair, given, problems, readSource, { fresh })) laid.set(table, rows);
  }
  return laid;
}
