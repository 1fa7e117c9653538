/** Renders edits as splices of a JSON source: values in its manner, new records like their siblings. */
import { pushAll, smallest } from "../../bytes/lists.js";
import type { ByteSource } from "../../bytes/source.js";
import { concat, encode } from "../../bytes/writer.js";
import { TablesError } from "../../errors/error.js";
import { nestSplices } from "../../edits/nest.js";
import type { ForeignPiece, Piece, Splice } from "../../edits/splice.js";
import { type Step, formatPath, sameStep } from "../../model/path.js";
import type { WritingStyle, Renderer } from "../format.js";
import { Kind } from "../../model/kind.js";
import {
  movedIn,
  movedPiece,
  type AddEdit,
  type Edit,
  type FieldsEdit,
  type MovedRecord,
  type NewRecord,
  type NewValue,
  type RemoveEdit,
  type Span,
} from "../../edits/edit.js";
import type { PlainText } from "./comments.js";
import { cutRuns, type Run } from "./cuts.js";
import { memberNamed, nameOf, partStart, readLayout, type Layout, type Part } from "./layout.js";
import { innerStyle, PLAIN, readStyle, type Style } from "./style.js";
import { encodeText } from "./text.js";

/** What a new value consists of, by member name or place in a list. */
interface Branch {
  readonly list: boolean;
  readonly parts: Map<string, Branch | NewValue | Records>;
}
interface Records {
  readonly keyed: boolean;
  readonly records: readonly (NewRecord | MovedRecord)[];
}

/** Members that a record keeps, and those that come in. */
interface Members {
  readonly kept: ReadonlyMap<string, Part>;
  readonly fresh: readonly [string, Branch | NewValue][];
  readonly order: FieldsEdit["order"];
}

export class JsonRenderer implements Renderer {
  constructor(
    protected readonly source: ByteSource,
    protected readonly style: WritingStyle,
    /** The source, where there are comments behind members and items, or a comma behind the last. */
    private readonly commented: PlainText | null = null,
  ) {}

  async render(edits: readonly Edit[], leaving: readonly ForeignPiece[] = []): Promise<Splice[]> {
    const splices: Splice[] = [];
    const drops: Span[] = [];
    const removed = edits.filter((edit) => edit.kind === "remove");
    for (const edit of edits) {
      if (edit.kind === "set") splices.push({ start: edit.start, end: edit.end, pieces: [this.literal(edit.value)] });
      else if (edit.kind === "rename") splices.push({ start: edit.start, end: edit.end, pieces: [encodeText(edit.name, this.style)] });
      else if (edit.kind === "fields") await this.fields(edit, splices, drops);
    }
    const places: { edit: AddEdit; holder: Holder }[] = [];
    const tops: Splice[] = [];
    for (const edit of edits) {
      if (edit.kind !== "add") continue;
      if (this.isTop(edit)) tops.push(await this.addTop(edit));
      else places.push({ edit, holder: await this.holder(edit) });
    }
    const refilled = new Set(
      places.flatMap(({ holder }) => (holder.kind === "filled" || holder.kind === "single" ? [holder.layout.start] : [])),
    );
    const runs = await this.cutAll(removed, drops, refilled);
    const emptied = new Set(runs.flatMap((run) => (run.emptied === null ? [] : [run.emptied])));
    const added = new Set<number>();
    for (const { edit, holder } of places) pushAll(splices, await this.add(edit, holder, emptied, added));
    pushAll(splices, tops);
    const moved = edits.flatMap((edit) => (edit.kind === "add" ? movedIn(edit.records) : []));
    return nestSplices(splices, runs, moved, removed, leaving);
  }

  /** Values at the top stand in no brackets here. */
  protected isTop(_edit: AddEdit): boolean {
    return false;
  }

  protected addTop(edit: AddEdit): Promise<Splice> {
    throw new TablesError("add-nowhere", { path: formatPath({ steps: edit.steps, end: "value" }) });
  }

  /** One whole record, written like the model. */
  protected async topRecord(record: NewRecord | MovedRecord, model: Span | null, style: Style): Promise<Piece> {
    const layout = model === null ? null : await readLayout(this.source, model.start);
    return this.record(record, layout, style, style, false);
  }

