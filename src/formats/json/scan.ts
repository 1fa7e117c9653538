/**
 * The JSON scanner (RFC 8259): a push scanner with byte spans, no recursion, no tree.
 *
 * It checks the whole text, decodes nothing, and tells its listener only what the guide wants. A
 * token that a chunk cuts in two is scanned again when the rest has come, from the name of the
 * member it belongs to, so that name and value are always in view together.
 */
import { hashName } from "../../bytes/hash.js";
import { WindowScanner } from "../../bytes/window.js";
import { utf8Length } from "../../bytes/utf8.js";
import { below, equalTo, firstOf, HIGH_BITS, sameWords } from "../../bytes/words.js";
import { SourceError } from "../../errors/error.js";
import type { Code, Facts } from "../../errors/words.js";
import { Wants, type PlaceNode, type Listener, type WritingStyle, type Scanner } from "../format.js";
import type { Trail, TrailStep } from "../../model/trail.js";
import { Kind } from "../../model/kind.js";
import { decodeText } from "./text.js";

const LF = 0x0a;
const CR = 0x0d;
const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const OPEN_RECORD = 0x7b;
const CLOSE_RECORD = 0x7d;
const OPEN_LIST = 0x5b;
const CLOSE_LIST = 0x5d;
const COMMA = 0x2c;
const COLON = 0x3a;
const MINUS = 0x2d;
const PLUS = 0x2b;
const POINT = 0x2e;
const ZERO = 0x30;
const NINE = 0x39;
const RECORD_SEPARATOR = 0x1e;

/** Classes of bytes inside a string; 0 for those that go on. */
const ENDS = 1;
const ESCAPES = 2;
const CONTROL = 3;
const HIGH = 4;
const IN_STRING = new Uint8Array(256);
for (let b = 0; b < 256; b++) {
  IN_STRING[b] = b === QUOTE ? ENDS : b === BACKSLASH ? ESCAPES : b < 0x20 ? CONTROL : b >= 0x80 ? HIGH : 0;
}

/** Bytes that may follow a backslash: `"\/bfnrt`. */
const ESCAPED = new Uint8Array(256);
for (const c of '"\\/bfnrt') ESCAPED[c.charCodeAt(0)] = 1;

/** White space between tokens. */
const SPACE = new Uint8Array(256);
for (const c of " \n\r\t") SPACE[c.charCodeAt(0)] = 1;

const enum State {
  /** At the top, before the value. `|{"a": 1}` */
  Top,
  /** `{| "a": 1}` a name or the end */
  FirstName,
  /** `{"a": 1,| "b": 2}` */
  Name,
  /** `[| 1, 2]` an item or the end */
  FirstItem,
  /** `[1,| 2]` */
  Item,
  /** `{"a": 1| }` a comma or the end */
  After,
  /** the value at the top has ended */
  Done,
}

const enum Level {
  Record,
  List,
  /** a list that is stepped through: its items are values of the list's own node */
  Step,
}

const CUT = -1;
const FOUR_BLANKS = 0x20202020;
const MAP_FROM = 12;
const TRUE = [0x74, 0x72, 0x75, 0x65];
const FALSE = [0x66, 0x61, 0x6c, 0x73, 0x65];
const NULL = [0x6e, 0x75, 0x6c, 0x6c];

export class JsonScanner extends WindowScanner implements Scanner {
  nameStart = 0;
  nameEnd = 0;
  readonly style: WritingStyle = { rawHigh: false, escapedHigh: false, crlf: false };
  private pos = 0;
  private state: State = State.Top;
  private plain = true;

  private depth = 0;
  private readonly nodes: (PlaceNode | null)[] = [];
  private readonly kinds: Level[] = [];
  private readonly counts: number[] = [];
  private readonly starts: number[] = [];
  /** Where the name of the level's member stands (two numbers a level), and its place in the list around it. */
  private readonly names: number[] = [];
  private readonly indexes: number[] = [];
  /** The node that gets the whole container as one value when it closes. */
  private readonly wholes: (PlaceNode | null)[] = [];
  /** What is kept in view until the container at `verbatimDepth` has closed: from its name on. */
  private verbatimFrom = -1;
  private verbatimDepth = -1;

