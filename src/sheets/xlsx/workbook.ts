/** Tables in one workbook (.xlsx): where a hatch writes to, and what a fold takes. */
import { MemorySource, type ByteSource } from "../../bytes/source.js";
import { concat } from "../../bytes/writer.js";
import type { OpenSheet, SheetReading, SheetContainer, SheetHints, SheetOut, SheetSink } from "../container.js";
import type { Receipt } from "../receipt.js";
import { OWN_SHEETS, sheetNames } from "./names.js";

/**
 * A workbook in memory.
 *
 * @example
 * ```ts
 * const source = '{"stations": [{"code": "007", "height": 12.50}]}';
 * const workbook = new Workbook();
 * await hatch(source, { into: workbook });
 * // save workbook.bytes as a file, edit it in a spreadsheet, and bring it back
 * const { unchanged } = await fold(new Workbook(workbook.bytes), { source });
 * unchanged; // true
 * ```
 */
export class Workbook {
  /** The file; empty until something was hatched into it. */
  bytes: Uint8Array;
  /** @internal */
  readonly isWhole = true;
  private read: { readonly bytes: Uint8Array; readonly container: Promise<SheetContainer> } | null = null;
  private sink: Promise<SheetSink> | null = null;
  private readonly pieces: Uint8Array[] = [];

  constructor(
    bytes: Uint8Array = new Uint8Array(0),
    /** For messages. */
    readonly name = "tables.xlsx",
    /** Takes the file piece by piece as it is written; it is then not kept. @internal */
    private readonly give?: (bytes: Uint8Array) => Promise<void>,
  ) {
    this.bytes = bytes;
  }

  /** The file as a source of bytes. */
  get source(): ByteSource {
    return new MemorySource(this.bytes, this.name);
  }

  /** @internal */
  async receipt(): Promise<Receipt> {
    return (await this.container()).receipt();
  }

  /** @internal */
  async names(): Promise<readonly string[]> {
    return (await this.container()).names();
  }

  /** @internal */
  async sheet(name: string, as?: SheetReading): Promise<OpenSheet | null> {
    return (await this.container()).sheet(name, as);
  }

  /** @internal */
  nameAll(tables: readonly string[]): ReadonlyMap<string, string> {
    this.sink = null;
    return sheetNames(tables, OWN_SHEETS);
  }

  /** @internal */
  async create(name: string, hints?: SheetHints): Promise<SheetOut> {
    return (await this.out()).create(name, hints);
  }

  /** @internal */
  async finish(receipt: Receipt): Promise<void> {
    await (await this.out()).finish(receipt);
    this.bytes = concat(this.pieces.splice(0));
  }

  // what reads and writes workbooks is loaded when there is one

  private container(): Promise<SheetContainer> {
    const { bytes, source } = this;
    if (this.read?.bytes !== bytes)
      this.read = { bytes, container: import("./container.js").then(({ XlsxContainer }) => new XlsxContainer(source)) };
    return this.read.container;
  }

  private out(): Promise<SheetSink> {
    return (this.sink ??= import("./sink.js").then(({ XlsxSink }) => new XlsxSink(this.give ?? ((bytes) => void this.pieces.push(bytes)))));
  }
}
