/** The sheets of all tables: found, opened, and read before the source or beside it. */
import { nearest } from "../errors/nearest.js";
import { sheetOf, type TableRows } from "../layouts/layout.js";
import { sheetTable, type CompiledPlan, type CompiledTable } from "../plan/compile.js";
import type { SheetContainer } from "../sheets/container.js";
import type { ScanOptions } from "../source/pass.js";
import type { Receipt } from "../sheets/receipt.js";
import type { ProblemList } from "../model/problem-list.js";
import { Column } from "./columns.js";
import { PACE } from "./merge-reader.js";
import { Sheet } from "./sheet.js";

/** Most sheets that are read beside the source: each takes a megabyte while it is. */
const BESIDE = 8;

export interface Sheets {
  readonly compiled: CompiledPlan;
  readonly receipt: Receipt;
  readonly container: SheetContainer;
  readonly problems: ProblemList;
  /** All rows are new. */
  readonly fresh: boolean;
  /** Rows of tables whose sheets have a layout; `null` where they were not to be had. */
  readonly laid: ReadonlyMap<CompiledTable, TableRows | null>;
}

/** The sheet of each table, or `null`; the largest are only begun to be read, where they may be read `beside` the source. */
export async function readSheets(what: Sheets, beside: boolean): Promise<(Sheet | null)[]> {
  await noteUnused(what);
  const sheets: (Sheet | null)[] = [];
  for (const table of what.compiled.tables) sheets.push(await openTable(table, what));
  const largest = sheets.filter((sheet): sheet is Sheet => sheet?.standsAlone === true).sort((a, b) => b.size - a.size);
  const begun = new Set(beside ? largest.slice(0, BESIDE) : []);
  for (const [i, sheet] of sheets.entries()) {
    if (sheet === null) continue;
    await (begun.has(sheet) ? sheet.readBeside() : sheet.read());
    if (!sheet.usable) sheets[i] = null;
    else if (what.laid.get(sheet.table)?.ownTitles !== true && !what.fresh && what.container.isWhole) noteColumns(sheet, what);
  }
  return sheets;
}

/**
 * Scans the source while sheets are read beside it, and reads these to their ends; false when a row came too late to be
 * compared: then the sheets have to be read before the source.
 */
export async function inStep(
  sheets: readonly (Sheet | null)[],
  scan: (pace: Pick<ScanOptions, "piece" | "afterPiece">) => Promise<void>,
): Promise<boolean> {
  const steps = sheets.flatMap((sheet) => sheet?.step ?? []);
  const inOrder = (): boolean => steps.every((step) => step.inOrder);
  const afterPiece = async (): Promise<boolean> => {
    for (const step of steps) if (step.isShort()) await step.feed();
    return inOrder();
  };
  try {
    await scan(steps.length === 0 ? {} : { piece: PACE, afterPiece });
    if (inOrder()) for (const step of steps) await step.finish();
    return inOrder();
  } finally {
    for (const step of steps) await step.close();
  }
}

/** The first row of a table that is the document itself stands for the one that is there. */
export function adoptDocuments(sheets: readonly (Sheet | null)[]): void {
  for (const sheet of sheets) {
    const [first] = sheet?.newRows ?? [];
    if (sheet !== null && first !== undefined && sheet.table.plan.rows.steps.length === 0 && sheet.records === 1) sheet.adopt(first, 0);
  }
}

/** Says which sheets belong to no table. */
async function noteUnused({ receipt, container, problems }: Sheets): Promise<void> {
  const names = await container.names();
  const expected = receipt.tables.map((table) => table.file);
  const missing = expected.filter((one) => !names.includes(one));
  for (const file of names) if (!expected.includes(file)) problems.note("file-unused", { file, nearest: nearest(file, missing) });
}

async function openTable(table: CompiledTable, { compiled, receipt, container, problems, fresh, laid }: Sheets): Promise<Sheet | null> {
  const entry = receipt.tables.find((one) => one.name === table.plan.name);
  const own = laid.get(table);
  // without an entry it has no sheet; where its rows could not be read, that is told of with the table around
  if (entry === undefined || own === null) return null;
  const sheet = own === undefined ? await container.sheet(entry.file) : sheetOf(own, entry.file);
  if (sheet !== null) return new Sheet({ table, sheet, tables: compiled.tables, problems, records: entry.records, fresh, laid: own });
  if (sheetTable(table) === table && container.isWhole) problems.note("table-left-out", { file: entry.file }, table.plan.name);
  return null;
}

/** Says which columns were left out, and that the sheet's delimiter is another one. */
function noteColumns(sheet: Sheet, { receipt, problems }: Sheets): void {
  const { table } = sheet;
  const titles = receipt.tables.find(({ name }) => name === table.plan.name)?.titles ?? [];
  const fixed = table.titles.length - table.shown.length;
  const missing = titles.filter((title) => {
    const index = table.titles.indexOf(title);
    return index > 1 && !sheet.columns.includes(index < fixed ? Column.Parent : table.shown[index - fixed]);
  });
  if (missing.length > 0) problems.note("columns-left-out", { titles: missing }, table.plan.name);
  const renamed = sheet.titles.filter((title, i) => sheet.columns[i] !== Column.Unknown && !table.titles.includes(title));
  if (renamed.length > 0) problems.note("titles-healed", { titles: renamed }, table.plan.name);
  const { strangeDelimiter: delimiter } = sheet;
  if (delimiter !== null) problems.note("delimiter-healed", { delimiter }, table.plan.name);
}
