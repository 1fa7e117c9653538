/** Rows of delimited text that are read when they are asked for, beside something else. */
import { DelimitedScanner } from "./scan.js";

export class RowCursor extends DelimitedScanner {
  /** All bytes were given. */
  ended = false;

  /** Offset of the next row. */
  get nextOffset(): number {
    return this.base + this.pos;
  }

  /** Where it is in the window. */
  get position(): number {
    return this.pos;
  }

  /** How many bytes that are in view were not gone through. */
  get ahead(): number {
    return this.limit - this.pos;
  }

  protected override scan(final: boolean): number {
    this.ended = final;
    return this.leaveBehind();
  }

  /** Reads the next row and tells it; false when none is whole in view. */
  pull(): boolean {
    return this.next(this.ended);
  }

  /** Goes past a row, untold: to where in the window the next one begins. */
  passTo(position: number): void {
    this.pos = position;
    this.rowNumber++;
  }
}
