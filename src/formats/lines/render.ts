/** Renders edits as splices of a source made of lines: fields in their places, new lines like their siblings. */
import { pushAll, smallest } from "../../bytes/lists.js";
import type { ByteSource } from "../../bytes/source.js";
import { concat, decode, encode } from "../../bytes/writer.js";
import { TablesError } from "../../errors/error.js";
import { nestSplices } from "../../edits/nest.js";
import type { ForeignPiece, Piece, Splice } from "../../edits/splice.js";
import { formatPath, type Step } from "../../model/path.js";
import { PlaceNode, type WritingStyle, type Renderer } from "../format.js";
import { Kind } from "../../model/kind.js";
import {
  movedIn,
  movedPiece,
  type AddEdit,
  type Edit,
  type FieldsEdit,
  type MovedRecord,
  type NewRecord,
  type RemoveEdit,
  type SetEdit,
  type Span,
} from "../../edits/edit.js";
import { SilentListener } from "../silent.js";
import { findField, findGroup, findKind, stepsOf } from "./find.js";
import { FieldSpans, type FieldValue, type LineGrammar, type LineGroup } from "./grammar.js";
import { groupsOf } from "./groups.js";
import { FIRST_READ, lineAt, type LineAt } from "./line-at.js";
import type { FieldText, GroupRenderer } from "./render-groups.js";
import { isTelling, rawFields, samplesIn } from "./samples.js";
import { LineScanner, type RecordWatcher } from "./scan.js";

const MOST_READ = 1 << 20;

/** Where things stand in one record: its own line, and the end of the last record of each kind right inside it. */
interface Layout {
  /** Behind its own line. */
  next: number;
  readonly lasts: Map<number, number>;
  readonly starts: Map<number, number>;
  /** Kinds of which there are several. */
  readonly several: Set<number>;
  /** Where the last record in it begins, however deep. */
  last: number;
}

/** A text to be put into a field. */
interface Put {
  readonly steps: readonly Step[];
  readonly text: string;
  /** How it is written, where it was written before. */
  readonly raw?: string;
}

export class LineRenderer implements Renderer {
  constructor(
    protected readonly source: ByteSource,
    protected readonly style: WritingStyle,
    protected readonly grammar: LineGrammar,
  ) {}

  /** Fields to be set, by where they stand; those in a line that grows are written with it. */
  protected sets = new Map<number, SetEdit>();

  /** What is asked of groups of fields in lines; loaded where there are any. */
  private groups: GroupRenderer | null = null;

  private async groupRenderer(): Promise<GroupRenderer> {
    if (this.groups !== null) return this.groups;
    const { GroupRenderer: Renderer } = await import("./render-groups.js");
    return (this.groups = new Renderer(this.source, this.grammar, this.sets, (edit) =>
      // the record around it is that of the line
      edit.steps.length === 1 && edit.at >= 0 ? Promise.resolve(edit.at) : this.holder(edit),
    ));
  }

