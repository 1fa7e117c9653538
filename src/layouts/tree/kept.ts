/**
 * Trees of which the source keeps paths, or depths in an ordered list: a record that moves takes along what
 * is below it, which there are records of their own. Their paths and depths change with it, and where depths
 * are kept also their places in the list.
 */
import { pushAll } from "../../bytes/lists.js";
import { nearest } from "../../errors/nearest.js";
import type { ProblemList } from "../../model/problem-list.js";
import type { Placing } from "../layout.js";
import { depthIn, joinPath, type TreeIndex } from "./tree-index.js";
import { same, type Fresh, type Spot, type Spots, type KnownRow, type TreeColumns } from "./spots.js";

interface Given {
  readonly index: TreeIndex;
  readonly at: TreeColumns;
  readonly titles: readonly string[];
  readonly spots: Spots;
  readonly known: Map<number, KnownRow>;
  readonly removed: ReadonlyMap<number, number>;
  readonly fresh: readonly Fresh[];
  readonly say: { readonly table: string; readonly file: string };
  readonly problems: ProblemList;
}

/** A record in the list of the source, or one that goes there. */
type Node = { readonly place: number } | { readonly fresh: Fresh };
type Below = Map<string, Node[]>;

function wordOf(node: Node): string {
  return "place" in node ? String(node.place) : `row ${node.fresh.number}`;
}

export class KeptTree {
  /** Records whose own cells change, as they move or what is above them does. */
  private readonly touched = new Set<number>();
  private readonly depths = new Map<number, number>();

  constructor(private readonly given: Given) {
    const { index, spots } = given;
    const { moved, renamed } = spots;
    if (moved.size + renamed.size > 0) {
      const seen = new Map<number, boolean>();
      for (let place = 0; place < index.count; place++) {
        const line: number[] = [];
        let at: number = place;
        let found = false;
        while (at >= 0 && !found && line.length <= index.count) {
          found = moved.has(at) || (index.tree.kind === "path" && renamed.has(at)) || seen.get(at) === true;
          if (seen.get(at) === false) break;
          line.push(at);
          if (!found) at = index.uppers[at];
        }
        for (const one of line) seen.set(one, found);
        if (found) this.touched.add(place);
      }
    }
    this.check();
  }

  /** Records that need a row and have none. */
  missing(): Set<number> {
    const { known, removed } = this.given;
    return new Set([...this.touched].filter((place) => !known.has(place) && !removed.has(place)));
  }

  add(row: KnownRow): void {
    this.given.known.set(row.place, row);
  }

  /** Writes what the source keeps into the rows; and says which of them go where in their lists. */
  write(): ReadonlyMap<number, Placing> {
    const { index, at, known, fresh, spots } = this.given;
    const depth = index.tree.kind === "depth";
    if (this.touched.size + fresh.length === 0) return new Map();
    for (const { place, cells } of known.values()) {
      // a sheet in which one row has a cell has it in all
      if (depth) cells[at.depth] ??= index.depthText(place);
      else cells[at.path] ??= index.pathText(place);
      if (at.outer >= 0) cells[at.outer] ??= index.outers[place];
      if (!this.touched.has(place)) continue;
      this.put(cells, { place });
      if (depth) cells[at.depth] = this.depthText(place);
    }
    for (const one of fresh) {
      this.put(one.cells, { fresh: one });
      if (depth) one.cells[at.depth] = this.written(this.depthOf({ fresh: one }));
    }
    if (!depth) return this.ranks();
    return spots.moved.size > 0 || fresh.length > 0 ? this.places() : new Map();
  }

  /** New records behind those that they are below, which may be new, too. */
  private ranks(): Map<number, Placing> {
    const placings = new Map<number, Placing>();
    const rank = (one: Fresh): void => {
      if (placings.has(one.number)) return;
      placings.set(one.number, { rank: -1, says: null });
      if (one.spot !== null && "fresh" in one.spot) rank(one.spot.fresh);
      placings.set(one.number, { rank: count++, says: null });
    };
    let count = 0;
    for (const one of this.given.fresh) rank(one);
    return placings;
  }

  private put(cells: (string | undefined)[], spot: Spot): void {
    const { index, at, spots } = this.given;
    const names = spots.namesNow(spot);
    if (names !== null && index.tree.kind === "path") cells[at.path] = index.pathOf(names);
    const top = spots.topOf(spot);
    if (at.outer >= 0 && top !== null) cells[at.outer] = top;
  }

  /** What a record was moved below must be there, and what is below a record that goes must go, too. */
  private check(): void {
    const { index, at, titles, spots, known, removed, fresh, say, problems } = this.given;
    const lost = (spot: Spot | null, row: number): void => {
      const place = { ...say, row, column: titles[at.upper] };
      if (spot !== null && "text" in spot) {
        const parent = { parent: say.table, key: index.table.plan.key ?? "fold mark" };
        problems.add(
          "parent-unknown",
          { ...parent, text: spot.text, nearest: nearest(spot.text, index.idents) },
          { ...place, value: spot.text },
        );
      } else if (spot !== null && "place" in spot && removed.has(spot.place)) {
        const facts = { record: spots.nameOf(spot), row: removed.get(spot.place)! };
        problems.add("tree-left", facts, { ...place, value: "" });
      }
    };
    for (const one of fresh) lost(one.spot, one.number);
    for (const [place, spot] of spots.moved) lost(spot, known.get(place)?.number ?? 0);
    if (removed.size === 0) return;
    for (let place = 0; place < index.count; place++) {
      if (!removed.has(place) && !spots.moved.has(place)) lost(spots.was(place), known.get(place)?.number ?? 0);
    }
  }

  // ---- depths