  constructor(
    private readonly root: PlaceNode | null,
    private readonly listener: Listener,
    /** Stop after one value; what follows is not looked at. */
    private readonly fragmentAt = -1,
    /** One value after the other, as if in a list without brackets and commas. */
    private readonly sequence = false,
  ) {
    super();
    if (fragmentAt >= 0) this.base = fragmentAt;
    listener.scanner = this;
  }

  get namePlain(): boolean {
    return (this.nameCopy() ?? this.window.subarray(this.nameStart, this.nameEnd)).indexOf(BACKSLASH) < 0;
  }
  get memberStart(): number {
    return this.base + this.nameStart;
  }
  get memberEnd(): number {
    return this.base + this.nameEnd;
  }
  get done(): boolean {
    return this.state === State.Done;
  }
  get index(): number {
    return this.depth === 0 ? 0 : this.counts[this.depth - 1] - 1;
  }
  get named(): boolean {
    return this.depth > 0 && this.kinds[this.depth - 1] === Level.Record;
  }
  get inList(): boolean {
    return this.depth > 0 && this.kinds[this.depth - 1] === Level.Step;
  }
  get adjoins(): boolean {
    return this.inList && this.index > 0;
  }
  trail(closed: boolean): Trail {
    const steps: TrailStep[] = [];
    const last = closed ? this.depth : this.depth - 1;
    for (let d = 1; d <= last; d++) steps.push(this.kinds[d - 1] === Level.Record ? this.nameOf(d) : this.indexes[d]);
    if (!closed && this.depth > 0) {
      steps.push(this.kinds[this.depth - 1] === Level.Record ? [this.base + this.nameStart, this.base + this.nameEnd] : this.index);
    }
    return steps;
  }

  /** A name that the plan knows need not be read again. */
  private nameOf(d: number): TrailStep {
    const node = this.nodes[d];
    const known = node === null ? null : (this.nodes[d - 1]?.nameOf(node) ?? null);
    return known ?? [this.names[2 * d], this.names[2 * d + 1]];
  }

  /** Of members that are lists of rows with a name, by level: that name, once it is no longer in view. */
  private readonly listNames: (Uint8Array | null)[] = [];

  nameCopy(): Uint8Array | null {
    return this.inList ? this.listNames[this.depth - 1] : null;
  }

  protected leave(): void {
    for (let d = 0; d < this.depth; d++) {
      const [start, end] = [this.names[2 * d] - this.base, this.names[2 * d + 1] - this.base];
      const named = this.kinds[d] === Level.Step && this.nodes[d] !== null && this.nodes[d]!.nameSlot >= 0;
      if (named && this.listNames[d] === null) this.listNames[d] = this.window.slice(start, end);
    }
    this.listener.leave();
  }

  protected scan(final: boolean): number {
    let i = this.pos;
    if (this.base === 0 && i === 0 && this.window[0] === 0xef && this.state === State.Top) {
      if (this.limit < 3 && !final) return 0;
      if (this.window[1] === 0xbb && this.window[2] === 0xbf) i = 3;
    }
    if (this.sequence && this.state === State.Top) this.openSequence();
    i = this.run(i, this.limit, final);
    if (final && this.sequence && this.depth === 1 && this.state === State.Item) this.closeSequence(i);
    if (final && this.state !== State.Done) this.failAtEnd(i);
    const keep = this.verbatimFrom >= 0 ? Math.min(i, this.verbatimFrom - this.base) : i;
    this.pos = i - keep;
    return keep;
  }

  private openSequence(): void {
    const { root, listener } = this;
    const all = root !== null && (root.take & Wants.All) !== 0;
    if (all) listener.open(root, Kind.List, 0);
    this.nodes[0] = root;
    this.kinds[0] = all ? Level.List : Level.Step;
    this.counts[0] = this.starts[0] = this.indexes[0] = 0;
    this.names[0] = this.names[1] = 0;
    this.wholes[0] = null;
    this.depth = 1;
    this.state = State.Item;
  }

  private closeSequence(end: number): void {
    this.closeLevel(end);
    this.state = State.Done;
  }

