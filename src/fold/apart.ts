/** Cells that somebody wrote for what is left of a value taken apart (null, [] or {}): each must be read as it was said. */
import type { Sum } from "../bytes/hash.js";
import type { ExpectedApart } from "../compare/apart.js";
import { pushTo } from "../model/push-to.js";
import type { Row } from "../records/assemble.js";
import { sumText } from "../records/sums.js";

/** Records that say the same: how many are to say so, and how many were read. */
interface Wanted {
  readonly one: ExpectedApart;
  count: number;
  met: number;
}

export class ValuesApart {
  private readonly wanted = new Map<string, Wanted[]>();

  constructor(apart: readonly ExpectedApart[]) {
    for (const one of apart) {
      const id = sumText(one.table, one.sum);
      const known = this.wanted.get(id)?.find(({ one: { slot, cell } }) => slot === one.slot && cell.kind === one.cell.kind);
      if (known === undefined) pushTo(this.wanted, id, { one, count: one.alike + 1, met: 0 });
      else known.count++;
    }
  }

  /** A row of what would be written, and the sum of its cells. */
  read({ table, kinds }: Row, cells: Sum): void {
    if (this.wanted.size === 0) return;
    for (const wanted of this.wanted.get(sumText(table, cells)) ?? []) if (kinds[wanted.one.slot] === wanted.one.cell.kind) wanted.met++;
  }

  /** The first of which too few were read. */
  wrong(): ExpectedApart | null {
    for (const alike of this.wanted.values()) for (const { one, count, met } of alike) if (met < count) return one;
    return null;
  }
}
