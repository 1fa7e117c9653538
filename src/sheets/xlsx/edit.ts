/** Edits cells of a worksheet: what stands between them, and all other cells, keep their bytes. */
import { concat, decode, encode } from "../../bytes/writer.js";
import { TablesError } from "../../errors/error.js";
import { columnName, columnOf } from "../column-names.js";
import { MarkupScanner, type TagTaker } from "./markup.js";
import { cellText } from "./text.js";

/** What cells are to say: by number of the row, from 1, and column, from 0. */
export type CellTexts = ReadonlyMap<number, ReadonlyMap<number, string>>;

export interface EditedSheet {
  readonly bytes: Uint8Array;
  /** A cell had a formula, and has none now. */
  readonly lostFormula: boolean;
}

/** The worksheet with these texts. @throws {@link TablesError} when a cell has a formula that others share */
export function withTexts(sheet: Uint8Array, texts: CellTexts, file: string): EditedSheet {
  const places = new CellPlaces(sheet, texts, file);
  const scanner = new MarkupScanner(places, file);
  places.scanner = scanner;
  scanner.write(sheet);
  scanner.end();
  const pieces: Uint8Array[] = [];
  let at = 0;
  for (const { from, to, xml } of places.splices) {
    pieces.push(sheet.subarray(at, from), encode(xml));
    at = to;
  }
  return { bytes: concat([...pieces, sheet.subarray(at)]), lostFormula: places.lostFormula };
}

/** Finds where cells stand, or would. */
class CellPlaces implements TagTaker {
  readonly splices: { readonly from: number; readonly to: number; readonly xml: string }[] = [];
  readonly wantsText = false;
  scanner!: MarkupScanner;
  lostFormula = false;
  /** Rows that are still to come, the first first. */
  private readonly rows: number[];
  /** What the elements' names begin with, where the part has a prefix for them. */
  private prefix = "";
  private row = 0;
  private rowFrom = 0;
  /** Cells of the row that are still to come. */
  private columns: number[] = [];
  private column = -1;
  private cell = { from: 0, style: null as string | null, hasFormula: false, isShared: false };
  /** Styles of the cells in the first row below the titles, for cells that are added. */
  private readonly styles = new Map<number, string>();

  constructor(
    private readonly sheet: Uint8Array,
    private readonly texts: CellTexts,
    private readonly file: string,
  ) {
    this.rows = [...texts.keys()].sort((a, b) => a - b);
  }

  open(name: string, attribute: (name: string) => string | null): void {
    switch (name) {
      case "sheetData":
        this.prefix = /^<([^:\s>]*:)?/.exec(this.tag())![1] ?? "";
        return;
      case "row":
        this.row = Number(attribute("r") ?? this.row + 1);
        this.putRowsBefore(this.row, this.scanner.from);
        this.rowFrom = this.scanner.from;
        this.column = -1;
        if (this.rows[0] === this.row) {
          this.rows.shift();
          this.columns = [...this.texts.get(this.row)!.keys()].sort((a, b) => a - b);
        } else this.columns = [];
        return;
      case "c": {
        const place = attribute("r");
        this.column = place === null ? this.column + 1 : columnOf(place);
        this.cell = { from: this.scanner.from, style: attribute("s"), hasFormula: false, isShared: false };
        this.putCellsBefore(this.column, this.scanner.from);
        return;
      }
      case "f":
        this.cell.hasFormula = true;
        this.cell.isShared = attribute("ref") !== null;
    }
  }

  close(name: string): void {
    const { scanner } = this;
    switch (name) {
      case "c":
        this.endCell(scanner.to);
        return;
      case "row":
        this.endRow();
        return;
      case "sheetData":
        this.putRowsBefore(Infinity, scanner.from);
    }
  }

  text(): void {
    // what cells say is not asked
  }

  private tag(): string {
    return decode(this.sheet, this.scanner.from, this.scanner.to);
  }

  private endCell(to: number): void {
    const { style, from, hasFormula, isShared } = this.cell;
    if (this.row > 1 && style !== null && !this.styles.has(this.column)) this.styles.set(this.column, style);
    if (this.columns[0] !== this.column) return;
    if (isShared) throw new TablesError("renew-formula", { place: `${columnName(this.column)}${this.row}` }, { file: this.file });
    this.columns.shift();
    this.lostFormula ||= hasFormula;
    this.splices.push({ from, to, xml: this.cellXml(this.row, this.column, style) });
  }

  private endRow(): void {
    const { from, to } = this.scanner;
    if (this.columns.length === 0) return;
    if (from !== this.rowFrom) {
      this.putCellsBefore(Infinity, from);
      return;
    }
    // a row without cells is one tag
    const tag = this.tag().replace(/\s*\/>$/, ">");
    const cells = this.columns.splice(0).map((column) => this.cellXml(this.row, column));
    this.splices.push({ from, to, xml: `${tag}${cells.join("")}</${this.prefix}row>` });
  }

  private putCellsBefore(column: number, at: number): void {
    const cells: string[] = [];
    while (this.columns.length > 0 && this.columns[0] < column) cells.push(this.cellXml(this.row, this.columns.shift()!));
    if (cells.length > 0) this.splices.push({ from: at, to: at, xml: cells.join("") });
  }

  private putRowsBefore(row: number, at: number): void {
    const rows: string[] = [];
    for (; this.rows.length > 0 && this.rows[0] < row; this.rows.shift()) {
      const [number] = this.rows;
      const columns = [...this.texts.get(number)!.keys()].sort((a, b) => a - b);
      const cells = columns.map((column) => this.cellXml(number, column)).join("");
      rows.push(`<${this.prefix}row r="${number}">${cells}</${this.prefix}row>`);
    }
    if (rows.length > 0) this.splices.push({ from: at, to: at, xml: rows.join("") });
  }

  private cellXml(row: number, column: number, style: string | null = this.styles.get(column) ?? null): string {
    const text = this.texts.get(row)!.get(column)!;
    const { prefix } = this;
    const tag = `${prefix}c r="${columnName(column)}${row}"${style === null ? "" : ` s="${style}"`}`;
    if (text === "") return `<${tag}/>`;
    return `<${tag} t="inlineStr"><${prefix}is><${prefix}t xml:space="preserve">${decode(cellText(text))}</${prefix}t></${prefix}is></${prefix}c>`;
  }
}