  async render(all: readonly Edit[], leaving: readonly ForeignPiece[] = []): Promise<Splice[]> {
    const cells: Splice[] = [];
    this.lines = [];
    const ofGroups = new Set(
      all.filter(({ kind, path = [] }: Edit & { path?: readonly Step[] }) => kind !== "set" && findGroup(this.grammar, path) !== null),
    );
    const edits = ofGroups.size === 0 ? all : all.filter((edit) => !ofGroups.has(edit));
    const removed = edits.filter((edit) => edit.kind === "remove");
    const cuts: { splice: Splice; spans: readonly Span[] }[] = [];
    for (const edit of removed) cuts.push({ splice: await this.cut(edit), spans: [{ start: edit.start, end: edit.end }] });
    this.sets = new Map();
    for (const edit of edits)
      // of fields that begin together the longest holds the others
      if (edit.kind === "set" && edit.end >= (this.sets.get(edit.start)?.end ?? 0)) this.sets.set(edit.start, edit);
    this.groups = null;
    if (ofGroups.size > 0) await (await this.groupRenderer()).take([...ofGroups], leaving);
    for (const edit of edits) {
      if (edit.kind === "fields") pushAll(cells, await this.fields(edit));
      else if (edit.kind === "rename") throw new TablesError("add-nowhere", { path: edit.name });
    }
    for (const [at, { kind, texts }] of (this.groups as GroupRenderer | null)?.lines ?? [])
      pushAll(cells, await this.fieldsOf(kind, at, texts.map(putOf)));
    const sets: Splice[] = [];
    for (const edit of this.sets.values()) sets.push(await this.set(edit));
    pushAll(cells, await this.together(sets));
    // where several records end at one place, what belongs inside the inner one stands first
    const adds = edits.filter((edit) => edit.kind === "add").sort((a, b) => b.path.length - a.path.length);
    for (const edit of adds)
      this.lines.push(
        await this.add(
          edit,
          cuts.map(({ splice }) => splice),
        ),
      );
    const moved = edits.flatMap((edit) => (edit.kind === "add" ? movedIn(edit.records) : []));
    return nestSplices(await this.inOrder(cells), cuts, moved, removed, leaving);
  }

  /** Fields in the same columns say the same: they are written in one go. */
  private async together(sets: readonly Splice[]): Promise<Splice[]> {
    const apart: Splice[] = [];
    for (const set of [...sets].sort((a, b) => a.start - b.start || b.end - a.end)) {
      const last = apart.at(-1);
      if (last === undefined || set.start >= last.end) {
        apart.push(set);
        continue;
      }
      const end = Math.max(last.end, set.end);
      const whole = concat([...(last.pieces as Uint8Array[]), await this.source.read(last.end, end)]);
      whole.set(concat(set.pieces as Uint8Array[]), set.start - last.start);
      apart[apart.length - 1] = { start: last.start, end, pieces: [whole] };
    }
    return apart;
  }

  /** New lines, of records inside others first. */
  private lines: Splice[] = [];

  /** A new line stands before what is put into a blank cell that the next line begins with, and behind one that the last line ends with. */
  private async inOrder(cells: readonly Splice[]): Promise<Splice[]> {
    const isLineStart = async (at: number): Promise<boolean> => at === 0 || (await this.endsLine(at));
    const own: Splice[] = [];
    for (const cell of cells) {
      const isBlank = cell.start === cell.end && cell.home === undefined;
      own.push(isBlank ? { ...cell, home: cell.start - ((await isLineStart(cell.start)) ? 0 : 1) } : cell);
    }
    const [before, behind]: [Splice[], Splice[]] = [[], []];
    for (const line of this.lines) ((await isLineStart(line.start)) ? before : behind).push(line);
    return [...before, ...own, ...behind];
  }

  private async set({ start, end, value, path }: SetEdit): Promise<Splice> {
    const found = findField(this.grammar, path);
    if (found === null) throw new TablesError("add-nowhere", { path: formatPath({ steps: path, end: "value" }) });
    const old = await this.likeOf(found.kind, found.field, decode(await this.source.read(start, end)));
    return { start, end, pieces: [encode(this.written(value.text, found.kind, found.field, old))] };
  }

  /** What stands in the field, or in that of a line which shows how the file writes such values. */
  private async likeOf(kind: number, field: number, old: string): Promise<string> {
    if (this.grammar.isTelling?.(kind, field, old) ?? true) return old;
    const line = (await this.samples()).get(kind);
    const other = line === undefined ? null : rawFields(this.grammar, kind, line)[field];
    return other !== null && this.grammar.isTelling!(kind, field, other) ? other : old;
  }

  protected written(text: string, kind: number, field: number, old: string | null): string {
    const written = this.grammar.encode(text, kind, field, old);
    if (typeof written !== "string") throw new TablesError(written.code, written.facts);
    return this.inLines(written);
  }

  /** A text with the line ends of the file, where there are any in it. */
  private inLines(text: string): string {
    return this.grammar.folds === true && this.style.crlf ? text.replace(/\r?\n/g, "\r\n") : text;
  }

