/** A folder of tables compared with its source on disk. */
import { realpath } from "node:fs/promises";
import { basename, dirname, join, relative, resolve, sep } from "node:path";
import type { CompareInput, Comparison, CompareOptions } from "../compare/comparison.js";
import { CallError, phrase, TablesError } from "../errors/error.js";
import type { ErrorCode, Facts } from "../errors/words.js";
import { RECEIPT_FILE, type Receipt } from "../sheets/receipt.js";
import { compareTables } from "../compare/compare.js";
import { lookAt, lookThrough, type Identity } from "./files.js";
import { listAt } from "./change-list.js";
import { openTables } from "./tables-at.js";
import type { SheetContainer } from "../sheets/container.js";
import { containerOf } from "../sheets/index.js";
import { lastFold } from "./journal.js";
import { rootOf } from "./kept-folder.js";
import { recover, wasCutOff } from "./replace.js";
import { openHatched } from "./sources.js";

export interface FolderInput extends CompareOptions {
  /** The source, when it is not where the receipt says: a file, an archive or the folder of a set. */
  readonly source?: string;
  /** Plan text, when it is not the one in the receipt. */
  readonly plan?: string;
  /** A list of changes that `compare` wrote: only what it still takes is compared. */
  readonly taken?: string;
  /** Settle a fold of the source that was cut off, before anything else: for those who are about to fold. */
  readonly settle?: boolean;
}

/** A comparison with files, each as it was when it was opened. */
export interface FolderComparison extends Comparison {
  /** By path. */
  readonly seen: ReadonlyMap<string, Identity>;
}

/** Path of the source of a folder of tables. */
export async function sourceOf(folder: string, receipt: Receipt, said?: string): Promise<string> {
  const path = said ?? resolve(folder, receipt.source.file);
  if ((await lookAt(path)) === null) throw new TablesError("source-not-found", { file: said ?? receipt.source.file }, { file: folder });
  return path;
}

/**
 * A receipt may come from somebody else, and say anything. A source that it names may be changed only when it is near:
 * in the working directory, or in the folder that the tables are in.
 *
 * @throws {@link CallError} when it is not
 */
export async function refuseFar(folder: string, source: string, code: "source-far" | "undo-far" = "source-far"): Promise<void> {
  const real = await realpath(source);
  const near = [process.cwd(), dirname(await realpath(folder))];
  if (!near.some((one) => isInside(one, real))) throw new CallError(code, { source: real }, { file: folder });
}

/** Is the path in the folder, or below? Both without links. */
export function isInside(folder: string, path: string): boolean {
  const way = relative(folder, path);
  return way !== ".." && !way.startsWith(`..${sep}`) && resolve(folder, way) === resolve(path) && !/^[A-Za-z]:/.test(way);
}

/** Compares a folder of tables, or a workbook, with its source, and hands the comparison to `use` while the files are open. */
export async function withComparison<T>(
  folder: string,
  options: FolderInput,
  use: (comparison: FolderComparison, source: string) => Promise<T>,
): Promise<T> {
  const { settle = false, source, taken, ...input } = options;
  const at = await openTables(folder);
  try {
    const container = containerOf(at.tables);
    const receipt = await container.receipt();
    const path = await sourceOf(at.folder, receipt, source);
    const notes = await aboutFolds(path, settle);
    const opened = await openHatched(path, receipt, source ?? basename(path));
    try {
      const compared = refuseFolded(compareTables(container, { ...input, source: opened.sources }), path, folder);
      const comparison =
        taken === undefined ? await compared : await takenOf(taken, container, await compared, { ...input, source: opened.sources });
      const older = await savedBefore(at.folder, folder, comparison);
      return await use({ ...comparison, seen: opened.seen, notes: [...notes, ...older, ...comparison.notes] }, path);
    } finally {
      await opened.close();
    }
  } finally {
    await at.close();
  }
}

/** The comparison of what a list takes. */
async function takenOf(list: string, container: SheetContainer, comparison: Comparison, input: CompareInput): Promise<Comparison> {
  const { chosenTables } = await import("../fold/choice.js");
  const chosen = await chosenTables(container, comparison, await listAt(list));
  const again = await compareTables(chosen, input);
  await chosen.check(again.changes);
  return again;
}

async function aboutFolds(path: string, settle: boolean): Promise<Comparison["notes"]> {
  // what another program writes into a pipe was never folded
  if ((await lookThrough(path))?.isFIFO() === true) return [];
  const root = await rootOf(path);
  const settled = settle ? await recover(root) : null;
  if (settled !== null) return [noteOf(settled.finished ? "fold-finished" : "fold-dropped", {})];
  return !settle && (await wasCutOff(root)) ? [noteOf("fold-cut-off", {})] : [];
}

/** Edited sheets are saved after their receipt was written; clocks of file systems differ by a little. */
const LEEWAY_MS = 10_000;

/** Notes on edited sheets that were saved before the receipt of their folder was written. */
async function savedBefore(inFolder: string, tables: string, { changes, receipt }: Comparison): Promise<Comparison["notes"]> {
  // a workbook has its receipt inside
  const written = inFolder === tables ? await lookThrough(join(inFolder, RECEIPT_FILE)) : null;
  if (written === null) return [];
  const edited = new Set(changes.map(({ table }) => table));
  const notes: Comparison["notes"][number][] = [];
  for (const { name, file } of receipt.tables) {
    const saved = edited.has(name) ? await lookThrough(join(inFolder, file)) : null;
    if (saved !== null && saved.mtimeMs + LEEWAY_MS < written.mtimeMs) notes.push(noteOf("sheet-older", { sheet: file }, name));
  }
  return notes;
}

function noteOf<C extends ErrorCode>(code: C, said: Facts<C>, table = ""): Comparison["notes"][number] {
  const { message, facts } = phrase(code, said);
  return { code, table, facts, message };
}

/** A source that these very tables were folded into before gets words of its own. */
async function refuseFolded(comparison: Promise<Comparison>, path: string, folder: string): Promise<Comparison> {
  try {
    return await comparison;
  } catch (error) {
    if (error instanceof TablesError && error.code === "source-changed") {
      if (await wasCutOff(await rootOf(path))) throw new TablesError("source-cut-off", { file: basename(path) }, error.place);
      const last = await lastFold(path);
      if (last !== null && resolve(last.root, last.entry.tables) === (await realpath(folder))) {
        throw new TablesError("source-folded", { file: basename(path), when: last.entry.time.slice(0, 16).replace("T", " ") }, error.place);
      }
    }
    throw error;
  }
}
