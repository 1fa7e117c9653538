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
  const ids = sheet.map((row, i) => recordOf(row, i + 2));
  const own = rowOfEach(table, sheet, ids);
  const stands: number[] = [];
  const cells: CellEdit[] = [];
  const came: NewRow[] = [];
  sheet.forEach((row, i) => {
    const number = i + 2;
    const id = ids[i];
    // a second row of one record is a row by itself, to be mended here
    if (id === undefined || own.get(id) !== i) {
      const texts = titles.map((title) => told.text(row, number, title, null) ?? "");
      if (texts.every((text) => text.trim() === "")) return;
      const made = { id: table.newId(), after: stands.at(-1) ?? -1, cells: texts };
      came.push(made);
      stands.push(made.id);
      return;
    }
    stands.push(id);
    const [hatched, here] = [table.base.row(id), table.cells(id)];
    const isMarked = (row[titles[MARK]] ?? "").trim() !== "";
    titles.forEach((title, column) => {
      if (column === MARK) return;
      const said = told.text(row, number, title, hatched[column]);
      // a title that the sheet does not have says nothing of its cells, nor do blanks in rows that were matched
      const now = said === undefined || (said === "" && !isMarked && !told.isCleared(number, title)) ? hatched[column] : said;
      if (here[column] !== now) cells.push({ row: id, column, was: here[column], now });
    });
  });
  const went = table.newRows();
  const order = table.isOrdered ? orderOf(table, stands, came, went) : null;
  return { table: table.name, label, cells, came, went, ...(order === null ? {} : { order }) };
}

/** By record, the place of its row: of several with its mark, that which says what was hatched, else the first. */
function rowOfEach(table: Table, sheet: readonly CellsByTitle[], ids: readonly (number | undefined)[]): Map<number, number> {
  const own = new Map<number, number>();
  const says = (i: number, hatched: readonly string[]): boolean =>
    table.titles.every((title, column) => (sheet[i][title] ?? "") === hatched[column]);
  ids.forEach((id, i) => {
    if (id === undefined) return;
    const known = own.get(id);
    const hatched = known === undefined ? [] : table.base.row(id);
    if (known === undefined || (!says(known, hatched) && says(i, hatched))) own.set(id, i);
  });
  return own;
}

/** What was found in the rows of one sheet. */
class ToldOfRows {
  private readonly rows = new Map<number, Change[]>();
  /** By row and title: a cell as the library spells it. */
  private readonly texts = new Map<string, string>();
  /** By title and what a sheet says: the same, for cells that are repeated in other rows, of which nothing is told. */
  private readonly spelled = new Map<string, string>();

  constructor(table: Table, sheet: readonly CellsByTitle[], { changes, healed }: Compared) {
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
    }
  }

  changes(number: number): readonly Change[] {
    return this.rows.get(number) ?? [];
  }

  isCleared(number: number, title: string): boolean {
    return this.texts.get(`${number}\n${title}`) === "";
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
  const own = plan.tables.find(({ name }) => name === table.name);
  const match = own?.match;
  if (own === undefined || match === undefined) return (row) => marks.get((row[titles[MARK]] ?? "").trim());

  const known = new Map<string, Map<string, number>>();
  /** The record that says this in some columns, taken together. */
  const saying = (columns: readonly string[], said: string): number | undefined => {
    const id = JSON.stringify(columns);
    const records = known.get(id) ?? recordsBy(columns.map((title) => new Column(base.count).filledFrom(base, titles.indexOf(title))));
    known.set(id, records);
    return records.get(said);
  };
  /** A blank code may stand beside its label. */
  const labels = new Map([
    ...own.inline.flatMap(({ title, lookup }) => (lookup === undefined ? [] : [[lookup, title] as const])),
    ...own.columns.flatMap(({ title, labelOf }) => (labelOf === undefined ? [] : [[labelOf, title] as const])),
  ]);
  return (row, number) => {
    const mark = (row[titles[MARK]] ?? "").trim();
    if (mark !== "") return marks.get(mark);
    const record = told.changes(number).find(({ kind, table: of }) => kind !== "added" && of === table.name)?.record;
    if (record !== undefined) return saying(own.key === undefined ? match : [own.key], record);
    const columns = match.map((title) => ((row[title] ?? "") === "" ? (labels.get(title) ?? title) : title));
    return saying(columns, columns.map((title) => row[title] ?? "").join(", "));
  };
}

function recordsBy(columns: readonly Column[]): Map<string, number> {
  const records = new Map<string, number>();
  for (let id = 0; id < (columns[0]?.rows ?? 0); id++) records.set(columns.map((cells) => cells.text(id)).join(", "), id);
  return records;
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
