/** What else people will see differently: columns that show the other ends of links follow when links change. */
import { packItems } from "../cells/pack.js";
import type { CompiledPlan, InlineColumn, LinkEnd, CompiledTable } from "../plan/compile.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";

/** A cell that a new hatch will show with other links in it. */
export interface Follow {
  readonly table: string;
  /** The record's key. */
  readonly record: string;
  readonly column: string;
  readonly old: string;
  readonly new: string;
}

/** One end of a link, and what its record is called there. */
interface End extends LinkEnd {
  readonly by: string;
}

export function followingLinks({ tables }: CompiledPlan, differing: readonly DifferingRow[], news: readonly NewRow[]): Follow[] {
  return tables.flatMap((table) => table.inline.flatMap((inline) => (inline.links === null ? [] : follow(table, inline, differing, news))));
}

function follow(table: CompiledTable, inline: InlineColumn, differing: readonly DifferingRow[], news: readonly NewRow[]): Follow[] {
  const { links, slot, column } = inline;
  const { bySlot, ends } = links!;
  const now = new Map<string, LinkEnd[]>();
  const listOf = (key: string): LinkEnd[] => {
    const list = now.get(key) ?? [...(ends.get(key) ?? [])];
    now.set(key, list);
    return list;
  };
  for (const row of differing) {
    if (row.snapshot.table !== inline.table) continue;
    const { contents, parentIdent } = row.snapshot;
    const was = (one: number): string => (one < 0 ? parentIdent : contents[one]);
    const is = (one: number): string =>
      one < 0 ? (row.parent ?? parentIdent) : (row.cells.find((cell) => cell.slot === one)?.content ?? contents[one]);
    const { place } = row.snapshot;
    // a link that goes into another record comes behind those that are there
    const goes = row.parent === null ? place : Infinity;
    replace(listOf, { by: was(bySlot), place, shown: was(slot) }, row.removed ? null : { by: is(bySlot), place: goes, shown: is(slot) });
  }
  for (const row of news) {
    if (row.table !== inline.table) continue;
    const { contents, target, parentText } = row;
    const around = target !== null && "row" in target ? (target.row.contents[target.row.table.keySlot] ?? parentText) : parentText;
    const is = (one: number): string => (one < 0 ? around : (contents[one] ?? ""));
    replace(listOf, null, { by: is(bySlot), place: Infinity, shown: is(slot) });
  }
  const cell = (list: readonly LinkEnd[]): string =>
    list.length === 0
      ? ""
      : packItems(
          list.map(({ shown }) => [shown]),
          { separator: column.separator! },
        );
  return [...now].flatMap(([record, list]) => {
    const [before, after] = [cell(ends.get(record) ?? []), cell(list)];
    return record === "" || before === after ? [] : [{ table: table.plan.name, record, column: column.title, old: before, new: after }];
  });
}

function replace(listOf: (key: string) => LinkEnd[], old: End | null, now: End | null): void {
  if (old !== null) {
    const list = listOf(old.by);
    const at = list.findIndex(({ place }) => place === old.place);
    if (at >= 0) list.splice(at, 1);
  }
  if (now === null) return;
  const list = listOf(now.by);
  const behind = list.findIndex(({ place }) => place > now.place);
  list.splice(behind < 0 ? list.length : behind, 0, now);
}
