/** A column that shows what is left of a record taken apart (null, [] or {}) must agree with the columns and rows of its parts. */
import { standInsOf } from "../../layouts/empty-stand-ins.js";
import { Kind } from "../../model/kind.js";
import { startsWith, type Step } from "../../model/path.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { DifferingRow } from "../../rows/row-edits.js";
import type { ProblemList } from "../../model/problem-list.js";
import type { CompiledTable } from "../../plan/compile.js";

export function checkStandIns({ rows, news }: Draft, { base, findings }: Context): void {
  for (const { table, sheet, row, values, contents } of news) {
    for (const [slot, value] of values.entries()) {
      const { title, hidden, at } = table.plan.columns[slot];
      const saysNothing = value === null || value.kind === Kind.EmptyRecord || hidden === true || at.steps.length === 0;
      const parts = saysNothing ? [] : standInsOf(table)[slot].parts;
      if (parts.some((part) => values[part] !== null))
        findings.add("rest-filled", { title }, sheet.place(row, title, contents[slot] ?? ""));
    }
  }
  const edited = rows.filter(({ snapshot, cells }) => snapshot.table.host === null && cells.length > 0);
  for (const table of new Set(edited.map(({ snapshot }) => snapshot.table))) {
    const mine = edited.filter(({ snapshot }) => snapshot.table === table);
    const places = new Set(mine.map(({ snapshot }) => snapshot.place));
    // by table inside this one: the records that hold some of its rows
    const holders = new Map<CompiledTable, ReadonlySet<number>>();
    const holdsRows = (place: number, steps: readonly Step[]): boolean =>
      table.nested.some((inner) => {
        if (!startsWith(inner.steps, steps)) return false;
        const { records, parents } = base.tables[inner.table.index];
        if (inner.table.parent !== table) return records > 0;
        const known = holders.get(inner.table) ?? new Set(parents.find(places).keys());
        holders.set(inner.table, known);
        return known.has(place);
      });
    for (const row of mine) checkRow(row, holdsRows, findings);
  }
}

function checkRow(
  { snapshot, sheet, row, cells }: DifferingRow,
  holdsRows: (place: number, steps: readonly Step[]) => boolean,
  findings: ProblemList,
): void {
  const { columns } = snapshot.table.plan;
  const { kinds } = snapshot;
  const kindOf = (slot: number): Kind => cells.find((cell) => cell.slot === slot)?.value.kind ?? (kinds[slot] as Kind);
  for (const { slot, content, value } of cells) {
    const { steps } = columns[slot].at;
    if (steps.length === 0) continue;
    const place = sheet.place(row, columns[slot].title, content);
    const kin = standInsOf(snapshot.table)[slot];
    const filled = kin.parts.some((part) => kindOf(part) !== Kind.Absent) || holdsRows(snapshot.place, steps);
    if (filled && (value.kind === Kind.Null || (value.kind !== Kind.Absent && kinds[slot] === Kind.Absent)))
      findings.add("rest-filled", { title: columns[slot].title }, place);
    const beside = value.kind === Kind.Absent ? kin.beside.find((part) => kindOf(part) !== Kind.Absent) : undefined;
    if (beside !== undefined) findings.add("beside-left", { title: columns[slot].title, beside: columns[beside].title }, place);
    const { rest } = kin;
    const left = rest < 0 ? Kind.Absent : kindOf(rest);
    if (value.kind !== Kind.Absent && left !== Kind.Absent && left !== Kind.Null && left !== Kind.EmptyRecord) {
      findings.add("under-rest", { title: columns[slot].title, rest: columns[rest].title }, place);
    }
  }
}