  protected cutAll(removed: readonly RemoveEdit[], drops: readonly Span[], refilled: ReadonlySet<number>): Promise<Run[]> {
    this.goes = new Set([...removed, ...drops].map(({ end }) => end));
    return cutRuns(this.source, [...removed, ...drops], refilled, this.commented);
  }

  private literal(value: NewValue): Uint8Array {
    return value.kind === Kind.Text ? encodeText(value.text, this.style) : encode(value.text);
  }

  // ---- members of one record

  private async fields(edit: FieldsEdit, splices: Splice[], drops: Span[]): Promise<void> {
    const layout = await readLayout(this.source, edit.start);
    const style = (await readStyle(this.source, layout)) ?? PLAIN;
    const model = edit.model === null ? null : await readLayout(this.source, edit.model.start);
    await this.fieldsIn(layout, style, edit, model, { splices, drops });
  }

  private async fieldsIn(
    layout: Layout,
    style: Style,
    { add, drop, order }: Pick<FieldsEdit, "add" | "drop" | "order">,
    model: Layout | null,
    out: { readonly splices: Splice[]; readonly drops: Span[] },
  ): Promise<void> {
    const { splices, drops } = out;
    const names = [...new Set([...add.map((one) => one.steps[0]), ...drop.map((steps) => steps[0])].map(stepName))];
    const kept = new Map<string, Part>();
    for (const part of layout.parts) kept.set(await nameOf(this.source, part), part);
    const fresh: [string, Branch | NewValue][] = [];
    for (const name of names) {
      const adds = add.filter((one) => stepName(one.steps[0]) === name);
      const gone = drop.filter((steps) => stepName(steps[0]) === name);
      const part = kept.get(name);
      const value = adds.length === 0 ? null : branchOrValue(adds);
      if (part === undefined) {
        if (value !== null) fresh.push([name, value]);
        continue;
      }
      const inner = await readLayout(this.source, part.start);
      const whole = gone.some((steps) => steps.length === 1);
      if (whole || inner.kind === "scalar") {
        if (value === null) {
          pushAll(drops, await this.allNamed(layout, name));
          kept.delete(name);
        } else
          splices.push({
            start: part.start,
            end: part.end,
            pieces: await this.value(value, await this.partOf(model, name), innerStyle(style)),
          });
        continue;
      }
      const deeper = <T extends { steps: readonly Step[] }>(one: T): T => ({ ...one, steps: one.steps.slice(1) });
      const innerAdds = adds.filter((one) => one.steps.length > 1).map(deeper);
      const innerOrder = order.filter((steps) => steps.length > 1 && stepName(steps[0]) === name).map((steps) => steps.slice(1));
      const innerOwn = (await readStyle(this.source, inner)) ?? { ...PLAIN, colon: style.colon };
      const innerDrops = gone.map((steps) => steps.slice(1));
      await this.fieldsIn(inner, innerOwn, { add: innerAdds, drop: innerDrops, order: innerOrder }, await this.partOf(model, name), out);
    }
    await this.insertMembers(layout, style, { kept, fresh, order }, model, splices);
  }

  private async allNamed(layout: Layout, name: string): Promise<Span[]> {
    const spans: Span[] = [];
    for (const part of layout.parts) if ((await nameOf(this.source, part)) === name) spans.push({ start: partStart(part), end: part.end });
    return spans;
  }

  /** A new member stands behind the nearest one that comes before it in the order of the columns. */
  private async insertMembers(
    layout: Layout,
    style: Style,
    { kept, fresh, order }: Members,
    model: Layout | null,
    splices: Splice[],
  ): Promise<void> {
    const rank = [...new Set(order.map((steps) => stepName(steps[0])))];
    const sorted = [...fresh].sort((a, b) => rank.indexOf(a[0]) - rank.indexOf(b[0]));
    const behind = new Map<Part | null, [string, Branch | NewValue][]>();
    for (const member of sorted) {
      const before = rank
        .slice(0, rank.indexOf(member[0]))
        .reverse()
        .find((name) => kept.has(name));
      const anchor = before === undefined ? null : kept.get(before)!;
      behind.set(anchor, [...(behind.get(anchor) ?? []), member]);
    }
    for (const [anchor, members] of behind) {
      const pieces: Piece[] = [];
      for (const [name, value] of members) pieces.push(await this.member(name, value, model, style, innerStyle(style)));
      const joined = join(pieces, style.between);
      if (anchor !== null) splices.push({ start: anchor.end, end: anchor.end, pieces: [encode(style.between), ...joined] });
      else if (kept.size > 0) {
        const first = smallest([...kept.values()].map(partStart));
        splices.push({ start: first, end: first, pieces: [...joined, encode(style.between)] });
      } else {
        const at = layout.start + 1;
        splices.push({ start: at, end: layout.count === 0 ? layout.end - 1 : at, pieces: joined });
      }
    }
  }

