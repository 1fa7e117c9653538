/** Old and new items of a list, brought together. */
import type { Span } from "../edits/edit.js";
import type { Placing } from "./layout.js";
import { pushTo } from "../model/push-to.js";
import { pushAll } from "../bytes/lists.js";

/** Old and new items of a list, brought together: what stays, what changes, what goes, what comes in. */
export type Aligned =
  | { readonly kind: "kept" | "changed" | "moved"; readonly old: number; readonly now: number }
  | { readonly kind: "gone"; readonly old: number }
  | { readonly kind: "new"; readonly now: number };

/**
 * Items, as their cells, by what is alike in them: the common subsequence of the greatest weight (after Wagner and Fischer).
 * A cell that no other item has weighs more than one that several have; between what is alike, items change place by place.
 */
export function alignItems(old: readonly (readonly string[])[], now: readonly (readonly string[])[]): Aligned[] {
  const aligned: Aligned[] = [];
  let start = 0;
  while (start < old.length && start < now.length && isSame(old[start], now[start]))
    aligned.push({ kind: "kept", old: start, now: start++ });
  let [oldEnd, nowEnd] = [old.length, now.length];
  while (oldEnd > start && nowEnd > start && isSame(old[oldEnd - 1], now[nowEnd - 1])) {
    oldEnd--;
    nowEnd--;
  }
  pushAll(aligned, alignMiddle(old, now, start, oldEnd, nowEnd));
  for (let k = 0; oldEnd + k < old.length; k++) aligned.push({ kind: "kept", old: oldEnd + k, now: nowEnd + k });
  return aligned;
}

function alignMiddle(
  old: readonly (readonly string[])[],
  now: readonly (readonly string[])[],
  start: number,
  oldEnd: number,
  nowEnd: number,
): Aligned[] {
  const rare = (old[0] ?? now[0] ?? []).map((_, c) => onlyOnce(old, c, onlyOnce(now, c)));
  const alike = (i: number, j: number): number => {
    let weight = isSame(old[i], now[j]) ? 1 : 0;
    for (let c = 0; c < rare.length; c++) if (old[i][c] === now[j][c]) weight += rare[c].has(old[i][c]) ? 2 : 1;
    return weight;
  };
  const width = nowEnd - start + 1;
  const at = (i: number, j: number): number => (i - start) * width + j - start;
  const weights = new Uint32Array((oldEnd - start + 1) * width);
  for (let i = oldEnd - 1; i >= start; i--) {
    for (let j = nowEnd - 1; j >= start; j--) {
      const weight = alike(i, j);
      const both = weight === 0 ? 0 : weight + weights[at(i + 1, j + 1)];
      weights[at(i, j)] = Math.max(both, weights[at(i + 1, j)], weights[at(i, j + 1)]);
    }
  }
  const aligned: Aligned[] = [];
  let gone: number[] = [];
  let fresh: number[] = [];
  const flush = (): void => {
    const pairs = Math.min(gone.length, fresh.length);
    for (let k = 0; k < pairs; k++) aligned.push({ kind: "changed", old: gone[k], now: fresh[k] });
    for (const one of gone.slice(pairs)) aligned.push({ kind: "gone", old: one });
    for (const one of fresh.slice(pairs)) aligned.push({ kind: "new", now: one });
    gone = [];
    fresh = [];
  };
  let i = start;
  let j = start;
  while (i < oldEnd || j < nowEnd) {
    const weight = i < oldEnd && j < nowEnd ? alike(i, j) : 0;
    if (weight > 0 && weights[at(i, j)] === weight + weights[at(i + 1, j + 1)]) {
      flush();
      aligned.push({ kind: isSame(old[i], now[j]) ? "kept" : "changed", old: i++, now: j++ });
    } else if (j >= nowEnd || (i < oldEnd && weights[at(i + 1, j)] >= weights[at(i, j + 1)])) gone.push(i++);
    else fresh.push(j++);
  }
  flush();
  return aligned;
}

function isSame(a: readonly string[], b: readonly string[]): boolean {
  return a.every((cell, c) => cell === b[c]);
}

/** Cells of a column that one item has; of those in `among`, where it is given. */
function onlyOnce(items: readonly (readonly string[])[], c: number, among?: ReadonlySet<string>): Set<string> {
  const seen = new Map<string, number>();
  for (const item of items) seen.set(item[c], (seen.get(item[c]) ?? 0) + 1);
  return new Set([...seen].flatMap(([cell, times]) => (times === 1 && (among === undefined || among.has(cell)) ? [cell] : [])));
}

