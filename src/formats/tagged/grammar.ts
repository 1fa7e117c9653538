/** How header records and their detail lines become records: by a tag, a pattern or the indentation. */
import type { SpellFault } from "../format.js";
import { largest } from "../../bytes/lists.js";
import { decode, encode } from "../../bytes/writer.js";
import {
  cellStyle,
  delimiterLength,
  delimiterText,
  escapedLineEnd,
  isDelimiter,
  splitCells,
  unescaped,
  writeCell,
  type CellStyle,
} from "../lines/cells.js";
import { FieldSpans, lineEnd, type FieldValue, type LineGrammar } from "../lines/grammar.js";
import { alikeKinds } from "../lines/layout.js";
import { compileTagged, isLike, type TaggedKind } from "./layout.js";
import type { TaggedInput } from "./settings.js";

const SPACE = 0x20;
const TAB = 0x09;

export class TaggedGrammar implements LineGrammar {
  readonly kinds: readonly TaggedKind[];
  readonly alike: readonly (readonly number[])[];
  readonly lookAhead = false;
  readonly unbroken = false;
  readonly gap = false;
  end = 0;
  private readonly style: CellStyle | null;
  private readonly comment: string | null;
  private readonly tags: readonly (readonly Uint8Array[] | null)[];
  readonly breaks: boolean;

  constructor(layout: TaggedInput) {
    this.kinds = compileTagged(layout);
    this.alike = alikeKinds(this.kinds, ({ tags, like, indent }) => [tags, like, indent]);
    this.style = layout.delimiter === undefined ? null : cellStyle(layout.delimiter, layout.quotes, layout.escape, false);
    this.comment = layout.comment ?? null;
    this.tags = this.kinds.map(({ tags }) => tags?.map((tag) => encode(tag)) ?? null);
    this.breaks = this.style?.escape != null;
  }

