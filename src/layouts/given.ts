/** A list that was made in a sheet, without marks: it is put behind what the records have, or takes its place. */
import { isZero } from "../bytes/hash.js";
import { pushTo } from "../model/push-to.js";
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import { decode, type ByteWriter } from "../bytes/writer.js";
import type { CompiledTable } from "../plan/compile.js";
import { ACTION_TITLE, MARK_TITLE, PLACE_TITLE } from "../model/plan.js";
import { formatMark } from "../model/marks.js";
import type { ColumnView, GivenLists, Placing, SheetPlace, SheetReading, TableRow, TableRows } from "./layout.js";
import { readHosts } from "../records/items.js";
import { alignItems, besideIn, keepIdentity } from "./align.js";
import { readAll, readTitled, type TitledRow } from "../sheets/titled.js";

interface GivenList {
  readonly table: CompiledTable;
  /** Its rows take the place of those that are there. */
  readonly whole: boolean;
  /** What the record around is called in which rows are that do not say so. */
  readonly into: string;
}

/** A record that is there, with its cells by title. */
interface Held {
  readonly place: number;
  readonly start: number;
  readonly end: number;
  /** Something of it is in no column. */
  readonly hides: boolean;
  readonly cells: readonly (string | undefined)[];
}

/** A row of the sheet, or none, the record whose place it takes, and where it goes when it does not stay. */
interface InPlace {
  readonly row: TitledRow | null;
  readonly was: Held | null;
  readonly placing?: Placing;
}

/**
 * Rows in place of the records of one list: one after the other, as nothing of these is left; where something of them is in no
 * column, it stays with those that say what they said.
 */
function inPlace(held: readonly Held[], rows: readonly TitledRow[], shown: readonly number[]): InPlace[] {
  if (!held.some(({ hides }) => hides)) {
    const left = held.slice(rows.length).map((was) => ({ row: null, was }));
    return [...rows.map((row, i) => ({ row, was: held[i] ?? null })), ...left];
  }
  const cellsOf = ({ cells }: Pick<Held, "cells">): string[] => shown.map((c) => cells[c] ?? "");
  const [old, now] = [held.map(cellsOf), rows.map(cellsOf)];
  const aligned = keepIdentity(alignItems(old, now), old, now);
  const besideOf = besideIn(aligned, held);
  return aligned.map((one) => {
    if (one.kind === "gone") return { row: null, was: held[one.old] };
    const row = rows[one.now];
    if (one.kind === "kept" || one.kind === "changed") return { row, was: held[one.old] };
    const beside = besideOf(one.now);
    if (one.kind === "new") return { row, was: null, placing: { beside, rank: one.now, says: null } };
    const says = { column: PLACE_TITLE, old: String(one.old + 1), new: String(one.now + 1), holds: 0 };
    return { row, was: held[one.old], placing: { beside, rank: one.now, says } };
  });
}

export const givenLists: ColumnView = {
  name: "given",
  read: async ({ compiled, lists, sheetOf }) => {
    const laid = new Map<CompiledTable, TableRows>();
    for (const list of givenTables(compiled.tables, lists)) {
      const reading = await sheetOf(list.table);
      const rows = reading === null ? null : await listSheet(list, reading);
      if (rows !== null) laid.set(list.table, rows);
    }
    return laid;
  },
};

/** The tables that were named. */
function givenTables(tables: readonly CompiledTable[], { append = [], replace = [] }: GivenLists): GivenList[] {
  const lists = tables.filter(({ host }) => host === null);
  const names = lists.map(({ plan }) => plan.name);
  const seen = new Set<string>();
  return [...append.map((said) => ({ said, whole: false })), ...replace.map((said) => ({ said, whole: true }))].map(({ said, whole }) => {
    const name = names.includes(said) ? said : said.split("=", 1)[0];
    const into = said.slice(name.length + 1).trim();
    const table = lists.find(({ plan }) => plan.name === name);
    if (table === undefined) throw new CallError("list-table", { table: name, nearest: nearest(name, names), names });
    if (table.plan.arrangement !== undefined) throw new CallError("list-plain", { table: name });
    if (seen.has(name)) throw new CallError("list-twice", { table: name });
    seen.add(name);
    if (into !== "" && table.holder === null) throw new CallError("list-top", { table: name, into });
    return { table, whole, into };
  });
}

