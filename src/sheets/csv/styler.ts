/** Rows as some programs want them: another sign between cells, decimal commas, UTF-16. Loaded when there are such. */
import { ByteWriter, concat, copied, decode } from "../../bytes/writer.js";
import { DelimitedScanner } from "./scan.js";
import type { CsvSheet } from "./sheet.js";
import type { TextStyle } from "./styles.js";
import { COMMA, CR, LF, writeCell } from "./write.js";

const NOTHING = new Uint8Array(0);
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

  /** What is given holds until the next call. */
  write(rows: Uint8Array): Uint8Array {
    return this.encoded(this.respeller?.write(rows) ?? rows);
  }

  end(): Uint8Array {
    return this.encoded(this.respeller?.end() ?? NOTHING);
  }

  encoded(bytes: Uint8Array): Uint8Array {
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
