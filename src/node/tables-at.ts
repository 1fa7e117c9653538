/** Tables on disk: a folder of files, or a workbook. */
import { realpath } from "node:fs/promises";
import { dirname } from "node:path";
import { concat, copied } from "../bytes/writer.js";
import type { ByteSource } from "../bytes/source.js";
import { containerOf, type Tables } from "../sheets/index.js";
import type { Receipt } from "../sheets/receipt.js";
import { Workbook } from "../sheets/xlsx/workbook.js";
import { closing, lookThrough, openFile } from "./files.js";
import { FolderTables } from "./folder-tables.js";

export interface TablesAt {
  readonly tables: Tables;
  /** What the receipt says of the source is seen from here. */
  readonly folder: string;
  readonly close: () => Promise<void>;
}

/** Is it the name of a workbook? */
export function isWorkbookName(path: string): boolean {
  return /\.xlsx$/i.test(path);
}

export async function openTables(path: string): Promise<TablesAt> {
  const info = await lookThrough(path);
  if (info?.isFile() !== true) {
    const tables = new FolderTables(path);
    return { tables, folder: path, close: () => tables.close() };
  }
  const bytes = await closing(await openFile(path), allOf);
  return { tables: new Workbook(bytes, path), folder: dirname(await realpath(path)), close: () => Promise.resolve() };
}

async function allOf(source: ByteSource): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  for await (const piece of source.chunks()) pieces.push(copied(piece));
  return concat(pieces);
}

/** The receipt of tables, and the folder from which it names the source. */
export async function receiptAt(path: string): Promise<{ receipt: Receipt; folder: string }> {
  const { tables, folder, close } = await openTables(path);
  try {
    return { receipt: await containerOf(tables).receipt(), folder };
  } finally {
    await close();
  }
}
