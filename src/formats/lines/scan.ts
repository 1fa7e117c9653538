/**
 * The scanner of line formats: each line is looked at when it is whole. A line of a kind opens a
 * record, which stays open for the lines that belong inside it; a record ends with its last line.
 */
import { pushAll } from "../../bytes/lists.js";
import { Pages } from "../../bytes/pages.js";
import { hashName } from "../../bytes/hash.js";
import { encode } from "../../bytes/writer.js";
import { WindowScanner } from "../../bytes/window.js";
import { asciiEnd, utf8Length } from "../../bytes/utf8.js";
import { SourceError } from "../../errors/error.js";
import { PlaceNode, Wants, type Listener, type WritingStyle, type RecordStarts, type WrongTotal, type Scanner } from "../format.js";
import type { Trail, TrailStep } from "../../model/trail.js";
import { Kind } from "../../model/kind.js";
import { CR, CUT, FieldSpans, LF, type LineGrammar, type LineGroup } from "./grammar.js";
import { groupSpan, groupsOf, isBlankGroup } from "./groups.js";

/** Records whose beginnings are kept are at least so many bytes apart: they take little room then. */
const APART = 128;

/** A record that is open. */
interface Level {
  kind: number;
  node: PlaceNode | null;
  index: number;
  start: number;
  /** How many records of each kind it holds so far. */
  counts: number[];
}

/** Hears where records begin and end, whatever the plan wants: for the renderer, and for totals. */
export interface RecordWatcher {
  open(kind: number, depth: number, start: number, lineEnd: number, next: number, scanner: LineScanner): void;
  close(kind: number, depth: number, end: number): void;
  /** A line that only fills up the file. */
  filler?(start: number, next: number): void;
  /** Is each total over what is in one record at the top? */
  readonly isWithinRecords?: boolean;
  /** What is wrong with totals, when the file has ended. */
  wrongTotals?(scanner: LineScanner): readonly WrongTotal[];
}

/** A mark on guide nodes of fields: which they are, so that their values are decoded as such. */
export interface FieldNote {
  readonly kind: number;
  readonly field: number;
}

export class LineScanner extends WindowScanner implements Scanner {
  nameStart = 0;
  nameEnd = 0;
  index = 0;
  readonly namePlain = true;
  readonly inList: boolean;
  readonly named: boolean;
  readonly memberStart = 0;
  readonly memberEnd = 0;
  readonly style: WritingStyle = { rawHigh: true, escapedHigh: false, crlf: false };
  readonly spans = new FieldSpans();
  /** Number of the line at hand, from 1. */
  line = 0;
  adjoins = false;

  private pos = 0;
  private begun = false;
  private readonly levels: Level[] = [];
  /** How many records of each kind stand at the top. */
  private readonly counts: number[] = [];
  /** Where the last line of a record ended. */
  private lastEnd = 0;
  private stopped = false;
  /** Kinds that the fragment is inside of. */
  private readonly around = new Set<number>();
  /** Nodes of fields, by kind. */
  private readonly fields: (readonly (PlaceNode | null)[] | undefined)[] = [];
  private readonly item: PlaceNode | null = null;
  private readonly single: boolean;

  private readonly fragmentAt: number;
  private readonly fragmentKind: number;

  constructor(
    private readonly root: PlaceNode,
    private readonly listener: Listener,
    readonly grammar: LineGrammar,
    private readonly watcher: RecordWatcher | null = null,
    /** Begin at a record of this kind that stands here, and stop when it has ended. */
    fragment: { readonly at: number; readonly kind: number } = { at: -1, kind: -1 },
  ) {
    super();
    this.fragmentAt = fragment.at;
    this.fragmentKind = fragment.kind;
    listener.scanner = this;
    grammar.reset();
    this.single = grammar.kinds.length === 1 && grammar.kinds[0].name === "";
    this.inList = this.single;
    this.named = !this.single;
    if (this.fragmentAt >= 0) this.base = this.lastEnd = this.fragmentAt;
    for (let kind = this.fragmentKind; kind >= 0; kind = grammar.kinds[kind].inside) this.around.add(grammar.kinds[kind].inside);
    if (this.single) this.item = root.take & Wants.All ? null : root;
  }

