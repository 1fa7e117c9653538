/** The edits of a source as splices of its files. */
import { type Splice, sortSplices } from "../edits/splice.js";
import type { Edit } from "../edits/edit.js";
import type { WritingStyle } from "../formats/format.js";
import type { SourceText } from "./parts.js";
import { editsByFile } from "./edits.js";

interface Edited {
  readonly parts: readonly SourceText[];
  readonly styles: readonly WritingStyle[];
  readonly edits: readonly { readonly edits: readonly Edit[] }[];
}

/** What was made of these edits before: totals, reports and the fold itself ask for the same. */
const planned = new WeakMap<Edited["edits"], { readonly parts: Edited["parts"]; readonly splices: Promise<Splice[][]> }>();

/** The splices of each file, in order. */
export async function planSplices({ parts, styles, edits }: Edited): Promise<Splice[][]> {
  const known = planned.get(edits);
  if (known?.parts === parts) return known.splices;
  const splices = render({ parts, styles, edits });
  planned.set(edits, { parts, splices });
  return splices;
}

async function render({ parts, styles, edits }: Edited): Promise<Splice[][]> {
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
