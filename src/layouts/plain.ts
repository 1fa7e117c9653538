/** Sheets of every layout as plain ones, a row for each record of one table: what is behind them knows only these. */
import type { Comparison } from "../compare/compare.js";
import type { Problem, ProblemList } from "../compare/changes.js";
import type { Guide, TableGuide } from "../plan/guide.js";
import type { ReadRows } from "../relations/references.js";
import type { Part } from "../source/parts.js";
import type { TablesSource } from "../tables/containers.js";
import type { RowFilter } from "../tables/filter.js";
import type { Receipt } from "../tables/receipt.js";
import { Cross } from "./cross.js";
import { keepInStep, mirrorsOf, type MirrorSheet } from "./mirror.js";
import { stacksOf } from "./stack.js";
import { untree } from "./tree.js";
import { readTrees } from "./tree-index.js";
import { unstack } from "./unstack.js";

/** What stands for a table that has no plain sheet of its own: the sheet that it would have. */
export interface PlainSheet {
  readonly bytes: Uint8Array;
  /** Where its rows stand in what the analyst sees, when that is not in the row of that number. */
  readonly where?: (row: number) => { readonly row: number; readonly column?: string };
}

/** Sheets that show several tables, as one of each; `null` for tables whose sheet cannot be taken apart. */
export async function plainSheets({
  parts,
  guide,
  receipt,
  tables,
  problems,
  fresh,
  filter,
  readSource,
}: {
  readonly parts: readonly Part[];
  readonly guide: Guide;
  readonly receipt: Receipt;
  readonly tables: TablesSource;
  readonly problems: ProblemList;
  /** All rows are new. */
  readonly fresh: boolean;
  readonly filter: RowFilter;
  readonly readSource: ReadRows;
}): Promise<ReadonlyMap<TableGuide, PlainSheet | null>> {
  const plain = new Map<TableGuide, PlainSheet | null>();
  const sheetFileOf = (table: TableGuide): string => receipt.tables.find(({ name }) => name === table.plan.name)?.file ?? "";
  const openSheet = async (table: TableGuide): Promise<{ readonly file: string; readonly bytes: Uint8Array } | null> => {
    const file = sheetFileOf(table);
    const source = file === "" ? null : await tables.open(file);
    return source === null ? null : { file, bytes: await source.read(0, source.size) };
  };
  for (const stack of stacksOf(guide.tables, (table) => table.shown)) {
    const [root, ...others] = stack.members;
    const sheet = await openSheet(root.table);
    if (sheet === null) continue;
    const sheets = await unstack(stack, sheet.file, sheet.bytes, problems, readSource, fresh);
    for (const { table } of sheets === null ? others : stack.members) {
      const bytes = sheets?.get(table);
      plain.set(table, bytes === undefined ? null : { bytes });
    }
  }
  for (const [table, index] of await readTrees(parts, guide)) {
    const sheet = await openSheet(table);
    const own = sheet === null ? null : untree(index, sheet.file, sheet.bytes, problems, fresh);
    // records made for a path are in no row of the sheet
    if (own !== null) plain.set(table, { bytes: own.bytes, where: (row) => ({ row: row > own.last ? 0 : row }) });
  }
  for (const table of guide.tables.filter(({ plan }) => plan.cross !== undefined)) {
    const sheet = await openSheet(table);
    if (sheet === null) continue;
    const cross = new Cross(table);
    await readSource((row, assembler) =>
      cross.row(row, assembler, row.table === table && (!filter.active || filter.passes(row, assembler))),
    );
    const links = cross.read(sheet.bytes, sheet.file, problems);
    if (links === null) continue;
    plain.set(table, { bytes: links.bytes(), where: (row) => links.where(row) });
    const facts = { count: cross.loose, down: cross.down.title, across: cross.across.title };
    if (cross.loose > 0) problems.note("cross-loose", facts, table.plan.name);
  }
  for (const pair of mirrorsOf(guide.tables)) {
    const sheets = new Map<TableGuide, MirrorSheet | null>();
    for (const { table } of pair) {
      const made = plain.get(table);
      const file = sheetFileOf(table);
      sheets.set(table, made === undefined || made === null ? await openSheet(table) : { file, bytes: made.bytes });
    }
    const given = (table: TableGuide): MirrorSheet | null => sheets.get(table) ?? null;
    const { repeats } = parts[0].dialect;
    for (const [table, { bytes, last }] of await keepInStep(pair, given, problems, readSource, { fresh, repeats })) {
      const before = plain.get(table)?.where;
      // rows that follow those of another table are in no row of the sheet
      plain.set(table, { bytes, where: (row) => (row > last ? { row: 0 } : (before?.(row) ?? { row })) });
    }
  }
  return plain;
}

/** Rows are named by where the analyst sees them; `told` are problems that the layouts found themselves, and named so. */
export function asSeen(comparison: Comparison, plain: ReadonlyMap<TableGuide, PlainSheet | null>, told: ReadonlySet<Problem>): Comparison {
  const places = new Map([...plain].flatMap(([table, one]) => (one?.where === undefined ? [] : [[table.plan.name, one.where] as const])));
  if (places.size === 0) return comparison;
  const seen = <T extends { readonly table: string; readonly row: number; readonly column?: string }>(one: T): T => {
    const place = one.row === 0 ? undefined : places.get(one.table)?.(one.row);
    if (place === undefined) return one;
    return { ...one, row: place.row, ...(place.column === undefined || one.column === undefined ? {} : { column: place.column }) };
  };
  const { changes, healed, problems, aside } = comparison;
  return {
    ...comparison,
    changes: changes.map(seen),
    healed: healed.map(seen),
    problems: problems.map((one) => (told.has(one) ? one : seen(one))),
    aside: aside.map(seen),
  };
}
