/**
 * References: a code in one table that stands for a record of another. The record must be there, also
 * after all other edits; where its label stands beside the code, both change together.
 */
import type { Fault } from "../errors/words.js";
import type { ProblemPlace } from "../model/findings.js";
import type { ColumnPlan } from "../model/plan.js";
import type { ColumnFault } from "../model/problem-list.js";
import { pushTo } from "../model/push-to.js";
import { contentValues } from "../rows/values.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import { keyHash, type Sheet } from "../rows/sheet.js";
import { titleOf, type Reference, type CompiledTable } from "../plan/compile.js";
import type { CellPlace } from "../rows/cell-value.js";
import { NearestWords } from "../errors/nearest.js";
import { Kind } from "../model/kind.js";
import type { NewValue } from "../edits/edit.js";
import { Action } from "../rows/sheet-index.js";
import { compileExpression, firstLine, type Expression } from "../plan/expression.js";
import type { Assembler, Row } from "../records/assemble.js";
import type { Context } from "../rows/context.js";
import { inPart } from "../cells/in-part.js";
import { meantCodes, MeantNotes } from "./meant.js";
import { copyNews, copyRows, type Draft, type Gone } from "../rows/draft.js";
import { NOTHING } from "../cells/spelling.js";

/** A record that can be referred to, as it will be after the fold. */
interface Target {
  readonly key: string;
  readonly label: string | null;
  readonly values: Record<string, unknown>;
}

interface Targets {
  readonly byKey: Map<string, Target>;
  readonly byLabel: Map<string, Target[]>;
}

/** A row with a code or a label that somebody wrote. */
interface Use {
  readonly reference: Reference;
  readonly sheet: Sheet;
  readonly row: number;
  readonly file: number;
  /** Key of the row's own record. */
  readonly key: string;
  /** What the sheet says now, and whether that is an edit. */
  code: string;
  readonly label: string;
  readonly codeEdited: boolean;
  readonly labelEdited: boolean;
  set(slot: number, content: string): void;
}

/** Follows references: labels become codes, copies of labels follow, and no code is left without its record. */
export async function resolveReferences(draft: Draft, ctx: Context): Promise<Draft> {
  const references = ctx.compiled.tables.flatMap((table) => table.references);
  const following = new References(copyRows(draft.rows), copyNews(draft.news), draft.gone, ctx);
  await following.resolve(references);
  const { differing: rows, news } = following;
  for (const row of rows.slice(draft.rows.length)) {
    row.pointer = await ctx.pointers.of(row.snapshot.trail);
    row.source = ctx.pointers.source(row.snapshot.file);
  }
  return { ...draft, rows, news, references: following.faults, unchanged: draft.unchanged - (rows.length - draft.rows.length) };
}

class References {
  private readonly records = new Map<CompiledTable, { place: number; contents: string[]; kinds: Uint8Array }[]>();
  private readonly targets = new Map<CompiledTable, Targets>();
  private readonly named = new Map<string, NewRow>();
  private readonly differingAt = new Map<string, DifferingRow>();
  readonly faults: ColumnFault[] = [];

  constructor(
    readonly differing: DifferingRow[],
    readonly news: readonly NewRow[],
    private readonly gone: Gone,
    private readonly ctx: Context,
  ) {}

  async resolve(references: readonly Reference[]): Promise<void> {
    for (const { only } of references) if (only !== undefined) this.compiled.set(only, await compileExpression(only));
    for (const row of this.news) if (row.name !== "") this.named.set(`${row.table.index} ${row.name}`, row);
    for (const row of this.differing) this.differingAt.set(placeOf(row.snapshot), row);
    const uses = references.flatMap((reference) => [...this.uses(reference)]);
    const relabelled = references.filter((reference) => reference.copied && this.relabelled(reference).size > 0);
    if (uses.length + relabelled.length > 0) await this.read(uses, relabelled);
    await this.healCodes(uses);
    for (const use of uses) await this.settle(use);
  }

  // ---- what was written

