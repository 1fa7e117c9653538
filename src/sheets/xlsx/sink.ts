/**
 * Writes a workbook (ISO/IEC 29500-1): a sheet a table, one in front that says what is what, the receipt in a sheet that
 * nobody sees. Parts are written side by side, as records of all tables come in turn.
 */
import { encode } from "../../bytes/writer.js";
import { fingerprinter } from "../../bytes/hash.js";
import { openZipSink, type ZipSink } from "../../bytes/zip-parts.js";
import type { SheetHints, SheetOut, SheetSink } from "../container.js";
import type { Receipt } from "../receipt.js";
import { aboutRows } from "./about.js";
import type { Lists } from "./columns.js";
import { ABOUT_SHEET, OWN_SHEETS, RECEIPT_SHEET, sheetNames, signOf, SIGN_NAME, WORDS_SHEET } from "./names.js";
import { receiptTexts } from "./receipt-texts.js";
import { XlsxOut } from "./sheet-out.js";
import { look, stylesPart, type TextCell } from "./styles.js";
import { columnName } from "../column-names.js";
import { escapeText } from "./text.js";

const MORE_ROWS = 200;
const NAMESPACE = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"';
const RELATIONS = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
const TYPES = "application/vnd.openxmlformats-officedocument.spreadsheetml";

export class XlsxSink implements SheetSink, Lists {
  private zip: ZipSink | null = null;
  private readonly sheets: XlsxOut[] = [];
  private readonly wanted = new Map<string, { readonly table: string; readonly title: string }>();
  private readonly words: (readonly string[])[] = [];

  /** `give` takes the file piece by piece. */
  constructor(
    private readonly give: (bytes: Uint8Array) => void | Promise<void>,
    /** The first sheet, where it is not that of tables. */
    private readonly about?: readonly (readonly TextCell[])[],
  ) {}

  nameAll(tables: readonly string[]): ReadonlyMap<string, string> {
    return sheetNames(tables, OWN_SHEETS);
  }

  async create(name: string, hints?: SheetHints): Promise<SheetOut> {
    this.zip ??= await openZipSink(this.give);
    const part = this.zip.part(partName(this.sheets.length + 1));
    const out = new XlsxOut(name, { hints: hints ?? null, lists: this }, part, await fingerprinter());
    this.sheets.push(out);
    return out;
  }

  ofColumn(table: string, title: string): string {
    const known = [...this.wanted].find(([, one]) => one.table === table && one.title === title);
    const name = known?.[0] ?? `keys_${this.wanted.size + 1}`;
    this.wanted.set(name, { table, title });
    return name;
  }

  ofWords(words: readonly string[]): string {
    const same = this.words.findIndex((one) => one.join("\n") === words.join("\n"));
    return `words_${same < 0 ? this.words.push(words) : same + 1}`;
  }