  wrongTotals(): readonly WrongTotal[] | null {
    return this.watcher?.wrongTotals?.(this) ?? null;
  }

  /** Keeps where records at the top begin. */
  keepStarts(): this {
    // of alike lines, what stands before them tells what they are
    const isAlone = this.grammar.alike?.some((kinds) => kinds.length > 1) !== true;
    this.isAlone = isAlone;
    if (isAlone) this.starts = { starts: new Pages(Float64Array), lines: new Pages(Int32Array), last: -Infinity };
    return this;
  }
  private isAlone = false;
  private starts: { readonly starts: Pages; readonly lines: Pages; last: number } | null = null;

  recordStarts(): RecordStarts | null {
    if (this.starts === null) return null;
    const { starts, lines } = this.starts;
    return { starts, lines, haveTotals: this.watcher?.isWithinRecords ?? true };
  }

  get done(): boolean {
    return this.stopped;
  }

  trail(): Trail {
    const steps: TrailStep[] = [];
    for (let d = 0; d < this.levels.length + 1; d++) {
      const level = d < this.levels.length ? this.levels[d] : this.closed;
      if (level === null) continue;
      if (!this.single) steps.push(this.grammar.kinds[level.kind].name);
      steps.push(level.index);
    }
    if (this.fieldLine !== null) pushAll(steps, this.fieldLine);
    return steps;
  }
  /** Name and place of the line that is being told as a record of its own. */
  private fieldLine: readonly [name: string, index: number] | null = null;
  /** The record that has just been closed. */
  private closed: Level | null = null;

  protected leave(): void {
    this.listener.leave();
  }

  protected scan(final: boolean): number {
    const buf = this.window;
    const { limit, grammar } = this;
    let i = this.pos;
    if (!this.begun) {
      if (limit < 3 && !final) return 0;
      if (this.fragmentAt < 0 && buf[0] === 0xef && buf[1] === 0xbb && buf[2] === 0xbf) i = this.lastEnd = 3;
      this.begin();
    }
    let high = asciiEnd(buf.subarray(0, limit), i);
    while (i < limit && !this.stopped) {
      const next = grammar.next(buf, i, limit, final);
      if (next === CUT || (grammar.lookAhead && next >= limit && !final)) break;
      if (high < grammar.end) {
        this.checkText(high, grammar.end);
        high = asciiEnd(buf.subarray(0, limit), grammar.end);
        this.spans.ascii = false;
      } else this.spans.ascii = true;
      this.line++;
      if (grammar.broken === true) throw new SourceError("cell-quote-open", {}, { byte: this.base + i });
      if (this.line === 1 && next > grammar.end) this.style.crlf = buf[grammar.end] === CR && buf[next - 1] === LF;
      this.record(i, grammar.end, next, final && next >= limit);
      // a block has several lines; the next one begins behind all of them
      if (grammar.sharesLines === true) this.line += lineEnds(buf, i, next) - 1;
      else if (grammar.gap || (grammar.breaks === true && hasBreak(buf, i, grammar.end)))
        this.line += Math.max(0, lineEnds(buf, i, next) - 1);
      i = next;
    }
    if (final && !this.stopped) this.finish();
    this.pos = 0;
    return i;
  }

  private begin(): void {
    this.begun = true;
    const { root, listener } = this;
    if (this.fragmentAt >= 0) return;
    if (root.take & Wants.All) listener.open(root, this.single ? Kind.List : Kind.Record, 0);
    else if (!this.single && root.take & Wants.Row) listener.open(root, Kind.Record, 0);
  }

  private finish(): void {
    while (this.levels.length > 0) this.closeLast();
    const { root, listener } = this;
    this.closed = null;
    if (this.fragmentAt >= 0) return;
    if (root.take & Wants.All) listener.close(root, this.single ? Kind.List : Kind.Record, this.limit);
    else if (!this.single && root.take & Wants.Row) listener.close(root, Kind.Record, this.limit);
  }

