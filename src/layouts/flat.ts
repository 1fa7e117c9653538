/**
 * Sheets that somebody else made, as tables of a plan: titles are mapped, and one flat sheet that repeats
 * its records on many rows is taken apart, each record once. Rows keep their numbers.
 */
import { ProblemList } from "../model/problem-list.js";
import { FlatRecords, type Field } from "./flat-records.js";
import { LAYOUTS } from "./index.js";
import type { Arrangement } from "./layout.js";
import { CallError, PlanError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { titleOf } from "../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE, type Plan, type TablePlan } from "../model/plan.js";
import type { OpenSheet, SheetContainer, SheetRow } from "../sheets/container.js";
import type { Receipt } from "../sheets/receipt.js";
import { RowsSheet } from "../sheets/rows/sheet.js";
import { nameOfMark, readAll } from "../sheets/titled.js";
import { titleIn } from "../cells/spelling.js";

/** In so many rows from the top the titles are looked for. */
const FIRST_ROWS = 20;

/** A sheet as it was found: titles, and the rows below them. */
interface FlatSheet {
  readonly file: string;
  readonly titles: readonly string[];
  readonly rows: readonly WholeRow[];
}

interface WholeRow {
  readonly number: number;
  readonly cells: readonly string[];
}

/** Sheets of the plan's tables, made from those of a container that has other ones. */
export interface SplitSheets {
  readonly sheets: ReadonlyMap<string, OpenSheet>;
  readonly problems: ProblemList;
  /** By table, the sheet that it was made from. */
  readonly used: ReadonlyMap<string, string>;
}

export async function splitSheet(container: SheetContainer, plan: Plan, { tables: entries }: Receipt): Promise<SplitSheets> {
  const problems = new ProblemList();
  const made = new Map<string, OpenSheet>();
  const used = new Map<string, string>();
  const sheets = new Map<string, FlatSheet>();
  const own = plan.tables.filter((table) => table.host === undefined);
  const claimed = new Map<string, Set<string>>();
  for (const table of own) {
    if (table.stacked !== undefined) continue; // read with the table around
    const usual = entries.find(({ name }) => name === table.name)!.file;
    const file = table.sheet?.file ?? usual;
    const found = sheets.has(file) ? null : await container.sheet(file, { isForeign: true });
    if (found === null && !sheets.has(file)) {
      if (table.sheet?.file !== undefined)
        throw new CallError("sheet-missing", { file, nearest: nearest(file, await container.names()) }, { file: container.name });
      continue;
    }
    const beneath = own.filter((one) => one.stacked !== undefined && around(one, own).includes(table));
    const layout = LAYOUTS.find((one): one is Arrangement => one.name === table.arrangement);
    const hasOthers = layout?.ownTitles === true;
    const wanted = layout !== undefined ? laidTitles([table, ...beneath], layout) : titlesFor(table);
    const sheet = sheets.get(file) ?? (await readFlat(found!, file, table.sheet?.header ?? 0, [...wanted.values()]));
    sheets.set(file, sheet);
    for (const one of [table, ...beneath]) used.set(one.name, file);
    for (const title of wanted.values()) claimed.set(file, (claimed.get(file) ?? new Set()).add(title));
    const sharing = own.filter((one) => one !== table && one.sheet?.file === file);
    const others = sharing.length === 0 ? null : new Set(sharing.flatMap((one) => [...titlesFor(one).values()]));
    made.set(usual, layout !== undefined ? retitled(wanted, sheet, hasOthers) : project({ table, wanted, sheet, others, problems }));
    if (hasOthers) for (const title of sheet.titles) claimed.get(file)!.add(title);
  }
  for (const [file, titles] of claimed) {
    for (const title of sheets.get(file)!.titles)
      if (!titles.has(title) && title.trim() !== "" && title !== MARK_TITLE && title !== ACTION_TITLE)
        problems.note("column-left", { file, title });
  }
  return { sheets: made, problems, used };
}

/** What the sheet calls each column of the table. */
function titlesFor(table: TablePlan): Map<string, string> {
  const own = table.shown.map((slot) => titleOf(table, slot));
  const all = [...(table.inside === undefined ? [] : [table.inside]), ...own];
  return new Map(all.map((title) => [title, table.sheet?.titles?.get(title) ?? title]));
}

/** The tables around one, the nearest first. */
function around(table: TablePlan, all: readonly TablePlan[]): TablePlan[] {
  const outer = all.find((one) => one.name === table.inside);
  return outer === undefined || table.stacked === undefined ? [] : [outer, ...around(outer, all)];
}

/** The same where the sheet has a layout of its own. */
function laidTitles(tables: readonly TablePlan[], layout: Arrangement): Map<string, string> {
  const titles = new Map<string, string>();
  for (const table of tables) {
    for (const title of layout.moreTitles?.(table) ?? []) titles.set(title, table.sheet?.titles?.get(title) ?? title);
    for (const [title, name] of titlesFor(table)) titles.set(titles.has(title) ? `${table.name} ${title}` : title, name);
  }
  return titles;
}

/** The sheet with the plan's titles: its layout is read where all such sheets are. */
function retitled(wanted: ReadonlyMap<string, string>, sheet: FlatSheet, keepsOthers: boolean): OpenSheet {
  const plain = new Map([...wanted].map(([title, name]) => [name, title]));
  for (const title of [MARK_TITLE, ACTION_TITLE]) plain.set(title, title);
  const kept = [...sheet.titles.keys()].filter((c) => plain.has(sheet.titles[c]) || (keepsOthers && sheet.titles[c] !== ""));
  const titles = kept.map((c) => plain.get(sheet.titles[c]) ?? sheet.titles[c]);
  const rows = sheet.rows.map(({ number, cells }) => ({ number, cells: kept.map((c) => cells[c] ?? "") }));
  return new RowsSheet(sheet.file, { number: 1, cells: titles }, rows);
}

async function readFlat(sheet: OpenSheet, file: string, header: number, wanted: readonly string[]): Promise<FlatSheet> {
  const rows = (await readAll(sheet, (title) => wanted.includes(title.trim()))) ?? [];
  // the line of titles: the one that is said, or among the first the one that has most of those wanted
  let best = { at: -1, known: 0 };
  for (const [at, { number, cells }] of rows.slice(0, FIRST_ROWS).entries()) {
    if (header > 0 && number !== header) continue;
    const known = cells.filter((title) => wanted.includes((title ?? "").trim())).length;
    if (known > best.known) best = { at, known };
  }
  if (best.at < 0) throw new CallError("titles-missing", { file, titles: wanted }, { file });
  const [titles, ...body] = rows.slice(best.at).map(wholeRow);
  return { file, titles: titles.cells.map((title) => titleIn(title.trim(), wanted)), rows: body };
}

function wholeRow({ number, cells }: SheetRow): WholeRow {
  return { number, cells: cells.map((cell) => cell ?? "") };
}

/** What a table is taken from. */
interface Projection {
  readonly table: TablePlan;
  /** What the sheet calls each column; nothing where it is not to be taken. */
  readonly wanted: ReadonlyMap<string, string>;
  readonly sheet: FlatSheet;
  /** Titles that other tables of the sheet take; nothing where there are none. */
  readonly others: ReadonlySet<string> | null;
  readonly problems: ProblemList;
}

/** The table's own columns, each record once. */
function project({ table, wanted, sheet, others, problems }: Projection): OpenSheet {
  const said = [...wanted].filter(([, name]) => name !== "");
  const missing = said.filter(([, name]) => !sheet.titles.includes(name));
  const slip = missing.find(([title]) => table.sheet?.titles?.has(title) === true);
  if (slip !== undefined) {
    const facts = { table: table.name, title: slip[0], name: slip[1], file: sheet.file, nearest: nearest(slip[1], sheet.titles) };
    throw new PlanError("plan-sheet-title", facts, table.sheet?.place);
  }
  // a code is found by the label beside it
  const isLabelled = (code: string): boolean =>
    said.some(([title, name]) => title !== code && codeOf(table, title) === code && sheet.titles.includes(name));
  const told = missing.filter(([title]) => table.fresh?.has(title) !== true && !isLabelled(title));
  if (told.length > 0) problems.note("columns-missing", { titles: told.map(([, name]) => name), file: sheet.file }, table.name);
  const fields = said
    .map(([title, name]): Field => ({
      title,
      c: sheet.titles.indexOf(name),
      code: codeOf(table, title),
      shared: others?.has(name) === true,
    }))
    .filter(({ c }) => c >= 0);
  const mark = sheet.titles.indexOf(MARK_TITLE);
  const action = sheet.titles.indexOf(ACTION_TITLE);
  const once = new FlatRecords({ table, file: sheet.file, fields, shared: others !== null, problems });
  for (const { number, cells } of sheet.rows) {
    if (action >= 0 && (cells[action] ?? "").trim() !== "") continue;
    const name = mark < 0 ? "" : nameOfMark(cells[mark] ?? "");
    once.take(
      number,
      fields.map(({ c }) => cells[c] ?? ""),
      name,
    );
  }
  once.tellRepeats();
  const rows = once.records.map(({ number, name, cells }) => ({ number, cells: [name, ...cells] }));
  return new RowsSheet(sheet.file, { number: 1, cells: [MARK_TITLE, ...fields.map(({ title }) => title)] }, rows);
}

/** The code that a column is, or is the label of. */
function codeOf({ columns, inline }: TablePlan, title: string): string {
  const label = columns.find((column) => column.title === title)?.labelOf ?? inline.find((column) => column.title === title)?.lookup;
  return label ?? title;
}