  private depthOf(spot: Spot): number {
    const { index, spots } = this.given;
    if ("top" in spot || "text" in spot) return index.base - 1;
    if ("fresh" in spot) return spot.fresh.spot === null ? index.base : this.depthOf(spot.fresh.spot) + 1;
    const { place } = spot;
    const known = this.depths.get(place);
    if (known !== undefined) return known;
    const was = depthIn(index.said[place]);
    const own = Number.isNaN(was) ? index.base : was;
    this.depths.set(place, own); // for circles, which are told of elsewhere
    const above = index.uppers[place];
    const moved = spots.moved.get(place);
    const now =
      moved !== undefined
        ? this.depthOf(moved) + 1
        : above < 0
          ? own
          : own + this.depthOf({ place: above }) - (depthIn(index.said[above]) || index.base);
    this.depths.set(place, now);
    return now;
  }

  private depthText(place: number): string {
    const { said } = this.given.index;
    const depth = this.depthOf({ place });
    return depth === depthIn(said[place]) ? said[place] : this.written(depth);
  }

  /** With as many digits as the source has. */
  private written(depth: number): string {
    const { index } = this.given;
    const model = index.said[0] ?? "";
    return String(depth).padStart(/^0\d/.test(model) ? model.length : 0, "0");
  }

  /** The order of the lists in which the tree stands now, from the top down, each record before what is below it. */
  private places(): Map<number, Placing> {
    const { index, spots, known, removed, fresh } = this.given;
    const below: Below = new Map();
    const into = (word: string, node: Node): void => {
      const nodes = below.get(word);
      if (nodes === undefined) below.set(word, [node]);
      else nodes.push(node);
    };
    const listOf = new Map<string, number>();
    for (let place = 0; place < index.count; place++)
      if (!listOf.has(index.outers[place])) listOf.set(index.outers[place], index.lists[place]);
    for (let place = 0; place < index.count; place++) {
      if (removed.has(place) || spots.moved.has(place)) continue;
      into(index.uppers[place] < 0 ? `list ${index.lists[place]}` : `${index.uppers[place]}`, { place });
    }
    const arriving = [
      ...[...spots.moved].map(([place, spot]) => ({ node: { place }, spot, number: known.get(place)!.number })),
      ...fresh.map((one) => ({ node: { fresh: one }, spot: one.spot!, number: one.number })),
    ].sort((a, b) => a.number - b.number);
    for (const { node, spot } of arriving) {
      if ("place" in spot) into(String(spot.place), node);
      else if ("fresh" in spot) into(`row ${spot.fresh.number}`, node);
      else if ("top" in spot) {
        const own = "place" in node && index.outers[node.place] === spot.top ? index.lists[node.place] : listOf.get(spot.top);
        into(own === undefined ? `new ${spot.top}` : `list ${own}`, node);
      }
    }
    const placings = new Map<number, Placing>();
    for (const word of [...below.keys()].filter((one) => /^(?:list|new) /.test(one))) {
      const order: Node[] = [];
      const open = [...below.get(word)!].reverse();
      while (open.length > 0) {
        const node = open.pop()!;
        order.push(node);
        pushAll(open, [...(below.get(wordOf(node)) ?? [])].reverse());
      }
      this.placeIn(word, order, below, placings);
    }
    return placings;
  }

  /** Records that are where they were stay; the others go behind the one before them. */
  private placeIn(word: string, order: readonly Node[], below: Below, placings: Map<number, Placing>): void {
    const { index, known } = this.given;
    const mine = (node: Node): number => ("place" in node && word === `list ${index.lists[node.place]}` ? node.place : -1);
    const fixed = order.map((node) => (mine(node) >= 0 && !this.touched.has(mine(node)) ? mine(node) : -1));
    const next: number[] = [];
    for (let i = order.length - 1, after = Infinity; i >= 0; i--) {
      if (fixed[i] >= 0) after = fixed[i];
      next[i] = after;
    }
    let last = -1;
    const stays = order.map((node, i) => {
      const place = mine(node);
      const fits = fixed[i] >= 0 || (place > last && place < next[i]);
      if (fits) last = place;
      return fits;
    });
    let before: number | null = null;
    const first = stays.indexOf(true);
    for (const [rank, node] of order.entries()) {
      if (stays[rank]) {
        before = mine(node);
        const says = this.says(node, below);
        if (says !== null) placings.set(known.get(before)!.number, { stays: true, rank, says });
        continue;
      }
      const beside =
        before !== null
          ? { at: index.ends[before], before: false }
          : first >= 0
            ? { at: index.starts[mine(order[first])], before: true }
            : undefined;
      const row = "place" in node ? known.get(node.place)!.number : node.fresh.number;
      placings.set(row, { beside, rank, says: this.says(node, below) });
    }
  }

  /** What a report says of a record that was moved itself, or added. */
  private says(node: Node, below: Below): Placing["says"] {
    const { index, spots } = this.given;
    const path = (spot: Spot): string => {
      const names = spots.namesNow(spot);
      return names === null ? spots.nameOf(spot) : joinPath(names);
    };
    if ("fresh" in node) return { old: "", new: path(node.fresh.spot!), holds: 0 };
    const { place } = node;
    const moved = spots.moved.get(place);
    const was = spots.was(place);
    if (moved === undefined || same(moved, was)) return null;
    const old = "place" in was ? (index.pathTo(was.place) ?? []) : index.startsOutside && "top" in was ? [was.top] : [];
    return { old: joinPath(old), new: path(moved), holds: this.holds(node, below) };
  }

  private holds(node: Node, below: Below): number {
    const known = (below.get(wordOf(node)) ?? []).filter((one) => "place" in one && !this.given.spots.moved.has(one.place));
    return known.reduce((sum, one) => sum + 1 + this.holds(one, below), 0);
  }
}
