/** Files: reading piece by piece, writing beside the target, flushing and renaming. */
import { randomBytes } from "node:crypto";
import { constants } from "node:fs";
import { access, open, mkdir, readdir, realpath, rename, rm, stat, type FileHandle } from "node:fs/promises";
import { basename, dirname, join } from "node:path";
import type { ByteSource } from "../bytes/source.js";
import { SourceError } from "../errors/error.js";
import type { TablesSink, TablesSource } from "../tables/containers.js";

const CHUNK = 1 << 18;
/** Bytes after which the disk is told to take what was written. */
const FLUSH = 1 << 24;
/** What names of files that are not finished yet contain. */
export const UNFINISHED = ".hatchfold-";

/** Says why the system refused, in words. */
export function systemReason(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  const words: Record<string, string> = {
    ENOENT: "there is no such file or folder",
    EACCES: "permission denied",
    EPERM: "not permitted",
    ENOSPC: "the disk is full",
    EDQUOT: "the disk quota is used up",
    EISDIR: "it is a folder",
    ENOTDIR: "a part of the path is not a folder",
    EROFS: "the file system is read-only",
    EMFILE: "too many files are open",
    ENAMETOOLONG: "the name is too long",
    EFBIG: "the file would be too large",
  };
  return words[code ?? ""] ?? message;
}

/** A source over a file. Open it with {@link openFile}, close it when done. */
export class FileSource implements ByteSource {
  constructor(
    readonly name: string,
    readonly size: number,
    private readonly handle: FileHandle,
  ) {}

  async read(start: number, end: number): Promise<Uint8Array> {
    // not set to zero first: only what was read is given
    const bytes = new Uint8Array(Buffer.allocUnsafeSlow(Math.max(0, Math.min(end, this.size) - start)).buffer);
    return bytes.subarray(0, await this.fill(bytes, start));
  }

  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    // two buffers: the next piece is read while this one is worked on. No Buffers: their slice() is no copy
    const buffers = [0, 1].map(() => new Uint8Array(Math.min(CHUNK, Math.max(1, this.size - start))));
    let at = start;
    let coming = this.fill(buffers[0], at);
    try {
      for (let turn = 0; ; turn ^= 1) {
        const got = await coming;
        if (got === 0) return;
        at += got;
        coming = this.fill(buffers[turn ^ 1], at);
        yield buffers[turn].subarray(0, got);
      }
    } finally {
      await coming.catch(() => 0);
    }
  }

  close(): Promise<void> {
    return this.handle.close();
  }

  private async fill(bytes: Uint8Array, at: number): Promise<number> {
    let got = 0;
    while (got < bytes.length) {
      const { bytesRead } = await this.handle.read(bytes, got, bytes.length - got, at + got);
      if (bytesRead === 0) break;
      got += bytesRead;
    }
    return got;
  }
}

/** Opens a file as a source; `name` is what messages call it. */
export async function openFile(path: string, name = path): Promise<FileSource> {
  try {
    const handle = await open(path, "r");
    const info = await handle.stat();
    if (info.isDirectory()) {
      await handle.close();
      throw new SourceError("file-is-folder", {}, { file: name });
    }
    return new FileSource(name, info.size, handle);
  } catch (error) {
    if (error instanceof SourceError) throw error;
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: name });
  }
}

/** A file being written: nothing stands at the target until {@link OutFile.commit}. */
export class OutFile {
  private constructor(
    readonly target: string,
    readonly temporary: string,
    private readonly handle: FileHandle,
  ) {}

  /** Bytes written since the disk was last told to take them, and whether it does. */
  private unflushed = 0;
  private flushing: Promise<void> = Promise.resolve();

  /** Begins beside the target (or beside what it links to), with the target's mode. */
  static async begin(path: string): Promise<OutFile> {
    try {
      const target = await realpath(path).catch(() => path);
      const there = await stat(target).catch(() => null);
      if (there?.isDirectory() === true) throw Object.assign(new Error("it is a folder"), { code: "EISDIR" });
      // a device or a pipe would be gone when the finished file takes its place
      if (there?.isFile() === false) throw new Error("it is a device or a pipe, not a file");
      const mode = there?.mode;
      if (mode !== undefined) await access(target, constants.W_OK);
      const temporary = join(dirname(target), `.${basename(target)}${UNFINISHED}${randomBytes(4).toString("hex")}`);
      const handle = await open(temporary, "wx", mode === undefined ? 0o666 : mode & 0o777);
      if (mode !== undefined) await handle.chmod(mode & 0o777);
      return new OutFile(target, temporary, handle);
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: path });
    }
  }

  async write(bytes: Uint8Array): Promise<void> {
    try {
      for (let at = 0; at < bytes.length;) at += (await this.handle.write(bytes, at, bytes.length - at)).bytesWritten;
      this.unflushed += bytes.length;
      if (this.unflushed >= FLUSH) this.flushBeside();
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: this.target });
    }
  }

  /** Lets the disk take what was written while more is. */
  private flushBeside(): void {
    this.unflushed = 0;
    this.flushing = this.flushing.then(() => this.handle.datasync());
    this.flushing.catch(() => undefined); // told when it is waited for
  }

  /** Flushes to the disk. */
  async finish(): Promise<void> {
    try {
      await this.flushing;
      await this.handle.sync();
      await this.handle.close();
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: this.target });
    }
  }

  async commit(): Promise<void> {
    try {
      await rename(this.temporary, this.target);
      await syncFolder(dirname(this.target));
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: this.target });
    }
  }

  async abandon(): Promise<void> {
    await this.flushing.catch(() => undefined);
    await this.handle.close().catch(() => undefined);
    await rm(this.temporary, { force: true });
  }
}

/** Makes a rename last through a power cut, where the system can. */
export async function syncFolder(folder: string): Promise<void> {
  try {
    const handle = await open(folder, "r");
    await handle.sync().finally(() => handle.close());
  } catch {
    // some systems cannot flush a folder; the rename itself has been done
  }
}

/** Writes a whole small file, all or nothing. */
export async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  const file = await OutFile.begin(path);
  try {
    await file.write(bytes);
    await file.finish();
    await file.commit();
  } catch (error) {
    await file.abandon();
    throw error;
  }
}

/** A folder of tables on disk. New tables appear all at once, when {@link FolderTables.commit} is called. */
export class FolderTables implements TablesSink, TablesSource {
  private readonly pending: OutFile[] = [];
  private readonly opened: FileSource[] = [];

  constructor(
    readonly folder: string,
    readonly name = folder,
  ) {}

  async create(file: string): Promise<{ write(bytes: Uint8Array): Promise<void>; close(): Promise<void> }> {
    try {
      await mkdir(this.folder, { recursive: true });
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: this.folder });
    }
    const out = await OutFile.begin(join(this.folder, file));
    this.pending.push(out);
    return { write: (bytes) => out.write(bytes), close: () => out.finish() };
  }

  async commit(): Promise<string[]> {
    for (const out of this.pending) await out.commit();
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
    if ((await stat(path).catch(() => null)) === null) return null;
    const source = await openFile(path, join(this.name, file));
    this.opened.push(source);
    return source;
  }

  async close(): Promise<void> {
    for (const source of this.opened.splice(0)) await source.close();
  }
}
