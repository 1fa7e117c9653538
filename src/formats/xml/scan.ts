/**
 * The XML scanner (XML 1.0, fifth edition): a push scanner with byte spans, no recursion, no tree.
 *
 * It checks that the document is well formed and tells its listener only what the guide wants. The
 * document is a record with one member, its root element; an element is a record of its attributes
 * (`@name`) and child elements, or a text when it has no child elements. White space at the edges of
 * a text belongs to the layout, not to the value, when there is a line end in it.
 */
import { hashName } from "../../bytes/hash.js";
import { WindowScanner } from "../../bytes/window.js";
import { utf8Length } from "../../bytes/utf8.js";
import { decode, encode } from "../../bytes/writer.js";
import { SourceError } from "../../errors/error.js";
import type { ErrorCode, Facts } from "../../errors/words.js";
import { PlaceNode, Wants, type Listener, type WritingStyle, type Scanner } from "../format.js";
import type { Trail, TrailStep } from "../../model/trail.js";
import { Kind } from "../../model/kind.js";
import {
  APOSTROPHE,
  AT,
  BANG,
  BRACKET,
  CLOSE_BRACKET,
  COLON,
  CONTROL,
  CR,
  ENDS,
  EQUALS,
  GOES_ON,
  goesOn,
  GREATER,
  HIGH,
  IN_NAME,
  NAME_BEGINS,
  NAME_COLON,
  NAME_HIGH,
  QUALIFIED_NAME,
  IN_TEXT,
  IN_VALUE,
  IS_SPACE,
  IS_LAYOUT,
  LESS,
  LF,
  LINE,
  MINUS,
  QUESTION,
  QUOTE,
  REFERS,
  SEMICOLON,
  SLASH,
  TAB,
} from "./bytes.js";
import { Learning, Wordings } from "./alike.js";
import type { Entities } from "./entities.js";
import { Names } from "./names.js";
import { CDATA, CUT, find, startsWith, sameBytes, pastSpace, beforeSpace, isSoleCdata, isPlain } from "./runs.js";
import { declaredIn, PlanNames } from "./scope.js";
import { isCharReference, isPredefined } from "./text.js";

const FOUR_BLANKS = 0x20202020;
const LONGEST_REFERENCE = 128;
const DOCTYPE = encode("<!DOCTYPE");
const XML_SPACE = encode("xml:space");
const PRESERVE = encode("preserve");

/** What is known of the text of an element that is open. Bits. */
const Text = { Solid: 1, NotPlain: 2, Opaque: 4, Cdata: 8, Markup: 16 } as const;

/** A mark on guide nodes of attributes, so that their values are decoded as such. */
export const ATTRIBUTE = "attribute";

/** An element that is open. Offsets are those in the source. */
class Frame {
  node: PlaceNode | null = null;
  flags = 0;
  hasChild = false;
  /** It is told as a record only when it turns out to hold others. */
  pending = false;
  preserve = false;
  serial = 0;
  index = 0;
  start = 0;
  nameEnd = 0;
  content = 0;
  /** Its name, once it is no longer in view. */
  name: Uint8Array | null = null;
  /** How the records right inside it were worded. */
  alike: Wordings | null = null;
}

/** Hears of every start and end tag of a fragment, two levels deep: how an element is written. */
export interface TagWatcher {
  start(depth: number, tag: XmlScanner, tagStart: number, tagEnd: number): void;
  /** For `<a/>`, the content ends where `/>` begins, white space before it included. */
  end(depth: number, contentEnd: number, elementEnd: number, selfClosing: boolean): void;
}

/** What a scan learnt of a document: how it is written, its entities, and the namespaces that are declared in it. */
export interface XmlStyle extends WritingStyle {
  readonly entities: Entities;
  readonly names: Names;
}

export class XmlScanner extends WindowScanner implements Scanner {
  nameStart = 0;
  nameEnd = 0;
  index = 0;
  readonly namePlain = true;
  readonly inList = false;
  readonly named = true;
  readonly style: XmlStyle;
  adjoins = false;

  /** Attributes of the start tag in view: names, and values without their quotes. */
  attributes = 0;
  readonly attributeNames: number[] = [];
  readonly attributeValues: number[] = [];
  private readonly attributePlain: boolean[] = [];
  private readonly attributeNodes: (PlaceNode | null)[] = [];
  /** One of them may be a namespace declaration, or `xml:space`. */
  private special = false;

  private pos = 0;
  private begun = false;
  /** Where the file begins, behind a byte-order mark. */
  private first = 0;
  private rootSeen = false;
  private depth = 0;
  private serial = 0;
  /** One for each depth; those of elements that are open come first. */
  private readonly frames: Frame[] = [];
  /** Depth of the element that was opened last. */
  private deepest = -1;
  readonly names: Names;
  /** Names may be others than their bytes say, or have not been looked for by their bytes. */
  private readonly careful: boolean;
  /** The record that was closed last, and where it ended; an offset in the source. */
  private lastRow: PlaceNode | null = null;
  private lastRowEnd = -1;
  /** Content is kept in view from here on, for the element at `keepDepth`. */
  private keepFrom = -1;
  private keepDepth = -1;
  /** How records are worded, by the node of the element around them; and the one to be kept with the others. */
  private readonly alike = new Map<PlaceNode, Wordings>();
  private learning: Learning | null = null;
  /** Where the text before the tag in view begins; offset in the source. */
  private textFrom = 0;

  private readonly fragmentAt: number;
  private readonly watcher: TagWatcher | null;

