/**
 * Files of a source replaced together, all or none, with a backup of each.
 *
 * The new files are finished beside the old ones. Then, with the lock of the folder: the old files are looked at again;
 * a record says what is about to be done; each old file gets a second name, its backup; the new ones take their places;
 * the journal; the record goes. When something fails on the way, the old files are put back. A record that is found
 * later belongs to a process that was killed: when none of its files is in its place the fold is dropped, else it is
 * finished, or taken back when it cannot be. Files that somebody else wrote in the meantime stay theirs.
 */
import { randomBytes } from "node:crypto";
import { renameSync, statSync } from "node:fs";
import { rm } from "node:fs/promises";
import { dirname, join, relative } from "node:path";
import { fingerprinter } from "../bytes/hash.js";
import { SourceError, TablesError } from "../errors/error.js";
import { isSameFile, openFile, systemReason, type Identity } from "./files.js";
import { KeptFolder, type JournalEntry, type Pending } from "./kept-folder.js";
import { withLock } from "./lock.js";
import { keepCopy, syncFolder, type OutFile } from "./out-file.js";

/** A file that is finished beside its target, with the fingerprints of what is there and what will be. */
export interface Replacement {
  readonly out: OutFile;
  readonly before: string;
  readonly after: string;
  /** The target as it was when it was read. */
  readonly seen: Identity;
  /** The backup that it is a copy of, in an undo. */
  readonly undoes?: string;
}

