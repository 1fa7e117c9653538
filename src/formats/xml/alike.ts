/**
 * Records that are worded alike: what stands before, between and behind their values is the same.
 *
 * Records of one kind repeat their tags, the order of these and the white space. The wording of a record
 * that was scanned is kept, in a tree of those that begin alike. Where such a wording stands again it
 * means what it meant before, so that only the values in it have to be looked at. A record with any
 * other wording, or with a value that is more than plain text, is scanned as if there were no wordings.
 */
import { utf8Length } from "../../bytes/utf8.js";
import type { WindowScanner } from "../../bytes/window.js";
import { doublesOf, firstOf, sameDoubles, sameWords, wordsOf } from "../../bytes/words.js";
import type { PlaceNode } from "../format.js";
import type { Span } from "../../edits/edit.js";
import { ENDS, GOES_ON, HIGH, IN_TEXT, IS_SPACE, LESS, stopsText, stopsValue } from "./bytes.js";
import { CUT } from "./runs.js";

/** Longer records are not looked for again. */
const LONGEST_WORDING = 1 << 13;
/** So many wordings are kept of the records in one place, all their parts counted. */
const MOST_PARTS = 200;
/** Where two of three records are worded otherwise, no more is looked for after so many. */
const PATIENCE = 100;

/** A value that stands behind a part of the wording. */
export interface ValuePlace {
  readonly node: PlaceNode;
  /** What it ends at: the quote around it, or `<`. 0 for `<a/>`, which has no text. */
  readonly stop: number;
  /** Bytes of the value before its text, and behind it. */
  readonly before: number;
  readonly after: number;
  /** Its name, counted back from the text. */
  readonly nameBack: number;
  readonly nameLength: number;
  readonly index: number;
}

/** What stands before a value, or behind the last one. */
export class Wording {
  private readonly words: Int32Array;
  private readonly doubles: Float64Array | null;
  readonly next: Wording[] = [];

  constructor(
    readonly bytes: Uint8Array,
    /** The value behind it; `null` where the record ends. */
    readonly place: ValuePlace | null,
  ) {
    this.words = wordsOf(bytes);
    this.doubles = doublesOf(bytes);
  }

  stands(buf: Uint8Array, words: DataView, at: number): boolean {
    if (this.doubles !== null) return sameDoubles(words, at, this.bytes.length, this.doubles);
    return sameWords(buf, words, at, this.bytes, this.words);
  }

  equals(bytes: Uint8Array): boolean {
    return bytes.length === this.bytes.length && bytes.every((byte, i) => byte === this.bytes[i]);
  }
}

/** A record that is being scanned, and how it is worded. Offsets are those in the source. */
export class Learning {
  private readonly values: { readonly place: ValuePlace; readonly from: number; readonly to: number }[] = [];

  constructor(
    readonly depth: number,
    /** Where the white space before the record begins. */
    readonly from: number,
  ) {}

  /** A value of the record; false when it stands before one that came first. */
  put(place: ValuePlace, from: number, to: number): boolean {
    const last = this.values.at(-1);
    if (last !== undefined && from < last.to) return false;
    this.values.push({ place, from, to });
    return true;
  }

  /** The record ends: its wording is kept, if it is short and in view with nothing but white space before it. */
  keep(known: Wordings, node: PlaceNode, tag: Span, { window, base }: WindowScanner, end: number): void {
    if (this.from < base || end - this.from > LONGEST_WORDING) return;
    for (let i = this.from; i < tag.start; i++) if (IS_SPACE[window[i - base]] !== 1) return;
    let at = this.from;
    const wording = this.values.map(({ from, to }) => {
      const bytes = window.slice(at - base, from - base);
      at = to;
      return bytes;
    });
    wording.push(window.slice(at - base, end - base));
    known.keep(
      node,
      tag.end - tag.start - 1,
      wording,
      this.values.map(({ place }) => place),
    );
  }
}

