/** hatch: source + plan → tables. One pass, memory independent of the source's size. */
import { watchOf, type Watch } from "../source/watch.js";
import { fingerprint, fingerprinter, type Fingerprinter } from "../bytes/hash.js";
import { ByteWriter, decode, encode } from "../bytes/writer.js";
import { phrase } from "../errors/error.js";
import type { FileReading } from "../source/choose.js";
import { Kind } from "../model/kind.js";
import { sourcesOf } from "../records/open.js";
import { compilePlan, titleOf, type CompiledTable, sheetTable } from "../plan/compile.js";
import { contentsOf, hostedCells, HostedItems, type Items } from "../records/items.js";
import { Cross } from "../layouts/cross.js";
import { aroundTree, readTrees, treeTitles, type TreeIndex, type Trees } from "../layouts/tree-index.js";
import { blockOf, stacksOf, type Block, type Stack } from "../layouts/stack.js";
import { formatPath } from "../model/path.js";
import type { Plan } from "../model/plan.js";
import type { Unmatched } from "../survey/unmatched.js";
import { Assembler, type Row, type RowReader } from "../records/assemble.js";
import type { TablesSink } from "../sheets/tables.js";
import { formatMark } from "../model/marks.js";
import { printReceipt, RECEIPT_FILE, sealReceipt, type Receipt, type ReceiptFile, type ReceiptTable } from "../sheets/receipt.js";
import { RecordReader } from "../records/reader.js";
import { readLabels } from "../records/labels.js";
import { RowFilter } from "../records/filter.js";
import { openParts } from "../source/parts.js";
import type { SourceFiles } from "../source/files.js";
import { scanParts } from "../source/pass.js";
import { harmless } from "../cells/spelling.js";
import { sheetFiles } from "../sheets/sheet-files.js";
import { writeCells } from "../sheets/csv/write.js";
import { writeRow } from "./write-row.js";

export interface HatchOptions extends Watch {
  /** Only rows for which a Common Expression Language expression is true: `table: expression`, or the expression alone when there is one table. */
  readonly where?: readonly string[];
  /** Only these columns: titles, or `table.title`. */
  readonly columns?: readonly string[];
  /** Only the first so many rows of each table. */
  readonly sample?: number;
  /** Headers only. */
  readonly blank?: boolean;
  /** Begin each file with a byte-order mark. */
  readonly bom?: boolean;
  /** What the receipt calls the source; the source's own name, unless said. */
  readonly sourceFile?: string;
}

const FLUSH = 1 << 16;
const BOM = encode("\ufeff");

export async function hatchTables(
  { name, set }: SourceFiles,
  readings: readonly FileReading[],
  plan: Plan,
  sink: TablesSink,
  options: HatchOptions = {},
): Promise<{ receipt: Receipt; unmatched: Unmatched[]; notes: string[] }> {
  const hashes = await Promise.all(readings.map(() => fingerprinter()));
  const parts = await openParts(readings, (index, chunk) => hashes[index].update(chunk));
  const guide = compilePlan(plan, sourcesOf(readings, set));
  const records = new RecordReader(parts, guide, { ...watchOf(options), phase: "prepare" });
  const [, trees] = await Promise.all([readLabels(guide, records.cells), readTrees(guide, records.cells)]);
  const filters = await RowFilter.parse(plan, options);
  const writer = new SheetsWriter(guide.tables, filters, options, await Promise.all(guide.tables.map(() => fingerprinter())), trees);
  const assembler = new Assembler(guide, writer);
  writer.assembler = assembler;
  await writer.begin(sink);
  await scanParts(parts, (part) => assembler.begin(part), {
    ...watchOf(options),
    phase: "hatch",
    afterPiece: () => writer.flush(false).then(() => true),
  });
  await writer.end();
  const files = parts.map(({ name, text, of, reading, file: { source } }, i): ReceiptFile => ({
    file: name,
    size: source.size,
    fingerprint: hashes[i].digest(),
    encoding: text.encoding,
    ...(plan.sources.length > 1 ? { source: plan.sources[of].name, format: reading.format.name } : {}),
  }));
  const file = options.sourceFile ?? (set ? name : parts[0].file.source.name);
  const format = [...new Set(readings.map(({ reading }) => reading.format.name))].join(", ");
  const receipt = await sealReceipt({
    hatchfold: 1,
    source: set ? { ...(await summary(files)), file, format, files } : { ...files[0], file, format },
    plan: { fingerprint: await fingerprint(encode(plan.text)), text: plan.text },
    tables: guide.tables.filter((table) => table.host === null).map((table) => writer.describe(table)),
  });
  const out = await sink.create(RECEIPT_FILE);
  await out.write(encode(printReceipt(receipt)));
  await out.close();
  return {
    receipt,
    unmatched: guide.tables.flatMap((table) => unmatchedIn(assembler.rows[table.index], assembler.counts[table.index])),
    notes: assembler.rows.flatMap(passedOver),
  };
}

