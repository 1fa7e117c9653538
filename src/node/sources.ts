/** Sources by their paths: a file, a folder, an archive, a pattern of names, or several of these. */
import { readdir, readFile, realpath, stat, type FileHandle } from "node:fs/promises";
import { basename, dirname, join, relative, resolve, sep } from "node:path";
import { glob, isDynamicPattern } from "tinyglobby";
import { isArchive } from "../bytes/archive.js";
import { MemorySource, renamed, type ByteSource } from "../bytes/source.js";
import { SourceError, TablesError } from "../errors/error.js";
import { openFiles, type SourceFiles } from "../source/files.js";
import { RECEIPT_FILE, type Receipt } from "../sheets/receipt.js";
import { FileSource, type Identity, identityOf, lookThrough, openFile, openHandle, systemReason } from "./files.js";

/** Sources that were opened; close them when done. */
export interface OpenedPaths {
  readonly sources: SourceFiles;
  /** The file, the archive, or the folder that all files are in. */
  readonly path: string;
  /** Each file as it was when it was opened, by its path. */
  readonly seen: ReadonlyMap<string, Identity>;
  readonly close: () => Promise<void>;
}

/** One file as it is; anything else as a set of files. */
export async function openPaths(paths: readonly string[]): Promise<OpenedPaths> {
  const [only] = paths;
  const info = await lookThrough(only);
  if (paths.length === 1 && info?.isDirectory() !== true && (info !== null || !isDynamicPattern(only))) {
    if (info?.isFIFO() === true) return fromPipe(only);
    const seen = new Map([[only, await identityOf(only)]]);
    const source = await openFile(only);
    const close = (): Promise<void> => source.close();
    return { sources: await closing(source, openFiles(renamed(source, basename(only)))), path: only, seen, close };
  }
  const { files, mixed, links } = await filesAt(paths);
  const root = paths.length === 1 && info?.isDirectory() === true ? only : commonFolder(files);
  const opened = await openTogether(root, [...new Set(files.map((file) => nameIn(root, file)))], mixed);
  return { ...opened, sources: { ...opened.sources, links: links.map((link) => nameIn(root, link)) } };
}

/** What another program writes into a pipe: all of it, as it is gone when it has been read. */
async function fromPipe(path: string): Promise<OpenedPaths> {
  try {
    const source = new MemorySource(new Uint8Array(await readFile(path)), basename(path));
    return { sources: await openFiles(source), path, seen: new Map(), close: () => Promise.resolve() };
  } catch (error) {
    if (error instanceof SourceError) throw error;
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: path });
  }
}

/** The sources of a plan that has several, by their names in it. */
export async function openSources(paths: ReadonlyMap<string, readonly string[]>): Promise<OpenedPaths> {
  const of = new Map<string, string>();
  for (const [source, named] of paths) {
    for (const file of (await filesAt(named)).files) {
      const other = of.get(resolve(file));
      if (other !== undefined && other !== source) throw new SourceError("source-twice", { sources: [other, source] }, { file });
      of.set(resolve(file), source);
    }
  }
  const root = commonFolder([...of.keys()]);
  const names = new Map([...of].map(([file, source]) => [nameIn(root, file), source]));
  return belonging(await openTogether(root, [...names.keys()], true), names);
}

/** Says of each file which source of the plan it belongs to. */
function belonging(opened: OpenedPaths, names: ReadonlyMap<string, string | undefined>): OpenedPaths {
  const files = opened.sources.files.map((file, i) => ({ ...file, of: [...names.values()][i] }));
  return { ...opened, sources: { ...opened.sources, files } };
}

/** The files that these paths name, each once. */
export async function filesAt(paths: readonly string[]): Promise<Found> {
  const { files, mixed, links } = await allAt(paths);
  const once = new Map<string, string>();
  for (const file of files) {
    const real = await realpath(file).catch(() => resolve(file));
    if (!once.has(real)) once.set(real, file);
  }
  return { files: [...once.values()], mixed, links };
}

interface Found {
  readonly files: string[];
  /** Nobody named them one by one. */
  readonly mixed: boolean;
  /** Links in folders. */
  readonly links: string[];
}

async function allAt(paths: readonly string[]): Promise<Found> {
  const files: string[] = [];
  const links: string[] = [];
  let mixed = false;
  for (const path of paths) {
    const there = await lookThrough(path);
    if (there?.isDirectory() === true) {
      mixed = true;
      for (const file of await filesIn(path)) files.push(file);
      for (const link of await linksIn(path)) links.push(link);
    } else if (there === null && isDynamicPattern(path)) for (const file of await matching(path)) files.push(file);
    else files.push(path);
  }
  return { files, mixed, links };
}

function nameIn(root: string, file: string): string {
  return relative(root, file).split(sep).join("/");
}

/** The files of a folder that have these names. */
export async function openTogether(root: string, names: readonly string[], mixed: boolean): Promise<OpenedPaths> {
  const handles = new Handles();
  const sources: ByteSource[] = [];
  const seen = new Map<string, Identity>();
  for (const name of names) {
    const path = join(root, name);
    const identity = await identityOf(path);
    seen.set(path, identity);
    const source = new PathSource(name, Number(identity.size), path, handles);
    if (await isArchive(source)) throw new SourceError("zip-in-set", {}, { file: path });
    sources.push(source);
  }
  if (sources.length === 0) throw new SourceError("set-empty", {}, { file: root });
  const opened = await openFiles(sources, basename(resolve(root)));
  return { sources: { ...opened, mixed }, path: root, seen, close: () => handles.close() };
}

