/**
 * Records of several tables in one sheet: those inside stand beneath the record around them, or repeat its cells.
 */
import { PlanError } from "../../errors/error.js";
import { isFollowing, type TablePlan } from "../../model/plan.js";
import type { PlanEntries } from "../../plan/layout-words.js";
import { HostedItems } from "../../records/items.js";
import type { ArrangedSheet, Arrangement, SheetCells, SheetReading, TableRows, WrittenRow } from "../layout.js";
import type { CompiledTable } from "../../plan/compile.js";
import { blockOf, stacksOf, type Block, type Stack } from "./members.js";

export const stacks: Arrangement = {
  name: "stack",
  words: {
    table: (z) => ({
      beneath: z.literal(true).optional().describe("rows stand beneath those of the table around, in its sheet"),
      repeat: z.literal(true).optional().describe("rows repeat the cells of the record around, in its sheet"),
    }),
    readTable: ({ name, entry: { beneath, repeat }, place }) => {
      if (beneath === true && repeat === true) throw new PlanError("plan-stacked-both", { table: name }, place("beneath"));
      return beneath === true ? { stacked: "beneath" } : repeat === true ? { stacked: "repeat" } : {};
    },
    claims: (table, tables) => table.stacked !== undefined || hasBelow(table, tables),
    check: checkStack,
  },
  open: ({ compiled, slotsOf }) => Promise.resolve(stacksOf(compiled.tables, slotsOf).map((stack) => new StackSheet(stack))),
};

function hasBelow({ name }: TablePlan, tables: readonly TablePlan[]): boolean {
  return tables.some((one) => one.stacked !== undefined && one.inside === name);
}

/** Which tables can share a sheet, and how. */
function checkStack(table: TablePlan, { tables, place }: PlanEntries): void {
  if (table.stacked === undefined) return;
  const at = place(["tables", table.name, table.stacked]);
  const parent = tables.find((one) => one.name === table.inside);
  if (parent === undefined) throw new PlanError("plan-stacked-alone", { table: table.name, word: table.stacked }, at);
  const tree = [table, parent].find((one) => one.tree !== undefined);
  if (tree !== undefined)
    throw new PlanError("plan-tree-alone", { table: tree.name, other: tree === table ? parent.name : table.name }, at);
  if (table.stacked === "beneath") return;
  const others = tables.filter((one) => one.stacked !== undefined && one !== table && one.inside === parent.name);
  const lists = parent.inline.some((one) => !isFollowing(one));
  if (others.length > 0 || hasBelow(table, tables) || lists || parent.stacked !== undefined)
    throw new PlanError("plan-repeat-one", { table: table.name, parent: parent.name }, at);
}

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

  shownAs(table: CompiledTable, title: string): string {
    const { titles, shown } = this.stack.members[this.tables.indexOf(table)];
    return shown[titles.indexOf(title)] ?? title;
  }

  async read(reading: SheetReading): Promise<ReadonlyMap<CompiledTable, TableRows> | null> {
    const { unstack } = await import("./read.js"); // a hatch does without
    return unstack(this.stack, reading);
  }
}
