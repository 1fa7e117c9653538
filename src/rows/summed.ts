/** Reads rows one after the other, with the lists that their sheets show, and sums them. */
import { inlineCells, HostedItems, NO_ITEMS, type Items } from "../records/items.js";
import { decode } from "../bytes/writer.js";
import type { CompiledPlan } from "../plan/compile.js";
import type { Assembler, Row } from "../records/assemble.js";
import { RowSums } from "../records/sums.js";
import { Snapshot, SnapshotStore } from "./snapshot.js";
import { Action } from "./sheet-index.js";

const NO_CELLS: readonly string[] = [];

export class SummedRows {
  readonly sums: RowSums;
  /** Records of the lists of the row that was read last, and what its sheet shows of them. */
  items: Items<Snapshot> = NO_ITEMS;
  inline: readonly string[] = NO_CELLS;
  private readonly waiting = new HostedItems<Snapshot>();
  private readonly store = new SnapshotStore();

  constructor(
    compiled: CompiledPlan,
    /** Without sums, only what the sheets show of lists is read. */
    private readonly summed = true,
  ) {
    this.sums = new RowSums(compiled);
  }

  read(row: Row, assembler: Assembler): void {
    this.items = this.waiting.take(row);
    this.inline = inlineIn(row, this.items, assembler);
    if (this.summed) this.sums.add(row, assembler, this.inline);
    if (row.table.host !== null) this.waiting.put(row, this.snapshot(row, { sheetRow: 0, action: Action.None }, assembler));
  }

  /** A copy of the row that was read last; of its lists, when it is that one. */
  snapshot(row: Row, at: Pick<Snapshot, "sheetRow" | "action">, assembler: Assembler, items = this.items): Snapshot {
    const holder = assembler.holderOf(row);
    const parentIdent = holder === null ? "" : decode(holder.bytes, 0, holder.length);
    const cells = this.store.put(row, inlineIn(row, items, assembler), assembler);
    const { sheetRow, action } = at;
    return new Snapshot(row, { sheetRow, action, parentIdent, file: assembler.file, summed: assembler.rest !== undefined, items }, cells);
  }
}

/** Cells of the lists that are shown in the row. */
function inlineIn(row: Row, items: Items<Snapshot>, assembler: Assembler): readonly string[] {
  if (row.table.inline.length === 0) return NO_CELLS;
  if (items.size === 0) return inlineCells(row.table, NO_ITEMS, (slot) => assembler.text(row, slot));
  const contents = new Map([...items].map(([table, list]) => [table, list.map((item) => item.contents)]));
  return inlineCells(row.table, contents, (slot) => assembler.text(row, slot));
}
