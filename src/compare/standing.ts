/** Where the rows of a sheet that stand for records are, and a hash of what they say: some twenty bytes each. */
import { Pages } from "../bytes/pages.js";

export const enum Action {
  None,
  Remove,
  Skip,
}

export interface Standing {
  /** Number of the row in the sheet. */
  readonly row: number;
  readonly hash: number;
  readonly action: Action;
  /** Where its bytes are. */
  readonly offset: number;
  readonly length: number;
}

/** A length that stands for a longer one, which is kept apart. */
const LONG = 0xffff;
const WORD = 2 ** 32;

/** The rows by number, from 0, in the order in which they were met. */
export class Standings {
  count = 0;
  private readonly rows = new Pages(Int32Array);
  private readonly hashes = new Pages(Float64Array);
  private readonly offsets = new Pages(Uint32Array);
  private readonly lengths = new Pages(Uint16Array);
  // what few rows have
  private readonly actions = new Map<number, Action>();
  private readonly longs = new Map<number, number>();
  /** How often four gigabytes are before a row; filled only in sheets of more than that. */
  private readonly beyond = new Pages(Uint8Array);

  /** Adds a row, and returns its number. */
  add(standing: Standing): number {
    this.set(this.count, standing);
    return this.count++;
  }

  set(n: number, { row, hash, action, offset, length }: Standing): void {
    this.rows.set(n, row);
    this.hashes.set(n, hash);
    this.offsets.set(n, offset % WORD);
    this.lengths.set(n, Math.min(length, LONG));
    if (action !== Action.None) this.actions.set(n, action);
    else if (this.actions.size > 0) this.actions.delete(n);
    if (length >= LONG) this.longs.set(n, length);
    if (offset >= WORD || n < this.beyond.length) this.beyond.set(n, Math.floor(offset / WORD));
  }

  at(n: number): Standing {
    return { row: this.row(n), hash: this.hash(n), action: this.action(n), offset: this.offset(n), length: this.length(n) };
  }

  row(n: number): number {
    return this.rows.at(n);
  }

  hash(n: number): number {
    return this.hashes.at(n);
  }

  action(n: number): Action {
    return this.actions.get(n) ?? Action.None;
  }

  offset(n: number): number {
    return this.offsets.at(n) + (n < this.beyond.length ? this.beyond.at(n) * WORD : 0);
  }

  length(n: number): number {
    const length = this.lengths.at(n);
    return length < LONG ? length : this.longs.get(n)!;
  }
}