  private run(from: number, limit: number, final: boolean): number {
    const buf = this.window;
    const words = this.words;
    const listener = this.listener;
    const { nodes, kinds, counts } = this;
    // a local copy of the state, put back at every way out: this loop is where the time goes
    let state = this.state;
    buf[limit] = QUOTE; // a sentinel: every inner loop stops at it
    let i = from;
    for (;;) {
      const gap = i;
      let c = buf[i];
      if (SPACE[c] === 1) {
        // a line end, and a run of blanks
        i++;
        while (words.getInt32(i, true) === FOUR_BLANKS) i += 4;
        c = buf[i];
        while (SPACE[c] === 1) c = buf[++i];
      }
      if (i >= limit || state === State.Done) {
        if (this.sequence && this.depth === 1) this.between(gap, i);
        if (state === State.Done && i < limit && this.fragmentAt < 0) this.fail("json-trailing", i, limit);
        this.state = this.sequence && this.depth === 1 ? State.Item : state;
        return i;
      }
      const token = i;
      let node: PlaceNode | null;
      if (this.sequence && this.depth === 1) {
        state = State.Item;
        this.between(gap, i);
        if (c === RECORD_SEPARATOR) {
          this.isNewLine = true;
          i++;
          continue;
        }
        this.beginLine(this.base + i);
      }
      if (state === State.After) {
        if (c === COMMA) {
          state = kinds[this.depth - 1] === Level.Record ? State.Name : State.Item;
          i++;
          continue;
        }
        this.expectClose(c, i, limit);
        this.closeLevel(++i);
        state = this.depth === 0 ? State.Done : State.After;
        continue;
      }
      if (state === State.Name || state === State.FirstName) {
        if (c === CLOSE_RECORD && state === State.FirstName) {
          this.closeLevel(++i);
          state = this.depth === 0 ? State.Done : State.After;
          continue;
        }
        if (c !== QUOTE) this.fail("json-name", i, limit);
        const parent = nodes[this.depth - 1];
        const foreseen = parent === null ? CUT : nextName(parent, buf, words, i + 1, limit);
        const end = foreseen === CUT ? this.string(buf, i + 1, limit) : foreseen;
        if (end === CUT) return this.cut(token, final, limit, state);
        this.nameStart = i + 1;
        this.nameEnd = end;
        i = end + 1;
        c = buf[i];
        while (SPACE[c] === 1) c = buf[++i];
        if (i >= limit) return this.cut(token, final, limit, state);
        if (c !== COLON) this.fail("json-colon", i, limit);
        c = buf[++i];
        while (SPACE[c] === 1) c = buf[++i];
        if (i >= limit) return this.cut(token, final, limit, state);
        if (parent === null) node = null;
        else if (foreseen === CUT) node = this.member(parent, buf);
        else {
          const k = parent.hint;
          parent.hint = k + 1 < parent.nameNodes.length ? k + 1 : 0;
          node = parent.nameNodes[k];
        }
      } else if (state === State.Top) node = this.root;
      else {
        if (c === CLOSE_LIST && state === State.FirstItem) {
          this.closeLevel(++i);
          state = this.depth === 0 ? State.Done : State.After;
          continue;
        }
        const list = nodes[this.depth - 1];
        node = list === null ? null : kinds[this.depth - 1] === Level.Step ? list : this.itemNode(list);
      }

      const start = i;
      let kind: Kind;
      let textStart = start;
      let textEnd: number;
      if (c === QUOTE) {
        textEnd = this.string(buf, i + 1, limit);
        if (textEnd === CUT) return this.cut(token, final, limit, state);
        textStart = start + 1;
        i = textEnd + 1;
        kind = Kind.Text;
      } else if (c === OPEN_RECORD || c === OPEN_LIST) {
        const depth = this.depth;
        i = this.openLevel(node, c, i, limit, final);
        if (i === CUT) return this.cut(token, final, limit, state);
        if (this.depth > depth) state = c === OPEN_RECORD ? State.FirstName : State.FirstItem;
        else state = depth === 0 ? State.Done : State.After;
        continue;
      } else {
        this.plain = true;
        if (c === MINUS || (c >= ZERO && c <= NINE)) {
          i = this.number(buf, i, limit, final);
          kind = Kind.Number;
        } else {
          kind = c === 0x6e ? Kind.Null : c === 0x74 ? Kind.True : Kind.False;
          i = this.word(buf, i, limit, kind, state);
        }
        if (i === CUT) return this.cut(token, final, limit, state);
        textEnd = i;
      }
      if (this.depth > 0) counts[this.depth - 1]++;
      if (node !== null && node.take !== Wants.Nothing) listener.value(node, kind, start, i, textStart, textEnd, this.plain);
      else if (listener.rest !== undefined && this.isRest()) listener.rest(this.calledHere(), start, i);
      if (this.depth === 0) state = State.Done;
      else if (buf[i] === COMMA && !(this.sequence && this.depth === 1)) {
        // most values: no need to go round for it
        state = kinds[this.depth - 1] === Level.Record ? State.Name : State.Item;
        i++;
      } else state = State.After;
    }
  }

