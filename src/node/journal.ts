/**
 * The way back: a backup and a journal for every fold in place.
 *
 * Order of writing: the new file beside the source, the backup, the journal with the fold as planned,
 * then the rename. A process killed at any moment leaves the old file or the new one; what the journal
 * says of an unfinished fold is settled by the source's fingerprint when it is read next.
 */
import { constants } from "node:fs";
import { copyFile, link, mkdir, open, readFile, rm } from "node:fs/promises";
import { basename, dirname, join, relative } from "node:path";
import { fingerprinter } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { SourceError, TablesError } from "../errors/error.js";
import { openFile, OutFile, systemReason, writeWhole } from "./files.js";

const FOLDER = ".hatchfold";
const JOURNAL = "journal.json";

/** One fold in place. Paths are relative to the folder of the source. */
export interface JournalEntry {
  readonly file: string;
  readonly backup: string;
  /** Fingerprints of the file before and after. */
  readonly before: string;
  readonly after: string;
  /** ISO 8601, UTC. */
  readonly time: string;
  /** Path from the source's folder to the tables. */
  readonly tables: string;
}

export async function fileFingerprint(path: string): Promise<string> {
  const source = await openFile(path);
  try {
    const hash = await fingerprinter();
    for await (const chunk of source.chunks()) hash.update(chunk);
    return hash.digest();
  } finally {
    await source.close();
  }
}

export async function readJournal(sourcePath: string): Promise<JournalEntry[]> {
  try {
    return JSON.parse(await readFile(join(dirname(sourcePath), FOLDER, JOURNAL), "utf8")) as JournalEntry[];
  } catch {
    return [];
  }
}

async function writeJournal(sourcePath: string, entries: readonly JournalEntry[]): Promise<void> {
  await writeWhole(join(dirname(sourcePath), FOLDER, JOURNAL), encode(`${JSON.stringify(entries, null, 2)}\n`));
}

/** Replaces the source by the finished file `out`, keeping a backup. */
export async function replaceWithBackup(out: OutFile, before: string, after: string, tables: string): Promise<JournalEntry> {
  const path = out.target;
  const folder = join(dirname(path), FOLDER);
  const backup = join(folder, `${basename(path)}.${before}`);
  try {
    await mkdir(folder, { recursive: true });
    await keep(path, backup);
  } catch (error) {
    throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: backup });
  }
  const entry: JournalEntry = {
    file: basename(path),
    backup: relative(dirname(path), backup),
    before,
    after,
    time: new Date().toISOString(),
    tables: relative(dirname(path), tables),
  };
  await writeJournal(path, [...(await settled(path)), entry]);
  await out.commit();
  return entry;
}

/** A backup costs nothing where a second name can be given to the old file; elsewhere it is copied. */
async function keep(path: string, backup: string): Promise<void> {
  await rm(backup, { force: true });
  try {
    await link(path, backup);
  } catch {
    await copyFile(path, backup, constants.COPYFILE_FICLONE);
    const handle = await open(backup, "r+");
    await handle.sync().finally(() => handle.close());
  }
}

/** The journal without folds that never happened: planned, but killed before the rename. */
async function settled(path: string): Promise<JournalEntry[]> {
  const entries = await readJournal(path);
  const last = entries.findLast((entry) => entry.file === basename(path));
  if (last === undefined || last.before === last.after) return entries;
  return (await fileFingerprint(path)) === last.before ? entries.filter((entry) => entry !== last) : entries;
}

/** The newest fold of a file. */
export async function lastFold(path: string): Promise<JournalEntry | null> {
  return (await settled(path)).findLast((entry) => entry.file === basename(path)) ?? null;
}

/** Puts the file back as it was before the newest fold; refuses when it was changed since. */
export async function undoFold(path: string): Promise<JournalEntry> {
  const entries = await settled(path);
  const last = entries.findLast((entry) => entry.file === basename(path));
  if (last === undefined) throw new TablesError("undo-nothing", { file: path }, { file: path });
  if ((await fileFingerprint(path)) !== last.after) throw new TablesError("undo-changed", { file: path }, { file: path });
  const backup = join(dirname(path), last.backup);
  const intact = await fileFingerprint(backup).catch(() => "");
  if (intact !== last.before) throw new TablesError("undo-backup", { backup: last.backup }, { file: path });
  const out = await OutFile.begin(path);
  const source = await openFile(backup);
  try {
    for await (const chunk of source.chunks()) await out.write(chunk);
    await out.finish();
    await out.commit();
  } catch (error) {
    await out.abandon();
    throw error;
  } finally {
    await source.close();
  }
  const rest = entries.filter((entry) => entry !== last);
  await writeJournal(path, rest);
  if (!rest.some((entry) => entry.backup === last.backup)) await rm(backup, { force: true });
  return last;
}
