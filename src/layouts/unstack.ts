/**
 * A sheet that shows several tables, as a sheet of each: rows keep their numbers, and what belongs to
 * another table is left blank. So everything behind it sees tables as if each had a sheet of its own.
 */
import type { ProblemList } from "../compare/changes.js";
import type { TableGuide } from "../plan/guide.js";
import { ACTION_TITLE, MARK_TITLE } from "../plan/plan.js";
import type { ReadRows } from "../relations/references.js";
import { parseMark } from "../tables/marks.js";
import { mergeRepeats } from "./repeat.js";
import type { Member, Stack } from "./stack.js";
import { asNew, readTitled, titledSheet, type TitledRow } from "./titled.js";

/** A row of the shared sheet. */
export interface StackRow extends TitledRow {
  readonly mark: string;
  readonly action: string;
  /** The table whose record has the row's mark; for new rows, the one whose cells are filled. */
  readonly owner: Member;
  /** Tables inside that one whose cells a new row fills, too: it is a new record with the first of those in it. */
  readonly first: readonly Member[];
}

/** What the tables' own sheets are to say: by table, cells by row number, as {@link StackRow} has them. */
export class Apart {
  private readonly rows = new Map<Member, Map<number, readonly (string | undefined)[]>>();
  constructor(
    readonly stack: Stack,
    /** Which titles of the stack the sheet has. */
    readonly present: readonly boolean[],
    private readonly last: number,
  ) {
    for (const member of stack.members) this.rows.set(member, new Map());
  }

  /** `cells` are mark, action and the member's columns, by place in the stack. */
  put(member: Member, row: number, cells: readonly (string | undefined)[]): void {
    this.rows.get(member)!.set(row, cells);
  }

  /** Sheets as bytes. A row that ends early ends early there, too. */
  *sheets(): Iterable<[table: TableGuide, bytes: Uint8Array]> {
    for (const [{ table, titles, from }, rows] of this.rows) {
      const places = [0, 1, ...titles.keys()].map((i, k) => (k < 2 ? i : from + i)).filter((at) => this.present[at]);
      yield [table, titledSheet((at) => (at < 2 ? [MARK_TITLE, ACTION_TITLE][at] : titles[at - from]), places, rows, this.last)];
    }
  }
}

/** The sheets of the tables in `bytes`; nothing when it is no such sheet, so that whoever reads it says why. */
export async function unstack(
  stack: Stack,
  file: string,
  bytes: Uint8Array,
  problems: ProblemList,
  readSource: ReadRows,
  /** There are no marks: all rows are new. */
  fresh: boolean,
): Promise<ReadonlyMap<TableGuide, Uint8Array> | null> {
  const say = { table: stack.members[0].table.plan.name, file };
  const sheet = readTitled(stack.titles, bytes, !fresh && readsMarks(stack), say, problems);
  if (sheet === null) return null;
  // what a row is in is known without a column for it where cells are repeated, or all rows are new
  const told = (at: number): boolean => (stack.repeats || fresh) && stack.members.some(({ from }, i) => i > 0 && from === at);
  const apart = new Apart(
    stack,
    stack.titles.map((_, at) => sheet.present[at] || told(at)),
    sheet.last,
  );
  const rows = (fresh ? sheet.rows.map(asNew) : sheet.rows).flatMap((row) => rowOf(stack, row, say, problems) ?? []);
  if (stack.repeats) await mergeRepeats(stack, rows, apart, file, problems, readSource);
  else putBeneath(stack, rows, apart);
  return new Map(apart.sheets());
}

/** Sheets without marks are matched by other columns, or are all new. */
function readsMarks({ members }: Stack): boolean {
  return members.every(({ table }) => table.plan.match === undefined);
}

function rowOf(
  stack: Stack,
  { number, cells }: TitledRow,
  say: { readonly table: string; readonly file: string },
  problems: ProblemList,
): StackRow | null {
  const mark = (cells[0] ?? "").trim();
  const named = mark === "" || mark.startsWith("+");
  const filled = stack.members.filter((member) => isFilled(member, cells));
  const marked = named ? [] : stack.members.filter(({ table }) => parseMark(table.salt, mark) >= 0);
  // a mark that nobody knows is told by the table whose cells the row has
  const owner =
    marked.find((one) => filled.includes(one)) ?? marked[0] ?? filled.at(named && stack.repeats ? -1 : 0) ?? holderOnly(stack, cells);
  if (owner === undefined) return null;
  const first = mark === "" && !stack.repeats ? filled.filter((one) => one !== owner) : [];
  const strange = stack.repeats ? undefined : filled.find((one) => one !== owner && !first.includes(one));
  if (strange !== undefined) {
    const at = strange.titles.findIndex((_, i) => isOwn(strange, i) && (cells[strange.from + i] ?? "") !== "");
    const facts = { title: strange.shown[at], table: owner.table.plan.name, other: strange.table.plan.name };
    problems.add("stack-mixed", facts, {
      table: owner.table.plan.name,
      file: say.file,
      row: number,
      column: strange.shown[at],
      value: cells[strange.from + at],
    });
  }
  return { number, mark, action: cells[1] ?? "", owner, first, cells };
}

/** Does any cell of the table's own say something? */
export function isFilled(member: Member, cells: readonly (string | undefined)[]): boolean {
  return member.titles.some((_, i) => isOwn(member, i) && (cells[member.from + i] ?? "").trim() !== "");
}

/** Whether a column is the record's own, and not the one that says what it is in. */
function isOwn({ table }: Member, i: number): boolean {
  return i > 0 || table.holder === null;
}

/** The table of a new row that only says what it is in. */
function holderOnly({ members }: Stack, cells: readonly (string | undefined)[]): Member | undefined {
  return members.find(({ table, from }) => table.holder !== null && (cells[from] ?? "").trim() !== "");
}

/** A row that does not say what it is in belongs to the one above that can hold it. */
function putBeneath(stack: Stack, rows: readonly StackRow[], apart: Apart): void {
  const above = new Map<TableGuide, string>();
  const put = (member: Member, { number, mark, cells }: StackRow): void => {
    const { table, from } = member;
    const own = [...cells];
    if (table.plan.stacked !== undefined && (own[from] ?? "").trim() === "" && apart.present[from])
      own[from] = above.get(table.parent!) ?? "";
    const key = table.keySlot < 0 ? -1 : member.titles.indexOf(table.plan.key!);
    let ident = (key < 0 ? "" : (own[from + key] ?? "")) || mark;
    if (ident === "") own[0] = ident = `+row ${number}`;
    above.set(table, ident);
    apart.put(member, number, own);
  };
  for (const row of rows) for (const member of [row.owner, ...row.first]) put(member, row);
}
