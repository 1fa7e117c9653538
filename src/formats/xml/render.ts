/** Renders edits as splices of an XML source: values in the place they have, new elements like their siblings. */
import { largest, pushAll, smallest } from "../../bytes/lists.js";
import type { TextSource } from "../../bytes/encoding.js";
import { concat, decode, encode } from "../../bytes/writer.js";
import { TablesError } from "../../errors/error.js";
import { nestSplices } from "../../edits/nest.js";
import type { ForeignPiece, Piece, Splice } from "../../edits/splice.js";
import { formatPath, type Step } from "../../model/path.js";
import type { Renderer } from "../format.js";
import { Kind } from "../../model/kind.js";
import {
  movedIn,
  movedPiece,
  type AddEdit,
  type Edit,
  type FieldsEdit,
  type MovedRecord,
  type NewValue,
  type SetEdit,
  type Span,
} from "../../edits/edit.js";
import { arrange, branchOf, emptyBranch, recordBranch, recordName, shorter, stepName, type Branch } from "./branch.js";
import { attributeStyle, closingOf, isCdata, PLAIN_CDATA } from "./alike-written.js";
import { ChildOrder, learnOrders } from "./child-order.js";
import { readElement, rootStart, scopesAround, type Element } from "./layout.js";
import type { XmlStyle } from "./scan.js";
import { NO_SCOPE, type PlanNames, type Scope } from "./scope.js";
import { encodeAttribute, encodeCdata, encodeContent } from "./text.js";

/** What a new element is put into: how its own name is written, and what prefixes stand for in it. */
type Around = Pick<Element, "scope" | "name">;

/** An element that is edited, one of its kind as a model, and the order of the children of all of its kind. */
interface Place {
  readonly element: Element;
  readonly model: Element | null;
  readonly children: ChildOrder | null;
}

/** An element that gets children, and the white space before each. */
interface Inside {
  readonly element: Element;
  readonly children: ChildOrder | null;
  readonly gap: string;
}

/** New children at one place. */
interface Insertion extends Inside {
  readonly at: number;
  readonly parts: { readonly name: string; readonly pieces: readonly Piece[] }[];
}

export class XmlRenderer implements Renderer {
  private unit: string | null = null;
  /** Scopes around the elements that edits are about. */
  private scopes: ReadonlyMap<number, Scope> = new Map();
  private orders = new ChildOrder();

  constructor(
    private readonly source: TextSource,
    private readonly style: XmlStyle,
    private readonly names: PlanNames,
  ) {}

  async render(edits: readonly Edit[], leaving: readonly ForeignPiece[] = []): Promise<Splice[]> {
    if (this.names.bound) this.scopes = await scopesAround(this.source, edits.flatMap(startsOf), this.style.entities);
    this.orders = await learnOrders(edits, this.source, { entities: this.style.entities, names: this.names });
    const splices: Splice[] = [];
    const cuts: { splice: Splice; spans: readonly Span[] }[] = [];
    const removed = edits.filter((edit) => edit.kind === "remove");
    for (const edit of removed) cuts.push({ splice: await this.cutElement(edit), spans: [edit] });
    this.inserted.clear();
    for (const edit of edits) {
      if (edit.kind === "set") splices.push(await this.set(edit));
      else if (edit.kind === "rename") pushAll(splices, await this.rename(edit));
      else if (edit.kind === "fields") await this.fields(edit, splices);
    }
    for (const edit of edits) if (edit.kind === "add") await this.add(edit, splices);
    for (const insertion of this.inserted.values()) splices.push(this.insertion(insertion));
    const moved = edits.flatMap((edit) => (edit.kind === "add" ? movedIn(edit.records) : []));
    return nestSplices(splices, cuts, moved, removed, leaving);
  }

  private async text(start: number, end: number): Promise<string> {
    return decode(await this.source.read(start, end));
  }