  constructor(
    private readonly root: PlaceNode | null,
    private readonly listener: Listener,
    private readonly entities: Entities,
    namespaces: Readonly<Record<string, string>> = {},
    /** Who hears of tags; and (`at`) scan one element that begins here, and stop behind it. */
    { at = -1, watcher = null }: { readonly at?: number; readonly watcher?: TagWatcher | null } = {},
  ) {
    super();
    this.fragmentAt = at;
    this.watcher = watcher;
    const fragmentAt = at;
    if (fragmentAt >= 0) this.base = fragmentAt;
    const plan = new PlanNames(namespaces);
    this.names = new Names(plan);
    this.style = { rawHigh: true, escapedHigh: false, crlf: false, entities, names: this.names };
    this.careful = fragmentAt >= 0 || plan.bound;
    listener.scanner = this;
  }

  /** Name of the element that was opened last. */
  get tagName(): string {
    return this.nameAt(this.depth - 1);
  }
  /** Name of the element at a depth (from 0) that is open, or has just been closed. */
  private nameAt(d: number): string {
    const { name, start, nameEnd } = this.frames[d];
    return name !== null ? decode(name) : decode(this.window, start + 1 - this.base, nameEnd - this.base);
  }
  get memberStart(): number {
    return this.base + this.nameStart;
  }
  get memberEnd(): number {
    return this.base + this.nameEnd;
  }
  get done(): boolean {
    return this.rootSeen && this.depth === 0 && this.fragmentAt >= 0;
  }

  trail(): Trail {
    const steps: TrailStep[] = [];
    for (let d = 0; d <= this.depth && d <= this.deepest; d++) {
      steps.push(this.nameAt(d));
      const { node, index } = this.frames[d];
      if (node !== null && (node.take & Wants.Row) !== 0) steps.push(index);
    }
    return steps;
  }

  protected leave(): void {
    for (let d = this.deepest; d >= 0 && this.frames[d].name === null; d--) {
      const frame = this.frames[d];
      frame.name = this.window.slice(frame.start + 1 - this.base, frame.nameEnd - this.base);
    }
    this.listener.leave();
  }

  protected scan(final: boolean): number {
    const { root, listener } = this;
    let i = this.pos;
    if (!this.begun) {
      if (this.limit < 3 && !final) return 0;
      const [a, b, c] = this.window;
      if (this.fragmentAt < 0 && a === 0xef && b === 0xbb && c === 0xbf) i = 3;
      this.first = i;
      this.begun = true;
      if (this.fragmentAt < 0 && root !== null && (root.take & (Wants.Row | Wants.All)) !== 0) listener.open(root, Kind.Record, 0);
    }
    i = this.run(i, final);
    if (final && !this.done) {
      if (this.depth > 0) this.failAtEnd("xml-cut", { open: this.openNames() });
      if (!this.rootSeen) this.failAtEnd("xml-empty", {});
      if (this.fragmentAt < 0 && root !== null && (root.take & (Wants.Row | Wants.All)) !== 0) {
        this.deepest = -1;
        listener.close(root, Kind.Record, this.limit);
      }
    }
    const keep = this.keepFrom >= 0 ? Math.min(i, this.keepFrom - this.base) : i;
    this.pos = i - keep;
    return keep;
  }

  private run(from: number, final: boolean): number {
    const buf = this.window;
    const { limit } = this;
    buf[limit] = LESS; // a sentinel: text ends at it at the latest
    let i = from;
    while (!this.done) {
      const { alike } = this.depth === 0 ? NO_FRAME : this.frames[this.depth - 1];
      if (alike !== null) {
        const next = this.again(alike, buf, i, limit);
        if (next !== CUT) {
          i = next;
          continue;
        }
      }
      this.textFrom = this.base + i;
      i = this.depth === 0 ? this.between(buf, i, limit) : this.text(buf, i, limit, final);
      if (i >= limit || buf[i] !== LESS) return i;
      const next = this.markup(buf, i, limit, final);
      if (next === CUT) {
        if (final) this.failAtEnd("xml-cut", { open: this.openNames() });
        return i;
      }
      i = next;
    }
    return i;
  }

  /** Tells of the record that begins at `i`, if it is worded like one before. Returns the position behind it, or CUT. */
  private again(alike: Wordings, buf: Uint8Array, i: number, limit: number): number {
    const { listener, base } = this;
    if (this.names.renames || this.keepFrom >= 0) return CUT;
    const end = alike.match(buf, this.words, i, limit);
    if (end === CUT) {
      if (!alike.worth) this.frames[this.depth - 1].alike = null;
      return CUT;
    }
    this.learning = null; // what holds other records is worded by them
    const d = this.depth++;
    const outer = this.frames[d - 1];
    const frame = (this.frames[d] ??= new Frame());
    const node = alike.row!;
    let start = i;
    while (buf[start] !== LESS) start++;
    if (!outer.hasChild) this.firstChild(outer, d - 1);
    node.nth = node.serial === outer.serial ? node.nth + 1 : 0;
    node.serial = outer.serial;
    frame.node = node;
    frame.index = node.nth;
    frame.start = base + start;
    frame.nameEnd = frame.start + 1 + alike.nameLength;
    frame.name = null;
    this.deepest = d;
    this.nameRecord(frame);
    this.openRow(node, start);
    const { values, places, starts, ends } = alike;
    for (let k = 0; k < values; k++) {
      const place = places[k];
      const from = starts[k];
      const to = ends[k];
      this.nameStart = from - place.nameBack;
      this.nameEnd = this.nameStart + place.nameLength;
      this.index = place.index;
      listener.value(place.node, Kind.Text, from - place.before, to + place.after, from, to, true);
    }
    this.depth = d;
    this.nameRecord(frame);
    this.closeRow(node, end);
    return end;
  }

