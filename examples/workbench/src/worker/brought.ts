/** A sheet that was edited elsewhere, as a step of editing: what it says now is what the table says. */
import type { CellsByTitle, Change, Compared, Plan } from "hatch-fold";
import { Column } from "./column";
import { ordered, reordered } from "./sequence";
import { MARK, type CellEdit, type NewRow, type Step, type Table } from "./table";

/** @param sheet - its rows, from the second on */
export function stepOfSheet(plan: Plan, table: Table, sheet: readonly CellsByTitle[], compared: Compared, label: string): Step {
  const { titles } = table;
  const told = new ToldOfRows(table, sheet, compared);
  const recordOf = recordsOf(plan, table, told);
  // rows that are read each by itself are looked at where something is told of them, or where they were edited here
  const isApart = table.also.length === 0 && plan.tables.find(({ name }) => name === table.name)?.arrangement === undefined;
  const edited = new Set(table.touchedRows().map(({ id }) => id));
  const seen = new Set<number>();
  const stands: number[] = [];
  const cells: CellEdit[] = [];
  const came: NewRow[] = [];
  sheet.forEach((row, i) => {
    const number = i + 2;
    const known = recordOf(row, number);
    // a second row of one record is a row by itself, to be mended here
    const id = known === undefined || seen.has(known) ? undefined : known;
    if (id === undefined) {
      const texts = titles.map((title) => told.text(row, number, title, null) ?? "");
      const says = isApart && texts[MARK].trim() === "" ? told.isTold(number) : texts.some((text) => text.trim() !== "");
      if (!says) return;
      const made = { id: table.newId(), after: stands.at(-1) ?? -1, cells: texts };
      came.push(made);
      stands.push(made.id);
      return;
    }
    seen.add(id);
    stands.push(id);
    if (isApart && !told.isTold(number) && !edited.has(id)) return;
    titles.forEach((title, column) => {
      const was = table.cell(id, column);
      const now = column === MARK ? was : (told.text(row, number, title, table.was(id, column)) ?? table.was(id, column)!);
      if (was !== now) cells.push({ row: id, column, was, now });
    });
  });
  const went = table.newRows();
  const order = table.isOrdered ? orderOf(table, stands, came, went) : null;
  return { table: table.name, label, cells, came, went, ...(order === null ? {} : { order }) };
}

/** What was found in the rows of one sheet. */
class ToldOfRows {
  private readonly rows = new Map<number, Change[]>();
  /** Rows in which something is wrong, or was healed. */
  private readonly others = new Set<number>();
  /** By row and title: a cell as the library spells it. */
  private readonly texts = new Map<string, string>();
  /** By title and what a sheet says: the same, for cells that are repeated in other rows, of which nothing is told. */
  private readonly spelled = new Map<string, string>();

  constructor(table: Table, sheet: readonly CellsByTitle[], { changes, healed, problems }: Compared) {
    const names = new Set([table.name, ...table.also]);
    for (const change of changes) {
      if (!names.has(change.table)) continue;
      const { row, column, kind } = change;
      this.rows.set(row, [...this.changes(row), change]);
      const raw = (title: string): string => sheet[row - 2]?.[title] ?? "";
      // what is filled by the plan stays blank here, and is filled then
      for (const [title, text] of Object.entries(change.cells ?? {})) if (raw(title) !== "") this.texts.set(`${row}\n${title}`, text);
      if (kind !== "changed") continue;
      this.texts.set(`${row}\n${column}`, change.new ?? "");
      this.spelled.set(`${column}\n${raw(column)}`, change.new ?? "");
    }
    for (const { table: of, row, column, restored } of healed) {
      if (!names.has(of)) continue;
      this.texts.set(`${row}\n${column}`, restored);
      this.others.add(row);
    }
    for (const { table: of, row, rows = [row] } of problems) if (names.has(of)) for (const one of rows) this.others.add(one);
  }

  changes(number: number): readonly Change[] {
    return this.rows.get(number) ?? [];
  }

  isTold(number: number): boolean {
    return this.rows.has(number) || this.others.has(number);
  }

  /** What a cell says, as the library reads it. */
  text(row: CellsByTitle, number: number, title: string, was: string | null): string | undefined {
    const said = row[title];
    const own = this.texts.get(`${number}\n${title}`);
    return own ?? (said === undefined || said === was ? said : (this.spelled.get(`${title}\n${said}`) ?? said));
  }
}

/** Which record a row stands for: by its mark; without one by what its changes are told of, or what rows are matched by. */
function recordsOf(plan: Plan, table: Table, told: ToldOfRows): (row: CellsByTitle, number: number) => number | undefined {
  const { titles, base } = table;
  const marks = new Map<string, number>();
  const decoder = new TextDecoder();
  base.forEachIn(MARK, (id, bytes, from, to) => void marks.set(decoder.decode(bytes.subarray(from, to)), id));
  const { key, match } = plan.tables.find(({ name }) => name === table.name) ?? {};
  const callers = key === undefined ? (match ?? []) : [key];
  let names: Map<string, number> | null = null;
  const named = (name: string | undefined): number | undefined => {
    if (name === undefined || callers.length === 0) return undefined;
    if (names === null) {
      const columns = callers.map((title) => new Column(base.count).filledFrom(base, titles.indexOf(title)));
      names = new Map(Array.from({ length: base.count }, (_, id) => [columns.map((cells) => cells.text(id)).join(", "), id]));
    }
    return names.get(name);
  };
  return (row, number) => {
    const mark = (row[titles[MARK]] ?? "").trim();
    if (mark !== "" || match === undefined) return marks.get(mark);
    const record = told.changes(number).find(({ kind, table: of }) => kind !== "added" && of === table.name)?.record;
    const own = match.map((title) => row[title] ?? "").join(", ");
    return named(record) ?? (key === undefined || match.join() === key ? named(own) : undefined);
  };
}

/** Rows stand as in the sheet; those that it does not have stay behind the one that they follow. */
function orderOf(table: Table, stands: readonly number[], came: readonly NewRow[], went: readonly NewRow[]): Step["order"] | null {
  const was = ordered(table.order(), new Set(went.map(({ id }) => id)), came);
  const there = new Set(stands);
  const behind = new Map<number, number[]>();
  let last = -1;
  for (const id of was)
    if (there.has(id)) last = id;
    else if (behind.has(last)) behind.get(last)!.push(id);
    else behind.set(last, [id]);
  const now = [-1, ...stands].flatMap((id) => [...(id < 0 ? [] : [id]), ...(behind.get(id) ?? [])]);
  return reordered(was, Int32Array.from(now));
}
