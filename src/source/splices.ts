/** The edits of a source as splices of its files. */
import { type Splice, sortSplices } from "../edits/splice.js";
import type { Edit } from "../edits/edit.js";
import type { WritingStyle } from "../formats/format.js";
import type { SourceText } from "./parts.js";
import { editsByFile } from "./edits.js";

/** The splices of each file, in order. */
export async function planSplices({
  parts,
  styles,
  edits,
}: {
  readonly parts: readonly SourceText[];
  readonly styles: readonly WritingStyle[];
  readonly edits: readonly { readonly edits: readonly Edit[] }[];
}): Promise<Splice[][]> {
  const files = editsByFile(
    edits.flatMap((row) => row.edits),
    parts,
  );
  const splices: Splice[][] = [];
  for (const { index, dialect, text } of parts) {
    const { edits, leaving } = files[index];
    splices.push(sortSplices(edits.length === 0 ? [] : await dialect.renderer(text, styles[index]).render(edits, leaving)));
  }
  return splices;
}
