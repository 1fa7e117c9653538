/**
 * What the plan's expressions ask (`check:`) of cells and of records, of what these are in, and of what is in them: asked
 * where somebody wrote something that the expression names. Of all records of a table it is asked once.
 */
import { sidesSay } from "../../errors/words/rules.js";
import { pushTo } from "../../model/push-to.js";
import type { ColumnPlan, Rule } from "../../model/plan.js";
import type { CompiledTable } from "../../plan/compile.js";
import { compileExpression, firstLine, type Expression } from "../../plan/expression.js";
import { rowValues } from "../../records/filter.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../../rows/row-edits.js";
import { contentValues, newValues } from "../../rows/values.js";
import { targetAround } from "../places.js";
import { broken, type Broken } from "./broken.js";

type AnyRow = DifferingRow | NewRow;
type Values = Readonly<Record<string, unknown>>;

/** A rule, and what it asks for. */
export interface Condition {
  readonly table: CompiledTable;
  /** The column whose cell is `value`. */
  readonly column: ColumnPlan | null;
  readonly rule: Rule<string>;
  readonly run: Expression;
  /** Titles of the record itself; `null` for all. */
  readonly own: ReadonlySet<string> | null;
  /** Titles of the record around that it names; `null` where it names none. */
  readonly around: ReadonlySet<string> | null;
  /** Tables of records in it that it names, with the titles. */
  readonly within: ReadonlyMap<CompiledTable, ReadonlySet<string>>;
  /** Titles of all records of the table, where it names these. */
  readonly all: ReadonlySet<string> | null;
}

/** A record that is asked, with the rows because of which it is. */
export interface Asked {
  readonly condition: Condition;
  /** A record of the source, a new row, or all records. */
  readonly record: number | NewRow | "all";
  readonly causes: Set<AnyRow>;
}

export async function checkConditions(draft: Draft, ctx: Context): Promise<void> {
  const records = new Records(draft, ctx);
  const asked = (await conditionsOf(ctx)).flatMap((condition) => new Asking(condition, records).asked());
  if (asked.length === 0) return;
  await records.read(asked);
  for (const one of asked) await judge(one, records, ctx);
}

async function conditionsOf({ compiled }: Context): Promise<Condition[]> {
  const found: Condition[] = [];
  for (const table of compiled.tables) {
    for (const rule of table.plan.checks ?? []) found.push(await conditionOf(table, null, rule));
    for (const column of table.plan.columns)
      for (const rule of column.rules?.checks ?? []) found.push(await conditionOf(table, column, rule));
  }
  return found;
}

export async function conditionOf(table: CompiledTable, column: ColumnPlan | null, rule: Rule<string>): Promise<Condition> {
  const run = await compileExpression(rule.is, rule.place);
  const { names, members, whole } = run.uses;
  const titles = new Set(table.plan.columns.map(({ title }) => title));
  const membersOf = (name: string): ReadonlySet<string> => members.get(name) ?? new Set();
  const own = new Set([...names].filter((name) => titles.has(name)));
  for (const title of membersOf("row")) own.add(title);
  if (column !== null) own.add(column.title);
  const holder = table.holder !== null && (names.has(table.holder) || membersOf("row").has(table.holder));
  const named = (name: string): boolean => (names.has(name) && !titles.has(name)) || membersOf("tables").has(name);
  return {
    table,
    column,
    rule,
    run,
    own: whole.has("row") ? null : own,
    around: names.has("parent") || holder ? new Set([...membersOf("parent"), ...(holder ? [table.parent?.plan.key ?? ""] : [])]) : null,
    within: new Map(table.children.filter(({ plan }) => named(plan.name)).map((child) => [child, membersOf(child.plan.name)])),
    all: named("all") ? membersOf("all") : null,
  };
}

/** Which records a condition is asked of. */
export class Asking {
  private readonly found = new Map<number | NewRow | "all", Asked>();

  constructor(
    private readonly condition: Condition,
    private readonly records: Records,
  ) {}

  asked(): Asked[] {
    const { table, all } = this.condition;
    if (all !== null) {
      for (const row of this.records.rowsOf(table))
        if (isNew(row) || row.removed || edits(row, all) || this.isOwn(row)) this.ask("all", row);
      return [...this.found.values()];
    }
    for (const row of this.records.rowsOf(table)) {
      if (isNew(row)) this.ask(row, row);
      else if (!row.removed && this.isOwn(row)) this.ask(row.snapshot.place, row);
    }
    this.becauseOfWithin();
    this.becauseOfAround();
    return [...this.found.values()];
  }

