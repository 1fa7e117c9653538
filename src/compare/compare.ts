/** compare: edited tables against the source. What would a fold change, and what stands in its way? */
import { unseenEdits } from "../rows/unseen.js";
import { pushAll } from "../bytes/lists.js";
import { fingerprint, fingerprinter } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { TablesError } from "../errors/error.js";
import { NearestWords } from "../errors/nearest.js";
import type { Manner, Scanner } from "../formats/format.js";
import type { Trail } from "../model/trail.js";
import type { FileReading } from "../source/choose.js";
import { sourcesOf } from "../records/open.js";
import { compileGuide, type Guide, type TableGuide } from "../plan/guide.js";
import type { Plan } from "../model/plan.js";
import { plainSheets } from "../layouts/index.js";
import { asSeen } from "./as-seen.js";
import { Assembler } from "../records/assemble.js";
import type { TablesSource } from "../sheets/tables.js";
import { RowFilter } from "../records/filter.js";
import { formatMark } from "../model/marks.js";
import { filesOf, type Receipt } from "../sheets/receipt.js";
import { scanParts } from "../source/pass.js";
import { openParts, type Part } from "../source/parts.js";
import type { SourceFiles } from "../source/files.js";
import { assignIds } from "../relations/ids.js";
import { readLabels } from "../records/labels.js";
import { matchRows } from "../relations/match.js";
import { Agreement } from "../relations/agreement.js";
import { References, type WordsOf } from "../relations/references.js";
import { readRows, readTrails, type ReadRows } from "../records/reader.js";
import { Baseline } from "../rows/baseline.js";
import { ProblemList, type Change, type Healed } from "../model/findings.js";
import { followingLinks } from "../relations/follows.js";
import { recordsGone } from "../relations/gone.js";
import { OutOfStep } from "../rows/in-step.js";
import { checkKeys, noteNearKeys } from "../relations/keys.js";
import { Pointers } from "../rows/pointers.js";
import { cellChanges, RowDiffer } from "./diff.js";
import { isUnchanged, type DifferingRow } from "../rows/row-edits.js";
import { CellTyper } from "../rows/cell-value.js";
import { Structure } from "./structure.js";
import type { Sheet, SheetCopy } from "../rows/sheet.js";
import { adoptDocuments, inStep, readSheets } from "../rows/sheets.js";
import { findMisplaced } from "./misplaced.js";
import type { Allowed, CompareOptions, Comparison } from "./comparison.js";

/** Sheets are read beside the source; where that is not to be had, before it. */
export async function compareTables(...what: Compared): Promise<Comparison> {
  try {
    return await compareBeside(true, ...what);
  } catch (error) {
    if (!(error instanceof OutOfStep)) throw error;
    return compareBeside(false, ...what);
  }
}

type Compared = [
  files: SourceFiles,
  readings: readonly FileReading[],
  plan: Plan,
  receipt: Receipt,
  tables: TablesSource,
  options?: CompareOptions,
];

