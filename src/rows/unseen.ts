/** Edits that a person does not see, and perhaps did not mean: a space more, another case. */
import type { CompiledPlan } from "../plan/compile.js";
import type { Context } from "./context.js";
import { normalised } from "../cells/normalised.js";
import { rowsOf, type Change, type Note, type Problem } from "../model/findings.js";
import { ProblemList } from "../model/problem-list.js";

interface Unseen {
  readonly table: string;
  readonly title: string;
  readonly rows: number[];
}

/** Adds notes on them, by column; rows with a problem hear of that. */
export function noteUnseen<
  T extends { readonly changes: readonly Change[]; readonly problems: readonly Problem[]; readonly notes: readonly Note[] },
>(described: T, { compiled, known }: Context): T {
  return { ...described, notes: [...described.notes, ...unseenEdits(compiled, described.changes, [...described.problems, ...known])] };
}

function unseenEdits(compiled: CompiledPlan, changes: readonly Change[], problems: readonly Problem[]): readonly Note[] {
  const slight = new Map<string, Unseen>();
  const spaced = new Map<string, Unseen>();
  const bad = new Set(problems.flatMap((problem) => rowsOf(problem).map((row) => `${problem.table}\n${row}`)));
  // spaces around what is packed in a cell are for people
  const packed = new Set(compiled.tables.flatMap((table) => table.inline.map(({ column }) => `${table.plan.name}\n${column.title}`)));
  const put = (map: Map<string, Unseen>, table: string, title: string, row: number): void => {
    const id = `${table}\n${title}`;
    const one = map.get(id) ?? { table, title, rows: [] };
    map.set(id, one);
    one.rows.push(row);
  };
  const endsInSpace = (table: string, title: string, content: string): boolean =>
    content !== content.trim() && !packed.has(`${table}\n${title}`);
  for (const { kind, table, column, row, old, new: now, cells } of changes) {
    if (row === 0 || bad.has(`${table}\n${row}`)) continue;
    if (kind === "changed" && old && now) {
      if (normalised(old) === normalised(now)) put(slight, table, column, row);
      else if (old === old.trim() && endsInSpace(table, column, now)) put(spaced, table, column, row);
    }
    for (const [title, content] of Object.entries(cells ?? {})) if (endsInSpace(table, title, content)) put(spaced, table, title, row);
  }
  const list = new ProblemList();
  for (const { table, title, rows } of slight.values()) list.note("edits-slight", { title, rows }, table);
  for (const { table, title, rows } of spaced.values()) list.note("edits-spaced", { title, rows }, table);
  return list.notes;
}
