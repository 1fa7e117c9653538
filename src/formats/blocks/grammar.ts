/**
 * How blocks of `Name: value` lines become records. A block is one line of the grammar, however many
 * lines of the file it has; its names are learnt as they are met.
 */
import type { SpellFault } from "../format.js";
import { decode } from "../../bytes/writer.js";
import {
  CUT,
  LF,
  CR,
  lineEnd,
  type FieldLine,
  type FieldSpans,
  type FieldValue,
  type LineField,
  type LineGrammar,
  type LineKind,
} from "../lines/grammar.js";

export interface BlockSettings {
  /** Between name and value. */
  readonly pair: string;
  /** `[heading]` lines begin the records; blank lines are only space. */
  readonly sections: boolean;
  /** A line of this ends a block, as a blank line does. */
  readonly separator: string | null;
  /** Beginnings of comment lines. */
  readonly comments: readonly string[];
}

/** Name of the field that holds a section's heading. */
export const HEADING = "section";
/** A name, and what it is for in brackets: `Name[de]`. */
const NAME = /^[^\s:=[\]{}"'<>](?:[^:=[\]{}"<>]*[^\s:=[\]{}"<>])?(?:\[[^\s:=[\]{}"<>]+\])?$/;

export class BlockGrammar implements LineGrammar {
  kinds: readonly (LineKind & { readonly fields: LineField[] })[] = [];
  readonly lookAhead = false;
  readonly unbroken = false;
  readonly gap = true;
  readonly learns = true;
  end = 0;
  private readonly places = new Map<string, number>();

  constructor(readonly settings: BlockSettings) {
    this.reset();
  }

  dependent(): boolean {
    return false;
  }

  reset(): void {
    this.kinds = [{ name: "", inside: -1, needsText: true, closes: false, fields: [] }];
    this.places.clear();
    if (this.settings.sections) this.placeOf(HEADING);
  }

