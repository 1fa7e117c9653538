/** A folder of tables on disk. */
import { mkdir, readdir } from "node:fs/promises";
import { join } from "node:path";
import type { ByteSource } from "../bytes/source.js";
import { CallError, SourceError } from "../errors/error.js";
import type { TablesSink, TablesSource } from "../sheets/tables.js";
import { loadReceipt, type Receipt } from "../sheets/receipt.js";
import { closing, type FileSource, lookAt, openFile, systemReason } from "./files.js";
import { commitAll, OutFile } from "./out-file.js";

/** The receipt of a folder of tables. */
export async function receiptOf(folder: string): Promise<Receipt> {
  return closing(new FolderTables(folder), loadReceipt);
}

/** Says whether a file of the folder may be written; throws when it may not. */
export type MayWrite = (path: string) => Promise<void>;

/** New tables appear when {@link FolderTables.commit} is called, all or none. */
export class FolderTables implements TablesSink, TablesSource {
  private readonly pending: OutFile[] = [];
  private readonly opened: FileSource[] = [];

  constructor(
    readonly folder: string,
    readonly name = folder,
    private readonly mayWrite?: MayWrite,
  ) {}

  async create(file: string): Promise<{ write(bytes: Uint8Array): Promise<void>; close(): Promise<void> }> {
    const path = join(this.folder, file);
    try {
      await mkdir(this.folder, { recursive: true });
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: this.folder });
    }
    const there = await lookAt(path);
    // what it leads to is a file of somebody else's
    if (there?.isSymbolicLink() === true) throw new CallError("out-link", {}, { file: path });
    await this.mayWrite?.(path);
    const out = await OutFile.begin(path);
    this.pending.push(out);
    return { write: (bytes) => out.write(bytes), close: () => out.finish() };
  }

  async commit(): Promise<string[]> {
    await commitAll(this.pending);
    return this.pending.splice(0).map((out) => out.target);
  }

  async abandon(): Promise<void> {
    for (const out of this.pending.splice(0)) await out.abandon();
  }

  async files(): Promise<readonly string[]> {
    try {
      return (await readdir(this.folder)).sort();
    } catch (error) {
      throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: this.name });
    }
  }

  async open(file: string): Promise<ByteSource | null> {
    const path = join(this.folder, file);
    if ((await lookAt(path)) === null) return null;
    const source = await openFile(path, join(this.name, file));
    this.opened.push(source);
    return source;
  }

  async close(): Promise<void> {
    for (const source of this.opened.splice(0)) await source.close();
  }
}