  private element(at: number, outer = this.scopes.get(at) ?? NO_SCOPE): Promise<Element> {
    return readElement(this.source, at, this.style.entities, this.names, outer);
  }

  /** The first child of that name, where there is one: the model for a new one. */
  private async childOf(model: Element | null, name: string): Promise<Element | null> {
    const child = model?.children.get(name);
    return child === undefined ? null : this.element(child.first.start, model!.scope);
  }

  // ---- one value

  private spelled(text: string): string {
    return this.referred(encodeContent(text, this.style.crlf));
  }

  private quoted(text: string, quote: '"' | "'"): string {
    return this.referred(encodeAttribute(text, quote));
  }

  private cdata(text: string): string {
    return this.referred(encodeCdata(text, this.style.crlf), "]]>", "<![CDATA[");
  }

  /** Letters that the encoding of the file lacks, as character references. */
  private referred(markup: string, before = "", behind = ""): string {
    if (this.source.missing(markup) === null) return markup;
    const spell = (letter: string): string =>
      this.source.missing(letter) === null ? letter : `${before}&#${letter.codePointAt(0)};${behind}`;
    return Array.from(markup, spell).join("");
  }

  private async set({ start, end, value, was, path }: SetEdit): Promise<Splice> {
    const old = await this.text(start, end);
    const last = path.at(-1);
    if (last?.kind === "name" && last.name.startsWith("@"))
      return splice(start, end, this.quoted(value.text, old.startsWith("'") ? "'" : '"'));
    const source = value.kind === Kind.Record;
    const sole = was === Kind.Text && old.startsWith(PLAIN_CDATA) && old.indexOf("]]>") === old.length - 3;
    const text = source ? value.text : sole ? this.cdata(value.text) : this.spelled(value.text);
    const written = source || sole ? text : await this.guardEdges(text, start, end);
    if (await this.isSelfClosing(start, old)) return splice(start, end, `>${written}</${await this.nameBefore(start)}>`);
    return splice(start, end, written);
  }

  /** Spaces at the edges of a text are references where they would be taken for the layout around it. */
  private async guardEdges(text: string, start: number, end: number): Promise<string> {
    const refer = (spaces: string): string => spaces.replace(/\s/g, (space) => `&#${space.charCodeAt(0)};`);
    const before = /\s/.test(await this.text(start - 1, start));
    const after = /\s/.test(await this.text(end, end + 1));
    return text.replace(before ? /^\s+/ : /^$/, refer).replace(after ? /\s+$/ : /$^/, refer);
  }

  /** The span of an element without content is that of `/>`: it stands right behind a name or an attribute. */
  private async isSelfClosing(start: number, old: string): Promise<boolean> {
    return old.trim() === "/>" && !/[>\s]/.test(await this.text(start - 1, start));
  }

  /** Name of the tag that `at` is in: no `<` stands in attributes. */
  private async nameBefore(at: number): Promise<string> {
    for (let size = 256; ; size *= 4) {
      const from = Math.max(0, at - size);
      const text = await this.text(from, at);
      const less = text.lastIndexOf("<");
      if (less >= 0 || from === 0) return /^[^\s/>]+/.exec(text.slice(less + 1))![0];
    }
  }

  private async rename({ start, name }: Span & { name: string }): Promise<Splice[]> {
    const element = await this.element(start);
    const splices = [splice(start + 1, element.nameEnd, name)];
    if (!element.selfClosing) splices.push(splice(element.content.end + 2, element.content.end + 2 + element.nameEnd - start - 1, name));
    return splices;
  }

  // ---- attributes and elements of one record

