/**
 * Records of several tables in one sheet: those inside stand beneath the record around them, or repeat its
 * cells. A column of the sheet belongs to one of the tables; every row has the mark of one record.
 */
import { pushAll } from "../../bytes/lists.js";
import { titleOf, type CompiledTable } from "../../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE } from "../../model/plan.js";

/** A table of the sheet, with its columns there. */
export interface Member {
  readonly table: CompiledTable;
  /** Titles as the table's own sheet would have them, from the column that says what a record is in. */
  readonly titles: readonly string[];
  /** Titles of the same columns in the sheet. */
  readonly shown: readonly string[];
  /** Place of the first of them in the sheet. */
  readonly from: number;
}

export interface Stack {
  /** The table around all others, and then each behind the one that it is inside. */
  readonly members: readonly Member[];
  readonly repeats: boolean;
  readonly titles: readonly string[];
}

/** The sheets that show several tables; `slotsOf` are the columns that are written of each. */
export function stacksOf(tables: readonly CompiledTable[], slotsOf: (table: CompiledTable) => Iterable<number>): Stack[] {
  const roots = tables.filter((table) => table.plan.stacked === undefined && table.children.some(isStacked));
  return roots.map((root) => {
    const members: Member[] = [];
    const titles: string[] = [MARK_TITLE, ACTION_TITLE];
    const put = (table: CompiledTable): void => {
      const own = [...(table.holder === null ? [] : [table.holder]), ...[...slotsOf(table)].map((slot) => titleOf(table.plan, slot))];
      const shown = own.map((title) => free(title, table.plan.name, titles));
      members.push({ table, titles: own, shown, from: titles.length });
      pushAll(titles, shown);
      for (const child of table.children) if (isStacked(child)) put(child);
    };
    put(root);
    return { members, repeats: members.some(({ table }) => table.plan.stacked === "repeat"), titles };
  });
}

function isStacked(table: CompiledTable): boolean {
  return table.plan.stacked !== undefined;
}

/** The key that a row of the sheet gives its record; nothing where it gives none. */
export function keyOf({ table, titles, from }: Member, cells: readonly (string | undefined)[]): string {
  return table.keySlot < 0 ? "" : (cells[from + titles.indexOf(table.plan.key!)] ?? "").trim();
}

/** Two tables may have a title in common: the second is told by its table's name. */
function free(title: string, table: string, taken: readonly string[]): string {
  let one = taken.includes(title) ? `${table} ${title}` : title;
  while (taken.includes(one)) one += " (2)";
  return one;
}

/** Rows of a sheet: the record's own, and those of the records in it. */
export type Block = readonly (readonly string[])[];

/** A record's row, with the rows of those in it. `cells` are mark, action and the member's columns. */
export function blockOf({ members, repeats, titles }: Stack, at: number, cells: readonly string[], inner: readonly Block[]): Block {
  const { from } = members[at];
  const row = titles.map((_, c) => (c < 2 ? cells[c] : (cells[c - from + 2] ?? "")));
  for (let c = 2; c < from; c++) row[c] = "";
  if (!repeats || inner.length === 0 || at > 0) return [row, ...inner.flat()];
  const own = members[0].titles.length + 2;
  return inner.flat().map((one) => [...one.slice(0, 2), ...row.slice(2, own), ...one.slice(own)]);
}
