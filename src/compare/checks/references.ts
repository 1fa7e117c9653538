/** What a row refers to is there, also after all other edits, and may be referred to; a code and its label say the same. */
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";

export function checkReferences({ references }: Draft, { findings }: Context): void {
  for (const fault of references) findings.addOfColumn(fault);
}
