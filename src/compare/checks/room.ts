/** Groups of fields in one line: a line has room for so many, and one with nothing in it is none. */
import type { CompiledTable } from "../../plan/compile.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import { mostOf } from "../most.js";
import type { DifferingRow, NewRow, Target } from "../../rows/row-edits.js";

export function checkRoom(draft: Draft, ctx: Context): void {
  for (const table of ctx.compiled.tables) {
    const most = mostOf(table, ctx.parts);
    if (most === null) continue;
    checkFull(table, most, draft, ctx);
    checkEmpty(table, draft, ctx);
  }
}

type Around = number | NewRow;

function aroundOf(target: Target | null): Around | null {
  if (target === null || "file" in target) return null;
  return "row" in target ? target.row : target.place;
}

function checkFull(table: CompiledTable, most: number, { rows, news, moves }: Draft, { base, findings }: Context): void {
  const comers = new Map<Around, (DifferingRow | NewRow)[]>();
  const come = (row: DifferingRow | NewRow, target: Target | null): void => {
    const around = aroundOf(target);
    if (around !== null) comers.set(around, [...(comers.get(around) ?? []), row]);
  };
  for (const row of news) if (row.table === table) come(row, row.target);
  for (const [row, target] of moves) if (row.snapshot.table === table) come(row, target);
  if (comers.size === 0) return;
  const leaving = new Set(
    [...rows.filter(({ removed }) => removed), ...moves.keys()]
      .filter(({ snapshot }) => snapshot.table === table)
      .map(({ snapshot }) => snapshot.place),
  );
  const had = base.tables[table.index].parents.find(new Set([...comers.keys()].filter((around) => typeof around === "number")));
  for (const [around, coming] of comers) {
    const stay = typeof around === "number" ? (had.get(around) ?? []).filter((place) => !leaving.has(place)).length : 0;
    for (const { sheet, row } of coming.slice(Math.max(0, most - stay)))
      findings.add("group-full", { group: table.plan.name, most }, sheet.place(row));
  }
}

function checkEmpty(table: CompiledTable, { rows, news }: Draft, { findings }: Context): void {
  for (const { snapshot, cells, sheet, row, removed } of rows) {
    if (snapshot.table !== table || removed || cells.length === 0) continue;
    const { rest, contents } = snapshot;
    const says = contents.some((was, slot) => (cells.find((cell) => cell.slot === slot)?.content ?? was) !== "");
    if (!says && rest.a === 0 && rest.b === 0) findings.add("group-emptied", { group: table.plan.name }, sheet.place(row));
  }
  for (const { table: own, values, sheet, row } of news)
    if (own === table && values.every((value) => value === null))
      findings.add("group-emptied", { group: table.plan.name }, sheet.place(row));
}