  private openRow(node: PlaceNode, start: number): void {
    let at = this.lastRowEnd - this.base;
    if (at >= 0) while (at < start && IS_SPACE[this.window[at]] === 1) at++;
    this.adjoins = at === start && this.lastRow === node;
    this.listener.open(node, Kind.Record, start);
  }

  private closeRow(node: PlaceNode, end: number): void {
    this.listener.close(node, Kind.Record, end);
    this.lastRow = node;
    this.lastRowEnd = this.base + end;
  }

  private nameRecord({ start, nameEnd, index }: Frame): void {
    this.nameStart = start + 1 - this.base;
    this.nameEnd = nameEnd - this.base;
    this.index = index;
  }

  /** Outside the root element only white space may stand between tags, comments and instructions. */
  private between(buf: Uint8Array, from: number, limit: number): number {
    let i = from;
    while (i < limit && IS_SPACE[buf[i]] === 1) i++;
    if (i < limit && buf[i] !== LESS) this.fail("xml-outside", i, limit);
    return i;
  }

  /** Character data up to the next tag: `<a>|text</a>`. Returns where it stopped: at `<`, the limit, or what is cut off. */
  private text(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    const { words } = this;
    let i = from;
    if (IS_LAYOUT[buf[i]] === 1) {
      // a line end, and a run of blanks
      i++;
      while (words.getInt32(i, true) === FOUR_BLANKS) i += 4;
      while (IS_LAYOUT[buf[i]] === 1) i++;
    }
    if (buf[i] === LESS) return i;
    const frame = this.frames[this.depth - 1];
    let { flags } = frame;
    if (IN_TEXT[buf[i]] === GOES_ON) flags |= Text.Solid;
    for (;;) {
      while (goesOn(words.getInt32(i, true))) i += 4;
      let cls = IN_TEXT[buf[i]];
      while (cls === GOES_ON) cls = IN_TEXT[buf[++i]];
      if (i >= limit) {
        i = limit;
        break;
      }
      if (cls === ENDS) break;
      if (cls === LINE) {
        flags |= Text.NotPlain;
        if (i + 1 >= limit && !final) break;
        if (buf[i + 1] === LF) this.style.crlf = true;
        i++;
        while (IS_LAYOUT[buf[i]] === 1) i++;
        if (IN_TEXT[buf[i]] === GOES_ON) flags |= Text.Solid;
      } else if (cls === HIGH) {
        const length = utf8Length(buf, i, limit);
        if (length < 0) this.fail("utf8", i, limit);
        if (length === 0 && !final) break;
        if (length === 0) this.fail("utf8", i, limit);
        if (isNoCharacter(buf, i)) this.fail("xml-control", i, limit);
        flags |= Text.Solid;
        i += length;
      } else if (cls === REFERS) {
        const end = this.reference(buf, i, limit, final);
        if (end === CUT) break;
        flags |= Text.Solid | Text.NotPlain | (this.opaque ? Text.Opaque : 0);
        i = end;
      } else if (cls === BRACKET) {
        if (i + 2 >= limit && !final) break;
        if (buf[i + 1] === CLOSE_BRACKET && buf[i + 2] === GREATER && i + 2 < limit) this.fail("xml-cdata-end", i, limit);
        flags |= Text.Solid;
        i++;
      } else this.fail("xml-control", i, limit);
    }
    frame.flags = flags;
    if (this.listener.rest !== undefined && this.keepFrom < 0) this.addRestText(buf, from, i);
    return i;
  }

  /** A number for the text that nobody wants, white space apart: it comes in pieces. */
  private restText = 0;

  private addRestText(buf: Uint8Array, from: number, to: number): void {
    let text = this.restText;
    for (let i = from; i < to; i++) if (IS_SPACE[buf[i]] === 0) text = (Math.imul(text, 31) + buf[i] + 1) | 0;
    this.restText = text;
  }

  private tellRestText(at: number): void {
    this.tellRest(this.restText, at, at);
    this.restText = 0;
  }

  private tellRest(called: number, start: number, end: number): void {
    // records are told as alike by their values, and these are none
    this.learning = null;
    this.listener.rest!(called, start, end);
  }

  /** The attributes of an element that nobody wants, and that it is there. */
  private tellUnwanted(start: number, nameEnd: number): void {
    const { window, attributeNames, attributeValues } = this;
    this.tellRest(hashName(window, start, nameEnd), start, start);
    for (let k = 0; k < this.attributes; k++)
      if (!this.isXmlns(k))
        this.tellRest(
          hashName(window, attributeNames[2 * k], attributeNames[2 * k + 1]),
          attributeValues[2 * k],
          attributeValues[2 * k + 1],
        );
  }

  /** The last reference names something that is declared outside the file, or that holds elements. */
  private opaque = false;

  /** Position behind `&name;`. */
  private reference(buf: Uint8Array, i: number, limit: number, final: boolean): number {
    let end = i + 1;
    while (end < limit && end - i < LONGEST_REFERENCE && (IN_NAME[buf[end]] > 0 || buf[end] === 0x23)) end++;
    if (end >= limit && !final && end - i < LONGEST_REFERENCE) return CUT;
    if (end >= limit || buf[end] !== SEMICOLON || end === i + 1) this.fail("xml-ampersand", i, limit);
    const name = decode(buf, i + 1, end);
    this.opaque = false;
    if (name.startsWith("#")) {
      if (!isCharReference(name)) this.fail("xml-reference", i, limit);
    } else if (!isPredefined(name)) {
      if (!this.entities.has(name) && !this.entities.external) this.fail("xml-entity", i, limit, { name });
      this.opaque = this.entities.text(name) === null;
    }
    return end + 1;
  }

