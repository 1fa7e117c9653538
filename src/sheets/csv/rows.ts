/** Small sheets, read whole. */
import { DelimitedScanner, type QuoteFault } from "./scan.js";

/** What may stand between cells, the likeliest first. */
export const DELIMITERS = [0x2c, 0x3b, 0x09, 0x7c];

export interface DelimitedRow {
  /** From 1; blank lines count. */
  readonly number: number;
  readonly cells: readonly string[];
  readonly fault: QuoteFault;
}

export function readRows(bytes: Uint8Array, delimiter: number): DelimitedRow[] {
  const rows: DelimitedRow[] = [];
  const scanner = new DelimitedScanner(delimiter, {
    row: (one) => void rows.push({ number: one.rowNumber, cells: one.texts(), fault: one.fault }),
  });
  scanner.write(bytes);
  scanner.end();
  return rows;
}
