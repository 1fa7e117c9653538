/** The verb compare: what a fold would change, and the fold of just that. */
import { comparedIn, COMPARE_OPTIONS, type Compared, type CompareInput, type SheetRowName } from "../compare/comparison.js";
import { rowsOf, type Problem } from "../model/findings.js";
import { checkOptions, type OptionNames } from "../errors/options.js";
import type { Tables } from "../sheets/index.js";
import { foldComparison, type Folded, type FoldOptions } from "./fold.js";

export interface ReviewFold extends FoldOptions {
  /** Fold only the rows for which this is true. What depends on others, as a row inside a new one, is left out with them. */
  readonly only?: (row: SheetRowName) => boolean;
}

const REVIEW_OPTIONS: OptionNames<ReviewFold> = {
  partial: true,
  unproved: true,
  sink: true,
  sinkFor: true,
  progress: true,
  signal: true,
  only: true,
};

/** What a comparison found. The source and the tables must stay as they are until it is folded. */
export interface Review extends Compared {
  /**
   * Puts the edits back that were found: nothing is compared twice.
   *
   * @throws as {@link fold}
   */
  fold(options?: ReviewFold): Promise<Folded>;
}

/**
 * What would a fold change?
 *
 * @throws as {@link check}
 * @example
 * ```ts
 * const source = '{"stations": [{"code": "S1", "name": "Skarv"}]}';
 * const { tables } = await hatch(source);
 * tables.contents.set("stations.csv", new TextEncoder().encode(tables.text("stations.csv").replace("Skarv", "Skarv Reef")));
 * const review = await compare(tables, { source });
 * review.changes[0].path; // "/stations/0/name"
 * const { bytes } = await review.fold(); // nothing is compared twice
 * new TextDecoder().decode(bytes); // '{"stations": [{"code": "S1", "name": "Skarv Reef"}]}'
 * ```
 */
export async function compare(tables: Tables, input: CompareInput): Promise<Review> {
  checkOptions("compare", input, COMPARE_OPTIONS);
  const { compareTables } = await import("../compare/compare.js");
  const comparison = await compareTables(tables, input);
  return {
    ...comparedIn(comparison),
    fold: async (options = {}) => {
      checkOptions("review.fold", options, REVIEW_OPTIONS);
      const { only, ...rest } = options;
      if (only === undefined) return foldComparison(comparison, rest);
      const chosen = await comparison.only(only);
      // what is wrong with a sheet as a whole (its titles, say) is wrong with rows that nobody could read
      const inTheWay = (problem: Problem): boolean =>
        problem.row <= 1 || rowsOf(problem).some((row) => only({ table: problem.table, row }));
      return foldComparison({ ...chosen, problems: chosen.problems.filter(inTheWay) }, rest);
    },
  };
}
