/** A folder of delimited text, a file a sheet: RFC 4180, comma and CR LF, and the receipt beside them. */
import { fingerprinter, type Fingerprinter } from "../../bytes/hash.js";
import { ByteWriter, encode } from "../../bytes/writer.js";
import { harmless } from "../../cells/spelling.js";
import type { OpenSheet, SheetContainer, SheetOut, SheetReading, SheetSink } from "../container.js";
import { loadReceipt, printReceipt, RECEIPT_FILE, type Receipt } from "../receipt.js";
import { sheetFiles } from "./sheet-files.js";
import type { TablesSink, TablesSource } from "../tables.js";
import { openCsv } from "./sheet.js";
import type { MarkWriter } from "../../model/marks.js";
import { COMMA, CR, FILLER, isSuspect, LF, needsQuotes, SPACE, writeCell, writeCells } from "./write.js";

const FLUSH = 1 << 16;
const BOM = encode("\ufeff");
const LOOKS_LIKE_SHEET = /\.(?:csv|tsv|txt)$/i;

export class CsvTables implements SheetContainer {
  readonly isWhole = true;

  constructor(private readonly files: TablesSource) {}

  get name(): string {
    return this.files.name;
  }

  receipt(): Promise<Receipt> {
    return loadReceipt(this.files);
  }

  async names(): Promise<readonly string[]> {
    return (await this.files.files()).filter((file) => LOOKS_LIKE_SHEET.test(file) && !/^[.~]/.test(file));
  }

  async sheet(name: string, as?: SheetReading): Promise<OpenSheet | null> {
    const source = await this.files.open(name);
    return source === null ? null : openCsv(name, source, as);
  }
}

export class CsvSink implements SheetSink {
  constructor(
    private readonly files: TablesSink,
    /** Begin each file with a byte-order mark. */
    private readonly bom = false,
  ) {}

  nameAll(tables: readonly string[]): ReadonlyMap<string, string> {
    return sheetFiles(tables);
  }

  async create(name: string): Promise<SheetOut> {
    const out = new CsvOut(await this.files.create(name), await fingerprinter());
    if (this.bom) out.out.append(BOM);
    return out;
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

  constructor(
    private readonly file: Awaited<ReturnType<TablesSink["create"]>>,
    private readonly hash: Fingerprinter,
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
    const bytes = this.away.bytes.subarray(0, this.away.length);
    this.out.clear();
    this.hash.update(bytes);
    this.writing = this.file.write(bytes);
    this.writing.catch(() => undefined); // told when it is waited for
  }

  async close(): Promise<string> {
    if (this.out.length > 0) await this.flush();
    await this.writing;
    await this.file.close();
    return this.hash.digest();
  }
}