  async finish(receipt: Receipt): Promise<void> {
    const zip = (this.zip ??= await openZipSink(this.give));
    const count = this.sheets.length;
    const put = async (path: string, xml: string): Promise<void> => {
      const part = zip.part(path);
      await part.write(encode(xml.startsWith("<?xml") ? xml : `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n${xml}`));
      await part.close();
    };
    const hints = this.sheets.map((sheet) => ({ name: sheet.name, rows: sheet.rows - 1, hints: sheet.hints, columns: sheet.columns }));
    await put(
      partName(count + 1),
      textSheet(this.about ?? aboutRows(receipt, hints), this.about === undefined ? [26, 26, 18, 70] : [30, 70], true),
    );
    await put(
      partName(count + 2),
      textSheet(
        receiptTexts(receipt).map((text) => [{ text }]),
        [],
      ),
    );
    const longest = this.words.reduce((most, words) => Math.max(most, words.length), 0);
    const words = Array.from({ length: longest }, (_, i) => this.words.map((list) => ({ text: list[i] ?? "" })));
    await put(partName(count + 3), textSheet(words, []));
    const shown = [
      { name: ABOUT_SHEET, part: count + 1, state: "" },
      ...this.sheets.map(({ name }, i) => ({ name, part: i + 1, state: "" })),
      { name: RECEIPT_SHEET, part: count + 2, state: ' state="veryHidden"' },
      { name: WORDS_SHEET, part: count + 3, state: ' state="veryHidden"' },
    ];
    const all = shown.map(({ part }) => part);
    await put("xl/styles.xml", stylesPart());
    await put(
      "xl/workbook.xml",
      `<workbook ${NAMESPACE} xmlns:r="${RELATIONS}"><bookViews><workbookView activeTab="0"/></bookViews><sheets>${shown
        .map(({ name, part, state }, i) => `<sheet name="${escapeText(name)}" sheetId="${i + 1}"${state} r:id="rId${part}"/>`)
        .join("")}</sheets>${this.definedNames(
        shown.map(({ name }) => name),
        receipt,
      )}</workbook>`,
    );
    await put(
      "xl/_rels/workbook.xml.rels",
      `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">${all
        .map((n) => `<Relationship Id="rId${n}" Type="${RELATIONS}/worksheet" Target="worksheets/sheet${n}.xml"/>`)
        .join("")}<Relationship Id="rId${count + 4}" Type="${RELATIONS}/styles" Target="styles.xml"/></Relationships>`,
    );
    await put(
      "_rels/.rels",
      `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="${RELATIONS}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
    );
    await put(
      "[Content_Types].xml",
      `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="${TYPES}.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="${TYPES}.styles+xml"/>${all
        .map((n) => `<Override PartName="/${partName(n)}" ContentType="${TYPES}.worksheet+xml"/>`)
        .join("")}</Types>`,
    );
    await zip.close();
  }

  /** Ranges to choose from: with some room for rows that are added. */
  private definedNames(shown: readonly string[], receipt: Receipt): string {
    const names = [...this.wanted].flatMap(([name, { table, title }]) => {
      const sheet = this.sheets.find(({ hints }) => hints?.table === table);
      const column = sheet?.columns.findIndex((one) => one.title === title) ?? -1;
      return sheet === undefined || column < 0 ? [] : [[name, range(sheet.name, column, 2, sheet.rows + MORE_ROWS)]];
    });
    const words = this.words.map((list, i) => [`words_${i + 1}`, range(WORDS_SHEET, i, 1, list.length)]);
    const ofSheets = this.sheets.flatMap((sheet) => {
      const local = shown.indexOf(sheet.name);
      const filter = range(sheet.name, 0, 1, Math.max(1, sheet.rows), Math.max(0, sheet.columns.length - 1));
      return [
        { local, name: "_xlnm._FilterDatabase", text: filter },
        { local, name: SIGN_NAME, text: `"${signOf(receipt)}"` },
      ];
    });
    return `<definedNames>${[
      ...ofSheets.map(
        ({ local, name, text }) => `<definedName name="${name}" localSheetId="${local}" hidden="1">${escapeText(text)}</definedName>`,
      ),
      ...[...names, ...words].map(([name, text]) => `<definedName name="${name}">${escapeText(text)}</definedName>`),
    ].join("")}</definedNames>`;
  }
}

function partName(n: number): string {
  return `xl/worksheets/sheet${n}.xml`;
}

function range(sheet: string, column: number, from: number, to: number, lastColumn = column): string {
  return `'${sheet.replaceAll("'", "''")}'!$${columnName(column)}$${from}:$${columnName(lastColumn)}$${to}`;
}

function textSheet(rows: readonly (readonly TextCell[])[], widths: readonly number[], selected = false): string {
  const columns = widths.map((width, i) => `<col min="${i + 1}" max="${i + 1}" width="${width}" customWidth="1"/>`).join("");
  const cell = ({ text, look: name = "about" }: TextCell, place: string): string =>
    text === ""
      ? name === "about"
        ? ""
        : `<c r="${place}" s="${look(name)}"/>`
      : `<c r="${place}" s="${look(name)}" t="inlineStr"><is><t xml:space="preserve">${escapeText(text)}</t></is></c>`;
  const height = (row: readonly TextCell[]): string => (row[0]?.look === "heading" ? ' ht="24" customHeight="1"' : "");
  const written = rows.map(
    (row, i) => `<row r="${i + 1}"${height(row)}>${row.map((one, c) => cell(one, `${columnName(c)}${i + 1}`)).join("")}</row>`,
  );
  return `<worksheet ${NAMESPACE}><sheetViews><sheetView showGridLines="0"${selected ? ' tabSelected="1"' : ""} workbookViewId="0"/></sheetViews><sheetFormatPr defaultRowHeight="13.5"/>${
    columns === "" ? "" : `<cols>${columns}</cols>`
  }<sheetData>${written.join("")}</sheetData></worksheet>`;
}