/** Notes on values that a column does not show, as a record has several of them. */
function passedOver({ table, passed }: Row): string[] {
  const { repeats } = table.source.dialect;
  const { name, columns, rows } = table.plan;
  return columns.flatMap(({ title, at, hidden }, slot) => {
    if (passed[slot] === 0 || hidden === true) return [];
    const path = formatPath({ steps: [...rows.steps, ...at.steps], end: "value" });
    const { message, hint } = phrase("values-passed", { table: name, title, rows: path, values: passed[slot], repeats });
    return [hint === "" ? message : `${message}. ${hint}`];
  });
}

/** Size and fingerprint of all files together. */
async function summary(files: readonly ReceiptFile[]): Promise<Omit<ReceiptFile, "file">> {
  return {
    size: files.reduce((sum, one) => sum + one.size, 0),
    fingerprint: await fingerprint(encode(files.map((one) => one.fingerprint).join(" "))),
    encoding: [...new Set(files.map((one) => one.encoding))].join(", "),
  };
}

/** Paths of the plan that no record of the source has. */
function unmatchedIn(row: Row, records: number): Unmatched[] {
  const { plan: table, host } = row.table;
  if (records === 0) {
    // a list that the rows of another table show: what people know are the titles there
    const titles = host?.plan.hosted.filter((one) => one.table === table.name).map((one) => one.title);
    return [{ table, column: null, name: titles?.join(", ") ?? table.name }];
  }
  return table.columns.flatMap((column, slot) =>
    row.seen[slot] <= 1 << Kind.Absent && column.hidden !== true ? [{ table, column, name: table.name }] : [],
  );
}

interface Sheet {
  readonly table: CompiledTable;
  readonly slots: Int32Array;
  readonly titles: readonly string[];
  out: ByteWriter;
  /** The buffer being written away while `out` fills. */
  away: ByteWriter;
  writing: Promise<void>;
  file: Awaited<ReturnType<TablesSink["create"]>> | null;
  rows: number;
  readonly hash: Fingerprinter;
  /** The sheet that the rows stand in with those of other tables, and the table's number there. */
  readonly stack: Stack | null;
  readonly member: number;
  /** Of a tree: rows that wait for the one at its top. */
  readonly branch: { readonly place: number; readonly cells: readonly string[] }[];
}

class SheetsWriter implements RowReader {
  assembler!: Assembler;
  private readonly items = new HostedItems<readonly string[]>();
  private readonly blocks = new HostedItems<Block>();
  private readonly sheets: Sheet[];
  private readonly files: ReadonlyMap<string, string>;
  private readonly crosses = new Map<CompiledTable, Cross>();

  constructor(
    tables: readonly CompiledTable[],
    private readonly filter: RowFilter,
    private readonly options: HatchOptions,
    hashes: readonly Fingerprinter[],
    private readonly trees: Trees,
  ) {
    this.files = sheetFiles(tables.filter((table) => sheetTable(table) === table && table.host === null).map(({ plan }) => plan.name));
    for (const table of tables) if (table.plan.cross !== undefined) this.crosses.set(table, new Cross(table));
    const stacks = stacksOf(tables, (table) => filter.slots(table));
    this.sheets = tables.map((table, i) => {
      const stack = stacks.find(({ members }) => members.some((one) => one.table === table)) ?? null;
      const slots = filter.slots(table);
      const fixed = table.titles.slice(0, table.titles.length - table.shown.length);
      const titles = [...fixed, ...[...slots].map((slot) => titleOf(table.plan, slot))];
      return {
        table,
        slots,
        titles,
        out: new ByteWriter(4096),
        away: new ByteWriter(4096),
        writing: Promise.resolve(),
        file: null,
        rows: 0,
        hash: hashes[i],
        stack,
        member: stack?.members.findIndex((one) => one.table === table) ?? -1,
        branch: [],
      };
    });
  }

  async begin(sink: TablesSink): Promise<void> {
    for (const sheet of this.sheets) {
      if (sheet.table.host !== null || sheet.member > 0) continue;
      sheet.file = await sink.create(this.files.get(sheet.table.plan.name)!);
      if (this.options.bom === true) sheet.out.append(BOM);
      if (!this.crosses.has(sheet.table)) writeCells(sheet.out, this.shownTitles(sheet).map(harmless));
    }
  }

  /** Titles in the file: the table's own, unless the sheet shows more. */
  private shownTitles({ table, stack, slots, titles }: Sheet): readonly string[] {
    if (!this.trees.has(table)) return stack?.titles ?? titles;
    return treeTitles(
      table,
      [...slots].map((slot) => titleOf(table.plan, slot)),
    );
  }

