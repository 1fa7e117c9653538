/** Records that come beside one that stays: is each read next to it, or to the one that comes before it there? */
import type { Sum } from "../bytes/hash.js";
import type { ExpectedPair } from "../compare/beside.js";
import { sumText } from "../compare/expected.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Row } from "../records/assemble.js";

interface Wanted {
  readonly pair: ExpectedPair;
  count: number;
  met: number;
}

export class PairsInLists {
  private readonly wanted = new Map<string, Wanted>();
  /** The record that was read last, by table and by what it is in. */
  private readonly lists = new Map<CompiledTable, Map<Row | null, { place: number; last: string | null }>>();

  constructor(pairs: readonly ExpectedPair[]) {
    for (const pair of pairs) {
      const id = pair.sums.map((sum) => sumText(pair.table, sum)).join(" ");
      const known = this.wanted.get(id);
      if (known === undefined) this.wanted.set(id, { pair, count: 1, met: 0 });
      else known.count++;
      if (!this.lists.has(pair.table)) this.lists.set(pair.table, new Map());
    }
  }

  /** A row of what would be written, and the number of its file. */
  read({ table, parent }: Row, sum: Sum, file: number): void {
    const lists = this.lists.get(table);
    if (lists === undefined) return;
    const place = parent?.place ?? file;
    const list = lists.get(parent) ?? { place, last: null };
    lists.set(parent, list);
    const text = sumText(table, sum);
    const wanted = list.place === place && list.last !== null ? this.wanted.get(`${list.last} ${text}`) : undefined;
    if (wanted !== undefined) wanted.met++;
    list.place = place;
    list.last = text;
  }

  /** The first that was not read so. */
  wrong(): ExpectedPair | null {
    for (const { pair, count, met } of this.wanted.values()) if (met < count) return pair;
    return null;
  }
}
