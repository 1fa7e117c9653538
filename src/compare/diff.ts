/** Rows that have a mark and differ: cell by cell, what changed, what was damaged, what is not allowed. */
import { Kind } from "../model/kind.js";
import type { Edit, NewValue, Span } from "../edits/edit.js";
import { standInsOf } from "../layouts/empty-stand-ins.js";
import { editLists } from "./lists.js";
import { placeIn } from "./places.js";
import { type CellEdit, type DifferingRow, isUnchanged } from "../rows/row-edits.js";
import { stepsTo, titleOf, type InlineColumn, type CompiledTable } from "../plan/compile.js";
import { canOrder, type ColumnPlan, type InlineColumnPlan } from "../model/plan.js";
import { startsWith, type Step } from "../model/path.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { Change, Healed } from "../model/findings.js";
import type { ProblemList } from "../model/problem-list.js";
import { damage, damageOf } from "../cells/heal.js";
import { Evidence } from "./evidence.js";
import { isNothing, spellCell } from "../cells/spelling.js";
import type { Pointers } from "../rows/pointers.js";
import { stepsPointer } from "../model/pointer.js";
import { Column } from "../rows/columns.js";
import type { Cells, Sheet } from "../rows/sheet.js";
import type { Snapshot } from "../rows/snapshot.js";
import { Action } from "../rows/sheet-index.js";
import { cellPointer, columnOrder, recordName } from "../rows/names.js";

/** Rows whose cells are read in one go. */
const BATCH = 512;

/** The rows that differ from their records, cell by cell; what a spreadsheet damaged is healed. */
export async function diffRows(draft: Draft, ctx: Context): Promise<Draft> {
  const differ = new RowDiffer(ctx);
  const rows = await differ.run();
  return { ...draft, rows, healed: differ.healed, unchanged: ctx.base.unchanged + differ.unchanged };
}

/** A row of a sheet, the record that it stands for, and where that is. */
interface RowAt {
  readonly snapshot: Snapshot;
  readonly sheet: Sheet;
  readonly row: number;
  readonly pointer: string;
}

class RowDiffer {
  readonly healed: Healed[] = [];
  unchanged = 0;
  /** How many blank cells say nothing, by table and slot, where the source has something. */
  private readonly kept = new Map<CompiledTable, Map<number, number>>();
  private readonly problems: ProblemList;
  private readonly pointers: Pointers;
  private readonly evidence: Evidence;

  constructor(private readonly ctx: Context) {
    this.evidence = new Evidence(ctx);
    this.problems = ctx.findings;
    this.pointers = ctx.pointers;
  }

  async run(): Promise<DifferingRow[]> {
    const rows: DifferingRow[] = [];
    // first all cells say what happened to their sheets, then each is judged
    for await (const [batch, cells] of this.batches())
      for (const snapshot of batch)
        if (snapshot.action !== Action.Remove)
          this.evidence.add(snapshot, this.ctx.sheets[snapshot.table.index]!, cells.get(snapshot) ?? []);
    await this.evidence.settle();
    for (const sheet of this.ctx.sheets) if (sheet !== null) this.ctx.typer.habitsOf.set(sheet.table, this.evidence.habitsOf(sheet));
    for await (const [batch, cells] of this.batches()) {
      for (const snapshot of batch) {
        const pointer = this.pointers.of(snapshot.trail);
        const at = typeof pointer === "string" ? pointer : await pointer;
        const row = this.differ(snapshot, this.ctx.sheets[snapshot.table.index]!, cells.get(snapshot) ?? [], at);
        if (row === null) continue;
        if (isUnchanged(row)) this.unchanged++;
        else rows.push(row);
      }
    }
    for (const [{ table }, columns] of this.doubtful)
      for (const [title, facts] of columns) this.problems.note("cells-doubtful", { title, ...facts }, table.plan.name);
    for (const [{ plan }, slots] of this.kept)
      for (const [slot, count] of slots) this.problems.note("blank-kept", { title: titleOf(plan, slot), count }, plan.name);
    return rows;
  }

  private async *batches(): AsyncIterable<[readonly Snapshot[], Map<Snapshot, Cells>]> {
    const { snapshots } = this.ctx.base;
    for (let from = 0; from < snapshots.length; from += BATCH) {
      const batch = snapshots.slice(from, from + BATCH);
      yield [batch, await this.cellsOf(batch)];
    }
  }

