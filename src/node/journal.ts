/** The way back: which folds were made in place, and undoing the newest. */
import { realpath, stat } from "node:fs/promises";
import { basename, join, relative } from "node:path";
import { TablesError } from "../errors/error.js";
import { identityOf, openFile } from "./files.js";
import { KeptFolder, rootOf, type JournalEntry } from "./kept-folder.js";
import { withLock } from "./lock.js";
import { OutFile } from "./out-file.js";
import { abandonAll, fileFingerprint, recover, replaceTogether, type Replacement, type Settled } from "./replace.js";

/** What undoing did. */
export interface Undone {
  /** The fold that was taken back; `null` when all there was to do was to settle one that had been cut off. */
  readonly entry: JournalEntry | null;
  readonly settled: Settled | null;
}

/** The newest fold of a file, or of files in a folder, as far as its journal can be read. */
export async function lastFold(path: string): Promise<{ readonly entry: JournalEntry; readonly root: string } | null> {
  try {
    const root = await rootOf(path);
    const kept = await KeptFolder.find(root);
    const entry = kept === null ? undefined : await newest(kept, path);
    return entry === undefined ? null : { entry, root };
  } catch {
    return null;
  }
}

async function newest(kept: KeptFolder, path: string): Promise<JournalEntry | undefined> {
  const journal = await kept.journal();
  const info = await stat(path);
  if (info.isDirectory()) return journal.at(-1);
  const name = relative(kept.root, await realpath(path));
  return journal.findLast(({ files }) => files.some(({ file }) => file === name));
}

/**
 * Puts a file, or the files of a folder that were folded together, back as they were before the newest fold; refuses
 * when one was changed since. Nothing but what `path` names is touched.
 */
export async function undoFold(path: string): Promise<Undone> {
  const root = await rootOf(path);
  const settled = await recover(root);
  // what was cut off is what the caller means: a fold that changed nothing is gone, and an undo that was finished is done
  if (settled !== null && (settled.verb === "fold") !== settled.finished && (await concerns(settled, root, path)))
    return { entry: null, settled };
  const kept = await KeptFolder.find(root);
  if (kept === null) throw new TablesError("undo-nothing", { file: path });
  return { entry: await withLock(kept, () => undoNewest(kept, path)), settled };
}

async function concerns({ files }: Settled, root: string, path: string): Promise<boolean> {
  return (await stat(path)).isDirectory() || files.includes(relative(root, await realpath(path)));
}

async function undoNewest(kept: KeptFolder, path: string): Promise<JournalEntry> {
  const { root } = kept;
  const entry = await newest(kept, path);
  if (entry === undefined) throw new TablesError("undo-nothing", { file: path });
  if (entry.files.length > 1 && !(await stat(path)).isDirectory())
    throw new TablesError("undo-together", { file: path, count: entry.files.length, folder: root }, { file: path });
  const at = (file: string): string => join(root, file);
  const replacements: Replacement[] = [];
  try {
    for (const { file, backup, before, after } of entry.files) {
      const place = { file: entry.files.length === 1 ? path : at(file) };
      if (!(await kept.holds(file))) throw new TablesError("undo-changed", { file: place.file }, place);
      const seen = await identityOf(at(file));
      if ((await fileFingerprint(at(file))) !== after) throw new TablesError("undo-changed", { file: place.file }, place);
      if (!(await kept.holds(backup))) throw new TablesError("undo-backup", { backup: basename(backup) }, place);
      const out = await OutFile.begin(at(file));
      replacements.push({ out, before: after, after: before, seen, undoes: backup });
      await copyInto(at(backup), out);
      if ((await fileFingerprint(out.temporary)) !== before) throw new TablesError("undo-backup", { backup: basename(backup) }, place);
    }
    await replaceTogether(kept, replacements, { verb: "undo", tables: entry.tables });
  } catch (error) {
    await abandonAll(
      replacements.map(({ out }) => out),
      error,
    );
    throw error;
  }
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