  private async fields(edit: FieldsEdit): Promise<Splice[]> {
    const kind = findKind(this.grammar, edit.path);
    // what goes into groups of the line is written together with it
    const grouped = this.groups?.lines.get(edit.start)?.texts ?? [];
    this.groups?.lines.delete(edit.start);
    return this.fieldsOf(kind, kind < 0 ? -1 : edit.start, [
      ...edit.add.map(({ steps, value }): Put => ({ steps, text: value.text })),
      ...edit.drop.map((steps): Put => ({ steps, text: "" })),
      ...grouped.map(putOf),
    ]);
  }

  /** Fields that stand in the line are written there, those it does not reach behind it, those of a line inside it in that line. */
  private async fieldsOf(kind: number, at: number, puts: readonly Put[]): Promise<Splice[]> {
    const splices = kind < 0 ? [] : await this.ownFields(kind, at, puts);
    for (const name of new Set(puts.filter(({ steps }) => steps.length > 1).map(({ steps }) => stepName(steps[0])))) {
      const inner = this.grammar.kinds.findIndex((one) => one.inside === kind && one.name === name);
      const deeper = puts
        .filter(({ steps }) => steps.length > 1 && stepName(steps[0]) === name)
        .map(({ steps, text }) => ({ steps: steps.slice(1), text }));
      const layout = await this.layout(at, inner);
      const known = layout.starts.get(inner);
      if (known !== undefined) pushAll(splices, await this.fieldsOf(inner, known, deeper));
      else if (deeper.some(({ text }) => text !== "")) {
        const place = await this.placeFor(inner, at);
        const record: NewRecord = {
          name: null,
          self: null,
          fields: deeper.map(({ steps, text }) => ({ steps, value: { kind: Kind.Text, text } })),
          inner: [],
        };
        const newline = await this.ending();
        const loose = [encode(await this.missingEnd(place))];
        this.lines.push({
          start: place,
          end: place,
          pieces: [...loose, ...(await this.record(inner, record, null, newline))],
          home: Math.max(0, at),
        });
      }
    }
    return splices;
  }

  private async ownFields(kind: number, at: number, puts: readonly Put[]): Promise<Splice[]> {
    const splices: Splice[] = [];
    const line = await this.lineAt(at);
    const bytes = encode(line.text);
    const spans = new FieldSpans();
    this.grammar.split(kind, bytes, 0, bytes.length, spans);
    const beyond: FieldValue[] = [];
    for (const { steps, text, raw } of puts) {
      if (steps.length > 1) continue;
      const name = stepName(steps[0]);
      const field = this.grammar.kinds[kind].fields.findIndex((one) => one.name === name);
      if (field < 0 && text !== "" && this.grammar.learns !== true) throw new TablesError("field-nowhere", { name });
      const [start, end] = [spans.starts[field], spans.ends[field]];
      if (start >= 0)
        splices.push({
          start: at + start,
          end: at + end,
          pieces: [encode(raw ?? this.written(text, kind, field, decode(bytes, start, end)))],
        });
      else if (text !== "") beyond.push({ name, text });
    }
    const cleared = puts.some(({ text }) => text === "");
    if (beyond.length === 0 && !cleared) return splices;
    const mine = spans.starts.map((one) => at + one).filter((start) => (this.sets.get(start)?.end ?? Infinity) <= line.end);
    const sets = await Promise.all(mine.map((start) => this.set(this.sets.get(start)!)));
    // what changes in the line is written together with what is put behind it
    const patched = [...splices, ...sets]
      .sort((a, b) => b.start - a.start)
      .reduce(
        (text, { start, end, pieces }) => concat([text.subarray(0, start - at), ...(pieces as Uint8Array[]), text.subarray(end - at)]),
        bytes,
      );
    const extended = this.inLines(this.grammar.extend(kind, decode(patched), beyond));
    const blank = extended === "" && this.grammar.kinds[kind].needsText;
    if (beyond.length === 0 && !blank) return splices;
    const before = decode(patched);
    if (!blank && extended.startsWith(before)) {
      // what is put behind the line goes with what is put at its very end, if anything is
      const last = [...splices, ...sets].filter(({ start }) => start === line.end);
      for (const { start } of last) this.sets.delete(start);
      const pieces = [...last.flatMap((one) => one.pieces), encode(extended.slice(before.length))];
      return [...splices.filter((one) => !last.includes(one)), { start: line.end, end: line.end, pieces, home: at }];
    }
    for (const start of mine) this.sets.delete(start);
    if (blank) return [{ start: at, end: line.end, pieces: [encode(this.blank(kind))] }];
    const whole = encode(extended);
    const differs = bytes.findIndex((byte, i) => whole[i] !== byte);
    const from = Math.min(
      bytes.length,
      smallest([differs < 0 ? bytes.length : differs, ...[...splices, ...sets].map(({ start }) => start - at)]),
    );
    return [{ start: at + from, end: line.end, pieces: [whole.slice(from)], home: at }];
  }

