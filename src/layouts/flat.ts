/**
 * Sheets that somebody else made, as tables of a plan: titles are mapped, and one flat sheet that repeats
 * its records on many rows is taken apart, each record once. Rows keep their numbers: what a table has
 * no use for is left blank in it.
 */
import { openText } from "../bytes/encoding.js";
import { isUtf8 } from "../bytes/utf8.js";
import { ByteWriter, concat, copied } from "../bytes/writer.js";
import { ProblemList } from "../model/findings.js";
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { DELIMITERS, readRows, type DelimitedRow } from "../sheets/csv/rows.js";
import { titleOf } from "../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE, shownOfTree, type Plan, type TablePlan } from "../model/plan.js";
import { MemoryTables, type TablesSource } from "../sheets/tables.js";
import { sheetFiles } from "../sheets/sheet-files.js";
import { nameOfMark } from "../sheets/titled.js";
import { normalised } from "../cells/normalised.js";
import { writeCells } from "../sheets/csv/write.js";
import { titleIn } from "../cells/spelling.js";

/** A sheet as it was found: titles, and rows with their numbers. */
interface FlatSheet {
  readonly file: string;
  readonly titles: readonly string[];
  /** Cells by row number; titles and what stands above them are left out. */
  readonly rows: ReadonlyMap<number, readonly string[]>;
  readonly last: number;
}

