/**
 * Files for Hatch Fold: the verbs on paths, with outputs that appear all at once, backups and undo.
 *
 * @packageDocumentation
 */
import { mkdir, readdir, rename, rm, stat } from "node:fs/promises";
import { basename, dirname, join, relative, resolve } from "node:path";
import { loadReceipt, type CompareOptions, type Comparison } from "../compare/compare.js";
import { CallError, phrase, SourceError, TablesError } from "../errors/error.js";
import { compareWith, foldComparison, hatch, type Folded, type HatchInput, type Hatched } from "../verbs.js";
import type { ByteSource } from "../bytes/source.js";
import type { Receipt } from "../tables/receipt.js";
import { FolderTables, OutFile, systemReason, UNFINISHED } from "./files.js";
import { fileFingerprint, lastFold, recover, replaceWithBackup, type Replacement } from "./journal.js";
import { openHatched, openPaths, openSources, type OpenedPaths } from "./sources.js";

export { FileSource, FolderTables, openFile } from "./files.js";
export { undoFold, type JournalEntry, type JournalFile } from "./journal.js";
export { renewTables } from "./renew.js";
export { openPaths, openSources, type OpenedPaths } from "./sources.js";

/**
 * Takes the tables of a file (or of any source) into a folder; the folder gets all files or none.
 *
 * @param source - a path, several of files of one kind, for a plan with several sources those of each name, or a source that was opened
 */
export async function hatchInto(
  source: Paths | ByteSource,
  folder: string,
  options: HatchInput = {},
): Promise<Hatched & { written: string[] }> {
  const opened = await openGiven(source);
  const into = new FolderTables(folder);
  try {
    const input = opened?.sources ?? (source as ByteSource);
    const sourceFile = opened === null ? (source as ByteSource).name : relative(resolve(folder), resolve(opened.path));
    const hatched = await hatch(input, { ...options, into, sourceFile });
    return { ...hatched, written: await into.commit() };
  } catch (error) {
    await into.abandon();
    throw error;
  } finally {
    await opened?.close();
  }
}

type Paths = string | readonly string[] | ReadonlyMap<string, readonly string[]>;

async function openGiven(source: Paths | ByteSource): Promise<OpenedPaths | null> {
  if (typeof source === "string") return openPaths([source]);
  if (source instanceof Map) return openSources(source as ReadonlyMap<string, readonly string[]>);
  return Array.isArray(source) ? openPaths(source as readonly string[]) : null;
}

export interface FolderInput extends CompareOptions {
  /** The source, when it is not where the receipt says: a file, an archive or the folder of a set. */
  readonly source?: string;
  /** Plan text, when it is not the one in the receipt. */
  readonly plan?: string;
}

/** Path of the source of a folder of tables. */
export async function sourceOf(folder: string, receipt: Receipt, said?: string): Promise<string> {
  const path = said ?? resolve(folder, receipt.source.file);
  if ((await stat(path).catch(() => null)) === null)
    throw new TablesError("source-not-found", { file: said ?? receipt.source.file }, { file: folder });
  return path;
}

/** Compares a folder of tables with its source, and hands the comparison to `use` while the files are open. */
export async function withComparison<T>(
  folder: string,
  options: FolderInput,
  use: (comparison: Comparison, source: string) => Promise<T>,
): Promise<T> {
  const tables = new FolderTables(folder);
  const receipt = await loadReceipt(tables);
  const path = await sourceOf(folder, receipt, options.source);
  const recovered = await recover(path);
  const opened = await openHatched(path, receipt, options.source ?? basename(path));
  try {
    const comparison = await refuseFolded(compareWith(tables, { ...options, source: opened.sources }), path, folder);
    const notes = recovered === null ? [] : [recoveredNote(recovered.finished)];
    return await use({ ...comparison, notes: [...notes, ...comparison.notes] }, path);
  } finally {
    await opened.close();
    await tables.close();
  }
}

function recoveredNote(finished: boolean): Comparison["notes"][number] {
  const code = finished ? "fold-finished" : "fold-dropped";
  return { code, table: "", message: phrase(code, {}).message };
}

/** A source that these very tables were folded into before gets words of its own. */
async function refuseFolded(comparison: Promise<Comparison>, path: string, folder: string): Promise<Comparison> {
  try {
    return await comparison;
  } catch (error) {
    if (error instanceof TablesError && error.code === "source-changed") {
      const last = await lastFold(path);
      if (last !== null && resolve(last.root, last.entry.tables) === resolve(folder)) {
        throw new TablesError("source-folded", { file: basename(path), when: last.entry.time.slice(0, 16).replace("T", " ") }, error.place);
      }
    }
    throw error;
  }
}

