/** Writes cells back into a workbook that has been edited: other sheets, formats, notes and pictures stay as they are. */
import { rebuildArchive } from "../../bytes/archive.js";
import { fingerprint } from "../../bytes/hash.js";
import type { ByteSource } from "../../bytes/source.js";
import { openParts, type ZipPart } from "../../bytes/zip-parts.js";
import { concat, copied, decode, encode } from "../../bytes/writer.js";
import type { SheetRow } from "../container.js";
import type { Receipt } from "../receipt.js";
import { XlsxContainer } from "./container.js";
import { withTexts, type CellTexts } from "./edit.js";
import { signOf, SIGN_NAME } from "./names.js";
import { receiptTexts } from "./receipt-texts.js";

/** What rows of a sheet say now, by their numbers, in these columns (from 0). */
export interface RowTexts {
  readonly columns: readonly number[];
  readonly rows: ReadonlyMap<number, readonly string[]>;
}

export class XlsxRenewal {
  private readonly changed = new Map<string, Uint8Array | null>();
  private lostFormula = false;
  private readonly container: XlsxContainer;

  constructor(private readonly source: ByteSource) {
    this.container = new XlsxContainer(source);
  }

  /**
   * Puts these rows where the sheet has them; in others that hold something, these columns become blank. Gives the
   * fingerprint of the sheet.
   *
   * @param had - the rows of the sheet without the titles
   */
  async put(name: string, had: readonly SheetRow[], { columns, rows }: RowTexts): Promise<string> {
    const { path, part } = await this.container.found(name);
    const before = new Map(had.map(({ number, cells }) => [number, cells]));
    const texts = new Map<number, Map<number, string>>();
    for (const number of new Set([...before.keys(), ...rows.keys()])) {
      const cells = new Map<number, string>();
      for (const [i, column] of columns.entries()) {
        const now = rows.get(number)?.[i] ?? "";
        if (now !== (before.get(number)?.[column] ?? "")) cells.set(column, now);
      }
      if (cells.size > 0) texts.set(number, cells);
    }
    return this.edit(path, part, texts);
  }

  /** The workbook with all that was put, and this receipt. */
  async finish(receipt: Receipt): Promise<Uint8Array> {
    const { path, part } = await this.container.receiptSheet();
    const had = await this.container.receiptLines();
    const now = receiptTexts(receipt);
    const texts = new Map<number, Map<number, string>>();
    for (let i = 0; i < Math.max(had.length, now.length); i++) if (had[i] !== now[i]) texts.set(i + 1, new Map([[0, now.at(i) ?? ""]]));
    await this.edit(path, part, texts);
    await this.sign(receipt);
    if (this.lostFormula) await this.dropCalculations();
    return rebuildArchive(this.source, this.changed);
  }

  /** Its sheets are those of this receipt now. */
  private async sign(receipt: Receipt): Promise<void> {
    const { path, part } = (await this.container.book()).list;
    const names = new RegExp(`(<(?:\\w+:)?definedName\\s[^>]*name="${SIGN_NAME}"[^>]*>)[^<]*`, "g");
    this.changed.set(path, encode(decode(await bytesOf(part)).replace(names, `$1"${signOf(receipt)}"`)));
  }

  private async edit(path: string, part: ZipPart, texts: CellTexts): Promise<string> {
    const { bytes, lostFormula } = withTexts(await bytesOf(part), texts, this.source.name);
    this.lostFormula ||= lostFormula;
    if (texts.size > 0) this.changed.set(path, bytes);
    return fingerprint(bytes);
  }

  /** In which order formulas are worked out is a part that programs make anew where it is missing; one that names cells without formulas is taken for damage. */
  private async dropCalculations(): Promise<void> {
    const parts = await openParts(this.source);
    const mentions = /<(?:Relationship|Override)\s[^>]*calcChain[^>]*>/gi;
    for (const [path, part] of parts) {
      if (/\/calcChain\.xml$/i.test(path)) this.changed.set(path, null);
      else if (/workbook\.xml\.rels$|^\[Content_Types\]\.xml$/i.test(path))
        this.changed.set(path, encode(decode(await bytesOf(part)).replace(mentions, "")));
    }
  }
}

async function bytesOf(part: ZipPart): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  await part.read((piece) => void pieces.push(copied(piece)));
  return concat(pieces);
}
