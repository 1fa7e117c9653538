/** How the lines of a fixed-width file become records. */
import type { SpellFault } from "../format.js";
import { largest } from "../../bytes/lists.js";
import stringWidth from "string-width";
import { decode, encode } from "../../bytes/writer.js";
import { CR, CUT, LF, lineEnd, type FieldSpans, type FieldValue, type LineGrammar } from "../lines/grammar.js";
import { showsSign } from "../lines/numbers.js";
import { decodeField, encodeField } from "./fields.js";
import { alikeKinds } from "../lines/layout.js";
import type { CodePage } from "./stored.js";
import { compileLayout, type FixedField, type FixedKind } from "./layout.js";
import type { LayoutInput } from "./settings.js";

const SPACE = 0x20;
const ZERO = 0x30;

const PLAIN = { page: null, widthOf: null };

export class FixedGrammar implements LineGrammar {
  readonly kinds: readonly FixedKind[];
  readonly alike: readonly (readonly number[])[];
  readonly lookAhead: boolean;
  readonly unbroken: boolean;
  readonly gap = false;
  end = 0;
  readonly fill?: LineGrammar["fill"];
  private readonly length: number;
  private readonly bytes: boolean;
  private readonly screen: boolean;
  /** How many columns a character takes, where that is not one each. */
  private readonly widthOf: ((char: string) => number) | null;

  constructor(layout: LayoutInput, utf8: boolean, { page, widthOf }: { page: CodePage | null; widthOf: FixedGrammar["widthOf"] } = PLAIN) {
    this.kinds = compileLayout(layout, page);
    this.alike = alikeKinds(this.kinds, ({ tag, line }) => [tag, line]);
    this.fill = layout.fill;
    this.dependents = this.kinds.map(({ fields }, kind) =>
      fields.some(
        (field, f) =>
          field.stored !== null ||
          (field.simple && field.right && field.pad === "0") ||
          fields.some((other, o) => o < f && overlap(field, other)) ||
          this.tellsKind(kind, field.name),
      ),
    );
    this.lookAhead = this.kinds.some((kind) => kind.line === "last");
    this.length = layout.length ?? 0;
    this.unbroken = this.length > 0;
    // in an encoding of one byte a character, bytes and characters are the same
    this.bytes = layout.unit === "bytes" && utf8;
    this.screen = layout.unit === "screen";
    this.widthOf = layout.unit === "bytes" ? widthOf : null;
  }

