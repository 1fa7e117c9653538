/** A list that was made in a sheet, without marks: it is put behind what the records have, or takes its place. */
import { gather } from "../compare/gather.js";
import type { ProblemList } from "../compare/changes.js";
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { ByteWriter, decode } from "../bytes/writer.js";
import type { TableGuide } from "../plan/guide.js";
import { ACTION_TITLE, MARK_TITLE } from "../plan/plan.js";
import type { ReadRows } from "../relations/references.js";
import { formatMark } from "../tables/marks.js";
import type { RowFilter } from "../tables/filter.js";
import { writeCells } from "../tables/sheet-writer.js";
import type { PlainSheet } from "./plain.js";
import { readTitled } from "./titled.js";

/** Names of tables whose sheets are lists without marks. */
export interface GivenLists {
  /** Their rows are put behind the records that are there. */
  readonly append?: readonly string[];
  /** Their rows take the place of the records that are there: of each record around that they name, one by one. */
  readonly replace?: readonly string[];
}

/** The tables that were named, and whether their rows take the place of what is there. */
export function givenTables(tables: readonly TableGuide[], { append = [], replace = [] }: GivenLists): Map<TableGuide, boolean> {
  const given = new Map<TableGuide, boolean>();
  const lists = tables.filter(({ host }) => host === null);
  const names = lists.map(({ plan }) => plan.name);
  for (const name of [...append, ...replace]) {
    const table = lists.find(({ plan }) => plan.name === name);
    if (table === undefined) throw new CallError("list-table", { table: name, nearest: nearest(name, names), names });
    const below = tables.some((one) => one.parent === table && one.plan.stacked !== undefined);
    if (table.plan.stacked !== undefined || table.plan.tree !== undefined || table.plan.cross !== undefined || below)
      throw new CallError("list-plain", { table: name });
    given.set(table, replace.includes(name));
  }
  return given;
}

/** The sheet that the table would have; nothing when it is no such list. */
export async function listSheet(
  table: TableGuide,
  whole: boolean,
  { file, bytes }: { readonly file: string; readonly bytes: Uint8Array },
  problems: ProblemList,
  filter: RowFilter,
  readSource: ReadRows,
): Promise<PlainSheet | null> {
  const { titles, plan } = table;
  const say = { table: plan.name, file };
  const read = readTitled(titles, bytes, false, say, problems, 1);
  if (read === null) return null;
  const marked = read.rows.find(({ cells }) => (cells[0] ?? "").trim() !== "");
  if (marked !== undefined) {
    problems.add("list-marked", { mark: marked.cells[0]! }, { ...say, row: marked.number, column: MARK_TITLE, value: marked.cells[0] });
    return null;
  }
  const around = table.holder === null ? -1 : titles.indexOf(table.holder);
  const places = new Map<string, number[]>();
  if (whole) {
    await readSource((row, assembler) => {
      if (row.table !== table || (filter.active && !filter.passes(row, assembler))) return;
      const holder = assembler.holderOf(row);
      gather(places, holder === null ? "" : decode(holder.bytes, 0, holder.length), row.place);
    });
  }
  // a sheet that does not say what its rows are in stands for the only list that there is
  const [only, second] = read.present[around] ? [] : places.keys();
  const holderOf = (cells: readonly (string | undefined)[]): string =>
    read.present[around] ? (cells[around] ?? "").trim() : second === undefined ? (only ?? "") : "";
  const shown = titles.map((_, at) => at).filter((at) => at <= 1 || read.present[at]);
  const out = new ByteWriter(1 << 12);
  const numbers: number[] = [];
  const put = (mark: string, action: string, cells: readonly (string | undefined)[], number: number): void => {
    writeCells(
      out,
      shown.map((at) => (titles[at] === MARK_TITLE ? mark : titles[at] === ACTION_TITLE ? action : (cells[at] ?? ""))),
    );
    numbers.push(number);
  };
  writeCells(
    out,
    shown.map((at) => titles[at]),
  );
  const taken = new Map<string, number>();
  for (const { cells, number } of read.rows) {
    const holder = holderOf(cells);
    const nth = taken.get(holder) ?? 0;
    taken.set(holder, nth + 1);
    const place = places.get(holder)?.[nth];
    put(place === undefined ? "" : formatMark(table.salt, place), "", cells, number);
  }
  for (const [holder, all] of places) {
    const left = all.slice(taken.get(holder) ?? all.length);
    for (const place of left)
      put(
        formatMark(table.salt, place),
        "remove",
        titles.map((_, at) => (at === around ? holder : "")),
        0,
      );
  }
  return { bytes: out.take(), where: (row) => ({ row: numbers[row - 2] ?? row }) };
}
