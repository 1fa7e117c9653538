/** What layouts of line formats have in common: which kind is inside which, and totals. */
import { PlanError } from "../../errors/error.js";
import { nearest } from "../../errors/nearest.js";
import type { Total } from "./grammar.js";

/** Place of the kind around `name` among the kinds; -1 at the top. */
export function placeInside(name: string, inside: string | undefined, names: readonly string[]): number {
  if (inside === undefined) return -1;
  const place = names.indexOf(inside);
  if (place < 0 || inside === name) throw new PlanError("layout-inside", { kind: name, inside, nearest: nearest(inside, names), names });
  return place;
}

/** Reads `count KIND` or `sum KIND/FIELD`; `fieldsOf` gives the field names of a kind, or `null` when there is no such kind. */
export function parseTotal(
  field: string,
  text: string | undefined,
  fieldsOf: (kind: string) => readonly string[] | null,
): Total | undefined {
  if (text === undefined) return undefined;
  const match = /^(?:count ([^/]+)|sum ([^/]+)\/(.+))$/.exec(text);
  const kind = match?.[1] ?? match?.[2] ?? "";
  const summed = match?.[3] ?? null;
  const fields = fieldsOf(kind);
  if (fields === null || (summed !== null && !fields.includes(summed))) throw new PlanError("layout-total", { field, total: text });
  return { kind, field: summed };
}