  private *uses(reference: Reference): Iterable<Use> {
    const { table, slot } = reference;
    const labelSlot = reference.labelSlot >= 0 ? reference.labelSlot : reference.shownSlot;
    for (const row of this.differing) {
      const { snapshot, sheet } = row;
      if (snapshot.table !== table || row.removed) continue;
      const edited = (one: number): { readonly content: string } | undefined => {
        const label = row.labels?.get(one);
        return label === undefined ? row.cells.find((cell) => cell.slot === one) : { content: label };
      };
      if (edited(slot) === undefined && (labelSlot < 0 || edited(labelSlot) === undefined)) continue;
      const now = (one: number): string => (one < 0 ? "" : (edited(one)?.content ?? snapshot.content(one)));
      yield {
        reference,
        sheet,
        row: row.row,
        file: snapshot.file,
        key: now(table.keySlot),
        code: now(slot),
        label: now(labelSlot),
        // a row that was matched by its code says that code
        codeEdited: edited(slot) !== undefined || sheet.matchedBy(snapshot.place, slot) === "cell",
        labelEdited: labelSlot >= 0 && edited(labelSlot) !== undefined,
        set: (one, content) => this.setCell(row, one, content),
      };
    }
    for (const row of this.news) {
      if (row.table !== table) continue;
      const now = (one: number): string => (one < 0 ? "" : (row.contents[one] ?? ""));
      if (NOTHING.has(now(slot)) && NOTHING.has(now(labelSlot))) continue;
      yield {
        reference,
        sheet: row.sheet,
        row: row.row,
        file: table.source.first,
        key: now(table.keySlot),
        code: now(slot),
        label: now(labelSlot),
        codeEdited: !NOTHING.has(now(slot)),
        labelEdited: !NOTHING.has(now(labelSlot)),
        set: (one, content) => {
          (row.contents as string[])[one] = content;
          (row.values as (NewValue | null)[])[one] = this.valueOf(row, { table, slot: one, file: 0, was: Kind.Absent }, content);
        },
      };
    }
  }

  private setCell(row: DifferingRow, slot: number, content: string): void {
    const { snapshot, cells } = row;
    const at = cells.findIndex((cell) => cell.slot === slot);
    if (at >= 0) cells.splice(at, 1);
    if (content === snapshot.content(slot)) return;
    const value = this.valueOf(row, { table: snapshot.table, slot, file: snapshot.file, was: snapshot.kinds[slot] as Kind }, content);
    if (value !== null) cells.push({ slot, content, value });
  }

  private valueOf({ sheet, row }: DifferingRow | NewRow, place: CellPlace, content: string): NewValue | null {
    const value = this.ctx.typer.read(content, place, sheet.place(row, place.table.plan.columns[place.slot].title, content));
    return value?.kind === Kind.Absent && place.was === Kind.Absent ? null : value;
  }

  /** Records whose label changes, by key: the new label. */
  private relabelled({ target, targetLabelSlot }: Reference): Map<string, string> {
    const changed = new Map<string, string>();
    for (const row of this.differing) {
      if (row.snapshot.table !== target || row.removed) continue;
      const label = row.cells.find((cell) => cell.slot === targetLabelSlot);
      if (label !== undefined) changed.set(row.snapshot.content(target.keySlot), label.content);
    }
    return changed;
  }

  // ---- what there is

  /** One pass: records that are referred to by code or by label, and rows that hold copies of a label that changes. */
  private async read(uses: readonly Use[], relabelled: readonly Reference[]): Promise<void> {
    const wanted = new Map<CompiledTable, { codes: Set<number>; labels: Set<number>; labelSlot: number }>();
    for (const { reference, code, label } of uses) {
      const { target, targetLabelSlot } = reference;
      const one = wanted.get(target) ?? { codes: new Set(), labels: new Set(), labelSlot: targetLabelSlot };
      wanted.set(target, one);
      one.codes.add(keyHash(code));
      // a label in the place of a code is a slip that can be named
      one.labels.add(keyHash(code));
      if (label !== "") one.labels.add(keyHash(label));
    }
    const copies = relabelled.map((reference) => ({
      reference,
      labels: this.relabelled(reference),
      hashes: new Set([...this.relabelled(reference).keys()].map(keyHash)),
    }));
    await this.ctx.records.rows((row, assembler) => {
      const { table } = row;
      const want = wanted.get(table);
      if (want !== undefined) {
        const found =
          want.codes.has(keyHash(assembler.text(row, table.keySlot))) ||
          (want.labelSlot >= 0 && want.labels.size > 0 && want.labels.has(keyHash(assembler.text(row, want.labelSlot))));
        if (found && !this.hasRead(row)) {
          const contents = table.plan.columns.map((_, slot) => assembler.text(row, slot));
          const list = this.records.get(table) ?? [];
          list.push({ place: row.place, contents, kinds: row.kinds.slice() });
          this.records.set(table, list);
        }
      }
      for (const { reference, labels, hashes } of copies) {
        if (reference.table !== table) continue;
        const code = assembler.text(row, reference.slot);
        if (!hashes.has(keyHash(code)) || !labels.has(code)) continue;
        this.copyLabel(reference, row, labels.get(code)!, assembler);
      }
    });
  }