  private isNewLine = true;
  private lineValue = -1;

  /** Of a sequence: what stands between two values. */
  private between(from: number, to: number): void {
    for (let i = from; i < to; i++) if (this.window[i] === LF || this.window[i] === CR) this.isNewLine = true;
  }

  /** A value of a sequence begins; it may begin again, when all of it is in view. */
  private beginLine(at: number): void {
    if (at === this.lineValue) return;
    if (!this.isNewLine) this.listener.sharesLine?.();
    this.lineValue = at;
    this.isNewLine = false;
  }

  /** No value around this one is told as a whole. */
  private isRest(): boolean {
    return this.verbatimFrom < 0;
  }

  /** A number for the name of the member at hand. */
  private calledHere(): number {
    return this.named ? hashName(this.window, this.nameStart, this.nameEnd) : 0;
  }

  /** End of `true`, `false` or `null`, whichever the first letter promises. */
  private word(buf: Uint8Array, from: number, limit: number, kind: Kind, state: State): number {
    const word = kind === Kind.Null ? NULL : kind === Kind.True ? TRUE : FALSE;
    for (let k = 0; k < word.length; k++) {
      if (from + k >= limit) return CUT;
      if (buf[from + k] !== word[k]) this.failValue(from, limit, state);
    }
    return from + word.length;
  }

  private counted(): void {
    if (this.depth > 0) this.counts[this.depth - 1]++;
  }

  /** A record or list begins at `i`. Returns the position behind its bracket, or of its end when it was told whole. */
  private openLevel(node: PlaceNode | null, bracket: number, i: number, limit: number, final: boolean): number {
    const record = bracket === OPEN_RECORD;
    let inside: PlaceNode | null = null;
    let whole: PlaceNode | null = null;
    let level: Level = record ? Level.Record : Level.List;
    let told = false;
    if (node !== null) {
      const take = node.take;
      const stepping = !record && node.steps && !this.inList;
      if (take & Wants.All) {
        inside = node;
        told = true;
      } else if (stepping) {
        if (take & Wants.Cell) {
          const end = this.emptyEnd(i, CLOSE_LIST, limit);
          if (end === CUT && !final) return CUT;
          if (end > 0) return this.tellEmpty(node, Kind.EmptyList, i, end);
        }
        inside = node;
        level = Level.Step;
      } else if (take & Wants.Row) {
        inside = node.entered ? node : null;
        whole = node.entered ? null : node;
        told = node.entered;
      } else if (take & Wants.Cell) {
        if (record && node.entered) {
          const end = this.emptyEnd(i, CLOSE_RECORD, limit);
          if (end === CUT && !final) return CUT;
          if (end > 0) return this.tellEmpty(node, Kind.EmptyRecord, i, end);
          inside = node;
        } else whole = node;
      } else if (take & Wants.Span) whole = node;
      else inside = node;
    }
    this.counted();
    if (inside === null && whole === null && this.listener.rest !== undefined && this.isRest())
      this.listener.rest(this.calledHere(), i, i + 1);
    if (told && inside !== null) this.listener.open(inside, record ? Kind.Record : Kind.List, i);
    const d = this.depth++;
    this.nodes[d] = inside;
    this.kinds[d] = level;
    this.counts[d] = 0;
    this.starts[d] = this.base + i;
    this.names[2 * d] = this.base + this.nameStart;
    this.names[2 * d + 1] = this.base + this.nameEnd;
    this.indexes[d] = d === 0 ? 0 : this.counts[d - 1] - 1;
    this.wholes[d] = whole;
    this.listNames[d] = null;
    if (whole !== null && this.verbatimFrom < 0 && (whole.take & Wants.Span) === 0) {
      this.verbatimFrom = this.base + (d > 0 && this.kinds[d - 1] === Level.Record ? this.nameStart - 1 : i);
      this.verbatimDepth = d;
    }
    return i + 1;
  }

