/** Sheets and source brought together: the one pass over the source in which each row meets its record. */
import { mostOf } from "./most.js";
import { watchOf } from "../source/watch.js";
import { fingerprinter } from "../bytes/hash.js";
import { CallError, TablesError } from "../errors/error.js";
import type { WritingStyle, Scanner } from "../formats/format.js";
import { readLayouts } from "../layouts/index.js";
import { ProblemList } from "../model/problem-list.js";
import { formatMark } from "../model/marks.js";
import { MARK_TITLE, type Plan } from "../model/plan.js";
import { compilePlan } from "../plan/compile.js";
import { Assembler } from "../records/assemble.js";
import { RowFilter } from "../records/filter.js";
import { readLabels } from "../records/labels.js";
import { sourcesOf } from "../records/open.js";
import { notesOnUnheld } from "../records/unheld.js";
import { RecordReader } from "../records/reader.js";
import { matchRows } from "../relations/match.js";
import { Baseline } from "../rows/baseline.js";
import { CellTyper } from "../rows/cell-value.js";
import type { Context } from "../rows/context.js";
import { Pointers } from "../rows/pointers.js";
import type { Sheet } from "../rows/sheet.js";
import { adoptDocuments, inStep, readSheets } from "../rows/sheets.js";
import { filesOf, type Receipt } from "../sheets/receipt.js";
import type { SheetContainer } from "../sheets/container.js";
import type { FileReading } from "../source/choose.js";
import type { SourceFiles } from "../source/files.js";
import { openParts, type SourceText } from "../source/parts.js";
import { scanParts } from "../source/pass.js";
import type { CompareOptions } from "./comparison.js";

/** Tables, and the source that they were hatched from. */
export interface Hatched {
  readonly container: SheetContainer;
  readonly receipt: Receipt;
  readonly plan: Plan;
  readonly files: SourceFiles;
  readonly readings: readonly FileReading[];
}

/**
 * Rows that stand in the source's order are compared as they come; where others turn up after their records have gone by,
 * the sheets have to be read before the source, once more from their beginnings.
 */
export async function joinRows(hatched: Hatched, options: CompareOptions): Promise<Context> {
  const ctx = await joinAsTheyAre(hatched, options);
  if (!ctx.findings.problems.some(({ code }) => code === "sheet-encoding")) return ctx;
  const { encodingsOf, recoded } = await import("./encodings.js");
  const encodings = await encodingsOf(hatched.container, ctx);
  if (encodings.size === 0) return ctx;
  const again = await joinAsTheyAre({ ...hatched, container: recoded(hatched.container, encodings) }, options);
  for (const [file, encoding] of encodings) again.findings.note("encoding-healed", { file, encoding });
  return { ...again, encodings };
}

async function joinAsTheyAre(hatched: Hatched, options: CompareOptions): Promise<Context> {
  const mayBeInOrder = options.fresh !== true && options.absent !== "remove";
  return (mayBeInOrder ? await join(hatched, options, true) : null) ?? (await join(hatched, options, false))!;
}