  /** What begins with `<` at `i`. Returns the position behind it, or CUT. */
  private markup(buf: Uint8Array, i: number, limit: number, final: boolean): number {
    if (i + 1 >= limit) return final ? this.fail("xml-tag", i, limit) : CUT;
    if (this.restText !== 0) this.tellRestText(i);
    const c = buf[i + 1];
    if (c === SLASH) return this.endTag(buf, i, limit);
    if (c === QUESTION) return this.instruction(buf, i, limit);
    if (c === BANG) return this.declaration(buf, i, limit, final);
    return this.startTag(buf, i, limit, final);
  }

  private instruction(buf: Uint8Array, i: number, limit: number): number {
    const end = find(buf, i + 2, limit, QUESTION, GREATER);
    if (end === CUT) return CUT;
    if ((IN_NAME[buf[i + 2]] & NAME_BEGINS) === 0) this.fail("xml-tag", i, limit);
    const isDeclaration = /^xml[\s?]/i.test(decode(buf, i + 2, Math.min(end + 1, i + 6)));
    if (isDeclaration && this.base + i !== this.first) this.fail("xml-declaration", i, limit);
    this.checkHigh(buf, i + 2, end, limit);
    this.markText();
    return end + 2;
  }

  /** `<!-- -->`, `<![CDATA[ ]]>` or `<!DOCTYPE >`. */
  private declaration(buf: Uint8Array, i: number, limit: number, final: boolean): number {
    if (i + 9 > limit && !final) return CUT;
    if (buf[i + 2] === MINUS && buf[i + 3] === MINUS) {
      let end = i + 4;
      for (; end < limit && !(buf[end] === MINUS && buf[end + 1] === MINUS); end++);
      if (end + 2 >= limit) return CUT;
      if (buf[end + 2] !== GREATER) this.fail("xml-comment", end, limit);
      this.checkHigh(buf, i + 4, end, limit);
      this.markText();
      return end + 3;
    }
    if (startsWith(buf, i, CDATA) && this.depth > 0) {
      for (let end = i + CDATA.length; end + 2 < limit; end++) {
        if (buf[end] !== CLOSE_BRACKET || buf[end + 1] !== CLOSE_BRACKET || buf[end + 2] !== GREATER) continue;
        this.checkHigh(buf, i + CDATA.length, end, limit);
        if (this.listener.rest !== undefined && this.keepFrom < 0) this.addRestText(buf, i + CDATA.length, end);
        this.frames[this.depth - 1].flags |= Text.Solid | Text.NotPlain | Text.Cdata;
        return end + 3;
      }
      return CUT;
    }
    if (startsWith(buf, i, DOCTYPE) && !this.rootSeen) {
      if (this.doctypeSeen) this.fail("xml-doctype-twice", i, limit);
      const end = this.doctype(buf, i, limit);
      this.doctypeSeen = end !== CUT;
      return end;
    }
    return this.fail("xml-tag", i, limit);
  }

  private doctypeSeen = false;

  private doctype(buf: Uint8Array, i: number, limit: number): number {
    let bracket = 0;
    for (let j = i + DOCTYPE.length; j < limit; j++) {
      const b = buf[j];
      if (b === QUOTE || b === APOSTROPHE) {
        do j++;
        while (j < limit && buf[j] !== b);
      } else if (b === LESS && buf[j + 1] === BANG && buf[j + 2] === MINUS && buf[j + 3] === MINUS) {
        do j++;
        while (j < limit && !(buf[j] === MINUS && buf[j + 1] === MINUS && buf[j + 2] === GREATER && j + 2 < limit));
        j += 2;
      } else if (b === LESS && buf[j + 1] === QUESTION) {
        j = find(buf, j + 2, limit, QUESTION, GREATER);
        if (j === CUT) return CUT;
        j++;
      } else if (b === OPEN) bracket++;
      else if (b === CLOSE_BRACKET) bracket--;
      else if (b === GREATER && bracket === 0) {
        this.entities.declare(decode(buf, i, j), this.base + i);
        return j + 1;
      }
    }
    return CUT;
  }

  /** A comment or an instruction stands in the text of the element that is open. */
  private markText(): void {
    if (this.depth > 0) this.frames[this.depth - 1].flags |= Text.NotPlain | Text.Markup;
  }

  private checkHigh(buf: Uint8Array, from: number, to: number, limit: number): void {
    for (let i = from; i < to;) {
      const cls = IN_TEXT[buf[i]];
      if (cls === HIGH) {
        const length = utf8Length(buf, i, to);
        if (length <= 0) this.fail("utf8", i, limit);
        if (isNoCharacter(buf, i)) this.fail("xml-control", i, limit);
        i += length;
      } else if (cls === CONTROL) this.fail("xml-control", i, limit);
      else i++;
    }
  }

  private endTag(buf: Uint8Array, i: number, limit: number): number {
    const { depth } = this;
    const named = depth > 0 ? this.pastName(this.frames[depth - 1], buf, i + 2) : -1;
    let j = named < 0 ? i + 2 : named;
    while (IN_NAME[buf[j]] > 0) j++;
    const whole = j === named;
    while (IS_SPACE[buf[j]] === 1) j++;
    if (j >= limit) return CUT;
    if (buf[j] !== GREATER) this.fail("xml-tag", i, limit);
    if (!whole) this.fail("xml-end-tag", i, limit, { open: this.openNames() });
    this.closeElement(i, j + 1, -1);
    return j + 1;
  }

  /** Position behind the element's name, if it stands at `at`; else -1. */
  private pastName({ start, nameEnd, name }: Frame, buf: Uint8Array, at: number): number {
    const length = nameEnd - start - 1;
    const from = name === null ? start + 1 - this.base : 0;
    return sameBytes(buf, at, at + length, name ?? buf, from) ? at + length : -1;
  }

