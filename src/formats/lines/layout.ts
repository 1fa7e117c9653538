/** What layouts of line formats have in common: which kind is inside which. */
import { PlanError } from "../../errors/error.js";
import { nearest } from "../../errors/nearest.js";

/** By kind: those that are told by the same signs of a line, itself included; the record around decides between them. */
export function alikeKinds<K>(kinds: readonly K[], signsOf: (kind: K) => unknown): number[][] {
  const signs = kinds.map((kind) => JSON.stringify(signsOf(kind)));
  return signs.map((one) => signs.flatMap((other, k) => (other === one ? [k] : [])));
}

/** Place of the kind around `name` among the kinds; -1 at the top. */
export function placeInside(name: string, inside: string | undefined, names: readonly string[]): number {
  if (inside === undefined) return -1;
  const place = names.indexOf(inside);
  if (place < 0 || inside === name) throw new PlanError("layout-inside", { kind: name, inside, nearest: nearest(inside, names), names });
  return place;
}