  private async fields(edit: FieldsEdit, splices: Splice[]): Promise<void> {
    const model = edit.model === null ? null : await this.element(edit.model.start);
    if (edit.path.length > 0) {
      const children = edit.path.reduce<ChildOrder | null>((at, step) => at?.at(stepName(step)) ?? null, this.orders);
      await this.fieldsIn({ element: await this.element(edit.start), model, children }, edit, splices);
      return;
    }
    // the document: its one member is the root element
    const root = await this.element(await rootStart(this.source, this.style.entities));
    const children = this.orders.at(stepName([...edit.add.map(({ steps }) => steps), ...edit.drop][0][0]));
    await this.fieldsIn({ element: root, model: null, children }, deeper(edit), splices);
  }

  private async fieldsIn(
    { element, model, children }: Place,
    { add, drop, order }: Pick<FieldsEdit, "add" | "drop" | "order">,
    splices: Splice[],
  ): Promise<void> {
    const names = [...new Set([...add.map((one) => stepName(one.steps[0])), ...drop.map((steps) => stepName(steps[0]))])];
    const fresh: string[] = [];
    for (const name of names) {
      const adds = add.filter((one) => stepName(one.steps[0]) === name);
      const gone = drop.filter((steps) => stepName(steps[0]) === name);
      if (name.startsWith("@")) await this.attribute(element, name.slice(1), adds[0]?.value ?? null, order, splices);
      else {
        const child = element.children.get(name)?.last;
        if (child === undefined) {
          if (adds.length > 0) fresh.push(name);
          continue;
        }
        const inner = await this.element(child.start, element.scope);
        const whole = gone.some((steps) => steps.length === 1);
        const own = adds.find((one) => one.steps.length === 1);
        if (whole && own === undefined) {
          const kept = inner.attributes.filter(
            ({ name: one }) => !gone.some((steps) => steps.length === 2 && stepName(steps[1]) === `@${one}`),
          );
          if (kept.length === 0 && adds.length === 0) {
            splices.push(await this.cutElement(child));
            continue;
          }
          if (!inner.selfClosing) splices.push({ ...inner.content, pieces: [] });
        }
        if (own !== undefined) splices.push(this.content(inner, this.spelled(own.value.text)));
        const below = { add: adds, drop: gone, order: order.filter((steps) => stepName(steps[0]) === name) };
        const place = { element: inner, model: await this.childOf(model, name), children: children?.at(name) ?? null };
        await this.fieldsIn(place, deeper(below), splices);
      }
    }
    const branches = fresh.map((name) => [name, branchOf(add.filter((one) => stepName(one.steps[0]) === name).map(shorter))] as const);
    await this.insert({ element, model, children }, { fresh: branches, order });
  }

  /** Sets, adds or drops an attribute. A new one stands behind the nearest that comes before it in the order of the columns. */
  private async attribute(
    element: Element,
    name: string,
    value: NewValue | null,
    order: FieldsEdit["order"],
    splices: Splice[],
  ): Promise<void> {
    const known = element.attributes.find((one) => one.name === name);
    if (known !== undefined) {
      if (value !== null) splices.push(splice(known.value.start, known.value.end, this.quoted(value.text, '"')));
      else {
        const at = element.attributes.indexOf(known);
        splices.push(splice(at === 0 ? element.nameEnd : element.attributes[at - 1].end, known.end, ""));
      }
      return;
    }
    if (value === null) return;
    const rank = order.map((steps) => stepName(steps[0]));
    const before = rank
      .slice(0, rank.indexOf(`@${name}`))
      .reverse()
      .map((one) => element.attributes.find((kept) => `@${kept.name}` === one))
      .find((one) => one !== undefined);
    const at = before?.end ?? element.nameEnd;
    const { raw, declares } = this.names.written(name, element.scope, true, element.name);
    const { space, quote } = (await attributeStyle(this.source, element))(before?.name ?? name);
    splices.push(splice(at, at, `${declares}${space}${raw}=${this.quoted(value.text, quote)}`));
  }

  /** Puts something into an element that has no content. */
  private content(element: Element, written: string): Splice {
    const { start, end } = element.content;
    return splice(start, end, element.selfClosing ? `>${written}</${element.name}>` : written);
  }

