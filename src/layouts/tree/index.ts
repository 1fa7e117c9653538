/** A tree: its sheet stands in the order of the tree, and says of each record what is above it, how deep it is, and the path to it. */
import type { CompiledTable } from "../../plan/compile.js";
import { titleOf } from "../../plan/compile.js";
import type { ArrangedSheet, Arrangement, SheetCells, SheetReading, TableRows, WrittenRow } from "../layout.js";
import { shownOfTree } from "../../model/plan.js";
import { treeWords } from "./words.js";
import { aroundTree, readTrees, treeTitles, type TreeIndex } from "./tree-index.js";

export const trees: Arrangement = {
  name: "tree",
  words: treeWords,
  moreTitles: ({ tree }) => shownOfTree(tree!),
  open: async ({ compiled, records, slotsOf }) =>
    [...(await readTrees(compiled, records.cells)).values()].map((index) => new TreeSheet(index, slotsOf(index.table))),
};

class TreeSheet implements ArrangedSheet {
  readonly tables: readonly CompiledTable[];
  readonly titles: readonly string[];
  /** Rows that wait for the one at their top: they are complete from the inside out. */
  private branch: { readonly place: number; readonly cells: SheetCells }[] = [];

  constructor(
    private readonly index: TreeIndex,
    slots: Iterable<number>,
  ) {
    const { table } = index;
    this.tables = [table];
    this.titles = treeTitles(
      table,
      [...slots].map((slot) => titleOf(table.plan, slot)),
    );
  }

  write({ row, wanted, cells }: WrittenRow): readonly SheetCells[] {
    if (wanted) this.branch.push({ place: row.place, cells: this.cellsOf(row.place, cells()) });
    if (row.parent?.table === row.table) return [];
    const whole = this.branch.sort((a, b) => a.place - b.place);
    this.branch = [];
    return whole.map((one) => one.cells);
  }

  private cellsOf(place: number, [mark, action, ...own]: readonly string[]): SheetCells {
    const { index } = this;
    if (index.table.holder !== null) own.shift();
    return [mark, action, ...(aroundTree(index.table) === null ? [] : [index.outerText(place)]), ...index.shown(place), ...own];
  }

  end(): [] {
    return [];
  }

  async read(reading: SheetReading): Promise<ReadonlyMap<CompiledTable, TableRows> | null> {
    const { untree } = await import("./read.js"); // a hatch does without
    const rows = await untree(this.index, reading);
    return rows === null ? null : new Map([[this.index.table, rows]]);
  }
}
