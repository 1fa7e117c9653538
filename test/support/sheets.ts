/** Edited tables as rows of cells: read and written with CSV packages, not with the code under test. */
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import { MemoryTables } from "hatch-fold";

export type Rows = string[][];

export const MARK = "fold mark";
export const ACTION = "fold action";
export const FILE = "in file";

export function readRows(tables: MemoryTables, file: string): Rows {
  return parse(tables.contents.get(file) as Buffer, {
    bom: true,
    relax_column_count: true,
    record_delimiter: ["\r\n", "\n", "\r"],
    skip_empty_lines: false,
  });
}

export function writeRows(
  tables: MemoryTables,
  file: string,
  rows: Rows,
  options: { delimiter?: string; line?: string; quoted?: boolean } = {},
): void {
  const { delimiter = ",", line = "\r\n", quoted } = options;
  const text = stringify(rows, { delimiter, record_delimiter: line, quoted, quoted_match: /[\r\n]/ });
  tables.contents.set(file, new TextEncoder().encode(text));
}

/** Table files, without the receipt. */
export function sheetFiles(tables: MemoryTables): string[] {
  return [...tables.contents.keys()].filter((file) => file.endsWith(".csv"));
}

export function copyTables(tables: MemoryTables): MemoryTables {
  return new MemoryTables(tables.contents);
}

/** Edits one sheet in place. */
export function edit(tables: MemoryTables, file: string, change: (rows: Rows, titles: string[]) => Rows | void): MemoryTables {
  const rows = readRows(tables, file);
  writeRows(tables, file, change(rows, rows[0]) ?? rows);
  return tables;
}

/** Sets one cell by row number (header = 1) and title. */
export function setCell(tables: MemoryTables, file: string, row: number, title: string, value: string): MemoryTables {
  return edit(tables, file, (rows, titles) => {
    rows[row - 1][titles.indexOf(title)] = value;
  });
}

/** Cells by title: of a row by its number (header = 1), or of a new one. */
export type CellEdits = readonly (readonly [row: number | "new", cells: Readonly<Record<string, string>>])[];

/** Edits sheets by table, as a person would. */
export function editCells(tables: MemoryTables, edits: Readonly<Record<string, CellEdits>>): MemoryTables {
  for (const [table, rows] of Object.entries(edits))
    edit(tables, `${table}.csv`, (all, titles) => {
      for (const [row, cells] of rows) {
        const at = row === "new" ? all.push(titles.map(() => "")) - 1 : row - 1;
        for (const [title, cell] of Object.entries(cells)) {
          if (!titles.includes(title)) throw new Error(`${table} has no column ${title}`);
          all[at][titles.indexOf(title)] = cell;
        }
      }
    });
  return tables;
}

export const text = (bytes: Uint8Array): string => new TextDecoder("utf-8", { ignoreBOM: true }).decode(bytes);
export const bytes = (value: string): Uint8Array => new TextEncoder().encode(value);
