/** Rows that a fold refused, as they are in what was folded: what somebody wrote, and all else as it is now. */
import { damage } from "../cells/heal.js";
import type { Comparison } from "../compare/comparison.js";
import { CallError } from "../errors/error.js";
import type { ArrangedSheet } from "../layouts/layout.js";
import { formatMark, parseMark } from "../model/marks.js";
import { ACTION_TITLE, MARK_TITLE, UPPER_TITLE } from "../model/plan.js";
import { pushTo } from "../model/push-to.js";
import type { CompiledTable } from "../plan/compile.js";
import type { SheetRow } from "../sheets/container.js";
import type { Receipt, ReceiptTable } from "../sheets/receipt.js";
import type { CellsByTitle, RowTables } from "../sheets/rows/tables.js";

/** A column whose cells name records, by their keys or marks. */
export interface Naming {
  readonly title: string;
  readonly target: CompiledTable;
  /** The table whose rows say there what they are in. */
  readonly inside?: CompiledTable;
}

/** Those of a sheet. */
export function namingIn(tables: readonly CompiledTable[], arranged: ArrangedSheet | null): Naming[] {
  return tables.flatMap((table) => {
    const { holder, outer, parent, references, plan } = table;
    const titleIn = (title: string): string => arranged?.shownAs?.(table, title) ?? title;
    const around = [holder, outer].find((title) => title !== null && title !== UPPER_TITLE);
    return [
      ...(plan.tree === undefined ? [] : [{ title: UPPER_TITLE, target: table }]),
      ...(around == null || parent === null ? [] : [{ title: titleIn(around), target: parent, inside: table }]),
      ...references.map(({ slot, target }) => ({ title: titleIn(plan.columns[slot].title), target })),
    ];
  });
}

/** A sheet with rows that were refused. */
export interface RefusedSheet {
  readonly table: CompiledTable;
  /** How records stand in it, when they do not each have a row of their own. */
  readonly arranged: ArrangedSheet | null;
  readonly naming: readonly Naming[];
  readonly receipt: ReceiptTable;
  readonly titles: readonly string[];
  /** Those that were refused; of an arranged sheet all. */
  readonly rows: readonly SheetRow[];
  /** By row: why. */
  readonly why: ReadonlyMap<number, string>;
  /** What a row of a table was read to be in; "" where that is not known. */
  readonly around: (table: CompiledTable, row: number) => string;
}

/** The tables whose records have marks in a sheet: those that stand there, or one that they hang on. */
export function markedIn({ table, arranged }: RefusedSheet): readonly CompiledTable[] {
  return arranged === null ? [table] : arranged.down === undefined ? arranged.tables : [arranged.down.target];
}

export function tablesIn({ table, arranged }: RefusedSheet): readonly CompiledTable[] {
  return arranged?.tables ?? [table];
}

/** The rows of a source. */
export interface HatchedRows {
  readonly tables: RowTables;
  readonly receipt: Receipt;
  /** By table: rows by mark. */
  readonly byMark: ReadonlyMap<string, ReadonlyMap<string, CellsByTitle>>;
}

/** Places of the records that rows stand for, or name by their marks; of arranged sheets all that were hatched. */
export function placesIn(sheets: readonly RefusedSheet[], was: HatchedRows): ReadonlyMap<CompiledTable, ReadonlySet<number>> {
  const places = new Map<CompiledTable, Set<number>>();
  for (const sheet of sheets) {
    const named = sheet.naming.filter(({ target }) => target.keySlot < 0);
    const wanted = [...markedIn(sheet).map((target) => ({ title: MARK_TITLE, target })), ...named];
    for (const { title, target } of wanted) {
      const at = sheet.titles.indexOf(title);
      const of = places.get(target) ?? new Set<number>();
      places.set(target, of);
      if (at >= 0) for (const { cells } of sheet.rows) of.add(parseMark(target.salt, cells[at] ?? ""));
      const hatched = sheet.arranged === null ? [] : (was.byMark.get(sheet.table.plan.name)?.keys() ?? []);
      if (title === MARK_TITLE) for (const mark of hatched) of.add(parseMark(target.salt, mark));
    }
  }
  return places;
}

/** What rows were called that have another name now: new ones by their ids, renamed ones by their keys, and marks. */
export class Names {
  private readonly now = new Map<string, string>();

