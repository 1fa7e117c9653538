/** What a survey learns of one place in the nesting. */
import { pushAll } from "../bytes/lists.js";
import { HashSet, hashBytes } from "../bytes/hash.js";
import { PlaceNode, Wants } from "../formats/format.js";
import { Kind } from "../model/kind.js";
import { LONE_SURROGATE } from "../cells/spelling.js";

const BACKSLASH = 0x5c;
/** Distinct values are told apart up to this many; beyond it a field counts as not unique. */
const MOST_DISTINCT = 1 << 20;
/** Spellings are compared (spaces, case) while a field has at most this many. */
const MOST_TEXTS = 1000;
const LONGEST_TEXT = 200;
/** So many values are kept to see which columns go together. */
const MOST_SAMPLES = 400;
const ISO_DATE = /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])$/;

const INTEGER_TEXT = /^-?(?:0|[1-9]\d*)$/;
const DECIMAL_TEXT = /^-?(?:0|[1-9]\d*)(?:\.\d+)?$/;

export class ShapeNode extends PlaceNode {
  /** Values met here. */
  count = 0;
  /** How many of them of each kind. */
  readonly kinds = new Array<number>(10).fill(0);
  /** Records that have this as a member, once each. */
  records = 0;
  lastRecord = -1;
  /** Times the name stood again in one record. */
  repeated = 0;
  longest = 0;
  example: string | null = null;
  distinct: HashSet | null = new HashSet();
  unique = true;
  /** Values met more than once: the first few. */
  readonly doubles = new Set<string>();
  texts: Map<number, string> | null = new Map();
  allDates = true;
  allIntegers = true;
  /** Texts that are all decimal numbers, as people write them. */
  allDecimals = true;
  /** Records with text between their parts. */
  mixed = 0;
  /** Numbers with more digits than a double holds. */
  longNumbers = 0;
  loneSurrogates = 0;
  /** The first few values by hash, each behind the record that it is in. */
  readonly sample: number[] = [];
  /** Record in which the name was met first, and the first record met here. */
  firstRecord = -1;
  firstSerial = -1;
  /** Small whole numbers one after the other: do they begin with the least and never rise by more than one? */
  readonly outline = { holds: true, record: -1, last: NaN, least: NaN, deepest: 0, rises: 0, falls: 0, same: 0 };
  /** Lengths of the lists met here. */
  items = 0;
  mostItems = 0;
  /** A survey hears everything, and grows where it meets what it does not know. */
  override readonly take = Wants.All;
  override readonly grows = true;

  constructor(readonly depth: number) {
    super();
  }

  scalar(kind: Kind, bytes: Uint8Array, from: number, to: number, textOf: () => string): void {
    this.tally(kind);
    if (kind === Kind.Null) return;
    this.longest = Math.max(this.longest, to - from);
    if (kind !== Kind.Text && kind !== Kind.Number) {
      this.unique = false;
      this.allDates = false;
      this.allIntegers = false;
      this.allDecimals = false;
      this.example ??= textOf();
      return;
    }
    const hash = hashBytes(bytes, from, to);
    if (this.sample.length < 2 * MOST_SAMPLES && this.lastRecord >= 0) this.sample.push(this.lastRecord, hash);
    if (this.outline.holds) this.lookAtDepth(bytes, from, to);
    let text: string | null = null;
    if (this.texts !== null && !this.texts.has(hash)) {
      text = textOf();
      if (this.texts.size >= MOST_TEXTS || text.length > LONGEST_TEXT) this.texts = null;
      else this.texts.set(hash, text);
    }
    if (this.distinct !== null) {
      if (!this.distinct.add(hash)) {
        this.unique = false;
        if (this.doubles.size < 3) this.doubles.add(textOf());
      } else {
        if (text !== null || this.canTell(kind, bytes, from, to)) this.look(kind, text ?? textOf());
        if (this.distinct.size > MOST_DISTINCT) {
          this.distinct = null;
          this.unique = false;
        }
      }
    } else if (this.allDates || this.allIntegers || this.allDecimals) this.look(kind, textOf());
  }

  /** Is there something left to be learned of a text? Without an escape it has no surrogate that stands alone. */
  private canTell(kind: Kind, bytes: Uint8Array, from: number, to: number): boolean {
    if (kind !== Kind.Text || this.example === null || this.example === "") return true;
    if (this.allDates || this.allIntegers || this.allDecimals) return true;
    for (let i = from; i < to; i++) if (bytes[i] === BACKSLASH) return true;
    return false;
  }

  private lookAtDepth(bytes: Uint8Array, from: number, to: number): void {
    const { outline } = this;
    let depth = 0;
    for (let i = from; i < to; i++) depth = 10 * depth + bytes[i] - 0x30;
    const digits =
      to > from && to - from <= 2 && bytes[from] >= 0x30 && bytes[from] <= 0x39 && bytes[to - 1] >= 0x30 && bytes[to - 1] <= 0x39;
    if (!digits) {
      outline.holds = false;
      return;
    }
    const { last } = outline;
    const follows = this.lastRecord === outline.record + 1;
    outline.record = this.lastRecord;
    if (Number.isNaN(last)) outline.least = depth;
    else if (!follows) outline.holds = depth <= last + 1 && depth >= outline.least;
    else if (depth > last + 1 || depth < outline.least) outline.holds = false;
    else if (depth > last) outline.rises++;
    else if (depth < last) outline.falls++;
    else outline.same++;
    outline.deepest = Math.max(outline.deepest, depth);
    outline.last = depth;
  }