async function closing<T>(source: FileSource, opening: Promise<T>): Promise<T> {
  try {
    return await opening;
  } catch (error) {
    await source.close();
    throw error;
  }
}

/** Files in a folder and in folders below it; hidden ones, links, and tables that were hatched are passed over. */
async function filesIn(folder: string): Promise<string[]> {
  const names = await glob("**/*", { cwd: folder, onlyFiles: true, followSymbolicLinks: false });
  const tables = new Set(names.filter((name) => basename(name) === RECEIPT_FILE).map((name) => dirname(name)));
  if (tables.has(".")) throw new SourceError("tables-as-source", {}, { file: folder });
  return names
    .filter((name) => !tables.has(dirname(name)))
    .sort()
    .map((name) => join(folder, name));
}

async function linksIn(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries
    .filter((entry) => entry.isSymbolicLink() && !entry.name.startsWith("."))
    .map((entry) => join(entry.parentPath, entry.name));
}

async function matching(pattern: string): Promise<string[]> {
  const names = (await glob(pattern.split(sep).join("/"), { onlyFiles: true })).sort();
  if (names.length === 0) throw new SourceError("file-unreadable", { reason: "no file has such a name" }, { file: pattern });
  return names;
}

function commonFolder(files: readonly string[]): string {
  const [first, ...rest] = files.map((file) => dirname(resolve(file)).split(sep));
  let length = first?.length ?? 0;
  for (const folder of rest) while (folder.slice(0, length).join(sep) !== first.slice(0, length).join(sep)) length--;
  return relative(process.cwd(), (first ?? []).slice(0, length).join(sep) || sep) || ".";
}

/** A file of a set: there may be more of them than a process may hold open. */
class PathSource implements ByteSource {
  constructor(
    readonly name: string,
    readonly size: number,
    private readonly path: string,
    private readonly handles: Handles,
  ) {}

  /** All of a small file, read once: a set may hold thousands of them. */
  private kept: Promise<Uint8Array> | null = null;

  private small(): Promise<Uint8Array> | null {
    if (this.kept === null && !this.handles.keeps(this.size)) return null;
    return (this.kept ??= this.whole());
  }

  private async whole(): Promise<Uint8Array> {
    const source = await openFile(this.path, this.name);
    try {
      if (source.size !== this.size) throw new TablesError("source-meanwhile", { file: this.path }, { file: this.path });
      return await source.read(0, source.size);
    } finally {
      await source.close();
    }
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    const small = this.small();
    if (small !== null) return (await small).subarray(start, end);
    return this.handles.use(this.path, (handle) => new FileSource(this.name, this.size, handle).read(start, end));
  }

  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    const small = this.small();
    if (small !== null) {
      const rest = (await small).subarray(start);
      if (rest.length > 0) yield rest;
      return;
    }
    const source = await openFile(this.path, this.name);
    try {
      yield* source.chunks(start);
    } finally {
      await source.close();
    }
  }
}

/** A few open files, for small reads here and there. */
class Handles {
  private static readonly MOST = 32;
  /** A file is small up to so many bytes, and so many bytes of small files are kept. */
  private static readonly SMALL = 1 << 16;
  private left = 1 << 25;
  private readonly opened = new Map<string, FileHandle>();
  private turn: Promise<unknown> = Promise.resolve();

  use<T>(path: string, work: (handle: FileHandle) => Promise<T>): Promise<T> {
    const next = this.turn.then(async () => work(await this.handle(path)));
    this.turn = next.catch(() => undefined);
    return next;
  }

  /** May a file of this size be kept in memory? */
  keeps(size: number): boolean {
    if (size > Handles.SMALL || size > this.left) return false;
    this.left -= size;
    return true;
  }

  async close(): Promise<void> {
    await this.turn;
    for (const handle of this.opened.values()) await handle.close();
    this.opened.clear();
  }

  private async handle(path: string): Promise<FileHandle> {
    const known = this.opened.get(path);
    if (known !== undefined) return known;
    const [[oldest, unused] = []] = this.opened;
    if (oldest !== undefined && this.opened.size >= Handles.MOST) {
      this.opened.delete(oldest);
      await unused!.close();
    }
    const { handle } = await openHandle(path, path);
    this.opened.set(path, handle);
    return handle;
  }
}

/** Opens what was hatched: of a folder only the files that the receipt names. */
export async function openHatched(path: string, receipt: Receipt, name: string): Promise<OpenedPaths> {
  const isFolder = (await stat(path)).isDirectory();
  if (!isFolder || receipt.source.files === undefined) {
    const opened = await openPaths([path]);
    const { sources } = opened;
    if (sources.set) return opened;
    return {
      ...opened,
      sources: { ...sources, name, files: sources.files.map((file) => ({ ...file, source: renamed(file.source, name) })) },
    };
  }
  const names = new Map(receipt.source.files.map(({ file, source }) => [file, source]));
  for (const file of names.keys()) {
    if ((await lookThrough(join(path, file))) === null)
      throw new TablesError("source-not-found", { file: relative(process.cwd(), join(path, file)) });
  }
  return belonging(await openTogether(path, [...names.keys()], false), names);
}
