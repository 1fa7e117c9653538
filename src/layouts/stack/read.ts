/**
 * A sheet that shows several tables, as the rows of each, which keep their numbers. So everything behind it sees tables as if each had a sheet of its own.
 */
import type { SheetReading, TableRows } from "../layout.js";
import type { ProblemList } from "../../model/problem-list.js";
import type { CompiledTable } from "../../plan/compile.js";
import { parseMark } from "../../model/marks.js";
import { copiesAsNew } from "./copies.js";
import { mergeRepeats } from "./repeat.js";
import type { Member, Stack } from "./members.js";
import { asNew, readTitled, type TitledRow } from "../../sheets/titled.js";
import { isFilled, Apart, type StackRow, isOwn } from "./rows.js";

/** The rows of each table; nothing when it is no such sheet, so that whoever reads it says why. */
export async function unstack(stack: Stack, reading: SheetReading): Promise<ReadonlyMap<CompiledTable, TableRows> | null> {
  const { sheet: given, problems, fresh, isWhole } = reading;
  const say = { table: stack.members[0].table.plan.name, file: given.name };
  const sheet = await readTitled(stack.titles, given, { say, problems, needsMark: !fresh && readsMarks(stack) });
  if (sheet === null) return null;
  // what a row is in is known without a column for it where cells are repeated, or all rows are new
  const told = (at: number): boolean => (stack.repeats || fresh) && stack.members.some(({ from }, i) => i > 0 && from === at);
  const apart = new Apart(
    stack,
    stack.titles.map((_, at) => sheet.present[at] || told(at)),
    sheet,
  );
  const found = (fresh ? sheet.rows.map(asNew) : sheet.rows).flatMap((row) => rowOf(stack, row, say, problems) ?? []);
  const rows = reading.copiesAreNew && !fresh ? await copiesAsNew(stack, found, reading.readSource) : found;
  if (stack.repeats) await mergeRepeats(stack, rows, apart, reading);
  else putBeneath(stack, rows, apart, isWhole);
  return new Map(apart.tables());
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

/** The table of a new row that only says what it is in. */
function holderOnly({ members }: Stack, cells: readonly (string | undefined)[]): Member | undefined {
  return members.find(({ table, from }) => table.holder !== null && (cells[from] ?? "").trim() !== "");
}

/** A row that does not say what it is in belongs to the one above that can hold it, where that is known to be the one above. */
function putBeneath(stack: Stack, rows: readonly StackRow[], apart: Apart, isWhole: boolean): void {
  const above = new Map<CompiledTable, string>();
  const put = (member: Member, { number, mark, cells }: StackRow): void => {
    const { table, from } = member;
    const own = [...cells];
    if (isWhole && table.plan.stacked !== undefined && (own[from] ?? "").trim() === "" && apart.present[from])
      own[from] = above.get(table.parent!) ?? "";
    const key = table.keySlot < 0 ? -1 : member.titles.indexOf(table.plan.key!);
    let ident = (key < 0 ? "" : (own[from + key] ?? "")) || mark;
    if (ident === "") own[0] = ident = `+row ${number}`;
    above.set(table, ident);
    apart.put(member, number, own);
  };
  for (const row of rows) for (const member of [row.owner, ...row.first]) put(member, row);
}
