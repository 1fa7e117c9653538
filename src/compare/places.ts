/** Where records stand, and rows go, in the files of the source. */
import type { Context } from "../rows/context.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Row } from "../records/assemble.js";
import { aroundPlace } from "../rows/baseline.js";
import type { Target } from "../rows/row-edits.js";
import type { Snapshot } from "../rows/snapshot.js";
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

/** A word for the list of a table that a row goes into: two rows with one word are in one list. */
export function listOfTarget(target: Target, table: CompiledTable): string {
  if ("row" in target) return `new ${target.row.table.index} ${target.row.row}`;
  return "file" in target ? `file ${target.file}` : String(aroundPlace(target.place, target.of === table));
}

/** The same of a row of the source; `file` is that which it is in. */
export function listOfRow({ table, parent }: Pick<Row, "table" | "parent">, file: number): string {
  return parent === null ? `file ${file}` : String(aroundPlace(parent.place, parent.table === table));
}

/** The same of a row of the source that was kept. */
export function listOfSnapshot({ table, parentTable, parentPlace, file }: Snapshot): string {
  return parentTable === null ? `file ${file}` : String(aroundPlace(parentPlace, parentTable === table));
}

/** A place in a list, from 1; nothing where the cell says none. */
export function placeIn(cell: string): number | undefined {
  const text = cell.trim();
  const whole = /^([1-9]\d{0,14})(?:[.,]0+)?$/.exec(text)?.[1];
  return whole === undefined ? undefined : Number(whole);
}

/** What a record of the source is in: a record of another table, or in a tree of its own. */
export function targetAround({ base }: Context, table: CompiledTable, place: number): Target | null {
  const { parents, uppers } = base.tables[table.index];
  if (table.treeSteps !== null && uppers.at(place) >= 0) return { place: uppers.at(place), of: table };
  return table.parent === null ? null : { place: parents.at(place), of: table.parent };
}
