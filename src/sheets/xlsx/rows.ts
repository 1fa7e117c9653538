/** The rows of a worksheet as delimited text: what reads sheets of text then reads those of workbooks. */
import { ByteWriter } from "../../bytes/writer.js";
import { writeCells } from "../csv/write.js";
import { readPart, type Book, type BookSheet, type SharedTexts } from "./book.js";
import type { TagTaker } from "./markup.js";
import { textOf } from "./numbers.js";
import { columnOf } from "../column-names.js";
import { unescapeCell } from "./text.js";

/** A cell that has a formula, and nothing that it gives. */
const NO_RESULT = "#VALUE!";
/** Rows are kept in pieces of about so many bytes. */
const PIECE = 1 << 20;
const [CR, LF] = [0x0d, 0x0a];
/** Rows beyond this hold formats, not records. */
const MOST_ROWS = 1_048_576;
const MOST_COLUMNS = 16_384;

/** Cells that were made one: all say what the first says. */
interface Merged {
  readonly from: { readonly row: number; readonly column: number };
  readonly to: { readonly row: number; readonly column: number };
  text: string;
}

/** All rows, each on the line of its number; `titled` changes the first that is not blank. */
export async function rowsOf(book: Book, sheet: BookSheet, titled: (cells: string[]) => string[]): Promise<Uint8Array[]> {
  const texts = await book.sharedTexts();
  const first = new RowsTaker(book, texts, titled);
  await readPart(sheet.part, book.name, first);
  if (first.merged.length === 0) return first.end();
  // which cells were merged stands behind the rows
  const second = new RowsTaker(book, texts, titled, first.merged);
  await readPart(sheet.part, book.name, second);
  return second.end();
}

class RowsTaker implements TagTaker {
  private readonly out = new ByteWriter(PIECE);
  private readonly pieces: Uint8Array[] = [];
  readonly merged: Merged[] = [];
  private line = 1;
  private row = 0;
  private cells: string[] = [];
  private column = -1;
  private type = "";
  private style = 0;
  private value = "";
  private inside = "";
  private hasFormula = false;
  private hasValue = false;
  private isReading = false;
  private isTitled = false;
  wantsText = false;

  constructor(
    private readonly book: Book,
    private readonly texts: SharedTexts,
    private readonly titled: (cells: string[]) => string[],
    private readonly merges: readonly Merged[] = [],
  ) {}

  /** What was read, in pieces. */
  end(): Uint8Array[] {
    this.pieces.push(this.out.take());
    return this.pieces;
  }

  open(name: string, attribute: (name: string) => string | null): void {
    switch (name) {
      case "c": {
        const place = attribute("r");
        this.column = place === null ? this.column + 1 : columnOf(place);
        this.type = attribute("t") ?? "n";
        this.style = this.type === "n" ? Number(attribute("s") ?? 0) : 0;
        this.value = "";
        this.hasFormula = this.hasValue = false;
        return;
      }
      case "v":
        this.wantsText = this.hasValue = true;
        return;
      case "t":
        this.wantsText = this.hasValue = this.inside === "c" && !this.isReading;
        return;
      case "is":
        this.inside = "c";
        return;
      case "rPh":
        this.isReading = true;
        return;
      case "f":
        this.hasFormula = true;
        return;
      case "row":
        this.row = Number(attribute("r") ?? this.row + 1);
        this.cells = [];
        this.column = -1;
        return;
      case "mergeCell":
        this.merge(attribute("ref") ?? "");
    }
  }

  close(name: string): void {
    switch (name) {
      case "c":
        if (this.column >= 0 && this.column < MOST_COLUMNS) this.cells[this.column] = this.cellText();
        return;
      case "v":
      case "t":
        this.wantsText = false;
        return;
      case "is":
        this.inside = "";
        return;
      case "rPh":
        this.isReading = false;
        return;
      case "row":
        this.endRow();
    }
  }

  text(text: string): void {
    this.value += text;
  }

  private cellText(): string {
    const { value } = this;
    if (this.hasFormula && !this.hasValue) return NO_RESULT;
    switch (this.type) {
      case "s":
        return value === "" ? "" : this.texts.at(Number(value));
      case "inlineStr":
      case "str":
        return unescapeCell(value);
      case "b":
        return value === "" ? "" : value === "0" || value === "false" ? "FALSE" : "TRUE";
      case "n":
        return value === "" ? "" : textOf(value, this.book.forms[this.style] ?? null, this.book.from1904);
      default:
        return value; // errors, and dates as they are written
    }
  }

  private endRow(): void {
    if (this.row < this.line || this.row > MOST_ROWS) return;
    for (const one of this.merges) this.fill(one);
    let cells = Array.from(this.cells, (cell) => cell ?? "");
    if (cells.every((cell) => cell === "")) return;
    const { out } = this;
    for (; this.line < this.row; this.line++) {
      out.byte(CR);
      out.byte(LF);
    }
    if (!this.isTitled) {
      cells = this.titled(cells);
      this.isTitled = true;
    }
    writeCells(out, cells);
    this.line++;
    if (out.length > PIECE) {
      this.pieces.push(out.take());
      out.clear();
    }
  }

  private merge(place: string): void {
    const match = /^([A-Z]+)(\d+):([A-Z]+)(\d+)$/.exec(place);
    if (match === null) return;
    const [, left, top, right, bottom] = match;
    this.merged.push({
      from: { row: Number(top), column: columnOf(left) },
      to: { row: Number(bottom), column: columnOf(right) },
      text: "",
    });
  }

  private fill(one: Merged): void {
    const { from, to } = one;
    if (this.row < from.row || this.row > to.row) return;
    if (this.row === from.row) one.text = this.cells[from.column] ?? "";
    for (let column = from.column; column <= to.column; column++) this.cells[column] = one.text;
  }
}