  private placeOf(name: string): number {
    const known = this.places.get(name);
    if (known !== undefined) return known;
    this.places.set(name, this.kinds[0].fields.length);
    this.kinds[0].fields.push({ name });
    return this.kinds[0].fields.length - 1;
  }

  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    let { end, next } = lineEnd(buf, from, limit, final);
    if (next === CUT) return CUT;
    this.end = end;
    if (this.isSpace(buf, from, end)) return next;
    let after = next;
    while (next < limit) {
      const line = lineEnd(buf, next, limit, final);
      if (line.next === CUT) return CUT;
      const space = this.isSpace(buf, next, line.end);
      const ends = space && !this.isComment(decode(buf, next, line.end).trim());
      if (this.settings.sections ? isHeading(decode(buf, next, line.end)) : ends) return after;
      ({ end } = line);
      ({ next } = line);
      if (!space) {
        this.end = end;
        after = next;
      }
    }
    // more of the block may follow
    return final ? after : CUT;
  }

  /** Blank lines, separators, and comments that stand on their own. */
  private isSpace(buf: Uint8Array, start: number, end: number): boolean {
    const text = decode(buf, start, end).trim();
    return text === "" || text === this.settings.separator || this.isComment(text);
  }

  private isComment(text: string): boolean {
    return this.settings.comments.some((mark) => text.startsWith(mark));
  }

  kindOf(buf: Uint8Array, start: number, end: number): number {
    if (this.isSpace(buf, start, lineEnd(buf, start, end, true).end)) return -1;
    const first = decode(buf, start, lineEnd(buf, start, end, true).end);
    return (this.settings.sections && isHeading(first)) || this.nameIn(first) !== null ? 0 : -1;
  }

  isStray(buf: Uint8Array, start: number, end: number): boolean {
    const text = decode(buf, start, end).trim();
    return text !== "" && text !== this.settings.separator && !this.isComment(text);
  }

  /** The name at the beginning of a line, or `null` when there is none. */
  private nameIn(line: string): string | null {
    const at = line.indexOf(this.settings.pair);
    const name = at < 0 ? "" : line.slice(0, at).trimEnd();
    return NAME.test(name) ? name : null;
  }

  split(_kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    for (let f = 0; f < this.kinds[0].fields.length; f++) spans.set(f, -1, -1);
    const { lines } = spans;
    lines.length = 0;
    let open = false;
    for (let i = start; i < end;) {
      const { end: stop, next } = lineEnd(buf, i, end, true);
      const line = decode(buf, i, stop);
      if (this.settings.sections && i === start && isHeading(line)) {
        const from = i + buf.subarray(i, stop).indexOf(0x5b) + 1;
        const to = i + buf.subarray(i, stop).lastIndexOf(0x5d);
        lines.push({ field: this.placeOf(HEADING), start: i, next, from, to, textFrom: from, textTo: to, plain: true });
        open = false;
      } else if (/^[ \t]/.test(line) && open && line.trim() !== "" && !this.isComment(line.trim())) {
        // a continuation line: the value goes on
        const to = trimmedEnd(buf, i, stop);
        Object.assign(lines[lines.length - 1], { next, to, textTo: to, plain: false });
      } else {
        const isComment = this.isComment(line.trim());
        const name = isComment ? null : this.nameIn(line);
        if (name === null && !isComment && line.trim() !== "" && line.trim() !== this.settings.separator && spans.overStart < 0)
          [spans.overStart, spans.overEnd] = [i, stop];
        if (name !== null) lines.push(this.line(this.placeOf(name), buf, i, stop, next));
        if (line.trim() !== "") open = name !== null;
      }
      i = next;
    }
    for (const { field, from, to, textFrom, textTo, plain } of lines) spans.set(field, from, to, textFrom, textTo, plain);
  }

  private line(field: number, buf: Uint8Array, start: number, stop: number, next: number): FieldLine {
    const mark = this.settings.pair.charCodeAt(0);
    let from = start + buf.subarray(start, stop).indexOf(mark) + this.settings.pair.length;
    const behind = from;
    while (from < stop && isBlank(buf[from])) from++;
    const to = trimmedEnd(buf, from, stop);
    // an empty value takes the whole rest of the line, so that a blank before a new one can be set
    if (to <= from) return { field, start, next, from: behind, to: stop, textFrom: behind, textTo: behind, plain: true };
    return { field, start, next, from, to, textFrom: from, textTo: to, plain: true };
  }

  isEmpty(_kind: number, field: number, _buf: Uint8Array, { textStarts, textEnds }: FieldSpans): boolean {
    return textStarts[field] === textEnds[field];
  }

  /** Continuation lines are unfolded: one line of the cell each, without their indentation. */
  decode(text: string): string {
    return text.replace(/\r\n?|\n/g, "\n").replace(/\n[ \t]*/g, "\n");
  }

  encode(text: string, kind: number, field: number, old: string | null): string | SpellFault {
    const { name } = this.kinds[kind].fields[field];
    if (name === HEADING && this.settings.sections) {
      return text === "" || /[[\]\r\n]/.test(text) || text.trim() !== text ? { code: "block-heading", facts: { text } } : text;
    }
    const lines = text.split("\n");
    if (
      text !== "" &&
      lines.some(
        (line, i) => line.trim() === "" || line.trim() !== line || (i > 0 && this.isComment(line)) || line === this.settings.separator,
      )
    ) {
      return { code: "block-line", facts: { name } };
    }
    if (text.includes("\r")) return { code: "block-line", facts: { name } };
    const indent = /[\r\n]([ \t]+)/.exec(old ?? "")?.[1] ?? (this.settings.pair === ":" ? " " : "  ");
    const newline = old?.includes("\r\n") === true ? "\r\n" : "\n";
    const written = lines.join(newline + indent);
    return old !== null && old.trim() === "" && text !== "" && this.settings.pair === ":" ? ` ${written}` : written;
  }

  write(kind: number, values: readonly FieldValue[], model: string | null): string {
    const order = model === null ? [] : this.namesIn(model);
    const rank = (name: string): number => (order.includes(name) ? order.indexOf(name) : order.length);
    const sorted = [...values].sort((a, b) => rank(a.name) - rank(b.name));
    const newline = model?.includes("\r\n") === true ? "\r\n" : "\n";
    const heading = values.find((value) => value.name === HEADING && this.settings.sections);
    const lines = sorted.filter((value) => value !== heading).map((value) => this.written(kind, value, newline));
    return [...(heading === undefined ? [] : [`[${heading.text}]`]), ...lines].join(newline);
  }

  /** A line, or several, for a value. */
  written(kind: number, { name, text }: FieldValue, newline: string): string {
    const written = this.encode(text, kind, this.placeOf(name), null);
    const value = (typeof written === "string" ? written : "").replaceAll("\n", newline);
    const spaced = this.settings.pair === ":" ? `: ${value}`.trimEnd() : `${this.settings.pair}${value}`;
    return name + spaced;
  }

  /** Names of a block, in its order. */
  private namesIn(block: string): string[] {
    return block.split(/\r\n|\n|\r/).flatMap((line) => (/^[ \t]/.test(line) ? [] : (this.nameIn(line) ?? [])));
  }

  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    const newline = line.includes("\r\n") ? "\r\n" : "\n";
    return line + values.map((value) => newline + this.written(kind, value, newline)).join("");
  }

  /** A line that is a heading, and so part of the block below it. */
  heads(text: string): boolean {
    return this.settings.sections && isHeading(text);
  }

  /** Is a line inside a block, or where one ends; `null` for one that says nothing about that. */
  edge(text: string): "inside" | "edge" | null {
    const line = text.trim();
    if (this.settings.sections) return isHeading(line) ? "edge" : line === "" || this.isComment(line) ? null : "inside";
    if (this.isComment(line)) return null;
    return line === "" || line === this.settings.separator ? "edge" : "inside";
  }
}

export function isHeading(line: string): boolean {
  return /^\s*\[[^[\]]+\]\s*$/.test(line);
}

function isBlank(byte: number): boolean {
  return byte === 0x20 || byte === 0x09;
}

function trimmedEnd(buf: Uint8Array, from: number, end: number): number {
  let i = end;
  while (i > from && (isBlank(buf[i - 1]) || buf[i - 1] === LF || buf[i - 1] === CR)) i--;
  return i;
}
