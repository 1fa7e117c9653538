/** One worksheet as it is written (ISO/IEC 29500-1, 18.3): cells are texts in place, so that they arrive as they are. */
import { encode, ByteWriter, decode } from "../../bytes/writer.js";
import type { ZipPartOut } from "../../bytes/zip-parts.js";
import type { Fingerprinter } from "../../bytes/hash.js";
import { SourceError } from "../../errors/error.js";
import { ACTION_TITLE, FILE_TITLE, MARK_TITLE, PROBLEM_TITLE } from "../../model/plan.js";
import type { MarkWriter } from "../../model/marks.js";
import type { SheetHints, SheetOut } from "../container.js";
import { dayOf, decimalsOf } from "./numbers.js";
import { LONGEST_CELL } from "../../cells/limits.js";
import { dateStyle, look, numberStyle, SIGNS, textStyle, type Standing } from "./styles.js";
import { columnName } from "../column-names.js";
import { cellText, isPlain } from "./text.js";
import type { Lists, OutColumn } from "./columns.js";
import { validations } from "./validations.js";

const FLUSH = 1 << 16;
/** Before so much has been written, widths are learnt from the cells. */
const HEAD = 1 << 15;
const MOST_ROWS = 1_048_576;
const MOST_COLUMNS = 16_384;
const [NARROWEST, WIDEST] = [6, 60];
/** Room for the button of the filter, in letters. */
const BUTTON = 5;

const TEXT = ' t="inlineStr"><is><t>';
const SPACED = ' t="inlineStr"><is><t xml:space="preserve">';
const TEXT_END = encode("</t></is></c>");
const VALUE_END = encode("</v></c>");
const TITLE_ROW = '<row r="1" ht="19.5" customHeight="1">';
/** A number with more letters has more digits than are sure. */
const LONGEST_NUMBER = 20;
const SPACE = 0x20;
/** Of texts that are shown whole. */
const [LINE_HEIGHT, LETTERS_IN_LINE, MOST_LINES] = [13.5, 62, 8];
const ROW_END = encode("</row>");

export class XlsxOut implements SheetOut {
  columns: OutColumn[] = [];
  rows = 0;
  private readonly out = new ByteWriter(1 << 17);
  private isBegun = false;
  private column = 0;
  private rowName: Uint8Array = new Uint8Array(0);
  private writing = Promise.resolve();
  private readonly word = new ByteWriter(256);

  constructor(
    readonly name: string,
    private readonly what: { readonly hints: SheetHints | null; readonly lists: Lists },
    private readonly part: ZipPartOut,
    private readonly hash: Fingerprinter,
  ) {}

  get hints(): SheetHints | null {
    return this.what.hints;
  }

  titles(titles: readonly string[]): void {
    if (titles.length > MOST_COLUMNS) throw new SourceError("sheet-wide", { sheet: this.name, most: MOST_COLUMNS });
    this.columns = titles.map((title, i) => this.columnFor(title, i));
    for (const column of this.columns) {
      const title = signed(column);
      column.width = Math.max(NARROWEST, Math.min(title.length, 28) + BUTTON);
      const style = column.standing === "closed" ? "titleClosed" : column.hints?.required === true ? "titleRequired" : "title";
      this.begin();
      this.out.text(`" s="${look(style)}"${TEXT}`);
      this.out.append(cellText(title));
      this.out.append(TEXT_END);
    }
    this.endRow();
  }

  private columnFor(title: string, i: number): OutColumn {
    const hints = this.hints?.columns.get(title) ?? null;
    const isFixed = title === MARK_TITLE || title === FILE_TITLE || title === PROBLEM_TITLE;
    const standing: Standing = isFixed || hints?.isClosed === true ? "closed" : hints?.isKey === true ? "key" : "open";
    const type = hints?.isKey === true || hints?.refers != null || (hints?.choices.length ?? 0) > 0 ? "text" : hints?.type;
    const typed = type === "date" ? "date" : type === "integer" || type === "decimal" || type === "number" ? "number" : null;
    const style = title === PROBLEM_TITLE ? look("reason") : textStyle(standing);
    return {
      title,
      hints,
      standing,
      typed,
      begin: encode(`<c r="${columnName(i)}`),
      text: encode(`" s="${style}"${TEXT}`),
      blank: encode(`" s="${style}"/>`),
      style,
      width: 0,
    };
  }

  mark(marks: MarkWriter, place: number): void {
    this.word.clear();
    marks.write(this.word, place);
    this.bytes(this.word.bytes, 0, this.word.length);
  }

  cell(bytes: Uint8Array, _words: DataView, from: number, to: number): void {
    this.bytes(bytes, from, to);
  }