  private checkText(from: number, to: number): void {
    const buf = this.window;
    for (let i = from; i < to;) {
      if (buf[i] < 0x80) i++;
      else {
        const length = utf8Length(buf, i, to);
        if (length <= 0) throw new SourceError("utf8", { seen: "", byte: buf[i] }, { byte: this.base + i });
        i += length;
      }
    }
  }

  private record(start: number, end: number, next: number, last: boolean): void {
    const { grammar, window } = this;
    const beginning = this.fragmentAt >= 0 && this.base + start === this.fragmentAt;
    const kind = beginning
      ? this.fragmentKind
      : this.kindHere(grammar.kindOf(window, start, end, this.fragmentAt >= 0 ? Infinity : this.line, last));
    if (kind < 0) {
      if (this.watcher?.filler !== undefined && grammar.isFiller?.(window, start, end) === true)
        this.watcher.filler(this.base + start, this.base + next);
      if (grammar.isStray(window, start, end, this.line)) this.listener.stray?.(start, end, this.line);
      return;
    }
    const { inside } = grammar.kinds[kind];
    if (!beginning && this.around.has(inside)) {
      while (this.levels.length > 0) this.closeLast();
      this.stopped = true;
      return;
    }
    while (this.levels.length > 0 && this.levels[this.levels.length - 1].kind !== inside) {
      if (inside >= 0 && !this.isOpen(inside)) break;
      this.closeLast();
    }
    const parent = this.levels.at(-1);
    if (!beginning && (parent?.kind ?? -1) !== inside) {
      // it belongs inside a record that is not there
      this.listener.stray?.(start, end, this.line);
      return;
    }
    this.open(kind, parent, start, end, next);
    if (grammar.kinds[kind].closes) {
      this.closeLast();
      if (this.levels.length > 0) this.closeLast();
      if (this.fragmentAt >= 0 && this.levels.length === 0) this.stopped = true;
    }
  }

  private isOpen(kind: number): boolean {
    for (let d = 0; d < this.levels.length; d++) if (this.levels[d].kind === kind) return true;
    return false;
  }

  /** Of several kinds whose lines are alike, the one that can be inside the innermost record that is open. */
  private kindHere(kind: number): number {
    const alike = kind < 0 ? undefined : this.grammar.alike?.[kind];
    if (alike === undefined || alike.length < 2) return kind;
    const { kinds } = this.grammar;
    for (const level of [...this.levels].reverse()) {
      const found = alike.find((one) => kinds[one].inside === level.kind);
      if (found !== undefined) return found;
    }
    return alike.find((one) => this.around.has(kinds[one].inside)) ?? alike.find((one) => kinds[one].inside < 0) ?? kind;
  }