  /** A line that is still a record with nothing in its fields. */
  private blank(kind: number): string {
    const { blankLine } = this.grammar;
    if (blankLine === undefined) throw new TablesError("cell-emptied", { title: this.grammar.kinds[kind].fields[0].name });
    return blankLine;
  }

  protected lineAt(at: number): Promise<LineAt> {
    return lineAt(this.source, this.grammar, at);
  }

  protected async add(edit: AddEdit, cuts: readonly Splice[]): Promise<Splice> {
    const kind = findKind(this.grammar, edit.path);
    if (kind < 0) throw new TablesError("add-nowhere", { path: formatPath({ steps: edit.path, end: "value" }) });
    const holder = await this.holder(edit);
    const place = edit.beside?.at ?? (await this.placeFor(kind, holder));
    // a record that goes takes the blank line behind it along
    const at = this.grammar.gap ? (cuts.find((cut) => cut.start < place && place < cut.end)?.end ?? place) : place;
    const model = edit.model === null ? null : await this.model(kind, (await this.lineAt(edit.model.start)).text);
    const newline = await this.ending();
    const pieces: Piece[] = [];
    const loose = at > 0 ? await this.missingEnd(at) : "";
    const short = await this.missingBefore(at, kind, holder);
    if (short !== "") pieces.push(encode(short));
    for (const [i, record] of edit.records.entries()) {
      if (loose !== "" && i === 0) pieces.push(encode(loose));
      if (this.grammar.gap && (at > 0 || i > 0)) pieces.push(encode(newline));
      pushAll(pieces, await this.record(kind, record, model, newline));
    }
    return { start: at, end: at, pieces, ...(holder >= 0 ? { home: holder } : {}) };
  }

  /** A line of the kind, or one that shows better how the file writes values. */
  private async model(kind: number, line: string): Promise<string> {
    if (isTelling(this.grammar, kind, line)) return line;
    const other = (await this.samples()).get(kind);
    return other !== undefined && isTelling(this.grammar, kind, other) ? other : line;
  }

  /** What stands behind a line. */
  private async ending(): Promise<string> {
    const { terminator } = this.grammar;
    const newline = this.style.crlf ? "\r\n" : "\n";
    if (terminator === undefined) return newline;
    // the first line that is ended so shows whether there is a line end, too
    const head = decode(await this.source.read(0, FIRST_READ));
    const next = this.grammar.next(encode(head), 0, encode(head).length, true);
    return terminator + (/[\r\n]+$/.exec(decode(encode(head).subarray(0, next)))?.[0] ?? "");
  }

  /** What the line that ends there lacks of its end. */
  private async missingEnd(at: number): Promise<string> {
    const ending = await this.ending();
    const [last] = await this.source.read(at - 1, at);
    if (last === this.grammar.terminator?.charCodeAt(0)) return ending.slice(1);
    return (await this.endsLine(at)) ? "" : ending;
  }

  /** The last of records without line ends may be short: it is filled up before others follow. */
  private async missingBefore(at: number, kind: number, holder: number): Promise<string> {
    if (!this.grammar.unbroken || this.grammar.missing === undefined) return "";
    const { last } = await this.layout(holder, kind);
    return last < 0 || last >= at ? "" : this.grammar.missing(decode(await this.source.read(last, at)));
  }

