/** Sheets between the library and the grid, by a CSV package. */
import { parse as parseSync } from "csv-parse/browser/esm/sync";
import { stringify } from "csv-stringify/browser/esm/sync";

export function parse(text: string): string[][] {
  return parseSync(text, { record_delimiter: ["\r\n"], relax_column_count: true });
}

export function print(rows: readonly (readonly string[])[]): string {
  return stringify(rows as string[][], { record_delimiter: "\r\n", quoted_match: /[\r\n]/ });
}
