/**
 * Files being written: beside the target, flushed to the disk, then put in its place.
 *
 * The name of an unfinished file says which process of which machine writes it, so that one whose writer is gone can
 * be told from one that is being written, and is removed when the same target is written next.
 */
import { createHash, randomBytes } from "node:crypto";
import { constants, lstatSync } from "node:fs";
import { access, copyFile, link, open, readdir, realpath, rename, rm, unlink, type FileHandle } from "node:fs/promises";
import { hostname } from "node:os";
import { basename, dirname, join } from "node:path";
import { CallError, SourceError } from "../errors/error.js";
import { closing, lookAt, lookThrough, systemReason, there } from "./files.js";

/** Bytes after which the disk is told to take what was written. */
const FLUSH = 1 << 24;
/** What names of files that are not finished yet contain. */
export const UNFINISHED = ".hatchfold-";
/** So much of the target's name goes into that of the unfinished file: names have an end. */
const NAME = 40;

/** Names this machine, without telling others what it is called. */
export const HOST = createHash("sha256").update(hostname()).digest("hex").slice(0, 8);

/** A name that nobody else uses, for an unfinished file beside `base`. */
export function temporaryName(base: string): string {
  return `.${base.slice(0, NAME)}${UNFINISHED}${HOST}-${process.pid}-${randomBytes(6).toString("hex")}`;
}

/** Is it the name of an unfinished file beside `base`, as only this program makes them? */
export function isTemporaryOf(name: string, base: string): boolean {
  const start = `.${base.slice(0, NAME)}${UNFINISHED}`;
  return name.startsWith(start) && /^[0-9a-f]{8}-\d+-[0-9a-f]{12}$/.test(name.slice(start.length));
}

/** Does a process of this machine still run? */
export function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

function isLeftOver(name: string, base: string): boolean {
  if (!isTemporaryOf(name, base)) return false;
  const [host, pid] = name.slice(name.lastIndexOf(UNFINISHED) + UNFINISHED.length).split("-");
  return host === HOST && !isAlive(Number(pid));
}

/** Removes what a process that is gone left unfinished beside `target`. */
async function removeLeftOvers(target: string): Promise<void> {
  const names = await readdir(dirname(target)).catch(() => []);
  for (const name of names) {
    if (!isLeftOver(name, basename(target))) continue;
    const path = join(dirname(target), name);
    const info = await lookAt(path);
    if (info?.isFile() === true && isOurs(info)) await rm(path, { force: true }).catch(() => undefined);
  }
}

/** Does a file or folder belong to who runs this? Where the system has no owners, it does. */
export function isOurs({ uid }: { readonly uid: number | bigint }): boolean {
  return process.getuid === undefined || Number(uid) === process.getuid();
}

/** Where a path leads, also when nothing is there yet. */
export async function whereTo(path: string): Promise<string> {
  const real = await there(realpath(path), path);
  if (real !== null) return real;
  return join((await there(realpath(dirname(path)), path)) ?? dirname(path), basename(path));
}

export interface OutOptions {
  /** May a file that is there already be replaced? It may, unless said. */
  readonly replace?: boolean;
}

/** A file being written: nothing stands at the target until {@link OutFile.commit}. */
export class OutFile {
  private constructor(
    readonly target: string,
    readonly temporary: string,
    private readonly handle: FileHandle,
    private readonly replace: boolean,
  ) {}

  /** Bytes written since the disk was last told to take them, and whether it does. */
  private unflushed = 0;
  private flushing: Promise<void> = Promise.resolve();