  /** Where the record begins that the new ones go into: steps lead down from the parent's record, or from the top. */
  private async holder(edit: AddEdit): Promise<number> {
    const fromTop = edit.atTop;
    let at = fromTop ? -1 : edit.at;
    let kind = findKind(this.grammar, edit.path.slice(0, edit.path.length - edit.steps.length));
    for (const step of edit.steps.slice(0, -1)) {
      kind = this.grammar.kinds.findIndex((one) => one.inside === kind && one.name === stepName(step));
      const { starts, several } = await this.layout(at, kind);
      const start = starts.get(kind);
      if (start === undefined || several.has(kind))
        throw new TablesError("add-nowhere", { path: formatPath({ steps: edit.steps, end: "value" }) });
      at = start;
    }
    return at;
  }

  /** A record goes with the blank lines behind it, where blank lines stand between records. */
  protected async cut({ start, end }: RemoveEdit): Promise<Splice> {
    if (!this.grammar.gap) return { start, end, pieces: [] };
    const behind = decode(await this.source.read(end, end + 64));
    const blank = /^(?:[ \t]*(?:\r\n|\n|\r))+/.exec(behind)?.[0] ?? "";
    return { start, end: end + encode(blank).length, pieces: [] };
  }

  protected async endsLine(at: number, source = this.source): Promise<boolean> {
    const [last] = await source.read(at - 1, at);
    return last === 0x0a || last === 0x0d || this.grammar.unbroken || last === this.grammar.terminator?.charCodeAt(0);
  }

  protected async record(kind: number, record: NewRecord | MovedRecord, model: string | null, newline: string): Promise<Piece[]> {
    const end = this.grammar.unbroken ? "" : newline;
    if ("moved" in record) {
      const source = record.foreign?.source ?? this.source;
      const missing = this.grammar.unbroken ? (this.grammar.missing?.(decode(await source.read(record.start, record.end))) ?? "") : "";
      const whole = await this.endsLine(record.end, source);
      return [movedPiece(record), encode(missing), ...(whole ? [] : [encode(end)])];
    }
    const own = record.fields.filter(({ steps }) => steps.length === 1);
    const values = own.map(({ steps, value }): FieldValue => ({ name: stepName(steps[0]), text: value.text }));
    const known = this.grammar.kinds[kind].fields;
    const lost = this.grammar.learns === true ? undefined : values.find(({ name }) => !known.some((field) => field.name === name));
    if (lost !== undefined) throw new TablesError("field-nowhere", { name: lost.name });
    // totals are summed up when all is written
    for (const { name, total } of this.grammar.kinds[kind].fields)
      if (total !== undefined && !values.some((value) => value.name === name)) values.push({ name, text: "0" });
    for (const { name, text } of await this.groupsIn(kind, record)) values.push({ name, text });
    const pieces: Piece[] = [encode(this.inLines(this.grammar.write(kind, values, model)) + end)];
    const inner = record.inner
      .filter(({ steps }) => this.groupOf(kind, steps) === undefined)
      .map(({ steps, records }) => ({ kind: this.innerKind(kind, steps), records }));
    for (const [k, one] of this.grammar.kinds.entries()) {
      // columns of a record that stands once inside this one
      const fields = record.fields.filter(({ steps }) => one.inside === kind && steps.length > 1 && stepName(steps[0]) === one.name);
      if (fields.length > 0)
        inner.push({
          kind: k,
          records: [{ name: null, self: null, fields: fields.map(({ steps, value }) => ({ steps: steps.slice(1), value })), inner: [] }],
        });
    }
    for (const [k, one] of this.grammar.kinds.entries()) {
      // a record that others of its kind end with a trailer gets one, too
      if (one.inside === kind && one.closes && !inner.some((part) => part.kind === k))
        inner.push({ kind: k, records: [{ name: null, self: null, fields: [], inner: [] }] });
    }
    const closes = (k: number): number => Number(this.grammar.kinds[k].closes);
    inner.sort((a, b) => closes(a.kind) - closes(b.kind) || a.kind - b.kind);
    for (const part of inner) {
      const like = (await this.samples()).get(part.kind) ?? null;
      for (const one of part.records) pushAll(pieces, await this.record(part.kind, one, like, newline));
    }
    return pieces;
  }