  private async member(name: string, value: Branch | NewValue | Records, model: Layout | null, style: Style, inner: Style): Promise<Piece> {
    const pieces = await this.value(value, await this.partOf(model, name), inner);
    return wrap(concat([encodeText(name, this.style), encode(style.colon)]), pieces);
  }

  /** How the model writes the member of that name. */
  private async partOf(model: Layout | null, name: string): Promise<Layout | null> {
    const part = model?.kind === "record" ? await memberNamed(this.source, model, name) : null;
    return part === null ? null : readLayout(this.source, part.start);
  }

  /** Bytes of a new value, like the model where there is one. */
  private async value(value: Branch | NewValue | Records, model: Layout | null, fallback: Style): Promise<Piece[]> {
    if ("text" in value) return [this.literal(value)];
    const style = (model === null ? null : await readStyle(this.source, model)) ?? fallback;
    const inner = innerStyle(style);
    if ("records" in value) return this.recordsValue(value, model, style, inner);
    const pieces: Piece[] = [];
    for (const [name, part] of value.parts) {
      if (value.list) pieces.push(wrap(new Uint8Array(0), await this.value(part, null, inner)));
      else pieces.push(await this.member(name, part, model?.kind === "record" ? model : null, style, inner));
    }
    return bracketed(value.list ? "[]" : "{}", pieces, style);
  }

  private async recordsValue(value: Records, model: Layout | null, style: Style, inner: Style): Promise<Piece[]> {
    const first = model?.parts[0];
    const itemModel = first === undefined ? null : await readLayout(this.source, first.start);
    const pieces: Piece[] = [];
    for (const record of value.records) pieces.push(await this.record(record, itemModel, style, inner, value.keyed));
    return bracketed(value.keyed ? "{}" : "[]", pieces, style);
  }

  /** A new or moved record, with its name when it goes into a keyed record. */
  private async record(record: NewRecord | MovedRecord, model: Layout | null, style: Style, inner: Style, keyed: boolean): Promise<Piece> {
    if ("moved" in record) return movedPiece(record);
    const pieces = record.self !== null ? [this.literal(record.self)] : await this.value(branchOf(record), model, inner);
    return keyed && record.name !== null
      ? wrap(concat([encodeText(record.name, this.style), encode(style.colon)]), pieces)
      : wrap(new Uint8Array(0), pieces);
  }

  // ---- records in a list or keyed record

  /** Finds what the records go into. */
  private async holder(edit: AddEdit): Promise<Holder> {
    let layout = await readLayout(this.source, edit.at);
    let style = (await readStyle(this.source, layout)) ?? PLAIN;
    const nowhere = (): TablesError => new TablesError("add-nowhere", { path: formatPath({ steps: edit.steps, end: "value" }) });
    for (const [i, step] of edit.steps.entries()) {
      if (step.kind === "any") {
        if (i < edit.steps.length - 1 || layout.kind === "scalar") throw nowhere();
        return { kind: "filled", layout, style, keyed: layout.kind === "record" };
      }
      if (layout.kind === "list" && layout.count === 1) {
        layout = await readLayout(this.source, layout.parts[0].start);
        style = (await readStyle(this.source, layout)) ?? innerStyle(style);
      }
      if (layout.kind !== "record" || step.kind !== "name") throw nowhere();
      const part = await memberNamed(this.source, layout, step.name);
      const keyed = edit.steps.at(-1)?.kind === "any";
      if (part === null) return { kind: "missing", layout, style, steps: edit.steps.slice(i), keyed };
      const inner = await readLayout(this.source, part.start);
      if (inner.kind === "scalar" && (await this.isNull(inner))) {
        return { kind: "null", layout: inner, style: innerStyle(style), steps: edit.steps.slice(i + 1), keyed };
      }
      style = (await readStyle(this.source, inner)) ?? innerStyle(style);
      layout = inner;
    }
    return { kind: layout.kind === "list" ? "filled" : "single", layout, style, keyed: false };
  }

