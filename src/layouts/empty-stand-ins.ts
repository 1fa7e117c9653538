/** Columns that show what is left of a record taken apart (null, [] or {}), and columns of its parts. */
import { takesApart } from "../formats/take-apart.js";
import type { CompiledTable } from "../plan/compile.js";
import { startsWith } from "../model/path.js";

/** Slots of the columns that a column has to agree with. */
export interface StandIns {
  /** Columns of parts of its value. */
  readonly parts: readonly number[];
  /** Columns of what stands beside its text. */
  readonly beside: readonly number[];
  /** The column of the value that its own is a part of, or -1. */
  readonly rest: number;
}

const known = new WeakMap<CompiledTable, readonly StandIns[]>();

/** By slot, the columns that each has to agree with. */
export function standInsOf(table: CompiledTable): readonly StandIns[] {
  const before = known.get(table);
  if (before !== undefined) return before;
  const { dialect } = table.source;
  const { columns } = table.plan;
  const slots = columns.map((_, slot) => slot);
  const standIns = columns.map(({ at: { steps } }, slot): StandIns => {
    const others = slots.filter((other) => other !== slot);
    const inside = others.filter((other) => columns[other].at.steps.length > steps.length && startsWith(columns[other].at.steps, steps));
    return {
      parts: inside.filter((other) => takesApart(dialect, columns[other].at.steps, steps)),
      beside: inside.filter((other) => !takesApart(dialect, columns[other].at.steps, steps)),
      rest: others.find((other) => columns[other].at.end === "value" && takesApart(dialect, steps, columns[other].at.steps)) ?? -1,
    };
  });
  known.set(table, standIns);
  return standIns;
}
