/** How delimited text under a line of headers becomes records: one kind, fields by their titles. */
import type { SpellFault } from "../format.js";
import { largest } from "../../bytes/lists.js";
import { decode } from "../../bytes/writer.js";
import {
  delimiterText,
  escapedLineEnd,
  OPEN_QUOTE,
  quotedLineEnd,
  splitCells,
  unescaped,
  writeCell,
  type CellStyle,
} from "../lines/cells.js";
import { CUT, FieldSpans, lineEnd, LF, CR, type FieldValue, type LineField, type LineGrammar, type LineKind } from "../lines/grammar.js";
import { repeated } from "../lines/groups.js";
import { SourceError } from "../../errors/error.js";
import { COMMENTS } from "./comments.js";

/** As many columns as a spreadsheet has. */
const MOST_CELLS = 16_384;

export interface DelimitedSettings extends CellStyle {
  /** Number of the line with the titles, from 1; 0 when there is none. */
  readonly header: number;
  /** Lines that begin with this are comments. */
  readonly comment: string | null;
  /** Columns that stand several times in a line. */
  readonly groups?: Readonly<Record<string, { readonly from: number; readonly times: number; readonly fields: readonly string[] }>>;
}

export class DelimitedGrammar implements LineGrammar {
  kinds: readonly LineKind[] = [];
  readonly lookAhead = false;
  readonly unbroken = false;
  readonly gap = false;
  end = 0;
  broken = false;

  readonly breaks: boolean;
  /** The columns of this file are known. */
  private isNamed = false;

  constructor(private readonly settings: DelimitedSettings) {
    this.breaks = settings.quotes || settings.escape != null;
    this.reset();
  }

  dependent(): boolean {
    return false;
  }

  reset(): void {
    this.kinds = [{ name: "", inside: -1, needsText: true, closes: false, fields: this.fields([]) }];
    this.isNamed = false;
  }

  next(buf: Uint8Array, from: number, limit: number, final: boolean): number {
    const { quotes, delimiter, escape = null } = this.settings;
    if (!quotes || this.isComment(buf, from)) {
      const { end, next } = escape === null ? lineEnd(buf, from, limit, final) : escapedLineEnd(buf, from, limit, final, escape);
      this.end = end;
      return next;
    }
    const end = quotedLineEnd(buf, from, limit, delimiter, final);
    if (end < 0) return CUT;
    this.end = end;
    this.broken = end >= limit && isOpen(buf, from, limit, delimiter);
    if (end >= limit) return limit;
    if (buf[end] === LF) return end + 1;
    if (end + 1 >= limit && !final) return CUT;
    return buf[end] === CR && buf[end + 1] === LF && end + 1 < limit ? end + 2 : end + 1;
  }

  private isComment(buf: Uint8Array, start: number): boolean {
    const { comment } = this.settings;
    return (
      comment !== null && comment !== "" && buf[start] === comment.charCodeAt(0) && decode(buf, start, start + comment.length) === comment
    );
  }

  kindOf(buf: Uint8Array, start: number, end: number, line: number): number {
    const { header } = this.settings;
    if (line < header) return -1;
    if (line === header) {
      this.name(titlesOf(buf, start, end, this.settings));
      return -1;
    }
    if (start === end || this.isComment(buf, start)) return -1;
    if (header === 0 && !this.isNamed) {
      const spans = new FieldSpans();
      const count = splitCells(buf, start, end, this.settings, spans);
      this.name(Array.from({ length: count }, () => ""));
    }
    return 0;
  }

  private name(titles: readonly string[]): void {
    if (titles.length > MOST_CELLS) throw new SourceError("line-wide", { cells: titles.length, most: MOST_CELLS });
    this.isNamed = true;
    this.kinds = [{ ...this.kinds[0], fields: this.fields(uniqueNames(titles)) }];
  }

  private fields(names: readonly string[]): LineField[] {
    const fields = names.map((name): LineField => ({ name }));
    for (const [name, { from, times, fields: own }] of Object.entries(this.settings.groups ?? {})) {
      const columns = repeated(name, times, () => own.map((one) => ({ name: one })));
      // lines need not have all of them
      for (let c = fields.length; c < from - 1; c++) fields.push({ name: `column ${c + 1}` });
      fields.splice(from - 1, columns.length, ...columns);
    }
    return fields;
  }

