/**
 * The XML scanner (XML 1.0, fifth edition): a push scanner with byte spans, no recursion, no tree.
 *
 * It checks that the document is well formed and tells its listener only what the guide wants. The
 * document is a record with one member, its root element; an element is a record of its attributes
 * (`@name`) and child elements, or a text when it has no child elements. White space at the edges of
 * a text belongs to the layout, not to the value, when there is a line end in it.
 */
import { WindowScanner } from "../../bytes/window.js";
import { utf8Length } from "../../bytes/utf8.js";
import { decode, encode } from "../../bytes/writer.js";
import { SourceError } from "../../errors/error.js";
import type { Code, Facts } from "../../errors/words.js";
import { GuideNode, Kind, Take, type Listener, type Manner, type Scanner, type Trail, type TrailStep } from "../format.js";
import {
  AMP,
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
  GREATER,
  HIGH,
  IN_NAME,
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
import type { Entities } from "./entities.js";
import { Names } from "./names.js";
import { isCharReference, isPredefined } from "./text.js";

const CUT = -1;
const LONGEST_REFERENCE = 128;
const CDATA = encode("<![CDATA[");
const DOCTYPE = encode("<!DOCTYPE");
const XML_SPACE = encode("xml:space");
const PRESERVE = encode("preserve");

/** What is known of the text of an element that is open. Bits. */
const Text = { Solid: 1, NotPlain: 2, Opaque: 4, Cdata: 8, Markup: 16 } as const;

/** A mark on guide nodes of attributes, so that their values are decoded as such. */
export const ATTRIBUTE = "attribute";

/** Hears of every start and end tag of a fragment, two levels deep: how an element is written. */
export interface TagWatcher {
  start(depth: number, tag: XmlScanner, tagStart: number, tagEnd: number): void;
  /** For `<a/>`, the content ends where `/>` begins, white space before it included. */
  end(depth: number, contentEnd: number, elementEnd: number, selfClosing: boolean): void;
}

export class XmlScanner extends WindowScanner implements Scanner {
  nameStart = 0;
  nameEnd = 0;
  index = 0;
  readonly namePlain = true;
  readonly inList = false;
  readonly named = true;
  readonly manner: Manner = { rawHigh: true, escapedHigh: false, crlf: false };

  /** Attributes of the start tag in view: names, and values without their quotes. */
  attributes = 0;
  readonly attributeNames: number[] = [];
  readonly attributeValues: number[] = [];
  private readonly attributePlain: boolean[] = [];
  /** One of them may be a namespace declaration, or `xml:space`. */
  private special = false;

  private pos = 0;
  private begun = false;
  private rootSeen = false;
  private depth = 0;
  private serial = 0;
  private readonly nodes: (GuideNode | null)[] = [];
  private readonly serials: number[] = [];
  private readonly starts: number[] = [];
  private readonly contents: number[] = [];
  private readonly flags: number[] = [];
  private readonly hasChild: boolean[] = [];
  private readonly pending: boolean[] = [];
  private readonly preserve: boolean[] = [];
  private readonly spans: number[] = [];
  private readonly indexes: number[] = [];
  /** Depth of the element that was opened last. */
  private deepest = -1;
  readonly names = new Names();
  /** Content is kept in view from here on, for the element at `keepDepth`. */
  private keepFrom = -1;
  private keepDepth = -1;

  constructor(
    private readonly root: GuideNode | null,
    private readonly listener: Listener,
    private readonly entities: Entities,
    namespaces: Readonly<Record<string, string>> = {},
    /** Scan one element that begins here, and stop behind it. */
    private readonly fragmentAt = -1,
    private readonly watcher: TagWatcher | null = null,
  ) {
    super();
    if (fragmentAt >= 0) this.base = fragmentAt;
    this.names.bind(namespaces);
    listener.scanner = this;
  }

  /** Name of the element that was opened last. */
  get tagName(): string {
    return this.names.at(this.depth - 1);
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
      steps.push(this.names.at(d));
      const node = this.nodes[d];
      if (node !== null && (node.take & Take.Row) !== 0) steps.push(this.indexes[d]);
    }
    return steps;
  }

  protected leave(): void {
    this.listener.leave();
  }

  protected scan(final: boolean): number {
    const { root, listener } = this;
    let i = this.pos;
    if (!this.begun) {
      if (this.limit < 3 && !final) return 0;
      const [a, b, c] = this.window;
      if (this.fragmentAt < 0 && a === 0xef && b === 0xbb && c === 0xbf) i = 3;
      this.begun = true;
      if (this.fragmentAt < 0 && root !== null && (root.take & (Take.Row | Take.All)) !== 0) listener.open(root, Kind.Record, 0);
    }
    i = this.run(i, final);
    if (final && !this.done) {
      if (this.depth > 0) this.failAtEnd("xml-cut", { open: this.openNames() });
      if (!this.rootSeen) this.failAtEnd("xml-empty", {});
      if (this.fragmentAt < 0 && root !== null && (root.take & (Take.Row | Take.All)) !== 0) {
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

  /** Outside the root element only white space may stand between tags, comments and instructions. */
  private between(buf: Uint8Array, from: number, limit: number): number {
    let i = from;
    while (i < limit && IS_SPACE[buf[i]] === 1) i++;
    if (i < limit && buf[i] !== LESS) this.fail("xml-outside", i, limit);
    return i;
  }

  /** Character data up to the next tag: `<a>|text</a>`. Returns where it stopped: at `<`, the limit, or what is cut off. */
  private text(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    let i = from;
    while (IS_LAYOUT[buf[i]] === 1) i++;
    if (buf[i] === LESS) return i;
    const d = this.depth - 1;
    let flags = this.flags[d];
    if (IN_TEXT[buf[i]] === GOES_ON) flags |= Text.Solid;
    for (;;) {
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
        if (buf[i + 1] === LF) this.manner.crlf = true;
        i++;
        while (IS_LAYOUT[buf[i]] === 1) i++;
        if (IN_TEXT[buf[i]] === GOES_ON) flags |= Text.Solid;
      } else if (cls === HIGH) {
        const length = utf8Length(buf, i, limit);
        if (length < 0) this.fail("utf8", i, limit);
        if (length === 0 && !final) break;
        if (length === 0) this.fail("utf8", i, limit);
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
    this.flags[d] = flags;
    return i;
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
    const c = buf[i + 1];
    if (c === SLASH) return this.endTag(buf, i, limit);
    if (c === QUESTION) return this.instruction(buf, i, limit);
    if (c === BANG) return this.declaration(buf, i, limit, final);
    return this.startTag(buf, i, limit, final);
  }

  private instruction(buf: Uint8Array, i: number, limit: number): number {
    const end = find(buf, i + 2, limit, QUESTION, GREATER);
    if (end === CUT) return CUT;
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
      this.markText();
      return end + 3;
    }
    if (startsWith(buf, i, CDATA) && this.depth > 0) {
      for (let end = i + CDATA.length; end + 2 < limit; end++) {
        if (buf[end] !== CLOSE_BRACKET || buf[end + 1] !== CLOSE_BRACKET || buf[end + 2] !== GREATER) continue;
        this.checkHigh(buf, i + CDATA.length, end, limit);
        this.flags[this.depth - 1] |= Text.Solid | Text.NotPlain | Text.Cdata;
        return end + 3;
      }
      return CUT;
    }
    if (startsWith(buf, i, DOCTYPE) && !this.rootSeen) return this.doctype(buf, i, limit);
    return this.fail("xml-tag", i, limit);
  }

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
    if (this.depth > 0) this.flags[this.depth - 1] |= Text.NotPlain | Text.Markup;
  }

  private checkHigh(buf: Uint8Array, from: number, to: number, limit: number): void {
    for (let i = from; i < to;) {
      const cls = IN_TEXT[buf[i]];
      if (cls === HIGH) {
        const length = utf8Length(buf, i, to);
        if (length <= 0) this.fail("utf8", i, limit);
        i += length;
      } else if (cls === CONTROL) this.fail("xml-control", i, limit);
      else i++;
    }
  }

  private endTag(buf: Uint8Array, i: number, limit: number): number {
    let j = i + 2;
    while (IN_NAME[buf[j]] > 0) j++;
    const nameEnd = j;
    while (IS_SPACE[buf[j]] === 1) j++;
    if (j >= limit) return CUT;
    if (buf[j] !== GREATER) this.fail("xml-tag", i, limit);
    if (this.depth === 0 || !this.names.matches(this.depth - 1, buf, i + 2, nameEnd)) {
      this.fail("xml-end-tag", i, limit, { open: this.openNames() });
    }
    this.closeElement(i, j + 1, -1);
    return j + 1;
  }

  private startTag(buf: Uint8Array, i: number, limit: number, final: boolean): number {
    let j = i + 1;
    if (IN_NAME[buf[j]] !== 1) this.fail("xml-tag", i, limit);
    while (IN_NAME[buf[j]] > 0) j++;
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
      if (space === j || IN_NAME[buf[j]] !== 1) this.fail("xml-attribute", j, limit);
      j = this.attribute(buf, j, limit, final);
      if (j === CUT) return CUT;
    }
    if (this.depth === 0 && this.rootSeen) this.fail("xml-second-root", i, limit);
    this.openElement(i, nameEnd, j + 1);
    if (selfClosing) this.closeElement(j + 1, j + 1, slash);
    return j + 1;
  }

  /** Reads `name="value"`; the value may hold anything but `<`. */
  private attribute(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    let j = from;
    while (IN_NAME[buf[j]] > 0) j++;
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
    for (let k = 0; k < this.attributes; k++) {
      const other = this.attributeNames[2 * k];
      if (buf[other] === first && sameBytes(buf, other, this.attributeNames[2 * k + 1], from, nameEnd))
        this.fail("xml-attribute-twice", from, limit);
    }
    const n = this.attributes++;
    this.attributeNames[2 * n] = from;
    this.attributeNames[2 * n + 1] = nameEnd;
    this.attributeValues[2 * n] = start;
    this.attributeValues[2 * n + 1] = j;
    this.attributePlain[n] = plain;
    return j + 1;
  }

  private openElement(start: number, nameEnd: number, tagEnd: number): void {
    const { window, listener } = this;
    const d = this.depth;
    this.rootSeen = true;
    const parent = d === 0 ? this.root : this.nodes[d - 1];
    this.names.push(d, window, start + 1, nameEnd);
    if (this.special) this.declareNamespaces(d);
    if (d > 0 && !this.hasChild[d - 1]) this.firstChild(d - 1);
    const node = d === 0 && this.fragmentAt >= 0 ? parent : parent === null ? null : this.child(parent, start + 1, nameEnd);
    this.nodes[d] = node;
    this.flags[d] = 0;
    this.hasChild[d] = false;
    this.deepest = d;
    if (node === null && this.watcher === null) {
      this.preserve[d] = d > 0 && this.preserve[d - 1];
      this.depth++;
      return;
    }
    this.serials[d] = ++this.serial;
    this.starts[d] = this.base + start;
    this.contents[d] = this.base + tagEnd;
    this.pending[d] = false;
    this.preserve[d] = d > 0 && this.preserve[d - 1];
    this.spans[2 * d] = this.base + start + 1;
    this.spans[2 * d + 1] = this.base + nameEnd;
    const outer = d === 0 ? 0 : this.serials[d - 1];
    if (node !== null) {
      node.nth = node.serial === outer ? node.nth + 1 : 0;
      node.serial = outer;
    }
    this.indexes[d] = node?.nth ?? 0;
    this.depth++;
    this.watcher?.start(d, this, this.base + start, this.base + tagEnd);
    if (node === null || node.take === Take.Nothing) {
      if (node !== null && !node.entered) this.nodes[d] = null;
      else if (node !== null) this.tellAttributes(node);
      return;
    }
    this.nameStart = start + 1;
    this.nameEnd = nameEnd;
    this.index = this.indexes[d];
    if (node.take & Take.All) {
      if (this.countsAttributes()) listener.open(node, Kind.Record, start);
      else this.pending[d] = true;
    } else if (node.take & Take.Row) listener.open(node, Kind.Record, start);
    if (this.attributes > 0) this.tellAttributes(node);
    const wanted = node.take & Take.All ? true : node.own !== null && (node.own.take & Take.Cell) !== 0;
    if (wanted && this.keepFrom < 0) {
      this.keepFrom = this.base + tagEnd;
      this.keepDepth = d;
    }
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
    const { window } = this;
    for (let k = 0; k < this.attributes; k++) {
      const [nameStart, nameEnd] = [this.attributeNames[2 * k], this.attributeNames[2 * k + 1]];
      const [start, end] = [this.attributeValues[2 * k], this.attributeValues[2 * k + 1]];
      if (this.isXmlns(k))
        this.names.declare(d, nameEnd - nameStart === 5 ? "" : decode(window, nameStart + 6, nameEnd), decode(window, start, end));
      else if (nameEnd - nameStart === XML_SPACE.length && startsWith(window, nameStart, XML_SPACE)) {
        this.preserve[d] = startsWith(window, start, PRESERVE);
      }
    }
  }

  private tellAttributes(node: GuideNode): void {
    const { listener } = this;
    for (let k = 0; k < this.attributes; k++) {
      if (this.special && this.isXmlns(k)) continue;
      const start = this.attributeNames[2 * k];
      const end = this.attributeNames[2 * k + 1];
      const inner = this.lookUp(node, start, end, true);
      if (inner === null || inner.take === Take.Nothing) continue;
      inner.note = ATTRIBUTE;
      this.nameStart = start;
      this.nameEnd = end;
      const from = this.attributeValues[2 * k];
      const to = this.attributeValues[2 * k + 1];
      listener.value(inner, Kind.Text, from - 1, to + 1, from, to, this.attributePlain[k]);
    }
  }

  /** An element that is open turns out to hold elements. */
  private firstChild(d: number): void {
    this.hasChild[d] = true;
    const node = this.nodes[d];
    if (node === null) return;
    if (this.pending[d]) {
      this.pending[d] = false;
      this.listener.open(node, Kind.Record, this.starts[d] - this.base);
    }
    if (this.keepDepth === d && (node.take & Take.All || takenApart(node))) this.keepFrom = this.keepDepth = -1;
  }

  private child(parent: GuideNode, start: number, end: number): GuideNode | null {
    // an element kept as it is written is not looked into
    if ((parent.take & Take.All) === 0 && !takenApart(parent)) return null;
    return this.lookUp(parent, start, end, false);
  }

  /** The node of a member by the bytes of its name; the one met last is tried first. */
  private lookUp(parent: GuideNode, start: number, end: number, attribute: boolean): GuideNode | null {
    const { window } = this;
    const { nameBytes, nameNodes } = parent;
    const length = end - start + (attribute ? 1 : 0);
    const count = nameNodes.length;
    if (this.names.renames) return this.byName(parent, this.names.canonical(decode(window, start, end), attribute), attribute);
    const most = Math.min(count, TRIED);
    for (let k = 0, at = parent.hint; k < most; k++, at = at + 1 < count ? at + 1 : 0) {
      const name = nameBytes[at];
      if (name.length !== length || (name[0] === AT) !== attribute) continue;
      let n = attribute ? 1 : 0;
      let w = start;
      while (w < end && name[n] === window[w]) {
        n++;
        w++;
      }
      if (w === end) {
        parent.hint = at;
        return nameNodes[at];
      }
    }
    if (most === count && parent.any === null && !parent.grows) return null;
    return this.byName(parent, decode(window, start, end), attribute);
  }

  private byName(parent: GuideNode, name: string, attribute: boolean): GuideNode | null {
    const full = attribute ? `@${name}` : name;
    const known = parent.byName.get(full);
    if (known !== undefined) return known;
    if (!attribute && parent.any !== null) return parent.any;
    return parent.grows ? (this.listener.unknown?.(parent, full) ?? null) : null;
  }

  /** An element ends: its text is told, then the element itself. `slash` is where `/>` begins, white space before it included. */
  private closeElement(contentEnd: number, end: number, slash: number): void {
    const d = --this.depth;
    const node = this.nodes[d];
    const { listener } = this;
    this.watcher?.end(d, this.base + (slash >= 0 ? slash : contentEnd), this.base + end, slash >= 0);
    this.names.pop(d);
    if (node === null) return;
    // inside one of its own kind the node has counted for another container
    node.nth = this.indexes[d];
    node.serial = d === 0 ? 0 : this.serials[d - 1];
    const { take } = node;
    this.nameStart = this.spans[2 * d] - this.base;
    this.nameEnd = this.spans[2 * d + 1] - this.base;
    this.index = this.indexes[d];
    if (take & Take.All) {
      const solid = (this.flags[d] & Text.Solid) !== 0;
      if (this.pending[d]) this.tellText(node, d, contentEnd, end, slash);
      else {
        if (this.hasChild[d] && (solid || this.flags[d] & Text.Opaque)) listener.mixed?.(node);
        else if (!this.hasChild[d] && solid) this.tellText(listener.ownText?.(node) ?? null, d, contentEnd, end, slash);
        listener.close(node, Kind.Record, end);
      }
    } else {
      const { own } = node;
      if (own !== null && own.take & Take.Cell) {
        if (!this.hasChild[d]) this.tellText(own, d, contentEnd, end, slash);
        else if (!takenApart(node)) {
          const start = this.contents[d] - this.base;
          listener.value(own, Kind.Record, start, contentEnd, start, contentEnd, true);
        }
      }
      if (take & Take.Row) listener.close(node, Kind.Record, end);
    }
    if (this.keepDepth === d) this.keepFrom = this.keepDepth = -1;
  }

  private tellText(node: GuideNode | null, d: number, contentEnd: number, end: number, slash: number): void {
    if (node === null) return;
    const { window, listener } = this;
    const flags = this.flags[d];
    if (slash >= 0) {
      listener.value(node, Kind.Text, slash, end, end, end, true);
      return;
    }
    let start = this.contents[d] - this.base;
    let stop = contentEnd;
    if (!this.preserve[d]) {
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
    listener.value(node, opaque ? Kind.Record : Kind.Text, start, stop, opaque ? start : from, opaque ? stop : to, plain || opaque);
  }

  private openNames(): string[] {
    return this.names.open(this.depth);
  }

  private failAtEnd<C extends Code>(code: C, facts: Facts<C>): never {
    throw new SourceError(code, facts, { byte: this.base + this.limit });
  }

  private fail(code: XmlCode, i: number, limit: number, more: object = {}): never {
    const seen = new TextDecoder().decode(this.window.subarray(i, Math.min(limit, i + 24))).split(/[\r\n]/)[0];
    throw new SourceError(code, { seen, byte: this.window[i], open: this.openNames(), ...more }, { byte: this.base + i });
  }
}

const OPEN = 0x5b;
const LOWER_X = 0x78;
/** So many names are compared one by one before they are looked up by text. */
const TRIED = 12;

type XmlCode = Extract<Code, `xml-${string}`> | "utf8";

/** Child elements of the node are wanted by name, so its content is not one value. */
function takenApart(node: GuideNode): boolean {
  if (node.any !== null) return true;
  for (const name of node.nameBytes) if (name[0] !== AT) return true;
  return false;
}

function find(buf: Uint8Array, from: number, limit: number, first: number, second: number): number {
  for (let i = from; i + 1 < limit; i++) if (buf[i] === first && buf[i + 1] === second) return i;
  return CUT;
}

function startsWith(buf: Uint8Array, at: number, bytes: Uint8Array): boolean {
  for (let k = 0; k < bytes.length; k++) if (buf[at + k] !== bytes[k]) return false;
  return true;
}

function sameBytes(buf: Uint8Array, a: number, aEnd: number, b: number, bEnd: number): boolean {
  if (aEnd - a !== bEnd - b) return false;
  for (let k = 0; a + k < aEnd; k++) if (buf[a + k] !== buf[b + k]) return false;
  return true;
}

function pastSpace(buf: Uint8Array, from: number, to: number): { at: number; line: boolean } {
  let i = from;
  let line = false;
  for (; i < to && IS_SPACE[buf[i]] === 1; i++) line ||= buf[i] === LF || buf[i] === CR;
  return { at: i, line };
}

function beforeSpace(buf: Uint8Array, from: number, to: number): { at: number; line: boolean } {
  let i = to;
  let line = false;
  for (; i > from && IS_SPACE[buf[i - 1]] === 1; i--) line ||= buf[i - 1] === LF || buf[i - 1] === CR;
  return { at: i, line };
}

/** One CDATA section and nothing else. */
function isSoleCdata(buf: Uint8Array, from: number, to: number): boolean {
  if (!startsWith(buf, from, CDATA)) return false;
  for (let i = from + CDATA.length; i + 2 < to; i++) {
    if (buf[i] === CLOSE_BRACKET && buf[i + 1] === CLOSE_BRACKET && buf[i + 2] === GREATER) return i + 3 === to;
  }
  return false;
}

/** Not plain as a whole, but the white space cut off may have held what made it so. */
function isPlain(buf: Uint8Array, from: number, to: number): boolean {
  for (let i = from; i < to; i++) if (buf[i] === AMP || buf[i] === CR) return false;
  return true;
}
