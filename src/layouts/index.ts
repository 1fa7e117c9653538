/** Sheets of every layout as plain ones, a row for each record of one table: what is behind them knows only these. */
import type { SheetReading, GivenLists, PlainSheet } from "./layout.js";
import { ProblemList } from "../model/findings.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import type { RecordReader } from "../records/reader.js";
import { openSheet, type TablesSource } from "../sheets/tables.js";
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

/** Sheets that show several tables, as one of each; `null` for tables whose sheet cannot be taken apart. */
export async function plainSheets({
  guide,
  receipt,
  tables,
  problems,
  fresh,
  filter,
  records,
  lists,
}: {
  readonly guide: CompiledPlan;
  readonly receipt: Receipt;
  readonly tables: TablesSource;
  readonly problems: ProblemList;
  /** All rows are new. */
  readonly fresh: boolean;
  readonly filter: RowFilter;
  readonly records: RecordReader;
  readonly lists: GivenLists;
}): Promise<{ readonly plain: ReadonlyMap<CompiledTable, PlainSheet | null>; readonly crossed: ProblemList }> {
  // rows of a cross table have other numbers than those of the links behind it: its problems are kept apart
  const readSource = records.rows;
  const crossed = new ProblemList();
  const plain = new Map<CompiledTable, PlainSheet | null>();
  const sheetFileOf = (table: CompiledTable): string => receipt.tables.find(({ name }) => name === table.plan.name)?.file ?? "";
  const readSheet = async (table: CompiledTable): Promise<SheetReading | null> => {
    const file = sheetFileOf(table);
    const source = file === "" ? null : await openSheet(tables, file);
    return source === null ? null : { file, bytes: await source.read(0, source.size), problems, fresh, readSource };
  };
  for (const list of givenTables(guide.tables, lists)) {
    const sheet = await readSheet(list.table);
    const made = sheet === null ? null : await listSheet(list, sheet, problems, filter, readSource);
    if (made !== null) plain.set(list.table, made);
  }
  for (const table of guide.tables.filter(({ fills }) => fills.length > 0)) {
    const sheet = await readSheet(table);
    const made = sheet === null ? null : await unfill(table, sheet);
    if (made !== null) plain.set(table, made);
  }
  for (const stack of stacksOf(guide.tables, (table) => table.shown)) {
    const [root, ...others] = stack.members;
    const sheet = await readSheet(root.table);
    if (sheet === null) continue;
    const sheets = await unstack(stack, sheet);
    for (const { table } of sheets === null ? others : stack.members) {
      const bytes = sheets?.get(table);
      plain.set(table, bytes === undefined ? null : { bytes });
    }
  }
  for (const [table, index] of await readTrees(guide, records.cells)) {
    const sheet = await readSheet(table);
    const own = sheet === null ? null : await untree(index, sheet);
    // records made for a path, and those that go along, are in no row of the sheet
    if (own !== null) plain.set(table, own);
  }
  for (const table of guide.tables.filter(({ plan }) => plan.cross !== undefined)) {
    const sheet = await readSheet(table);
    if (sheet === null) continue;
    const cross = new Cross(table);
    await readSource((row, assembler) =>
      cross.row(row, assembler, row.table === table && (!filter.active || filter.passes(row, assembler))),
    );
    const links = cross.read(sheet.bytes, sheet.file, crossed, fresh);
    if (links === null) continue;
    plain.set(table, { bytes: links.bytes(), where: (row) => links.where(row) });
    const facts = { count: cross.loose, down: cross.down.title, across: cross.across.title };
    if (cross.loose > 0) problems.note("cross-loose", facts, table.plan.name);
  }
  for (const pair of mirrorsOf(guide.tables)) {
    const sheets = new Map<CompiledTable, MirrorSheet | null>();
    for (const { table } of pair) {
      const made = plain.get(table);
      const file = sheetFileOf(table);
      sheets.set(table, made === undefined || made === null ? await readSheet(table) : { file, bytes: made.bytes });
    }
    const given = (table: CompiledTable): MirrorSheet | null => sheets.get(table) ?? null;
    for (const [table, { bytes, last }] of await keepInStep(pair, given, problems, readSource, { fresh })) {
      // rows that follow those of another table are in no row of the sheet
      plain.set(table, { last, ...plain.get(table), bytes });
    }
  }
  return { plain, crossed };
}