  /** What the names of the tag are made of. */
  private nameBits = 0;

  private pastNameBytes(buf: Uint8Array, at: number): number {
    let bits = 0;
    let j = at;
    for (let now = IN_NAME[buf[j]]; now > 0; now = IN_NAME[buf[++j]]) bits |= now;
    this.nameBits |= bits;
    return j;
  }

  private startTag(buf: Uint8Array, i: number, limit: number, final: boolean): number {
    let j = i + 1;
    this.nameBits = 0;
    const node = this.nextNode(buf, j);
    if (node !== null) j = this.nameStop;
    else {
      if ((IN_NAME[buf[j]] & NAME_BEGINS) === 0) this.fail("xml-tag", i, limit);
      j = this.pastNameBytes(buf, j);
    }
    const nameEnd = j;
    this.attributes = 0;
    this.special = false;
    let selfClosing = false;
    let slash = -1;
    for (;;) {
      const space = j;
      while (IS_SPACE[buf[j]] === 1) j++;
      if (j >= limit) return CUT;
      if (buf[j] === GREATER) break;
      if (buf[j] === SLASH) {
        if (j + 1 >= limit) return CUT;
        if (buf[j + 1] !== GREATER) this.fail("xml-tag", j, limit);
        selfClosing = true;
        slash = space;
        j++;
        break;
      }
      if (space === j || (IN_NAME[buf[j]] & NAME_BEGINS) === 0) this.fail("xml-attribute", j, limit);
      j = this.attribute(buf, j, limit, final, node);
      if (j === CUT) return CUT;
    }
    if (this.depth === 0 && this.rootSeen) this.fail("xml-second-root", i, limit);
    this.openElement(i, nameEnd, j + 1, node);
    if (selfClosing) this.closeElement(j + 1, j + 1, slash);
    return j + 1;
  }

  /** The node of the element whose name begins at `at`, if it is among those of its parent and no prefix needs a look. */
  private nextNode(buf: Uint8Array, at: number): PlaceNode | null {
    const parent = this.depth === 0 ? (this.fragmentAt < 0 ? this.root : null) : this.frames[this.depth - 1].node;
    return parent === null || this.names.renames ? null : this.known(parent, buf, at, false);
  }

  /** The member whose name stands at `at`; the one behind the last is tried first. */
  private known(parent: PlaceNode, buf: Uint8Array, at: number, attribute: boolean): PlaceNode | null {
    const { nameBytes, nameNodes } = parent;
    const count = nameNodes.length;
    const most = count < TRIED ? count : TRIED;
    for (let tried = 0, k = parent.hint < count ? parent.hint : 0; tried < most; tried++, k = k + 1 < count ? k + 1 : 0) {
      const name = nameBytes[k];
      if ((name[0] === AT) !== attribute) continue;
      let n = attribute ? 1 : 0;
      let i = at;
      while (n < name.length && buf[i] === name[n]) {
        i++;
        n++;
      }
      if (n < name.length || IN_NAME[buf[i]] > 0) continue;
      const node = nameNodes[k];
      // of a list there may be more, else the next one is at hand
      parent.hint = (node.take & Wants.Row) !== 0 ? k : k + 1;
      this.nameStop = i;
      return node;
    }
    return null;
  }
  /** Where the name that was found ends. */
  private nameStop = 0;

  /** Reads `name="value"`; the value may hold anything but `<`. */
  private attribute(buf: Uint8Array, from: number, limit: number, final: boolean, parent: PlaceNode | null): number {
    const node = parent === null ? null : this.known(parent, buf, from, true);
    let j = from;
    if (node !== null) j = this.nameStop;
    else j = this.pastNameBytes(buf, j);
    const nameEnd = j;
    while (IS_SPACE[buf[j]] === 1) j++;
    if (j >= limit) return CUT;
    if (buf[j] !== EQUALS) this.fail("xml-attribute", from, limit);
    j++;
    while (IS_SPACE[buf[j]] === 1) j++;
    if (j >= limit) return CUT;
    const quote = buf[j];
    if (quote !== QUOTE && quote !== APOSTROPHE) this.fail("xml-attribute", from, limit);
    const start = ++j;
    let plain = true;
    for (;;) {
      while (IN_VALUE[buf[j]] === 1) j++;
      const b = buf[j];
      if (b === quote) break;
      const cls = IN_TEXT[b];
      if (j >= limit) return CUT;
      if (cls === GOES_ON || cls === BRACKET || cls === LINE) {
        if (b === LF || b === TAB || b === CR) plain = false;
        j++;
      } else if (cls === HIGH) {
        const length = utf8Length(buf, j, limit);
        if (length < 0 || (length === 0 && final)) this.fail("utf8", j, limit);
        if (length === 0) return CUT;
        if (isNoCharacter(buf, j)) this.fail("xml-control", j, limit);
        j += length;
      } else if (cls === REFERS) {
        plain = false;
        j = this.reference(buf, j, limit, final);
        if (j === CUT) return CUT;
      } else if (cls === ENDS) this.fail("xml-less-in-attribute", j, limit);
      else this.fail("xml-control", j, limit);
    }
    if (j >= limit) return CUT;
    const first = buf[from];
    if (first === LOWER_X) this.special = true;
    if (this.isTwice(buf, from, nameEnd)) this.fail("xml-attribute-twice", from, limit);
    const n = this.attributes++;
    this.attributeNames[2 * n] = from;
    this.attributeNames[2 * n + 1] = nameEnd;
    this.attributeValues[2 * n] = start;
    this.attributeValues[2 * n + 1] = j;
    this.attributePlain[n] = plain;
    this.attributeNodes[n] = node;
    return j + 1;
  }

