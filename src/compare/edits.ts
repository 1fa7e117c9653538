/** Edits of the source from the rows of a draft: rows that go to one place become one edit there. */
import type { Edit, MovedRecord, NewRecord, Span } from "../edits/edit.js";
import { standInsOf } from "../layouts/empty-stand-ins.js";
import { Kind } from "../model/kind.js";
import { stepsPointer } from "../model/pointer.js";
import type { Change } from "../model/findings.js";
import { isFollowing, UPPER_TITLE } from "../model/plan.js";
import { sheetName, slotOf, stepsFrom, titleOf, type CompiledTable } from "../plan/compile.js";
import type { Placing } from "../layouts/layout.js";
import type { Context } from "../rows/context.js";
import { placingOf, type Draft } from "../rows/draft.js";
import { callTitles, columnOrder, recordName } from "../rows/names.js";
import type { DifferingRow, NewRow, RowEdits, Target } from "../rows/row-edits.js";
import { partAt } from "../source/parts.js";
import { cellEdits } from "./diff.js";
import { fileOf, startOf } from "./places.js";

interface Group {
  readonly table: CompiledTable;
  readonly target: Target;
  readonly beside: Placing["beside"];
  readonly members: { rank: number; row: number; record: NewRow | DifferingRow }[];
}

/** The edits, by the row they come from, and what is told of whole records that come, go or move. */
export interface DraftEdits {
  readonly edits: readonly RowEdits[];
  readonly changes: readonly Change[];
  /** For added rows, the record they go into: `table index` and place. */
  readonly addedTo: ReadonlyMap<Change, string>;
}

/** Edits of all rows that are not rejected. */
export function editsOf(draft: Draft, ctx: Context): DraftEdits {
  return new Editor(draft, ctx).run();
}

class Editor {
  private readonly edits: RowEdits[] = [];
  private readonly changes: Change[] = [];
  private readonly addedTo = new Map<Change, string>();
  private readonly groups = new Map<string, Group>();
  private readonly numbers = new Map<NewRow, number>();

  constructor(
    private readonly draft: Draft,
    private readonly ctx: Context,
  ) {}

  run(): DraftEdits {
    const { rows, news, rejected } = this.draft;
    for (const row of rows) if (!rejected.has(row)) this.editRow(row);
    for (const row of news) if (!rejected.has(row)) this.addRow(row);
    for (const group of this.groups.values()) {
      if ("row" in group.target) continue;
      this.edits.push({ table: sheetName(group.table), row: group.members[0].row, edits: [this.addEdit(group)] });
    }
    return { edits: this.edits, changes: this.changes, addedTo: this.addedTo };
  }

  private editRow(row: DifferingRow): void {
    const { table, file } = row.snapshot;
    const target = this.draft.moves.get(row);
    const own = row.removed ? [removal(row)] : cellEdits(row, this.modelIn(table, file));
    if (row.removed && table.host === null) this.changes.push(this.wholeChange("removed", row));
    const placing = placingOf(this.draft, row);
    if (placing?.stays === true) this.changes.push(this.wholeChange("moved", row));
    if (target !== undefined) {
      if (placing?.says !== null) this.changes.push(this.wholeChange("moved", row));
      own.push(removal(row));
      this.join(table, target, row);
    }
    if (own.length > 0) this.edits.push({ table: sheetName(table), row: row.row, edits: own });
  }

  private addRow(row: NewRow): void {
    const { table } = row;
    const target = row.target!;
    this.join(table, target, row);
    if (table.host !== null) return;
    const change = addedChange(row, this.ctx.pointers.source(fileOf(target, this.ctx).index));
    this.changes.push(change);
    if ("place" in target) this.addedTo.set(change, `${target.of.index} ${target.place}`);
  }

  private join(table: CompiledTable, target: Target, record: NewRow | DifferingRow): void {
    const placing = placingOf(this.draft, record);
    this.group(table, target, placing?.beside).members.push({ rank: placing?.rank ?? Infinity, row: record.row, record });
  }

  private group(table: CompiledTable, target: Target, beside: Placing["beside"]): Group {
    const name =
      "file" in target ? `file ${target.file}` : "place" in target ? `place ${target.place} ${target.of.index}` : this.called(target.row);
    const id = `${table.index} ${name}${beside === undefined ? "" : ` ${beside.at} ${beside.before}`}`;
    const group = this.groups.get(id) ?? { table, target, beside, members: [] };
    this.groups.set(id, group);
    return group;
  }

  /** A name for a new record: several can come from one row of a sheet. */
  private called(row: NewRow): string {
    const number = this.numbers.get(row) ?? this.numbers.size;
    this.numbers.set(row, number);
    return `new ${number}`;
  }

  private addEdit(group: Group): Edit {
    const { table, target } = group;
    const at = "file" in target ? this.ctx.parts[target.file].base : "place" in target ? startOf(target, this.ctx) : -1;
    const outer = "place" in target ? target.of : null;
    const atTop = "file" in target || (outer !== null && outer !== table && outer.plan.rows.steps.length === 0);
    return {
      kind: "add",
      at,
      atTop,
      steps: stepsFrom(outer, table),
      path: table.plan.rows.steps,
      beside: group.beside,
      records: this.records(group),
      model: this.modelIn(table, partAt(this.ctx.parts, at).index),
      order: columnOrder(table),
    };
  }

