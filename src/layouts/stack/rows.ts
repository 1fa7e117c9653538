/** Rows of a sheet in which the records of several tables stand beneath each other. */
import type { CompiledTable } from "../../plan/compile.js";
import { MARK_TITLE, ACTION_TITLE } from "../../model/plan.js";
import type { TitledRow, TitledSheet } from "../../sheets/titled.js";
import { tableRows, type TableRows } from "../layout.js";
import type { Member, Stack } from "./members.js";

/** A row of the shared sheet. */
export interface StackRow extends TitledRow {
  readonly mark: string;
  readonly action: string;
  /** The table whose record has the row's mark; for new rows, the one whose cells are filled. */
  readonly owner: Member;
  /** Tables inside that one whose cells a new row fills, too: it is a new record with the first of those in it. */
  readonly first: readonly Member[];
}

/** The rows of each table: cells by row number, as {@link StackRow} has them. */
export class Apart {
  private readonly rows = new Map<Member, Map<number, readonly (string | undefined)[]>>();
  constructor(
    readonly stack: Stack,
    /** Which titles of the stack the sheet has. */
    readonly present: readonly boolean[],
    private readonly sheet: TitledSheet,
  ) {
    for (const member of stack.members) this.rows.set(member, new Map());
  }

  /** `cells` are mark, action and the member's columns, by place in the stack. */
  put(member: Member, row: number, cells: readonly (string | undefined)[]): void {
    this.rows.get(member)!.set(row, cells);
  }

  *tables(): Iterable<[table: CompiledTable, rows: TableRows]> {
    for (const [{ table, titles, from }, rows] of this.rows) {
      const places = [0, 1, ...titles.keys()].map((i, k) => (k < 2 ? i : from + i)).filter((at) => this.present[at]);
      yield [table, tableRows((at) => (at < 2 ? [MARK_TITLE, ACTION_TITLE][at] : titles[at - from]), places, rows, this.sheet)];
    }
  }
}

/** Does any cell of the table's own say something? */
export function isFilled(member: Member, cells: readonly (string | undefined)[]): boolean {
  return member.titles.some((_, i) => isOwn(member, i) && (cells[member.from + i] ?? "").trim() !== "");
}

/** Whether a column is the record's own, and not the one that says what it is in. */
export function isOwn({ table }: Member, i: number): boolean {
  return i > 0 || table.holder === null;
}
