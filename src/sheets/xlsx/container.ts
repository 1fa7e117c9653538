/** A workbook as a container of sheets. */
import { PiecesSource, readAll, type ByteSource } from "../../bytes/source.js";
import { fingerprinter } from "../../bytes/hash.js";
import { TablesError } from "../../errors/error.js";
import type { OpenSheet, SheetReading, SheetContainer } from "../container.js";
import { openCsv } from "../csv/sheet.js";
import { readReceipt, type Receipt } from "../receipt.js";
import { Book, type BookSheet } from "./book.js";
import { isSheetName, OWN_SHEETS, RECEIPT_SHEET, signOf } from "./names.js";
import { rowsOf } from "./rows.js";
import { SIGNS } from "./styles.js";

const SIGN = new RegExp(` [${Object.values(SIGNS).join("")}]+$`, "u");
/** How many of a table's titles tell that a sheet with another name is its own. */
const MOST_TITLES = 0.8;

export class XlsxContainer implements SheetContainer {
  readonly isWhole = true;
  private opened: Promise<Book> | null = null;
  private sealed: Promise<Receipt> | null = null;
  private readonly texts = new Map<BookSheet, Uint8Array[]>();

  constructor(private readonly source: ByteSource) {}

  get name(): string {
    return this.source.name;
  }

  receipt(): Promise<Receipt> {
    return (this.sealed ??= this.findReceipt());
  }

  async names(): Promise<readonly string[]> {
    const sheets = await this.sheetsByName();
    return [...sheets.keys()];
  }

  async sheet(name: string, as?: SheetReading): Promise<OpenSheet | null> {
    const sheets = await this.sheetsByName();
    const found = sheets.get(name) ?? sheets.get(name.replace(/\.csv$/, ""));
    if (found?.sign !== undefined && as?.isForeign !== true && found.sign !== signOf(await this.receipt()))
      throw new TablesError("sheet-of-another-hatch", { sheet: found.name }, { file: this.name });
    return found === undefined ? null : openCsv(name, await this.rows(found, name), as);
  }

  /** The sheet of a table. @throws {@link TablesError} when there is none */
  async found(name: string): Promise<BookSheet> {
    const found = (await this.sheetsByName()).get(name);
    if (found === undefined) throw new TablesError("sheet-missing", { file: name, nearest: null }, { file: this.name });
    return found;
  }

  /** The sheet that holds the receipt. */
  async receiptSheet(): Promise<BookSheet> {
    const { sheets } = await this.book();
    const named = sheets.filter(({ name }) => name === RECEIPT_SHEET);
    for (const sheet of [...named, ...sheets.filter((one) => one.isHidden && !named.includes(one))])
      if ((await lines(await this.rows(sheet)))[0] === RECEIPT_SHEET) return sheet;
    throw new TablesError("receipt-missing-in-workbook", { file: this.name }, { file: this.name });
  }

  /** What its cells say. */
  async receiptLines(): Promise<readonly string[]> {
    return lines(await this.rows(await this.receiptSheet()));
  }

  /** Was some sheet changed, even if only saved anew, since it was hatched? */
  async isEdited(): Promise<boolean> {
    const receipt = await this.receipt();
    const { sheets } = await this.book();
    for (const { file, fingerprint } of receipt.tables) {
      const hash = await fingerprinter();
      await sheets.find(({ name }) => name === file)?.part.read((piece) => hash.update(piece));
      if (hash.digest() !== fingerprint) return true;
    }
    return false;
  }

  book(): Promise<Book> {
    return (this.opened ??= Book.open(this.source));
  }

  private async rows(sheet: BookSheet, name = sheet.name): Promise<ByteSource> {
    const known = this.texts.get(sheet) ?? (await rowsOf(await this.book(), sheet, withoutSigns));
    this.texts.set(sheet, known);
    return new PiecesSource(known, name);
  }

  private async findReceipt(): Promise<Receipt> {
    const { name } = await this.receiptSheet();
    const [, ...pieces] = await this.receiptLines();
    return readReceipt(pieces.join(""), `${this.name}, sheet "${name}"`, isSheetName);
  }

  /** Sheets by what the receipt calls them; those of others by their own names. */
  private async sheetsByName(): Promise<ReadonlyMap<string, BookSheet>> {
    const { sheets } = await this.book();
    const receipt = await this.receipt().catch(() => null);
    const visible = sheets.filter(({ name }) => !OWN_SHEETS.includes(name));
    const byName = new Map<string, BookSheet>();
    const files = [...new Set(receipt?.tables.map(({ file }) => file))];
    for (const file of files) {
      const found = visible.find(({ name }) => name === file);
      if (found !== undefined) byName.set(file, found);
    }
    // one that was given another name is known by its titles
    for (const file of files.filter((one) => !byName.has(one))) {
      const titles = receipt!.tables.filter((table) => table.file === file).flatMap((table) => table.titles);
      for (const sheet of visible) {
        if ([...byName.values()].includes(sheet) || files.includes(sheet.name)) continue;
        const cells = new Set(await firstRow(await this.rows(sheet)));
        if (titles.filter((title) => cells.has(title)).length >= MOST_TITLES * titles.length) byName.set(file, sheet);
      }
    }
    for (const sheet of visible) if (![...byName.values()].includes(sheet) && !sheet.isHidden) byName.set(sheet.name, sheet);
    return byName;
  }
}

/** Titles without the signs that were put behind them. */
function withoutSigns(cells: string[]): string[] {
  return cells.map((cell) => cell.replace(SIGN, ""));
}

/** Cells of a sheet with one column. */
async function lines(rows: ByteSource): Promise<string[]> {
  return new TextDecoder()
    .decode(await readAll(rows))
    .split("\r\n")
    .filter((line) => line !== "")
    .map((line) => (line.startsWith('"') ? line.slice(1, -1).replaceAll('""', '"') : line));
}

async function firstRow(rows: ByteSource): Promise<string[]> {
  const line =
    new TextDecoder()
      .decode(await rows.read(0, 1 << 16))
      .split("\r\n")
      .find((one) => one !== "") ?? "";
  return line.split(",").map((cell) => (cell.startsWith('"') ? cell.slice(1, -1).replaceAll('""', '"') : cell));
}
