/** Lists of any length: what is handed to a function one by one has to fit on the stack. */

/** Adds all of `more` to the end of a list. */
export function pushAll<T>(list: T[], more: Iterable<T>): void {
  for (const one of more) list.push(one);
}

/** The largest of some numbers; `-Infinity` of none. */
export function largest(numbers: Iterable<number>): number {
  let most = -Infinity;
  for (const one of numbers) if (one > most) most = one;
  return most;
}

/** The smallest of some numbers; `Infinity` of none. */
export function smallest(numbers: Iterable<number>): number {
  let least = Infinity;
  for (const one of numbers) if (one < least) least = one;
  return least;
}
