/** How segments become records: a tag, fields behind delimiters, and parts of these, up to a sign that ends the segment. */
import { smallest } from "../../bytes/lists.js";
import { decode, encode } from "../../bytes/writer.js";
import type { SpellFault } from "../format.js";
import { CR, CUT, LF, type FieldSpans, type FieldValue, type LineGrammar } from "../lines/grammar.js";
import { alikeKinds } from "../lines/layout.js";
import { compileSegments, type SegmentField, type SegmentKind } from "./layout.js";
import type { SegmentsInput } from "./settings.js";

const SPACE = 0x20;

export class SegmentGrammar implements LineGrammar {
  readonly kinds: readonly SegmentKind[];
  readonly alike: readonly (readonly number[])[];
  readonly lookAhead = false;
  readonly unbroken = false;
  readonly gap = false;
  readonly sharesLines = true;
  readonly terminator: string;
  end = 0;
  private readonly delimiter: string;
  private readonly parts: string | null;
  private readonly release: string | null;
  private readonly skip: string | null;
  private readonly signs: ReadonlySet<string>;

  constructor(layout: SegmentsInput) {
    this.kinds = compileSegments(layout);
    this.alike = alikeKinds(this.kinds, ({ tags }) => tags);
    this.terminator = layout.end;
    this.delimiter = layout.delimiter;
    this.parts = layout.parts ?? null;
    this.release = layout.release ?? null;
    this.skip = layout.skip ?? null;
    this.signs = new Set([layout.end, layout.delimiter, layout.parts, layout.release].filter((sign) => sign !== undefined));
  }

  reset(): void {
    // nothing is learnt
  }

  dependent(): boolean {
    return false;
  }

