/**
 * JSON with comments and trailing commas, as settings of many programs are written: to whoever reads and edits the file they
 * are blanks, in the same places, so that all else is as in plain JSON; what is written are the file's own bytes.
 */
import type { TextSource } from "../../bytes/encoding.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import type { Span } from "../../edits/edit.js";

const [QUOTE, BACKSLASH, SLASH, STAR, COMMA] = [0x22, 0x5c, 0x2f, 0x2a, 0x2c];
const [LF, CR, BLANK] = [0x0a, 0x0d, 0x20];
const CLOSES = new Set([0x7d, 0x5d]);
const SPACES = new Set([0x20, 0x09, LF, CR]);

const enum In {
  Json,
  Text,
  Escape,
  /** `/|` and what follows says whether it is a comment */
  Slash,
  Line,
  Block,
  Star,
}

/** Finds comments and trailing commas, from piece to piece. */
export class CommentFinder {
  private state: In = In.Json;
  private offset = 0;
  private opened = -1;
  private comma = -1;

  /** What is found is told when its end has been seen. */
  constructor(private readonly found: (span: Span) => void) {}

  /** From here on it is not known yet what is blank. */
  get pending(): number {
    if (this.comma >= 0) return this.comma;
    return this.state === In.Json || this.state === In.Text || this.state === In.Escape ? this.offset : this.opened;
  }

  read(bytes: Uint8Array): void {
    for (const byte of bytes) this.next(byte, this.offset++);
  }

  end(): void {
    if (this.state === In.Line) this.tell(this.opened, this.offset);
  }

  private tell(start: number, end: number): void {
    this.state = In.Json;
    this.found({ start, end });
  }

  private next(byte: number, at: number): void {
    switch (this.state) {
      case In.Text:
        if (byte === BACKSLASH) this.state = In.Escape;
        else if (byte === QUOTE) this.state = In.Json;
        return;
      case In.Escape:
        this.state = In.Text;
        return;
      case In.Slash:
        this.state = byte === SLASH ? In.Line : byte === STAR ? In.Block : In.Json;
        if (this.state === In.Json) this.comma = -1;
        return;
      case In.Line:
        if (byte === LF || byte === CR) this.tell(this.opened, at);
        return;
      case In.Block:
        if (byte === STAR) this.state = In.Star;
        return;
      case In.Star:
        if (byte === SLASH) this.tell(this.opened, at + 1);
        else if (byte !== STAR) this.state = In.Block;
        return;
      case In.Json:
        this.json(byte, at);
    }
  }

  private json(byte: number, at: number): void {
    if (SPACES.has(byte)) return;
    if (byte === SLASH) {
      this.opened = at;
      this.state = In.Slash;
      return;
    }
    const comma = this.comma;
    this.comma = byte === COMMA ? at : -1;
    if (byte === QUOTE) this.state = In.Text;
    else if (CLOSES.has(byte) && comma >= 0) this.found({ start: comma, end: comma + 1 });
  }
}

/** Makes blanks of bytes that begin at `offset`, where they lie in a span; line ends stay. */
function blank(bytes: Uint8Array, offset: number, { start, end }: Span): void {
  const to = Math.min(end - offset, bytes.length);
  for (let i = Math.max(0, start - offset); i < to; i++) if (bytes[i] !== LF && bytes[i] !== CR) bytes[i] = BLANK;
}