/** The rows that the table would have; nothing when it is no such list. */
async function listSheet(
  { table, whole, into }: GivenList,
  { sheet, problems, filter, readRests }: SheetReading,
): Promise<TableRows | null> {
  const { titles, plan } = table;
  const say = { table: plan.name, file: sheet.name };
  const read = await readTitled(titles, sheet, { say, problems, needsMark: false, least: 1 });
  if (read === null) {
    if ((await readAll(sheet, () => false)) === null) return null;
    const own = titles.filter((title) => title !== MARK_TITLE && title !== ACTION_TITLE);
    problems.add("list-titles", { table: plan.name, titles: own }, { ...say, row: 1 });
    return { titles, rows: [] };
  }
  const marked = read.rows.find(({ cells }) => (cells[0] ?? "").trim() !== "");
  if (marked !== undefined) {
    problems.add("list-marked", { mark: marked.cells[0]! }, { ...say, row: marked.number, column: MARK_TITLE, value: marked.cells[0] });
    return null;
  }
  const around = table.holder === null ? -1 : titles.indexOf(table.holder);
  const places = new Map<string, Held[]>();
  const called = ({ bytes, length }: ByteWriter): string => decode(bytes, 0, length);
  if (whole) {
    const holders: string[] = [];
    await readHosts(readRests, (row, assembler) => {
      if (row.table === table.parent && into !== "") holders.push(called(assembler.identOf(row)));
      if (row.table !== table || (filter.active && !filter.passes(row, assembler))) return null;
      const holder = assembler.holderOf(row);
      const { place, unitStart: start, end, rest, inside } = row;
      const hides = !isZero(rest) || !isZero(inside);
      return (cells) => pushTo(places, holder === null ? "" : called(holder), { place, start, end, hides, cells: ["", "", ...cells] });
    });
    // of rows that go nowhere it is told where they are put
    if (table.parent !== null && into !== "" && read.rows.length === 0 && !holders.includes(into)) {
      const { name, key = "fold mark" } = table.parent.plan;
      problems.add("parent-unknown", { parent: name, key, text: into, nearest: nearest(into, holders) }, say);
    }
  }
  // a sheet that does not say what its rows are in stands for the only list that there is
  const [only, second] = read.present[around] ? [] : places.keys();
  const holderOf = (cells: readonly (string | undefined)[]): string =>
    (cells[around] ?? "").trim() || into || (second === undefined ? (only ?? "") : "");
  const shown = titles.map((_, at) => at).filter((at) => at <= 1 || read.present[at] || (at === around && into !== ""));
  const rows: TableRow[] = [];
  const put = (mark: string, action: string, cells: readonly (string | undefined)[], at: SheetPlace | null, placing?: Placing): void => {
    const own = shown.map((c) => (c === 0 ? mark : c === 1 ? action : c === around ? holderOf(cells) : (cells[c] ?? "")));
    rows.push({ number: rows.length + 2, at, cells: own, placing });
  };
  const said = new Map<string, TitledRow[]>(into === "" ? [] : [[into, []]]);
  for (const row of read.rows) pushTo(said, holderOf(row.cells), row);
  const own = shown.filter((c) => c > 1 && c !== around);
  for (const [holder, list] of said) {
    const held = places.get(holder) ?? [];
    for (const { row, was, placing } of inPlace(held, list, own)) {
      if (row !== null) put(was === null ? "" : formatMark(table.salt, was.place), "", row.cells, { row: row.number }, placing);
      else
        put(
          formatMark(table.salt, was!.place),
          "remove",
          titles.map((_, at) => (at === around ? holder : "")),
          null,
        );
    }
  }
  return { titles: shown.map((at) => titles[at]), rows, unmarked: true };
}