  private async cellsOf(snapshots: readonly Snapshot[]): Promise<Map<Snapshot, Cells>> {
    const cells = new Map<Snapshot, Cells>();
    for (const sheet of this.ctx.sheets) {
      const mine = snapshots.filter(({ table, action }) => table === sheet?.table && action !== Action.Remove);
      const found = mine.length === 0 ? [] : await sheet!.cellsOf(mine.map(({ place }) => place));
      for (const [i, snapshot] of mine.entries()) cells.set(snapshot, found[i]);
    }
    return cells;
  }

  private differ(snapshot: Snapshot, sheet: Sheet, found: Cells, pointer: string): DifferingRow | null {
    const { sheetRow: row } = snapshot;
    const source = this.pointers.source(snapshot.file);
    if (snapshot.action === Action.Remove) {
      return { snapshot, sheet, row, cells: [], parent: null, removed: true, pointer, source };
    }
    if (found.length < sheet.columns.length && !this.blankBeyond(snapshot, sheet, found.length)) {
      this.problems.add("row-short", { cells: found.length, titles: sheet.columns.length }, sheet.place(row));
      return null;
    }
    if (this.isCleared(snapshot, sheet, found)) {
      this.problems.add("row-cleared", {}, sheet.place(row));
      return null;
    }
    const slots = snapshot.table.plan.columns.length;
    const cells: CellEdit[] = [];
    let lists: Map<number, string> | undefined;
    let labels: Map<number, string> | undefined;
    let parent: string | null = null;
    let toPlace: number | undefined;
    for (let c = 0; c < sheet.columns.length; c++) {
      const column = sheet.columns[c];
      const content = found[c] ?? "";
      if (c < found.length && found[c] === undefined) continue; // it says nothing
      if (column === Column.Parent) {
        const text = content.trim();
        if (sheet.isAtTop(row) !== snapshot.atTop) parent = text;
        else if (content !== snapshot.parentIdent && text !== snapshot.parentIdent) {
          const isMeant = !this.healable(sheet, snapshot.table.holder!) || this.evidence.isParent(sheet, content);
          const why = isMeant ? null : damage(snapshot.parentIdent, content);
          if (why === null) parent = text;
          else this.heal(sheet, { row, column: snapshot.table.holder!, found: content, restored: snapshot.parentIdent, why });
        }
      } else if (column < 0 || snapshot.says(column, content)) continue;
      else if (content === "" && this.saysNothing(snapshot, sheet, column)) continue;
      else if (column >= slots) {
        const title = titleOf(snapshot.table.plan, column);
        const inline = snapshot.table.inline[column - slots];
        const was = snapshot.content(column);
        const why = this.healable(sheet, title) ? this.evidence.damage(sheet, column, was, content) : null;
        if (why !== null) this.heal(sheet, { row, column: title, found: content, restored: was, why });
        else if (inline.links !== null) {
          this.problems.add("links-elsewhere", { title, links: inline.table.plan.name, was }, sheet.place(row, title, content));
        } else if (inline.column.lookup !== undefined) (labels ??= new Map<number, string>()).set(column, content);
        else if (this.editable(snapshot, sheet, row, column, content)) (lists ??= new Map<number, string>()).set(column, content);
      } else if (isPlaceIn(snapshot.table, column)) {
        toPlace = this.place({ snapshot, sheet, row, pointer }, column, content) ?? toPlace;
      } else {
        const edit = this.cell({ snapshot, sheet, row, pointer }, column, content);
        if (edit !== null) cells.push(edit);
      }
    }
    const placing = sheet.placingOf(row) ?? undefined;
    const atTop = sheet.isAtTop(row);
    const made: DifferingRow = { snapshot, sheet, row, cells, parent, atTop, placing, toPlace, removed: false, pointer, source };
    if (labels !== undefined) made.labels = labels;
    if (lists !== undefined) {
      const context = {
        sheet,
        row,
        file: snapshot.file,
        problems: this.problems,
        typer: this.ctx.typer,
        repeats: snapshot.table.source.dialect.repeats,
      };
      const edits = editLists(snapshot, lists, context);
      const { differing, news, standIns } = edits;
      if (differing.length + news.length + standIns.length > 0)
        made.lists = { ...edits, cells: [...lists].map(([slot, content]) => ({ slot, content })) };
    }
    return made;
  }