  /** Does an attribute of this name stand in the tag already? Many are looked up by their names. */
  private isTwice(buf: Uint8Array, from: number, nameEnd: number): boolean {
    if (this.attributes < MANY) {
      const first = buf[from];
      for (let k = 0; k < this.attributes; k++) {
        const other = this.attributeNames[2 * k];
        if (buf[other] === first && this.attributeNames[2 * k + 1] - other === nameEnd - from && sameBytes(buf, from, nameEnd, buf, other))
          return true;
      }
      return false;
    }
    const { seen } = this;
    if (this.attributes === MANY) {
      seen.clear();
      for (let k = 0; k < MANY; k++) seen.add(decode(buf, this.attributeNames[2 * k], this.attributeNames[2 * k + 1]));
    }
    const before = seen.size;
    return seen.add(decode(buf, from, nameEnd)).size === before;
  }
  private readonly seen = new Set<string>();

  /** Prefixes have to be declared, and letters beyond ASCII to be such as names may hold. */
  private checkNames(start: number, nameEnd: number): void {
    this.checkName(start + 1, nameEnd);
    let prefixed = 0;
    for (let k = 0; k < this.attributes; k++) if (this.checkName(this.attributeNames[2 * k], this.attributeNames[2 * k + 1])) prefixed++;
    if (prefixed < 2 || this.fragmentAt >= 0) return;
    const names = new Set<string>();
    for (let k = 0; k < this.attributes; k++) {
      const from = this.attributeNames[2 * k];
      const [prefix, local] = decode(this.window, from, this.attributeNames[2 * k + 1]).split(":");
      if (local === undefined || prefix === "xmlns") continue;
      const name = `${this.names.uriOf(prefix)}\n${local}`;
      if (names.has(name)) this.fail("xml-attribute-twice", from, this.limit);
      names.add(name);
    }
  }

  /** Says whether the name has a prefix. */
  private checkName(from: number, to: number): boolean {
    const { window, limit } = this;
    let colon = -1;
    let bits = 0;
    for (let i = from; i < to; i++) {
      const b = IN_NAME[window[i]];
      if (b === NAME_COLON) {
        if (colon >= 0) this.fail("xml-name-wrong", from, limit);
        colon = i;
      }
      bits |= b;
    }
    const isOdd = (bits & NAME_HIGH) !== 0 || (colon >= 0 && (IN_NAME[window[colon + 1]] & NAME_BEGINS) === 0);
    if (isOdd && !QUALIFIED_NAME.test(decode(window, from, to))) this.fail("xml-name-wrong", from, limit);
    if (colon < 0) return false;
    // a part of a file does not show what is declared around it
    if (this.fragmentAt < 0 && !this.names.has(window, from, colon))
      this.fail("xml-prefix", from, limit, { prefix: decode(window, from, colon) });
    return true;
  }

  private openElement(start: number, nameEnd: number, tagEnd: number, found: PlaceNode | null): void {
    const { listener, base } = this;
    const d = this.depth++;
    const outer = d === 0 ? null : this.frames[d - 1];
    const frame = (this.frames[d] ??= new Frame());
    this.rootSeen = true;
    this.deepest = d;
    frame.start = base + start;
    frame.nameEnd = base + nameEnd;
    frame.name = null;
    frame.alike = null;
    frame.flags = 0;
    frame.hasChild = false;
    frame.preserve = outer !== null && outer.preserve;
    if (this.special) this.declareNamespaces(d);
    // of names that the plan knows, the first is looked at
    if ((this.nameBits & (NAME_COLON | NAME_HIGH)) !== 0 || found?.serial === -1) this.checkNames(start, nameEnd);
    if (outer !== null && !outer.hasChild) this.firstChild(outer, d - 1);
    const parent = outer === null ? this.root : outer.node;
    const node = d === 0 && this.fragmentAt >= 0 ? parent : parent === null ? null : this.nodeOf(parent, found, start + 1, nameEnd, false);
    frame.node = node;
    // its attributes were read before it was known whose they are
    if (found === null && node !== null)
      for (let k = 0; k < this.attributes; k++) this.attributeNodes[k] = this.known(node, this.window, this.attributeNames[2 * k], true);
    if (listener.rest !== undefined && this.keepFrom < 0 && (node === null || (node.take === Wants.Nothing && !node.entered)))
      this.tellUnwanted(start + 1, nameEnd);
    if (node === null && this.watcher === null) return;
    frame.serial = ++this.serial;
    frame.content = base + tagEnd;
    frame.pending = false;
    if (node !== null) {
      const serial = outer === null ? 0 : outer.serial;
      node.nth = node.serial === serial ? node.nth + 1 : 0;
      node.serial = serial;
      frame.index = node.nth;
    } else frame.index = 0;
    this.watcher?.start(d, this, base + start, base + tagEnd);
    if (node === null) return;
    const { take } = node;
    if (take === Wants.Nothing) {
      if (!node.entered) frame.node = null;
      else if (this.alike.size > 0) frame.alike = this.wordingsIn(node);
      if (node.entered && this.attributes > 0) this.tellAttributes(node);
      return;
    }
    this.nameStart = start + 1;
    this.nameEnd = nameEnd;
    this.index = frame.index;
    if (this.alike.size > 0) frame.alike = this.wordingsIn(node);
    this.learning = take & (Wants.Row | Wants.All) ? this.learn(node, outer, d) : this.learning;
    if (take & Wants.All) {
      if (this.countsAttributes()) listener.open(node, Kind.Record, start);
      else frame.pending = true;
    } else if (take & Wants.Row) this.openRow(node, start);
    if (this.attributes > 0) this.tellAttributes(node);
    const wanted = take & Wants.All ? true : node.own !== null && (node.own.take & Wants.Cell) !== 0;
    if (wanted && this.keepFrom < 0) {
      this.keepFrom = base + tagEnd;
      this.keepDepth = d;
    }
  }