  row(row: Row): void {
    const { table } = row;
    const sheet = this.sheets[table.index];
    if (this.crosses.size > 0 && this.crossed(row, sheet)) return;
    const items = this.items.take(row);
    if (table.host !== null) {
      this.items.put(row, contentsOf(row, this.assembler, items));
      return;
    }
    const inner = sheet.stack === null ? [] : [...this.blocks.take(row).values()].flat();
    const kept = this.isWanted(row, sheet);
    if (kept) sheet.rows++;
    if (sheet.stack !== null) {
      const block = kept ? blockOf(sheet.stack, sheet.member, this.cells(row, sheet, items), inner) : inner.flat();
      if (sheet.member > 0) this.blocks.put(row, block, table.parent!);
      else for (const cells of block) writeCells(sheet.out, cells);
      return;
    }
    const tree = this.trees.get(table);
    if (tree !== undefined) {
      if (kept) sheet.branch.push({ place: row.place, cells: this.treeCells(row, sheet, items, tree) });
      // rows of a tree are complete from the inside out
      if (row.parent?.table !== table)
        for (const { cells } of sheet.branch.splice(0).sort((a, b) => a.place - b.place)) writeCells(sheet.out, cells);
      return;
    }
    if (!kept) return;
    if (table.hosted.length === 0) writeRow(sheet.out, row, sheet.slots, this.assembler);
    else {
      const cells = hostedCells(table, items, (slot) => this.assembler.text(row, slot));
      writeRow(sheet.out, row, sheet.slots, this.assembler, cells);
    }
  }

  /** Cross tables are written at the end; says whether the row is one of their links. */
  private crossed(row: Row, sheet: Sheet): boolean {
    const own = this.crosses.get(row.table);
    for (const cross of this.crosses.values()) if (cross !== own) cross.row(row, this.assembler, false);
    if (own === undefined) return false;
    const kept = this.isWanted(row, sheet);
    if (kept) sheet.rows++;
    own.row(row, this.assembler, kept);
    return true;
  }

  private isWanted(row: Row, sheet: Sheet): boolean {
    if (this.options.blank === true || sheet.rows >= (this.options.sample ?? Infinity)) return false;
    return !this.filter.active || this.filter.passes(row, this.assembler);
  }

  private treeCells(row: Row, sheet: Sheet, items: Items<readonly string[]>, tree: TreeIndex): string[] {
    const { table, place } = row;
    const [mark, action, ...own] = this.cells(row, sheet, items);
    if (table.holder !== null) own.shift();
    return [mark, action, ...(aroundTree(table) === null ? [] : [tree.outerText(place)]), ...tree.shown(place), ...own];
  }

  /** Cells of a row that goes into a sheet with others. */
  private cells(row: Row, { table, slots }: Sheet, items: Items<readonly string[]>): string[] {
    const { assembler } = this;
    const contents = contentsOf(row, assembler, items);
    const holder = assembler.holderOf(row);
    return [
      formatMark(table.salt, row.place),
      "",
      ...(holder === null ? [] : [decode(holder.bytes, 0, holder.length)]),
      ...[...slots].map((slot) => contents[slot]),
    ];
  }

  async flush(all: boolean): Promise<void> {
    for (const sheet of this.sheets) {
      if (sheet.out.length <= (all ? 0 : FLUSH)) continue;
      await sheet.writing;
      [sheet.out, sheet.away] = [sheet.away, sheet.out];
      const bytes = sheet.away.bytes.subarray(0, sheet.away.length);
      sheet.out.clear();
      sheet.hash.update(bytes);
      sheet.writing = sheet.file!.write(bytes);
      sheet.writing.catch(() => undefined); // told when it is waited for
    }
  }

  async end(): Promise<void> {
    for (const cross of this.crosses.values()) {
      const { out } = this.sheets[cross.table.index];
      for (const [i, cells] of [...cross.sheet()].entries())
        if (i === 0 || this.options.blank !== true) writeCells(out, i === 0 ? cells.map(harmless) : cells);
    }
    await this.flush(true);
    for (const sheet of this.sheets) {
      await sheet.writing;
      await sheet.file?.close();
    }
  }

  describe(table: CompiledTable): ReceiptTable {
    const sheet = this.sheets[table.index];
    const where = this.filter.expression(table.plan.name);
    return {
      name: table.plan.name,
      file: this.files.get(sheetTable(table).plan.name)!,
      rows: sheet.rows,
      records: this.assembler.counts[table.index],
      titles: sheet.titles,
      fingerprint: this.sheets[sheetTable(table).index].hash.digest(),
      ...(where === undefined ? {} : { where }),
      ...(this.options.blank === true ? { sample: 0 } : this.options.sample === undefined ? {} : { sample: this.options.sample }),
    };
  }
}