  private open(kind: number, parent: Level | undefined, start: number, end: number, next: number): void {
    const { listener, grammar, spans } = this;
    const counts = parent?.counts ?? this.counts;
    const index = counts[kind] ?? 0;
    counts[kind] = index + 1;
    const { closes, fields: own } = grammar.kinds[kind];
    // what only ends a record says nothing
    const node = closes && own.length === 0 ? null : this.nodeOf(kind, parent);
    // what was closed last is used again
    const level = this.closed ?? { kind, node, index, start: 0, counts: [] };
    this.adjoins = this.isAlone && this.closed?.kind === kind && this.lastEnd === this.base + start;
    this.closed = null;
    level.kind = kind;
    level.node = node;
    level.index = index;
    level.start = this.base + start;
    if (level.counts.length > 0) level.counts.length = 0;
    this.levels.push(level);
    this.lastEnd = this.base + next;
    if (this.starts !== null && this.levels.length === 1) this.keepStart(this.base + start);
    const wanted = node !== null && (node.take !== Wants.Nothing || node.entered);
    // what ends a record comes with it
    const told = wanted || closes || (this.totalled[kind] ??= own.some(({ total }) => total !== undefined));
    if (told || this.watcher !== null) {
      spans.overStart = -1;
      grammar.split(kind, this.window, start, end, spans);
      if (spans.overStart >= 0) listener.over?.(spans.overStart, spans.overEnd, this.line + lineEnds(this.window, start, spans.overStart));
    }
    this.watcher?.open(kind, this.levels.length - 1, this.base + start, this.base + end, this.base + next, this);
    if (!wanted) {
      if (told) this.restOf(kind, start);
      else listener.rest?.(this.calledKind(kind), start, end);
      return;
    }
    this.index = index;
    if (node.take & (Wants.Row | Wants.All)) listener.open(node, Kind.Record, start);
    // there may be one today and two tomorrow; only what closes a record stands once in it
    if (node.take & Wants.All && !this.single && !grammar.kinds[kind].closes && grammar.kinds[kind].once !== true) listener.listed?.(node);
    let fields = this.fields[kind];
    // names may be learnt on the way
    if (fields === undefined || fields.length < grammar.kinds[kind].fields.length) fields = this.fields[kind] = this.fieldNodes(kind, node);
    if (spans.lines.length > 0) {
      this.fieldLines(fields, kind, end, next);
      return;
    }
    const groups = groupsOf(grammar.kinds[kind]);
    for (let f = 0; f < fields.length; f++) {
      const field = fields[f];
      if (groups.length > 0 && grammar.kinds[kind].fields[f].group !== undefined) continue;
      if (spans.starts[f] < 0 || grammar.isEmpty(kind, f, this.window, spans)) continue;
      if (field !== null && field.take !== Wants.Nothing)
        listener.value(field, Kind.Text, spans.starts[f], spans.ends[f], spans.textStarts[f], spans.textEnds[f], spans.plain[f]);
      else if (grammar.kinds[kind].fields[f].total === undefined)
        listener.rest?.(this.calledHere(kind, f), spans.textStarts[f], spans.textEnds[f]);
    }
    for (const group of groups) this.group(group, node, kind, fields);
  }

  /** Groups of fields: each that holds something is a record, where the plan has a table of them. */
  private group({ name, places, names }: LineGroup, around: PlaceNode, kind: number, fields: readonly (PlaceNode | null)[]): void {
    const { listener, spans, grammar, window } = this;
    const node = this.memberOf(around, name);
    const isWanted = node !== null && (node.take & (Wants.Row | Wants.All)) !== 0;
    if (isWanted && node.take & Wants.All) listener.listed?.(node);
    this.adjoins = false;
    for (const [nth, place] of places.entries()) {
      if (isBlankGroup(grammar, kind, place, window, spans)) continue;
      const { start, end } = groupSpan(place, spans);
      if (isWanted) {
        this.index = nth;
        this.fieldLine = [name, nth];
        listener.open(node, Kind.Record, start);
      }
      for (const [i, f] of place.entries()) {
        if (spans.starts[f] < 0 || grammar.isEmpty(kind, f, window, spans)) continue;
        const field = isWanted ? fields[f] : null;
        if (field !== null && field.take !== Wants.Nothing)
          listener.value(field, Kind.Text, spans.starts[f], spans.ends[f], spans.textStarts[f], spans.textEnds[f], spans.plain[f]);
        // within a group it is called the same wherever the group stands
        else
          listener.rest?.(
            isWanted ? this.calledIn(kind, places[0][i], names[i]) : this.calledHere(kind, f),
            spans.textStarts[f],
            spans.textEnds[f],
          );
      }
      if (isWanted) listener.close(node, Kind.Record, end);
    }
    this.fieldLine = null;
  }

  /** By kind: some field is a total. */
  private readonly totalled: boolean[] = [];

  private keepStart(at: number): void {
    const kept = this.starts!;
    if (at - kept.last < APART) return;
    kept.last = at;
    kept.starts.push(at);
    kept.lines.push(this.line);
  }

  /** What a line says that no table takes, but for its totals: those follow from others. */
  private restOf(kind: number, start: number): void {
    const { listener, spans, grammar, window } = this;
    listener.rest?.(this.calledKind(kind), start, start);
    const { fields } = grammar.kinds[kind];
    for (let f = 0; f < fields.length; f++)
      if (fields[f].total === undefined && spans.starts[f] >= 0 && !grammar.isEmpty(kind, f, window, spans))
        listener.rest?.(this.calledHere(kind, f), spans.textStarts[f], spans.textEnds[f]);
  }