/** The pieces of a text, with blanks for comments and trailing commas. */
export async function* plainJson(pieces: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array> {
  const spans: Span[] = [];
  const finder = new CommentFinder((span) => spans.push(span));
  let held = new Uint8Array(0);
  let start = 0;
  const known = (to: number): Uint8Array => {
    for (const span of spans.splice(0)) blank(held, start, span);
    const bytes = held.subarray(0, to - start);
    held = held.slice(to - start);
    start = to;
    return bytes;
  };
  for await (const piece of pieces) {
    const longer = new Uint8Array(held.length + piece.length);
    longer.set(held);
    longer.set(piece, held.length);
    held = longer;
    finder.read(piece);
    yield known(finder.pending);
  }
  finder.end();
  yield known(start + held.length);
}

/** A text as plain JSON; its comments are found in one pass. */
export async function readPlain(whole: TextSource): Promise<TextSource> {
  const spans: Span[] = [];
  const finder = new CommentFinder((span) => spans.push(span));
  for await (const piece of whole.chunks()) finder.read(piece);
  finder.end();
  spans.sort((one, other) => one.start - other.start);
  return spans.length === 0 ? whole : new PlainText(whole, spans);
}

/** A text as plain JSON. */
export function plainText(text: string): string {
  const bytes = encode(text);
  const finder = new CommentFinder((span) => blank(bytes, 0, span));
  finder.read(bytes.slice());
  finder.end();
  return decode(bytes);
}

/** Are there comments in the first bytes of a text? A trailing comma alone is more likely a slip. */
export async function hasComments(text: ByteSource): Promise<boolean> {
  let found = /\.(jsonc|json5)$/i.test(text.name);
  const finder = new CommentFinder(({ start, end }) => (found ||= end - start > 1));
  finder.read(await text.read(0, HEAD));
  return found;
}
const HEAD = 1 << 16;
const STEP = 256;

/** A text whose comments and trailing commas are blanks. */
export class PlainText implements TextSource {
  readonly encoding;
  readonly bom;
  readonly name;
  readonly size;

  constructor(
    readonly whole: TextSource,
    private readonly spans: readonly Span[],
  ) {
    ({ encoding: this.encoding, bom: this.bom, name: this.name, size: this.size } = whole);
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    return this.plain(await this.whole.read(start, end), start);
  }

  async *chunks(start = 0): AsyncIterable<Uint8Array> {
    let at = start;
    for await (const piece of this.whole.chunks(start)) {
      yield this.plain(piece, at);
      at += piece.length;
    }
  }

  encodeBack(text: Uint8Array): Uint8Array {
    return this.whole.encodeBack(text);
  }

  missing(text: string): string | null {
    return this.whole.missing(text);
  }

  /** Is there a comment in a run of the text? */
  hasComment(start: number, end: number): boolean {
    return this.within(start, end).some((span) => span.end - span.start > 1);
  }

  /** Where a trailing comma stands in a run of the text; -1 where there is none. */
  commaIn(start: number, end: number): number {
    return this.within(start, end).find((span) => span.end - span.start === 1)?.start ?? -1;
  }

  /** The place itself, or the end of its line where nothing but a comment follows in it. */
  async lineEnd(at: number): Promise<number> {
    for (let from = at; ; from += STEP) {
      const bytes = await this.read(from, from + STEP);
      const stop = bytes.findIndex((byte) => byte !== BLANK && byte !== 0x09);
      if (stop >= 0) return bytes[stop] === LF || bytes[stop] === CR ? from + stop : at;
      if (bytes.length < STEP) return at;
    }
  }

  /** The end of the line before, where nothing but blanks stands between; else the first of the blanks. */
  async lineStart(at: number): Promise<number> {
    const from = Math.max(0, at - STEP);
    const before = await this.whole.read(from, at);
    let i = before.length;
    while (i > 0 && (before[i - 1] === BLANK || before[i - 1] === 0x09)) i--;
    if (i > 0 && before[i - 1] === LF) i -= before[i - 2] === CR ? 2 : 1;
    return from + i;
  }

  private within(start: number, end: number): Span[] {
    const found: Span[] = [];
    for (let i = this.firstFrom(start); i < this.spans.length && this.spans[i].start < end; i++) found.push(this.spans[i]);
    return found;
  }

  private plain(bytes: Uint8Array, offset: number): Uint8Array {
    const copy = bytes.slice();
    for (let i = this.firstFrom(offset); i < this.spans.length && this.spans[i].start < offset + copy.length; i++)
      blank(copy, offset, this.spans[i]);
    return copy;
  }

  /** The first span that ends behind an offset. */
  private firstFrom(offset: number): number {
    let low = 0;
    let high = this.spans.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.spans[middle].end <= offset) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}
