/** Where the rows of a sheet that stand for records are, and a hash of what they say: some twenty bytes each. */
import { Pages } from "../bytes/pages.js";

export const enum Action {
  None,
  Remove,
  Skip,
}

export interface SheetEntry {
  /** Number of the row in the sheet. */
  readonly row: number;
  readonly hash: number;
  readonly action: Action;
  /** Where its bytes are. */
  readonly offset: number;
  readonly length: number;
  /** The bytes, where they have been kept. */
  readonly bytes?: Uint8Array;
}

/** A length that stands for a longer one, which is kept apart. */
const LONG = 0xffff;
const WORD = 2 ** 32;

/** What is known of rows that stand for records, by the record's place in its table, from 0. */
export interface SheetIndex {
  /** Number of the row, or 0 when none stands for the record. */
  row(place: number): number;
  hash(place: number): number;
  action(place: number): Action;
  at(place: number): SheetEntry;
  set(place: number, standing: SheetEntry): void;
}

/** Rows in any order. */
export class IndexPages implements SheetIndex {
  private readonly rows = new Pages(Int32Array);
  private readonly hashes = new Pages(Float64Array);
  private readonly offsets = new Pages(Uint32Array);
  private readonly lengths = new Pages(Uint16Array);
  // what few rows have
  private readonly actions = new Map<number, Action>();
  private readonly longs = new Map<number, number>();
  /** How often four gigabytes are before a row. */
  private readonly beyond = new Map<number, number>();

  set(place: number, { row, hash, action, offset, length }: SheetEntry): void {
    this.rows.set(place, row);
    this.hashes.set(place, hash);
    this.offsets.set(place, offset % WORD);
    this.lengths.set(place, Math.min(length, LONG));
    keep(this.actions, place, action);
    keep(this.longs, place, length < LONG ? 0 : length);
    keep(this.beyond, place, Math.floor(offset / WORD));
  }

  at(place: number): SheetEntry {
    const length = this.lengths.at(place);
    return {
      row: this.row(place),
      hash: this.hash(place),
      action: this.action(place),
      offset: this.offsets.at(place) + WORD * (this.beyond.get(place) ?? 0),
      length: length < LONG ? length : this.longs.get(place)!,
    };
  }

  row(place: number): number {
    return this.rows.at(place);
  }

  hash(place: number): number {
    return this.hashes.at(place);
  }

  action(place: number): Action {
    return this.actions.get(place) ?? Action.None;
  }
}

function keep(map: Map<number, number>, place: number, value: number): void {
  if (value !== 0) map.set(place, value);
  else if (map.size > 0) map.delete(place);
}