  // ---- new elements

  /** Inserts child elements: each where its siblings have it; where these do not agree, in the order of the columns. */
  private async insert(
    { element, model, children }: Place,
    { fresh, order }: { readonly fresh: readonly (readonly [string, Branch])[]; readonly order: FieldsEdit["order"] },
  ): Promise<void> {
    if (fresh.length === 0) return;
    const rank = [...new Set(order.map((steps) => stepName(steps[0])))];
    const inColumns = fresh.map(([name]) => name).sort((a, b) => rank.indexOf(a) - rank.indexOf(b));
    const sorted = children?.sorted(inColumns) ?? inColumns;
    const gap = await this.gapIn(element, model);
    for (const name of sorted) {
      const branch = fresh.find(([one]) => one === name)![1];
      arrange(branch, children?.at(name) ?? null);
      const piece = await this.branch(name, branch, gap, await this.childOf(model, name), element);
      const before = rank
        .slice(0, rank.indexOf(name))
        .reverse()
        .map((one) => element.children.get(one)?.last)
        .find((one) => one !== undefined);
      const at = placeAmong(element, name, children) ?? before?.end ?? element.content.start;
      this.put({ element, children, gap }, at, name, [encode(gap), ...piece]);
    }
  }

  /** New children of an element: several edits may put some at one place, where they stand in the order that their kind has them in. */
  private put({ element, children, gap }: Inside, at: number, name: string, pieces: readonly Piece[]): void {
    const id = element.lastChild === null ? element.content.start : at;
    const known = this.inserted.get(id) ?? { element, children, gap, at: id, parts: [] };
    this.inserted.set(id, known);
    known.parts.push({ name, pieces });
  }
  private readonly inserted = new Map<number, Insertion>();

  private insertion({ element, children, gap, at, parts }: Insertion): Splice {
    const given = [...new Set(parts.map(({ name }) => name))];
    const names = children?.sorted(given) ?? given;
    const pieces = names.flatMap((name) => parts.filter((part) => part.name === name).flatMap((part) => part.pieces));
    if (element.lastChild !== null) return { start: at, end: at, pieces };
    const { start, end } = element.content;
    const outdent = gap === "" ? "" : outer(gap, this.unit ?? "  ");
    const close = element.selfClosing ? `</${element.name}>` : "";
    return { start, end, pieces: [encode(element.selfClosing ? ">" : ""), ...pieces, encode(outdent + close)] };
  }

  /** White space that stands before each child of an element. */
  private async gapIn(element: Element, model: Element | null): Promise<string> {
    if (element.firstChild !== null) return this.spaceBefore(element.firstChild.start);
    if (model?.firstChild !== undefined && model?.firstChild !== null) return this.spaceBefore(model.firstChild.start);
    const own = await this.spaceBefore(element.start);
    return own.includes("\n") ? own + (await this.indentUnit()) : "";
  }

  private async spaceBefore(at: number): Promise<string> {
    const text = await this.text(Math.max(0, at - 200), at);
    return lastLine(/\s*$/.exec(text)![0]);
  }

  /** One step of indentation: that of the root's first child. */
  private async indentUnit(): Promise<string> {
    if (this.unit === null) {
      const start = await rootStart(this.source, this.style.entities);
      const head = await this.text(start, start + (1 << 14));
      this.unit = /^<[^>]*>\s*?\n([ \t]*)</.exec(head)?.[1] ?? "  ";
    }
    return this.unit;
  }