/**
 * The same for items of which not all is shown: one that says what it said stays the one it was, wherever it stands, and one of
 * which nothing is left is another, unless places stay places. Where `now` has `null` nothing stands.
 */
export function keepIdentity(
  aligned: readonly Aligned[],
  old: readonly (readonly string[])[],
  now: readonly (readonly string[] | null)[],
  placesStay = false,
): Aligned[] {
  const from = new Map<number, number>();
  const taken = new Set<number>();
  const take = (j: number, i: number): void => {
    from.set(j, i);
    taken.add(i);
  };
  const left = new Map<string, number[]>();
  for (const one of aligned) {
    if (one.kind === "kept") take(one.now, one.old);
    else if (one.kind !== "new") pushTo(left, JSON.stringify(old[one.old]), one.old);
  }
  for (const [j, cells] of now.entries()) {
    const same = cells === null || from.has(j) ? undefined : left.get(JSON.stringify(cells))?.shift();
    if (same !== undefined) take(j, same);
  }
  for (const one of aligned) {
    if (one.kind === "gone" || one.kind === "new" || from.has(one.now) || taken.has(one.old)) continue;
    const cells = now[one.now];
    const keeps = old[one.old].some((cell, c) => cell === cells?.[c]);
    if (keeps || (placesStay && one.kind === "changed")) take(one.now, one.old);
  }
  const gone = old.flatMap((_, i): Aligned[] => (taken.has(i) ? [] : [{ kind: "gone", old: i }]));
  const order = [...from].sort(([a], [b]) => a - b);
  const staying = new Set(longestRise(order.map(([, i]) => i)));
  const there = now.flatMap((cells, j): Aligned[] => {
    const i = from.get(j);
    if (cells === null) return [];
    if (i === undefined) return [{ kind: "new", now: j }];
    return [{ kind: !staying.has(i) ? "moved" : isSame(old[i], cells) ? "kept" : "changed", old: i, now: j }];
  });
  return [...gone, ...there];
}

/** Where an item goes that does not stay: beside one that does, whose span is known; behind the last one, unless said. */
export function besideIn(aligned: readonly Aligned[], old: readonly Span[]): (now: number) => Placing["beside"] {
  const staying = aligned.flatMap((one) => (one.kind === "kept" || one.kind === "changed" ? [one] : []));
  return (now) => {
    const before = staying.findLast((one) => one.now < now);
    const after = staying.find((one) => one.now > now);
    if (before === undefined) return after && { at: old[after.old].start, before: true };
    return before.old === old.length - 1 ? undefined : { at: old[before.old].end, before: false };
  };
}

/** The longest run of numbers that rise, others left out (patience sorting, after Fredman). */
export function longestRise(numbers: readonly number[]): number[] {
  // places of the least numbers that runs of each length end with
  const ends: number[] = [];
  const before = numbers.map(() => -1);
  for (const [j, number] of numbers.entries()) {
    let [low, high] = [0, ends.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (numbers[ends[middle]] < number) low = middle + 1;
      else high = middle;
    }
    before[j] = low === 0 ? -1 : ends[low - 1];
    ends[low] = j;
  }
  const rise: number[] = [];
  for (let at = ends.at(-1) ?? -1; at >= 0; at = before[at]) rise.push(numbers[at]);
  return rise.reverse();
}

/** Items that have a name: those of one name belong together, wherever they stand. */
export function alignNamed(old: readonly string[], now: readonly string[]): Aligned[] {
  const aligned: Aligned[] = old.map((name, i) => {
    const at = now.indexOf(name);
    return at < 0 ? { kind: "gone", old: i } : { kind: "changed", old: i, now: at };
  });
  now.forEach((name, j) => {
    if (!old.includes(name)) aligned.push({ kind: "new", now: j });
  });
  return aligned;
}

/** Places that stay places: what stands at each may change, come or go. */
export function alignPlaces(old: readonly boolean[], now: readonly boolean[]): Aligned[] {
  const aligned: Aligned[] = [];
  for (let i = 0; i < Math.max(old.length, now.length); i++) {
    if (i < old.length) aligned.push(now[i] === true ? { kind: "changed", old: i, now: i } : { kind: "gone", old: i });
    else if (now[i]) aligned.push({ kind: "new", now: i });
  }
  return aligned;
}
