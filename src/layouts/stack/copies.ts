/**
 * Copied rows that are taken as new records: those that stand beneath a copied row, or repeat its cells, belong to the
 * new record, as long as they say that they are in the old one.
 */
import { pushTo } from "../../model/push-to.js";
import { parseMark } from "../../model/marks.js";
import type { CompiledTable } from "../../plan/compile.js";
import type { ReadRows } from "../../records/reader.js";
import { keyOf, type Member, type Stack } from "./members.js";
import type { StackRow } from "./rows.js";

/** Clears the marks of copies; what names the record around then names the copy of that. */
export async function copiesAsNew(stack: Stack, rows: readonly StackRow[], readSource: ReadRows): Promise<readonly StackRow[]> {
  const copies = await findCopies(stack, rows, readSource);
  if (copies.size === 0) return rows;
  const above = new Map<Member, { readonly was: string; readonly now: string }>();
  return rows.map((row) => {
    const { owner, number } = row;
    const isCopy = copies.has(row);
    if (!isCopy) {
      above.delete(owner);
      return row;
    }
    const cells = [...row.cells];
    cells[0] = "";
    if (stack.repeats) {
      // the key that was edited names the new record
      const key = keyOf(stack.members[0], cells);
      if (key !== "") cells[owner.from] = key;
      return { ...row, mark: "", cells };
    }
    const outer = stack.members.find(({ table }) => table === owner.table.parent);
    const around = outer === undefined ? undefined : above.get(outer);
    if (around !== undefined && [around.was, ""].includes((cells[owner.from] ?? "").trim())) cells[owner.from] = around.now;
    const key = keyOf(owner, cells);
    const name = `+row ${number}`;
    if (key === "") cells[0] = name;
    above.set(owner, { was: copies.get(row)!, now: key === "" ? name : key });
    return { ...row, mark: "", cells };
  });
}

/**
 * Rows with the mark of another one, and what the record is called. The original is the one that says what the source says;
 * of several, one that does not stand beneath a copy.
 */
async function findCopies(
  { members, repeats }: Stack,
  rows: readonly StackRow[],
  readSource: ReadRows,
): Promise<ReadonlyMap<StackRow, string>> {
  const byMark = new Map<string, StackRow[]>();
  for (const row of rows) if (row.mark !== "" && !row.mark.startsWith("+")) pushTo(byMark, row.mark, row);
  const marked = [...byMark.values()].filter((same) => same.length > 1);
  const copies = new Map<StackRow, string>();
  if (marked.length === 0) return copies;
  const wanted = new Map(marked.map((same) => [`${same[0].owner.table.index} ${parseMark(same[0].owner.table.salt, same[0].mark)}`, same]));
  const found = new Map<readonly StackRow[], { readonly ident: string; readonly asHatched: readonly StackRow[] }>();
  await readSource((row, assembler) => {
    const same = wanted.get(`${row.table.index} ${row.place}`);
    if (same === undefined) return;
    const { owner, mark } = same[0];
    const { columns } = row.table.plan;
    const says = ({ cells }: StackRow): boolean =>
      owner.titles.every((title, i) => {
        const slot = columns.findIndex((column) => column.title === title);
        return slot < 0 || (cells[owner.from + i] ?? "") === assembler.text(row, slot);
      });
    const ident = row.table.keySlot < 0 ? mark : assembler.text(row, row.table.keySlot);
    found.set(same, { ident, asHatched: same.filter(says) });
  });
  const above = repeats ? new Map<StackRow, StackRow>() : rowsAround(rows);
  for (const member of members) {
    for (const [same, { ident, asHatched }] of found) {
      if (same[0].owner !== member) continue;
      const isInCopy = (row: StackRow): boolean => above.has(row) && copies.has(above.get(row)!);
      const original = asHatched.find((row) => !isInCopy(row)) ?? asHatched.at(0) ?? same[0];
      for (const one of same) if (one !== original) copies.set(one, ident);
    }
  }
  return copies;
}

/** For rows beneath others, the nearest one above them that can be what they are in. */
function rowsAround(rows: readonly StackRow[]): ReadonlyMap<StackRow, StackRow> {
  const around = new Map<StackRow, StackRow>();
  const last = new Map<CompiledTable, StackRow>();
  for (const row of rows) {
    const { table } = row.owner;
    const one = table.parent === null ? undefined : last.get(table.parent);
    if (one !== undefined) around.set(row, one);
    last.set(table, row);
  }
  return around;
}