  /** A whole new element, in the manner of `model` where there is one. `gap` is the white space before it. */
  private async branch(name: string, branch: Branch, gap: string, model: Element | null, around: Around): Promise<Piece[]> {
    const own = this.names.written(name, around.scope, false, model?.name ?? around.name);
    let { declares, scope } = own;
    const { raw } = own;
    const styleOf = await attributeStyle(this.source, model);
    const known = model?.attributes.map(({ name: one }) => one) ?? [];
    const place = (attribute: string): number => (known.includes(attribute) ? known.indexOf(attribute) : known.length);
    const attributes = [...branch.attributes]
      .sort(([one], [other]) => place(one) - place(other))
      .map(([attribute, text]) => {
        const one = this.names.written(attribute, scope, true, raw);
        declares += one.declares;
        ({ scope } = one);
        const { space, quote } = styleOf(attribute);
        return `${space}${one.raw}=${this.quoted(text, quote)}`;
      });
    const open = `<${raw}${declares}${attributes.join("")}`;
    if (branch.parts.length === 0) {
      const { text } = branch;
      if (text === null || text.text === "")
        return [
          encode(text === null || model?.selfClosing !== false ? `${open}${await closingOf(this.source, model)}` : `${open}></${raw}>`),
        ];
      return [
        encode(
          `${open}>${text.kind === Kind.Record ? text.text : (await isCdata(this.source, model)) ? this.cdata(text.text) : this.spelled(text.text)}</${raw}>`,
        ),
      ];
    }
    const modelGap = model?.firstChild === undefined || model?.firstChild === null ? null : await this.spaceBefore(model.firstChild.start);
    const inner = modelGap ?? (gap.includes("\n") ? gap + (await this.indentUnit()) : "");
    const pieces: Piece[] = [encode(`${open}>`)];
    for (const [partName, part] of branch.parts) {
      pieces.push(encode(inner));
      if ("moved" in part) pieces.push(movedPiece(part));
      else {
        pushAll(pieces, await this.branch(partName, part, inner, await this.childOf(model, partName), { scope, name: raw }));
      }
    }
    pieces.push(encode(`${inner.includes("\n") ? gap : ""}</${raw}>`));
    return pieces.every((piece) => piece instanceof Uint8Array) ? [concat(pieces)] : [{ group: pieces }];
  }

  // ---- records in a list

  private async add(edit: AddEdit, splices: Splice[]): Promise<void> {
    const { atTop } = edit;
    let element = await this.element(atTop ? await rootStart(this.source, this.style.entities) : edit.at);
    const steps = atTop ? edit.steps.slice(1) : edit.steps;
    if (steps.length === 0) throw new TablesError("add-nowhere", { path: formatPath({ steps: edit.steps, end: "value" }) });
    let depth = 0;
    for (; depth < steps.length - 1; depth++) {
      const children = element.children.get(stepName(steps[depth]));
      if (children === undefined) break;
      if (children.count > 1) throw new TablesError("add-nowhere", { path: formatPath({ steps: edit.path, end: "value" }) });
      element = await this.element(children.last.start, element.scope);
    }
    const model = edit.model === null ? null : await this.element(edit.model.start);
    const whole = edit.path.reduce<(ChildOrder | null)[]>(
      (line, step) => [...line, line.at(-1)?.at(stepName(step)) ?? null],
      [this.orders],
    );
    const records = edit.records.map((record): readonly [string, Branch | MovedRecord] => {
      const branch = "moved" in record ? record : recordBranch(record);
      if (!("moved" in branch)) arrange(branch, whole.at(-1) ?? null);
      return [recordName(steps, record), branch];
    });
    /** Of the children of the element that is `up` steps around the records. */
    const ordersAround = (up: number): ChildOrder | null => whole.at(-1 - up) ?? null;
    const missing = steps.slice(depth, -1).map(stepName);
    if (missing.length > 0) {
      const content = missing
        .slice(1)
        .reduceRight<Branch>((inner, name) => ({ ...emptyBranch(), parts: [[name, inner]] }), { ...emptyBranch(), parts: records });
      const gap = await this.gapIn(element, null);
      const piece = await this.branch(missing[0], content, gap, null, element);
      const children = ordersAround(missing.length + 1);
      const at = placeAmong(element, missing[0], children) ?? element.lastChild?.end ?? element.content.start;
      this.put({ element, children, gap }, at, missing[0], [encode(gap), ...piece]);
      return;
    }
    const name = stepName(steps[steps.length - 1]);
    const sibling = element.children.get(name)?.last ?? element.lastChild;
    const own = edit.model === null ? "\n" : await this.spaceBefore(edit.model.start);
    // where others of its kind stand on one line, it does, too
    const gap = sibling !== null ? await this.spaceBefore(sibling.start) : own.includes("\n") ? await this.gapIn(element, null) : own;
    const pieces: Piece[] = [];
    const before = edit.beside?.before === true;
    for (const [one, record] of records) {
      if (!before) pieces.push(encode(gap));
      if ("moved" in record) pieces.push(movedPiece(record));
      else pushAll(pieces, await this.branch(one, record, gap, model, element));
      if (before) pieces.push(encode(gap));
    }
    if (edit.beside !== undefined) {
      splices.push({ start: edit.beside.at, end: edit.beside.at, pieces });
      return;
    }
    if (sibling === null && gap.includes("\n")) await this.indentUnit();
    const children = ordersAround(1);
    const among = element.children.has(name) ? null : placeAmong(element, name, children);
    this.put({ element, children, gap }, among ?? sibling?.end ?? element.content.start, name, pieces);
  }

