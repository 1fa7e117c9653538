/**
 * JSON Patch (RFC 6902) from one parsed document to another.
 *
 * Lists are aligned by their equal items (longest common subsequence), so that a record taken out of
 * a list is one `remove`, not a rewrite of all that follow it.
 */
import { escapePointer } from "../model/pointer.js";

export type PatchOperation =
  { readonly op: "add" | "replace"; readonly path: string; readonly value: unknown } | { readonly op: "remove"; readonly path: string };

/** Lists longer than this, ends that agree apart, are compared place by place. */
const MOST_ALIGNED = 2000;

export function makePatch(before: unknown, after: unknown): PatchOperation[] {
  const patch: PatchOperation[] = [];
  const work: [unknown, unknown, string][] = [[before, after, ""]];
  for (let pair = work.pop(); pair !== undefined; pair = work.pop()) {
    const [a, b, path] = pair;
    if (Array.isArray(a) && Array.isArray(b)) listPatch(a, b, path, patch, work);
    else if (isRecord(a) && isRecord(b)) recordPatch(a, b, path, patch, work);
    else if (!same(a, b)) patch.push({ op: "replace", path, value: b });
  }
  return patch;
}

function recordPatch(
  a: Record<string, unknown>,
  b: Record<string, unknown>,
  path: string,
  patch: PatchOperation[],
  work: [unknown, unknown, string][],
): void {
  for (const name of Object.keys(a)) if (!Object.hasOwn(b, name)) patch.push({ op: "remove", path: `${path}/${escapePointer(name)}` });
  for (const name of Object.keys(b)) {
    const inner = `${path}/${escapePointer(name)}`;
    if (Object.hasOwn(a, name)) work.push([a[name], b[name], inner]);
    else patch.push({ op: "add", path: inner, value: b[name] });
  }
}

function listPatch(a: unknown[], b: unknown[], path: string, patch: PatchOperation[], work: [unknown, unknown, string][]): void {
  const pairs = align(a, b);
  // what has no partner is taken out from behind, so that places in front stay right
  const kept = new Set(pairs.map(([i]) => i));
  for (let i = a.length - 1; i >= 0; i--) if (!kept.has(i)) patch.push({ op: "remove", path: `${path}/${i}` });
  const partner = new Map(pairs.map(([i, j]) => [j, i]));
  for (let j = 0; j < b.length; j++) if (!partner.has(j)) patch.push({ op: "add", path: `${path}/${j}`, value: b[j] });
  for (const [i, j] of pairs) work.push([a[i], b[j], `${path}/${j}`]);
}

/** Pairs of places that stand for the same item: equal ones first, then what is left between them, in order. */
function align(a: readonly unknown[], b: readonly unknown[]): [number, number][] {
  const left = a.map((item) => JSON.stringify(item));
  const right = b.map((item) => JSON.stringify(item));
  const pairs: [number, number][] = [];
  let start = 0;
  while (start < a.length && start < b.length && left[start] === right[start]) pairs.push([start, start++]);
  let tail = 0;
  while (tail < a.length - start && tail < b.length - start && left[a.length - 1 - tail] === right[b.length - 1 - tail]) tail++;
  const n = a.length - start - tail;
  const m = b.length - start - tail;
  const anchors =
    n <= MOST_ALIGNED && m <= MOST_ALIGNED ? commonSubsequence(left.slice(start, start + n), right.slice(start, start + m)) : [];
  let i = 0;
  let j = 0;
  for (const [p, q] of [...anchors, [n, m] as const]) {
    while (i < p && j < q) pairs.push([start + i++, start + j++]);
    i = p;
    j = q;
    if (p < n || q < m) pairs.push([start + i++, start + j++]);
  }
  for (let k = tail; k > 0; k--) pairs.push([a.length - k, b.length - k]);
  return pairs;
}

function commonSubsequence(a: readonly string[], b: readonly string[]): [number, number][] {
  const width = b.length + 1;
  const longest = new Uint16Array((a.length + 1) * width);
  for (let i = a.length - 1; i >= 0; i--) {
    for (let j = b.length - 1; j >= 0; j--) {
      longest[i * width + j] =
        a[i] === b[j] ? longest[(i + 1) * width + j + 1] + 1 : Math.max(longest[(i + 1) * width + j], longest[i * width + j + 1]);
    }
  }
  const pairs: [number, number][] = [];
  for (let i = 0, j = 0; i < a.length && j < b.length;) {
    if (a[i] === b[j]) pairs.push([i++, j++]);
    else if (longest[(i + 1) * width + j] >= longest[i * width + j + 1]) i++;
    else j++;
  }
  return pairs;
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function same(a: unknown, b: unknown): boolean {
  return Object.is(a, b);
}