async function compareBeside(
  beside: boolean,
  ...[{ set, archive }, readings, plan, receipt, tables, options = {}]: Compared
): Promise<Comparison> {
  if ((await fingerprint(encode(plan.text))) !== receipt.plan.fingerprint) throw new TablesError("plan-other", {}, { file: tables.name });
  const hatched = filesOf(receipt);
  const changed = (index: number): TablesError => {
    const { name } = readings[index].file.source;
    return new TablesError("source-changed", { file: name, was: hatched[index].file }, { file: name });
  };
  const other = readings.findIndex(({ file }, i) => file.source.size !== hatched[i].size);
  if (other >= 0) throw changed(other);
  const problems = new ProblemList();
  const guide = compileGuide(plan, sourcesOf(readings, set));
  const { tap, digests } = await fingerprints(readings.length);
  const parts = await openParts(readings, tap);
  await readLabels(parts, guide);
  const { fresh = false } = options;
  const wheres = receipt.tables.flatMap((table) => (table.where === undefined ? [] : [`${table.name}: ${table.where}`]));
  const filter = RowFilter.parse(plan, { where: wheres });
  const readSource: ReadRows = (read) => readRows(parts, guide, read);
  const { plain, crossed } = await plainSheets({ parts, guide, receipt, tables, problems, fresh, filter, readSource, lists: options });
  const inOrder = beside && !fresh && options.absent !== "remove";
  const sheets = await readSheets({ guide, receipt, tables, problems, fresh, plain }, inOrder);
  if (options.fresh === true) adoptDocuments(sheets);
  const samples = guide.tables.map((table) => receipt.tables.find((one) => one.name === table.plan.name)?.sample ?? Infinity);
  const baseline = new Baseline(guide, sheets, filter, samples, options.absent === "remove");
  await matchRows(sheets, problems, readSource);
  const assembler = new Assembler(guide, baseline, true);
  baseline.begin(assembler);
  const manners: Manner[] = [];
  const begin = (part: Part): Scanner => {
    const scanner = assembler.begin(part);
    manners.push(scanner.manner);
    return scanner;
  };
  await inStep(sheets, (pace) => scanParts(parts, begin, { progress: options.progress, ...pace }));
  const edited = digests().findIndex((digest, i) => digest !== hatched[i].fingerprint);
  if (edited >= 0) throw changed(edited);
  const comparer = new Comparer(
    guide,
    sheets,
    baseline,
    problems,
    options,
    new Pointers(parts, set),
    wordsIn(parts, guide),
    (wanted) => readTrails(parts, guide, wanted),
    readSource,
  );
  const comparison = asSeen(await comparer.run({ parts, manners, receipt, archive }), plain, crossed);
  return {
    ...comparison,
    notes: [...comparison.notes, ...unseenEdits(guide, comparison.changes, [...comparison.problems, ...(options.known ?? [])])],
  };
}

/**
 * Fingerprints of files that are read anyway. Not made in the function that compares: the tap lives as long as the
 * files do, and so would all that stands beside it there.
 */
async function fingerprints(files: number): Promise<{ tap: (index: number, chunk: Uint8Array) => void; digests: () => string[] }> {
  const hashes = await Promise.all(Array.from({ length: files }, () => fingerprinter()));
  return { tap: (index, chunk) => hashes[index].update(chunk), digests: () => hashes.map((hash) => hash.digest()) };
}

/** Words of the source that a wrong one may have been meant for: keys and labels, all read in one pass when the first is asked for. */
function wordsIn(parts: readonly Part[], guide: Guide): (table: TableGuide, slot: number) => Promise<NearestWords> {
  const read = async (): Promise<Map<string, NearestWords>> => {
    const most = 20_000;
    const slots = guide.tables.map((table) => new Set(table.keySlot < 0 ? [] : [table.keySlot]));
    for (const { references } of guide.tables)
      for (const { target, targetLabelSlot } of references) if (targetLabelSlot >= 0) slots[target.index].add(targetLabelSlot);
    const words = new Map<string, string[]>();
    const assembler: Assembler = new Assembler(guide, {
      row: (row) => {
        for (const slot of slots[row.table.index]) {
          const list = words.get(`${row.table.index} ${slot}`);
          if (list === undefined) words.set(`${row.table.index} ${slot}`, [assembler.text(row, slot)]);
          else if (list.length < most) list.push(assembler.text(row, slot));
        }
      },
    });
    await scanParts(parts, (part) => assembler.begin(part));
    return new Map([...words].map(([id, list]) => [id, new NearestWords(list)]));
  };
  const none = new NearestWords([]);
  let reading: Promise<Map<string, NearestWords>> | null = null;
  return async ({ index }, slot) => (await (reading ??= read())).get(`${index} ${slot}`) ?? none;
}

class Comparer {
  private readonly changes: Change[] = [];
  private readonly healed: Healed[] = [];

  constructor(
    private readonly guide: Guide,
    private readonly sheets: readonly (Sheet | null)[],
    private readonly baseline: Baseline,
    private readonly problems: ProblemList,
    private readonly options: CompareOptions,
    private readonly pointers: Pointers,
    private readonly words: WordsOf,
    private readonly trailsOf: (wanted: ReadonlySet<string>) => Promise<Map<string, Trail>>,
    private readonly readRows: ReadRows,
  ) {}

