/**
 * Sheets that somebody else made, as tables of a plan: titles are mapped, and one flat sheet that repeats
 * its records on many rows is taken apart, each record once. Rows keep their numbers.
 */
import { ProblemList } from "../model/findings.js";
import { LAYOUTS } from "./index.js";
import type { Arrangement } from "./layout.js";
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { titleOf } from "../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE, type Plan, type TablePlan } from "../model/plan.js";
import type { OpenSheet, SheetContainer, SheetRow } from "../sheets/container.js";
import type { Receipt } from "../sheets/receipt.js";
import { RowsSheet } from "../sheets/rows/sheet.js";
import { nameOfMark, readAll } from "../sheets/titled.js";
import { normalised } from "../cells/normalised.js";
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
    const found = sheets.has(file) ? null : await container.sheet(file, true);
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
    const shared = own.filter((one) => one.sheet?.file === file).length > 1;
    made.set(usual, layout !== undefined ? retitled(wanted, sheet, hasOthers) : project(table, wanted, sheet, shared, problems));
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

/** The table's own columns, each record once where the sheet is shared. */
function project(
  table: TablePlan,
  wanted: ReadonlyMap<string, string>,
  sheet: FlatSheet,
  shared: boolean,
  problems: ProblemList,
): OpenSheet {
  const places = [...wanted].map(([title, name]) => ({ title, c: sheet.titles.indexOf(name) })).filter(({ c }) => c >= 0);
  const missing = [...wanted].filter(([, name]) => !sheet.titles.includes(name));
  if (missing.length > 0) problems.note("columns-missing", { titles: missing.map(([, name]) => name), file: sheet.file }, table.name);
  const mark = sheet.titles.indexOf(MARK_TITLE);
  const action = sheet.titles.indexOf(ACTION_TITLE);
  const rows: SheetRow[] = [];
  const keyAt = shared && table.key !== undefined ? places.findIndex(({ title }) => title === table.key) : -1;
  const seen = new Map<string, { row: number; cells: readonly string[] }>();
  const spellings = new Map<string, { row: number; key: string }>();
  for (const { number: row, cells: found } of sheet.rows) {
    if (action >= 0 && (found[action] ?? "").trim() !== "") continue;
    const cells = places.map(({ c }) => found[c] ?? "");
    const first = keyAt < 0 ? undefined : seen.get(cells[keyAt] ?? "");
    const blank = cells.every((cell) => cell.trim() === "") || (keyAt >= 0 && (cells[keyAt] ?? "").trim() === "");
    if (!blank && first === undefined) rows.push({ number: row, cells: [mark < 0 ? "" : nameOfMark(found[mark] ?? ""), ...cells] });
    const place = { table: table.name, file: sheet.file, row };
    if (blank && keyAt >= 0 && cells.some((cell, i) => cell.trim() !== "" && places[i].title !== table.inside))
      problems.add("key-missing", { title: table.key! }, { ...place, column: table.key!, value: "" });
    if (blank || keyAt < 0) continue;
    if (first !== undefined) {
      cells.forEach((cell, i) => {
        if (cell === first.cells[i]) return;
        const facts = { key: cells[keyAt], title: places[i].title, first: first.row, was: first.cells[i], now: cell };
        problems.add("rows-disagree", facts, { ...place, column: places[i].title, value: cell });
      });
      continue;
    }
    seen.set(cells[keyAt], { row, cells });
    const spelling = normalised(cells[keyAt]);
    const other = spellings.get(spelling);
    if (other === undefined) spellings.set(spelling, { row, key: cells[keyAt] });
    else
      problems.add(
        "key-near",
        { key: cells[keyAt], other: other.key, row: other.row },
        { ...place, column: table.key!, value: cells[keyAt] },
      );
  }
  return new RowsSheet(sheet.file, { number: 1, cells: [MARK_TITLE, ...places.map(({ title }) => title)] }, rows);
}
