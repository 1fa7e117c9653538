/**
 * Records of several tables in one sheet: those inside stand beneath the record around them, or repeat its cells.
 */
import { HostedItems } from "../../records/items.js";
import type { ArrangedSheet, Arrangement, SheetCells, SheetReading, TableRows, WrittenRow } from "../layout.js";
import type { CompiledTable } from "../../plan/compile.js";
import { blockOf, stacksOf, type Block, type Stack } from "./members.js";
import { unstack } from "./read.js";

export const stacks: Arrangement = {
  name: "stack",
  open: ({ guide, slotsOf }) => Promise.resolve(stacksOf(guide.tables, slotsOf).map((stack) => new StackSheet(stack))),
};

class StackSheet implements ArrangedSheet {
  readonly tables: readonly CompiledTable[];
  readonly titles: readonly string[];
  /** Rows of records whose record around is not complete yet. */
  private readonly blocks = new HostedItems<Block>();

  constructor(private readonly stack: Stack) {
    this.tables = stack.members.map(({ table }) => table);
    this.titles = stack.titles;
  }

  write({ row, wanted, cells }: WrittenRow): readonly SheetCells[] {
    const member = this.tables.indexOf(row.table);
    const inner = [...this.blocks.take(row).values()].flat();
    const block = wanted ? blockOf(this.stack, member, cells(), inner) : inner.flat();
    if (member === 0) return block;
    this.blocks.put(row, block, row.table.parent!);
    return [];
  }

  end(): [] {
    return [];
  }

  read(reading: SheetReading): Promise<ReadonlyMap<CompiledTable, TableRows> | null> {
    return unstack(this.stack, reading);
  }
}