  /** Is nothing left of a row but its mark, not even what the record is called by or what it is in? */
  private isCleared(snapshot: Snapshot, sheet: Sheet, found: Cells): boolean {
    let own = 0;
    for (let c = 0; c < sheet.columns.length; c++) {
      if (sheet.columns[c] < 0 && sheet.columns[c] !== Column.Parent) continue;
      const cell = found[c];
      if (cell === undefined || cell.trim() !== "") return false;
      own++;
    }
    if (own < 2) return false;
    const { keySlot, plan } = snapshot.table;
    const isNamed = keySlot >= 0 && sheet.columns.includes(keySlot) && plan.columns[keySlot].blank !== "keep";
    return (isNamed && snapshot.content(keySlot) !== "") || (sheet.columns.includes(Column.Parent) && snapshot.parentIdent !== "");
  }

  /** Is a blank cell no edit: as the plan says, or as the row was matched by the label or the code beside it? */
  private saysNothing({ table, place }: Snapshot, sheet: Sheet, slot: number): boolean {
    const { columns } = table.plan;
    const { blank } = slot < columns.length ? columns[slot] : fieldOf(table.inline[slot - columns.length]);
    if (blank !== "keep") {
      const beside = table.references.find(({ labelSlot, shownSlot }) => labelSlot === slot || shownSlot === slot);
      const matched = beside === undefined ? "label" : "cell";
      return sheet.matchedBy(place, beside?.slot ?? slot) === matched;
    }
    const kept = this.kept.get(table) ?? new Map<number, number>();
    this.kept.set(table, kept.set(slot, (kept.get(slot) ?? 0) + 1));
    return true;
  }

  /** An edit that looks like damage is pointed out. */
  private noteDoubtful({ sheet, row }: RowAt, title: string, was: string, found: string): void {
    const columns = this.doubtful.get(sheet) ?? new Map<string, { count: number; row: number; was: string; found: string }>();
    this.doubtful.set(sheet, columns);
    const known = columns.get(title);
    if (known === undefined) columns.set(title, { count: 1, row: sheet.seenRow(row), was, found });
    else known.count++;
  }
  private readonly doubtful = new Map<Sheet, Map<string, { count: number; row: number; was: string; found: string }>>();

  private editable(snapshot: Snapshot, sheet: Sheet, row: number, slot: number, content: string): boolean {
    const inline = snapshot.table.inline[slot - snapshot.kinds.length];
    const { column } = inline;
    if (!fieldOf(inline).readOnly) return true;
    this.problems.add("read-only", { title: column.title, was: snapshot.content(slot) }, sheet.place(row, column.title, content));
    return false;
  }

  /** The place in the list that a cell says; nothing where it is healed, or cannot be one. */
  private place({ snapshot, sheet, row }: RowAt, slot: number, content: string): number | undefined {
    const { title, readOnly } = snapshot.table.plan.columns[slot];
    const was = snapshot.content(slot);
    const why = this.healable(sheet, title) ? damage(was, content) : null;
    const to = placeIn(content);
    const where = sheet.place(row, title, content);
    if (why !== null) this.heal(sheet, { row, column: title, found: content, restored: was, why });
    else if (readOnly) this.problems.add("read-only", { title, was }, where);
    else if (!canOrder(snapshot.table.plan) || snapshot.table.plan.order !== undefined) this.problems.add("place-edited", { was }, where);
    else if (to === undefined) this.problems.add("place-unread", { was }, where);
    else return to;
    return undefined;
  }

