/** Do records stand in their lists in the order that is said: those that come behind all others, and lists that were put in order? */
import type { Expected } from "../compare/expected.js";
import type { Sum } from "../bytes/hash.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Row } from "../records/assemble.js";
import { OfLists } from "./lists.js";

type Coming = Expected["last"][number];

/** One kind of record that comes, told by its sum. */
interface Known {
  readonly coming: Coming;
  /** Where it stands among those that come. */
  readonly index: number;
  /** How often it comes, and how often it was met. */
  count: number;
  met: number;
  /** It was met where it should not be. */
  isWrong: boolean;
}

export class LastInLists {
  private readonly known = new Map<CompiledTable, Map<string, Known>>();
  private readonly lists = new OfLists<{ last: Known | null }>(() => ({ last: null }));

  constructor(last: Expected["last"]) {
    for (const [index, coming] of last.entries()) {
      const { table, sum } = coming;
      const sums = this.known.get(table) ?? new Map<string, Known>();
      this.known.set(table, sums);
      const one = sums.get(textOf(sum));
      if (one === undefined) sums.set(textOf(sum), { coming, index, count: 1, met: 0, isWrong: false });
      else one.count++;
    }
  }

  /** A row of what would be written, and the number of its file. */
  read(row: Row, sum: Sum, file: number): void {
    const sums = this.known.get(row.table);
    if (sums === undefined) return;
    const list = this.lists.of(row, file);
    const one = sums.get(textOf(sum)) ?? null;
    if (one !== null) one.met++;
    // of records that come alike into several lists it is not known which this is
    if (list.last !== null && (one === null || (one.count === 1 && one.index < list.last.index))) list.last.isWrong = true;
    if (one !== null) list.last = one;
  }

  /** The first that does not stand where it should; one that looks like others, which are no news, is not judged. */
  wrong(): Coming | null {
    for (const sums of this.known.values())
      for (const one of sums.values()) if (one.isWrong && one.met === 1 && one.count === 1) return one.coming;
    return null;
  }
}

type Order = Expected["orders"][number];

/** Lists whose order was edited: each must be met as it was said. */
export class ListsInOrder {
  private readonly missing = new Map<CompiledTable, Map<string, Order>>();
  private readonly lists = new OfLists<{ sum: Sum }>(
    () => ({ sum: NOTHING }),
    (table, { sum }) => this.missing.get(table)!.delete(textOf(sum)),
  );

  constructor(orders: Expected["orders"]) {
    for (const order of orders) {
      const { table, sums } = order;
      const known = this.missing.get(table) ?? new Map<string, Order>();
      this.missing.set(table, known.set(textOf(sums.reduce(behind, NOTHING)), order));
    }
  }

  /** A row of what would be written, and the number of its file. */
  read(row: Row, sum: Sum, file: number): void {
    if (!this.missing.has(row.table)) return;
    const list = this.lists.of(row, file);
    list.sum = behind(list.sum, sum);
  }

  /** The first that was not met, when all has been read. */
  wrong(): Order | null {
    this.lists.endAll();
    for (const orders of this.missing.values()) for (const order of orders.values()) return order;
    return null;
  }
}

const NOTHING: Sum = { a: 0, b: 0 };

/** The sum of a list to which a record is put. */
function behind({ a, b }: Sum, record: Sum): Sum {
  return { a: (Math.imul(a, 0x01000193) + record.a + 1) | 0, b: (Math.imul(b, 0x85ebca6b) + record.b + 1) | 0 };
}

function textOf({ a, b }: Sum): string {
  return `${a} ${b}`;
}
