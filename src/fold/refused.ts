/**
 * Rows that a fold refused come back as tables: the same columns and marks, and in front of each row why. They are tables of
 * what was folded, so that they can be corrected and folded again; a row that says nothing new may be deleted. Where a row is
 * read together with those around it (trees, cross tables, records beneath each other), the sheet comes back whole.
 */
import { compareTables } from "../compare/compare.js";
import type { Comparison } from "../compare/comparison.js";
import { harmless } from "../cells/spelling.js";
import { CallError } from "../errors/error.js";
import { hatch } from "../hatch/hatch.js";
import { hintsOf } from "../hatch/hints.js";
import { inWords, rowsOf, type Problem } from "../model/findings.js";
import { ACTION_TITLE, MARK_TITLE, PROBLEM_TITLE } from "../model/plan.js";
import { arrangedSheets } from "../layouts/index.js";
import { schemaInput } from "../model/schema.js";
import type { CompiledTable } from "../plan/compile.js";
import type { SheetContainer, SheetHints } from "../sheets/container.js";
import { programNamed } from "../sheets/csv/styles.js";
import { containerOf, sinkOf, type Tables, type TablesOut } from "../sheets/index.js";
import { hasMark, rowsBelowWords, titlesIn } from "../sheets/plain-rows.js";
import { Names, namingIn, placesIn, rowsNow, tablesIn, type HatchedRows, type RefusedSheet } from "./refused-rows.js";
import { sealReceipt, type Receipt, type ReceiptTable } from "../sheets/receipt.js";
import { RowTables } from "../sheets/rows/tables.js";
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
  const starts = await startsOf(comparison, placesIn(sheets, was));
  const shift = await shiftOf(comparison);
  const count = sheets.reduce((sum, { why }) => sum + why.size, 0);
  return {
    count,
    write: async (result, into, sourceFile) => {
      const now = await hatchedRows(result, comparison, sheets, sourceFile);
      const placeNow = placesNow(await startsOf(await compareTables(now.tables, { source: result, unproved: true }), null), shift, starts);
      const names = new Names(comparison, placeNow);
      const before = new Map(sheets.map(({ receipt }) => [receipt.file, receipt.commas ?? []]));
      const { program } = comparison.receipt;
      const sink = sinkOf(into, program === undefined ? undefined : programNamed(program), before);
      const files = sink.nameAll(sheets.map(({ table }) => table.plan.name));
      const written: ReceiptTable[] = [];
      for (const sheet of sheets) {
        const file = files.get(sheet.table.plan.name)!;
        const out = await sink.create(file, hintsFor(sheet, sheets));
        const { titles, rows } = rowsNow(sheet, { was, now, names });
        out.titles([PROBLEM_TITLE, ...titles]);
        for (const { why, cells } of rows) {
          out.row([harmless(why), ...cells]);
          if (out.isFull) await out.flush();
        }
        const fingerprint = await out.close();
        const { commas } = sheet.receipt;
        for (const { plan } of tablesIn(sheet)) {
          const { part: __, ...fresh } = now.receipt.tables.find(({ name }) => name === plan.name)!;
          written.push({
            ...fresh,
            file,
            rows: sheet.arranged === null ? rows.length : fresh.rows,
            part: true,
            fingerprint,
            ...(commas === undefined ? {} : { commas }),
          });
        }
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
  const { compiled, records } = inner;
  const fileOf = new Map(receipt.tables.map(({ name, file }) => [name, file]));
  const why = new Map<string, Map<number, string[]>>();
  const put = (table: string, row: number, said: string | null): void => {
    const file = fileOf.get(table) ?? "";
    const rows = why.get(file) ?? new Map<number, string[]>();
    rows.set(row, [...(rows.get(row) ?? []), ...(said === null ? [] : [said])]);
    why.set(file, rows);
  };
  for (const problem of problems)
    for (const row of rowsOf(problem))
      put(problem.table, row, problem.column === "" ? words(problem) : `${problem.column}: ${words(problem)}`);
  for (const { table, row } of aside) put(table, row, null);
  const laid = await arrangedSheets({ compiled, records, slotsOf: (table) => table.shown });
  const watching = laid.filter((one) => one.titleOf !== undefined);
  if (watching.length > 0) await records.rows((row, assembler) => watching.forEach((one) => one.watch?.(row, assembler)));
  const sheets: RefusedSheet[] = [];
  for (const one of receipt.tables) {
    const rows = why.get(one.file);
    const table = compiled.tables.find(({ plan }) => plan.name === one.name);
    const arranged = laid.find(({ tables }) => table !== undefined && tables.includes(table)) ?? null;
    if (rows === undefined || table === undefined || (arranged !== null && arranged.tables[0] !== table)) continue;
    // the mark alone has to say whose record a row is
    if (new Set(arranged?.tables.map(({ salt }) => salt)).size < (arranged?.tables.length ?? 0))
      throw new CallError("refused-laid", { table: one.name, file: one.file });
    const encoding = encodings.get(one.file);
    const sheet = await container.sheet(one.file, encoding === undefined ? undefined : { encoding });
    const [header, ...body] = sheet === null ? [] : await rowsBelowWords(sheet);
    if (header === undefined || !hasMark(header.cells)) continue;
    const titles = titlesIn(header, arranged === null ? table.titles : (arranged.titles ?? [MARK_TITLE, ACTION_TITLE]));
    const kept = titles.flatMap((title, i) => (title === PROBLEM_TITLE ? [] : [i]));
    const there = arranged === null ? body.filter(({ number }) => rows.has(number)) : body;
    sheets.push({
      table,
      arranged,
      naming: namingIn(arranged?.tables ?? [table], arranged),
      around: ({ index, holder }, row) => (holder === null ? "" : (inner.sheets[index]?.laidCell(row, holder) ?? "")),
      receipt: one,
      titles: kept.map((i) => titles[i]),
      rows: there.map((row) => ({ ...row, cells: kept.map((i) => row.cells[i]) })),
      why: new Map(
        there.flatMap(({ number }) => {
          const said = rows.get(number);
          return said === undefined
            ? []
            : [[number, said.length === 0 ? "it depends on a row that was refused" : [...new Set(said)].join("; ")]];
        }),
      ),
    });
  }
  return sheets;
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
  const names = sheets.flatMap((sheet) => tablesIn(sheet).map(({ plan: { name } }) => name));
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
