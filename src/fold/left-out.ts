/**
 * What a proof need not read again: records that no edit touches, and that do not depend on others. They say what they said,
 * and that is added to what is read.
 */
import { addTo, takeFrom, type Sum } from "../bytes/hash.js";
import { Pages } from "../bytes/pages.js";
import type { Expectation } from "../compare/comparison.js";
import type { Splice } from "../edits/splice.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Rests, Row } from "../records/assemble.js";
import type { TableBaseline } from "../rows/baseline.js";
import { cutsBetween, firstFrom, type CutPoints } from "../source/cuts.js";
import type { SourceText } from "../source/parts.js";
import { UntouchedRuns } from "../source/untouched.js";

/** What is put into each file: totals (`corrections`) into what the other edits (`splices`) give. */
export interface Writing {
  readonly splices: readonly (readonly Splice[])[];
  readonly corrections: readonly (readonly Splice[])[];
}

/** What a file says: the sum of its records, and what stands around them. */
export interface Said {
  readonly sum: Sum;
  readonly around: Rests;
}

/** Where more than that is touched, all is read. */
const LEAST_LEFT_OUT = 0.5;

/** Records that need not be read again: no edit touches them, and they do not depend on others. */
export interface Untouched {
  readonly runs: UntouchedRuns;
  /** The table of the records that hold them; `null` where they are at the top. */
  readonly holder: CompiledTable | null;
}

export function untouchedOf(
  part: SourceText,
  { splices, corrections }: Writing,
  { recordStarts, compiled, base }: Expectation,
): Untouched | null {
  const { index, text, whole, of } = part;
  const tables = compiled.tables.filter(({ source }) => source === compiled.sources[of]);
  // what is filled down depends on the record before
  if (text !== whole || tables.some(({ fills }) => fills.length > 0)) return null;
  const starts = recordStarts[index];
  const lists = tables.filter(({ host, treeSteps, parent }) => host === null && treeSteps === null && (parent?.treeSteps ?? null) === null);
  const candidates: { readonly cuts: CutPoints; readonly holder: CompiledTable | null }[] = [
    ...(starts === null ? [] : [{ cuts: cutsBetween(starts), holder: null }]),
    ...lists.map((table) => ({ cuts: base.tables[table.index].cuts.within(part.base, whole.size), holder: table.parent })),
  ];
  let most: Untouched | null = null;
  for (const { cuts, holder } of candidates) {
    if (cuts.count < 2) continue;
    const edited = new UntouchedRuns(cuts, whole.size, splices[index], []);
    const also = (corrections[index] ?? []).map(({ start }) => edited.sourceOf(start)).filter((at) => at >= 0);
    const runs = also.length === 0 ? edited : new UntouchedRuns(cuts, whole.size, splices[index], also);
    if (runs.share >= Math.max(LEAST_LEFT_OUT, most?.runs.share ?? 0)) most = { runs, holder };
  }
  return most;
}

/** Adds what a whole file says, but for what is `had` already. */
export function addRest(to: Said, whole: Said, had: Said): void {
  const pairs = (said: Said): Sum[] => [said.sum, said.around.rest, said.around.strays];
  for (const [i, sum] of pairs(to).entries()) {
    addTo(sum, pairs(whole)[i]);
    takeFrom(sum, pairs(had)[i]);
  }
  to.around.strayLines += whole.around.strayLines - had.around.strayLines;
}

/** Records of which some of what they hold was left out: that is added, holder by holder in their order. */
export class InsideHolders {
  /** By holder, the sum of what was not left out of it: two numbers. */
  private readonly read = new Pages(Int32Array);
  private readonly first: number;

  constructor(
    private readonly holder: CompiledTable,
    private readonly kept: TableBaseline,
    part: SourceText,
  ) {
    this.first = firstFrom(kept.starts, part.base);
  }

  /** A row of the source. */
  readonly had = ({ table, place, inside }: Row): void => {
    if (table !== this.holder) return;
    this.read.set(2 * place, inside.a);
    this.read.set(2 * place + 1, inside.b);
  };

  /** A row of what would be written. */
  readonly now = ({ table, place, inside }: Row): void => {
    if (table !== this.holder) return;
    const { sums } = this.kept;
    const at = 4 * (this.first + place) + 2;
    addTo(inside, { a: sums.at(at), b: sums.at(at + 1) });
    takeFrom(inside, { a: this.read.at(2 * place), b: this.read.at(2 * place + 1) });
  };
}