  reset(): void {
    // nothing is learnt
  }

  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    if (!this.unbroken) {
      const { end, next } = lineEnd(buf, from, limit, final);
      this.end = end;
      return next;
    }
    const end = this.columnByte(buf, from, limit, this.length);
    // what combines with the last character may still follow
    if ((end < 0 || (this.screen && end === limit)) && !final) return CUT;
    this.end = end < 0 ? limit : end;
    if (end >= 0 || !isLineEnds(buf, from, limit)) return this.end;
    // some programs end the file with a line end all the same
    this.end = from;
    return limit;
  }

  kindOf(buf: Uint8Array, start: number, end: number, line: number, last: boolean): number {
    if (end === start || this.isFiller(buf, start, end)) return -1;
    for (let k = 0; k < this.kinds.length; k++) {
      const { tag, line: place } = this.kinds[k];
      if (place !== null && !(place === "first" ? line === 1 : last)) continue;
      if (tag !== null && !this.hasTag(buf, start, end, tag)) continue;
      return k;
    }
    return -1;
  }

  private hasTagIn(line: string, tag: NonNullable<FixedKind["tag"]>): boolean {
    const bytes = encode(line);
    return this.hasTag(bytes, 0, bytes.length, tag);
  }

  private hasTag(buf: Uint8Array, start: number, end: number, tag: NonNullable<FixedKind["tag"]>): boolean {
    const from = this.columnByte(buf, start, end, tag.from);
    if (from < 0) return false;
    const to = this.columnByte(buf, start, end, tag.to);
    const text = decode(buf, from, to < 0 ? end : to);
    return tag.is.some((one) => text === one || text.trimEnd() === one);
  }

  dependent(kind: number): boolean {
    return this.dependents[kind];
  }
  private readonly dependents: readonly boolean[];

  share(kind: number, one: string, other: string): boolean {
    const [first, second] = [one, other].map((name) => this.kinds[kind].fields.find((field) => field.name === name));
    return first !== undefined && second !== undefined && overlap(first, second);
  }

  unnamed(kind: number, line: string): { columns: string; text: string }[] {
    const { fields, tag } = this.kinds[kind];
    const taken = [...fields, ...(tag === null ? [] : [tag])].sort((one, other) => one.from - other.from);
    const found: { columns: string; text: string }[] = [];
    const bytes = encode(line);
    let from = 0;
    for (const one of [...taken, { from: Infinity, to: Infinity }]) {
      const start = one.from > from ? this.columnByte(bytes, 0, bytes.length, from) : -1;
      const end = start < 0 || one.from === Infinity ? -1 : this.columnByte(bytes, 0, bytes.length, one.from);
      const text = start < 0 ? "" : decode(bytes, start, end < 0 ? bytes.length : end).trim();
      if (text !== "")
        found.push({
          columns:
            one.from === Infinity
              ? `columns ${from + 1} to the end`
              : from + 1 === one.from
                ? `column ${one.from}`
                : `columns ${from + 1}-${one.from}`,
          text,
        });
      from = Math.max(from, one.to);
    }
    return found;
  }

  missing(record: string): string {
    const rest = this.measure(record) % this.length;
    return " ".repeat(rest === 0 ? 0 : this.length - rest);
  }

  tellsKind(kind: number, name: string): boolean {
    return this.kinds[kind].fields.some(
      (field) => field.name === name && this.kinds.some(({ tag }) => tag !== null && overlap(field, tag)),
    );
  }

  isStray(buf: Uint8Array, start: number, end: number): boolean {
    return end > start && !this.isFiller(buf, start, end) && decode(buf, start, end).trim() !== "";
  }

  isFiller(buf: Uint8Array, start: number, end: number): boolean {
    if (this.fill === undefined || end === start || buf[start] !== this.fill.with.charCodeAt(0)) return false;
    return decode(buf, start, end) === this.fill.with.repeat(end - start);
  }

  /** Where a column begins, counted from the start of the line; -1 when the line is shorter. */
  private columnByte(buf: Uint8Array, start: number, end: number, column: number): number {
    if (this.bytes) return start + column <= end ? start + column : -1;
    if (this.screen && column > 0) return screenByte(buf, start, end, column);
    if (this.widthOf !== null) return wideByte(buf, start, end, column, this.widthOf);
    let at = start;
    for (let n = 0; n < column; n++) {
      if (at >= end) return -1;
      at++;
      while (at < end && (buf[at] & 0xc0) === 0x80) at++;
    }
    return at;
  }

  split(kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    const { fields } = this.kinds[kind];
    let column = 0;
    let at = start;
    const ascii = spans.ascii || isAscii(buf, start, end);
    for (let f = 0; f < fields.length; f++) {
      const field = fields[f];
      let from: number;
      let to: number;
      if (ascii || this.bytes) {
        from = start + field.from;
        to = Math.min(start + field.to, end);
      } else {
        if (field.from < column || this.screen || this.widthOf !== null) [column, at] = [0, start];
        from = this.columnByte(buf, at, end, field.from - column);
        if (from >= 0) [column, at] = [field.from, from];
        to = from < 0 || field.to === Infinity ? -1 : this.columnByte(buf, at, end, field.to - column);
        if (to < 0) to = end;
        if (from < 0) from = end;
      }
      if (from >= end) spans.set(f, -1, -1);
      else this.field(field, f, buf, from, to, spans);
    }
  }

  private field(field: FixedField, f: number, buf: Uint8Array, from: number, to: number, spans: FieldSpans): void {
    let textFrom = from;
    let textTo = to;
    if (field.simple && field.pad === " ") {
      while (textTo > textFrom && buf[textTo - 1] === SPACE) textTo--;
      if (field.right) while (textFrom < textTo && buf[textFrom] === SPACE) textFrom++;
      spans.set(f, from, to, textFrom, textTo, true);
    } else spans.set(f, from, to, from, to, false);
  }

  isEmpty(kind: number, field: number, buf: Uint8Array, { textStarts, textEnds }: FieldSpans): boolean {
    const { date, stored } = this.kinds[kind].fields[field];
    if (stored?.as === "binary") return false;
    const zeros = date !== null;
    for (let i = textStarts[field]; i < textEnds[field]; i++) if (buf[i] !== SPACE && !(zeros && buf[i] === ZERO)) return false;
    return true;
  }

  /** A number that is no text is never blank. */
  nothing(kind: number, field: number): string {
    const { stored, number } = this.kinds[kind].fields[field];
    return stored === null ? "" : "0" + (number?.decimals ? `.${"0".repeat(number.decimals)}` : "");
  }

  decode(text: string, kind: number, field: number): string {
    return decodeField(text, this.kinds[kind].fields[field]);
  }

  encode(text: string, kind: number, field: number, old: string | null): string | SpellFault {
    return encodeField(text, this.kinds[kind].fields[field], (one) => this.measure(one), old);
  }

  isTelling(kind: number, field: number, raw: string): boolean {
    const { number } = this.kinds[kind].fields[field];
    return number === null || showsSign(raw, number);
  }

  readsAs(text: string, kind: number, field: number): string {
    const own = this.kinds[kind].fields[field];
    const written = own.simple ? text : this.encode(text, kind, field, null);
    return own.simple || typeof written !== "string" ? text : decodeField(written, own);
  }

  private measure(text: string): number {
    if (this.screen) return stringWidth(text);
    if (this.widthOf !== null) return [...text].reduce((width, char) => width + this.widthOf!(char), 0);
    return this.bytes ? encode(text).length : [...text].length;
  }

  write(kind: number, values: readonly FieldValue[], model: string | null): string {
    const { fields, tag } = this.kinds[kind];
    const width =
      this.length > 0 ? this.length : model === null ? Math.max(tag?.to ?? 0, largest(fields.map(lastColumn))) : this.measure(model);
    // what no field covers is as in the model
    let line = this.pad(model ?? "", Math.max(width, largest(fields.map(lastColumn))));
    if (tag !== null && !this.hasTagIn(line, tag)) line = this.put(line, tag.from, tag.to, this.pad(tag.is[0], tag.to - tag.from));
    const valueOf = ({ name, stored }: FixedField): string => values.find((one) => one.name === name)?.text || (stored === null ? "" : "0");
    const puts = [...fields.entries()].filter(([, field]) => valueOf(field) !== "" || tag === null || !overlap(field, tag));
    // where fields share columns, what is said stands over what is not
    for (const [f, field] of puts.sort(([, one], [, other]) => Number(valueOf(one) !== "") - Number(valueOf(other) !== ""))) {
      const written = this.encode(valueOf(field), kind, f, model === null ? null : this.columns(model, field));
      line = this.put(line, field.from, field.to, typeof written === "string" ? written : this.pad("", lastColumn(field) - field.from));
    }
    // lines of the source that end where their last field does are not filled up: nor are new ones
    const isRagged = model !== null && /\S$/.test(model) && this.measure(model) < this.measure(line);
    return !this.unbroken && isRagged ? line.trimEnd() : line;
  }

  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    let extended = line;
    for (const [f, field] of this.kinds[kind].fields.entries()) {
      const value = values.find((one) => one.name === field.name);
      if (value === undefined) continue;
      const written = this.encode(value.text, kind, f, null);
      if (typeof written === "string") extended = this.put(this.pad(extended, lastColumn(field)), field.from, field.to, written);
    }
    return extended;
  }

  private columns(line: string, { from, to }: Columns): string {
    const bytes = encode(line);
    const start = this.columnByte(bytes, 0, bytes.length, from);
    const end = start < 0 || to === Infinity ? -1 : this.columnByte(bytes, 0, bytes.length, to);
    return start < 0 ? "" : decode(bytes, start, end < 0 ? bytes.length : end);
  }

  private pad(text: string, width: number): string {
    return text + " ".repeat(Math.max(0, width - this.measure(text)));
  }

  /** Replaces columns of a line. */
  private put(line: string, from: number, to: number, text: string): string {
    const bytes = encode(line);
    const start = this.columnByte(bytes, 0, bytes.length, from);
    const end = to === Infinity ? -1 : this.columnByte(bytes, 0, bytes.length, to);
    return decode(bytes, 0, start < 0 ? bytes.length : start) + text + (end < 0 ? "" : decode(bytes, end));
  }
}

