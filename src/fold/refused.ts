/**
 * Rows that a fold refused come back as tables: the same columns and marks, and in front of each row why. They are tables of
 * what was folded, so that they can be corrected and folded again; a row that says nothing new may be deleted.
 */
import { compareTables } from "../compare/compare.js";
import type { Comparison } from "../compare/comparison.js";
import { harmless } from "../cells/spelling.js";
import { CallError } from "../errors/error.js";
import { hatch } from "../hatch/hatch.js";
import { hintsOf } from "../hatch/hints.js";
import { inWords, rowsOf, type Problem } from "../model/findings.js";
import { formatMark, parseMark } from "../model/marks.js";
import { ACTION_TITLE, MARK_TITLE, PROBLEM_TITLE } from "../model/plan.js";
import { schemaInput } from "../model/schema.js";
import type { CompiledTable } from "../plan/compile.js";
import type { SheetContainer, SheetHints, SheetRow } from "../sheets/container.js";
import { programNamed } from "../sheets/csv/styles.js";
import { containerOf, sinkOf, type Tables, type TablesOut } from "../sheets/index.js";
import { hasMark, rowsBelowWords, titlesIn } from "../sheets/plain-rows.js";
import { sealReceipt, type Receipt, type ReceiptTable } from "../sheets/receipt.js";
import { RowTables, type CellsByTitle } from "../sheets/rows/tables.js";
import { partAt } from "../source/parts.js";
import { nameIn, shiftBy, type Shift, type Start } from "../source/shift.js";
import { planSplices } from "../source/splices.js";
import type { SourcesInput } from "../source/files.js";

/** Rows that were refused, as they stand in their sheets. */
export interface RefusedRows {
  readonly count: number;
  /** Writes them as tables of `result`, the source as it was folded. */
  write(result: SourcesInput, into: TablesOut, sourceFile?: string): Promise<Receipt>;
}

/** A sheet, and those of its rows that were refused. */
interface RefusedSheet {
  readonly table: CompiledTable;
  readonly receipt: ReceiptTable;
  readonly titles: readonly string[];
  readonly rows: readonly SheetRow[];
  /** By row: why. */
  readonly why: ReadonlyMap<number, string>;
}

/**
 * Gathers the rows that a fold with `partial` leaves out; to be called before it, while the source is as it was.
 *
 * @param source - the source that the comparison was made with
 * @param words - what is said of a problem
 * @throws {@link CallError} where rows cannot be given back alone
 */
export async function gatherRefused(
  tables: Tables | SheetContainer,
  source: SourcesInput,
  comparison: Comparison,
  words: (problem: Problem) => string = ({ message, hint }) => inWords(message, hint),
): Promise<RefusedRows> {
  const container = containerOf(tables);
  const sheets = await sheetsOf(container, comparison, words);
  const was = await hatchedRows(source, comparison, sheets);
  const starts = await startsOf(comparison, placesIn(sheets));
  const shift = await shiftOf(comparison);
  const count = sheets.reduce((sum, { rows }) => sum + rows.length, 0);
  return {
    count,
    write: async (result, into, sourceFile) => {
      const now = await hatchedRows(result, comparison, sheets, sourceFile);
      const placeNow = placesNow(await startsOf(await compareTables(now.tables, { source: result, unproved: true }), null), shift, starts);
      const names = new Names(comparison);
      const before = new Map(sheets.map(({ receipt }) => [receipt.file, receipt.commas ?? []]));
      const { program } = comparison.receipt;
      const sink = sinkOf(into, program === undefined ? undefined : programNamed(program), before);
      const files = sink.nameAll(sheets.map(({ table }) => table.plan.name));
      const written: ReceiptTable[] = [];
      for (const sheet of sheets) {
        const file = files.get(sheet.table.plan.name)!;
        const out = await sink.create(file, hintsFor(sheet, sheets));
        out.titles([PROBLEM_TITLE, ...sheet.titles]);
        for (const row of sheet.rows) {
          out.row([harmless(sheet.why.get(row.number) ?? ""), ...cellsNow(row, sheet, { was, now, placeNow, names })]);
          if (out.isFull) await out.flush();
        }
        const { rows: _, part: __, ...fresh } = now.receipt.tables.find(({ name }) => name === sheet.table.plan.name)!;
        const { commas } = sheet.receipt;
        written.push({
          ...fresh,
          file,
          rows: sheet.rows.length,
          part: true,
          fingerprint: await out.close(),
          ...(commas === undefined ? {} : { commas }),
        });
      }
      const { seal: ___, ...rest } = now.receipt;
      const receipt = await sealReceipt({ ...rest, tables: written, ...(program === undefined ? {} : { program }) });
      await sink.finish(receipt);
      return receipt;
    },
  };
}