  private isOwn(row: DifferingRow): boolean {
    const { own, around } = this.condition;
    return edits(row, own) || (around !== null && this.records.draft.moves.has(row));
  }

  private becauseOfWithin(): void {
    const { table, within } = this.condition;
    for (const [child, titles] of within)
      for (const row of this.records.rowsOf(child)) {
        const target = isNew(row) ? row.target : (this.records.draft.moves.get(row) ?? null);
        if (target !== null && "row" in target && target.row.table === table) this.ask(target.row, row);
        if (target !== null && "place" in target && target.of === table) this.ask(target.place, row);
        if (isNew(row) || row.snapshot.parentTable !== table) continue;
        if (row.removed || target !== null || edits(row, titles)) this.ask(row.snapshot.parentPlace, row);
      }
  }

  /** Records whose own row nobody edited, in one that was. */
  private becauseOfAround(): void {
    const { table, around } = this.condition;
    if (around === null) return;
    for (const of of new Set([table.parent, table.treeSteps === null ? null : table]))
      for (const row of of === null ? [] : this.records.rowsOf(of))
        if (!isNew(row) && !row.removed && edits(row, around))
          for (const record of this.records.recordsIn(table, row.snapshot.table, row.snapshot.place)) this.ask(record, row);
  }

  private ask(record: number | NewRow | "all", cause: AnyRow): void {
    const { table } = this.condition;
    if (typeof record === "number" && this.records.isGone(table, record)) return;
    const one = this.found.get(record) ?? { condition: this.condition, record, causes: new Set<AnyRow>() };
    this.found.set(record, one);
    one.causes.add(cause);
  }
}

export function isNew(row: AnyRow): row is NewRow {
  return !("snapshot" in row);
}

/** Does the row say something else under one of the titles? */
function edits({ snapshot, cells }: DifferingRow, titles: ReadonlySet<string> | null): boolean {
  return cells.some(({ slot }) => titles === null || titles.has(snapshot.table.plan.columns[slot].title));
}

/** Records as they will be: those that a condition asks for. */
export class Records {
  private readonly edited = new Map<CompiledTable, Map<number, DifferingRow>>();
  private readonly byTable = new Map<CompiledTable, AnyRow[]>();
  /** Values of records that nobody edited. */
  private readonly values = new Map<CompiledTable, Map<number, Values>>();

  constructor(
    readonly draft: Draft,
    private readonly ctx: Context,
  ) {
    for (const row of draft.rows) {
      const { table, place } = row.snapshot;
      pushTo(this.byTable, table, row as AnyRow);
      this.edited.set(table, (this.edited.get(table) ?? new Map<number, DifferingRow>()).set(place, row));
    }
    for (const row of draft.news) pushTo(this.byTable, row.table, row as AnyRow);
  }

  rowsOf(table: CompiledTable): readonly AnyRow[] {
    return this.byTable.get(table) ?? [];
  }

  rowAt(table: CompiledTable, place: number): DifferingRow | undefined {
    return this.edited.get(table)?.get(place);
  }

  isGone(table: CompiledTable, place: number): boolean {
    return this.draft.gone.get(table)?.has(place) === true || this.rowAt(table, place)?.removed === true;
  }

  /** The records of a table that are in a record now, new ones behind the others. */
  recordsIn(table: CompiledTable, of: CompiledTable, record: number | NewRow): readonly (number | NewRow)[] {
    const inside = this.inside.get(table) ?? this.indexOf(table);
    this.inside.set(table, inside);
    return inside.get(typeof record === "number" ? `${of.index} ${record}` : record) ?? [];
  }
  private readonly inside = new Map<CompiledTable, ReadonlyMap<string | NewRow, readonly (number | NewRow)[]>>();

