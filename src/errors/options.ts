/** Options of a call: one that is not known is a slip of the pen, and not passed over. */
import { CallError } from "./error.js";
import { nearest } from "./nearest.js";

/** All options of a call, by name: the compiler asks for every one. */
export type OptionNames<T> = Readonly<Record<keyof Required<T>, true>>;

/** Refuses options that are not known, with the nearest one that is. */
export function checkOptions<T extends object>(call: string, given: T, names: OptionNames<T>): void {
  const known = Object.keys(names);
  for (const option of Object.keys(given))
    if (!Object.hasOwn(names, option)) throw new CallError("option-unknown", { call, option, nearest: nearest(option, known), known });
}
