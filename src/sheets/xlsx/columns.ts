/** The columns of a worksheet as they are written. */
import type { ColumnHints } from "../container.js";
import type { Standing } from "./styles.js";

/** How a column is written. */
export interface OutColumn {
  readonly title: string;
  readonly hints: ColumnHints | null;
  readonly standing: Standing;
  /** Numbers or dates are kept as such where nothing is lost. */
  readonly typed: "number" | "date" | null;
  /** What stands before the number of the row, and behind it in a cell with a text, or without one. */
  readonly begin: Uint8Array;
  readonly text: Uint8Array;
  readonly blank: Uint8Array;
  readonly style: number;
  width: number;
}

/** Gives the name of a range whose cells may be chosen. */
export interface Lists {
  /** Cells of a column in the sheet of a table. */
  ofColumn(table: string, title: string): string;
  /** These words. */
  ofWords(words: readonly string[]): string;
}
