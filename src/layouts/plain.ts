/** Sheets of every layout as plain ones, a row for each record of one table: what is behind them knows only these. */
import type { Comparison } from "../compare/compare.js";
import { ProblemList, type Change } from "../compare/changes.js";
import type { Guide, TableGuide } from "../plan/guide.js";
import { UPPER_TITLE } from "../plan/plan.js";
import type { ReadRows } from "../relations/references.js";
import type { Part } from "../source/parts.js";
import { openSheet, type TablesSource } from "../tables/containers.js";
import type { RowFilter } from "../tables/filter.js";
import type { Receipt } from "../tables/receipt.js";
import { Cross } from "./cross.js";
import { unfill } from "./fill.js";
import { givenTables, listSheet, type GivenLists } from "./given.js";
import { keepInStep, mirrorsOf, type MirrorSheet } from "./mirror.js";
import { stacksOf } from "./stack.js";
import { untree } from "./tree.js";
import { readTrees } from "./tree-index.js";
import { unstack } from "./unstack.js";

/** A row that does not go behind the others of its list, or leaves its place in it, or is below another one where it stands. */
export interface Placing {
  /** It stands where it belongs. */
  readonly stays?: true;
  /** A record that stays, by where it begins or ends, and whether the row goes before it; alone, or at the end, unless said. */
  readonly beside?: { readonly at: number; readonly before: boolean };
  /** Its number in the whole list. */
  readonly rank: number;
  /** What it was and is below, and how many records go along; nothing for those. */
  readonly says: { readonly old: string; readonly new: string; readonly holds: number } | null;
}

/** What stands for a table that has no plain sheet of its own: the sheet that it would have. */
export interface PlainSheet {
  readonly bytes: Uint8Array;
  /** Where its rows stand in what the analyst sees, when that is not in the row of that number. */
  readonly where?: (row: number) => { readonly row: number; readonly column?: string };
  /** Number of the last row that the analyst sees. */
  readonly last?: number;
  readonly placings?: ReadonlyMap<number, Placing>;
  /** By row, cells that the analyst's sheet has and this one leaves blank. */
  readonly says?: ReadonlyMap<number, Readonly<Record<string, string>>>;
  /** What the analyst's sheet calls what a record is in. */
  readonly nameOf?: (ident: string) => string;
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
  lists,
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
  readonly lists: GivenLists;
}): Promise<{ readonly plain: ReadonlyMap<TableGuide, PlainSheet | null>; readonly crossed: ProblemList }> {
  // rows of a cross table have other numbers than those of the links behind it: its problems are kept apart
  const crossed = new ProblemList();
  const plain = new Map<TableGuide, PlainSheet | null>();
  const sheetFileOf = (table: TableGuide): string => receipt.tables.find(({ name }) => name === table.plan.name)?.file ?? "";
  const readSheet = async (table: TableGuide): Promise<{ readonly file: string; readonly bytes: Uint8Array } | null> => {
    const file = sheetFileOf(table);
    const source = file === "" ? null : await openSheet(tables, file);
    return source === null ? null : { file, bytes: await source.read(0, source.size) };
  };
  for (const list of givenTables(guide.tables, lists)) {
    const sheet = await readSheet(list.table);
    const made = sheet === null ? null : await listSheet(list, sheet, problems, filter, readSource);
    if (made !== null) plain.set(list.table, made);
  }
  for (const table of guide.tables.filter(({ fills }) => fills.length > 0)) {
    const sheet = await readSheet(table);
    const made = sheet === null ? null : await unfill(table, sheet.file, sheet.bytes, problems, fresh, readSource);
    if (made !== null) plain.set(table, made);
  }
  for (const stack of stacksOf(guide.tables, (table) => table.shown)) {
    const [root, ...others] = stack.members;
    const sheet = await readSheet(root.table);
    if (sheet === null) continue;
    const sheets = await unstack(stack, sheet.file, sheet.bytes, problems, readSource, fresh);
    for (const { table } of sheets === null ? others : stack.members) {
      const bytes = sheets?.get(table);
      plain.set(table, bytes === undefined ? null : { bytes });
    }
  }
  for (const [table, index] of await readTrees(parts, guide)) {
    const sheet = await readSheet(table);
    const own = sheet === null ? null : await untree(index, sheet.file, sheet.bytes, problems, fresh, readSource);
    // records made for a path, and those that go along, are in no row of the sheet
    if (own !== null) plain.set(table, own);
  }
  for (const table of guide.tables.filter(({ plan }) => plan.cross !== undefined)) {
    const sheet = await readSheet(table);
    if (sheet === null) continue;
    const cross = new Cross(table);
    await readSource((row, assembler) =>
      cross.row(row, assembler, row.table === table && (!filter.active || filter.passes(row, assembler))),
    );
    const links = cross.read(sheet.bytes, sheet.file, crossed, fresh);
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
      sheets.set(table, made === undefined || made === null ? await readSheet(table) : { file, bytes: made.bytes });
    }
    const given = (table: TableGuide): MirrorSheet | null => sheets.get(table) ?? null;
    for (const [table, { bytes, last }] of await keepInStep(pair, given, problems, readSource, { fresh })) {
      // rows that follow those of another table are in no row of the sheet
      plain.set(table, { last, ...plain.get(table), bytes });
    }
  }
  return { plain, crossed };
}

/** Rows are named by where the analyst sees them; `crossed` are problems that are named so already. */
export function asSeen(
  comparison: Comparison,
  plain: ReadonlyMap<TableGuide, PlainSheet | null>,
  { problems: crossed }: Pick<ProblemList, "problems">,
): Comparison {
  const sheets = new Map([...plain].flatMap(([table, one]) => (one === null ? [] : [[table.plan.name, one] as const])));
  const seen = <T extends { readonly table: string; readonly row: number; readonly column?: string }>(one: T): T => {
    const sheet = sheets.get(one.table);
    if (sheet === undefined || one.row === 0) return one;
    const place = one.row > (sheet.last ?? Infinity) ? { row: 0, column: undefined } : sheet.where?.(one.row);
    if (place === undefined) return one;
    const rows = (one as { readonly rows?: readonly number[] }).rows?.map((row) => sheet.where?.(row).row ?? row);
    return {
      ...one,
      row: place.row,
      ...(rows === undefined ? {} : { rows }),
      ...(place.column === undefined || one.column === undefined ? {} : { column: place.column }),
    };
  };
  const named = (change: Change): Change => {
    const { nameOf, says } = sheets.get(change.table) ?? {};
    const { kind, old, new: now, cells } = change;
    const more = says?.get(change.row);
    if (cells !== undefined && more !== undefined) return { ...change, cells: { ...more, ...cells } };
    if (nameOf === undefined) return change;
    if (kind === "moved") return { ...change, old: nameOf(old ?? ""), new: nameOf(now ?? "") };
    return cells === undefined || !(UPPER_TITLE in cells)
      ? change
      : { ...change, cells: { ...cells, [UPPER_TITLE]: nameOf(cells[UPPER_TITLE]) } };
  };
  const { changes, healed, problems, aside, counts } = comparison;
  return {
    ...comparison,
    counts: { ...counts, problems: counts.problems + crossed.length },
    changes: changes.map((change) => named(seen(change))),
    healed: healed.map(seen),
    problems: [...problems.map(seen), ...crossed],
    aside: [...aside.map(seen), ...crossed.map(({ table, row }) => ({ table, row }))],
  };
}