  private wordingsIn(node: PlaceNode): Wordings | null {
    const found = this.alike.get(node);
    return found?.worth === true ? found : null;
  }

  /** A record begins. Its wording is worth keeping if it has no records inside, and no name stands for another. */
  private learn(node: PlaceNode, outer: Frame | null, depth: number): Learning | null {
    const around = outer?.node ?? null;
    if (around === null || (node.take & Wants.All) !== 0 || node.own !== null || node.grows || node.table < 0) return null;
    if (this.fragmentAt >= 0 || this.special || this.names.renames || this.keepFrom >= 0 || this.watcher !== null || outer!.preserve)
      return null;
    const known = this.alike.get(around);
    if (known !== undefined && (known.full || !known.worth)) return null;
    return new Learning(depth, this.textFrom);
  }

  /** The record that is being learned has ended. */
  private learned(learning: Learning, { node, start, nameEnd }: Frame, outer: Frame, end: number): void {
    const around = outer.node!;
    let known = this.alike.get(around);
    if (known === undefined) this.alike.set(around, (known = new Wordings()));
    learning.keep(known, node!, { start, end: nameEnd }, this, this.base + end);
    outer.alike ??= this.wordingsIn(around);
  }

  /** Attributes other than namespace declarations. */
  private countsAttributes(): boolean {
    for (let k = 0; k < this.attributes; k++) if (!this.isXmlns(k)) return true;
    return false;
  }

  private isXmlns(k: number): boolean {
    const s = this.attributeNames[2 * k];
    const e = this.attributeNames[2 * k + 1];
    const w = this.window;
    return (
      e - s >= 5 &&
      w[s] === 0x78 &&
      w[s + 1] === 0x6d &&
      w[s + 2] === 0x6c &&
      w[s + 3] === 0x6e &&
      w[s + 4] === 0x73 &&
      (e - s === 5 || w[s + 5] === COLON)
    );
  }

  private declareNamespaces(d: number): void {
    const { window, attributeNames } = this;
    this.names.declare(d, declaredIn(this));
    if (this.names.inScope > MOST_NAMESPACES) this.fail("xml-namespaces", attributeNames[0], this.limit, { most: MOST_NAMESPACES });
    for (let k = 0; k < this.attributes; k++) {
      const [start, end] = [attributeNames[2 * k], attributeNames[2 * k + 1]];
      if (end - start === XML_SPACE.length && startsWith(window, start, XML_SPACE))
        this.frames[d].preserve = startsWith(window, this.attributeValues[2 * k], PRESERVE);
    }
  }

  private tellAttributes(node: PlaceNode): void {
    const { listener } = this;
    for (let k = 0; k < this.attributes; k++) {
      if (this.special && this.isXmlns(k)) continue;
      const start = this.attributeNames[2 * k];
      const end = this.attributeNames[2 * k + 1];
      const inner = this.nodeOf(node, this.attributeNodes[k], start, end, true);
      if (inner === null || inner.take === Wants.Nothing) {
        if (listener.rest !== undefined)
          this.tellRest(hashName(this.window, start, end), this.attributeValues[2 * k], this.attributeValues[2 * k + 1]);
        continue;
      }
      inner.note = ATTRIBUTE;
      this.nameStart = start;
      this.nameEnd = end;
      const from = this.attributeValues[2 * k];
      const to = this.attributeValues[2 * k + 1];
      if (this.learning !== null) this.note(inner, this.window[to], from - 1, to + 1, from, to, this.attributePlain[k]);
      listener.value(inner, Kind.Text, from - 1, to + 1, from, to, this.attributePlain[k]);
    }
  }

  /** An element that is open turns out to hold elements. */
  private firstChild(frame: Frame, d: number): void {
    frame.hasChild = true;
    const { node } = frame;
    if (node === null) return;
    if (frame.pending) {
      frame.pending = false;
      this.listener.open(node, Kind.Record, frame.start - this.base);
    }
    if (this.keepDepth === d && (node.take & Wants.All || takenApart(node))) this.keepFrom = this.keepDepth = -1;
  }

  /** The node of a member: the one that was found by its bytes, unless prefixes stand for others, or one by its name. */
  private nodeOf(parent: PlaceNode, found: PlaceNode | null, start: number, end: number, attribute: boolean): PlaceNode | null {
    if (this.names.renames) return this.byName(parent, this.names.canonical(decode(this.window, start, end), attribute), attribute);
    if (found !== null) return found;
    if (!this.careful && parent.nameNodes.length <= TRIED && parent.any === null && !parent.grows) return null;
    return this.byName(parent, decode(this.window, start, end), attribute);
  }

  private byName(parent: PlaceNode, name: string, attribute: boolean): PlaceNode | null {
    const full = attribute ? `@${name}` : name;
    const known = parent.byName.get(full);
    if (known !== undefined) return known;
    if (!attribute && parent.any !== null) return parent.any;
    // an element kept as it is written is not looked into
    const grows = parent.grows && (attribute || (parent.take & Wants.All) !== 0 || takenApart(parent));
    return grows ? (this.listener.unknown?.(parent, full) ?? null) : null;
  }

