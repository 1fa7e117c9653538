/** Records that come beside one that stays: is each read next to it, or to the one that comes before it there? */
import type { Sum } from "../bytes/hash.js";
import type { ExpectedPair } from "../compare/beside.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Row } from "../records/assemble.js";
import { sumText } from "../records/sums.js";
import { OfLists } from "./lists.js";

interface Wanted {
  readonly pair: ExpectedPair;
  count: number;
  met: number;
}

export class PairsInLists {
  private readonly wanted = new Map<string, Wanted>();
  private readonly tables = new Set<CompiledTable>();
  private readonly lists = new OfLists<{ last: string | null }>(() => ({ last: null }));

  constructor(pairs: readonly ExpectedPair[]) {
    for (const pair of pairs) {
      const id = pair.sums.map((sum) => sumText(pair.table, sum)).join(" ");
      const known = this.wanted.get(id);
      if (known === undefined) this.wanted.set(id, { pair, count: 1, met: 0 });
      else known.count++;
      this.tables.add(pair.table);
    }
  }

  /** A row of what would be written, and the number of its file. */
  read(row: Row, sum: Sum, file: number): void {
    if (!this.tables.has(row.table)) return;
    const list = this.lists.of(row, file);
    const text = sumText(row.table, sum);
    const wanted = list.last === null ? undefined : this.wanted.get(`${list.last} ${text}`);
    if (wanted !== undefined) wanted.met++;
    list.last = text;
  }

  /** The first that was not read so. */
  wrong(): ExpectedPair | null {
    for (const { pair, count, met } of this.wanted.values()) if (met < count) return pair;
    return null;
  }
}
