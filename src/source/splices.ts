/** The edits of a source as splices of its files. */
import { type Splice, sortSplices } from "../edits/splice.js";
import type { Edit } from "../edits/edit.js";
import type { Manner } from "../formats/format.js";
import type { Part } from "./parts.js";
import { editsByFile } from "./edits.js";

/** The splices of each file, in order. */
export async function planSplices({
  parts,
  manners,
  edits,
}: {
  readonly parts: readonly Part[];
  readonly manners: readonly Manner[];
  readonly edits: readonly { readonly edits: readonly Edit[] }[];
}): Promise<Splice[][]> {
  const files = editsByFile(
    edits.flatMap((row) => row.edits),
    parts,
  );
  const splices: Splice[][] = [];
  for (const { index, dialect, text } of parts) {
    const { edits, leaving } = files[index];
    splices.push(sortSplices(edits.length === 0 ? [] : await dialect.renderer(text, manners[index]).render(edits, leaving)));
  }
  return splices;
}