  /** Fields that are lines of their own: where the plan has a table of them, each is a record. */
  private fieldLines(fields: readonly (PlaceNode | null)[], kind: number, end: number, next: number): void {
    const { listener, spans, grammar } = this;
    const serial = ++this.serial;
    this.adjoins = false;
    for (const line of spans.lines) {
      const node = fields[line.field];
      if (node === null || node.take === Wants.Nothing) listener.rest?.(this.calledHere(kind, line.field), line.textFrom, line.textTo);
      if (node === null || node.take === Wants.Nothing || line.textFrom === line.textTo) continue;
      const { take, own } = node;
      const told = [Kind.Text, line.from, line.to, line.textFrom, line.textTo, line.plain] as const;
      if ((take & Wants.Row) === 0) {
        listener.value(node, ...told);
        continue;
      }
      node.nth = node.serial === serial ? node.nth + 1 : 0;
      node.serial = serial;
      this.index = node.nth;
      this.fieldLine = [grammar.kinds[kind].fields[line.field].name, node.nth];
      listener.open(node, Kind.Record, line.start);
      if (own !== null) listener.value(own, ...told);
      listener.close(node, Kind.Record, line.next === end ? next : line.next);
    }
    this.fieldLine = null;
  }
  private serial = 0;

  private nodeOf(kind: number, parent: Level | undefined): PlaceNode | null {
    if (this.single) return this.item ?? (this.root.item ??= this.listener.unknown?.(this.root, null) ?? null);
    const around = parent === undefined ? (this.fragmentAt >= 0 ? null : this.root) : parent.node;
    return around === null ? null : this.memberOf(around, this.grammar.kinds[kind].name);
  }

  private memberOf(around: PlaceNode, name: string): PlaceNode | null {
    const known = around.byName.get(name);
    if (known !== undefined) return known;
    return around.grows ? (this.listener.unknown?.(around, name) ?? null) : null;
  }

  /** Nodes of a kind's fields; asked for anew when a header line has named other fields. */
  private fieldNodes(kind: number, node: PlaceNode): readonly (PlaceNode | null)[] {
    const names = this.grammar.kinds[kind].fields;
    return names.map(({ name, group }, field) => {
      const holder = group === undefined ? node : this.memberOf(node, group.name);
      const inner = holder === null ? null : this.memberOf(holder, group?.field ?? name);
      const note: FieldNote = { kind, field };
      if (inner !== null) inner.note = note;
      if (inner !== null && inner.own !== null) inner.own.note = note;
      return inner;
    });
  }

  /** A number for the name of a field. */
  private calledHere(kind: number, field: number): number {
    const known = (this.called[kind] ??= []);
    return (known[field] ??= hashName(encode(this.grammar.kinds[kind].fields[field].name)));
  }
  private readonly called: number[][] = [];

  /** The same for a field of a group, by its place in the first one. */
  private calledIn(kind: number, field: number, name: string): number {
    const known = (this.calledIns[kind] ??= []);
    return (known[field] ??= hashName(encode(name)));
  }
  private readonly calledIns: number[][] = [];

  private calledKind(kind: number): number {
    return (this.calledKinds[kind] ??= hashName(encode(this.grammar.kinds[kind].name)));
  }
  private readonly calledKinds: number[] = [];

  private closeLast(): void {
    const level = this.levels.pop()!;
    this.closed = level;
    this.index = level.index;
    this.watcher?.close(level.kind, this.levels.length, this.lastEnd);
    const { node } = level;
    if (node !== null && node.take & (Wants.Row | Wants.All)) this.listener.close(node, Kind.Record, this.lastEnd - this.base);
  }
}

/** Is there a line end before that of the line? Lines that end in CR alone have none. */
function hasBreak(buf: Uint8Array, start: number, end: number): boolean {
  if (buf[end] === CR && buf[end + 1] !== LF) return false;
  const at = buf.indexOf(LF, start);
  return at >= 0 && at < end;
}

function lineEnds(buf: Uint8Array, from: number, to: number): number {
  let count = 0;
  for (let i = from; i < to; i++) if (buf[i] === LF || (buf[i] === CR && buf[i + 1] !== LF)) count++;
  return count;
}