  /** Takes an element out, with the line it stands on when nothing else does. */
  private async cutElement({ start, end }: Span): Promise<Splice> {
    const before = await this.text(Math.max(0, start - 200), start);
    const space = lastLine(/\s*$/.exec(before)![0]);
    return splice(space.includes("\n") ? start - encode(space).length : start, end, "");
  }
}

/** Where a new child stands among those that are there: behind the last that is before it, or before all others; else nowhere. */
function placeAmong(element: Element, name: string, children: ChildOrder | null): number | null {
  if (children === null || element.lastChild === null) return null;
  const known = [...element.children.values()];
  const before = known.filter(({ last }) => children.isBefore(last.name, name)).map(({ last }) => last.end);
  if (before.length > 0) return largest(before);
  const behind = known.filter(({ first }) => children.isBefore(name, first.name)).map(({ first }) => first.start);
  if (behind.length === 0) return null;
  // behind the child before the first of them, or at the beginning
  const ends = known.filter(({ last }) => last.end <= smallest(behind)).map(({ last }) => last.end);
  return ends.length > 0 ? largest(ends) : element.content.start;
}

/** Where the elements begin that an edit reads. */
function startsOf(edit: Edit): number[] {
  if (edit.kind !== "fields" && edit.kind !== "add") return [];
  return [...(edit.kind === "fields" ? [edit.start] : edit.atTop ? [] : [edit.at]), ...(edit.model === null ? [] : [edit.model.start])];
}

/** From the last line end on, the line end included; all of it when there is none. */
function lastLine(space: string): string {
  const at = space.lastIndexOf("\n");
  return at < 0 ? space : space.slice(at > 0 && space[at - 1] === "\r" ? at - 1 : at);
}

/** The white space one step further out. */
function outer(gap: string, unit: string): string {
  if (!gap.includes("\n")) return "";
  return gap.endsWith(unit) ? gap.slice(0, gap.length - unit.length) : gap.replace(/[ \t]+$/, "");
}

function splice(start: number, end: number, text: string): Splice {
  return { start, end, pieces: text === "" ? [] : [encode(text)] };
}

function deeper<T extends Pick<FieldsEdit, "add" | "drop" | "order">>(edit: T): Pick<FieldsEdit, "add" | "drop" | "order"> {
  const long = (steps: readonly Step[]): boolean => steps.length > 1;
  return {
    add: edit.add.filter((one) => long(one.steps)).map(shorter),
    drop: edit.drop.filter(long).map((steps) => steps.slice(1)),
    order: edit.order.filter(long).map((steps) => steps.slice(1)),
  };
}
