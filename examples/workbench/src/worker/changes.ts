/** What a comparison found, by record: windows of it for the page, and what of it is to be folded. */
import type { Change, Compared } from "hatch-fold";
import type { Around, ChangedRecord, ChangeFilter, Found, Lines, TakenRows } from "../protocol";
import type { Document } from "./document";

/** So many of the problems, warnings and healed cells are told. */
const MOST_TOLD = 500;
/** Lines around what changed. */
const CONTEXT = 3;
const MOST_LINES = 40;

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

/** How many problems are of rows that are to be folded. */
export function inTheWay(document: Document, { problems }: Pick<Compared, "problems">): number {
  return problems.filter(({ table, row, rows = [row] }) => rows.some((one) => one <= 1 || document.isTaken({ table, row: one }))).length;
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
      changes: changes.slice(0, MOST_LINES),
    })),
  };
}

/** Ticks records off, or on again. */
export function take(document: Document, compared: Compared, filter: ChangeFilter, rows: TakenRows, isTaken: boolean): void {
  const wrong = (): { table: string; row: number }[] =>
    compared.problems.flatMap(({ table, row, rows: all = [row] }) => all.map((one) => ({ table, row: one })));
  for (const { table: name, row } of rows === "problems" ? wrong() : (rows ?? filtered(compared, filter))) {
    const table = document.table(name);
    if (table === undefined) continue;
    const left = document.left.get(name) ?? new Set<number>();
    document.left.set(name, left);
    if (isTaken) left.delete(table.idAt(row));
    else left.add(table.idAt(row));
  }
}

/** The lines of the source around what one record changes, and what they are after the fold. */
export async function around(document: Document, name: string, row: number): Promise<Around | null> {
  if (document.files.length !== 1 || /\.(?:gz|zip)$/i.test(document.name)) return null;
  const review = await document.settled();
  const { bytes } = document.files[0];
  let [before, after]: [Uint8Array, Uint8Array] = [new Uint8Array(), new Uint8Array()];
  try {
    const folded = await review.fold({ unproved: true, partial: true, only: (one) => one.table === name && one.row === row });
    [before, after] = [new Uint8Array(await bytes.arrayBuffer()), folded.bytes];
  } catch {
    return null;
  }
  const least = Math.min(before.length, after.length);
  let from = 0;
  while (from < least && before[from] === after[from]) from++;
  if (from === before.length && from === after.length) return null;
  let same = 0;
  while (same < least - from && before[before.length - 1 - same] === after[after.length - 1 - same]) same++;
  const text = new TextDecoder(document.receipt.source.encoding);
  return { before: linesAround(before, from, before.length - same, text), after: linesAround(after, from, after.length - same, text) };
}

const LINE_FEED = 0x0a;
function linesAround(bytes: Uint8Array, from: number, to: number, decoder: TextDecoder): Lines {
  let [start, end] = [from, Math.max(from, to)];
  for (let left = CONTEXT + 1; start > 0 && from - start < 4000; start--) if (bytes[start - 1] === LINE_FEED && --left === 0) break;
  for (let left = CONTEXT + 1; end < bytes.length && end - to < 4000; end++) if (bytes[end] === LINE_FEED && --left === 0) break;
  let first = 1;
  for (let i = 0; i < start; i++) if (bytes[i] === LINE_FEED) first++;
  const text = decoder.decode(bytes.subarray(start, end));
  const lines = text.split("\n");
  return { first, text: lines.length > MOST_LINES ? [...lines.slice(0, MOST_LINES), "…"].join("\n") : text };
}
