/** The fold of what is ticked. */
import type { Made } from "../protocol";
import { inTheWay } from "./changes";
import type { Document } from "./document";
import { Refused } from "./edits";

/** The result: the file, or those of several. */
export async function foldNow(document: Document): Promise<Made> {
  const review = await document.settled();
  const problems = inTheWay(document, review);
  if (problems > 0)
    throw new Refused(
      `There ${problems === 1 ? "is a problem" : `are ${problems} problems`} to mend, or rows to leave out, before anything is folded.`,
    );
  const isAll = [...document.left.values()].every((rows) => rows.size === 0);
  const { bytes, files, unchanged, proved, counts } = await review.fold(isAll ? {} : { only: (row) => document.isTaken(row) });
  const blob = (part: Uint8Array): Blob => new Blob([part as BlobPart], { type: "application/octet-stream" });
  const made =
    files.length === 0 || bytes.length > 0
      ? [{ name: document.name, bytes: blob(bytes), unchanged }]
      : files.map((file) => ({ name: file.name, bytes: blob(file.bytes), unchanged: file.unchanged }));
  const left = [...document.left.values()].reduce((sum, rows) => sum + rows.size, 0);
  return { files: made, proved, counts, left };
}
