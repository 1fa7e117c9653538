/** The containers of sheets: what a caller hands over as tables, and what a hatch writes to. */
import type { OpenSheet, SheetContainer, SheetSink } from "./container.js";
import { CsvSink, CsvTables } from "./csv/tables.js";
import type { Receipt } from "./receipt.js";
import { RowContainer, RowSink } from "./rows/container.js";
import { RowTables } from "./rows/tables.js";
import type { TablesSink, TablesSource } from "./tables.js";

/** Tables as they came back: a folder of files, or rows in memory. */
export type Tables = TablesSource | RowTables;

export function containerOf(tables: Tables | SheetContainer): SheetContainer {
  if (tables instanceof RowTables) return new RowContainer(tables);
  return "files" in tables ? new CsvTables(tables) : tables;
}

/** Where tables go: a folder of files, or rows in memory. */
export type TablesOut = TablesSink | RowTables;

export function sinkOf(out: TablesOut, { bom = false }: { readonly bom?: boolean } = {}): SheetSink {
  return out instanceof RowTables ? new RowSink(out) : new CsvSink(out, bom);
}

/** Sheets that somebody has opened. */
export class HeldSheets implements SheetContainer {
  readonly isWhole = true;

  constructor(
    readonly name: string,
    private readonly sealed: Receipt,
    private readonly sheets: ReadonlyMap<string, OpenSheet>,
  ) {}

  receipt(): Promise<Receipt> {
    return Promise.resolve(this.sealed);
  }

  names(): Promise<readonly string[]> {
    return Promise.resolve([...this.sheets.keys()]);
  }

  sheet(name: string): Promise<OpenSheet | null> {
    return Promise.resolve(this.sheets.get(name) ?? null);
  }
}