  constructor(
    { changes, inner: { compiled } }: Comparison,
    private readonly placeNow: (table: CompiledTable, place: number) => number | null,
  ) {
    for (const { kind, table, column, old, new: made, name, cells = {} } of changes) {
      const { key } = compiled.tables.find(({ plan }) => plan.name === table)?.plan ?? {};
      if (kind === "changed" && column === key && old !== null && made !== null) this.now.set(`${table}\n${old}`, made);
      if (kind === "added" && key !== undefined && name !== undefined && cells[key] !== undefined)
        this.now.set(`${table}\n${name}`, cells[key]);
    }
  }

  /** A mark of one of these tables as it is now; `null` when its record is gone, or it is no mark of theirs. */
  mark(tables: readonly CompiledTable[], said: string): string | null {
    for (const table of tables) {
      const before = parseMark(table.salt, said);
      const place = before < 0 ? null : this.placeNow(table, before);
      if (place !== null) return formatMark(table.salt, place);
    }
    return null;
  }

  of(table: CompiledTable, word: string): string {
    return this.now.get(`${table.plan.name}\n${word}`) ?? (table.keySlot < 0 ? this.mark([table], word) : null) ?? word;
  }
}

interface Hatchings {
  readonly was: HatchedRows;
  readonly now: HatchedRows;
  readonly names: Names;
}

/** A row as it comes back. */
export interface RowNow {
  /** Its problem; "" where it has none. */
  readonly why: string;
  readonly cells: readonly string[];
}

/** The rows of a sheet as they come back. */
export function rowsNow(
  sheet: RefusedSheet,
  hatchings: Hatchings,
): { readonly titles: readonly string[]; readonly rows: readonly RowNow[] } {
  const { arranged, titles } = sheet;
  if (arranged !== null) return new WholeSheet(sheet, arranged, hatchings);
  const columns = titles.map((title, at) => ({ at, was: title, now: title }));
  const rows = sheet.rows.map((row) => {
    const { cells } = refusedRow(sheet, row, columns, hatchings);
    return { why: sheet.why.get(row.number)!, cells: titles.map((title) => cells[title] ?? "") };
  });
  return { titles, rows };
}

/** A column of the edited sheet: its title when it was hatched, and after the fold. */
interface Column {
  readonly at: number;
  readonly was: string;
  readonly now: string;
}

/** A refused row: its mark now, `null` where it has none, and its cells by title. */
function refusedRow(
  sheet: RefusedSheet,
  { cells, number }: SheetRow,
  columns: readonly Column[],
  { was, now, names }: Hatchings,
): { readonly mark: string | null; readonly cells: Record<string, string> } {
  const { table, titles, naming } = sheet;
  const { name } = table.plan;
  const written = cells[titles.indexOf(MARK_TITLE)] ?? "";
  const mark = names.mark(markedIn(sheet), written);
  const before = was.byMark.get(name)?.get(written.trim().toLowerCase());
  if (before !== undefined && mark === null) throw new CallError("refused-inside", { table: name, row: number });
  const after = mark === null ? undefined : now.byMark.get(name)?.get(mark);
  const row: Record<string, string> = {};
  for (const column of columns) {
    const cell = cells[column.at] ?? "";
    const target = naming.find(({ title }) => title === column.was)?.target;
    if (column.was === MARK_TITLE) row[column.now] = mark ?? cell;
    else if (column.was === ACTION_TITLE) row[column.now] = cell;
    else if (after !== undefined && before?.[column.was] === cell) row[column.now] = after[column.now] ?? cell;
    else row[column.now] = target === undefined ? cell : names.of(target, cell);
  }
  return { mark, cells: row };
}

/** A row on its way: those that stand behind it and are not in what was folded hang on it. */
interface Line {
  readonly mark: string;
  why: string;
  cells: Record<string, string | undefined>;
  readonly behind: Line[];
}

/**
 * A sheet in which rows are read together with those around them: all its rows as they are after the fold, and in these what
 * was refused, new rows where they stood.
 */
class WholeSheet {
  readonly titles: readonly string[];
  readonly rows: readonly RowNow[];
  private readonly columns: readonly Column[];
  private readonly lines: readonly Line[];
  /** What refused rows say and the fold did not take: title, and what was and is there. */
  private readonly open = new Set<string>();

