/** Where texts can be cut between the records of one list, so that what is left is read the same. */
import { Pages } from "../bytes/pages.js";
import type { RecordStarts } from "../formats/format.js";

/** Places at which a text can be cut, in order. What stands between two of them in one list is some whole records of it. */
export interface CutPoints {
  readonly count: number;
  /** Offset in the text. */
  at(index: number): number;
  /** Number of the line that begins there, where that is known. */
  line(index: number): number;
  /** The list that a place is in: another number for each list. */
  list(index: number): number;
}

/** So many bytes lie between two places, or more: more in longer texts, so that the places of some 100 MB are less than half a million. */
const APART = 128;
const SHARE = 2 ** -17;

/** Places between the records of one table, kept while they are read: not before the first record of a list. */
export class ListCuts {
  private readonly starts = new Pages(Float64Array);
  private readonly lists = new Pages(Int32Array);
  private list = 0;
  private last = -Infinity;

  /** A record that begins here; `adjoins`: nothing but what separates them is between it and the one before it in its list. */
  add(start: number, adjoins: boolean): void {
    if (!adjoins) {
      this.list++;
      this.last = start;
    } else if (start - this.last >= Math.max(APART, start * SHARE)) {
      this.last = start;
      this.starts.push(start);
      this.lists.push(this.list);
    }
  }

  /** Those in a file whose text begins at `base`, as offsets in that. */
  within(base: number, size: number): CutPoints {
    const { starts, lists } = this;
    const first = firstFrom(starts, base);
    return {
      count: firstFrom(starts, base + size) - first,
      at: (index) => starts.at(first + index) - base,
      line: () => 0,
      list: (index) => lists.at(first + index),
    };
  }
}

/** Records at the top of a file of lines: they are all in one list. */
export function cutsBetween({ starts, lines }: RecordStarts): CutPoints {
  return { count: starts.length, at: (index) => starts.at(index), line: (index) => lines.at(index), list: () => 0 };
}

/** The first index whose number, of numbers that grow, is not below another one. */
export function firstFrom(numbers: Pages, least: number): number {
  let [low, high] = [0, numbers.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (numbers.at(middle) < least) low = middle + 1;
    else high = middle;
  }
  return low;
}
