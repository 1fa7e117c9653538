/** Records that come beside one that stays: which two are to follow each other in their list. */
import type { Sum } from "../bytes/hash.js";
import type { Placing } from "../layouts/layout.js";
import { pushTo } from "../model/push-to.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import { SummedRows } from "../rows/summed.js";

/** A record that comes, with the sum of what it will say. */
export interface Comer {
  readonly table: CompiledTable;
  readonly sum: Sum;
  readonly from: DifferingRow | NewRow;
  readonly placing: Placing & { readonly beside: object };
}

/** Two records of one list, the second right behind the first. */
export interface ExpectedPair {
  readonly table: CompiledTable;
  readonly sums: readonly [Sum, Sum];
  readonly from: DifferingRow | NewRow;
}

/**
 * The records that stay are looked for in the source, once for all.
 *
 * @param sumOf - the sum of what a record will say that somebody edited, `null` where it does not stay, nothing where nobody did
 */
export async function pairsBeside(
  comers: readonly Comer[],
  sumOf: (table: CompiledTable, place: number) => Sum | null | undefined,
  { compiled, records }: Context,
): Promise<ExpectedPair[]> {
  if (comers.length === 0) return [];
  const groups = new Map<string, Comer[]>();
  const idOf = ({ index }: CompiledTable, at: number, before: boolean): string => `${index} ${at} ${before}`;
  for (const comer of comers) pushTo(groups, idOf(comer.table, comer.placing.beside.at, comer.placing.beside.before), comer);
  const pairs: ExpectedPair[] = [];
  const read = new SummedRows(compiled);
  await records.rests((row, assembler) => {
    read.read(row, assembler);
    for (const before of [true, false]) {
      const group = groups.get(idOf(row.table, before ? row.start : row.end, before));
      const sum = group === undefined ? null : sumOf(row.table, row.place);
      if (sum === null) continue;
      const stays = { sum: sum ?? { ...read.sums.record } };
      const coming = group!.sort((one, other) => one.placing.rank - other.placing.rank);
      const list = before ? [...coming, stays] : [stays, ...coming];
      for (const [i, one] of coming.entries()) {
        const at = before ? i : i + 1;
        const [first, second] = before ? [list[at], list[at + 1]] : [list[at - 1], list[at]];
        pairs.push({ table: row.table, sums: [first.sum, second.sum], from: one.from });
      }
    }
  });
  return pairs;
}
