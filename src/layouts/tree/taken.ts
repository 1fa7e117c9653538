/** Paths that were written, and are those of other records, or would be but for a space. */
import { pushTo } from "../../model/push-to.js";
import type { ProblemList } from "../../model/problem-list.js";
import { normalised } from "../../cells/normalised.js";
import type { TreeIndex } from "./tree-index.js";
import { same, type Fresh, type KnownRow, type Spot, type Spots } from "./spots.js";

/** A row whose path was written. */
export interface WrittenPath {
  readonly number: number;
  readonly value: string;
  readonly spot: { readonly place: number } | { readonly fresh: Fresh };
}

export interface TreeRows {
  readonly index: TreeIndex;
  readonly spots: Spots;
  readonly known: ReadonlyMap<number, KnownRow>;
  readonly fresh: readonly Fresh[];
  /** Records that go. */
  readonly removed: ReadonlyMap<number, number>;
  readonly say: { readonly table: string; readonly file: string };
  readonly problems: ProblemList;
}

/**
 * Where the source keeps paths, a record is known by its own; elsewhere two may be called alike below one record, but where
 * none are so far it is not by a path that one is put there.
 */
export function checkPaths(written: readonly WrittenPath[], title: string, rows: TreeRows): void {
  if (written.length === 0) return;
  const { index, spots, known, fresh, removed, say, problems } = rows;
  const names = new Map<string, Spot[]>();
  const nearly = new Map<string, Spot[]>();
  const put = (spot: Spot, above: Spot | null, name: string): void => {
    pushTo(names, wordOf(above, name), spot);
    pushTo(nearly, wordOf(above, normalised(name)), spot);
  };
  const nameOf = (place: number): string => spots.renamed.get(place) ?? index.labels[place];
  const before = new Set<string>();
  let twice = false;
  for (let place = 0; place < index.count; place++) {
    const was = wordOf(spots.was(place), index.labels[place]);
    twice ||= before.has(was);
    before.add(was);
    if (!removed.has(place)) put({ place }, spots.now(place), nameOf(place));
  }
  for (const one of fresh) put({ fresh: one }, one.spot, one.label);
  const near: { key: string; row: number; other: string }[] = [];
  const slight: number[] = [];
  for (const { number, value, spot } of written) {
    const [above, name] = "place" in spot ? [spots.now(spot.place), nameOf(spot.place)] : [spot.fresh.spot, spot.fresh.label];
    const others = (found: Map<string, Spot[]>, word: string): Spot[] => (found.get(word) ?? []).filter((one) => !same(one, spot));
    const [taken] = others(names, wordOf(above, name));
    if (taken !== undefined && (index.tree.kind === "path" || !twice)) {
      const row = "place" in taken ? (known.get(taken.place)?.number ?? null) : "fresh" in taken ? taken.fresh.number : null;
      problems.add("tree-taken", { path: value, row }, { ...say, row: number, column: title, value });
      continue;
    }
    const [other] = others(nearly, wordOf(above, normalised(name)));
    if (taken === undefined && other !== undefined) near.push({ key: value, row: number, other: pathTo(other, rows) });
    if ("place" in spot && name !== index.labels[spot.place] && normalised(name) === normalised(index.labels[spot.place]))
      slight.push(number);
  }
  if (near.length > 0) problems.note("keys-near", { title, near }, say.table);
  // where the source keeps paths no cell of the record's own is edited, of which this would be told
  if (slight.length > 0 && index.tree.kind === "path") problems.note("edits-slight", { title, rows: slight }, say.table);
}

function wordOf(above: Spot | null, name: string): string {
  if (above === null) return `none ${name}`;
  if ("top" in above) return `top ${JSON.stringify(above.top)} ${name}`;
  if ("text" in above) return `text ${JSON.stringify(above.text)} ${name}`;
  return "place" in above ? `place ${above.place} ${name}` : `row ${above.fresh.number} ${name}`;
}

function pathTo(spot: Spot, { index, spots }: TreeRows): string {
  return index.pathOf(spots.namesNow(spot) ?? [spots.nameOf(spot)]);
}
