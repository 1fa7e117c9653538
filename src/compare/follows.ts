/** What else people will see differently: columns that show the other ends of links follow when links change. */
import { packItems } from "../layouts/pack.js";
import type { Guide, Hosted, TableGuide } from "../plan/guide.js";
import type { DifferingRow } from "./rows.js";
import type { NewRow } from "./structure.js";

/** A cell that a new hatch will show with other links in it. */
export interface Follow {
  readonly table: string;
  /** The record's key. */
  readonly record: string;
  readonly column: string;
  readonly old: string;
  readonly new: string;
}

/** One end of a link, as its record is called there, and what is shown of it. */
interface End {
  readonly by: string;
  readonly shown: string;
}

export function followingLinks({ tables }: Guide, differing: readonly DifferingRow[], news: readonly NewRow[]): Follow[] {
  return tables.flatMap((table) => table.hosted.flatMap((hosted) => (hosted.links === null ? [] : follow(table, hosted, differing, news))));
}

function follow(table: TableGuide, hosted: Hosted, differing: readonly DifferingRow[], news: readonly NewRow[]): Follow[] {
  const { links, slot, column } = hosted;
  const { bySlot, ends } = links!;
  const now = new Map<string, string[]>();
  const listOf = (key: string): string[] => {
    const list = now.get(key) ?? [...(ends.get(key) ?? [])];
    now.set(key, list);
    return list;
  };
  for (const row of differing) {
    if (row.snapshot.table !== hosted.table) continue;
    const { contents, parentIdent } = row.snapshot;
    const was = (one: number): string => (one < 0 ? parentIdent : contents[one]);
    const is = (one: number): string =>
      one < 0 ? (row.parent ?? parentIdent) : (row.cells.find((cell) => cell.slot === one)?.content ?? contents[one]);
    replace(listOf, { by: was(bySlot), shown: was(slot) }, row.removed ? null : { by: is(bySlot), shown: is(slot) });
  }
  for (const row of news) {
    if (row.table !== hosted.table) continue;
    const { contents, target, parentText } = row;
    const around = target !== null && "row" in target ? (target.row.contents[target.row.table.keySlot] ?? parentText) : parentText;
    const is = (one: number): string => (one < 0 ? around : (contents[one] ?? ""));
    replace(listOf, null, { by: is(bySlot), shown: is(slot) });
  }
  const cell = (list: readonly string[]): string =>
    list.length === 0
      ? ""
      : packItems(
          list.map((one) => [one]),
          { separator: column.separator! },
        );
  return [...now].flatMap(([record, list]) => {
    const [before, after] = [cell(ends.get(record) ?? []), cell(list)];
    return record === "" || before === after ? [] : [{ table: table.plan.name, record, column: column.title, old: before, new: after }];
  });
}

function replace(listOf: (key: string) => string[], old: End | null, now: End | null): void {
  if (old !== null) {
    const list = listOf(old.by);
    const at = list.indexOf(old.shown);
    const stays = now?.by === old.by;
    if (at >= 0) list.splice(at, 1, ...(stays ? [now.shown] : []));
    if (stays) return;
  }
  if (now !== null) listOf(now.by).push(now.shown);
}