/** The wordings of the records right inside one place. */
export class Wordings {
  /** What the last match found: the values, their texts, and the row that the record is. */
  values = 0;
  readonly places: ValuePlace[] = [];
  readonly starts: number[] = [];
  readonly ends: number[] = [];
  row: PlaceNode | null = null;
  nameLength = 0;

  private readonly first: Wording[] = [];
  private readonly rows = new Map<Wording, { readonly node: PlaceNode; readonly nameLength: number }>();
  private parts = 0;
  private balance = PATIENCE;

  /** Is it worth while to look for records that are alike? */
  get worth(): boolean {
    return this.balance > 0;
  }

  get full(): boolean {
    return this.parts >= MOST_PARTS;
  }

  /** Keeps how a record was worded: `wording[k]` stands before the value at `places[k]`, the last one behind all values. */
  keep(node: PlaceNode, nameLength: number, wording: readonly Uint8Array[], places: readonly ValuePlace[]): void {
    let among = this.first;
    for (const [k, bytes] of wording.entries()) {
      const place = places[k] ?? null;
      let part = among.find((one) => one.equals(bytes));
      if (part === undefined) {
        part = new Wording(bytes, place);
        among.push(part);
        this.parts++;
      }
      if (place === null) this.rows.set(part, { node, nameLength });
      among = part.next;
    }
  }

  /** Position behind the record that begins at `from`, if it is worded like one before; else CUT. */
  match(buf: Uint8Array, words: DataView, from: number, limit: number): number {
    let at = from;
    let among = this.first;
    for (let n = 0; ; n++) {
      let part: Wording | null = null;
      for (let k = 0; k < among.length && part === null; k++) {
        const one = among[k];
        if (at + one.bytes.length < limit && one.stands(buf, words, at)) part = one;
      }
      if (part === null) break;
      at += part.bytes.length;
      const { place } = part;
      if (place === null) {
        this.values = n;
        const { node, nameLength } = this.rows.get(part)!;
        this.row = node;
        this.nameLength = nameLength;
        this.balance = Math.min(PATIENCE, this.balance + 2);
        return at;
      }
      const end =
        place.stop === 0 ? at : place.stop === LESS ? textEnd(buf, words, at, limit) : valueEnd(buf, words, at, limit, place.stop);
      if (end === CUT) break;
      this.places[n] = place;
      this.starts[n] = at;
      this.ends[n] = at = end;
      among = part.next;
    }
    // before anything is known there is nothing to be missed
    if (this.parts > 0) this.balance--;
    return CUT;
  }
}

/** End of a plain text that no white space surrounds. */
function textEnd(buf: Uint8Array, words: DataView, from: number, limit: number): number {
  let i = from;
  for (;;) {
    let found = stopsText(words.getInt32(i, true));
    while (found === 0) found = stopsText(words.getInt32((i += 4), true));
    i += firstOf(found);
    if (i >= limit) return CUT;
    const cls = IN_TEXT[buf[i]];
    if (cls === ENDS) break;
    const length = cls === GOES_ON ? 1 : cls === HIGH ? utf8Length(buf, i, limit) : 0;
    if (length <= 0) return CUT;
    i += length;
  }
  return i > from && (IS_SPACE[buf[from]] === 1 || IS_SPACE[buf[i - 1]] === 1) ? CUT : i;
}

/** End of a plain value in quotes. */
function valueEnd(buf: Uint8Array, words: DataView, from: number, limit: number, quote: number): number {
  const four = quote * 0x01010101;
  let i = from;
  for (;;) {
    let found = stopsValue(words.getInt32(i, true), four);
    while (found === 0) found = stopsValue(words.getInt32((i += 4), true), four);
    i += firstOf(found);
    if (i >= limit) return CUT;
    if (buf[i] === quote) return i;
    const length = IN_TEXT[buf[i]] === HIGH ? utf8Length(buf, i, limit) : 0;
    if (length <= 0) return CUT;
    i += length;
  }
}
