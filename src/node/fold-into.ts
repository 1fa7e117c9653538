/** Folding into files: beside the source, into a new folder, or in place of the source. */
import { mkdir, readdir, realpath, rename, rm, rmdir } from "node:fs/promises";
import { basename, dirname, join, relative, resolve } from "node:path";
import { CallError, SourceError } from "../errors/error.js";
import { filesOf } from "../sheets/receipt.js";
import { foldComparison, type Folded, type FoldOptions } from "../fold/fold.js";
import { isInside, type FolderComparison } from "./compare-folder.js";
import { type Identity, lookThrough, systemReason } from "./files.js";
import { KeptFolder, type JournalEntry } from "./kept-folder.js";
import { withLock } from "./lock.js";
import { OutFile, temporaryName } from "./out-file.js";
import { isSame } from "./same-files.js";
import { abandonAll, fileFingerprint, replaceTogether, type Replacement } from "./replace.js";

export interface FoldTarget {
  /** Where the result goes: a file, or for a set of files a new folder. */
  readonly out?: string;
  /** Replace the source, with a backup and a way back. */
  readonly inPlace?: boolean;
  readonly partial?: boolean;
  /** Write what nothing has proved. */
  readonly unproved?: boolean;
  /** Replace a file that is at `out`; never the source. */
  readonly replace?: boolean;
}

export interface FoldedInto extends Folded {
  readonly written: string[];
  readonly backups: string[];
}

/** Folds a comparison into a file, or a set of them into a folder. Nothing stands at the target unless all went well. */
export async function foldInto(comparison: FolderComparison, source: string, folder: string, target: FoldTarget): Promise<FoldedInto> {
  if (target.inPlace !== true && (await isSame(target.out!, source))) throw new CallError("out-is-source", {}, { file: target.out! });
  if (comparison.problems.length > 0 && target.partial !== true)
    return { ...(await foldComparison(comparison, {})), written: [], backups: [] };
  const isSet = comparison.receipt.source.files !== undefined && comparison.archive === null;
  if (!isSet) return foldOne(comparison, source, folder, target);
  return target.inPlace === true ? foldSetInPlace(comparison, source, folder, target) : foldSetInto(comparison, target);
}

function how({ partial, unproved }: FoldTarget): FoldOptions {
  return { partial, unproved };
}

async function foldOne(comparison: FolderComparison, source: string, folder: string, target: FoldTarget): Promise<FoldedInto> {
  const inPlace = target.inPlace === true;
  if (inPlace && !comparison.seen.has(source)) throw new CallError("source-pipe", {}, { file: source });
  const path = inPlace ? source : target.out!;
  const out = await OutFile.begin(path, { replace: inPlace || target.replace === true });
  try {
    const folded = await foldComparison(comparison, { ...how(target), sink: (bytes) => out.write(bytes) });
    await out.finish();
    if (!inPlace) {
      await out.commit();
      return { ...folded, written: [path], backups: [] };
    }
    if (folded.unchanged) {
      await out.abandon();
      return { ...folded, written: [], backups: [] };
    }
    const root = dirname(out.target);
    const packed = comparison.archive !== null || comparison.parts[0].file.packed !== null;
    const before = packed ? await fileFingerprint(source) : comparison.receipt.source.fingerprint;
    const seen = comparison.seen.get(source)!;
    const { files } = await replaceIn(root, [{ out, before, after: folded.fingerprint, seen }], folder);
    return { ...folded, written: [path], backups: files.map(({ backup }) => join(root, backup)) };
  } catch (error) {
    await abandonAll([out], error);
    throw error;
  }
}

async function replaceIn(root: string, replacements: readonly Replacement[], folder: string): Promise<JournalEntry> {
  const kept = await KeptFolder.make(root);
  const tables = relative(root, await realpath(folder));
  return withLock(kept, () => replaceTogether(kept, replacements, { verb: "fold", tables }));
}

/** Only files with changes are written, and all of them or none. */
async function foldSetInPlace(comparison: FolderComparison, source: string, folder: string, target: FoldTarget): Promise<FoldedInto> {
  const root = await realpath(source);
  const outs = new Map<string, OutFile>();
  let writing: OutFile | null = null;
  try {
    const folded = await foldComparison(comparison, {
      ...how(target),
      sinkFor: async (name, unchanged) => {
        await writing?.finish();
        writing = unchanged ? null : await OutFile.begin(join(source, name));
        if (writing === null) return null;
        outs.set(name, writing);
        if (!isInside(root, writing.target)) throw new CallError("source-link", { to: writing.target }, { file: join(source, name) });
        const out = writing;
        return (bytes) => out.write(bytes);
      },
    });
    await (writing as OutFile | null)?.finish();
    if (folded.unchanged) return { ...folded, written: [], backups: [] };
    const hatched = new Map(filesOf(comparison.receipt).map((file) => [file.file, file.fingerprint]));
    const replacements: Replacement[] = [];
    for (const [name, out] of outs) {
      const seen: Identity = comparison.seen.get(join(source, name))!;
      const { file } = comparison.parts.find((one) => one.name === name)!;
      const before = file.packed === null ? hatched.get(name)! : await fileFingerprint(join(source, name));
      const after = folded.files.find((one) => one.name === name)!.fingerprint;
      replacements.push({ out, before, after, seen });
    }
    const { files } = await replaceIn(root, replacements, folder);
    return {
      ...folded,
      written: [...outs.keys()].map((name) => join(source, name)),
      backups: files.map(({ backup }) => join(root, backup)),
    };
  } catch (error) {
    await abandonAll(outs.values(), error);
    throw error;
  }
}

/** All files go into a folder that was not there, which appears when it is complete. */
async function foldSetInto(comparison: FolderComparison, target: FoldTarget): Promise<FoldedInto> {
  const path = resolve(target.out!);
  const there = await lookThrough(path);
  if (there !== null && (!there.isDirectory() || (await readdir(path)).length > 0))
    throw new CallError("out-folder", { folder: target.out! }, { file: target.out! });
  const unfinished = join(dirname(path), temporaryName(basename(path)));
  let writing: OutFile | null = null;
  const done = async (): Promise<void> => {
    await writing?.finish();
    await writing?.commit();
  };
  try {
    const folded = await foldComparison(comparison, {
      ...how(target),
      sinkFor: async (name) => {
        await done();
        await mkdir(dirname(join(unfinished, name)), { recursive: true });
        const out = (writing = await OutFile.begin(join(unfinished, name)));
        return (bytes) => out.write(bytes);
      },
    });
    await done();
    // only when it is empty still
    if (there !== null) await rmdir(path);
    await rename(unfinished, path);
    return { ...folded, written: folded.files.map(({ name }) => join(target.out!, name)), backups: [] };
  } catch (error) {
    await (writing as OutFile | null)?.abandon();
    await rm(unfinished, { recursive: true, force: true }).catch(() => undefined);
    if (error instanceof Error && "syscall" in error)
      throw new SourceError("file-unwritable", { reason: systemReason(error) }, { file: target.out! });
    throw error;
  }
}