  private hasRead(row: Row): boolean {
    const id = placeOf(row);
    const has = this.readPlaces.has(id);
    this.readPlaces.add(id);
    return has;
  }
  private readonly readPlaces = new Set<string>();

  /** A copy of a label follows it, unless somebody wrote something else there. */
  private copyLabel({ table, slot, labelSlot }: Reference, row: Row, label: string, assembler: Assembler): void {
    const sheet = this.ctx.sheets[table.index];
    const known = this.differingAt.get(placeOf(row));
    if (known !== undefined) {
      const mine = known.cells.some((cell) => cell.slot === slot || cell.slot === labelSlot);
      if (!mine && !known.removed) this.setCell(known, labelSlot, label);
      return;
    }
    if (sheet === null) return;
    const sheetRow = sheet.rowOf(row.place);
    const snapshot = this.ctx.base.snapshot(row, sheetRow, Action.None, assembler);
    const made: DifferingRow = {
      snapshot,
      sheet,
      row: sheetRow,
      cells: [],
      parent: null,
      removed: false,
      pointer: "",
      source: {},
    };
    this.setCell(made, labelSlot, label);
    if (made.cells.length === 0) return;
    this.differing.push(made);
    this.differingAt.set(placeOf(snapshot), made);
  }

  /** Records of the source and new ones, as they will be. */
  private targetsOf({ target, targetLabelSlot }: Reference): Targets {
    const known = this.targets.get(target);
    if (known !== undefined) return known;
    const { keySlot } = target;
    const made: Targets = { byKey: new Map(), byLabel: new Map() };
    const edits = new Map(this.differing.filter(({ snapshot }) => snapshot.table === target).map((row) => [row.snapshot.place, row]));
    const put = (contents: readonly (string | null)[], values: Record<string, unknown>): void => {
      const label = targetLabelSlot < 0 ? null : (contents[targetLabelSlot] ?? "");
      const one = { key: contents[keySlot] ?? "", label, values };
      if (!made.byKey.has(one.key)) made.byKey.set(one.key, one);
      if (label !== null) pushTo(made.byLabel, label, one);
    };
    for (const { place, contents, kinds } of this.records.get(target) ?? []) {
      const edit = edits.get(place);
      if (this.gone.get(target)?.has(place) === true) continue;
      const now = contents.map((content, slot) => edit?.cells.find((cell) => cell.slot === slot)?.content ?? content);
      put(now, contentValues(target, contents, kinds, edit?.cells ?? []));
    }
    const seen = new Set((this.records.get(target) ?? []).map(({ place }) => place));
    for (const row of edits.values()) {
      if (seen.has(row.snapshot.place) || this.gone.get(target)?.has(row.snapshot.place) === true) continue;
      const { contents, kinds } = row.snapshot;
      put(
        contents.map((content, slot) => row.cells.find((cell) => cell.slot === slot)?.content ?? content),
        contentValues(target, contents, kinds, row.cells),
      );
    }
    for (const row of this.news) {
      if (row.table !== target) continue;
      const cells = row.values.flatMap((value, slot) => (value === null ? [] : [{ slot, content: row.contents[slot] ?? "", value }]));
      put(
        row.contents,
        contentValues(
          target,
          row.contents.map((content) => content ?? ""),
          new Uint8Array(row.contents.length),
          cells,
        ),
      );
    }
    this.targets.set(target, made);
    return made;
  }

