/**
 * The records of one table in a sheet that may repeat them on many rows: each is made once, from all that its rows say. It
 * is known by its key; where the sheet has none, by the columns that rows are matched by, or by the label that other tables
 * of the sheet call it by.
 */
import type { ProblemList } from "../model/problem-list.js";
import { pushTo } from "../model/push-to.js";
import type { TablePlan } from "../model/plan.js";
import { normalised } from "../cells/normalised.js";

/** A column of a table in the sheet. */
export interface Field {
  readonly title: string;
  /** Place in the sheet. */
  readonly c: number;
  /** Title of the code that it is, or is the label of. */
  readonly code: string;
  /** Another table takes it, too. */
  readonly shared: boolean;
}

/** A record, with the row that tells of it first. */
export interface FlatRecord {
  readonly number: number;
  /** What other rows may call it by. */
  readonly name: string;
  readonly cells: string[];
}

export interface FlatTable {
  readonly table: TablePlan;
  readonly file: string;
  readonly fields: readonly Field[];
  /** Other tables are in the sheet, too. */
  readonly shared: boolean;
  readonly problems: ProblemList;
}

const BETWEEN = "\u001f";

export class FlatRecords {
  readonly records: FlatRecord[] = [];
  /** Rows that repeat records. */
  private readonly repeats: number[] = [];
  private readonly keyAt: number;
  /** Places of the columns that a record without a key is known by. */
  private readonly nameAt: readonly number[];
  private readonly byKey = new Map<string, FlatRecord>();
  private readonly byName = new Map<string, FlatRecord[]>();
  private readonly spellings = new Map<string, FlatRecord>();

  constructor(private readonly of: FlatTable) {
    const { table, fields, shared } = of;
    const placeOf = (title: string): number => fields.findIndex((field) => field.title === title);
    this.keyAt = table.key === undefined ? -1 : placeOf(table.key);
    const names = table.match ?? (shared && table.label !== undefined ? [table.label] : []);
    const places = names.map(placeOf);
    this.nameAt = places.includes(-1) ? [] : places;
  }

  /** Takes a row; `name` is what it is called by. */
  take(number: number, cells: string[], name: string): void {
    if (cells.every((cell) => cell.trim() === "")) return;
    const row = { number, name, cells };
    const alone = name !== "" && !this.of.shared;
    if (alone || (this.keyAt < 0 && this.nameAt.length === 0)) {
      if (this.saysSomething(cells)) this.records.push(row);
    } else this.takeOnce(row);
  }

  /** Says where a sheet of one table repeats records; where there are several it has to. */
  tellRepeats(): void {
    const { table, shared, problems } = this.of;
    if (!shared && this.repeats.length > 0) problems.note("rows-repeated", { rows: this.repeats }, table.name);
  }

  /** A link of the sheet is told by a cell that no other table takes, or by two codes: one alone tells of the record at its end. */
  private saysSomething(cells: readonly string[]): boolean {
    const { fields } = this.of;
    const filled = fields.filter((_, i) => cells[i].trim() !== "");
    const codes = new Set(fields.map(({ code }) => code));
    return filled.some((field) => !field.shared) || new Set(filled.map(({ code }) => code)).size >= Math.min(2, codes.size);
  }

  private takeOnce(row: FlatRecord): void {
    const { table, fields, shared } = this.of;
    const key = this.keyAt < 0 ? "" : row.cells[this.keyAt];
    const name = this.nameOf(row);
    const named = name === null ? [] : (this.byName.get(name) ?? []);
    const known =
      key.trim() === ""
        ? named.length === 1
          ? named[0]
          : undefined
        : (this.byKey.get(key) ?? named.find((one) => this.keyOf(one) === ""));
    if (known !== undefined) {
      this.repeats.push(row.number);
      this.merge(known, row);
      if (key.trim() !== "") this.byKey.set(key, known);
      return;
    }
    const nameless = key.trim() === "" && (name === null || named.length > 1);
    if (nameless && shared) {
      const own = row.cells.some((cell, i) => cell.trim() !== "" && fields[i].title !== table.inside);
      const title = table.key ?? fields[this.nameAt[0]].title;
      if (own) this.of.problems.add("key-missing", { title }, { ...this.place(row), column: title, value: "" });
      return;
    }
    this.records.push(row);
    if (name !== null) pushTo(this.byName, name, row);
    if (key.trim() === "") return;
    this.byKey.set(key, row);
    this.checkSpelling(key, row);
  }

  private keyOf({ cells }: FlatRecord): string {
    return this.keyAt < 0 ? "" : cells[this.keyAt].trim();
  }

  /** What a row says in the columns that a record is known by without its key; nothing where one is blank. */
  private nameOf({ cells }: FlatRecord): string | null {
    const words = this.nameAt.map((at) => cells[at]);
    return words.length === 0 || words.some((word) => word.trim() === "") ? null : words.join(BETWEEN);
  }

  /** What a row says of a record that has been told of: a blank cell says nothing. */
  private merge(first: FlatRecord, row: FlatRecord): void {
    const { fields, problems } = this.of;
    for (const [i, cell] of row.cells.entries()) {
      if (cell === "" || cell === first.cells[i]) continue;
      if (first.cells[i] === "") {
        first.cells[i] = cell;
        continue;
      }
      const { title } = fields[i];
      const key = this.keyOf(first) || first.cells[this.nameAt[0]];
      const facts = { key, title, first: first.number, was: first.cells[i], now: cell };
      problems.add("rows-disagree", facts, { ...this.place(row), column: title, value: cell });
    }
  }

  private checkSpelling(key: string, row: FlatRecord): void {
    const spelling = normalised(key);
    const other = this.spellings.get(spelling);
    if (other === undefined) this.spellings.set(spelling, row);
    else if (this.of.shared) {
      const facts = { key, other: this.keyOf(other), row: other.number };
      this.of.problems.add("key-near", facts, { ...this.place(row), column: this.of.table.key!, value: key });
    }
  }

  private place({ number }: FlatRecord): { table: string; file: string; row: number } {
    return { table: this.of.table.name, file: this.of.file, row: number };
  }
}
