/** What a comparison found, by record: windows of it for the page, and what of it is to be folded. */
import type { Change, Compared, Problem, SheetRowName } from "hatch-fold";
import type { ChangedRecord, ChangeFilter, Found, TakenRows } from "../protocol";
import type { Document } from "./document";

/** So many of the problems, warnings and healed cells are told. */
const MOST_TOLD = 500;
/** So many changes of one record are shown. */
const MOST_CHANGES = 40;

interface Record {
  readonly table: string;
  readonly row: number;
  readonly changes: Change[];
}

let last: { readonly compared: Compared; readonly records: readonly Record[] } | null = null;

function recordsOf(compared: Compared): readonly Record[] {
  if (last?.compared === compared) return last.records;
  const byRow = new Map<string, Record>();
  for (const change of compared.changes) {
    const id = `${change.table}\n${change.row}`;
    const record = byRow.get(id) ?? { table: change.table, row: change.row, changes: [] };
    byRow.set(id, record);
    record.changes.push(change);
  }
  last = { compared, records: [...byRow.values()] };
  return last.records;
}

export function foundOf(document: Document, compared: Compared): Found {
  const records = recordsOf(compared);
  const tables = new Map<string, number>();
  for (const { table } of compared.changes) tables.set(table, (tables.get(table) ?? 0) + 1);
  return {
    counts: compared.counts,
    warnings: compared.warnings.length,
    records: records.length,
    taken: records.filter((record) => document.isTaken(record)).length,
    changes: compared.changes.length,
    problems: compared.problems.slice(0, MOST_TOLD),
    inTheWay: inTheWay(document, compared),
    warned: compared.warnings.slice(0, MOST_TOLD),
    notes: compared.notes,
    healed: compared.healed.slice(0, MOST_TOLD),
    tables: [...tables].map(([table, changes]) => ({ table, changes })),
  };
}

/** How many problems are of rows that are to be folded, or come from such. */
function inTheWay(document: Document, { problems }: Pick<Compared, "problems">): number {
  return problems.filter((problem) => rowsBehind(problem).some((one) => one.row <= 1 || document.isTaken(one))).length;
}

/** Rows without which there would be no problem: what refers to a record that goes is wrong because of that one's row. */
function rowsBehind({ code, table, row, rows = [row], facts }: Problem): readonly SheetRowName[] {
  if (code === "ref-lost" && typeof facts.by === "string" && typeof facts.row === "number") return [{ table: facts.by, row: facts.row }];
  return rows.map((one) => ({ table, row: one }));
}

function filtered(compared: Compared, { table, kind, text }: ChangeFilter): Record[] {
  const wanted = text.trim().toLowerCase();
  const says = ({ record, column, old, new: made }: Change): boolean =>
    [record, column, old, made].some((part) => part?.toLowerCase().includes(wanted) === true);
  return recordsOf(compared).filter(
    (record) =>
      (table === null || record.table === table) &&
      (kind === null || record.changes.some((change) => change.kind === kind)) &&
      (wanted === "" || record.changes.some(says)),
  );
}

export function changesIn(
  document: Document,
  compared: Compared,
  filter: ChangeFilter,
  from: number,
  to: number,
): { total: number; records: ChangedRecord[] } {
  const all = filtered(compared, filter);
  return {
    total: all.length,
    records: all.slice(from, to).map(({ table, row, changes }) => ({
      table,
      row,
      record: changes[0].record,
      isTaken: document.isTaken({ table, row }),
      changes: changes.slice(0, MOST_CHANGES),
    })),
  };
}

/** Ticks records off, or on again. */
export function take(document: Document, compared: Compared, filter: ChangeFilter, rows: TakenRows, isTaken: boolean): void {
  const wrong = (): readonly SheetRowName[] => compared.problems.flatMap(rowsBehind);
  for (const { table: name, row } of rows === "problems" ? wrong() : (rows ?? filtered(compared, filter))) {
    const table = document.table(name);
    if (table === undefined) continue;
    const left = document.left.get(name) ?? new Set<number>();
    document.left.set(name, left);
    if (isTaken) left.delete(table.idAt(row));
    else left.add(table.idAt(row));
  }
}