/** The sheets with refused rows. */
async function sheetsOf(container: SheetContainer, comparison: Comparison, words: (problem: Problem) => string): Promise<RefusedSheet[]> {
  const { problems, aside, receipt, inner, encodings } = comparison;
  const why = new Map<string, Map<number, string[]>>();
  const put = (table: string, row: number, said: string | null): void => {
    const rows = why.get(table) ?? new Map<number, string[]>();
    rows.set(row, [...(rows.get(row) ?? []), ...(said === null ? [] : [said])]);
    why.set(table, rows);
  };
  for (const problem of problems)
    for (const row of rowsOf(problem))
      put(problem.table, row, problem.column === "" ? words(problem) : `${problem.column}: ${words(problem)}`);
  for (const { table, row } of aside) put(table, row, null);
  const sheets: RefusedSheet[] = [];
  for (const one of receipt.tables) {
    const rows = why.get(one.name);
    const table = inner.guide.tables.find(({ plan }) => plan.name === one.name);
    if (rows === undefined || table === undefined) continue;
    if (table.plan.arrangement !== undefined || isStacked(table)) throw new CallError("refused-laid", { table: one.name, file: one.file });
    const encoding = encodings.get(one.file);
    const sheet = await container.sheet(one.file, encoding === undefined ? undefined : { encoding });
    const [header, ...body] = sheet === null ? [] : await rowsBelowWords(sheet);
    if (header === undefined || !hasMark(header.cells)) continue;
    const titles = titlesIn(header, table.titles);
    const kept = titles.flatMap((title, i) => (title === PROBLEM_TITLE ? [] : [i]));
    sheets.push({
      table,
      receipt: one,
      titles: kept.map((i) => titles[i]),
      rows: body.filter(({ number }) => rows.has(number)).map((row) => ({ ...row, cells: kept.map((i) => row.cells[i]) })),
      why: new Map(
        [...rows].map(([row, said]) => [row, said.length === 0 ? "it depends on a row that was refused" : [...new Set(said)].join("; ")]),
      ),
    });
  }
  return sheets;
}

function isStacked({ plan, children }: CompiledTable): boolean {
  return plan.stacked !== undefined || children.some((child) => child.plan.stacked !== undefined);
}

/** What a worksheet can ask: not for keys that stand in sheets which are not there. */
function hintsFor({ table }: RefusedSheet, sheets: readonly RefusedSheet[]): SheetHints {
  const hints = hintsOf(table);
  const isThere = (name: string): boolean => sheets.some((one) => one.table.plan.name === name);
  const columns = [...hints.columns].map(
    ([title, one]) => [title, one.refers !== null && !isThere(one.refers.table) ? { ...one, refers: null } : one] as const,
  );
  return { ...hints, columns: new Map(columns) };
}

interface HatchedRows {
  readonly tables: RowTables;
  readonly receipt: Receipt;
  /** By table: rows by mark. */
  readonly byMark: ReadonlyMap<string, ReadonlyMap<string, CellsByTitle>>;
}

/** The rows of a source, all of those tables. */
async function hatchedRows(
  source: SourcesInput,
  { receipt, inner: { plan } }: Comparison,
  sheets: readonly RefusedSheet[],
  sourceFile = receipt.source.file,
): Promise<HatchedRows> {
  const tables = new RowTables();
  const { format, encoding, files } = receipt.source;
  const told = plan.sources.length > 1 ? {} : { format, ...(files === undefined ? { encoding } : {}) };
  const where = receipt.tables.flatMap((table) => (table.where === undefined ? [] : [`${table.name}: ${table.where}`]));
  const names = sheets.map(({ table }) => table.plan.name);
  const hatched = await hatch(source, {
    plan,
    into: tables,
    tables: names,
    where,
    sourceFile,
    schema: schemaInput(receipt.schemas),
    ...told,
  });
  const byMark = new Map(
    hatched.receipt.tables.map(({ name, file }) => [name, new Map(tables.rows(file).map((row) => [row[MARK_TITLE] ?? "", row]))]),
  );
  return { tables, receipt: hatched.receipt, byMark };
}