  reset(): void {
    // nothing is learnt
  }

  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    const escape = this.style?.escape ?? null;
    const { end, next } = escape === null ? lineEnd(buf, from, limit, final) : escapedLineEnd(buf, from, limit, final, escape);
    this.end = end;
    return next;
  }

  kindOf(buf: Uint8Array, start: number, end: number): number {
    const from = pastBlanks(buf, start, end);
    if (from === end) return -1;
    if (this.comment !== null && decode(buf, from, Math.min(end, from + 8)).startsWith(this.comment)) return -1;
    const tagEnd = this.tagEnd(buf, from, end);
    for (let k = 0; k < this.kinds.length; k++) {
      const { like, indent } = this.kinds[k];
      const tags = this.tags[k];
      if (indent !== null && from - start !== indent) continue;
      if (tags !== null && !isOneOf(buf, from, tagEnd, tags)) continue;
      if (like !== null && !isLike(decode(buf, from, end), like)) continue;
      return k;
    }
    return -1;
  }

  /** The tag ends at the delimiter, or at the first blank. */
  private tagEnd(buf: Uint8Array, from: number, end: number): number {
    const { style } = this;
    let i = from;
    if (style === null || style.delimiter === 0) while (i < end && buf[i] !== SPACE && buf[i] !== TAB) i++;
    else while (i < end && !isDelimiter(buf, i, end, style)) i++;
    return i;
  }

  dependent(kind: number): boolean {
    return this.kinds.some(({ like }) => like !== null) || (this.kinds[kind].tags === null && this.kinds.some(({ tags }) => tags !== null));
  }

  isStray(buf: Uint8Array, start: number, end: number): boolean {
    const text = decode(buf, start, end).trim();
    return text !== "" && (this.comment === null || !text.startsWith(this.comment));
  }

  split(kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    const { fields, tags } = this.kinds[kind];
    let from = pastBlanks(buf, start, end);
    let missing = false;
    if (tags !== null) {
      const tagEnd = this.tagEnd(buf, from, end);
      missing = tagEnd >= end;
      from = Math.min(
        end,
        this.style === null || this.style.delimiter === 0 ? pastBlanks(buf, tagEnd, end) : tagEnd + delimiterLength(this.style),
      );
    }
    let n = 0;
    // a tag alone: text put right behind it would make another tag
    if (!missing) {
      if (this.style === null) spans.set(n++, from, trimmedEnd(buf, from, end));
      else n = splitCells(buf, from, end, this.style, spans);
    }
    if (n > fields.length && this.style !== null && fields.length > 0) {
      // what goes beyond the last field belongs to it
      const last = fields.length - 1;
      spans.set(last, spans.starts[last], end, spans.starts[last], end, !this.style.quotes && this.style.escape == null);
      n = fields.length;
    }
    for (; n < fields.length; n++) spans.set(n, -1, -1);
  }

  isEmpty(_kind: number, field: number, _buf: Uint8Array, { textStarts, textEnds }: FieldSpans): boolean {
    return textStarts[field] === textEnds[field];
  }

  decode(text: string): string {
    if (this.style?.escape != null) return unescaped(text, this.style);
    return text.replaceAll('""', '"');
  }

  encode(text: string, kind: number, field: number, old: string | null): string | SpellFault {
    const { fields } = this.kinds[kind];
    const { name } = fields[field];
    const first = field === 0 && this.kinds[kind].tags === null;
    if (first && this.comment !== null && text.startsWith(this.comment))
      return { code: "cell-comment", facts: { name, comment: this.comment } };
    if (this.style === null) {
      if (/[\r\n]/.test(text)) return { code: "fixed-line", facts: { name } };
      return text.trim() === text ? text : { code: "cell-edges", facts: { name } };
    }
    const last = field === fields.length - 1;
    if (last && !this.style.quotes && this.style.escape == null && !/[\r\n]/.test(text) && this.style.delimiter !== 0) return text;
    return writeCell(text, old, this.style, name);
  }

  write(kind: number, values: readonly FieldValue[], model: string | null): string {
    const { fields, tags, indent } = this.kinds[kind];
    const blanks = model === null ? " ".repeat(indent ?? 0) : /^[ \t]*/.exec(model)![0];
    const cells = fields.map(({ name }, f) => this.cell(values.find((value) => value.name === name)?.text ?? "", kind, f));
    // as many as its siblings have, blank ones at the end too
    const least = model === null ? 0 : this.cellsIn(kind, model);
    if (this.style !== null && this.style.delimiter !== 0) while (cells.length > least && cells.at(-1) === "") cells.pop();
    return blanks + [...(tags === null ? [] : [tags[0]]), ...cells].join(this.separator);
  }

  private cellsIn(kind: number, line: string): number {
    const bytes = encode(line);
    const spans = new FieldSpans();
    this.split(kind, bytes, 0, bytes.length, spans);
    return this.kinds[kind].fields.filter((_, f) => spans.starts[f] >= 0).length;
  }

  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    const bytes = encode(line);
    const spans = new FieldSpans();
    const { fields } = this.kinds[kind];
    this.split(kind, bytes, 0, bytes.length, spans);
    const had = fields.findIndex((_, f) => spans.starts[f] < 0);
    const last = largest(values.map((value) => fields.findIndex((field) => field.name === value.name)));
    if (had < 0) return line;
    const more = fields
      .slice(had, last + 1)
      .map(({ name }, i) => this.cell(values.find((value) => value.name === name)?.text ?? "", kind, had + i));
    return line + more.map((cell) => this.separator + cell).join("");
  }

  private cell(text: string, kind: number, field: number): string {
    const written = this.encode(text, kind, field, null);
    return typeof written === "string" ? written : "";
  }

  private get separator(): string {
    return this.style === null ? " " : delimiterText(this.style);
  }
}

function isOneOf(buf: Uint8Array, from: number, to: number, texts: readonly Uint8Array[]): boolean {
  for (let i = 0; i < texts.length; i++) if (isAt(buf, from, to, texts[i])) return true;
  return false;
}

function isAt(buf: Uint8Array, from: number, to: number, text: Uint8Array): boolean {
  if (to - from !== text.length) return false;
  for (let i = 0; i < text.length; i++) if (buf[from + i] !== text[i]) return false;
  return true;
}

function pastBlanks(buf: Uint8Array, from: number, end: number): number {
  let i = from;
  while (i < end && (buf[i] === SPACE || buf[i] === TAB)) i++;
  return i;
}

function trimmedEnd(buf: Uint8Array, from: number, end: number): number {
  let i = end;
  while (i > from && (buf[i - 1] === SPACE || buf[i - 1] === TAB)) i--;
  return i;
}