  async run(context: Pick<Comparison, "parts" | "manners" | "receipt" | "archive">): Promise<Comparison> {
    const { baseline, problems, sheets } = this;
    this.copies();
    for (const { sheet, row } of baseline.notHatched) problems.add("row-not-hatched", {}, sheet.place(row));
    const { guide } = this;
    const typer = new CellTyper(context.parts, baseline.tables, problems);
    const differ = new RowDiffer(baseline, sheets, problems, this.pointers, this.options.noHeal ?? [], typer);
    const rows = this.allowed(await differ.run());
    findMisplaced(rows, problems, sheets);
    const listed = rows.flatMap((row) => row.lists?.news ?? []);
    pushAll(
      rows,
      rows.flatMap((row) => row.lists?.differing ?? []),
    );
    const gone = recordsGone(guide, baseline, rows);
    const structure = new Structure(guide, baseline, sheets, problems, rows, gone, this.words, typer, context.parts, this.pointers);
    pushAll(structure.rows, listed);
    await structure.begin();
    await assignIds({
      tables: guide.tables,
      news: structure.rows,
      differing: rows,
      problems,
      readRows: this.readRows,
      seed: context.receipt.seal,
      put: (row, slot, content) => structure.put(row, slot, content),
    });
    const before = rows.length;
    await new References(guide, baseline, rows, gone, structure.rows, sheets, problems, typer, this.readRows, this.words).resolve();
    for (const row of rows.slice(before)) {
      row.pointer = await this.pointers.of(row.snapshot.trail);
      row.source = this.pointers.source(row.snapshot.file);
    }
    await new Agreement(guide, sheets, rows, structure.rows, problems, this.readRows, (...cell) => structure.put(...cell)).check();
    await structure.resolve();
    checkKeys(baseline, structure, problems);
    await noteNearKeys(baseline, structure, problems, this.options.known ?? [], this.readRows);
    const edits = structure.edits();
    this.noteNotTaken(structure);
    const added = this.options.paths === true ? await this.placeAdded(structure) : structure.changes;
    pushAll(this.changes, rows.filter((row) => !structure.isAside(row)).flatMap(cellChanges));
    pushAll(this.changes, added);
    pushAll(this.healed, differ.healed);
    const order = new Map(this.guide.tables.map((table, i) => [table.plan.name, i]));
    const inOrder = <T extends { table: string; row: number }>(list: T[]): T[] =>
      list.sort((a, b) => (order.get(a.table) ?? 0) - (order.get(b.table) ?? 0) || a.row - b.row);
    const changedRows = (kind: Change["kind"]): number =>
      new Set(this.changes.filter((c) => c.kind === kind).map((c) => `${c.table}\n${c.row}`)).size;
    return {
      ...context,
      counts: {
        unchanged: baseline.unchanged + differ.unchanged - (rows.length - before),
        changed: changedRows("changed"),
        added: changedRows("added"),
        removed: changedRows("removed"),
        moved: changedRows("moved"),
        healed: this.healed.length,
        problems: problems.problems.length,
      },
      changes: inOrder(this.changes),
      healed: inOrder(this.healed),
      problems: inOrder(problems.problems),
      notes: problems.notes,
      follows: followingLinks(
        guide,
        rows.filter((row) => !structure.isAside(row)),
        structure.rows.filter((row) => !structure.isAside(row)),
      ),
      edits,
      corrections: context.parts.map(() => []),
      aside: structure.aside,
    };
  }