  private groupOf(kind: number, [step, ...more]: readonly Step[]): LineGroup | undefined {
    return more.length > 0 ? undefined : groupsOf(this.grammar.kinds[kind]).find(({ name }) => name === stepName(step));
  }

  /** What a new line says in its groups. */
  private async groupsIn(kind: number, { inner }: NewRecord): Promise<FieldText[]> {
    const texts: FieldText[] = [];
    for (const { steps, records } of inner) {
      const group = this.groupOf(kind, steps);
      if (group === undefined) continue;
      if (records.length > group.places.length) throw new TablesError("group-full", { group: group.name, most: group.places.length });
      for (const [nth, record] of records.entries()) {
        const item = await (await this.groupRenderer()).itemOf(record, [...stepsOf(this.grammar, kind), ...steps], group);
        for (const [i, field] of group.places[nth].entries()) texts.push({ name: this.grammar.kinds[kind].fields[field].name, ...item[i] });
      }
    }
    return texts;
  }

  /** The first line of each kind, where there is one near the beginning: new ones inside others are made like it. */
  private samples(): Promise<ReadonlyMap<number, string>> {
    return (this.sampled ??= samplesIn(this.source, this.grammar));
  }
  private sampled: Promise<ReadonlyMap<number, string>> | null = null;

  private innerKind(kind: number, steps: readonly Step[]): number {
    return steps.reduce(
      (inside, step) => this.grammar.kinds.findIndex((one) => one.inside === inside && one.name === stepName(step)),
      kind,
    );
  }

  /** Behind the last record of the kind; else behind those that come before it; else behind the parent's own line. */
  private async placeFor(kind: number, parentAt: number): Promise<number> {
    const layout = await this.layout(parentAt, kind);
    let at = layout.next;
    for (let k = 0; k <= kind; k++) if (!this.grammar.kinds[k].closes) at = Math.max(at, layout.lasts.get(k) ?? -1);
    // a kind that comes later in the layout may stand earlier in the file; what closes the record stays last
    return layout.lasts.get(kind) ?? at;
  }

  private async layout(parentAt: number, kind: number): Promise<Layout> {
    const nested = parentAt >= 0;
    const layout: Layout = { next: 0, lasts: new Map(), starts: new Map(), several: new Set(), last: -1 };
    const depthOf = nested ? 1 : 0;
    const watcher: RecordWatcher = {
      open: (opened, depth, start, _lineEnd, next) => {
        layout.last = start;
        if (depth === depthOf && layout.starts.has(opened)) layout.several.add(opened);
        if (depth === depthOf) layout.starts.set(opened, start);
        if (nested && depth === 0) layout.next = next;
      },
      close: (closed, depth, end) => {
        if (depth === depthOf) layout.lasts.set(closed, end);
      },
    };
    const scanner = new LineScanner(new PlaceNode(), new SilentListener(), this.grammar, watcher, {
      at: parentAt,
      kind: nested ? this.grammar.kinds[kind].inside : -1,
    });
    for (let from = Math.max(0, parentAt), size = FIRST_READ; !scanner.done; from += size, size = Math.min(size * 4, MOST_READ)) {
      const bytes = await this.source.read(from, from + size);
      scanner.write(bytes);
      if (bytes.length < size) {
        scanner.end();
        break;
      }
    }
    if (!nested && layout.lasts.size === 0) layout.next = this.source.size;
    return layout;
  }
}

function putOf({ name, ...text }: FieldText): Put {
  return { steps: [{ kind: "name", name }], ...text };
}

function stepName(step: Step): string {
  return step.kind === "name" ? step.name : "*";
}