  split(_kind: number, buf: Uint8Array, start: number, end: number, spans: FieldSpans): void {
    let n = splitCells(buf, start, end, this.settings, spans);
    // without titles, all columns of the file are known by the longest line so far
    if (this.settings.header === 0 && n > this.kinds[0].fields.length) this.name(Array.from({ length: n }, () => ""));
    const { fields } = this.kinds[0];
    for (let beyond = fields.length; beyond < n; beyond++)
      if (spans.overStart < 0 && spans.starts[beyond] < spans.ends[beyond]) [spans.overStart, spans.overEnd] = [spans.starts[beyond], end];
    for (; n < fields.length; n++) spans.set(n, -1, -1);
  }

  /** Notes above the header and comments are as they should be; a line without cells is blank. */
  isStray(): boolean {
    return false;
  }

  isEmpty(_kind: number, field: number, _buf: Uint8Array, { textStarts, textEnds }: FieldSpans): boolean {
    return textStarts[field] === textEnds[field];
  }

  decode(text: string): string {
    if (this.settings.escape != null) return unescaped(text, this.settings);
    return text.replaceAll('""', '"');
  }

  encode(text: string, _kind: number, field: number, old: string | null): string | SpellFault {
    const { comment, quotes } = this.settings;
    // a first cell must not make a comment of its line, nor seem to
    const marks = comment === null ? COMMENTS : [comment];
    const quoted = field === 0 && quotes && marks.some((mark) => text.startsWith(mark)) ? '""' : old;
    return writeCell(text, quoted, this.settings, this.kinds[0].fields[field]?.name ?? "");
  }

  write(kind: number, values: readonly FieldValue[], model: string | null): string {
    const old = model === null ? [] : rawCells(model, this.settings);
    const { fields } = this.kinds[0];
    // the first row of a file has all cells that its header names
    const least = model === null ? fields.length : old.length;
    const last = Math.max(least, largest(values.map((value) => fields.findIndex((field) => field.name === value.name) + 1)));
    return this.join(
      fields
        .slice(0, last)
        .map(({ name }, f) => this.cell(values.find((value) => value.name === name)?.text ?? "", kind, f, old[f] ?? null)),
    );
  }

  extend(kind: number, line: string, values: readonly FieldValue[]): string {
    const { fields } = this.kinds[0];
    const had = rawCells(line, this.settings).length;
    const last = largest(values.map((value) => fields.findIndex((field) => field.name === value.name)));
    const more = fields
      .slice(had, last + 1)
      .map(({ name }, i) => this.cell(values.find((value) => value.name === name)?.text ?? "", kind, had + i, null));
    return line + more.map((cell) => this.separator + cell).join("");
  }

  private cell(text: string, kind: number, field: number, old: string | null): string {
    const written = this.encode(text, kind, field, old);
    return typeof written === "string" ? written : "";
  }

  get blankLine(): string {
    return this.settings.quotes ? '""' : this.separator;
  }

  private get separator(): string {
    return delimiterText(this.settings);
  }

  private join(cells: readonly string[]): string {
    return cells.join(this.separator);
  }
}

/** The last cell begins with a quote and has no other one at its end. */
function isOpen(buf: Uint8Array, from: number, limit: number, delimiter: number): boolean {
  return quotedLineEnd(buf, from, limit, delimiter, false, true) === OPEN_QUOTE;
}

export function titlesOf(buf: Uint8Array, start: number, end: number, style: CellStyle): string[] {
  const spans = new FieldSpans();
  const count = splitCells(buf, start, end, style, spans);
  return Array.from({ length: count }, (_, i) => decode(buf, spans.textStarts[i], spans.textEnds[i]).replaceAll('""', '"').trim());
}

/** Cells of a line as they are written, quotes included. */
function rawCells(line: string, style: CellStyle): string[] {
  const bytes = new TextEncoder().encode(line);
  const spans = new FieldSpans();
  const count = splitCells(bytes, 0, bytes.length, style, spans);
  return Array.from({ length: count }, (_, i) => decode(bytes, spans.starts[i], spans.ends[i]));
}

/** Every column gets a name of its own: blank titles by their place, repeated ones with a number. */
export function uniqueNames(titles: readonly string[]): string[] {
  const taken = new Set<string>();
  return titles.map((title, i) => {
    const base = title === "" || title === "." || title === "*" || title.startsWith(":") ? `column ${i + 1}` : title;
    let name = base;
    for (let n = 2; taken.has(name); n++) name = `${base} ${n}`;
    taken.add(name);
    return name;
  });
}
