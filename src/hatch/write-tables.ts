/** hatch: source + plan → tables. One pass, memory independent of the source's size. */
import { watchOf, type Watch } from "../source/watch.js";
import { fingerprint, fingerprinter } from "../bytes/hash.js";
import { LONGEST_CELL } from "../cells/limits.js";
import { decode, encode } from "../bytes/writer.js";
import { phrase } from "../errors/error.js";
import type { FileReading } from "../source/choose.js";
import { Kind } from "../model/kind.js";
import { sourcesOf } from "../records/open.js";
import { compilePlan, titleOf, type CompiledTable, sheetTable } from "../plan/compile.js";
import { contentsOf, inlineCells, HostedItems, type Items } from "../records/items.js";
import { arrangedSheets } from "../layouts/index.js";
import type { ArrangedSheet } from "../layouts/layout.js";
import { formatPath } from "../model/path.js";
import type { Plan } from "../model/plan.js";
import type { Unmatched } from "../survey/unmatched.js";
import { Assembler, type Row, type RowReader } from "../records/assemble.js";
import type { SheetOut, SheetSink } from "../sheets/container.js";
import { PROGRAMS, programNamed, type Program } from "../sheets/csv/styles.js";
import { sinkOf, type TablesOut } from "../sheets/index.js";
import { formatMark } from "../model/marks.js";
import type { SchemaFile, SchemaInput } from "../model/schema.js";
import { sealReceipt, type Receipt, type ReceiptFile, type ReceiptTable } from "../sheets/receipt.js";
import { notesOnUnheld } from "../records/unheld.js";
import { RecordReader } from "../records/reader.js";
import { readLabels } from "../records/labels.js";
import { chooseTables, RowFilter } from "../records/filter.js";
import { openParts } from "../source/parts.js";
import type { SourceFiles } from "../source/files.js";
import { scanParts } from "../source/pass.js";
import type { Sampled } from "./sample.js";
import { hintsOf } from "./hints.js";
import { writeRow } from "./write-row.js";

export interface HatchOptions extends Watch {
  /** Only rows for which a Common Expression Language expression is true: `table: expression`, or the expression alone when there is one table. */
  readonly where?: readonly string[];
  /** Only these tables, by name; a sheet that shows several is written whole. */
  readonly tables?: readonly string[];
  /** Only these columns: titles, or `table.title`. */
  readonly columns?: readonly string[];
  /** Only the first so many rows of each table; or the key of a record: only its rows in all tables (`S-004`, `stations=S-004`). */
  readonly sample?: number | string;
  /** Headers only. */
  readonly blank?: boolean;
  /**
   * What will open files of text: a `spreadsheet` (UTF-8 with a byte-order mark, commas between cells; so it is unless said),
   * a `semicolon-spreadsheet`, in whose language decimals stand behind a comma (semicolons between cells), a `tab-spreadsheet`
   * (UTF-16, tabs), or a `script` (as for a spreadsheet, without a mark).
   */
  readonly program?: Program;
  /**
   * A schema of the owner's: JSON Schema (draft 2020-12) for JSON, XML Schema for XML, as text, or as files of which the first
   * is the schema itself; for a plan with several sources those of each name. What it does not allow is a problem of a fold.
   */
  readonly schema?: SchemaInput;
  /** What the receipt calls the source; the source's own name, unless said. */
  readonly sourceFile?: string;
}

