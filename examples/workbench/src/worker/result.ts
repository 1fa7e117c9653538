/** The fold of what is ticked. */
import type { Change, ProblemsError } from "hatch-fold";
import type { Made, Wrote } from "../protocol";
import type { Document } from "./document";
import { Refused } from "./edits";

/** A file that is written piece by piece: the browser keeps the pieces, out of the worker's memory. */
class Parts {
  private readonly parts: Blob[] = [];

  readonly take = (piece: Uint8Array): void => void this.parts.push(new Blob([piece as BlobPart]));

  blob(): Blob {
    return new Blob(this.parts, { type: "application/octet-stream" });
  }
}

/** The result: the file, or those of several. */
export async function foldNow(document: Document): Promise<Made> {
  const review = await document.settled();
  const isAll = [...document.left.values()].every((rows) => rows.size === 0);
  const only = isAll ? {} : { only: (row: Parameters<Document["isTaken"]>[0]) => document.isTaken(row) };
  const alone = new Parts();
  const several = new Map<string, Parts>();
  const sinkFor = (file: string, unchanged: boolean): Parts["take"] | null => {
    if (unchanged) return null;
    const parts = new Parts();
    several.set(file, parts);
    return parts.take;
  };
  const isSet = document.files.length > 1;
  const { files, unchanged, proved, counts } = await review
    .fold({ ...only, ...(isSet ? { sinkFor } : { sink: alone.take }) })
    .catch((error: unknown) => {
      const { problems } = error as Partial<ProblemsError>;
      if (problems === undefined) throw error;
      const words = problems.length === 1 ? "is a problem" : `are ${problems.length} problems`;
      throw new Refused(`There ${words} to mend, or rows to leave out, before anything is folded.`);
    });
  const sources = document.inOrder();
  const changes = review.changes.filter((change) => document.isTaken(change));
  const made = isSet
    ? files.map(({ name, unchanged: isSame }, i) => ({
        name,
        bytes: several.get(name)?.blob() ?? sources[i].bytes,
        unchanged: isSame,
        wrote: wroteIn(changes.filter(({ source }) => source === name)),
      }))
    : [{ name: document.name, bytes: alone.blob(), unchanged, wrote: wroteIn(changes) }];
  const left = [...document.left.values()].reduce((sum, rows) => sum + rows.size, 0);
  return { files: made, proved, counts, left };
}

/** Records by table, each counted once a kind of change. */
function wroteIn(changes: readonly Change[]): Wrote[] {
  const tables = new Map<string, Partial<Record<Change["kind"], Set<number>>>>();
  for (const { table, kind, row } of changes) {
    const rows = tables.get(table) ?? {};
    tables.set(table, rows);
    (rows[kind] ??= new Set()).add(row);
  }
  return [...tables].map(([table, rows]) => ({
    table,
    counts: Object.fromEntries(Object.entries(rows).map(([kind, own]) => [kind, own.size])),
  }));
}