  constructor(
    private readonly sheet: RefusedSheet,
    arranged: ArrangedSheet,
    private readonly hatchings: Hatchings,
  ) {
    const { now, names } = hatchings;
    const { file } = now.receipt.tables.find(({ name }) => name === sheet.table.plan.name)!;
    const { titles = [], rows } = now.tables.sheets.get(file)!;
    this.columns = sheet.titles.flatMap((title, at) => {
      const was = arranged.titleOf?.(title) ?? title;
      return was.trim() === "" ? [] : [{ at, was, now: arranged.across === undefined ? was : names.of(arranged.across.target, was) }];
    });
    this.titles = [...new Set([...titles, ...this.columns.map((column) => column.now)])];
    this.lines = rows.map((cells) => ({ mark: cells[MARK_TITLE] ?? "", why: "", cells, behind: [] }));
    const first: Line = { mark: "", why: "", cells: {}, behind: [] };
    this.put(first);
    this.repeat();
    const all = [...first.behind, ...this.lines.flatMap((line) => [line, ...line.behind])];
    this.rows = all.map(({ why, cells }) => ({ why, cells: this.titles.map((title) => cells[title] ?? "") }));
  }

  /** Refused rows go where their records are, and those without one behind the row that they stood behind. */
  private put(first: Line): void {
    const { sheet, lines, hatchings } = this;
    const { was, names } = hatchings;
    const tables = markedIn(sheet);
    const stayed = new Set([...(was.byMark.get(sheet.table.plan.name)?.keys() ?? [])].map((mark) => names.mark(tables, mark)));
    const at = new Map(lines.map(({ mark }, i) => [mark, i]));
    const taken = new Set<number>();
    let last = -1;
    for (const row of sheet.rows) {
      const why = sheet.why.get(row.number);
      const mark = names.mark(tables, this.cell(row, MARK_TITLE));
      const place = mark === null ? -1 : (at.get(mark) ?? -1);
      if (place >= 0) last = place;
      // a new row that was folded
      else if (why === undefined && last + 1 < lines.length && !stayed.has(lines[last + 1].mark)) last++;
      if (why === undefined) continue;
      const { cells } = refusedRow(sheet, row, this.columns, hatchings);
      if (mark === null) this.nameAround(row, cells);
      if (place < 0 || taken.has(place)) {
        (last < 0 ? first : lines[last]).behind.push({ mark: "", why, cells, behind: [] });
        continue;
      }
      taken.add(place);
      const line = lines[place];
      for (const column of this.columns) if (this.isOpen(line, row, column)) this.open.add(this.edit(row, column));
      line.why = why;
      line.cells = { ...line.cells, ...cells };
    }
  }

  /** Rows that repeat a cell of a refused one say the same as that one. */
  private repeat(): void {
    const { sheet, lines, hatchings } = this;
    const tables = markedIn(sheet);
    const lineOf = new Map<string, Line[]>();
    for (const line of lines) if (line.why === "") pushTo(lineOf, line.mark, line);
    for (const row of sheet.rows) {
      if (sheet.why.has(row.number) || this.cell(row, ACTION_TITLE).trim() !== "") continue;
      const mark = hatchings.names.mark(tables, this.cell(row, MARK_TITLE));
      for (const line of mark === null ? [] : (lineOf.get(mark) ?? []))
        for (const column of this.columns)
          if (this.isOpen(line, row, column) && this.open.has(this.edit(row, column)))
            line.cells = { ...line.cells, [column.now]: row.cells[column.at] };
    }
  }

  private cell({ cells }: SheetRow, title: string): string {
    const column = this.columns.find(({ was }) => was === title);
    return column === undefined ? "" : (cells[column.at] ?? "");
  }

  /** Does a row say what the fold did not take? */
  private isOpen(line: Line, row: SheetRow, { at, was, now }: Column): boolean {
    if (was === MARK_TITLE || was === ACTION_TITLE) return false;
    const { hatchings, sheet } = this;
    const before = hatchings.was.byMark.get(sheet.table.plan.name)?.get(this.cell(row, MARK_TITLE).trim().toLowerCase())?.[was];
    const cell = row.cells[at];
    return before !== undefined && cell !== undefined && cell !== before && line.cells[now] === before && damage(before, cell) === null;
  }

  private edit({ cells }: SheetRow, { at, was }: Column): string {
    return JSON.stringify([was, cells[at]]);
  }

  /** A new row beneath the record that it is in says so from now on: rows around it may be deleted. */
  private nameAround({ number }: SheetRow, cells: Record<string, string>): void {
    for (const { title, target, inside } of this.sheet.naming) {
      if (inside === undefined || (cells[title] ?? "") !== "" || !(title in cells)) continue;
      const name = this.sheet.around(inside, number);
      if (name !== "" && !name.startsWith("+row ")) cells[title] = this.hatchings.names.of(target, name);
    }
  }
}