  /** An element ends: its text is told, then the element itself. `slash` is where `/>` begins, white space before it included. */
  private closeElement(contentEnd: number, end: number, slash: number): void {
    const d = --this.depth;
    const frame = this.frames[d];
    const { node } = frame;
    const { listener, base } = this;
    this.watcher?.end(d, base + (slash >= 0 ? slash : contentEnd), base + end, slash >= 0);
    this.names.pop(d);
    if (node === null) return;
    // inside one of its own kind the node has counted for another container
    node.nth = frame.index;
    node.serial = d === 0 ? 0 : this.frames[d - 1].serial;
    const { take } = node;
    this.nameStart = frame.start + 1 - base;
    this.nameEnd = frame.nameEnd - base;
    this.index = frame.index;
    if (take & Wants.All) {
      const solid = (frame.flags & Text.Solid) !== 0;
      if (frame.pending) this.tellText(node, frame, contentEnd, end, slash);
      else {
        if (frame.hasChild && (solid || frame.flags & Text.Opaque)) listener.mixed?.(node);
        else if (!frame.hasChild && solid) this.tellText(listener.ownText?.(node) ?? null, frame, contentEnd, end, slash);
        listener.close(node, Kind.Record, end);
      }
    } else {
      const { own } = node;
      if (own !== null && own.take & Wants.Cell) {
        if (!frame.hasChild) this.tellText(own, frame, contentEnd, end, slash);
        else if (!takenApart(node)) {
          const start = frame.content - base;
          this.learning = null;
          listener.value(own, Kind.Record, start, contentEnd, start, contentEnd, true);
        }
      }
      if (take & Wants.Row) this.closeRow(node, end);
      if (this.learning?.depth === d) {
        if ((take & Wants.Row) !== 0) this.learned(this.learning, frame, this.frames[d - 1], end);
        this.learning = null;
      }
    }
    if (this.keepDepth === d) this.keepFrom = this.keepDepth = -1;
  }

  private tellText(node: PlaceNode | null, frame: Frame, contentEnd: number, end: number, slash: number): void {
    if (node === null) return;
    const { window, listener } = this;
    const { flags } = frame;
    if (slash >= 0) {
      if (this.learning !== null) this.note(node, 0, slash, end, end, end, true);
      listener.value(node, Kind.Text, slash, end, end, end, true);
      return;
    }
    let start = frame.content - this.base;
    let stop = contentEnd;
    if (!frame.preserve && start < stop && (IS_SPACE[window[start]] === 1 || IS_SPACE[window[stop - 1]] === 1)) {
      const first = pastSpace(window, start, stop);
      if (first.line) start = first.at;
      if (start < stop) {
        const last = beforeSpace(window, start, stop);
        if (last.line) stop = last.at;
      }
    }
    const opaque = (flags & Text.Opaque) !== 0;
    let plain = (flags & Text.NotPlain) === 0;
    let from = start;
    let to = stop;
    if (!plain && (flags & Text.Cdata) !== 0 && isSoleCdata(window, start, stop)) {
      from += CDATA.length;
      to -= 3;
      plain = window.subarray(from, to).indexOf(CR) < 0;
      if (!plain) [from, to] = [start, stop];
    } else if (!plain && (flags & (Text.Cdata | Text.Markup | Text.Opaque)) === 0) plain = isPlain(window, start, stop);
    if (this.learning !== null) this.note(node, LESS, start, stop, from, to, plain && !opaque);
    listener.value(node, opaque ? Kind.Record : Kind.Text, start, stop, opaque ? start : from, opaque ? stop : to, plain || opaque);
  }

  /** A value of the record that is being learned is told. */
  private note(node: PlaceNode, stop: number, start: number, end: number, from: number, to: number, plain: boolean): void {
    const { base } = this;
    const [nameBack, nameLength] = [from - this.nameStart, this.nameEnd - this.nameStart];
    const place = { node, stop, before: from - start, after: end - to, nameBack, nameLength, index: this.index };
    const simple = plain && (node.take & (Wants.Row | Wants.All)) === 0;
    if (!simple || !this.learning!.put(place, base + from, base + to)) this.learning = null;
  }

  private openNames(): string[] {
    return Array.from({ length: this.depth }, (_, d) => this.nameAt(d));
  }

  private failAtEnd<C extends ErrorCode>(code: C, facts: Facts<C>): never {
    throw new SourceError(code, facts, { byte: this.base + this.limit });
  }

  private fail(code: XmlCode, i: number, limit: number, more: object = {}): never {
    const seen = new TextDecoder().decode(this.window.subarray(i, Math.min(limit, i + 24))).split(/[\r\n]/)[0];
    throw new SourceError(code, { seen, byte: this.window[i], open: this.openNames(), ...more }, { byte: this.base + i });
  }
}

/** What is around the root element. */
const NO_FRAME = new Frame();
const OPEN = 0x5b;
const LOWER_X = 0x78;
/** So many attributes are compared one by one. */
const MANY = 32;
/** So many prefixes may stand for namespaces at one place. */
const MOST_NAMESPACES = 1000;
/** So many names are compared one by one before they are looked up by text. */
const TRIED = 12;

type XmlCode = Extract<ErrorCode, `xml-${string}`> | "utf8";

/** U+FFFE and U+FFFF are well-formed UTF-8, and no characters of XML. */
function isNoCharacter(buf: Uint8Array, at: number): boolean {
  return buf[at] === 0xef && buf[at + 1] === 0xbf && buf[at + 2] >= 0xbe;
}

/** Child elements of the node are wanted by name, so its content is not one value. */
function takenApart(node: PlaceNode): boolean {
  if (node.any !== null) return true;
  for (const name of node.nameBytes) if (name[0] !== AT) return true;
  return false;
}
