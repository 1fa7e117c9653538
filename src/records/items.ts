/** Lists that are shown in the sheet of the record around them: kept until that record's row is complete. */
import { decode } from "../bytes/writer.js";
import type { InlineColumn, CompiledTable } from "../plan/compile.js";
import type { ReadRows } from "./reader.js";
import type { Assembler, Row } from "./assemble.js";
import { formatMark } from "../model/marks.js";
import { packItems } from "../cells/pack.js";

/** By table of the list, what is kept of each record in it. */
export type Items<T> = ReadonlyMap<CompiledTable, readonly T[]>;

export const NO_ITEMS: Items<never> = new Map();

export class HostedItems<T> {
  /** By place of the record around them: rows may wait for a key that comes later. */
  private readonly waiting = new Map<CompiledTable, Map<number, Map<CompiledTable, T[]>>>();

  put(row: Row, item: T, host = row.table.host!): void {
    const places = this.waiting.get(host) ?? new Map<number, Map<CompiledTable, T[]>>();
    this.waiting.set(host, places);
    const { place } = row.parent!;
    const tables = places.get(place) ?? new Map<CompiledTable, T[]>();
    places.set(place, tables);
    const items = tables.get(row.table);
    if (items === undefined) tables.set(row.table, [item]);
    else items.push(item);
  }

  take(row: Row): Items<T> {
    if (this.waiting.size === 0) return NO_ITEMS; // most plans show no lists, and this is asked of each row
    const places = this.waiting.get(row.table);
    const items = places?.get(row.place) ?? NO_ITEMS;
    places?.delete(row.place);
    return items;
  }
}

/** Cells of a row as the sheet spells them, and behind them those of the lists in it. */
export function contentsOf(row: Row, assembler: Assembler, items: Items<readonly string[]>): string[] {
  const own = (slot: number): string => assembler.text(row, slot);
  return [...Array.from(row.kinds, (_, slot) => own(slot)), ...inlineCells(row.table, items, own)];
}

/** What the sheet shows of the lists in a record; `own` reads the record's own cells. */
export function inlineCells(table: CompiledTable, items: Items<readonly string[]>, own: (slot: number) => string): string[] {
  return table.inline.map((inline) => inlineCell(inline, items.get(inline.table) ?? [], own));
}

function inlineCell(
  { column, table, slot, standInSlot, links }: InlineColumn,
  items: readonly (readonly string[])[],
  own: (slot: number) => string,
): string {
  if (links !== null) {
    const ends = links.ends.get(own(standInSlot)) ?? [];
    return ends.length === 0
      ? ""
      : packItems(
          ends.map(({ shown }) => [shown]),
          { separator: column.separator! },
        );
  }
  if (column.lookup !== undefined) return table.labels.get(own(standInSlot)) ?? "";
  if (column.item !== undefined) return items[column.item]?.[slot] ?? "";
  if (items.length === 0) return own(standInSlot);
  const key = column.pair === undefined ? -1 : table.node.nameSlot;
  const parts = items.map((item) => (key < 0 ? [item[slot]] : [item[key], item[slot]]));
  return packItems(parts, { separator: column.separator!, pair: column.pair });
}

/** Rows of tables whose sheets show lists, with the cells that their sheets have. */
export async function readHosts(
  readSource: ReadRows,
  wanted: (row: Row, assembler: Assembler) => ((cells: readonly string[]) => void) | null,
): Promise<void> {
  const lists = new HostedItems<readonly string[]>();
  await readSource((row, assembler) => {
    const { table } = row;
    const items = lists.take(row);
    if (table.host !== null) {
      lists.put(row, contentsOf(row, assembler, items));
      return;
    }
    const tell = wanted(row, assembler);
    if (tell === null) return;
    const cells = contentsOf(row, assembler, items);
    const holder = assembler.holderOf(row);
    tell([...(holder === null ? [] : [decode(holder.bytes, 0, holder.length)]), ...table.shown.map((slot) => cells[slot])]);
  });
}

/** A row of the table's sheet for a record of the source, from its cells behind mark and action. */
export function sourceRow({ salt }: CompiledTable, place: number, cells: readonly string[]): (string | undefined)[] {
  return [formatMark(salt, place), "", ...cells];
}
