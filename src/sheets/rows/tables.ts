/** Rows in memory, each an object of cells by title: for callers that edit tables without any files. */
import { CallError } from "../../errors/error.js";
import type { Receipt } from "../receipt.js";

/** Cells by title, as a sheet spells them. A title that is not there says nothing of its cell: it stays as it is. */
export type CellsByTitle = Readonly<Record<string, string | undefined>>;

/** The rows of one sheet. */
export interface RowSheet {
  /** Titles in their order; those of the rows, when not given. */
  readonly titles?: readonly string[];
  readonly rows: readonly CellsByTitle[];
  /** Numbers of the rows in the sheet that people see; 2, 3, 4 and so on (behind the titles) when not given. */
  readonly numbers?: readonly number[];
}

/** By table: its rows, alone or with what else is known of them. */
export type RowsByTable = Readonly<Record<string, RowSheet | readonly CellsByTitle[]>>;

/**
 * Tables as rows in memory: a hatch puts them in, check, compare and fold take them.
 *
 * @example
 * ```ts
 * const source = '{"stations": [{"code": "S1", "height": 12.50}, {"code": "S2", "height": 9.00}]}';
 * const tables = new RowTables();
 * await hatch(source, { into: tables });
 * tables.rows("stations")[0]; // { "fold mark": "b1ji", "fold action": "", code: "S1", height: "12.50" }
 * const touched = tables.touched({ stations: [{ "fold mark": "b1ji", height: "13.00" }] });
 * const { bytes } = await fold(touched, { source });
 * new TextDecoder().decode(bytes); // '{"stations": [{"code": "S1", "height": 13.00}, {"code": "S2", "height": 9.00}]}'
 * ```
 */
export class RowTables {
  /** By table: its sheet. */
  readonly sheets: Map<string, RowSheet>;

  constructor(
    sheets: RowsByTable = {},
    /** What was hatched into these rows; a hatch writes it. */
    public receipt: Receipt | null = null,
    /** All rows are here; else only those that somebody touched. */
    readonly isWhole = true,
  ) {
    this.sheets = new Map(Object.entries(sheets).map(([table, sheet]) => [table, asSheet(table, sheet)]));
  }

  /** The rows of a table's sheet; none when it has no sheet. */
  rows(table: string): readonly CellsByTitle[] {
    return this.sheets.get(table)?.rows ?? [];
  }

  /** All rows of the tables, as they are now. */
  with(sheets: RowsByTable): RowTables {
    return new RowTables(this.titled(sheets), this.receipt);
  }

  /** Only the rows that somebody touched, and of these only the cells: all else is as it was. */
  touched(sheets: RowsByTable): RowTables {
    return new RowTables(this.titled(sheets), this.receipt, false);
  }

  /** Sheets with the titles that they had, and those of further cells. */
  private titled(sheets: RowsByTable): Record<string, RowSheet> {
    const known = (name: string): readonly string[] => this.sheets.get(name)?.titles ?? [];
    return Object.fromEntries(
      Object.entries(sheets).map(([name, given]) => {
        const sheet = asSheet(name, given);
        return [name, { ...sheet, titles: sheet.titles ?? allTitles(known(name), sheet) }];
      }),
    );
  }
}

function asSheet(table: string, given: RowSheet | readonly CellsByTitle[]): RowSheet {
  const sheet = (Array.isArray(given) ? { rows: given as readonly CellsByTitle[] } : given) as RowSheet;
  const rows: unknown = (sheet as Partial<RowSheet> | null)?.rows;
  if (!Array.isArray(rows) || rows.some((row) => typeof row !== "object" || row === null)) throw new CallError("rows-strange", { table });
  return sheet;
}

/** Titles in their order: those that are known, and then others that the rows have. */
export function allTitles(known: readonly string[], { rows }: RowSheet): string[] {
  return [...new Set([...known, ...rows.flatMap((row) => Object.keys(row))])];
}
