/** Where the records of a tree are: as the source has it, and as a sheet moves them. */
import type { TreeIndex } from "./tree-index.js";

/** Where a record goes: below one of the source, below a new one, to the top of something, or where nobody knows. */
export type Spot = { readonly place: number } | { readonly fresh: Fresh } | { readonly text: string } | { readonly top: string };

/** A row that is no record of the source yet. */
export interface Fresh {
  readonly number: number;
  /** What others call it. */
  readonly name: string;
  readonly cells: (string | undefined)[];
  /** What paths call it. */
  label: string;
  spot: Spot | null;
}

/** Longer paths than this go round in a circle. */
const MOST_STEPS = 10_000;

export class Spots {
  /** Places to which records of the source go now. */
  readonly moved = new Map<number, Spot>();
  /** What records of the source are called now. */
  readonly renamed = new Map<number, string>();

  constructor(private readonly index: TreeIndex) {}

  /** Where a record of the source was. */
  was(place: number): Spot {
    const upper = this.index.uppers[place];
    return upper < 0 ? { top: this.index.outers[place] } : { place: upper };
  }

  now(place: number): Spot {
    return this.moved.get(place) ?? this.was(place);
  }

  /** What is above, after all edits. */
  upperOf(spot: Spot): Spot | null {
    if ("top" in spot || "text" in spot) return null;
    return "place" in spot ? this.now(spot.place) : spot.fresh.spot;
  }

  /** Names from the top as the source has them, of where the records are now; `null` where nobody can tell. */
  namesTo(spot: Spot, label = (place: number): string => this.index.labels[place]): string[] | null {
    const names: string[] = [];
    for (let at: Spot | null = spot; ; at = this.upperOf(at)) {
      if (at === null || "text" in at || names.length > MOST_STEPS) return null;
      if ("top" in at) return this.index.startsOutside ? [at.top, ...names] : names;
      names.unshift("place" in at ? label(at.place) : at.fresh.label);
    }
  }

  /** The same with the names as they are now. */
  namesNow(spot: Spot): string[] | null {
    return this.namesTo(spot, (place) => this.renamed.get(place) ?? this.index.labels[place]);
  }

  /** What the record at the top is in. */
  topOf(spot: Spot): string | null {
    let at: Spot | null = spot;
    for (let steps = 0; at !== null && steps < MOST_STEPS; steps++) {
      if ("top" in at) return at.top;
      at = this.upperOf(at);
    }
    return null;
  }

  nameOf(spot: Spot): string {
    if ("top" in spot) return "";
    if ("text" in spot) return spot.text;
    return "place" in spot ? this.index.labels[spot.place] : spot.fresh.label === "" ? spot.fresh.name : spot.fresh.label;
  }

  /** Names of those above a record that is above itself. */
  loop(spot: Spot): string[] | null {
    const loop = [this.nameOf(spot)];
    for (let at = this.upperOf(spot); at !== null && !("top" in at) && loop.length < MOST_STEPS; at = this.upperOf(at)) {
      loop.push(this.nameOf(at));
      if (same(at, spot)) return loop;
    }
    return null;
  }
}

export function same(a: Spot | null, b: Spot): boolean {
  if (a === null) return false;
  if ("top" in a) return "top" in b && a.top === b.top;
  if ("text" in a) return "text" in b && a.text === b.text;
  if ("place" in a) return "place" in b && a.place === b.place;
  return "fresh" in b && a.fresh === b.fresh;
}

/** Places of the sheet's columns; -1 for those that it cannot have. */
export interface TreeColumns {
  readonly outer: number;
  readonly upper: number;
  readonly depth: number;
  readonly path: number;
  readonly label: number;
  readonly key: number;
}

/** A row of a record of the source. */
export interface KnownRow {
  readonly number: number;
  readonly place: number;
  readonly cells: (string | undefined)[];
}