interface Columns {
  readonly from: number;
  readonly to: number;
}

function overlap(one: Columns, other: Columns): boolean {
  return one.from < other.to && other.from < one.to;
}

/** A field that goes to the end of the line needs no columns of its own. */
function lastColumn({ from, to }: FixedField): number {
  return to === Infinity ? from : to;
}

const CHARACTERS = new Intl.Segmenter("en", { granularity: "grapheme" });

/** Where a column of the screen begins; a wide character over the edge belongs to what is before it. */
function screenByte(buf: Uint8Array, start: number, end: number, column: number): number {
  // as a rule so few bytes are enough; the last character of them may be cut
  for (let size = 8 * column + 64; ; size *= 4) {
    const near = Math.min(end, start + size);
    let at = start;
    let n = 0;
    for (const { segment } of CHARACTERS.segment(decode(buf, start, near))) {
      if (n >= column && (near === end || at < near - 64)) return at;
      n += stringWidth(segment);
      at += encode(segment).length;
    }
    if (near === end) return n >= column ? at : -1;
  }
}

/** Where a column begins where characters take several; one over the edge belongs to what is before it. */
function wideByte(buf: Uint8Array, start: number, end: number, column: number, widthOf: (char: string) => number): number {
  let at = start;
  for (let n = 0; n < column;) {
    if (at >= end) return -1;
    let next = at + 1;
    while (next < end && (buf[next] & 0xc0) === 0x80) next++;
    n += next === at + 1 ? 1 : widthOf(decode(buf, at, next));
    at = next;
  }
  return at;
}

function isLineEnds(buf: Uint8Array, from: number, to: number): boolean {
  for (let i = from; i < to; i++) if (buf[i] !== CR && buf[i] !== LF) return false;
  return true;
}

function isAscii(buf: Uint8Array, start: number, end: number): boolean {
  for (let i = start; i < end; i++) if (buf[i] >= 0x80) return false;
  return true;
}