  /** The segment ends at its sign; line ends and blanks behind it belong to it. */
  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    const close = this.find(buf, from, limit, this.terminator);
    this.end = close < 0 ? limit : close;
    if (close < 0) {
      if (final) while (this.end > from && isSpace(buf[this.end - 1])) this.end--;
      return final ? limit : CUT;
    }
    let i = close + 1;
    while (i < limit && isSpace(buf[i])) i++;
    return i >= limit && !final ? CUT : i;
  }

  /** Where the sign stands as one; -1 where it does not. */
  private find(buf: Uint8Array, from: number, to: number, sign: string): number {
    const [wanted, release] = [sign.charCodeAt(0), this.release?.charCodeAt(0) ?? -1];
    for (let i = from; i < to; i++) {
      if (buf[i] === release) i++;
      else if (buf[i] === wanted) return i;
    }
    return -1;
  }

  kindOf(buf: Uint8Array, start: number, end: number): number {
    if (this.skip !== null && decode(buf, start, Math.min(end, start + this.skip.length)) === this.skip) return -1;
    const tag = decode(buf, start, this.tagEnd(buf, start, end));
    return this.kinds.findIndex(({ tags }) => tags.includes(tag));
  }

  private tagEnd(buf: Uint8Array, start: number, end: number): number {
    const stops = [this.delimiter, ...(this.parts === null ? [] : [this.parts])].map((sign) => this.find(buf, start, end, sign));
    return smallest(stops.map((at) => (at < 0 ? end : at)));
  }

  /** Fields of a segment, its tag first, each a list of parts. */
  fieldsIn(buf: Uint8Array, start: number, end: number): string[][] {
    const texts = (piece: Piece): string[] => this.partsOf(buf, piece).map(({ from, to }) => this.decode(decode(buf, from, to)));
    return this.pieces(buf, start, end, this.delimiter).map(texts);
  }

  isStray(buf: Uint8Array, start: number, end: number): boolean {
    const text = decode(buf, start, end).trim();
    return text !== "" && (this.skip === null || !text.startsWith(this.skip));
  }

  split(kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    const { fields } = this.kinds[kind];
    const whole = this.pieces(buf, this.tagEnd(buf, start, end), end, this.delimiter);
    for (const [f, { at, part }] of fields.entries()) {
      const field = whole.at(at + 1);
      const own = at + 1 < whole.length && field !== undefined ? this.partsOf(buf, field) : [];
      const span = own.at(Math.max(part, 0));
      if (span === undefined || Math.max(part, 0) >= own.length) spans.set(f, -1, -1);
      else spans.set(f, span.from, span.to, span.from, span.to, !this.hasRelease(buf, span));
    }
  }

  private partsOf(buf: Uint8Array, { from, to }: Piece): Piece[] {
    return this.parts === null ? [{ from, to }] : this.pieces(buf, from, to, this.parts);
  }

  private pieces(buf: Uint8Array, start: number, end: number, sign: string): Piece[] {
    const found: Piece[] = [];
    for (let from = start; ;) {
      const at = this.find(buf, from, end, sign);
      found.push({ from, to: at < 0 ? end : at });
      if (at < 0) return found;
      from = at + 1;
    }
  }

  private hasRelease(buf: Uint8Array, { from, to }: Piece): boolean {
    return this.release !== null && buf.subarray(from, to).includes(this.release.charCodeAt(0));
  }

  isEmpty(_kind: number, field: number, _buf: Uint8Array, { textStarts, textEnds }: FieldSpans): boolean {
    return textStarts[field] === textEnds[field];
  }

  decode(text: string): string {
    if (this.release === null) return text;
    let plain = "";
    for (let i = 0; i < text.length; i++) plain += text[i] === this.release && i + 1 < text.length ? text[++i] : text[i];
    return plain;
  }

  encode(text: string, kind: number, field: number): string | SpellFault {
    const { name } = this.kinds[kind].fields[field];
    if (/[\r\n]/.test(text)) return { code: "fixed-line", facts: { name } };
    const sign = [...text].find((char) => this.signs.has(char));
    if (sign === undefined) return text;
    if (this.release === null) return { code: "segment-sign", facts: { name, sign } };
    return [...text].map((char) => (this.signs.has(char) ? this.release! + char : char)).join("");
  }

  write(kind: number, values: readonly FieldValue[], model: string | null): string {
    const tag = model === null ? this.kinds[kind].tags[0] : decode(encode(model), 0, this.tagEnd(encode(model), 0, encode(model).length));
    return this.put(kind, this.kinds[kind].tags.includes(tag) ? tag : this.kinds[kind].tags[0], [], values);
  }

  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    const bytes = encode(line);
    const tagEnd = this.tagEnd(bytes, 0, bytes.length);
    const [, ...fields] = this.pieces(bytes, tagEnd, bytes.length, this.delimiter);
    const parts = fields.map((piece) => this.partsOf(bytes, piece).map(({ from, to }) => decode(bytes, from, to)));
    return this.put(kind, decode(bytes, 0, tagEnd), parts, values);
  }

  /** A segment with these values among those that it has; nothing blank stands at its end that was not there. */
  private put(kind: number, tag: string, had: readonly (readonly string[])[], values: readonly FieldValue[]): string {
    const fields = had.map((parts) => [...parts]);
    for (const { name, text } of values) {
      const field = this.kinds[kind].fields.findIndex((one) => one.name === name);
      const written = field < 0 ? null : this.encode(text, kind, field);
      if (typeof written !== "string" || (written === "" && !has(fields, this.kinds[kind].fields[field]))) continue;
      const { at, part } = this.kinds[kind].fields[field];
      while (fields.length <= at) fields.push([""]);
      while (fields[at].length <= part) fields[at].push("");
      fields[at][Math.max(part, 0)] = written;
    }
    return [tag, ...fields.map((parts) => parts.join(this.parts ?? ""))].join(this.delimiter);
  }
}

interface Piece {
  readonly from: number;
  readonly to: number;
}

function has(fields: readonly (readonly string[])[], { at, part }: SegmentField): boolean {
  return at < fields.length && Math.max(part, 0) < fields[at].length;
}

function isSpace(byte: number): boolean {
  return byte === LF || byte === CR || byte === SPACE;
}