  /** Records by what they are in: a new row, or the number of a table and a place. */
  private indexOf(table: CompiledTable): ReadonlyMap<string | NewRow, readonly (number | NewRow)[]> {
    const inside = new Map<string | NewRow, (number | NewRow)[]>();
    const put = (record: number | NewRow): void => {
      const target = this.parentOf(table, record);
      if (target === null || "file" in target) return;
      pushTo<string | NewRow, number | NewRow>(inside, "row" in target ? target.row : `${target.of.index} ${target.place}`, record);
    };
    for (let place = 0; place < this.ctx.base.tables[table.index].records; place++) if (!this.isGone(table, place)) put(place);
    for (const row of this.rowsOf(table)) if (isNew(row)) put(row);
    return inside;
  }

  /** One pass over the source, where something is asked for that no row says. */
  async read(asked: readonly Asked[]): Promise<void> {
    const wanted = new Map<CompiledTable, Set<number>>();
    const lists = new Map<CompiledTable, { readonly around: CompiledTable | null; readonly places: Set<number> }[]>();
    const want = (table: CompiledTable, place: number): void => {
      if (this.rowAt(table, place) === undefined) wanted.set(table, (wanted.get(table) ?? new Set<number>()).add(place));
    };
    for (const { condition, record } of asked) {
      const { table, within, around } = condition;
      if (record === "all") {
        pushTo(lists, table, { around: null, places: new Set<number>() });
        continue;
      }
      if (typeof record === "number") {
        want(table, record);
        for (const child of within.keys()) pushTo(lists, child, { around: table, places: new Set([record]) });
      }
      const parent = around === null ? null : this.parentOf(table, record);
      if (parent !== null && "place" in parent) want(parent.of, parent.place);
    }
    if (wanted.size + lists.size === 0) return;
    const inLists = new Map(
      [...lists].map(([table, list]) => [table, { all: list.some(({ around }) => around === null), around: joined(list) }]),
    );
    await this.ctx.records.cells((row, assembler) => {
      const { table, place, parent } = row;
      const list = inLists.get(table);
      const isListed = list !== undefined && (list.all || (parent !== null && list.around.get(parent.table)?.has(parent.place) === true));
      if (!isListed && wanted.get(table)?.has(place) !== true) return;
      const { row: values } = rowValues(row, assembler) as { readonly row: Values };
      this.values.set(table, (this.values.get(table) ?? new Map<number, Values>()).set(place, values));
    });
  }

  /** What the record is in, as it will be. */
  parentOf(table: CompiledTable, record: number | NewRow): Target | null {
    if (typeof record !== "number") return record.target;
    const row = this.rowAt(table, record);
    const moved = row === undefined ? undefined : this.draft.moves.get(row);
    if (moved !== undefined) return moved;
    return targetAround(this.ctx, table, record);
  }

  valuesOf(table: CompiledTable, record: number | NewRow): Values {
    if (typeof record !== "number") return newValues(record);
    const row = this.rowAt(table, record);
    if (row === undefined) return this.values.get(table)?.get(record) ?? {};
    const { snapshot, cells } = row;
    return contentValues(table, snapshot.contents, snapshot.kinds, cells);
  }

  /** All records of a table, new ones behind the others. */
  private all(table: CompiledTable): Values[] {
    const places = new Set([...(this.values.get(table)?.keys() ?? []), ...(this.edited.get(table)?.keys() ?? [])]);
    const kept = [...places].filter((place) => !this.isGone(table, place)).sort((a, b) => a - b);
    return [...kept, ...this.rowsOf(table).filter((row) => isNew(row))].map((record) => this.valuesOf(table, record));
  }

  /** Everything that an expression may name. */
  variables({ table, column, around, within, all }: Condition, record: number | NewRow | "all"): Values {
    if (record === "all") return { all: all === null ? [] : this.all(table) };
    const own = this.valuesOf(table, record);
    const lists: Record<string, unknown> = {};
    for (const child of within.keys())
      lists[child.plan.name] = this.recordsIn(child, table, record).map((one) => this.valuesOf(child, one));
    const target = around === null ? null : this.parentOf(table, record);
    const parent =
      target === null || "file" in target
        ? {}
        : "row" in target
          ? this.valuesOf(target.row.table, target.row)
          : this.valuesOf(target.of, target.place);
    const holder = table.holder === null || table.parent?.plan.key === undefined ? {} : { [table.holder]: parent[table.parent.plan.key] };
    const row = { ...holder, ...own };
    return { ...lists, tables: lists, parent, ...row, row, ...(column === null ? {} : { value: own[column.title] }) };
  }
}

