/**
 * The way back: backups and a journal for every fold in place, and for a fold over several files the
 * list of what is still to be done.
 *
 * One file: the new file beside the old one, the backup, the journal with the fold as planned, then the
 * rename. A process killed at any moment leaves the old file or the new one; what the journal says of a
 * fold that never happened is settled by the file's fingerprint when it is read next.
 *
 * Several files: the new files beside the old ones, the backups, the list of renames, the renames, the
 * journal; then the list goes. A list that is found later belongs to a process that was killed: when none
 * of its renames was done the fold is dropped, else it is finished. Either way it is all or nothing.
 */
import { constants, existsSync, renameSync } from "node:fs";
import { access, copyFile, link, mkdir, open, readFile, rm } from "node:fs/promises";
import { dirname, join, relative, resolve } from "node:path";
import { fingerprinter } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { SourceError, TablesError } from "../errors/error.js";
import { openFile, OutFile, syncFolder, systemReason, writeWhole } from "./files.js";

const FOLDER = ".hatchfold";
const JOURNAL = "journal.json";
const PENDING = "pending.json";

/** One file of a fold. Paths are relative to the folder of the journal. */
export interface JournalFile {
  readonly file: string;
  readonly backup: string;
  /** Fingerprints of the file before and after. */
  readonly before: string;
  readonly after: string;
}

/** One fold in place. */
export interface JournalEntry {
  readonly files: readonly JournalFile[];
  /** ISO 8601, UTC. */
  readonly time: string;
  /** Path from the journal's folder to the tables. */
  readonly tables: string;
}

/** Renames that belong together, and the journal when they are done. */
interface Pending {
  readonly renames: readonly { readonly from: string; readonly to: string }[];
  readonly journal: readonly JournalEntry[];
}

/** A file that is finished beside its target, with the fingerprints of what is there and what will be. */
export interface Replacement {
  readonly out: OutFile;
  readonly before: string;
  readonly after: string;
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

async function readJournal(root: string): Promise<JournalEntry[]> {
  try {
    return JSON.parse(await readFile(join(root, FOLDER, JOURNAL), "utf8")) as JournalEntry[];
  } catch {
    return [];
  }
}

async function writeJournal(root: string, entries: readonly JournalEntry[]): Promise<void> {
  await writeWhole(join(root, FOLDER, JOURNAL), encode(`${JSON.stringify(entries, null, 2)}\n`));
}

/** Replaces files in the folder `root` by finished ones, all or none, keeping a backup of each. */
export async function replaceWithBackup(replacements: readonly Replacement[], root: string, tables: string): Promise<JournalEntry> {
  const files: JournalFile[] = [];
  for (const { out, before, after } of replacements) {
    const file = relative(root, out.target);
    const backup = join(FOLDER, `${file.replaceAll(/[/\\]/g, "~")}.${before}`);
    try {
      await mkdir(join(root, FOLDER), { recursive: true });
      await keep(out.target, join(root, backup));
    } catch (error) {
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: join(root, backup) });
    }
    files.push({ file, backup, before, after });
  }
  const entry: JournalEntry = { files, time: new Date().toISOString(), tables: relative(root, tables) };
  const journal = [...(await settled(root)), entry];
  const [only] = replacements;
  if (replacements.length === 1) {
    await writeJournal(root, journal);
    await only.out.commit();
  } else {
    await commitTogether(
      replacements.map(({ out }) => out),
      root,
      journal,
    );
  }
  return entry;
}

/** Several renames as one: written down first, so that they can be finished if they are cut off. */
async function commitTogether(outs: readonly OutFile[], root: string, journal: readonly JournalEntry[]): Promise<void> {
  const renames = outs.map(({ temporary, target }) => ({ from: relative(root, temporary), to: relative(root, target) }));
  const pending: Pending = { renames, journal };
  await writeWhole(join(root, FOLDER, PENDING), encode(JSON.stringify(pending)));
  // somebody else may have taken this fold for one that was cut off, and dropped it
  if (!outs.every(({ temporary }) => existsSync(temporary))) throw new SourceError("fold-taken", {}, { file: root });
  await finish(root, pending);
}