  /** Position behind `{}` or `[]` that begins at `i`; 0 when it is not empty; CUT when that cannot be seen yet. */
  private emptyEnd(i: number, close: number, limit: number): number {
    let j = i + 1;
    while (j < limit && SPACE[this.window[j]] === 1) j++;
    if (j >= limit) return CUT;
    return this.window[j] === close ? j + 1 : 0;
  }

  private tellEmpty(node: PlaceNode, kind: Kind, start: number, end: number): number {
    this.counted();
    this.listener.value(node, kind, start, end, start, end, true);
    return end;
  }

  private closeLevel(end: number): void {
    const d = --this.depth;
    const node = this.nodes[d];
    const whole = this.wholes[d];
    const list = this.kinds[d] !== Level.Record;
    this.nameStart = this.names[2 * d] - this.base;
    this.nameEnd = this.names[2 * d + 1] - this.base;
    if (whole !== null) {
      const start = this.starts[d] - this.base;
      if (this.verbatimDepth === d && this.verbatimFrom >= 0) {
        this.verbatimFrom = -1;
      }
      const empty = this.counts[d] === 0;
      const kind = list ? (empty ? Kind.EmptyList : Kind.List) : empty ? Kind.EmptyRecord : Kind.Record;
      this.listener.value(whole, kind, start, end, start, end, true);
    } else if (node !== null && this.kinds[d] !== Level.Step && node.take & (Wants.Row | Wants.All)) {
      this.listener.close(node, list ? Kind.List : Kind.Record, end);
    }
  }

  private itemNode(list: PlaceNode): PlaceNode | null {
    const node = list.places[this.counts[this.depth - 1]] ?? list.item;
    return node === null && list.grows ? (this.listener.unknown?.(list, null) ?? null) : node;
  }

  /** The node of the member whose name is in view. Records repeat their order, so the next name is tried first. */
  private member(parent: PlaceNode, buf: Uint8Array): PlaceNode | null {
    const s = this.nameStart;
    const length = this.nameEnd - s;
    const count = parent.nameNodes.length;
    if (count <= MAP_FROM) {
      for (let k = 0; k < count; k++) {
        const name = parent.nameBytes[k];
        if (name.length !== length) continue;
        let j = 0;
        while (j < length && name[j] === buf[s + j]) j++;
        if (j === length) {
          parent.hint = k + 1 < count ? k + 1 : 0;
          return parent.nameNodes[k];
        }
      }
      if (this.namePlain && !parent.grows) return parent.any;
    }
    const name = decodeText(buf, s, this.nameEnd);
    const known = parent.byName.get(name);
    if (known !== undefined) {
      parent.hint = (parent.nameNodes.indexOf(known) + 1) % parent.nameNodes.length;
      return known;
    }
    if (parent.any !== null) return parent.any;
    return parent.grows ? (this.listener.unknown?.(parent, name) ?? null) : null;
  }

  /** Position of the closing quote of the string whose text begins at `i`; sets `plain`. */
  private string(buf: Uint8Array, from: number, limit: number): number {
    let i = from;
    this.plain = true;
    const { words } = this;
    for (;;) {
      let found = stops(words.getInt32(i, true));
      while (found === 0) found = stops(words.getInt32((i += 4), true));
      i += firstOf(found);
      if (i >= limit) return CUT;
      const cls = IN_STRING[buf[i]];
      if (cls === ENDS) return i;
      if (cls === HIGH) {
        const length = utf8Length(buf, i, limit);
        if (length < 0) this.fail("utf8", i, limit);
        if (length === 0) return CUT;
        this.style.rawHigh = true;
        i += length;
      } else if (cls === ESCAPES) {
        this.plain = false;
        if (i + 1 >= limit) return CUT;
        if (buf[i + 1] === 0x75) {
          if (i + 5 >= limit) return CUT;
          for (let k = 2; k < 6; k++) if (!isHex(buf[i + k])) this.fail("json-escape", i, limit);
          if (buf[i + 2] !== ZERO || buf[i + 3] !== ZERO || buf[i + 4] >= 0x38) this.style.escapedHigh = true;
          i += 6;
        } else {
          if (ESCAPED[buf[i + 1]] === 0) this.fail("json-escape", i, limit);
          i += 2;
        }
      } else this.fail("json-control", i, limit);
    }
  }