export async function hatchTables(
  { name, set }: SourceFiles,
  readings: readonly FileReading[],
  plan: Plan,
  into: TablesOut,
  options: HatchOptions = {},
): Promise<{ receipt: Receipt; unmatched: Unmatched[]; notes: string[]; examples?: Sampled["examples"] }> {
  const hashes = await Promise.all(readings.map(() => fingerprinter()));
  const parts = await openParts(readings, (index, chunk) => hashes[index].update(chunk));
  const compiled = compilePlan(plan, sourcesOf(readings, set));
  const records = new RecordReader(parts, compiled, { ...watchOf(options), phase: "prepare" });
  const filters = await RowFilter.parse(plan, options);
  const chosen = chooseTables(options.tables, compiled.tables);
  const slotsOf = (table: CompiledTable): Int32Array => filters.slots(table);
  // all ask in one turn, and share a pass
  const [arranged] = await Promise.all([
    arrangedSheets({ compiled, records, slotsOf }),
    readLabels(compiled, records.cells),
    filters.readAround(compiled.tables, records.cells),
  ]);
  const record =
    typeof options.sample === "string" ? await (await import("./sample.js")).findSample(compiled, records, options.sample) : null;
  const sink = sinkOf(into, options.program === undefined ? undefined : programNamed(options.program));
  const writer = new SheetsWriter(compiled.tables, { filter: filters, chosen, record }, options, sink, arranged);
  const assembler = new Assembler(compiled, writer);
  writer.assembler = assembler;
  await writer.begin();
  await scanParts(parts, (part) => assembler.begin(part), {
    ...watchOf(options),
    phase: "hatch",
    afterPiece: () => writer.flush().then(() => true),
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
    tables: compiled.tables.filter((table) => table.host === null && chosen.has(table)).map((table) => writer.describe(table)),
    ...schemasIn(options.schema),
    ...(sink.program === undefined || sink.program === PROGRAMS[0] ? {} : { program: sink.program }),
  });
  await sink.finish(receipt);
  return {
    receipt,
    unmatched: compiled.tables.flatMap((table) => unmatchedIn(assembler.rows[table.index], assembler.counts[table.index])),
    ...(record === null ? {} : { examples: record.examples }),
    notes: [
      ...notesOnUnheld(
        assembler.unheld,
        parts.map((part) => part.name),
      ).map(({ code, facts }) => phrase(code, facts).message),
      ...assembler.rows.flatMap(passedOver),
      ...assembler.rows.flatMap(longCells),
    ],
  };
}

function sampleOf(sample: number | string | undefined): Pick<ReceiptTable, "sample" | "part"> {
  return sample === undefined ? {} : typeof sample === "number" ? { sample } : { part: true };
}