  private cell({ snapshot, sheet, row, pointer }: RowAt, slot: number, written: string): CellEdit | null {
    const column = snapshot.table.plan.columns[slot];
    const before = snapshot.content(slot);
    const content = this.ctx.typer.cleaned(written, snapshot.table, slot);
    if (content === before) return null;
    const kind = snapshot.kinds[slot] as Kind;
    const why = this.healable(sheet, column.title) ? this.evidence.damage(sheet, slot, before, content) : null;
    if (why !== null) {
      this.heal(sheet, { row, column: column.title, found: content, restored: before, why });
      return null;
    }
    const made = damageOf(before, content);
    if (made !== null && made.hits !== null && made.isSheetWide !== true && this.healable(sheet, column.title))
      this.noteDoubtful({ snapshot, sheet, row, pointer }, column.title, before, content);
    const place = sheet.place(row, column.title, content);
    if (column.readOnly) {
      this.problems.add("read-only", { title: column.title, was: before }, place);
      return null;
    }
    const { table, file } = snapshot;
    // where nothing but an empty text stood, the column's type says what is written
    const was = kind === Kind.Text && isNothing(before) && column.type !== "any" ? Kind.Absent : kind;
    const at = { ...place, path: pointer + cellPointer(column) };
    const value = this.ctx.typer.read(content, { table, slot, file, was, spot: kind === Kind.Absent ? "add" : "set" }, at);
    if (value === null) return null;
    const same = value.kind === kind && (kind === Kind.Absent || kind === Kind.Null || kind >= Kind.EmptyList);
    // what a record has parts for is gone with them, when the cell says so
    const goes = content === "(absent)" && kind === Kind.Absent && standInsOf(table)[slot].parts.length > 0;
    if (same && !goes) return null;
    const { dialect } = table.source;
    if (kind === Kind.Text && value.kind === Kind.Text && dialect.writesAlike?.(before, value.text, stepsTo(table.plan, column)) === true)
      return null;
    const blocked = this.blocked(snapshot, slot, value);
    if (blocked !== null) {
      this.problems.add(blocked, { title: column.title }, place);
      return null;
    }
    // a part of a word stands for the whole
    const isPart = column.inPart === true && column.choices !== undefined;
    // what was a part of the source and is a text now is shown as such
    const isReadAnew = value.kind === Kind.Text && (dialect.readsAs !== undefined || kind === Kind.Record);
    return { slot, content: isPart || isReadAnew ? spellCell(value.kind, value.text, column) : content, value };
  }

  /** Cells that stand for the record itself, or for its name, cannot be emptied, nor filled over a record with fields. */
  private blocked(
    snapshot: Snapshot,
    slot: number,
    value: NewValue,
  ): "cell-emptied" | "name-empty" | "rest-filled" | "rest-list" | "rest-keyed" | "row-no-record" | null {
    const column = snapshot.table.plan.columns[slot];
    if (column.at.end === "key") return value.kind === Kind.Text ? null : "name-empty";
    if (column.at.steps.length === 0) {
      if (value.kind === Kind.Absent) return "cell-emptied";
      return snapshot.kinds[slot] === Kind.Absent ? "rest-filled" : null;
    }
    const adds = snapshot.kinds[slot] === Kind.Absent && value.kind !== Kind.Absent;
    if (adds && snapshot.form !== Kind.Record && snapshot.form !== Kind.EmptyRecord && column.at.steps[0].kind === "name")
      return "row-no-record";
    const holds = holderOf(snapshot.table, column);
    if (holds === "list" && value.kind > Kind.Null && value.kind !== Kind.EmptyList) return "rest-list";
    if (holds === "keyed" && value.kind > Kind.Null && value.kind !== Kind.EmptyRecord) return "rest-keyed";
    if (column.at.steps.at(-1)?.kind === "place" && (value.kind === Kind.Absent || snapshot.kinds[slot] === Kind.Absent))
      return "cell-emptied";
    return null;
  }

  private blankBeyond(snapshot: Snapshot, sheet: Sheet, from: number): boolean {
    const { contents } = snapshot;
    return sheet.columns.slice(from).every((column) => {
      if (column === Column.Parent) return snapshot.parentIdent === "";
      return column < 0 || contents[column] === "";
    });
  }

  private healable(sheet: Sheet, title: string): boolean {
    return !this.ctx.noHeal.includes(title) && !this.ctx.noHeal.includes(`${sheet.table.plan.name}.${title}`);
  }

  private heal(sheet: Sheet, healed: Omit<Healed, "table">): void {
    const { row, column } = sheet.place(healed.row, healed.column);
    this.healed.push({ table: sheet.table.plan.name, ...healed, row: row ?? 0, column: column ?? "" });
  }
}

/** The field that a column of lists shows, also of a list in a list. */
function fieldOf({ table, slot }: InlineColumn): ColumnPlan {
  const { columns } = table.plan;
  return slot < columns.length ? columns[slot] : fieldOf(table.inline[slot - columns.length]);
}

