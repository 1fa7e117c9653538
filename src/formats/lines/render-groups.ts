/** Edits of groups of fields, as texts to be put into the fields of their lines. */
import type { ByteSource } from "../../bytes/source.js";
import { concat, decode, encode } from "../../bytes/writer.js";
import { TablesError } from "../../errors/error.js";
import { movedIn, type AddEdit, type Edit, type MovedRecord, type NewRecord, type SetEdit } from "../../edits/edit.js";
import type { ForeignPiece } from "../../edits/splice.js";
import { PlaceNode } from "../format.js";
import { SilentListener } from "../silent.js";
import { findGroup } from "./find.js";
import { FieldSpans, type LineGrammar, type LineGroup } from "./grammar.js";
import { groupSpan, isBlankGroup } from "./groups.js";
import { lineAt } from "./line-at.js";
import { LineScanner } from "./scan.js";

/** A text to be put into a field of a line; `raw` is how it is written, where it was written before. */
export interface FieldText {
  readonly name: string;
  readonly text: string;
  readonly raw?: string;
}

/** A line, and what is put into its fields. */
export interface LineTexts {
  readonly kind: number;
  readonly texts: FieldText[];
}

/** What the fields of a group say, in their order. */
type Item = readonly Omit<FieldText, "name">[];

/** A group in a line of the source. */
interface GroupAt {
  readonly at: number;
  readonly kind: number;
  readonly group: LineGroup;
  /** Where the fields of the line stand, and its text. */
  readonly spans: FieldSpans;
  readonly bytes: Uint8Array;
}

/** What is asked of one group of one line. */
interface Asked {
  readonly found: GroupAt;
  readonly removed: Set<number>;
  readonly adds: AddEdit[];
}

/** What stands in the groups of one line, and what is to stand there. */
interface Settled {
  readonly found: GroupAt;
  readonly had: readonly (Item | null)[];
  readonly now: readonly (Item | null)[];
}

export class GroupRenderer {
  /** By where a line begins. */
  readonly lines = new Map<number, LineTexts>();
  private readonly asked = new Map<string, Asked>();
  /** What is put into single fields of groups, by where these begin. */
  private readonly fields = new Map<number, ReadonlyMap<string, string>>();

  constructor(
    private readonly source: ByteSource,
    private readonly grammar: LineGrammar,
    /** Fields to be set, by where they stand: those of groups that move go along, and are taken out. */
    private readonly sets: Map<number, SetEdit>,
    /** Where the line begins that new records go into. */
    private readonly holder: (edit: AddEdit) => Promise<number>,
  ) {}

  async take(edits: readonly Edit[], leaving: readonly ForeignPiece[]): Promise<void> {
    await this.find(
      edits.flatMap((edit) =>
        edit.kind === "add"
          ? movedIn(edit.records).map(({ start }) => start)
          : edit.kind === "remove" || edit.kind === "fields"
            ? [edit.start]
            : [],
      ),
    );
    for (const edit of edits) {
      if (edit.kind === "add") {
        const { kind, group } = findGroup(this.grammar, edit.path)!;
        (await this.ask(await this.holder(edit), kind, group)).adds.push(edit);
      } else if (edit.kind === "remove" || edit.kind === "fields") {
        const { found, nth } = await this.at(edit.start, edit.path);
        const asked = await this.ask(found.at, found.kind, found.group);
        if (edit.kind === "remove") asked.removed.add(nth);
        else
          this.fields.set(
            edit.start,
            new Map([
              ...edit.add.map(({ steps, value }) => [lastName(steps), value.text] as const),
              ...edit.drop.map((steps) => [lastName(steps), ""] as const),
            ]),
          );
      }
    }
    const pieces = new Map(leaving.map((piece) => [piece.start, piece]));
    for (const edit of edits) {
      const piece = edit.kind === "remove" ? pieces.get(edit.start) : undefined;
      if (piece !== undefined && edit.kind === "remove") await this.leave(piece, edit.path);
    }
    // texts are gathered before any are put somewhere else
    const settled: Settled[] = [];
    for (const one of this.asked.values()) settled.push(await this.settle(one));
    for (const one of settled) this.write(one);
  }

