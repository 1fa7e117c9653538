/** The receipt: what was hatched from what. It is checked before anything is compared or folded. */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { TablesError } from "../errors/error.js";
import { isSheetFile } from "./csv/sheet-files.js";
import type { SourceSchema } from "../model/schema.js";
import type { TablesSource } from "./tables.js";

export const RECEIPT_FILE = "receipt.json";

export interface ReceiptTable {
  readonly name: string;
  readonly file: string;
  /** Rows written. */
  readonly rows: number;
  /** Records in the source. */
  readonly records: number;
  readonly titles: readonly string[];
  /** xxHash64 of the file as it was written. */
  readonly fingerprint: string;
  readonly where?: string;
  readonly sample?: number;
  /** Only some rows are here, as those that a fold refused: what has no row says nothing. */
  readonly part?: true;
  /** Titles of columns whose decimals stand behind a comma in the file. */
  readonly commas?: readonly string[];
}

export interface ReceiptFile {
  /** Its name in the set; for a source of one file, the path from the folder of the tables. */
  readonly file: string;
  readonly size: number;
  /** xxHash64 of all its bytes. */
  readonly fingerprint: string;
  readonly encoding: string;
  /** Name of the plan's source that it belongs to, where the plan has several. */
  readonly source?: string;
  /** Its format, where several sources may differ in it. */
  readonly format?: string;
}

export interface Receipt {
  readonly hatchfold: 1;
  readonly source: ReceiptFile & {
    readonly format: string;
    /** The files of a set; `file` is then the path to the folder or the archive that they are in, and the rest is of all of them. */
    readonly files?: readonly ReceiptFile[];
  };
  readonly plan: { readonly fingerprint: string; readonly text: string };
  readonly tables: readonly ReceiptTable[];
  /** The kind of program that the tables were written for, where it is not the usual one. */
  readonly program?: string;
  /** By which a fold is checked. */
  readonly schemas?: readonly SourceSchema[];
  /** Fingerprint of all the above. */
  readonly seal: string;
}

/** The files that were read. */
export function filesOf({ source }: Receipt): readonly ReceiptFile[] {
  return source.files ?? [source];
}

export type Unsealed = Omit<Receipt, "seal">;

export async function sealReceipt(receipt: Unsealed): Promise<Receipt> {
  return { ...receipt, seal: await fingerprint(encode(JSON.stringify(receipt))) };
}

export function printReceipt(receipt: Receipt): string {
  return `${JSON.stringify(receipt, null, 2)}\n`;
}

/** Reads a receipt and refuses one that was edited, or names sheets that the container (`isSheet`) could not have. */
export async function readReceipt(text: string, file: string, isSheet: (name: string) => boolean): Promise<Receipt> {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text.replace(/^\ufeff/, ""));
  } catch {
    throw new TablesError("receipt-broken", { file }, { file });
  }
  const { receiptShape } = await import("./receipt-schema.js");
  const found = receiptShape.safeParse(parsed);
  if (!found.success) {
    const { path, message } = found.error.issues[0];
    throw new TablesError("receipt-broken", { file, what: path.length === 0 ? undefined : `${path.join(" → ")}: ${message}` }, { file });
  }
  const strange = found.data.tables.findIndex((table) => !isSheet(table.file));
  if (strange >= 0)
    throw new TablesError("receipt-broken", { file, what: `tables → ${strange} → file: is not the name of a table's file` }, { file });
  const { seal, ...rest } = parsed as Receipt;
  if ((await sealReceipt(rest)).seal !== seal) throw new TablesError("receipt-edited", { file }, { file });
  return parsed as Receipt;
}

export async function loadReceipt(tables: TablesSource): Promise<Receipt> {
  const file = await tables.open(RECEIPT_FILE);
  if (file === null) throw new TablesError("receipt-missing", { tables: tables.name }, { file: tables.name });
  const bytes = await file.read(0, file.size);
  return readReceipt(new TextDecoder().decode(bytes), `${tables.name}/${RECEIPT_FILE}`, isSheetFile);
}
