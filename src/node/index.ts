/**
 * Files for Hatch Fold: the verbs on paths, with outputs that appear all at once, backups and undo.
 *
 * @packageDocumentation
 */
import { access } from "node:fs/promises";
import { basename, dirname, join, relative, resolve } from "node:path";
import { loadReceipt, type CompareOptions, type Comparison } from "../compare/compare.js";
import { TablesError } from "../errors/error.js";
import { compareWith, foldComparison, hatch, type Folded, type HatchInput, type Hatched } from "../verbs.js";
import { renamed, type ByteSource } from "../bytes/source.js";
import type { Receipt } from "../tables/receipt.js";
import { FolderTables, openFile, OutFile } from "./files.js";
import { fileFingerprint, lastFold, replaceWithBackup } from "./journal.js";

export { FileSource, FolderTables, openFile } from "./files.js";
export { undoFold, type JournalEntry } from "./journal.js";

/** Takes the tables of a file (or of any source) into a folder; the folder gets all files or none. */
export async function hatchInto(
  source: string | ByteSource,
  folder: string,
  options: HatchInput = {},
): Promise<Hatched & { written: string[] }> {
  const input = typeof source === "string" ? await openFile(source) : source;
  const into = new FolderTables(folder);
  try {
    const sourceFile = typeof source === "string" ? relative(resolve(folder), resolve(source)) : input.name;
    const hatched = await hatch(renamed(input, basename(input.name)), { ...options, into, sourceFile });
    return { ...hatched, written: await into.commit() };
  } catch (error) {
    await into.abandon();
    throw error;
  } finally {
    if (typeof source === "string") await (input as Awaited<ReturnType<typeof openFile>>).close();
  }
}

export interface FolderInput extends CompareOptions {
  /** The source, when it is not where the receipt says. */
  readonly source?: string;
  /** Plan text, when it is not the one in the receipt. */
  readonly plan?: string;
}

/** Path of the source of a folder of tables. */
export async function sourceOf(folder: string, receipt: Receipt, said?: string): Promise<string> {
  const path = said ?? resolve(folder, receipt.source.file);
  try {
    await access(path);
  } catch {
    throw new TablesError("source-not-found", { file: said ?? receipt.source.file }, { file: folder });
  }
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
  const source = await openFile(path, options.source ?? basename(path));
  try {
    return await use(await refuseFolded(compareWith(tables, { ...options, source }), path, folder), path);
  } finally {
    await source.close();
    await tables.close();
  }
}

/** A source that these very tables were folded into before gets words of its own. */
async function refuseFolded(comparison: Promise<Comparison>, path: string, folder: string): Promise<Comparison> {
  try {
    return await comparison;
  } catch (error) {
    if (error instanceof TablesError && error.code === "source-changed") {
      const last = await lastFold(path);
      if (last !== null && resolve(dirname(path), last.tables) === resolve(folder)) {
        throw new TablesError("source-folded", { file: basename(path), when: last.time.slice(0, 16).replace("T", " ") }, error.place);
      }
    }
    throw error;
  }
}

export interface FoldTarget {
  /** Where the result goes. */
  readonly out?: string;
  /** Replace the source, with a backup and a way back. */
  readonly inPlace?: boolean;
  readonly partial?: boolean;
}

/** Folds a comparison into a file. Nothing stands at the target unless all went well. */
export async function foldInto(
  comparison: Comparison,
  source: string,
  folder: string,
  target: FoldTarget,
): Promise<Folded & { written: string[]; backup: string | null }> {
  const path = target.inPlace === true ? source : target.out!;
  if (target.inPlace !== true && resolve(path) === resolve(source)) throw new TablesError("out-is-source", {}, { file: path });
  if (comparison.problems.length > 0 && target.partial !== true)
    return { ...(await foldComparison(comparison, {})), written: [], backup: null };
  const out = await OutFile.begin(path);
  try {
    const folded = await foldComparison(comparison, { partial: target.partial, sink: (bytes) => out.write(bytes) });
    await out.finish();
    if (target.inPlace === true) {
      if (folded.unchanged) {
        await out.abandon();
        return { ...folded, written: [], backup: null };
      }
      const before = comparison.packed === null ? comparison.receipt.source.fingerprint : await fileFingerprint(source);
      const entry = await replaceWithBackup(out, before, folded.fingerprint, resolve(folder));
      return { ...folded, written: [path], backup: join(dirname(path), entry.backup) };
    }
    await out.commit();
    return { ...folded, written: [path], backup: null };
  } catch (error) {
    await out.abandon();
    throw error;
  }
}