  /** Begins beside the target (or beside what it links to), with the target's mode, owner and group where the system lets it. */
  static async begin(path: string, { replace = true }: OutOptions = {}): Promise<OutFile> {
    let made: OutFile | null = null;
    try {
      const target = await whereTo(path);
      const there = await lookThrough(target);
      if (there?.isDirectory() === true) throw Object.assign(new Error("it is a folder"), { code: "EISDIR" });
      // a device or a pipe would be gone when the finished file takes its place
      if (there?.isFile() === false) throw new Error("it is a device or a pipe, not a file");
      if (there !== null && !replace) throw new CallError("out-exists", { what: path });
      if (there !== null) await access(target, constants.W_OK);
      await removeLeftOvers(target);
      const temporary = join(dirname(target), temporaryName(basename(target)));
      const handle = await open(temporary, "wx", there === null ? 0o666 : there.mode & 0o777);
      made = new OutFile(target, temporary, handle, replace);
      if (there !== null) await takeAfter(handle, there);
      return made;
    } catch (error) {
      await made?.abandon();
      if (error instanceof CallError) throw error;
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: path });
    }
  }

  async write(bytes: Uint8Array): Promise<void> {
    try {
      for (let at = 0; at < bytes.length;) at += (await this.handle.write(bytes, at, bytes.length - at)).bytesWritten;
      this.unflushed += bytes.length;
      if (this.unflushed >= FLUSH) this.flushBeside();
    } catch (error) {
      throw this.unwritable(error);
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
      throw this.unwritable(error);
    }
  }

  /** Puts the finished file in its place. */
  async commit(): Promise<void> {
    try {
      if (this.replace) await rename(this.temporary, this.target);
      else await this.takePlace();
    } catch (error) {
      if (error instanceof CallError) throw error;
      throw this.unwritable(error);
    }
    await syncFolder(dirname(this.target));
  }

  /** Takes a place where nothing is, also when somebody else takes it at the same moment. */
  private async takePlace(): Promise<void> {
    try {
      await link(this.temporary, this.target);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === "EEXIST") throw new CallError("out-exists", { what: this.target });
      // no second names on this file system
      if (isThere(this.target)) throw new CallError("out-exists", { what: this.target });
      return rename(this.temporary, this.target);
    }
    await unlink(this.temporary).catch(() => undefined);
  }

  async abandon(): Promise<void> {
    await this.flushing.catch(() => undefined);
    await this.handle.close().catch(() => undefined);
    await rm(this.temporary, { force: true }).catch(() => undefined);
  }

  private unwritable(error: unknown): SourceError {
    return new SourceError("file-unwritable", { reason: systemReason(error) }, { file: this.target });
  }
}

function isThere(path: string): boolean {
  try {
    lstatSync(path);
    return true;
  } catch {
    return false;
  }
}

/** Mode, owner and group of the file that will be replaced; owner and group only where the system lets us. */
async function takeAfter(handle: FileHandle, there: { mode: number; uid: number; gid: number }): Promise<void> {
  const own = await handle.stat();
  if (own.uid !== there.uid || own.gid !== there.gid) {
    await handle.chown(there.uid, there.gid).catch(() => handle.chown(own.uid, there.gid).catch(() => undefined));
  }
  await handle.chmod(there.mode & 0o777);
}

/** Makes a rename last through a power cut, where the system can. */
export async function syncFolder(folder: string): Promise<void> {
  try {
    await closing(await open(folder, "r"), (handle) => handle.sync());
  } catch {
    // some systems cannot flush a folder; the rename itself has been done
  }
}

/** Writes a whole small file, all or nothing. */
export async function writeWhole(path: string, bytes: Uint8Array, options: OutOptions = {}): Promise<void> {
  const file = await OutFile.begin(path, options);
  try {
    await file.write(bytes);
    await file.finish();
    await file.commit();
  } catch (error) {
    await file.abandon();
    throw error;
  }
}

/** Keeps a file under a second name, which costs nothing; where there are no second names, as a copy. */
export async function keepCopy(path: string, copy: string): Promise<void> {
  try {
    await link(path, copy);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "EEXIST") throw error;
    await copyFile(path, copy, constants.COPYFILE_FICLONE | constants.COPYFILE_EXCL);
    await closing(await open(copy, "r+"), (handle) => handle.sync());
  }
}

/** Puts finished files in their places one after the other; when one cannot go there, those before it are taken back. */
export async function commitAll(outs: readonly OutFile[]): Promise<void> {
  const done: { readonly target: string; readonly kept: string | null }[] = [];
  try {
    for (const out of outs) {
      const kept = isThere(out.target) ? join(dirname(out.target), temporaryName(basename(out.target))) : null;
      if (kept !== null) await keepCopy(out.target, kept);
      done.push({ target: out.target, kept });
      await out.commit();
    }
  } catch (error) {
    for (const { target, kept } of done.reverse()) await (kept === null ? rm(target, { force: true }) : rename(kept, target));
    throw error instanceof CallError || error instanceof SourceError
      ? error
      : new SourceError("file-unwritable", { reason: systemReason(error) }, { file: outs[done.length]?.target ?? "" });
  }
  for (const { kept } of done) if (kept !== null) await rm(kept, { force: true }).catch(() => undefined);
}
