/** The order in which the rows of a table stand: as they were hatched, until some come, go or are moved. */
import type { NewRow } from "./table";

/** Rows that stand elsewhere: from this place on (the first is 0), their ids as they stood and as they stand. */
export interface Reordered {
  readonly from: number;
  readonly was: readonly number[];
  readonly now: readonly number[];
}

export class Sequence {
  /** `null`: as they were hatched. */
  private ids: Int32Array | null = null;
  private places: Int32Array | null = null;
  private movedIds: ReadonlySet<number> | null = null;

  /** @param hatched - rows that were hatched: their ids are below their number */
  constructor(private readonly hatched: { readonly count: number }) {}

  get count(): number {
    return this.ids?.length ?? this.hatched.count;
  }

  all(): Int32Array {
    if (this.ids !== null) return this.ids;
    const ids = new Int32Array(this.hatched.count);
    for (let id = 0; id < ids.length; id++) ids[id] = id;
    return ids;
  }

  idAt(place: number): number {
    return this.ids === null ? place : (this.ids[place] ?? -1);
  }

  placeOf(id: number): number {
    if (this.ids === null) return id;
    if (this.places === null) {
      this.places = new Int32Array(this.ids.reduce((most, one) => Math.max(most, one), 0) + 1).fill(-1);
      this.ids.forEach((one, place) => (this.places![one] = place));
    }
    return this.places[id] ?? -1;
  }

  /** Rows go, others come: each behind the one that it names, or (-1) in front of all. */
  take(leaving: ReadonlySet<number>, arriving: readonly NewRow[]): void {
    this.become(ordered(this.all(), leaving, arriving));
  }

  /** Rows stand from a place on in another order. */
  put({ from }: Reordered, ids: readonly number[]): void {
    const made = this.all().slice();
    made.set(ids, from);
    this.become(made);
  }

  private become(ids: Int32Array): void {
    this.ids = ids;
    this.places = this.movedIds = null;
  }

  /** Rows that stand elsewhere than they were hatched: as few as can be said. */
  moved(): ReadonlySet<number> {
    this.movedIds ??= this.ids === null ? new Set() : movedIn(this.ids, this.hatched.count);
    return this.movedIds;
  }
}

/** Rows without those that leave, and with others: each behind the one that it names, or (-1) in front of all. */
export function ordered(all: Int32Array, leaving: ReadonlySet<number>, arriving: readonly NewRow[]): Int32Array {
  const behind = new Map<number, number[]>();
  for (const { id, after } of arriving) behind.set(after, [id, ...(behind.get(after) ?? [])]);
  const made = new Int32Array(all.length + arriving.length);
  let count = 0;
  const follow = (first: number): void => {
    // one that came behind another that came, and so on: no call within a call for each
    const waiting = [first];
    for (let one = waiting.pop(); one !== undefined; one = waiting.pop()) {
      if (one !== first) made[count++] = one;
      waiting.push(...(behind.get(one) ?? []).toReversed());
      behind.delete(one);
    }
  };
  follow(-1);
  for (const id of all) {
    if (leaving.has(id)) continue;
    made[count++] = id;
    if (behind.size > 0) follow(id);
  }
  // nobody is there behind whom they could stand
  for (const after of [...behind.keys()]) follow(after);
  return made.slice(0, count);
}

/** Rows with others among them, from a place on. */
export function withAt(rows: Int32Array, at: number, ids: readonly number[]): Int32Array {
  const made = new Int32Array(rows.length + ids.length);
  made.set(rows.subarray(0, at));
  made.set(ids, at);
  made.set(rows.subarray(at), at + ids.length);
  return made;
}

/** What other order of rows there is between two sequences of the same; `null` when it is the same order. */
export function reordered(was: Int32Array, now: Int32Array): Reordered | null {
  let from = 0;
  while (from < was.length && was[from] === now[from]) from++;
  if (from === was.length) return null;
  let end = was.length;
  while (was[end - 1] === now[end - 1]) end--;
  return { from, was: [...was.subarray(from, end)], now: [...now.subarray(from, end)] };
}

/** Ids that pass: a filter of an array of numbers takes many times their memory. */
export function picked(ids: Int32Array, passes: (id: number) => boolean): Int32Array {
  const made = new Int32Array(ids.length);
  let count = 0;
  for (const id of ids) if (passes(id)) made[count++] = id;
  return count === made.length ? made : made.slice(0, count);
}

/** All rows but those of the longest run that rises (patience sorting, after Fredman 1975). */
function movedIn(ids: Int32Array, hatched: number): ReadonlySet<number> {
  const rows = picked(ids, (id) => id < hatched);
  if (rows.every((id, i) => i === 0 || rows[i - 1] < id)) return new Set();
  /** By length of a run: the place in `rows` of its last row, the lowest there can be. */
  const lasts: number[] = [];
  const before = new Int32Array(rows.length);
  rows.forEach((id, place) => {
    let [low, high] = [0, lasts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (rows[lasts[middle]] < id) low = middle + 1;
      else high = middle;
    }
    before[place] = low === 0 ? -1 : lasts[low - 1];
    lasts[low] = place;
  });
  const moved = new Set(rows);
  for (let place = lasts.at(-1) ?? -1; place >= 0; place = before[place]) moved.delete(rows[place]);
  return moved;
}
