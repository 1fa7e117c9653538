/** The containers of sheets: what a caller hands over as tables, and what a hatch writes to. */
import { CallError } from "../errors/error.js";
import type { OpenSheet, SheetContainer, SheetSink } from "./container.js";
import type { Program } from "./csv/styles.js";
import { CsvSink, CsvTables } from "./csv/tables.js";
import type { Receipt } from "./receipt.js";
import { RowContainer, RowSink } from "./rows/container.js";
import { RowTables } from "./rows/tables.js";
import type { Workbook } from "./xlsx/workbook.js";
import type { TablesSink, TablesSource } from "./tables.js";

/** Tables as they came back: a folder of files, a workbook, or rows in memory. */
export type Tables = TablesSource | RowTables | Workbook;

export function containerOf(tables: Tables | SheetContainer): SheetContainer {
  if (tables instanceof RowTables) return new RowContainer(tables);
  if (hasFunctions(tables, ["receipt", "sheet", "names"])) return tables as SheetContainer;
  if (!hasFunctions(tables, ["files", "open"])) throw new CallError("tables-strange", { given: kindOf(tables) });
  return new CsvTables(tables as TablesSource);
}

/** Where tables go: a folder of files, a workbook, or rows in memory. */
export type TablesOut = TablesSink | RowTables | Workbook;

export function sinkOf(out: TablesOut, program?: Program, commas?: ReadonlyMap<string, readonly string[]>): SheetSink {
  if (out instanceof RowTables) return new RowSink(out);
  if (hasFunctions(out, ["nameAll", "create", "finish"])) return out as SheetSink;
  if (!hasFunctions(out, ["create"])) throw new CallError("tables-strange", { given: kindOf(out) });
  return new CsvSink(out as TablesSink, program, commas);
}

function hasFunctions(value: unknown, names: readonly string[]): boolean {
  return (
    typeof value === "object" && value !== null && names.every((name) => typeof (value as Record<string, unknown>)[name] === "function")
  );
}

/** What a caller gave, in a word. */
function kindOf(value: unknown): string {
  return typeof value !== "object" || value === null
    ? String(value)
    : (value.constructor as { readonly name?: string } | undefined)?.name || "an object";
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
