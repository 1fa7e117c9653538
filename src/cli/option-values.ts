/** How values of options are read. */
import { CallError } from "../errors/error.js";
import { programNamed, type Program } from "../sheets/csv/styles.js";

/** Commander calls this for each time an option is given. */
export function collectOption(value: string, before: readonly string[] | undefined): string[] {
  return [...(before ?? []), value];
}

/** What tables are written for. */
export function oneProgram(value: string): Program {
  return programNamed(value);
}

/** A number of rows, or the key of a record. */
export function sampleSaid(value: string): number | string {
  if (!/^\d+$/.test(value)) return value;
  if (Number(value) < 1) throw new CallError("call", { reason: `"${value}" is not a number of rows`, hint: "Give a whole number from 1." });
  return Number(value);
}
