/** Renders edits of JSON Lines: inside a value as in JSON, whole values by their lines. */
import type { ByteSource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import type { Piece, Splice } from "../../edits/splice.js";
import type { WritingStyle } from "../format.js";
import type { AddEdit, RemoveEdit, Span } from "../../edits/edit.js";
import { cutRuns, type Run } from "../json/cuts.js";
import { JsonRenderer } from "../json/render.js";
import { TIGHT } from "../json/style.js";

const STEP = 256;

export class LinesRenderer extends JsonRenderer {
  constructor(source: ByteSource, style: WritingStyle) {
    super(source, style);
  }

  protected override isTop(edit: AddEdit): boolean {
    return edit.path.length === 0;
  }

  /** New values stand on lines of their own, behind the last one unless it is said beside which. */
  protected override async addTop(edit: AddEdit): Promise<Splice> {
    const { size } = this.source;
    const tail = decode(await this.source.read(Math.max(0, size - 2), size));
    const newline = tail.endsWith("\r\n") ? "\r\n" : "\n";
    const separator = (await this.source.read(0, 1))[0] === 0x1e ? "\u001e" : "";
    const { beside } = edit;
    const at = beside === undefined ? size : beside.before ? await this.lineStart(beside.at) : await this.lineEnd(beside.at);
    const pieces: Piece[] = at < size || tail === "" || tail.endsWith("\n") ? [] : [encode(newline)];
    for (const record of edit.records) {
      pieces.push(encode(separator), await this.topRecord(record, edit.model, TIGHT), encode(newline));
    }
    return { start: at, end: at, pieces };
  }

  protected override async cutAll(removed: readonly RemoveEdit[], drops: readonly Span[], refilled: ReadonlySet<number>): Promise<Run[]> {
    const whole = removed.filter((edit) => edit.path.length === 0);
    const runs = await cutRuns(this.source, [...removed.filter((edit) => edit.path.length > 0), ...drops], refilled);
    for (const { start, end } of whole) {
      runs.push({
        splice: { start: await this.lineStart(start), end: await this.lineEnd(end), pieces: [] },
        spans: [{ start, end }],
        emptied: null,
      });
    }
    return runs;
  }

  /** The record separator before a value goes with it. */
  private async lineStart(at: number): Promise<number> {
    const [before] = at === 0 ? [0] : await this.source.read(at - 1, at);
    return before === 0x1e ? at - 1 : at;
  }

  private async lineEnd(at: number): Promise<number> {
    const behind = decode(await this.source.read(at, at + STEP));
    return at + encode(/^[ \t]*(?:\r\n|\n|\r)?/.exec(behind)![0]).length;
  }
}