/** What the column's place holds when it is filled: the rows of another table, as a list or as a keyed record. */
export function holderOf(table: CompiledTable, column: ColumnPlan): "list" | "keyed" | null {
  const { steps } = column.at;
  for (const inner of steps.length === 0 ? [] : table.nested) {
    if (!startsWith(inner.steps, steps)) continue;
    if (inner.steps.length === steps.length) return "list";
    if (inner.steps.length === steps.length + 1 && inner.steps.at(-1)?.kind === "any") return "keyed";
  }
  return null;
}

/** Pointer from the record to a list that is shown in its row, or to the item that is. */
function listPointer(table: CompiledTable, { table: name, item }: InlineColumnPlan): string {
  const rest = table.plan.columns.find((column) => column.hidden === true && column.title === name)!;
  return stepsPointer(rest.at.steps) + (item === undefined ? "" : `/${item}`);
}

/** What a report says of a row's edited cells. */
export function cellChanges(row: DifferingRow): Change[] {
  const { snapshot } = row;
  if (snapshot.table.host !== null) return [];
  const { columns, inline } = snapshot.table.plan;
  const cells = [...row.cells, ...(row.lists?.cells ?? [])];
  if (cells.length === 0) return [];
  const record = recordName(snapshot);
  return cells.map(({ slot, content }) => {
    const own = slot < columns.length;
    return {
      kind: "changed",
      table: snapshot.table.plan.name,
      row: row.sheet.seenRow(row.row),
      record,
      column: row.sheet.seen(row.row)?.column ?? titleOf(snapshot.table.plan, slot),
      old: snapshot.content(slot),
      new: content,
      path: row.pointer + (own ? cellPointer(columns[slot]) : listPointer(snapshot.table, inline[slot - columns.length])),
      ...row.source,
    };
  });
}

function isPlaceIn({ plan }: CompiledTable, slot: number): boolean {
  return slot < plan.columns.length && plan.columns[slot].at.end === "index";
}

/** Edits of one row's cells. */
export function cellEdits(row: DifferingRow, model: Span | null): Edit[] {
  const { snapshot } = row;
  const { kinds } = snapshot;
  const edits: Edit[] = [];
  const { plan } = snapshot.table;
  const add: { steps: readonly Step[]; value: NewValue }[] = [];
  const drop: (readonly Step[])[] = [];
  for (const { slot, value } of [...row.cells, ...(row.lists?.standIns ?? [])]) {
    const column = plan.columns[slot];
    const { start, end } = snapshot.spanOf(slot);
    if (column.at.end === "key") edits.push({ kind: "rename", start, end, name: value.text });
    else if (value.kind === Kind.Absent) drop.push(column.at.steps);
    else if (kinds[slot] === Kind.Absent) {
      // a record whose parts are all cleared is written anew as a whole
      if (partsOf(row, slot).some((part) => kinds[part] !== Kind.Absent)) drop.push(column.at.steps);
      add.push({ steps: column.at.steps, value });
    } else if (value.kind !== Kind.EmptyRecord || !fillsPart(row, column))
      edits.push({ kind: "set", start, end, value, was: kinds[slot] as Kind, path: stepsTo(plan, column) });
  }
  const whole = drop.filter((steps) => !drop.some((other) => other !== steps && other.length < steps.length && startsWith(steps, other)));
  if (add.length + drop.length > 0)
    edits.push({ kind: "fields", ...snapshot.span, add, drop: whole, order: columnOrder(snapshot.table), model, path: plan.rows.steps });
  return edits;
}

/** Slots of the parts of a value that the row shows. */
function partsOf({ snapshot }: DifferingRow, slot: number): readonly number[] {
  return snapshot.table.plan.columns[slot].hidden === true ? [] : standInsOf(snapshot.table)[slot].parts;
}

/** A part of this record is given a value: then the record is made for it, and need not be made empty first. */
function fillsPart(row: DifferingRow, whole: ColumnPlan): boolean {
  const { columns } = row.snapshot.table.plan;
  return row.cells.some(
    ({ slot, value }) => value.kind !== Kind.Absent && columns[slot] !== whole && startsWith(columns[slot].at.steps, whole.at.steps),
  );
}