function joined(
  list: readonly { readonly around: CompiledTable | null; readonly places: ReadonlySet<number> }[],
): ReadonlyMap<CompiledTable, ReadonlySet<number>> {
  const all = new Map<CompiledTable, Set<number>>();
  for (const { around, places } of list)
    if (around !== null) {
      const set = all.get(around) ?? new Set<number>();
      for (const place of places) set.add(place);
      all.set(around, set);
    }
  return all;
}

async function judge({ condition, record, causes }: Asked, records: Records, { findings, sheets }: Context): Promise<void> {
  const { table, column, rule, run } = condition;
  const values = records.variables(condition, record);
  if (column !== null && values.value === null) return;
  // what it is in is not known: the row has heard of that
  if (condition.around !== null && record !== "all" && records.parentOf(table, record) === null) return;
  const rows = [...causes];
  if (rows.length > 1 && rule.severity === "error")
    findings.together.push(rows.map(({ sheet, row }) => ({ table: sheet.table.plan.name, row })));
  let reason: string | null = null;
  try {
    if (run(values) === true) return;
    reason = await sidesOf(run, values);
  } catch (error) {
    reason = `It could not be worked out: ${firstLine(error)}.`;
  }
  const own = rows.find((row) => (isNew(row) ? row === record : row.snapshot.table === table && row.snapshot.place === record));
  const first = own ?? rows[0];
  const same = rows.filter(({ sheet }) => sheet === first.sheet).map(({ row }) => row);
  const title = own !== undefined && column !== null ? column.title : titleOf(first, condition);
  const cell = title === "" || rows.length > 1 ? "" : cellOf(first, title);
  const place =
    same.length > 1
      ? first.sheet.placeOf(
          [...new Set(same)].sort((a, b) => a - b),
          title,
          cell,
        )
      : first.sheet.place(first.row, title, cell);
  findings.addBroken(own === undefined || column === null ? ofRecord() : ofCell(column), rule, place);

  function ofCell({ title: named }: ColumnPlan): Broken {
    return broken("check-failed", { title: named, check: rule.is, reason });
  }

  function ofRecord(): Broken {
    const sheet = sheets[table.index];
    const row = typeof record === "number" && sheet !== null ? sheet.seenRow(sheet.rowOf(record)) : 0;
    if (column !== null) return broken("check-no-longer", { title: column.title, table: table.plan.name, row, check: rule.is, reason });
    const { key } = table.plan;
    const name = record === "all" || key === undefined ? "" : cellOfKey(values[key]);
    const said = broken("record-check", { table: table.plan.name, record: name, check: rule.is, reason });
    return reason === null ? said : { ...said, detail: name === "" ? reason : `${name}: ${reason}` };
  }
}

/** The one title that the row says something else under, of those that are asked. */
function titleOf(row: AnyRow, { table, own, within }: Condition): string {
  if (isNew(row)) return "";
  const titles = row.snapshot.table === table ? own : (within.get(row.snapshot.table) ?? null);
  const edited = row.cells
    .map(({ slot }) => row.snapshot.table.plan.columns[slot].title)
    .filter((title) => titles === null || titles.has(title));
  return edited.length === 1 ? edited[0] : "";
}

function cellOf(row: AnyRow, title: string): string {
  if (isNew(row)) return row.contents[row.table.plan.columns.findIndex((column) => column.title === title)] ?? "";
  const slot = row.snapshot.table.plan.columns.findIndex((column) => column.title === title);
  return row.cells.find((cell) => cell.slot === slot)?.content ?? row.snapshot.content(slot);
}

/** What each side of a comparison comes to; literals speak for themselves. */
async function sidesOf({ sides }: Expression, values: Values): Promise<string | null> {
  const said: [string, string][] = [];
  for (const side of sides) {
    if (/^(?:-?[\d.]+|"[^"]*"|'[^']*'|true|false|null|value)$/.test(side)) continue;
    said.push([side, shownValue((await compileExpression(side))(values))]);
  }
  return said.length === 0 ? null : sidesSay(said);
}

function cellOfKey(value: unknown): string {
  return value === null || value === undefined ? "" : `${value as string}`;
}

function shownValue(value: unknown): string {
  if (value === null || value === undefined) return "blank";
  if (typeof value === "string") return `"${value}"`;
  return Array.isArray(value) ? `a list of ${value.length}` : `${value as number}`;
}