  /** What may be done; the rest is noted. */
  private allowed(rows: DifferingRow[]): DifferingRow[] {
    const { allow } = this.options;
    if (allow === undefined) return rows;
    const left = new Map<string, { table: string; kind: Allowed; rows: number[] }>();
    const leave = (table: string, kind: Allowed, row: number): void => {
      const list = left.get(`${table} ${kind}`) ?? { table, kind, rows: [] };
      left.set(`${table} ${kind}`, list);
      list.rows.push(row);
    };
    const may = (kind: Allowed): boolean => allow.includes(kind);
    // where a column says where records are, to change it is to move
    const moves = ({ snapshot }: DifferingRow, slot: number): boolean => {
      const { tree, columns } = snapshot.table.plan;
      return (tree?.kind === "way" || tree?.kind === "depth") && columns[slot].title === tree.column;
    };
    const kept = rows.flatMap((row): DifferingRow[] => {
      const table = row.snapshot.table.plan.name;
      const gone = row.removed && !may("remove");
      const cells = row.cells.filter(({ slot }) => may(moves(row, slot) ? "move" : "change"));
      const placing = may("move") ? row.placing : undefined;
      const lists = may("change") ? row.lists : undefined;
      const labels = may("change") ? row.labels : undefined;
      const parent = may("move") ? row.parent : null;
      if (gone) leave(table, "remove", row.row);
      const unmoved = row.cells.some((cell) => moves(row, cell.slot) && !cells.includes(cell));
      if (row.cells.some((cell) => !moves(row, cell.slot) && !cells.includes(cell)) || row.lists !== lists || row.labels !== labels)
        leave(table, "change", row.row);
      if (row.parent !== parent || row.placing !== placing || unmoved) leave(table, "move", row.row);
      const left = { ...row, cells, parent, lists, labels, placing };
      return gone || isUnchanged(left) ? [] : [left];
    });
    for (const sheet of this.sheets) {
      // in an ordered list the place of a new row depends on what moves
      if (sheet === null || (may("add") && (may("move") || !sheet.isOrdered))) continue;
      for (const row of sheet.newRows) leave(sheet.table.plan.name, "add", row.row);
      sheet.newRows.clear();
    }
    for (const { table, kind, rows: numbers } of left.values()) this.problems.note("rows-left", { kind, rows: numbers }, table);
    return kept;
  }

  /** New rows with something in a column that shows links: it says nothing there. */
  private noteNotTaken(structure: Structure): void {
    for (const { plan, hosted } of this.guide.tables) {
      for (const [i, { column, links, table }] of hosted.entries()) {
        if (links === null) continue;
        const slot = plan.columns.length + i;
        const filled = structure.rows.filter((row) => row.table.plan === plan && (row.contents[slot] ?? "").trim() !== "");
        const facts = { title: column.title, links: table.plan.name, rows: filled.map(({ row }) => row) };
        if (filled.length > 0) this.problems.note("links-not-taken", facts, plan.name);
      }
    }
  }

  /** The lists that added rows go to, as pointers. */
  private async placeAdded(structure: Structure): Promise<Change[]> {
    const wanted = new Set(structure.addedTo.values());
    if (wanted.size === 0) return structure.changes;
    const trails = await this.trailsOf(wanted);
    const placed: Change[] = [];
    for (const change of structure.changes) {
      const parent = structure.addedTo.get(change);
      const trail = parent === undefined ? undefined : trails.get(parent);
      placed.push(trail === undefined ? change : { ...change, path: (await this.pointers.of(trail)) + change.path });
    }
    return placed;
  }

  /** Two rows with one mark: named, or taken as new ones when that was asked for. */
  private copies(): void {
    for (const sheet of this.sheets) {
      if (sheet === null) continue;
      for (const [place, copies] of sheet.copies) {
        const mark = formatMark(sheet.table.salt, place);
        const first = sheet.rowOf(place);
        const rows = [first, ...copies.map((copy) => copy.row)].sort((a, b) => a - b);
        if (this.options.copies === "new") for (const copy of copies) this.takeCopyAsNew(sheet, copy);
        else this.problems.add("mark-copied", { mark, rows, original: first }, { ...sheet.place(rows[0], "fold mark", mark), rows });
      }
    }
  }

  private takeCopyAsNew(sheet: Sheet, copy: SheetCopy): void {
    sheet.newRows.add({ row: copy.row, cells: copy.cells, at: { offset: copy.offset, length: copy.length } });
  }
}
