/**
 * Lines whose fields depend on each other: some stand in the same columns, or tell what kind of record the line is. What is
 * asked of such a line is written into it, and read again, before anything is folded.
 */
import type { ByteSource } from "../../bytes/source.js";
import { decode, encode } from "../../bytes/writer.js";
import type { Step } from "../../model/path.js";
import type { FieldTrial, Tried } from "../format.js";
import { findKind } from "./find.js";
import { FieldSpans, type LineGrammar } from "./grammar.js";
import { lineAt } from "./line-at.js";
import { rawFields, samplesIn } from "./samples.js";

export class LineTrial implements FieldTrial {
  constructor(
    private readonly source: ByteSource,
    private readonly grammar: LineGrammar,
  ) {}

  isNeeded(steps: readonly Step[]): boolean {
    const kind = findKind(this.grammar, steps);
    return kind >= 0 && this.grammar.dependent(kind);
  }

  placeOf(steps: readonly Step[]): "first" | "last" | null {
    const kind = findKind(this.grammar, steps);
    return kind < 0 ? null : (this.grammar.kinds[kind].line ?? null);
  }

  async copied(steps: readonly Step[]): Promise<readonly { kind: string; columns: string; text: string }[]> {
    const { grammar } = this;
    const own = findKind(grammar, steps);
    if (own < 0 || grammar.unnamed === undefined) return [];
    const samples = await samplesIn(this.source, grammar);
    const kinds = [own, ...grammar.kinds.flatMap(({ inside, closes }, kind) => (inside === own && closes ? [kind] : []))];
    return kinds.flatMap((kind) => {
      const line = samples.get(kind);
      const { name } = grammar.kinds[kind];
      return line === undefined ? [] : grammar.unnamed!(kind, line).map((one) => ({ kind: name, ...one }));
    });
  }

  async change(steps: readonly Step[], at: number, texts: ReadonlyMap<string, string>): Promise<Tried> {
    const kind = findKind(this.grammar, steps);
    const { text, isLast } = await lineAt(this.source, this.grammar, at);
    let line = text;
    for (const [name, wanted] of texts) {
      const field = this.grammar.kinds[kind].fields.findIndex((one) => one.name === name);
      if (field < 0) continue;
      const { starts, ends } = this.split(kind, line);
      const bytes = encode(line);
      const [start, end] = [starts[field], ends[field]];
      if (start < 0) {
        if (wanted !== "") line = this.grammar.extend(kind, line, [{ name, text: wanted }]);
        continue;
      }
      const written = this.grammar.encode(wanted, kind, field, decode(bytes, start, end));
      if (typeof written !== "string") return { fault: written, field: name };
      line = decode(bytes, 0, start) + written + decode(bytes, end);
    }
    return this.read(kind, line, texts, at <= 3 ? 1 : Infinity, isLast);
  }

  async add(steps: readonly Step[], model: number | null, texts: ReadonlyMap<string, string>): Promise<Tried> {
    const kind = findKind(this.grammar, steps);
    const like = model === null ? null : (await lineAt(this.source, this.grammar, model)).text;
    const values = [...texts].map(([name, text]) => ({ name, text }));
    const olds = like === null ? [] : rawFields(this.grammar, kind, like);
    for (const { name, text } of values) {
      const field = this.grammar.kinds[kind].fields.findIndex((one) => one.name === name);
      const old = olds[field] ?? null;
      if (text === "" || old === null) continue;
      const written = this.grammar.encode(text, kind, field, old);
      if (typeof written !== "string") return { fault: written, field: name };
    }
    return this.read(kind, this.grammar.write(kind, values, like), texts, Infinity, false);
  }

  private split(kind: number, line: string): FieldSpans {
    const spans = new FieldSpans();
    const bytes = encode(line);
    this.grammar.split(kind, bytes, 0, bytes.length, spans);
    return spans;
  }

  private read(kind: number, line: string, wanted: ReadonlyMap<string, string>, number: number, isLast: boolean): Tried {
    const { grammar } = this;
    const { name: own, line: place, fields } = grammar.kinds[kind];
    const bytes = encode(line);
    const spans = this.split(kind, line);
    const says = new Map<string, string>();
    for (const [f, { name, total }] of fields.entries()) {
      if (total !== undefined) continue;
      const isBlank = spans.starts[f] < 0 || grammar.isEmpty(kind, f, bytes, spans);
      const text = isBlank ? "" : decode(bytes, spans.textStarts[f], spans.textEnds[f]);
      says.set(name, isBlank || spans.plain[f] ? text : grammar.decode(text, kind, f));
    }
    const now = place === undefined || place === null ? grammar.kindOf(bytes, 0, bytes.length, number, isLast) : kind;
    const given = [...wanted.keys()];
    if (now !== kind && grammar.alike?.[kind].includes(now) !== true) {
      const field = given.find((name) => grammar.tellsKind?.(kind, name) ?? true) ?? given[0];
      return { fault: { code: "record-kind", facts: { kind: own, now: now < 0 ? null : grammar.kinds[now].name, line } }, field };
    }
    const lost = given.find((name) => says.get(name) !== wanted.get(name) && !this.isAlike(kind, name, says.get(name)!, wanted.get(name)!));
    const other = given.find(
      (name) => name !== lost && says.get(name) === wanted.get(name) && (grammar.share?.(kind, lost ?? "", name) ?? true),
    );
    if (lost !== undefined && other !== undefined)
      return { fault: { code: "fields-differ", facts: { name: lost, other, says: says.get(lost)! } }, field: lost };
    return { says };
  }

  /** Both are written alike. */
  private isAlike(kind: number, name: string, one: string, other: string): boolean {
    const field = this.grammar.kinds[kind].fields.findIndex((each) => each.name === name);
    const [written, another] = [one, other].map((text) => this.grammar.encode(text, kind, field, null));
    return typeof written === "string" && written === another;
  }
}