  private modelIn(table: CompiledTable, file: number): Span | null {
    return this.ctx.base.tables[table.index].models[file] ?? null;
  }

  private records(group: Group): (NewRecord | MovedRecord)[] {
    const sorted = [...group.members].sort((a, b) => (a.rank === b.rank ? a.row - b.row : a.rank - b.rank));
    return sorted.map(({ record }) => {
      if ("snapshot" in record) return { moved: true, start: record.snapshot.unitStart, end: record.snapshot.span.end };
      const { table, values } = record;
      const inner = [...table.children, ...(table.treeSteps === null ? [] : [table])].flatMap((child) => {
        const under = this.groups.get(`${child.index} ${this.called(record)}`);
        return under === undefined ? [] : [{ steps: stepsFrom(table, child), records: this.records(under) }];
      });
      const { nameSlot, selfSlot } = table.node;
      const fields = table.plan.columns.flatMap((column, slot) => {
        const value = values[slot];
        // a record with parts is made of them
        if (value?.kind === Kind.EmptyRecord && standInsOf(table)[slot].parts.some((part) => values[part] !== null)) return [];
        return value === null || column.at.steps.length === 0 || column.at.end !== "value" ? [] : [{ steps: column.at.steps, value }];
      });
      return { name: nameSlot < 0 ? null : values[nameSlot]!.text, self: selfSlot < 0 ? null : values[selfSlot], fields, inner };
    });
  }

  private wholeChange(kind: "removed" | "moved", row: DifferingRow): Change {
    const { snapshot } = row;
    const { table } = snapshot;
    const moved = kind === "moved";
    const says = placingOf(this.draft, row)?.says ?? null;
    const moves =
      says === null
        ? { column: table.holder!, old: snapshot.parentIdent, new: row.parent ?? "" }
        : { column: says.column ?? UPPER_TITLE, old: says.old, new: says.new };
    const { sheet } = row;
    const { row: seen, column } = sheet.place(row.row, moved ? moves.column : "");
    return {
      kind,
      table: table.plan.name,
      row: seen ?? 0,
      record: recordName(snapshot),
      column: column ?? "",
      ...(moved ? { old: sheet.nameOf(moves.old), new: sheet.nameOf(moves.new) } : { old: null, new: null }),
      path: row.pointer,
      ...row.source,
      holds: (says?.holds ?? 0) + this.holds(table, new Set([snapshot.place])),
    };
  }

  /** How many records of other tables are inside these. */
  private holds(table: CompiledTable, places: ReadonlySet<number>): number {
    let count = 0;
    if (table.treeSteps !== null) {
      const inside = new Set([...this.ctx.base.tables[table.index].uppers.find(places).values()].flat());
      if (inside.size > 0) count += inside.size + this.holds(table, inside);
    }
    for (const child of table.children) {
      const inside = new Set([...this.ctx.base.tables[child.index].parents.find(places).values()].flat());
      if (inside.size > 0) count += inside.size + this.holds(child, inside);
    }
    return count;
  }
}

function removal(row: DifferingRow): Edit {
  return { kind: "remove", path: row.snapshot.table.plan.rows.steps, start: row.snapshot.unitStart, end: row.snapshot.span.end };
}

function addedChange(row: NewRow, source: { source?: string }): Change {
  const { table, sheet } = row;
  const cells: Record<string, string> = { ...sheet.saysOf(row.row) };
  const says = row.placing?.says ?? null;
  if (table.holder !== null) cells[table.holder] = row.parentText;
  if (says !== null && says.new !== "") cells[UPPER_TITLE] = says.new;
  if (UPPER_TITLE in cells) cells[UPPER_TITLE] = sheet.nameOf(cells[UPPER_TITLE]);
  for (let slot = 0; slot < table.plan.columns.length + table.inline.length; slot++) {
    const content = row.contents[slot] ?? "";
    const shown = slot < table.plan.columns.length || !isFollowing(table.inline[slot - table.plan.columns.length].column);
    if (content !== "" && shown) cells[titleOf(table.plan, slot)] = content;
  }
  const called = table.keySlot < 0 ? callTitles(table.plan) : [table.plan.key!];
  const words = called.map((title) => (title === table.plan.inside ? row.parentText : (row.contents[slotOf(table.plan, title)] ?? "")));
  const path = stepsPointer(row.table.steps.filter((step) => step.kind !== "any"));
  return {
    kind: "added",
    table: table.plan.name,
    row: sheet.seenRow(row.row),
    record: words.every((word) => word === "") ? "" : words.join(", "),
    column: sheet.seen(row.row)?.column ?? "",
    old: null,
    new: null,
    path,
    ...source,
    ...(row.name === "" ? {} : { name: row.name }),
    cells,
  };
}