  private async isNull(layout: Layout): Promise<boolean> {
    return (await this.source.read(layout.start, layout.start + 1))[0] === 0x6e;
  }

  private async add(edit: AddEdit, holder: Holder, emptied: ReadonlySet<number>, added: Set<number>): Promise<Splice[]> {
    const { layout, style } = holder;
    if (holder.kind === "missing" || holder.kind === "null") {
      const content = holder.steps.reduceRight<Branch | Records>(
        (inner, step) => (step.kind === "any" ? inner : { list: false, parts: new Map([[stepName(step), inner]]) }),
        { keyed: holder.keyed, records: edit.records },
      );
      return [
        holder.kind === "null"
          ? { start: layout.start, end: layout.end, pieces: await this.value(content, null, style) }
          : await this.addMember(edit, holder, content),
      ];
    }
    const model = edit.model === null ? null : await readLayout(this.source, edit.model.start);
    const inner = innerStyle(style);
    const pieces: Piece[] = [];
    for (const record of edit.records) pieces.push(await this.record(record, model, style, inner, holder.keyed));
    const joined = join(pieces, style.between);
    if (holder.kind === "single") return wrapSingle(layout, joined, emptied.has(layout.start));
    const last = layout.parts.at(-1);
    if (edit.beside !== undefined) {
      const { at, before } = edit.beside;
      return [{ start: at, end: at, pieces: before ? [...joined, encode(style.between)] : [encode(style.between), ...joined] }];
    }
    if (last === undefined) return [{ ...this.insideOf(layout), pieces: [encode(style.open), ...joined, encode(style.close)] }];
    const alone = emptied.has(layout.start) && !added.has(layout.start);
    const isFirst = !added.has(layout.start);
    added.add(layout.start);
    if (this.commented !== null && !alone) return this.addBehind(this.commented, layout, joined, style.between, isFirst);
    return [{ start: last.end, end: last.end, pieces: alone ? joined : [encode(style.between), ...joined] }];
  }

  /** Behind the last item, the comma behind that, and what is said of it. */
  private async addBehind(text: PlainText, layout: Layout, pieces: readonly Piece[], between: string, isFirst: boolean): Promise<Splice[]> {
    const last = layout.parts.at(-1)!;
    const comma = text.commaIn(last.end, layout.end);
    const at = await text.lineEnd(comma < 0 ? last.end : comma + 1);
    const space = encode(between.replace(",", ""));
    const put = (...all: Piece[]): Splice => ({ start: at, end: at, pieces: all });
    if (comma >= 0) return [put(space, ...pieces, encode(","))];
    if (!isFirst) return [put(encode(between), ...pieces)];
    // the comma behind the item before stays where the last one goes
    if (this.goes.has(last.end)) return [put(space, ...pieces)];
    return [{ start: last.end, end: last.end, pieces: [encode(",")] }, put(space, ...pieces)];
  }
  /** Ends of members and items that go. */
  private goes: ReadonlySet<number> = new Set();

  /** What is in an empty list or record goes, but for comments. */
  private insideOf({ start, end }: Span): Span {
    return { start: start + 1, end: this.commented?.hasComment(start, end) === true ? start + 1 : end - 1 };
  }

  private async addMember(edit: AddEdit, holder: EmptyHolder, content: Branch | Records): Promise<Splice> {
    const { layout, style } = holder;
    const name = stepName(holder.steps[0]);
    const value = "parts" in content ? [...content.parts.values()][0] : content;
    const modelRecord = edit.model === null ? null : await readLayout(this.source, edit.model.start);
    const records =
      "records" in value && modelRecord !== null
        ? await this.likeModel(value, modelRecord, innerStyle(style))
        : await this.value(value, null, innerStyle(style));
    const member = wrap(concat([encodeText(name, this.style), encode(style.colon)]), records);
    const last = layout.parts.at(-1);
    if (last === undefined) return { ...this.insideOf(layout), pieces: [member] };
    return { start: last.end, end: last.end, pieces: [encode(style.between), member] };
  }