  /** End of the number that begins at `i`: `-?int frac? exp?`. */
  private number(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    let i = from;
    if (buf[i] === MINUS) i++;
    if (buf[i] === ZERO) i++;
    else {
      const digits = i;
      while (buf[i] >= ZERO && buf[i] <= NINE) i++;
      if (i === digits) return i >= limit && !final ? CUT : this.fail("json-number", from, limit);
    }
    if (buf[i] === POINT && i < limit) {
      const digits = ++i;
      while (buf[i] >= ZERO && buf[i] <= NINE) i++;
      if (i === digits) return i >= limit && !final ? CUT : this.fail("json-number", from, limit);
    }
    if ((buf[i] | 0x20) === 0x65 && i < limit) {
      i++;
      if (buf[i] === PLUS || buf[i] === MINUS) i++;
      const digits = i;
      while (buf[i] >= ZERO && buf[i] <= NINE) i++;
      if (i === digits) return i >= limit && !final ? CUT : this.fail("json-number", from, limit);
    }
    if (i >= limit && !final) return CUT;
    if (i < limit && ((buf[i] >= ZERO && buf[i] <= NINE) || buf[i] === POINT)) this.fail("json-number", from, limit);
    return i;
  }

  private cut(token: number, final: boolean, limit: number, state: State): number {
    this.state = state;
    if (final) this.failAtEnd(limit);
    return token;
  }

  private expectClose(c: number, i: number, limit: number): void {
    const record = this.kinds[this.depth - 1] === Level.Record;
    if (c !== (record ? CLOSE_RECORD : CLOSE_LIST)) {
      this.fail(record ? "json-record-goes-on" : "json-list-goes-on", i, limit);
    }
  }

  private failValue(i: number, limit: number, state: State): never {
    if (state === State.Item && this.window[i] === CLOSE_LIST) this.fail("json-comma", i, limit);
    return this.fail("json-value", i, limit);
  }

  private failAtEnd(i: number): never {
    if (this.depth === 0 && this.state === State.Top && this.window.subarray(0, this.limit).every((b) => b <= 0x20 || b >= 0x80)) {
      throw new SourceError("json-empty", {}, { byte: this.base + i });
    }
    const open = this.depth === 0 ? null : { list: this.kinds[this.depth - 1] !== Level.Record, byte: this.starts[this.depth - 1] };
    throw new SourceError("json-cut", { open }, { byte: this.base + this.limit });
  }

  private fail<C extends Code>(code: C & SeenCode, i: number, limit: number): never {
    const end = Math.min(limit, i + 12);
    const seen = new TextDecoder().decode(this.window.subarray(i, end)).split(/[\r\n]/)[0];
    throw new SourceError(code, { seen, byte: this.window[i] } as unknown as Facts<C & SeenCode>, { byte: this.base + i });
  }
}

/** Codes whose only facts are the text and the byte met. */
type SeenCode =
  | "json-trailing"
  | "json-name"
  | "json-colon"
  | "json-value"
  | "json-comma"
  | "json-number"
  | "json-escape"
  | "json-control"
  | "json-record-goes-on"
  | "json-list-goes-on"
  | "utf8";

/**
 * Records repeat their order: when the name that came next in the record before stands here too, its
 * closing quote is found without looking for it. Its bytes hold no quote that is not escaped.
 */
function nextName(parent: PlaceNode, buf: Uint8Array, words: DataView, from: number, limit: number): number {
  if (parent.nameNodes.length === 0) return CUT;
  const name = parent.nameBytes[parent.hint];
  const end = from + name.length;
  if (end >= limit || buf[end] !== QUOTE) return CUT;
  return sameWords(buf, words, from, name, parent.nameWords[parent.hint]) ? end : CUT;
}

/** Finds bytes that do not go on with a string: quotes, backslashes, all below a blank and above ASCII. */
function stops(word: number): number {
  return (equalTo(word, 0x22222222) | equalTo(word, 0x5c5c5c5c) | below(word, 0x20202020) | word) & HIGH_BITS;
}

function isHex(b: number): boolean {
  return (b >= ZERO && b <= NINE) || ((b | 0x20) >= 0x61 && (b | 0x20) <= 0x66);
}
