/** Where tables are kept: a folder in memory here, a folder on disk in `hatch-fold/node`. */
import { MemorySource, type ByteSource } from "../bytes/source.js";
import { concat, copied } from "../bytes/writer.js";

/** Takes the tables as they are written. */
export interface TablesSink {
  /** Begins a file. Bytes are valid only during `write`. */
  create(file: string): Promise<{ write(bytes: Uint8Array): Promise<void>; close(): Promise<void> }>;
}

/** Gives the tables back. */
export interface TablesSource {
  readonly name: string;
  files(): Promise<readonly string[]>;
  /** The file, or `null` when it is not there. */
  open(file: string): Promise<ByteSource | null>;
}

/** A folder of tables in memory: file name to bytes. */
export class MemoryTables implements TablesSink, TablesSource {
  readonly contents = new Map<string, Uint8Array>();
  constructor(
    contents: Iterable<readonly [string, Uint8Array]> = [],
    readonly name = "tables",
  ) {
    for (const [file, bytes] of contents) this.contents.set(file, bytes);
  }
  create(file: string): Promise<{ write(bytes: Uint8Array): Promise<void>; close(): Promise<void> }> {
    const pieces: Uint8Array[] = [];
    return Promise.resolve({
      write: (bytes) => {
        pieces.push(copied(bytes));
        return Promise.resolve();
      },
      close: () => {
        this.contents.set(file, concat(pieces));
        return Promise.resolve();
      },
    });
  }
  files(): Promise<readonly string[]> {
    return Promise.resolve([...this.contents.keys()]);
  }
  open(file: string): Promise<ByteSource | null> {
    const bytes = this.contents.get(file);
    return Promise.resolve(bytes === undefined ? null : new MemorySource(bytes, file));
  }
  /** Text of a file. */
  text(file: string): string {
    return new TextDecoder().decode(this.contents.get(file));
  }
}
