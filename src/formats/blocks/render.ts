/** Renders edits of blocks. A name that stands in several lines of a block is a list; each of its lines is an item. */
import { pushAll } from "../../bytes/lists.js";
import type { ByteSource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import type { ForeignPiece, Piece, Splice } from "../../edits/splice.js";
import type { WritingStyle } from "../format.js";
import { Kind } from "../../model/kind.js";
import { FormedGrammar } from "../lines/formed.js";
import { FieldSpans, type FieldValue, type LineGrammar } from "../lines/grammar.js";
import { LineRenderer } from "../lines/render.js";
import { movedPiece, type AddEdit, type Edit, type MovedRecord, type NewRecord, type RemoveEdit, type Span } from "../../edits/edit.js";
import type { Step } from "../../model/path.js";
import type { BlockGrammar } from "./grammar.js";

const LOOK = 1 << 12;

export class BlockRenderer extends LineRenderer {
  /** Lines that go, as runs without anything between them. */
  private runs: Span[] = [];

  constructor(
    source: ByteSource,
    style: WritingStyle,
    private readonly blocks: BlockGrammar,
    grammar: LineGrammar,
  ) {
    super(source, style, grammar);
  }

  override render(edits: readonly Edit[], leaving: readonly ForeignPiece[] = []): Promise<Splice[]> {
    const gone = edits.filter((edit) => edit.kind === "remove" && isItem(edit.path)) as RemoveEdit[];
    this.runs = [];
    for (const { start, end } of [...gone].sort((a, b) => a.start - b.start)) {
      const last = this.runs.at(-1);
      if (last?.end === start) this.runs[this.runs.length - 1] = { start: last.start, end };
      else this.runs.push({ start, end });
    }
    return super.render(edits, leaving);
  }

  /** An item goes with its line. Where it is all that its block has, the name stays. */
  protected override async cut(edit: RemoveEdit): Promise<Splice> {
    if (!isItem(edit.path)) return super.cut(edit);
    const { start, end } = edit;
    const run = this.runs.find((one) => one.end === end);
    const left = run !== undefined && (await this.isAlone(run)) ? [encode(this.line(edit.path, "") + (await this.lineEndAt(end)))] : [];
    return { start, end, pieces: left };
  }

  protected override async add(edit: AddEdit, cuts: readonly Splice[]): Promise<Splice> {
    if (!isItem(edit.path)) return super.add(edit, cuts);
    const { at, empty } = edit.beside === undefined ? await this.behind(edit) : { at: edit.beside.at, empty: null };
    const newline = this.style.crlf ? "\r\n" : "\n";
    const loose = !(await this.endsLine(at));
    // the last line of a file may have no line end: then the new one has none, either
    const gone = this.runs.find(({ end }) => end === at);
    const follows = loose && (gone === undefined || (await this.isAlone(gone)));
    const pieces: Piece[] = [];
    const [first] = edit.records;
    const fills = empty !== null && !this.sets.has(empty.start) && !("moved" in first);
    if (fills) {
      const rest = decode(await this.source.read(empty.end, at));
      pieces.push(encode(this.filling(edit.path, first.self?.text ?? "") + rest));
    }
    for (const [i, record] of edit.records.entries()) {
      if (fills && i === 0) continue;
      if (loose && (follows || i > 0)) pieces.push(encode(newline));
      if ("moved" in record) pushAll(pieces, await this.movedLine(record, loose ? "" : newline));
      else pieces.push(encode(this.line(edit.path, record.self?.text ?? "") + (loose ? "" : newline)));
    }
    return { start: fills ? empty.start : at, end: at, pieces, home: edit.at };
  }

  protected override async record(kind: number, record: NewRecord | MovedRecord, model: string | null, newline: string): Promise<Piece[]> {
    if ("moved" in record || record.inner.length === 0) return super.record(kind, record, model, newline);
    const items = record.inner.flatMap(({ steps, records }) => records.map((one) => ({ steps, one })));
    const lines = items.flatMap(({ steps, one }) => ("moved" in one ? [] : [{ steps, value: one.self ?? { kind: Kind.Text, text: "" } }]));
    const pieces = await super.record(kind, { ...record, fields: [...record.fields, ...lines], inner: [] }, model, newline);
    for (const { one } of items) if ("moved" in one) pushAll(pieces, await this.movedLine(one, newline));
    return pieces;
  }

  /** A line that moved brings its own line end, unless there is to be none. */
  private async movedLine(record: MovedRecord, newline: string): Promise<Piece[]> {
    const own = await this.lineEndAt(record.end, record.foreign?.source);
    const piece = movedPiece(record);
    if (own === "") return [piece, encode(newline)];
    if (newline === "") piece.splices.push({ start: record.end - own.length, end: record.end, pieces: [] });
    return [piece];
  }

  private line(path: readonly Step[], text: string): string {
    const value: FieldValue = { name: nameOf(path), text };
    return this.blocks.written(
      0,
      this.grammar instanceof FormedGrammar ? this.grammar.spell(0, value) : value,
      this.style.crlf ? "\r\n" : "\n",
    );
  }

  /** What a name that stands there without a value is given. */
  private filling(path: readonly Step[], text: string): string {
    return this.line(path, text).slice(nameOf(path).length + this.blocks.settings.pair.length);
  }

  /** Behind the last line of that name in the block, or behind the block; and what that line has for a value, if it is empty. */
  private async behind({ at, path }: AddEdit): Promise<{ at: number; empty: Span | null }> {
    const block = await this.lineAt(at);
    const bytes = encode(block.text);
    const spans = new FieldSpans();
    this.blocks.split(0, bytes, 0, bytes.length, spans);
    const name = nameOf(path);
    const last = spans.lines.findLast(({ field }) => this.blocks.kinds[0].fields[field].name === name);
    if (last === undefined) return { at: block.next, empty: null };
    const empty = last.textFrom === last.textTo ? { start: at + last.from, end: at + last.to } : null;
    return { at: last.next === bytes.length ? block.next : at + last.next, empty };
  }

  /** Is there nothing else in the block? */
  private async isAlone({ start, end }: Span): Promise<boolean> {
    const before = decode(await this.source.read(Math.max(0, start - LOOK), start)).split(/\r\n|\n|\r/);
    const above = before.slice(0, -1).reverse();
    const below = decode(await this.source.read(end, end + LOOK)).split(/\r\n|\n|\r/);
    const first = (lines: readonly string[]): string => lines.map((line) => this.blocks.edge(line)).find((edge) => edge !== null) ?? "edge";
    const headed = above.find((line) => this.blocks.edge(line) !== null);
    return first(below) === "edge" && first(above) === "edge" && (headed === undefined || !this.blocks.heads(headed));
  }

  private async lineEndAt(end: number, source = this.source): Promise<string> {
    const last = decode(await source.read(Math.max(0, end - 2), end));
    return /\r?\n$|\r$/.exec(last)?.[0] ?? "";
  }
}

/** Below the records themselves: a line of one of them. */
function isItem(path: readonly Step[]): boolean {
  return path.length === 1;
}

function nameOf(path: readonly Step[]): string {
  const [step] = path;
  return step.kind === "name" ? step.name : "";
}