export function schemasIn(schema: SchemaInput | undefined): Pick<Receipt, "schemas"> {
  if (schema === undefined) return {};
  if (typeof schema === "string") return { schemas: [{ files: [{ file: "schema", text: schema }] }] };
  const schemas =
    schema instanceof Map
      ? [...(schema as ReadonlyMap<string, readonly SchemaFile[]>)].map(([source, files]) => ({ source, files }))
      : [{ files: schema as readonly SchemaFile[] }];
  const given = schemas.filter(({ files }) => files.length > 0);
  return given.length === 0 ? {} : { schemas: given };
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

/** Notes on cells that spreadsheets cut. */
function longCells({ table, long }: Row): string[] {
  const { name, columns } = table.plan;
  return columns.flatMap(({ title }, slot) => {
    if (long[slot] === 0) return [];
    const { message, hint } = phrase("cells-long", { table: name, title, cells: long[slot], most: LONGEST_CELL });
    return [`${message}. ${hint}`];
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
    const titles = host?.plan.inline.filter((one) => one.table === table.name).map((one) => one.title);
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
  /** How its records stand there, when they do not each have a row of their own. */
  readonly arranged: ArrangedSheet | null;
  /** `null` for tables whose rows stand in another one's sheet. */
  out: SheetOut | null;
  rows: number;
  fingerprint: string;
}

class SheetsWriter implements RowReader {
  assembler!: Assembler;
  private readonly items = new HostedItems<readonly string[]>();
  private readonly sheets: Sheet[];
  private readonly names: ReadonlyMap<string, string>;
  private readonly watching: readonly ArrangedSheet[];

  constructor(
    tables: readonly CompiledTable[],
    private readonly what: { readonly filter: RowFilter; readonly chosen: ReadonlySet<CompiledTable>; readonly record: Sampled | null },
    private readonly options: HatchOptions,
    private readonly sink: SheetSink,
    private readonly arranged: readonly ArrangedSheet[],
  ) {
    this.names = sink.nameAll(
      tables.filter((table) => what.chosen.has(table) && sheetTable(table) === table && table.host === null).map(({ plan }) => plan.name),
    );
    this.watching = arranged.filter((one) => one.watch !== undefined);
    this.sheets = tables.map((table) => {
      const own = arranged.find((one) => one.tables.includes(table)) ?? null;
      const slots = what.filter.slots(table);
      const fixed = table.titles.slice(0, table.titles.length - table.shown.length);
      const titles = [...fixed, ...[...slots].map((slot) => titleOf(table.plan, slot))];
      return { table, slots, titles, arranged: own, out: null, rows: 0, fingerprint: "" };
    });
  }

  async begin(): Promise<void> {
    for (const sheet of this.sheets) {
      const { table, arranged, titles } = sheet;
      if (!this.what.chosen.has(table) || table.host !== null || (arranged !== null && arranged.tables[0] !== table)) continue;
      sheet.out = await this.sink.create(this.names.get(table.plan.name)!, hintsOf(table));
      const shown = arranged === null ? titles : arranged.titles;
      if (shown !== null) sheet.out.titles(shown);
    }
  }

  row(row: Row): void {
    const { table } = row;
    const sheet = this.sheets[table.index];
    for (const one of this.watching) one.watch!(row, this.assembler);
    const items = this.items.take(row);
    if (table.host !== null) {
      this.items.put(row, contentsOf(row, this.assembler, items));
      return;
    }
    const wanted = this.isWanted(row, sheet);
    if (wanted) sheet.rows++;
    const { arranged } = sheet;
    if (arranged !== null) {
      const { out } = this.sheets[arranged.tables[0].index];
      for (const cells of arranged.write({ row, wanted, cells: () => this.cells(row, sheet, items) }, this.assembler)) out?.row(cells);
      return;
    }
    if (!wanted) return;
    if (table.inline.length === 0) writeRow(sheet.out!, row, sheet.slots, this.assembler);
    else {
      const cells = inlineCells(table, items, (slot) => this.assembler.text(row, slot));
      writeRow(sheet.out!, row, sheet.slots, this.assembler, cells);
    }
  }

  private isWanted(row: Row, sheet: Sheet): boolean {
    const { sample } = this.options;
    if (!this.what.chosen.has(row.table) || this.options.blank === true) return false;
    if (typeof sample === "number" && sheet.rows >= sample) return false;
    if (this.what.record?.has(row) === false) return false;
    return !this.what.filter.active || this.what.filter.passes(row, this.assembler);
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

  async flush(): Promise<void> {
    for (const { out } of this.sheets) if (out?.isFull === true) await out.flush();
  }

  async end(): Promise<void> {
    for (const one of this.arranged) {
      const { out } = this.sheets[one.tables[0].index];
      const left = one.end();
      if (out === null) continue;
      if (one.titles === null) out.titles(left[0]);
      if (this.options.blank !== true) for (const cells of left.slice(one.titles === null ? 1 : 0)) out.row(cells);
    }
    for (const sheet of this.sheets) sheet.fingerprint = (await sheet.out?.close()) ?? "";
  }

  describe(table: CompiledTable): ReceiptTable {
    const sheet = this.sheets[table.index];
    const where = this.what.filter.expression(table.plan.name);
    return {
      name: table.plan.name,
      file: this.names.get(sheetTable(table).plan.name)!,
      rows: sheet.rows,
      records: this.assembler.counts[table.index],
      titles: sheet.titles,
      fingerprint: this.sheets[sheetTable(table).index].fingerprint,
      ...(where === undefined ? {} : { where }),
      ...(sheet.out?.commas === undefined || sheet.out.commas.length === 0 ? {} : { commas: sheet.out.commas }),
      ...(this.options.blank === true ? { sample: 0 } : sampleOf(this.options.sample)),
    };
  }
}
