/** Files that are read, piece by piece. */
import { constants, type Stats } from "node:fs";
import { lstat, open, stat, type FileHandle } from "node:fs/promises";
import type { ByteSource } from "../bytes/source.js";
import { SourceError } from "../errors/error.js";

const CHUNK = 1 << 18;

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
    EIO: "the disk or the network failed",
    EBUSY: "another program holds it open",
    ELOOP: "its links go round in a circle",
    ENXIO: "it is a device or a pipe that nobody answers at",
    EXDEV: "it is on another disk",
    ERR_INVALID_ARG_VALUE: "no file can have such a name",
  };
  return words[code ?? ""] ?? message;
}

/** Works with something that is open, and closes it whatever comes of the work. */
export async function closing<H extends { close(): Promise<void> }, T>(handle: H, work: (handle: H) => Promise<T>): Promise<T> {
  try {
    return await work(handle);
  } finally {
    await handle.close();
  }
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
    // a piece that cannot be read is told of when it is waited for
    const begin = (turn: number): Promise<number> => {
      const coming = this.fill(buffers[turn], at);
      coming.catch(() => undefined);
      return coming;
    };
    let coming = begin(0);
    try {
      for (let turn = 0; ; turn ^= 1) {
        const got = await coming;
        if (got === 0) return;
        at += got;
        coming = begin(turn ^ 1);
        yield buffers[turn].subarray(0, got);
      }
    } finally {
      await coming.catch(() => 0);
    }
  }

  close(): Promise<void> {
    return this.handle.close();
  }

  private async piece(bytes: Uint8Array, to: number, at: number): Promise<number> {
    try {
      return (await this.handle.read(bytes, to, bytes.length - to, at)).bytesRead;
    } catch (error) {
      throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: this.name });
    }
  }

  private async fill(bytes: Uint8Array, at: number): Promise<number> {
    let got = 0;
    while (got < bytes.length) {
      const bytesRead = await this.piece(bytes, got, at + got);
      if (bytesRead === 0) break;
      got += bytesRead;
    }
    return got;
  }
}

/**
 * What is at a path, links not followed; `null` when nothing is. Not to know is another thing than that nothing is there.
 *
 * @throws {@link SourceError} when the system does not say
 */
export function lookAt(path: string): Promise<Stats | null> {
  return there(lstat(path), path);
}

/** The same of what links lead to. */
export function lookThrough(path: string): Promise<Stats | null> {
  return there(stat(path), path);
}

/** Nothing where nothing is. @throws {@link SourceError} when the system does not say */
export async function there<T>(asked: Promise<T>, path: string): Promise<T | null> {
  try {
    return await asked;
  } catch (error) {
    if (["ENOENT", "ENOTDIR"].includes((error as NodeJS.ErrnoException).code ?? "")) return null;
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: path });
  }
}

/** Which file it is, and in what state: a file that was written or replaced since has another one. */
export interface Identity {
  readonly dev: bigint;
  readonly ino: bigint;
  readonly size: bigint;
  readonly mtimeNs: bigint;
}

export function isSameFile(a: Identity, b: Identity): boolean {
  return a.dev === b.dev && a.ino === b.ino && a.size === b.size && a.mtimeNs === b.mtimeNs;
}

/** @throws {@link SourceError} when there is no plain file */
export async function identityOf(path: string): Promise<Identity> {
  try {
    const info = await stat(path, { bigint: true });
    refuseOther(info, path);
    return info;
  } catch (error) {
    if (error instanceof SourceError) throw error;
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: path });
  }
}

/** Opens a file as a source; `name` is what messages call it. Devices and pipes are refused: they have no places to go back to. */
export async function openFile(path: string, name = path): Promise<FileSource> {
  const { handle, size } = await openHandle(path, name);
  return new FileSource(name, size, handle);
}

function refuseOther(info: { isDirectory(): boolean; isFile(): boolean }, name: string): void {
  if (info.isDirectory()) throw new SourceError("file-is-folder", {}, { file: name });
  if (!info.isFile()) throw new SourceError("file-is-device", {}, { file: name });
}

/** @throws {@link SourceError} when there is no plain file */
export async function openHandle(path: string, name: string): Promise<{ readonly handle: FileHandle; readonly size: number }> {
  let handle: FileHandle | null = null;
  try {
    // a pipe would wait for somebody to write into it
    handle = await open(path, constants.O_RDONLY | (constants.O_NONBLOCK ?? 0));
    const info = await handle.stat();
    refuseOther(info, name);
    return { handle, size: info.size };
  } catch (error) {
    await handle?.close().catch(() => undefined);
    if (error instanceof SourceError) throw error;
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: name });
  }
}
