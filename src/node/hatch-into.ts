/** hatch into a folder on disk, all files or none. */
import { mkdir } from "node:fs/promises";
import { dirname, join, relative, resolve } from "node:path";
import type { ByteSource } from "../bytes/source.js";
import { CallError, SourceError, TablesError } from "../errors/error.js";
import { hatch, type Hatched, type HatchInput } from "../hatch/hatch.js";
import type { TablesOut } from "../sheets/index.js";
import { RECEIPT_FILE } from "../sheets/receipt.js";
import { FolderTables, receiptOf, type MayWrite } from "./folder-tables.js";
import { fileFingerprint } from "./replace.js";
import { SameFiles } from "./same-files.js";
import { openPaths, openSources, type OpenedPaths } from "./sources.js";
import { lookAt, lookThrough, systemReason } from "./files.js";
import { OutFile } from "./out-file.js";
import { isWorkbookName, openTables } from "./tables-at.js";
import { XlsxContainer } from "../sheets/xlsx/container.js";
import { Workbook } from "../sheets/xlsx/workbook.js";

/** A path, several of files of one kind, or for a plan with several sources those of each name. */
export type Paths = string | readonly string[] | ReadonlyMap<string, readonly string[]>;

export interface HatchInto extends HatchInput {
  /** Replace files that are in the folder already, whoever made them; never the source or what is in `apart`. */
  readonly replace?: boolean;
  /** Files that must not be written over whatever `replace` says, such as the plan: what each is, and its path. */
  readonly apart?: readonly (readonly [what: string, path: string])[];
}

/**
 * Takes the tables of a file (or of any source) into a folder, or into a workbook (a path that ends in `.xlsx`); the folder
 * gets all files or none.
 *
 * Files that are there already are only replaced when they are tables as an earlier hatch wrote them, unless `replace` is said.
 *
 * @param source - a path, several of files of one kind, for a plan with several sources those of each name, or a source that was opened
 */
export async function hatchInto(
  source: Paths | ByteSource,
  folder: string,
  options: HatchInto = {},
): Promise<Hatched & { written: string[] }> {
  const { replace = false, apart = [], ...input } = options;
  const opened = await openGiven(source);
  try {
    const same = new SameFiles();
    for (const path of opened?.seen.keys() ?? []) await same.add("the source", path);
    for (const [what, path] of apart) await same.add(what, path);
    const sources = opened?.sources ?? (source as ByteSource);
    const sourceFile = opened === null ? (source as ByteSource).name : fromTables(folder, opened.path);
    return await tablesInto(folder, { same, replace }, (into) => hatch(sources, { ...input, into, sourceFile }));
  } finally {
    await opened?.close();
  }
}

/** The path of a source as the receipt of tables says it: from the folder that they are, or are in. */
export function fromTables(tables: string, source: string): string {
  return relative(isWorkbookName(tables) ? dirname(resolve(tables)) : resolve(tables), resolve(source));
}

/** What may not be written over: files of the call, and, unless that is said, what no hatch wrote. */
export interface Guard {
  readonly same: SameFiles;
  readonly replace: boolean;
}

/** Writes tables into a folder, all files or none, or into a workbook. */
export async function tablesInto<T extends object>(
  path: string,
  { same, replace }: Guard,
  write: (into: TablesOut) => Promise<T>,
): Promise<T & { written: string[] }> {
  if (isWorkbookName(path)) return workbookInto(path, { same, replace }, write);
  const into = new FolderTables(path, path, guardOf(same, replace ? null : await ownFiles(path)));
  try {
    const made = await write(into);
    return { ...made, written: await into.commit() };
  } catch (error) {
    await into.abandon();
    throw error;
  }
}

/** A workbook that is there already is replaced only when it is as a hatch wrote it, or that is said. */
async function workbookInto<T extends object>(
  path: string,
  { same, replace }: Guard,
  write: (workbook: Workbook) => Promise<T>,
): Promise<T & { written: string[] }> {
  await same.refuse("the workbook", path);
  if ((await lookAt(path))?.isSymbolicLink() === true) throw new CallError("out-link", {}, { file: path });
  await mkdir(dirname(resolve(path)), { recursive: true }).catch((error: unknown) => {
    throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: dirname(path) });
  });
  const out = await OutFile.begin(path, { replace: replace || (await isOwnWorkbook(path)) });
  try {
    const made = await write(new Workbook(undefined, path, (bytes) => out.write(bytes)));
    await out.finish();
    await out.commit();
    return { ...made, written: [path] };
  } catch (error) {
    await out.abandon();
    throw error;
  }
}

/** @throws {@link CallError} when it was edited since it was hatched */
async function isOwnWorkbook(path: string): Promise<boolean> {
  if ((await lookThrough(path))?.isFile() !== true) return false;
  const { tables } = await openTables(path);
  const container = new XlsxContainer((tables as Workbook).source);
  const isEdited = await container.isEdited().catch(unlessBroken);
  if (isEdited === true) throw new CallError("out-edited", { file: path });
  return isEdited === false;
}

async function openGiven(source: Paths | ByteSource): Promise<OpenedPaths | null> {
  if (typeof source === "string") return openPaths([source]);
  if (source instanceof Map) return openSources(source as ReadonlyMap<string, readonly string[]>);
  return Array.isArray(source) ? openPaths(source as readonly string[]) : null;
}

/** The source is never written over, and what is not ours only when that is said (`owned` is then `null`). */
function guardOf(same: SameFiles, owned: ReadonlySet<string> | null): MayWrite {
  return async (path) => {
    await same.refuse("a table", path);
    if (owned === null || owned.has(path)) return;
    if ((await lookThrough(path)) !== null) throw new CallError("out-exists", { what: path });
  };
}

function unlessBroken(error: unknown): null {
  if (error instanceof TablesError || error instanceof SourceError) return null;
  throw error;
}

/** Files of the folder that are as a hatch wrote them. @throws {@link CallError} when they were edited since */
export async function ownFiles(folder: string): Promise<Set<string>> {
  const owned = new Set<string>();
  if ((await lookThrough(join(folder, RECEIPT_FILE))) === null) return owned;
  const receipt = await receiptOf(folder).catch(unlessBroken);
  if (receipt === null) throw new CallError("out-exists", { what: folder });
  for (const table of receipt.tables) {
    const path = join(folder, table.file);
    if ((await lookThrough(path)) === null) continue;
    if ((await fileFingerprint(path)) !== table.fingerprint) throw new CallError("out-edited", { file: path });
    owned.add(path);
  }
  return owned.add(join(folder, RECEIPT_FILE));
}