  /** A whole new list whose records are written like one of another list. */
  private async likeModel(value: Records, model: Layout, style: Style): Promise<Piece[]> {
    const pieces: Piece[] = [];
    for (const record of value.records) pieces.push(await this.record(record, model, style, innerStyle(style), value.keyed));
    return bracketed(value.keyed ? "{}" : "[]", pieces, style);
  }
}

/** What new records go into: a list or keyed record, a single record, or a place where there is none yet. */
interface FilledHolder {
  readonly kind: "filled" | "single";
  readonly layout: Layout;
  readonly style: Style;
  readonly keyed: boolean;
}
interface EmptyHolder {
  readonly kind: "missing" | "null";
  readonly layout: Layout;
  readonly style: Style;
  readonly steps: readonly Step[];
  readonly keyed: boolean;
}
type Holder = FilledHolder | EmptyHolder;

function stepName(step: Step): string {
  return step.kind === "name" ? step.name : step.kind === "place" ? String(step.place) : "*";
}

function branchOrValue(adds: FieldsEdit["add"]): Branch | NewValue {
  const own = adds.find((one) => one.steps.length === 1);
  if (own !== undefined) return own.value;
  return branch(adds.map((one) => ({ steps: one.steps.slice(1), value: one.value })));
}

function branch(fields: FieldsEdit["add"]): Branch {
  const list = fields.length > 0 && fields.every((field) => field.steps[0].kind === "place");
  const parts = new Map<string, Branch | NewValue | Records>();
  for (const field of fields) {
    const name = stepName(field.steps[0]);
    if (!parts.has(name)) parts.set(name, branchOrValue(fields.filter((one) => sameStep(one.steps[0], field.steps[0]))));
  }
  return { list, parts };
}

function branchOf(record: NewRecord): Branch {
  const own = branch(record.fields);
  for (const { steps, records } of record.inner) {
    const keyed = steps.at(-1)?.kind === "any";
    const names = keyed ? steps.slice(0, -1) : steps;
    let at = own;
    for (const step of names.slice(0, -1)) {
      const next = at.parts.get(stepName(step));
      const inner: Branch = next !== undefined && "parts" in next ? next : { list: false, parts: new Map() };
      at.parts.set(stepName(step), inner);
      at = inner;
    }
    if (names.length === 0)
      for (const one of records)
        at.parts.set(("name" in one ? one.name : null) ?? "", "moved" in one ? { keyed, records: [one] } : branchOf(one));
    else at.parts.set(stepName(names[names.length - 1]), { keyed, records });
  }
  return own;
}

/** `{…}` where others have a list becomes `[{…}, …]`, or `[…]` when the record itself goes away. */
function wrapSingle(layout: Layout, pieces: readonly Piece[], gone: boolean): Splice[] {
  const { start, end } = layout;
  if (gone) return [{ start: end, end, pieces: [encode("["), ...pieces, encode("]")] }];
  return [
    { start, end: start, pieces: [encode("[")] },
    { start: end, end, pieces: [encode(", "), ...pieces, encode("]")] },
  ];
}

function join(pieces: readonly Piece[], between: string): Piece[] {
  return pieces.flatMap((piece, i) => (i === 0 ? [piece] : [encode(between), piece]));
}

function bracketed(brackets: "[]" | "{}", pieces: readonly Piece[], style: Style): Piece[] {
  if (pieces.length === 0) return [encode(brackets)];
  return [encode(brackets[0] + style.open), ...join(pieces, style.between), encode(style.close + brackets[1])];
}

/** Several pieces as one, so that separators stand between whole parts. */
function wrap(head: Uint8Array, pieces: readonly Piece[]): Piece {
  if (pieces.every((piece) => piece instanceof Uint8Array)) return concat([head, ...pieces]);
  return { group: [head, ...pieces] };
}