export interface FoldTarget {
  /** Where the result goes: a file, or for a set of files a new folder. */
  readonly out?: string;
  /** Replace the source, with a backup and a way back. */
  readonly inPlace?: boolean;
  readonly partial?: boolean;
}

export interface FoldedInto extends Folded {
  readonly written: string[];
  readonly backups: string[];
}

/** Folds a comparison into a file, or a set of them into a folder. Nothing stands at the target unless all went well. */
export async function foldInto(comparison: Comparison, source: string, folder: string, target: FoldTarget): Promise<FoldedInto> {
  if (target.inPlace !== true && resolve(target.out!) === resolve(source))
    throw new TablesError("out-is-source", {}, { file: target.out! });
  if (comparison.problems.length > 0 && target.partial !== true)
    return { ...(await foldComparison(comparison, {})), written: [], backups: [] };
  const isSet = comparison.receipt.source.files !== undefined && comparison.archive === null;
  if (!isSet) return foldOne(comparison, source, folder, target);
  return target.inPlace === true ? foldSetInPlace(comparison, source, folder, target) : foldSetInto(comparison, target);
}

async function foldOne(comparison: Comparison, source: string, folder: string, target: FoldTarget): Promise<FoldedInto> {
  const path = target.inPlace === true ? source : target.out!;
  const out = await OutFile.begin(path);
  try {
    const folded = await foldComparison(comparison, { partial: target.partial, sink: (bytes) => out.write(bytes) });
    await out.finish();
    if (target.inPlace !== true) {
      await out.commit();
      return { ...folded, written: [path], backups: [] };
    }
    if (folded.unchanged) {
      await out.abandon();
      return { ...folded, written: [], backups: [] };
    }
    const packed = comparison.archive !== null || comparison.parts[0].file.packed !== null;
    const before = packed ? await fileFingerprint(source) : comparison.receipt.source.fingerprint;
    const root = dirname(out.target);
    const entry = await replaceWithBackup([{ out, before, after: folded.fingerprint }], root, resolve(folder));
    return { ...folded, written: [path], backups: [join(root, entry.files[0].backup)] };
  } catch (error) {
    await out.abandon();
    throw error;
  }
}

/** Only files with changes are written, and all of them or none. */
async function foldSetInPlace(comparison: Comparison, source: string, folder: string, target: FoldTarget): Promise<FoldedInto> {
  const outs = new Map<string, OutFile>();
  let writing: OutFile | null = null;
  try {
    const folded = await foldComparison(comparison, {
      partial: target.partial,
      sinkFor: async (name, unchanged) => {
        await writing?.finish();
        writing = unchanged ? null : await OutFile.begin(join(source, name));
        if (writing === null) return null;
        outs.set(name, writing);
        const out = writing;
        return (bytes) => out.write(bytes);
      },
    });
    await (writing as OutFile | null)?.finish();
    if (folded.unchanged) return { ...folded, written: [], backups: [] };
    const replacements: Replacement[] = [];
    for (const [name, out] of outs) {
      const before = await fileFingerprint(join(source, name));
      replacements.push({ out, before, after: folded.files.find((file) => file.name === name)!.fingerprint });
    }
    const root = resolve(source);
    const entry = await replaceWithBackup(replacements, root, resolve(folder));
    return {
      ...folded,
      written: [...outs.keys()].map((name) => join(source, name)),
      backups: entry.files.map(({ backup }) => join(root, backup)),
    };
  } catch (error) {
    for (const out of outs.values()) await out.abandon();
    throw error;
  }
}

/** All files go into a folder that was not there, which appears when it is complete. */
async function foldSetInto(comparison: Comparison, target: FoldTarget): Promise<FoldedInto> {
  const path = resolve(target.out!);
  const there = await stat(path).catch(() => null);
  if (there !== null && (!there.isDirectory() || (await readdir(path)).length > 0))
    throw new CallError("out-folder", { folder: target.out! }, { file: target.out! });
  const unfinished = join(dirname(path), `.${basename(path)}${UNFINISHED}${process.pid}`);
  let writing: OutFile | null = null;
  const done = async (): Promise<void> => {
    await writing?.finish();
    await writing?.commit();
  };
  try {
    const folded = await foldComparison(comparison, {
      partial: target.partial,
      sinkFor: async (name) => {
        await done();
        await mkdir(dirname(join(unfinished, name)), { recursive: true });
        const out = (writing = await OutFile.begin(join(unfinished, name)));
        return (bytes) => out.write(bytes);
      },
    });
    await done();
    if (there !== null) await rm(path, { recursive: true });
    await rename(unfinished, path);
    return { ...folded, written: folded.files.map(({ name }) => join(target.out!, name)), backups: [] };
  } catch (error) {
    await rm(unfinished, { recursive: true, force: true });
    if (error instanceof Error && "syscall" in error)
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: target.out! });
    throw error;
  }
}
