/** Where records stand, and rows go, in the files of the source. */
import type { Context } from "../rows/context.js";
import type { Target } from "../rows/row-edits.js";
import { partAt, type SourceText } from "../source/parts.js";

/** Source offset at which a record begins. */
export function startOf({ of, place }: Extract<Target, { place: number }>, { base }: Context): number {
  return base.tables[of.index].starts.at(place);
}

/** The file that a row gets into by going to the target. */
export function fileOf(target: Target, ctx: Context): SourceText {
  const { parts } = ctx;
  if ("file" in target) return parts[target.file];
  if ("place" in target) return partAt(parts, startOf(target, ctx));
  const { row } = target;
  return row.target === null ? parts[row.table.source.first] : fileOf(row.target, ctx);
}
