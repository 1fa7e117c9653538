/** Old and new items of a list, brought together: what stays, what changes, what goes, what comes in. */

export type Aligned =
  | { readonly kind: "kept" | "changed"; readonly old: number; readonly now: number }
  | { readonly kind: "gone"; readonly old: number }
  | { readonly kind: "new"; readonly now: number };

/** Longest common subsequence (Wagner and Fischer); between what stays, items change place by place. */
export function alignItems(old: readonly string[], now: readonly string[]): Aligned[] {
  const width = now.length + 1;
  const lengths = new Uint32Array((old.length + 1) * width);
  for (let i = old.length - 1; i >= 0; i--) {
    for (let j = now.length - 1; j >= 0; j--) {
      lengths[i * width + j] =
        old[i] === now[j] ? lengths[(i + 1) * width + j + 1] + 1 : Math.max(lengths[(i + 1) * width + j], lengths[i * width + j + 1]);
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
  let i = 0;
  let j = 0;
  while (i < old.length || j < now.length) {
    if (i < old.length && j < now.length && old[i] === now[j]) {
      flush();
      aligned.push({ kind: "kept", old: i++, now: j++ });
    } else if (j >= now.length || (i < old.length && lengths[(i + 1) * width + j] >= lengths[i * width + j + 1])) gone.push(i++);
    else fresh.push(j++);
  }
  flush();
  return aligned;
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
