/** A sheet whose rows are in memory. */
import type { Hash } from "../../bytes/hash.js";
import { ByteWriter } from "../../bytes/writer.js";
import { parseMark } from "../../model/marks.js";
import type { Damage, OpenSheet, RowSpan, RowTaker, RowView, SheetRow } from "../container.js";

export class RowsSheet implements OpenSheet {
  readonly strangeDelimiter = null;

  constructor(
    readonly name: string,
    private readonly titles: SheetRow,
    private readonly rows: readonly SheetRow[],
  ) {}

  get size(): number {
    return this.rows.length * this.titles.cells.length;
  }

  read(taker: RowTaker): Promise<void> {
    const view = new CellsView();
    taker.row(view.of(this.titles, -1));
    for (let i = 0; i < this.rows.length && !taker.done; i++) taker.row(view.of(this.rows[i], i));
    return Promise.resolve();
  }

  cellsOf(rows: readonly RowSpan[]): Promise<(string | undefined)[][]> {
    return Promise.resolve(rows.map(({ offset }) => [...this.rows[offset].cells]));
  }
}

/** One row of cells after the other; its offset is its place among them. */
class CellsView implements RowView {
  rowNumber = 0;
  offset = 0;
  readonly length = 0;
  private row: readonly (string | undefined)[] = [];
  fault: Damage = null;
  private readonly word = new ByteWriter(256);

  of({ number, cells, fault = null }: SheetRow, offset: number): this {
    this.rowNumber = number;
    this.row = cells;
    this.fault = fault;
    this.offset = offset;
    return this;
  }

  get cells(): number {
    return this.row.length;
  }

  get blank(): boolean {
    return this.row.every((cell) => (cell ?? "") === "");
  }

  get whole(): boolean {
    return !this.row.includes(undefined);
  }

  text(cell: number): string {
    return this.row[cell] ?? "";
  }

  texts(): (string | undefined)[] {
    return [...this.row];
  }

  isEmpty(cell: number): boolean {
    return this.text(cell) === "";
  }

  markAt(cell: number, salt: number): number {
    return parseMark(salt, this.text(cell));
  }

  hashCell(cell: number, hash: Hash): void {
    this.word.clear();
    this.word.text(this.text(cell));
    hash.partOf(this.word.words, 0, this.word.length);
  }
}