  bytes(bytes: Uint8Array, from: number, to: number): void {
    if (from === to) {
      this.blank();
      return;
    }
    const column = this.columns[this.column];
    if (!this.isBegun) column.width = Math.max(column.width, Math.min(to - from + 2, WIDEST));
    this.begin();
    const { out } = this;
    const value = column.typed === null || to - from > LONGEST_NUMBER ? null : numberIn(column, decode(bytes, from, to));
    if (value !== null) {
      out.text(value);
      out.append(VALUE_END);
    } else if (isPlain(bytes, from, to) && to - from <= LONGEST_CELL) {
      out.append(column.text);
      out.append(bytes, from, to);
      out.append(TEXT_END);
    } else {
      const text = cellText(decode(bytes, from, to));
      const isSpaced = text[0] <= SPACE || text[text.length - 1] <= SPACE;
      out.text(`" s="${column.style}"${isSpaced ? SPACED : TEXT}`);
      out.append(text);
      out.append(TEXT_END);
    }
  }

  blank(): void {
    const { blank } = this.columns[this.column];
    this.begin();
    this.out.append(blank);
  }

  /** Begins the next cell. */
  private begin(): void {
    if (this.column === 0) this.beginRow();
    this.out.append(this.columns[this.column++].begin);
    this.out.append(this.rowName);
  }

  private beginRow(): void {
    if (++this.rows > MOST_ROWS) throw new SourceError("sheet-long", { sheet: this.name, most: MOST_ROWS });
    this.rowName = encode(String(this.rows));
    this.column = 0;
    const height = this.linesInRow > 1 ? ` ht="${this.linesInRow * LINE_HEIGHT}" customHeight="1"` : "";
    this.out.text(this.rows === 1 ? TITLE_ROW : `<row r="${this.rows}"${height}>`);
  }

  endRow(): void {
    this.out.append(ROW_END);
    this.column = 0;
  }

  /** Lines that the longest text of the next row takes, where texts are shown whole. */
  private linesInRow = 1;

  row(cells: readonly string[]): void {
    const whole = this.columns.findIndex(({ title }) => title === PROBLEM_TITLE);
    this.linesInRow = whole < 0 ? 1 : Math.min(MOST_LINES, Math.ceil((cells[whole] ?? "").length / LETTERS_IN_LINE));
    for (const cell of cells) {
      this.word.clear();
      this.word.text(cell);
      this.bytes(this.word.bytes, 0, this.word.length);
    }
    this.endRow();
  }

  get isFull(): boolean {
    return this.out.length > (this.isBegun ? FLUSH : HEAD);
  }

  async flush(): Promise<void> {
    await this.writing;
    const rows = this.out.take();
    this.out.clear();
    this.writing = this.write(rows);
    this.writing.catch(() => undefined); // told when it is waited for
  }

  private async write(rows: Uint8Array): Promise<void> {
    if (!this.isBegun) {
      this.isBegun = true;
      await this.give(encode(this.head()));
    }
    await this.give(rows);
  }

  private give(bytes: Uint8Array): Promise<void> {
    this.hash.update(bytes);
    return this.part.write(bytes);
  }

  /** What stands before the rows: the first row and the columns that say which record a row is stay in view. */
  private head(): string {
    const first = this.columns.findIndex(
      ({ title, hints }) => title !== MARK_TITLE && title !== ACTION_TITLE && title !== PROBLEM_TITLE && hints?.isKey !== true,
    );
    const across = Math.max(1, Math.min(first < 0 ? 1 : first, 4));
    const corner = `${columnName(across)}2`;
    const columns = this.columns.map(
      ({ width }, i) => `<col min="${i + 1}" max="${i + 1}" width="${width}" style="${this.columns[i].style}" customWidth="1"/>`,
    );
    return [
      '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">',
      `<sheetViews><sheetView workbookViewId="0"><pane xSplit="${across}" ySplit="1" topLeftCell="${corner}" activePane="bottomRight" state="frozen"/>`,
      `<selection pane="bottomRight" activeCell="${corner}" sqref="${corner}"/></sheetView></sheetViews>`,
      '<sheetFormatPr defaultRowHeight="13.5"/>',
      columns.length === 0 ? "" : `<cols>${columns.join("")}</cols>`,
      "<sheetData>",
    ].join("");
  }

  async close(): Promise<string> {
    await this.flush();
    await this.writing;
    const last = `${columnName(Math.max(0, this.columns.length - 1))}${Math.max(1, this.rows)}`;
    const tail = `</sheetData><autoFilter ref="A1:${last}"/>${validations(this.columns, this.rows, this.what.lists)}</worksheet>`;
    await this.give(encode(tail));
    await this.part.close();
    return this.hash.digest();
  }
}

/** What stands behind a cell's place when it is kept as a number; null when something would be lost. */
function numberIn({ typed, standing }: OutColumn, text: string): string | null {
  const value = typed === "date" ? dayOf(text) : decimalsOf(text);
  if (value < 0) return null;
  return typed === "date" ? `" s="${dateStyle(standing)}"><v>${value}` : `" s="${numberStyle(standing, value)}"><v>${text}`;
}

/** A title with the signs that say what the column is. */
function signed({ title, hints, standing }: OutColumn): string {
  const signs = [
    standing === "closed" ? SIGNS.closed : "",
    standing === "key" ? SIGNS.key : "",
    hints?.required === true ? SIGNS.required : "",
  ].join("");
  return signs === "" ? title : `${title} ${signs}`;
}
