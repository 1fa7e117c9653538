/**
 * Content lines (RFC 5545, 3.1; RFC 6350, 3.2): a name, parameters and a value; a line that begins with a blank goes on with the
 * one before. `BEGIN` and `END` lines are around components, which may hold others.
 */
import { decode, encode } from "../../bytes/writer.js";
import type { SpellFault } from "../format.js";
import { CUT, FieldSpans, lineEnd, type FieldValue, type LineGrammar, type LineKind } from "../lines/grammar.js";
import { alikeKinds, placeInside } from "../lines/layout.js";
import type { ContentInput } from "./settings.js";

/** The field of what stands behind the colon. */
export const VALUE = "value";
const [COLON, SEMICOLON, QUOTE, SPACE, TAB] = [0x3a, 0x3b, 0x22, 0x20, 0x09];
/** Bytes of a line before it is folded. */
const LONGEST = 75;
/** What parameters take of that, as a rule. */
const PARAMETERS = 20;

interface ContentKind extends LineKind {
  readonly tag: string;
  readonly isText: boolean;
}

interface Piece {
  readonly from: number;
  readonly to: number;
}

export class ContentGrammar implements LineGrammar {
  readonly kinds: readonly ContentKind[];
  readonly alike: readonly (readonly number[])[];
  readonly lookAhead = false;
  readonly unbroken = false;
  readonly gap = false;
  readonly folds = true;
  readonly breaks = true;
  end = 0;

  constructor({ records }: ContentInput) {
    const names = Object.keys(records);
    this.kinds = names.map((name) => {
      const { tag, inside, closes = false, text = false, once = false, fields } = records[name];
      const place = placeInside(name, inside, names);
      return {
        name,
        tag: tag.toUpperCase(),
        inside: place,
        closes,
        once,
        needsText: false,
        isText: text,
        fields: fields.map((field) => ({ name: field })),
      };
    });
    this.alike = alikeKinds(this.kinds, ({ tag }) => tag);
  }

  reset(): void {
    // nothing is learnt
  }

