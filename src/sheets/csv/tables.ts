/** A folder of delimited text, a file a sheet: RFC 4180, comma and CR LF, and the receipt beside them. */
import { fingerprinter, type Fingerprinter } from "../../bytes/hash.js";
import { ByteWriter, encode } from "../../bytes/writer.js";
import { MemorySource } from "../../bytes/source.js";
import { harmless, titleIn } from "../../cells/spelling.js";
import type { OpenSheet, SheetContainer, SheetHints, SheetOut, SheetReading, SheetSink } from "../container.js";
import { loadReceipt, printReceipt, RECEIPT_FILE, type Receipt } from "../receipt.js";
import { sheetFiles } from "./sheet-files.js";
import type { TablesSink, TablesSource } from "../tables.js";
import { CsvSheet, openCsv } from "./sheet.js";
import type { Styler } from "./styler.js";
import { BYTE_ORDER_MARK, decimalTitles, PROGRAMS, programNamed, STYLES, type Program } from "./styles.js";
import type { MarkWriter } from "../../model/marks.js";
import { COMMA, CR, FILLER, isSuspect, LF, needsQuotes, SPACE, writeCell, writeCells } from "./write.js";

const FLUSH = 1 << 16;
const LOOKS_LIKE_SHEET = /\.(?:csv|tsv|txt)$/i;

export class CsvTables implements SheetContainer {
  readonly isWhole = true;

  private sealed: Promise<Receipt> | null = null;

  constructor(private readonly files: TablesSource) {}

  get name(): string {
    return this.files.name;
  }

  receipt(): Promise<Receipt> {
    return (this.sealed ??= loadReceipt(this.files));
  }

  async names(): Promise<readonly string[]> {
    return (await this.files.files()).filter((file) => LOOKS_LIKE_SHEET.test(file) && !/^[.~]/.test(file));
  }

  async sheet(name: string, as?: SheetReading): Promise<OpenSheet | null> {
    const source = await this.files.open(name);
    if (source === null) return null;
    const sheet = await openCsv(name, source, as);
    if (as?.isForeign === true) return sheet;
    const { tables, program } = await this.receipt();
    sheet.usual = STYLES[programNamed(program ?? PROGRAMS[0])].delimiter;
    const commas = tables.flatMap((table) => (table.file === name ? (table.commas ?? []) : []));
    // what is in another encoding is told of as it stands
    if (commas.length === 0 || !(await sheet.isUtf8())) return sheet;
    const titles = tables.flatMap((table) => table.titles);
    const { unstyled } = await import("./styler.js");
    return new CsvSheet(name, new MemorySource(await unstyled(sheet, new Set(commas), (title) => titleIn(title, titles)), name));
  }
}

export class CsvSink implements SheetSink {
  constructor(
    private readonly files: TablesSink,
    readonly program: Program = "spreadsheet",
    /** Titles of columns with decimal commas, by file, where no hints say which they are. */
    private readonly commas: ReadonlyMap<string, readonly string[]> = new Map(),
  ) {}

  nameAll(tables: readonly string[]): ReadonlyMap<string, string> {
    return sheetFiles(tables, STYLES[this.program].ending);
  }

  async create(name: string, hints?: SheetHints): Promise<SheetOut> {
    const style = STYLES[this.program];
    const commas = style.hasCommas ? new Set([...decimalTitles(hints), ...(this.commas.get(name) ?? [])]) : new Set<string>();
    const isPlain = style.delimiter === COMMA && !style.isUtf16;
    const styler = isPlain ? null : new (await import("./styler.js")).Styler(style, commas);
    const mark = style.hasMark ? (styler?.encoded(BYTE_ORDER_MARK) ?? BYTE_ORDER_MARK) : new Uint8Array(0);
    return new CsvOut(await this.files.create(name), await fingerprinter(), { styler, mark }, [...commas]);
  }

  async finish(receipt: Receipt): Promise<void> {
    const out = await this.files.create(RECEIPT_FILE);
    await out.write(encode(printReceipt(receipt)));
    await out.close();
  }
}

class CsvOut implements SheetOut {
  out = new ByteWriter(4096);
  /** The buffer being written away while `out` fills. */
  private away = new ByteWriter(4096);
  private writing = Promise.resolve();
  private isBegun = false;

  constructor(
    private readonly file: Awaited<ReturnType<TablesSink["create"]>>,
    private readonly hash: Fingerprinter,
    private readonly style: { readonly styler: Styler | null; readonly mark: Uint8Array },
    readonly commas: readonly string[],
  ) {}

  mark(marks: MarkWriter, place: number): void {
    marks.write(this.out, place);
  }

  /** Most cells need no quotes, and are copied in words. Not in a function of its own: it is called for every cell. */
  cell(bytes: Uint8Array, words: DataView, from: number, to: number): void {
    const { out } = this;
    out.ensure(2 * (to - from) + 8);
    const last = to - 4;
    let i = from;
    if (i > last && last >= 0 && bytes[from] !== SPACE && bytes[to - 1] !== SPACE) {
      // one to three bytes, of the word that ends with them; what stands behind them is written over
      const bits = 8 * (to - from);
      const word = (words.getInt32(last, true) >>> (32 - bits)) | (FILLER << bits);
      if (!isSuspect(word) || !needsQuotes(word)) {
        out.bytes[out.length] = COMMA;
        out.words.setInt32(out.length + 1, word, true);
        out.length += 1 + to - from;
        return;
      }
    } else if (i <= last && bytes[from] !== SPACE && bytes[to - 1] !== SPACE) {
      const target = out.words;
      let o = out.length + 1;
      for (; i <= last; i += 4, o += 4) {
        const word = words.getInt32(i, true);
        if (isSuspect(word) && needsQuotes(word)) break;
        target.setInt32(o, word, true);
      }
      if (i > last) {
        // the last word overlaps the one before it
        const word = words.getInt32(last, true);
        if (!isSuspect(word) || !needsQuotes(word)) {
          out.bytes[out.length] = COMMA;
          target.setInt32(out.length + 1 + last - from, word, true);
          out.length += 1 + to - from;
          return;
        }
      }
    }
    writeCell(out, bytes, from, to, true);
  }

  bytes(bytes: Uint8Array, from: number, to: number): void {
    writeCell(this.out, bytes, from, to, true);
  }

  blank(): void {
    this.out.byte(COMMA);
  }

  endRow(): void {
    const { out } = this;
    out.ensure(2);
    out.bytes[out.length++] = CR;
    out.bytes[out.length++] = LF;
  }

  titles(titles: readonly string[]): void {
    writeCells(this.out, titles.map(harmless));
  }

  row(cells: readonly string[]): void {
    writeCells(this.out, cells);
  }

  get isFull(): boolean {
    return this.out.length > FLUSH;
  }

  async flush(): Promise<void> {
    await this.writing;
    [this.out, this.away] = [this.away, this.out];
    const { styler, mark } = this.style;
    if (!this.isBegun) await this.write(mark);
    this.isBegun = true;
    const rows = this.away.bytes.subarray(0, this.away.length);
    const bytes = styler?.write(rows) ?? rows;
    this.out.clear();
    this.writing = this.write(bytes);
    this.writing.catch(() => undefined); // told when it is waited for
  }

  private async write(bytes: Uint8Array): Promise<void> {
    if (bytes.length === 0) return;
    this.hash.update(bytes);
    await this.file.write(bytes);
  }

  async close(): Promise<string> {
    if (this.out.length > 0) await this.flush();
    await this.writing;
    if (this.style.styler !== null) await this.write(this.style.styler.end());
    await this.file.close();
    return this.hash.digest();
  }
}
