/** Tags and texts of the parts of a workbook, told one after the other. A push scanner: pieces of any size go in. */
import { decode } from "../../bytes/writer.js";
import { WindowScanner } from "../../bytes/window.js";
import { SourceError } from "../../errors/error.js";
import { unescapeXml } from "./text.js";

const [LESS, GREATER, SLASH, QUOTE, APOSTROPHE, COLON, EQUALS, SPACE, BANG, QUESTION] = [..."<>/\"':= !?"].map((sign) =>
  sign.charCodeAt(0),
);

/** Who hears of a part's tags. Names are without prefixes. */
export interface TagTaker {
  open(name: string, attribute: (name: string) => string | null): void;
  close(name: string): void;
  /** Is the text that comes wanted? */
  readonly wantsText: boolean;
  text(text: string): void;
}

function textBetween(buf: Uint8Array, from: number, to: number): string {
  const text = decode(buf, from, to);
  return text.includes("&") ? unescapeXml(text) : text;
}

export class MarkupScanner extends WindowScanner {
  /** Where the tag that is told begins and ends, from the part's beginning. */
  from = 0;
  to = 0;
  private tagStart = 0;
  private tagEnd = 0;
  private readonly attribute = (name: string): string | null => this.attributeIn(name);

  constructor(
    private readonly taker: TagTaker,
    private readonly file: string,
  ) {
    super();
  }

  protected leave(): void {
    // nothing is kept between two looks
  }

  protected scan(final: boolean): number {
    const { window: buf, limit, taker } = this;
    let at = 0;
    for (;;) {
      // most texts are short: a call would cost more than looking
      let tag = at;
      while (tag < limit && buf[tag] !== LESS) tag++;
      if (tag >= limit) {
        if (final && taker.wantsText) this.broken();
        // a text is told whole
        return taker.wantsText ? at : limit;
      }
      const end = this.endOf(tag);
      if (end < 0) {
        if (final) this.broken();
        return at;
      }
      if (tag > at && taker.wantsText) taker.text(textBetween(buf, at, tag));
      [this.from, this.to] = [this.base + tag, this.base + end + 1];
      const second = buf[tag + 1];
      if (second === BANG) {
        if (buf[tag + 2] === 0x5b) {
          if (taker.wantsText) taker.text(decode(buf, tag + 9, end - 2));
        } else if (buf[tag + 2] !== 0x2d) this.broken(); // no part declares anything of its own
      } else if (second === SLASH) taker.close(this.nameIn(tag + 2, end));
      else if (second !== QUESTION) {
        const isAlone = buf[end - 1] === SLASH;
        [this.tagStart, this.tagEnd] = [tag + 1, isAlone ? end - 1 : end];
        const name = this.nameIn(this.tagStart, this.tagEnd);
        taker.open(name, this.attribute);
        if (isAlone) taker.close(name);
      }
      at = end + 1;
    }
  }

  private broken(): never {
    throw new SourceError("workbook-broken", {}, { file: this.file });
  }

  /** Where the `>` is that ends what begins here; -1 when it has not come yet. */
  private endOf(tag: number): number {
    const { window: buf, limit } = this;
    if (tag + 4 >= limit && buf[tag + 1] === BANG) return -1;
    if (buf[tag + 1] === BANG && buf[tag + 2] === 0x2d) return this.find("-->", tag + 4);
    if (buf[tag + 1] === BANG && buf[tag + 2] === 0x5b) return this.find("]]>", tag + 9);
    for (let i = tag + 1; i < limit; i++) {
      const byte = buf[i];
      if (byte === GREATER) return i;
      if (byte !== QUOTE && byte !== APOSTROPHE) continue;
      for (i++; i < limit && buf[i] !== byte; i++);
    }
    return -1;
  }

  /** Where the last letter of the words stands. */
  private find(words: string, from: number): number {
    const { window: buf, limit } = this;
    for (let i = buf.indexOf(GREATER, from); i >= 0 && i < limit; i = buf.indexOf(GREATER, i + 1)) {
      if (buf[i - 1] === words.charCodeAt(1) && buf[i - 2] === words.charCodeAt(0)) return i;
    }
    return -1;
  }

  private nameIn(from: number, to: number): string {
    const { window: buf } = this;
    let begin = from;
    let end = from;
    for (; end < to && buf[end] > SPACE; end++) if (buf[end] === COLON) begin = end + 1;
    return decode(buf, begin, end);
  }

  private attributeIn(name: string): string | null {
    const { window: buf, tagEnd } = this;
    let i = this.tagStart;
    while (i < tagEnd && buf[i] > SPACE) i++;
    while (i < tagEnd) {
      while (i < tagEnd && buf[i] <= SPACE) i++;
      const begin = i;
      while (i < tagEnd && buf[i] !== EQUALS) i++;
      const found = this.isCalled(name, begin, i);
      while (i < tagEnd && buf[i] !== QUOTE && buf[i] !== APOSTROPHE) i++;
      const quote = buf[i];
      const value = ++i;
      while (i < tagEnd && buf[i] !== quote) i++;
      if (found) return unescapeXml(decode(buf, value, i));
      i++;
    }
    return null;
  }

  private isCalled(name: string, from: number, to: number): boolean {
    const { window: buf } = this;
    let end = to;
    while (end > from && buf[end - 1] <= SPACE) end--;
    // a prefix does not matter
    const begin = end - name.length;
    if (begin < from || (begin > from && buf[begin - 1] !== COLON)) return false;
    for (let k = 0; k < name.length; k++) if (buf[begin + k] !== name.charCodeAt(k)) return false;
    return true;
  }
}