  /** New texts, or those of a group that moves. */
  async itemOf(record: NewRecord | MovedRecord, path: AddEdit["path"], { names }: LineGroup): Promise<Item> {
    if (!("moved" in record))
      return names.map((name) => ({ text: record.fields.find(({ steps }) => lastName(steps) === name)?.value.text ?? "" }));
    if (record.foreign !== undefined) return this.foreign(record, path);
    const { found, nth } = await this.at(record.start, path);
    return this.item(found, nth);
  }

  /** One from another file of the set: what is asked of it there is in its piece. */
  private async foreign({ foreign, start }: MovedRecord, path: AddEdit["path"]): Promise<Item> {
    const { source, splices } = foreign!;
    const other = new GroupRenderer(source, this.grammar, new Map(), this.holder);
    await other.find([start]);
    const { found, nth } = await other.at(start, path);
    const edited = [...splices]
      .sort((one, another) => another.start - one.start)
      .reduce(
        (line, one) => concat([line.subarray(0, one.start - found.at), ...(one.pieces as Uint8Array[]), line.subarray(one.end - found.at)]),
        found.bytes,
      );
    return this.read(this.split(found, edited), nth);
  }

  /** What is asked of groups that leave for another file goes along with them. */
  private async leave(piece: ForeignPiece, path: AddEdit["path"]): Promise<void> {
    const { found, nth } = await this.at(piece.start, path);
    const { at, kind, group, spans, bytes } = found;
    for (const [i, { text, raw }] of this.item(found, nth).entries()) {
      const field = group.places[nth][i];
      const [start, end] = [spans.starts[field], spans.ends[field]];
      if (raw !== undefined || (start < 0 && text === "")) continue;
      const written = start < 0 ? null : this.grammar.encode(text, kind, field, decode(bytes, start, end));
      if (typeof written !== "string") throw new TablesError("group-elsewhere", { group: group.name });
      piece.splices.push({ start: at + start, end: at + end, pieces: [encode(written)] });
    }
  }

  private async ask(at: number, kind: number, group: LineGroup): Promise<Asked> {
    const id = `${at} ${group.name}`;
    const known = this.asked.get(id);
    if (known !== undefined) return known;
    const made = { found: await this.lineOf(at, kind, group), removed: new Set<number>(), adds: [] };
    this.asked.set(id, made);
    return made;
  }

  private async lineOf(at: number, kind: number, group: LineGroup): Promise<GroupAt> {
    return this.split({ at, kind, group }, encode((await lineAt(this.source, this.grammar, at)).text));
  }

  private split({ at, kind, group }: Pick<GroupAt, "at" | "kind" | "group">, bytes: Uint8Array): GroupAt {
    const spans = new FieldSpans();
    this.grammar.split(kind, bytes, 0, bytes.length, spans);
    return { at, kind, group, spans, bytes };
  }

  /** The lines of the groups that begin there: one pass over the source. */
  private async find(wanted: readonly number[]): Promise<void> {
    const places = [...new Set(wanted)].sort((a, b) => a - b);
    if (places.length === 0) return;
    let next = 0;
    const scanner = new LineScanner(new PlaceNode(), new SilentListener(), this.grammar, {
      open: (_kind, _depth, start, lineEnd) => {
        for (; next < places.length && places[next] <= lineEnd; next++) if (places[next] >= start) this.starts.set(places[next], start);
      },
      close: () => undefined,
    });
    for await (const chunk of this.source.chunks()) {
      scanner.write(chunk);
      if (next >= places.length) return;
    }
    scanner.end();
  }
  private readonly starts = new Map<number, number>();

  /** The group that begins there. */
  private async at(start: number, path: AddEdit["path"]): Promise<{ found: GroupAt; nth: number }> {
    const { kind, group } = findGroup(this.grammar, path)!;
    const line = this.starts.get(start) ?? start;
    const found = this.asked.get(`${line} ${group.name}`)?.found ?? (await this.lineOf(line, kind, group));
    return { found, nth: group.places.findIndex((places) => found.at + groupSpan(places, found.spans).start === start) };
  }