export async function splitSheet(
  tables: TablesSource,
  plan: Plan,
): Promise<{ tables: MemoryTables; problems: ProblemList; used: ReadonlyMap<string, string> }> {
  const problems = new ProblemList();
  const result = new MemoryTables([], tables.name);
  const used = new Map<string, string>();
  const sheets = new Map<string, FlatSheet>();
  const files = await tables.files();
  const own = plan.tables.filter((table) => table.host === undefined);
  const claimed = new Map<string, Set<string>>();
  const named = sheetFiles(own.filter((table) => table.stacked === undefined).map(({ name }) => name));
  for (const table of own) {
    const usual = named.get(table.name);
    if (usual === undefined) continue; // read with the table around
    const file = table.sheet?.file ?? usual;
    if (!files.includes(file)) {
      if (table.sheet?.file !== undefined)
        throw new CallError("sheet-missing", { file, nearest: nearest(file, files) }, { file: tables.name });
      continue;
    }
    const beneath = own.filter((one) => one.stacked !== undefined && around(one, own).includes(table));
    const laid = table.tree !== undefined || table.cross !== undefined || beneath.length > 0;
    const wanted = laid ? laidTitles([table, ...beneath]) : titlesFor(table);
    const sheet = sheets.get(file) ?? (await readFlat(tables, file, table.sheet?.header ?? 0, [...wanted.values()]));
    sheets.set(file, sheet);
    for (const one of [table, ...beneath]) used.set(one.name, file);
    for (const title of wanted.values()) claimed.set(file, (claimed.get(file) ?? new Set()).add(title));
    if (laid) {
      result.contents.set(usual, retitled(wanted, sheet, table.cross !== undefined));
      if (table.cross !== undefined) for (const title of sheet.titles) claimed.get(file)!.add(title);
      continue;
    }
    result.contents.set(usual, project(table, wanted, sheet, own.filter((one) => one.sheet?.file === file).length > 1, problems));
  }
  for (const [file, titles] of claimed) {
    for (const title of sheets.get(file)!.titles)
      if (!titles.has(title) && title.trim() !== "" && title !== MARK_TITLE && title !== ACTION_TITLE)
        problems.note("column-left", { file, title });
  }
  return { tables: result, problems, used };
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
function laidTitles(tables: readonly TablePlan[]): Map<string, string> {
  const titles = new Map<string, string>();
  for (const table of tables) {
    const tree = table.tree === undefined ? [] : shownOfTree(table.tree);
    for (const title of tree) titles.set(title, table.sheet?.titles?.get(title) ?? title);
    for (const [title, name] of titlesFor(table)) titles.set(titles.has(title) ? `${table.name} ${title}` : title, name);
  }
  return titles;
}

/** The sheet with the plan's titles, rows where they were: its layout is read where all such sheets are. */
function retitled(wanted: ReadonlyMap<string, string>, sheet: FlatSheet, keepsOthers: boolean): Uint8Array {
  const plain = new Map([...wanted].map(([title, name]) => [name, title]));
  for (const title of [MARK_TITLE, ACTION_TITLE]) plain.set(title, title);
  const kept = [...sheet.titles.keys()].filter((c) => plain.has(sheet.titles[c]) || (keepsOthers && sheet.titles[c] !== ""));
  const out = new ByteWriter(1 << 12);
  writeCells(
    out,
    kept.map((c) => plain.get(sheet.titles[c]) ?? sheet.titles[c]),
  );
  for (let row = 2; row <= sheet.last; row++)
    writeCells(
      out,
      kept.map((c) => sheet.rows.get(row)?.[c] ?? ""),
    );
  return out.take();
}

async function readFlat(tables: TablesSource, file: string, header: number, wanted: readonly string[]): Promise<FlatSheet> {
  const source = (await tables.open(file))!;
  const raw = await source.read(0, source.size);
  const text = await openText(source, isUtf8(raw) ? "utf-8" : "windows-1252");
  const pieces: Uint8Array[] = [];
  for await (const chunk of text.chunks()) pieces.push(copied(chunk));
  const bytes = concat(pieces);
  let best: { rows: DelimitedRow[]; at: number; known: number } | null = null;
  for (const delimiter of DELIMITERS) {
    const rows = readRows(bytes, delimiter);
    // the line of titles: the one that is said, or among the first the one that has most of those wanted
    for (let at = 0; at < Math.min(rows.length, 20); at++) {
      if (header > 0 && rows[at].number !== header) continue;
      const known = rows[at].cells.filter((title) => wanted.includes(title.trim())).length;
      if (known > (best?.known ?? 0)) best = { rows, at, known };
    }
  }
  if (best === null) throw new CallError("titles-missing", { file, titles: wanted }, { file });
  const titles = best.rows[best.at].cells.map((title) => titleIn(title.trim(), wanted));
  const rows = new Map(best.rows.slice(best.at + 1).map(({ number, cells }) => [number, cells]));
  return { file, titles, rows, last: best.rows.at(-1)!.number };
}

/** The table's own columns, each record once where the sheet is shared. */
function project(
  table: TablePlan,
  wanted: ReadonlyMap<string, string>,
  sheet: FlatSheet,
  shared: boolean,
  problems: ProblemList,
): Uint8Array {
  const places = [...wanted].map(([title, name]) => ({ title, c: sheet.titles.indexOf(name) })).filter(({ c }) => c >= 0);
  const missing = [...wanted].filter(([, name]) => !sheet.titles.includes(name));
  if (missing.length > 0) problems.note("columns-missing", { titles: missing.map(([, name]) => name), file: sheet.file }, table.name);
  const mark = sheet.titles.indexOf(MARK_TITLE);
  const action = sheet.titles.indexOf(ACTION_TITLE);
  const out = new ByteWriter(1 << 12);
  writeCells(out, [MARK_TITLE, ...places.map(({ title }) => title)]);
  const keyAt = shared && table.key !== undefined ? places.findIndex(({ title }) => title === table.key) : -1;
  const seen = new Map<string, { row: number; cells: readonly string[] }>();
  const spellings = new Map<string, { row: number; key: string }>();
  for (let row = 2; row <= sheet.last; row++) {
    const found = sheet.rows.get(row);
    const left = found === undefined || (action >= 0 && (found[action] ?? "").trim() !== "");
    const cells = left ? [] : places.map(({ c }) => found[c] ?? "");
    const first = keyAt < 0 ? undefined : seen.get(cells[keyAt] ?? "");
    const blank = cells.every((cell) => cell.trim() === "") || (keyAt >= 0 && (cells[keyAt] ?? "").trim() === "");
    if (blank || first !== undefined) writeCells(out, ["", ...places.map(() => "")]);
    else writeCells(out, [mark < 0 ? "" : nameOfMark(found![mark] ?? ""), ...cells]);
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
  return out.take();
}
