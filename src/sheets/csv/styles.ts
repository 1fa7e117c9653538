/** How tables are written for a kind of program: what stands between cells, the encoding, the sign before decimals. */
import { ByteWriter, concat, copied, decode, encode } from "../../bytes/writer.js";
import { CallError } from "../../errors/error.js";
import { nearest } from "../../errors/nearest.js";
import type { SheetHints } from "../container.js";
import { DelimitedScanner } from "./scan.js";
import type { CsvSheet } from "./sheet.js";
import { COMMA, CR, LF, writeCell } from "./write.js";

/** Kinds of programs. */
export const PROGRAMS = ["spreadsheet", "semicolon-spreadsheet", "tab-spreadsheet", "script"] as const;
export type Program = (typeof PROGRAMS)[number];

/** @throws {@link CallError} when there is none of that name */
export function programNamed(name: string): Program {
  const found = PROGRAMS.find((one) => one === name);
  if (found === undefined) throw new CallError("program-unknown", { name, nearest: nearest(name, PROGRAMS), known: PROGRAMS });
  return found;
}

export interface TextStyle {
  readonly delimiter: number;
  readonly isUtf16: boolean;
  readonly hasMark: boolean;
  /** Decimals of typed columns stand behind a comma. */
  readonly hasCommas: boolean;
  readonly ending: string;
}

const [SEMICOLON, TAB] = [0x3b, 0x09];
const NOTHING = new Uint8Array(0);
const BYTE_ORDER_MARK = encode("\ufeff");
const PLAIN: TextStyle = { delimiter: COMMA, isUtf16: false, hasMark: true, hasCommas: false, ending: ".csv" };

export const STYLES: Readonly<Record<Program, TextStyle>> = {
  spreadsheet: PLAIN,
  "semicolon-spreadsheet": { ...PLAIN, delimiter: SEMICOLON, hasCommas: true },
  "tab-spreadsheet": { ...PLAIN, delimiter: TAB, isUtf16: true, ending: ".tsv" },
  script: { ...PLAIN, hasMark: false },
};

/** Titles of columns whose numbers have decimals: not those of codes, which are the same in several tables. */
export function decimalTitles(hints: SheetHints | undefined): ReadonlySet<string> {
  const titles = new Set<string>();
  for (const { title, type, isKey, refers, choices } of hints?.columns.values() ?? [])
    if ((type === "decimal" || type === "number") && !isKey && refers === null && choices.length === 0) titles.add(title);
  return titles;
}

const [WITH_POINT, WITH_COMMA] = [/^[+-]?\d+\.\d+$/, /^[+-]?\d+,\d+$/];

/** Writes rows another way: whole rows go in. */
export class Respeller {
  private readonly out = new ByteWriter(1 << 16);
  private readonly cell = new ByteWriter(256);
  private readonly scanner: DelimitedScanner;
  private columns: ReadonlySet<number> | null = null;

  constructor(
    private readonly to: number,
    from: number,
    private readonly decimals: { readonly titles: ReadonlySet<string>; readonly sign: "." | "," },
    /** A title as the table has it. */
    private readonly titleOf: (cell: string) => string = (cell) => cell,
  ) {
    this.scanner = new DelimitedScanner(from, { row: (row) => this.row(row) });
  }

  /** The rows of these bytes; what is given holds until the next call. */
  write(bytes: Uint8Array): Uint8Array {
    this.out.clear();
    this.scanner.write(bytes);
    return this.out.bytes.subarray(0, this.out.length);
  }

  end(): Uint8Array {
    this.out.clear();
    this.scanner.end();
    return this.out.bytes.subarray(0, this.out.length);
  }

  private row(row: DelimitedScanner): void {
    const { out } = this;
    if (row.fault !== null) {
      // it is told when the row is read
      out.append(row.window, row.rowStart, row.rowEnd);
    } else if (!row.blank) {
      this.columns ??= new Set(row.texts().flatMap((title, c) => (this.decimals.titles.has(this.titleOf(title)) ? [c] : [])));
      for (let c = 0; c < row.cells; c++) {
        if (c > 0) out.byte(this.to);
        this.cell.clear();
        this.cell.text(this.columns.has(c) ? this.respelled(row.text(c)) : row.text(c));
        writeCell(out, this.cell.bytes, 0, this.cell.length);
      }
    }
    out.byte(CR);
    out.byte(LF);
  }

  private respelled(text: string): string {
    if (this.decimals.sign === ",") return WITH_POINT.test(text) ? text.replace(".", ",") : text;
    return WITH_COMMA.test(text) ? text.replace(",", ".") : text;
  }
}

/** Turns rows as they are written, a comma between cells and in UTF-8, into those of a style. */
export class Styler {
  private readonly respeller: Respeller | null;

  constructor(
    private readonly style: TextStyle,
    titles: ReadonlySet<string>,
  ) {
    const { delimiter, hasCommas } = style;
    this.respeller = delimiter === COMMA && !hasCommas ? null : new Respeller(delimiter, COMMA, { titles, sign: "," });
  }

  get begin(): Uint8Array {
    return this.style.hasMark ? this.encoded(BYTE_ORDER_MARK) : NOTHING;
  }

  /** What is given holds until the next call. */
  write(rows: Uint8Array): Uint8Array {
    return this.encoded(this.respeller?.write(rows) ?? rows);
  }

  end(): Uint8Array {
    return this.encoded(this.respeller?.end() ?? NOTHING);
  }

  private encoded(bytes: Uint8Array): Uint8Array {
    return this.style.isUtf16 ? inUtf16(bytes) : bytes;
  }
}

/** What {@link Styler} wrote with decimal commas, as it was before: in UTF-8, a comma between cells, a line for each. */
export async function unstyled(sheet: CsvSheet, titles: ReadonlySet<string>, titleOf: (cell: string) => string): Promise<Uint8Array> {
  const delimiter = await sheet.delimiter((title) => titles.has(titleOf(title)));
  const respeller = new Respeller(COMMA, delimiter, { titles, sign: "." }, titleOf);
  const pieces: Uint8Array[] = [];
  for await (const chunk of sheet.bytes.chunks()) pieces.push(copied(respeller.write(chunk)));
  pieces.push(copied(respeller.end()));
  return concat(pieces);
}

/** Little-endian. */
function inUtf16(bytes: Uint8Array): Uint8Array {
  const text = decode(bytes, 0, bytes.length);
  const out = new Uint8Array(2 * text.length);
  const view = new DataView(out.buffer);
  for (let i = 0; i < text.length; i++) view.setUint16(2 * i, text.charCodeAt(i), true);
  return out;
}