/** `null` when the sheets were to be read `beside` the source and cannot be. */
async function join(
  { container, receipt, plan, files, readings }: Hatched,
  options: CompareOptions,
  beside: boolean,
): Promise<Context | null> {
  const findings = new ProblemList(options.strict, plan);
  const { fresh = false } = options;
  const compiled = compilePlan(plan, sourcesOf(readings, files.set));
  const { tap, digests } = await fingerprints(readings.length);
  const parts = await openParts(readings, tap);
  const watch = watchOf(options);
  const records = new RecordReader(parts, compiled, { ...watch, phase: "prepare" });
  await readLabels(compiled, records.cells);
  const wheres = receipt.tables.flatMap((table) => (table.where === undefined ? [] : [`${table.name}: ${table.where}`]));
  const filter = await RowFilter.parse(plan, { where: wheres });
  await filter.readAround(compiled.tables, records.cells);
  const copiesAreNew = options.copies === "new";
  const laid = await readLayouts({
    compiled,
    receipt,
    container,
    problems: findings,
    fresh,
    filter,
    records,
    lists: options,
    copiesAreNew,
  });
  const sheets = await readSheets({ compiled, receipt, container, problems: findings, fresh, laid }, beside);
  if (fresh) adoptDocuments(sheets);
  await matchRows(sheets, findings, records.rows);
  const samples = compiled.tables.map((table) => receipt.tables.find((one) => one.name === table.plan.name)?.sample ?? Infinity);
  // whether a group holds anything that no column shows is known by its sum
  const summed = options.unproved !== true || compiled.tables.some((table) => mostOf(table, parts) !== null);
  const inPart = new Set(
    compiled.tables.filter(({ plan: { name } }) => receipt.tables.some((one) => one.name === name && one.part === true)),
  );
  if (inPart.size > 0 && options.absent === "remove") throw new CallError("absent-refused", {});
  const { isWhole } = container;
  const base = new Baseline(compiled, sheets, filter, samples, { removeAbsent: options.absent === "remove", isWhole, inPart, summed });
  const assembler = new Assembler(compiled, base, true, summed);
  base.begin(assembler);
  const styles: WritingStyle[] = [];
  const scanners: Scanner[] = [];
  const begin = (part: SourceText): Scanner => {
    const scanner = assembler.begin(part, true);
    styles.push(scanner.style);
    scanners.push(scanner);
    return scanner;
  };
  const inOrder = await inStep(sheets, (pace) => scanParts(parts, begin, { ...watch, phase: "compare", ...pace }));
  if (!inOrder) return null;
  const hashes = filesOf(receipt);
  const edited = digests().findIndex((digest, i) => digest !== hashes[i].fingerprint);
  if (edited >= 0) throw sourceChanged(readings, receipt, edited);
  const names = parts.map(({ name }) => name);
  for (const { code, facts } of notesOnUnheld(assembler.unheld, names)) findings.note(code, facts, "");
  takeCopies(sheets, findings, options.copies);
  for (const { sheet, row } of base.notHatched) findings.add("row-not-hatched", {}, sheet.place(row));
  return {
    plan,
    compiled,
    parts,
    styles,
    recordStarts: scanners.map((scanner) => scanner.recordStarts?.() ?? null),
    wrongTotals: scanners.map((scanner) => scanner.wrongTotals?.() ?? null),
    records: new RecordReader(parts, compiled, { ...watch, phase: "check" }),
    sheets,
    sheetNames: new Map(receipt.tables.map(({ name, file }) => [name, file])),
    base,
    findings,
    typer: new CellTyper(parts, styles, base.tables),
    pointers: new Pointers(parts, files.set),
    noHeal: options.noHeal ?? [],
    encodings: new Map(),
    known: options.known ?? [],
    seed: receipt.seal,
  };
}

/** The error for a file of the source that is not what was hatched. */
export function sourceChanged(readings: readonly FileReading[], receipt: Receipt, index: number): TablesError {
  const { name } = readings[index].file.source;
  return new TablesError("source-changed", { file: name, was: filesOf(receipt)[index].file }, { file: name });
}

/**
 * Fingerprints of files that are read anyway. Not made in the function that joins: the tap lives as long as the
 * files do, and so would all that stands beside it there.
 */
async function fingerprints(files: number): Promise<{ tap: (index: number, chunk: Uint8Array) => void; digests: () => string[] }> {
  const hashes = await Promise.all(Array.from({ length: files }, () => fingerprinter()));
  return { tap: (index, chunk) => hashes[index].update(chunk), digests: () => hashes.map((hash) => hash.digest()) };
}

/** Several rows with one mark: named, or taken as new ones when that was asked for. */
function takeCopies(sheets: readonly (Sheet | null)[], findings: ProblemList, copiesAre: CompareOptions["copies"]): void {
  for (const sheet of sheets) {
    if (sheet === null) continue;
    for (const [place, copies] of sheet.copies) {
      const mark = formatMark(sheet.table.salt, place);
      const first = sheet.rowOf(place);
      const rows = [first, ...copies.map((copy) => copy.row)].sort((a, b) => a - b);
      if (copiesAre !== "new")
        findings.add(
          "mark-copied",
          { mark, rows: rows.map((row) => sheet.seenRow(row)), original: sheet.seenRow(first) },
          sheet.placeOf(rows, MARK_TITLE, mark),
        );
      else for (const { row, cells, offset, length } of copies) sheet.newRows.add({ row, cells, at: { offset, length } });
    }
  }
}