  /** Codes of no record that are those of one, damaged. */
  private async healCodes(uses: readonly Use[]): Promise<void> {
    const unknown = new Map<CompiledTable, Use[]>();
    for (const use of uses) {
      const { target } = use.reference;
      const code = this.codeOf(use.code, target);
      const { byKey, byLabel } = this.targetsOf(use.reference);
      if (use.codeEdited && !NOTHING.has(code) && !byKey.has(code) && !byLabel.has(code.trim())) pushTo(unknown, target, use);
    }
    const notes = new MeantNotes(this.ctx);
    const healed: Use[] = [];
    await this.findInPart(unknown, healed);
    for (const [target, asking] of unknown) {
      const meant = await meantCodes(
        target,
        asking.map(({ code }) => code),
        this.ctx,
      );
      for (const use of asking) {
        const code = meant.get(use.code);
        if (code === undefined) continue;
        const { reference, sheet, row } = use;
        notes.add(sheet, row, reference.table.plan.columns[reference.slot].title, use.code, code);
        use.set(reference.slot, (use.code = code));
        healed.push(use);
      }
    }
    notes.tell();
    if (healed.length === 0) return;
    await this.read(healed, []);
    this.targets.clear();
  }

  /** Codes that are a beginning or a part of one, or of a label, where the plan allows that. */
  private async findInPart(unknown: Map<CompiledTable, Use[]>, healed: Use[]): Promise<void> {
    for (const [target, uses] of unknown) {
      const asking = uses.filter(({ reference: { table, slot } }) => table.plan.columns[slot].inPart === true);
      if (asking.length === 0) continue;
      const { records, typer } = this.ctx;
      const slots = [target.keySlot, ...asking.map(({ reference }) => reference.targetLabelSlot)].filter((slot) => slot >= 0);
      const words = new Set<string>();
      for (const slot of new Set(slots)) {
        for (const word of (await records.words(target, slot)).all ?? []) words.add(word);
        for (const row of this.news) if (row.table === target) words.add(row.contents[slot] ?? "");
      }
      const fitting = new Map(asking.map((use) => [use, inPart(use.code, words)]));
      const keys = await this.keysOf(target, slots, new Set([...fitting.values()].flatMap((found) => (found.length === 1 ? found : []))));
      for (const [use, fits] of fitting) {
        const { reference, sheet, row } = use;
        const { title } = reference.table.plan.columns[reference.slot];
        const found = fits.length === 1 ? (keys.get(fits[0]) ?? []) : fits;
        if (found.length > 1) this.wrong({ code: "choice-several", facts: { title, found } }, sheet.place(row, title, use.code));
        if (found.length === 1) {
          typer.changed.lookedUp.add(reference.table, title, use.code, found[0]);
          use.set(reference.slot, (use.code = found[0]));
          healed.push(use);
        }
        if (found.length > 0) uses.splice(uses.indexOf(use), 1);
        if (found.length > 1) this.several.add(use);
      }
    }
  }
  private readonly several = new Set<Use>();

  /** The keys of records that have these words for their keys or labels. */
  private async keysOf(
    target: CompiledTable,
    slots: readonly number[],
    words: ReadonlySet<string>,
  ): Promise<ReadonlyMap<string, string[]>> {
    const keys = new Map<string, string[]>();
    const put = (word: string, key: string): void => {
      if (words.has(word) && keys.get(word)?.includes(key) !== true) pushTo(keys, word, key);
    };
    if (words.size === 0) return keys;
    await this.ctx.records.cells((row, assembler) => {
      if (row.table === target) for (const slot of slots) put(assembler.text(row, slot), assembler.text(row, target.keySlot));
    });
    for (const row of this.news)
      if (row.table === target) for (const slot of slots) put(row.contents[slot] ?? "", row.contents[target.keySlot] ?? "");
    return keys;
  }

  // ---- what follows