/** What was renamed already is left alone: another process may finish the same fold at the same time. */
async function finish(root: string, { renames, journal }: Pending): Promise<void> {
  for (const { from, to } of renames) {
    try {
      // one right after the other: nothing else happens in between
      renameSync(join(root, from), join(root, to));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "ENOENT")
        throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: join(root, to) });
    }
  }
  for (const folder of new Set(renames.map(({ to }) => dirname(join(root, to))))) await syncFolder(folder);
  await writeJournal(root, journal);
  await rm(join(root, FOLDER, PENDING), { force: true });
}

/** Settles a fold over several files that was cut off, in this folder or one around it; says when there was one. */
export async function recover(path: string): Promise<{ readonly root: string; readonly finished: boolean } | null> {
  for (let root = resolve(path); ; root = dirname(root)) {
    const text = await readFile(join(root, FOLDER, PENDING), "utf8").catch(() => null);
    if (text !== null) {
      const pending = JSON.parse(text) as Pending;
      const waiting = await Promise.all(pending.renames.map(({ from }) => exists(join(root, from))));
      const begun = waiting.includes(false);
      if (begun) await finish(root, pending);
      else {
        await rm(join(root, FOLDER, PENDING), { force: true });
        for (const { from } of pending.renames) await rm(join(root, from), { force: true });
      }
      return { root, finished: begun };
    }
    if (dirname(root) === root) return null;
  }
}

function exists(path: string): Promise<boolean> {
  return access(path).then(
    () => true,
    () => false,
  );
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

/** The journal without a fold of one file that never happened: planned, but killed before the rename. */
async function settled(root: string): Promise<JournalEntry[]> {
  const entries = await readJournal(root);
  const gone = new Set<JournalEntry>();
  for (const name of new Set(entries.filter(({ files }) => files.length === 1).map(({ files }) => files[0].file))) {
    const last = entries.findLast(({ files }) => files.some(({ file }) => file === name));
    if (last?.files.length !== 1 || last.files[0].before === last.files[0].after) continue;
    const now = await fileFingerprint(join(root, name)).catch(() => "");
    if (now === last.files[0].before) gone.add(last);
  }
  return entries.filter((entry) => !gone.has(entry));
}

/** The newest fold of a file, or of files in a folder, with the folder of its journal. */
export async function lastFold(path: string): Promise<{ readonly entry: JournalEntry; readonly root: string } | null> {
  const target = resolve(path);
  for (let root = target; ; root = dirname(root)) {
    if (await exists(join(root, FOLDER, JOURNAL))) {
      const name = relative(root, target);
      const entry = (await settled(root)).findLast(({ files }) => name === "" || files.some(({ file }) => file === name));
      if (entry !== undefined) return { entry, root };
    }
    if (dirname(root) === root) return null;
  }
}

/** Puts a file, and those that were folded together with it, back as they were before the newest fold; refuses when one was changed since. */
export async function undoFold(path: string): Promise<JournalEntry> {
  await recover(path);
  const last = await lastFold(path);
  if (last === null) throw new TablesError("undo-nothing", { file: path }, { file: path });
  const { entry, root } = last;
  const at = (file: string): string => join(root, file);
  for (const { file, backup, before, after } of entry.files) {
    const place = { file: entry.files.length === 1 ? path : at(file) };
    if ((await fileFingerprint(at(file)).catch(() => "")) !== after) throw new TablesError("undo-changed", { file: place.file }, place);
    if ((await fileFingerprint(at(backup)).catch(() => "")) !== before) throw new TablesError("undo-backup", { backup }, place);
  }
  const outs: OutFile[] = [];
  const rest = (await settled(root)).filter(({ time }) => time !== entry.time);
  try {
    for (const { file, backup } of entry.files) {
      const out = await OutFile.begin(at(file));
      outs.push(out);
      await copyInto(at(backup), out);
    }
    if (outs.length === 1) {
      await outs[0].commit();
      await writeJournal(root, rest);
    } else await commitTogether(outs, root, rest);
  } catch (error) {
    for (const out of outs) await out.abandon();
    throw error;
  }
  const kept = new Set(rest.flatMap(({ files }) => files.map(({ backup }) => backup)));
  for (const { backup } of entry.files) if (!kept.has(backup)) await rm(at(backup), { force: true });
  return entry;
}

async function copyInto(path: string, out: OutFile): Promise<void> {
  const source = await openFile(path);
  try {
    for await (const chunk of source.chunks()) await out.write(chunk);
    await out.finish();
  } finally {
    await source.close();
  }
}