  tally(kind: Kind): void {
    this.count++;
    this.kinds[kind]++;
  }

  private look(kind: Kind, text: string): void {
    if (this.example === null || (this.example === "" && text !== "")) this.example = text;
    if (this.allDates && !(kind === Kind.Text && ISO_DATE.test(text)) && text !== "") this.allDates = false;
    if (this.allIntegers && !(kind === Kind.Number ? /^-?\d+$/ : INTEGER_TEXT).test(text) && (kind === Kind.Number || text !== ""))
      this.allIntegers = false;
    if (this.allDecimals && kind === Kind.Text && !DECIMAL_TEXT.test(text) && text !== "") this.allDecimals = false;
    if (kind === Kind.Number && !survives(text)) this.longNumbers++;
    if (kind === Kind.Text && LONE_SURROGATE.test(text)) this.loneSurrogates++;
  }

  get scalars(): number {
    return this.kinds[Kind.Text] + this.kinds[Kind.Number] + this.kinds[Kind.True] + this.kinds[Kind.False];
  }
  get nulls(): number {
    return this.kinds[Kind.Null];
  }
  /** Records with at least one member. */
  get filledRecords(): number {
    return this.kinds[Kind.Record];
  }
  get filledLists(): number {
    return this.kinds[Kind.List];
  }
  get emptyRecords(): number {
    return this.kinds[Kind.EmptyRecord];
  }
  get emptyLists(): number {
    return this.kinds[Kind.EmptyList];
  }
  get members(): ShapeNode[] {
    return this.nameNodes as ShapeNode[];
  }
  get names(): string[] {
    return [...this.byName.keys()];
  }

  /** Takes over what another node learnt, as if all of it had been met here. */
  absorb(other: ShapeNode, parts = true): void {
    this.count += other.count;
    other.kinds.forEach((n, kind) => (this.kinds[kind] += n));
    this.records += other.records;
    this.repeated += other.repeated;
    this.longest = Math.max(this.longest, other.longest);
    if (this.example === null || this.example === "") this.example = other.example;
    this.allDates &&= other.allDates;
    this.allIntegers &&= other.allIntegers;
    this.allDecimals &&= other.allDecimals;
    this.mixed += other.mixed;
    this.longNumbers += other.longNumbers;
    this.loneSurrogates += other.loneSurrogates;
    this.items += other.items;
    this.mostItems = Math.max(this.mostItems, other.mostItems);
    if (this.sample.length === 0) pushAll(this.sample, other.sample);
    if (this.firstSerial < 0) this.firstSerial = other.firstSerial;
    if (this.firstRecord < 0) this.firstRecord = other.firstRecord;
    Object.assign(this.outline, Number.isNaN(this.outline.last) ? other.outline : { holds: false });
    for (const double of other.doubles) if (this.doubles.size < 3) this.doubles.add(double);
    this.unique &&= other.unique;
    if (this.distinct === null || other.distinct === null) this.distinct = null;
    else for (const hash of other.distinct) if (!this.distinct.add(hash)) this.unique = false;
    if (this.texts !== null && other.texts !== null) for (const [hash, text] of other.texts) this.texts.set(hash, text);
    else this.texts = null;
    if (!parts) return;
    if (other.own !== null) {
      if (this.own === null) this.own = other.own;
      else (this.own as ShapeNode).absorb(other.own as ShapeNode);
    }
    other.byName.forEach((node, name) => {
      const mine = this.byName.get(name) as ShapeNode | undefined;
      if (mine === undefined) this.addName(name, node, other.nameBytes[other.nameNodes.indexOf(node)]);
      else mine.absorb(node as ShapeNode);
    });
    for (const side of ["any", "item"] as const) {
      const mine = this[side] as ShapeNode | null;
      const theirs = other[side] as ShapeNode | null;
      if (mine === null) this[side] = theirs;
      else if (theirs !== null) mine.absorb(theirs);
    }
  }

  /** What is met here again in one record is a list: turns this node into one, its values into the items. */
  makeList(): void {
    const item = new ShapeNode(this.depth + 1);
    item.absorb(this);
    item.records = this.records;
    item.repeated = 0;
    this.items = this.count;
    this.count = this.records;
    this.kinds.fill(0);
    this.kinds[Kind.List] = this.records;
    this.repeated = this.mixed = 0;
    this.forget();
    this.own = null;
    this.item = item;
  }

  /** All that is known of the text of a record, whether it has other parts or not. */
  ownText(): ShapeNode | null {
    if (this.own === null) return null;
    const text = new ShapeNode(this.depth + 1);
    text.absorb(this.own as ShapeNode);
    if (this.scalars > 0) text.absorb(this, false);
    text.kinds[Kind.Record] = 0;
    text.records = text.kinds[Kind.Text];
    text.count = text.records;
    return text;
  }

  private forget(): void {
    this.byName.clear();
    this.nameBytes.length = 0;
    this.nameWords.length = 0;
    this.nameNodes.length = 0;
    this.hint = 0;
  }

  /** Turns the named members into members of a keyed record: one node for all of them. */
  collapse(): ShapeNode {
    const all = (this.any as ShapeNode | null) ?? new ShapeNode(this.depth + 1);
    for (const member of this.members) all.absorb(member);
    this.forget();
    this.any = all;
    return all;
  }
}

/** Does a number literal mean the same after a trip through a double? */
function survives(text: string): boolean {
  const digits = (literal: string): string =>
    literal
      .replace(/[eE].*$/, "")
      .replace(/[-.]/g, "")
      .replace(/^0+|0+$/g, "");
  return digits(String(Number(text))) === digits(text);
}