/** Places of the records that refused rows stand for. */
function placesIn(sheets: readonly RefusedSheet[]): ReadonlyMap<CompiledTable, ReadonlySet<number>> {
  return new Map(
    sheets.map(({ table, titles, rows }) => {
      const mark = titles.indexOf(MARK_TITLE);
      return [table, new Set(rows.map(({ cells }) => parseMark(table.salt, cells[mark] ?? "")))];
    }),
  );
}

/** Where records begin: those, or all. */
async function startsOf(
  { parts, inner: { records } }: Comparison,
  wanted: ReadonlyMap<CompiledTable, ReadonlySet<number>> | null,
): Promise<Map<CompiledTable, Map<number, Start>>> {
  const starts = new Map<CompiledTable, Map<number, Start>>();
  await records.rows(({ table, place, start }) => {
    if (wanted !== null && wanted.get(table)?.has(place) !== true) return;
    const part = partAt(parts, start);
    const of = starts.get(table) ?? new Map<number, Start>();
    starts.set(table, of.set(place, { file: nameIn(parts, part), at: start - part.base }));
  });
  return starts;
}

async function shiftOf(comparison: Comparison): Promise<Shift> {
  const { parts, corrections } = comparison;
  const edited = shiftBy(parts, await planSplices(comparison));
  const corrected = shiftBy(parts, corrections);
  return (start) => edited(start).flatMap((one) => corrected(one));
}

/** By table and place before the fold: the place after it. */
function placesNow(
  after: ReadonlyMap<CompiledTable, ReadonlyMap<number, Start>>,
  shift: Shift,
  before: ReadonlyMap<CompiledTable, ReadonlyMap<number, Start>>,
): (table: CompiledTable, place: number) => number | null {
  const nameOf = ({ file, at }: Start): string => `${at} ${file}`;
  const found = new Map(
    [...after].map(([table, starts]) => [table.plan.name, new Map([...starts].map(([place, start]) => [nameOf(start), place]))]),
  );
  return (table, place) => {
    const start = before.get(table)?.get(place);
    if (start === undefined) return null;
    const now = shift(start).flatMap((one) => found.get(table.plan.name)?.get(nameOf(one)) ?? []);
    return now.length === 0 ? null : now[0];
  };
}

/** What rows were called that have another name now: new ones by their ids, renamed ones by their keys. */
class Names {
  private readonly now = new Map<string, string>();

  constructor({ changes, inner: { guide } }: Comparison) {
    for (const { kind, table, column, old, new: made, name, cells = {} } of changes) {
      const { key } = guide.tables.find(({ plan }) => plan.name === table)?.plan ?? {};
      if (kind === "changed" && column === key && old !== null && made !== null) this.now.set(`${table}\n${old}`, made);
      if (kind === "added" && key !== undefined && name !== undefined && cells[key] !== undefined)
        this.now.set(`${table}\n${name}`, cells[key]);
    }
  }

  of(table: CompiledTable | null, word: string): string {
    return table === null ? word : (this.now.get(`${table.plan.name}\n${word}`) ?? word);
  }
}

/** The cells of a refused row: those that somebody wrote, and the others as they are after the fold. */
function cellsNow(
  { cells, number }: SheetRow,
  { table, titles }: RefusedSheet,
  {
    was,
    now,
    placeNow,
    names,
  }: {
    readonly was: HatchedRows;
    readonly now: HatchedRows;
    readonly placeNow: (table: CompiledTable, place: number) => number | null;
    readonly names: Names;
  },
): string[] {
  const said = cells[titles.indexOf(MARK_TITLE)] ?? "";
  const place = placeNow(table, parseMark(table.salt, said));
  const before = was.byMark.get(table.plan.name)?.get(said.trim().toLowerCase());
  if (before !== undefined && place === null) throw new CallError("refused-inside", { table: table.plan.name, row: number });
  const mark = place === null ? said : formatMark(table.salt, place);
  const after = place === null ? undefined : now.byMark.get(table.plan.name)?.get(mark);
  return titles.map((title, i) => {
    const cell = cells[i] ?? "";
    if (title === MARK_TITLE) return mark;
    if (title === ACTION_TITLE) return cell;
    if (after !== undefined && before?.[title] === cell) return after[title] ?? cell;
    const refers = table.references.find(({ slot }) => table.plan.columns[slot].title === title)?.target ?? null;
    return names.of(title === table.holder ? table.parent : refers, cell);
  });
}