/** A fold or undo that had been cut off, and how it was settled. */
export interface Settled {
  readonly verb: "fold" | "undo";
  /** Finished; else dropped, so that nothing of it is left. */
  readonly finished: boolean;
  /** Paths from the folder of the source. */
  readonly files: readonly string[];
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

/** Replaces files in the folder `root` by finished ones. Call it with the lock of `kept`. */
export async function replaceTogether(
  kept: KeptFolder,
  replacements: readonly Replacement[],
  what: Pick<Pending, "verb" | "tables">,
): Promise<JournalEntry> {
  const { root } = kept;
  const time = new Date().toISOString();
  const files = replacements.map(({ out, before, after, undoes }) => {
    const file = relative(root, out.target);
    return { file, backup: backupName(file, time), temporary: relative(root, out.temporary), before, after, undoes };
  });
  const pending: Pending = { hatchfold: 1, ...what, files, time };
  for (const { out, seen } of replacements) lookAgain(out.target, seen);
  await kept.writePending(pending);
  try {
    for (const [i, { out }] of replacements.entries()) await keepCopy(out.target, join(root, files[i].backup));
    for (const { out, seen } of replacements) lookAgain(out.target, seen);
    rename(root, files);
    await finish(kept, pending);
  } catch (error) {
    await settle(kept, pending, false);
    throw error instanceof SourceError || error instanceof TablesError ? error : unwritable(error, root);
  }
  return entryOf(pending);
}

/** Right before it is replaced, and nothing happens in between: a colleague's save is not lost. */
function lookAgain(path: string, seen: Identity): void {
  const now = statSync(path, { bigint: true, throwIfNoEntry: false });
  if (now === undefined || !isSameFile(now, seen)) throw new TablesError("source-meanwhile", { file: path }, { file: path });
}

function unwritable(error: unknown, file: string): SourceError {
  return new SourceError("file-unwritable", { reason: systemReason(error) }, { file });
}

/** One right after the other: nothing else of this process happens in between. */
function rename(root: string, files: readonly { readonly temporary: string; readonly file: string }[]): void {
  for (const { temporary, file } of files) {
    try {
      renameSync(join(root, temporary), join(root, file));
    } catch (error) {
      throw unwritable(error, join(root, file));
    }
  }
}

/** Short enough for every system, and never used before. */
function backupName(file: string, time: string): string {
  const name = file.replaceAll(/[/\\]/g, "~").slice(-60);
  return join(".hatchfold", `${name}.${time.replaceAll(/\D/g, "").slice(0, 14)}.${randomBytes(4).toString("hex")}`);
}

function entryOf({ files, time, tables }: Pending): JournalEntry {
  return { files: files.map(({ file, backup, before, after }) => ({ file, backup, before, after })), time, tables };
}

/** All files are in their places: it is written down, and what was only for the way is removed. */
async function finish(kept: KeptFolder, pending: Pending): Promise<void> {
  const { root } = kept;
  for (const folder of new Set(pending.files.map(({ file }) => dirname(join(root, file))))) await syncFolder(folder);
  const before = await kept.journal();
  const spent = new Set(pending.files.flatMap(({ undoes }) => undoes ?? []));
  const others = before.filter(({ files }) => !files.some(({ backup }) => spent.has(backup) || backup === pending.files[0].backup));
  const journal = pending.verb === "fold" ? [...others, entryOf(pending)] : others;
  if (JSON.stringify(journal) !== JSON.stringify(before)) await kept.writeJournal(journal);
  // it is done, whatever becomes of the rest: what is left over is found by the next fold
  if (pending.verb === "undo") for (const backup of [...spent, ...pending.files.map((one) => one.backup)]) await remove(kept, backup);
  await kept.removePending().catch(() => undefined);
}

/** Removes what is not needed any more, when it is a plain file of ours. What cannot be removed does no harm. */
async function remove(kept: KeptFolder, file: string): Promise<void> {
  const tried = async (): Promise<void> => {
    if (await kept.holds(file)) await rm(join(kept.root, file), { force: true });
  };
  await tried().catch(() => tried().catch(() => undefined));
}

/** Settles what was cut off in this folder. */
export async function recover(root: string): Promise<Settled | null> {
  const kept = await KeptFolder.find(root);
  if (kept === null || (await kept.pending()) === null) return null;
  return withLock(kept, async () => {
    const pending = await kept.pending();
    if (pending === null) return null;
    const finished = await settle(kept, pending, true);
    return { verb: pending.verb, finished, files: pending.files.map(({ file }) => file) };
  });
}

/** Brings all files forward, or back; says whether they are in their places now. */
async function settle(kept: KeptFolder, pending: Pending, forward: boolean): Promise<boolean> {
  const { root } = kept;
  const states = await Promise.all(pending.files.map((file) => stateOf(kept, file)));
  const begun = states.includes("new");
  if (forward && begun && !states.includes("other")) {
    const left = pending.files.filter((_, i) => states[i] === "old");
    const intact = await Promise.all(left.map(async ({ temporary, after }) => (await printOf(kept, temporary)) === after));
    if (!intact.includes(false)) {
      try {
        rename(root, left);
        await finish(kept, pending);
        return true;
      } catch {
        return settle(kept, pending, false);
      }
    }
  }
  const stuck: string[] = [];
  for (const [i, { file, backup, before }] of pending.files.entries()) {
    if (states[i] !== "new") continue;
    try {
      if ((await printOf(kept, backup)) !== before) throw new Error("the backup is not there");
      renameSync(join(root, backup), join(root, file));
    } catch {
      stuck.push(file);
    }
  }
  if (stuck.length > 0) throw new SourceError("fold-half", { files: stuck, of: pending.files.length }, { file: root });
  for (const { temporary, backup } of pending.files) {
    await remove(kept, temporary);
    await remove(kept, backup);
  }
  await kept.removePending().catch(() => undefined);
  return false;
}

async function stateOf(kept: KeptFolder, { file, before, after }: Pending["files"][number]): Promise<"old" | "new" | "other"> {
  const now = await printOf(kept, file);
  return now === before ? "old" : now === after ? "new" : "other";
}

async function printOf(kept: KeptFolder, file: string): Promise<string> {
  return (await kept.holds(file)) ? fileFingerprint(join(kept.root, file)).catch(() => "") : "";
}

/** Removes finished files that will not go to their places, unless what was begun with them could not be settled. */
export async function abandonAll(outs: Iterable<OutFile>, error: unknown): Promise<void> {
  if (error instanceof SourceError && error.code === "fold-half") return;
  for (const out of outs) await out.abandon();
}

/** For those who only read: was a fold or an undo cut off here? What cannot be trusted was not. */
export async function wasCutOff(root: string): Promise<boolean> {
  try {
    const kept = await KeptFolder.find(root);
    return kept !== null && (await kept.pending()) !== null;
  } catch {
    return false;
  }
}