  private async settle(use: Use): Promise<void> {
    if (this.several.has(use)) return;
    const { reference, sheet, row, codeEdited, labelEdited } = use;
    const { table, slot, labelSlot, shownSlot, target } = reference;
    const column = table.plan.columns[slot];
    const { title, readOnly } = column;
    const code = this.codeOf(use.code, target);
    if (code !== use.code) use.set(slot, code);
    const byCode = sheet.place(row, title, use.code);
    const shown = labelSlot >= 0 ? labelSlot : shownSlot;
    const byLabel = shown < 0 ? byCode : sheet.place(row, titleOf(table.plan, shown), use.label);
    const targets = this.targetsOf(reference);
    if (labelEdited && !codeEdited) {
      if (NOTHING.has(use.label)) {
        if (!NOTHING.has(code)) this.wrong({ code: "label-cleared", facts: { title, code } }, byLabel);
        return;
      }
      const found = targets.byLabel.get(use.label) ?? [];
      const keys = found.map((one) => one.key);
      const called = { table: target.plan.name, label: use.label };
      if (found.length === 0) this.wrong({ code: "label-unknown", facts: { ...called, nearest: await this.nearLabel(use) } }, byLabel);
      else if (found.length > 1) this.wrong({ code: "label-many", facts: { ...called, keys, title } }, byLabel);
      else if (readOnly && keys[0] !== code) this.wrong({ code: "read-only", facts: { title, was: code } }, byLabel);
      else if (this.allowed(use, found[0])) use.set(slot, keys[0]);
      return;
    }
    if (NOTHING.has(code)) {
      if (shown >= 0 && !NOTHING.has(use.label)) {
        if (labelEdited) this.wrong({ code: "label-alone", facts: { title, label: use.label } }, byCode);
        else if (labelSlot >= 0) use.set(labelSlot, "");
      }
      return;
    }
    const found = targets.byKey.get(code);
    if (found === undefined) {
      const named = targets.byLabel.get(code.trim()) ?? [];
      if (sheet.refersByLabel && named.length === 1) {
        if (this.allowed(use, named[0])) use.set(slot, named[0].key);
        return;
      }
      const near = named.length === 1 ? named[0].key : await this.nearKey(target, targets, code);
      const facts = { table: target.plan.name, key: target.plan.key ?? "", code, nearest: near };
      this.wrong({ code: "ref-unknown", facts }, byCode, column);
      return;
    }
    if (!this.allowed(use, found) || shown < 0 || found.label === null) return;
    if (!labelEdited) {
      if (labelSlot >= 0) use.set(labelSlot, found.label);
    } else if (use.label !== found.label)
      this.wrong({ code: "label-other", facts: { code, label: use.label, right: found.label } }, byLabel);
  }

  /** `+x` stands for the new row that calls itself so. */
  private codeOf(code: string, target: CompiledTable): string {
    return this.named.get(`${target.index} ${code}`)?.contents[target.keySlot] ?? code;
  }

  private readonly compiled = new Map<string, Expression>();

  private allowed({ reference, sheet, row, code }: Use, target: Target): boolean {
    const { only, table, slot } = reference;
    if (only === undefined) return true;
    const column = table.plan.columns[slot];
    let reason: string | null = null;
    try {
      if (this.compiled.get(only)!({ ...target.values, row: target.values }) === true) return true;
    } catch (error) {
      reason = firstLine(error);
    }
    const facts = { table: reference.target.plan.name, key: target.key, only, reason };
    this.wrong({ code: "ref-not-allowed", facts }, sheet.place(row, column.title, code), column);
    return !this.ctx.findings.stops(column);
  }

  private wrong(fault: Fault, place: ProblemPlace, column: Pick<ColumnPlan, "warns"> = {}): void {
    this.faults.push({ fault, column, place });
  }

  private async nearLabel({ reference: { target, targetLabelSlot }, label }: Use): Promise<string | null> {
    return (await this.ctx.records.words(target, targetLabelSlot)).to(label);
  }

  /** Among the keys of the source and of new rows. */
  private async nearKey(target: CompiledTable, { byKey }: Targets, code: string): Promise<string | null> {
    const fresh = this.freshWords.get(target) ?? new NearestWords([...byKey.keys()]);
    this.freshWords.set(target, fresh);
    const [one, other] = [(await this.ctx.records.words(target, target.keySlot)).find(code), fresh.find(code)];
    return (one === null || (other !== null && other.apart < one.apart) ? other : one)?.word ?? null;
  }
  private readonly freshWords = new Map<CompiledTable, NearestWords>();
}

function placeOf({ table, place }: Pick<Row, "table" | "place">): string {
  return `${table.index} ${place}`;
}