  dependent(): boolean {
    return false;
  }

  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    for (let at = from; ;) {
      const { end, next } = lineEnd(buf, at, limit, final);
      if (next === CUT || (next >= limit && !final)) return CUT;
      this.end = end;
      if (next >= limit || !isBlank(buf[next])) return next;
      at = next;
    }
  }

  kindOf(buf: Uint8Array, start: number, end: number): number {
    const tag = this.tagOf(buf, start, end);
    return this.kinds.findIndex((kind) => kind.tag === tag);
  }

  /** The name, without the group before its point; with what begins or ends for the lines around components. */
  private tagOf(buf: Uint8Array, start: number, end: number): string {
    const { name, value } = this.parts(buf, start, end);
    const text = decode(buf, name.from, name.to).toUpperCase();
    const own = text.slice(text.lastIndexOf(".") + 1);
    return own === "BEGIN" || own === "END" ? `${own}:${decode(buf, value.from, value.to).trim().toUpperCase()}` : own;
  }

  isStray(buf: Uint8Array, start: number, end: number): boolean {
    return decode(buf, start, end).trim() !== "";
  }

  /** Where name, parameters and value stand; a colon in quotes belongs to a parameter. */
  private parts(buf: Uint8Array, start: number, end: number): { name: Piece; parameters: Piece[]; value: Piece } {
    const stops: number[] = [];
    let isQuoted = false;
    let i = start;
    for (; i < end; i++) {
      if (buf[i] === QUOTE) isQuoted = !isQuoted;
      else if (!isQuoted && buf[i] === SEMICOLON) stops.push(i);
      else if (!isQuoted && buf[i] === COLON) break;
    }
    const ends = [...stops.slice(1), i];
    return {
      name: { from: start, to: stops.at(0) ?? i },
      parameters: stops.map((from, p) => ({ from: from + 1, to: ends[p] })),
      value: { from: Math.min(i + 1, end), to: end },
    };
  }

  split(kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    const { parameters, value } = this.parts(buf, start, end);
    for (const [f, { name }] of this.kinds[kind].fields.entries()) {
      const named = parameters.find(({ from, to }) => decode(buf, from, to).toUpperCase().startsWith(`${name.toUpperCase()}=`));
      if (name === VALUE) spans.set(f, value.from, value.to, value.from, value.to, this.isPlain(kind, buf, value));
      else if (named === undefined) spans.set(f, -1, -1);
      else spans.set(f, named.from + encode(name).length + 1, named.to, named.from + encode(name).length + 1, named.to, false);
    }
  }

  private isPlain(kind: number, buf: Uint8Array, { from, to }: Piece): boolean {
    for (let i = from; i < to; i++) if (buf[i] === 0x5c || buf[i] === 0x0a || buf[i] === 0x0d) return false;
    return true;
  }

  isEmpty(_kind: number, field: number, _buf: Uint8Array, { textStarts, textEnds }: FieldSpans): boolean {
    return textStarts[field] === textEnds[field];
  }

  decode(text: string, kind: number, field: number): string {
    const { fields, isText } = this.kinds[kind];
    const whole = text.replace(/\r?\n[ \t]|\r[ \t]/g, "");
    if (fields[field].name !== VALUE) return whole.replace(/^"(.*)"$/s, "$1");
    return isText ? whole.replace(/\\([\\,;nN])/g, (_, sign: string) => (sign.toLowerCase() === "n" ? "\n" : sign)) : whole;
  }

  encode(text: string, kind: number, field: number): string | SpellFault {
    const { fields, isText, tag } = this.kinds[kind];
    const { name } = fields[field];
    if (name !== VALUE) {
      if (/["\r\n]/.test(text)) return { code: "parameter-sign", facts: { name } };
      return /[;:,]/.test(text) && !/^[\w-]+(?:,[\w-]+)*$/.test(text) ? `"${text}"` : text;
    }
    if (!isText && /[\r\n]/.test(text)) return { code: "fixed-line", facts: { name } };
    const escaped = isText ? text.replace(/[\\,;]/g, (sign) => `\\${sign}`).replace(/\r\n|\n|\r/g, "\\n") : text;
    return folded(escaped, tag.length + 1 + (fields.length > 1 ? PARAMETERS : 0));
  }

  write(kind: number, values: readonly FieldValue[]): string {
    const { tag, fields } = this.kinds[kind];
    if (/^(?:BEGIN|END):/.test(tag)) return tag;
    const written = (field: number): string => {
      const text = values.find(({ name }) => name === fields[field].name)?.text ?? "";
      const own = text === "" ? "" : this.encode(text, kind, field);
      return typeof own === "string" ? own : "";
    };
    const parameters = fields.flatMap(({ name }, f) => (name === VALUE || written(f) === "" ? [] : [`;${name}=${written(f)}`]));
    const value = fields.findIndex(({ name }) => name === VALUE);
    return `${tag}${parameters.join("")}:${value < 0 ? "" : written(value)}`;
  }

  /** Parameters that it has not stand behind those that it has. */
  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    const bytes = encode(line);
    const { value } = this.parts(bytes, 0, bytes.length);
    const more = values.flatMap(({ name, text }) => {
      const field = this.kinds[kind].fields.findIndex((one) => one.name === name);
      const written = field < 0 || text === "" ? "" : this.encode(text, kind, field);
      return typeof written === "string" && written !== "" ? [`;${name}=${written}`] : [];
    });
    return decode(bytes, 0, value.from - 1) + more.join("") + decode(bytes, value.from - 1);
  }
}

/** A value in lines of at most so many bytes, `before` of which stand before it in the first. */
function folded(text: string, before: number): string {
  const lines = [""];
  let size = before;
  for (const char of text) {
    const length = encode(char).length;
    if (size + length > LONGEST) {
      // a blank at the end of a line is easily lost
      const last = lines.at(-1)!;
      const kept = last.trimEnd();
      if (kept !== "") lines[lines.length - 1] = kept;
      lines.push(kept === "" ? "" : last.slice(kept.length));
      size = 1 + lines.at(-1)!.length;
    }
    lines[lines.length - 1] += char;
    size += length;
  }
  return lines.join("\n ");
}

function isBlank(byte: number): boolean {
  return byte === SPACE || byte === TAB;
}
