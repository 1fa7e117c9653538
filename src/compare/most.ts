/** Records that others have room for only so many of: groups of fields in a line. */
import type { CompiledTable } from "../plan/compile.js";
import type { SourceText } from "../source/parts.js";

/** How many records of the table one record around them has room for; `null` where any number. */
export function mostOf({ source, plan }: CompiledTable, parts: readonly SourceText[]): number | null {
  return parts[source.first].dialect.mostOf?.(plan.rows.steps) ?? null;
}