  private read({ kind, group, spans, bytes }: GroupAt, nth: number): Item {
    return group.places[nth].map((field) => {
      if (spans.starts[field] < 0) return { text: "" };
      const text = decode(bytes, spans.textStarts[field], spans.textEnds[field]);
      return {
        text: spans.plain[field] ? text : this.grammar.decode(text, kind, field),
        raw: decode(bytes, spans.starts[field], spans.ends[field]),
      };
    });
  }

  /** What a group says, with what is asked of its fields. */
  private item(found: GroupAt, nth: number): Item {
    const { at, group, spans } = found;
    const puts = this.fields.get(at + groupSpan(group.places[nth], spans).start);
    return this.read(found, nth).map((one, i) => {
      const set = this.sets.get(at + spans.starts[group.places[nth][i]]);
      const text = puts?.get(group.names[i]) ?? set?.value.text;
      return text === undefined ? one : { text };
    });
  }

  private async settle({ found, removed, adds }: Asked): Promise<Settled> {
    const { kind, group, spans, bytes } = found;
    const had = group.places.map((places, nth) => (isBlankGroup(this.grammar, kind, places, bytes, spans) ? null : this.item(found, nth)));
    const now = adds.some(({ beside }) => beside !== undefined)
      ? await this.inserted(found, had, removed, adds)
      : had.map((item, nth) => (removed.has(nth) ? null : item));
    for (const { records, path } of adds.filter(({ beside }) => beside === undefined))
      for (const record of records) {
        // behind the others: where the last has one, these close up
        if (now.at(-1) !== null) closeUp(now);
        const free = now.findLastIndex((item) => item !== null) + 1;
        if (free >= now.length) throw new TablesError("group-full", { group: group.name, most: now.length });
        now[free] = await this.itemOf(record, path, group);
      }
    return { found, had, now };
  }

  private write({ found: { at, kind, group, spans }, had, now }: Settled): void {
    const line = this.lines.get(at) ?? { kind, texts: [] };
    this.lines.set(at, line);
    for (const [nth, places] of group.places.entries()) {
      const item = now[nth] ?? null;
      const isSame = item === had[nth];
      const puts = isSame ? this.fields.get(at + groupSpan(places, spans).start) : undefined;
      if (isSame && puts === undefined) continue;
      if (item !== null && item.every(({ text }) => text === "")) throw new TablesError("group-emptied", { group: group.name });
      for (const [i, field] of places.entries()) {
        const { name } = this.grammar.kinds[kind].fields[field];
        const text = puts?.get(group.names[i]);
        if (isSame && text === undefined) continue;
        if (!isSame) this.sets.delete(at + spans.starts[field]);
        line.texts.push({ name, ...(text === undefined ? (item?.[i] ?? { text: this.grammar.nothing?.(kind, field) ?? "" }) : { text }) });
      }
    }
  }

  /** The groups of a line in the order that was asked for, one behind the other. */
  private async inserted(
    found: GroupAt,
    had: readonly (Item | null)[],
    removed: ReadonlySet<number>,
    adds: readonly AddEdit[],
  ): Promise<(Item | null)[]> {
    const { at, group, spans } = found;
    const list: Item[] = [];
    const added = async (nth: number, before: boolean): Promise<void> => {
      const { start, end } = groupSpan(group.places[nth], spans);
      for (const { beside, records, path } of adds)
        if (beside !== undefined && beside.before === before && beside.at === at + (before ? start : end))
          for (const record of records) list.push(await this.itemOf(record, path, group));
    };
    for (const [nth, item] of had.entries()) {
      if (item === null) continue;
      await added(nth, true);
      if (!removed.has(nth)) list.push(item);
      await added(nth, false);
    }
    if (list.length > had.length) throw new TablesError("group-full", { group: group.name, most: group.places.length });
    return had.map((_, nth) => list[nth] ?? null);
  }
}

/** Blank ones go to the end. */
function closeUp(items: (Item | null)[]): void {
  items.sort((one, other) => Number(one === null) - Number(other === null));
}

function lastName(steps: AddEdit["path"]): string {
  const last = steps.at(-1);
  return last?.kind === "name" ? last.name : "";
}
