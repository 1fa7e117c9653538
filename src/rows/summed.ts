/** Reads rows one after the other, with the lists that their sheets show, and sums them. */
import { hostedCells, HostedItems, NO_ITEMS, type Items } from "../records/items.js";
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
  hosted: readonly string[] = NO_CELLS;
  private readonly waiting = new HostedItems<Snapshot>();
  private readonly shelf = new SnapshotStore();

  constructor(
    guide: CompiledPlan,
    /** Without sums, only what the sheets show of lists is read. */
    private readonly summed = true,
  ) {
    this.sums = new RowSums(guide);
  }

  read(row: Row, assembler: Assembler): void {
    this.items = this.waiting.take(row);
    this.hosted = hostedIn(row, this.items, assembler);
    if (this.summed) this.sums.add(row, assembler, this.hosted);
    if (row.table.host !== null) this.waiting.put(row, this.snapshot(row, { sheetRow: 0, action: Action.None }, assembler));
  }

  /** A copy of the row that was read last; of its lists, when it is that one. */
  snapshot(row: Row, at: Pick<Snapshot, "sheetRow" | "action">, assembler: Assembler, items = this.items): Snapshot {
    const holder = assembler.holderOf(row);
    const parentIdent = holder === null ? "" : decode(holder.bytes, 0, holder.length);
    const cells = this.shelf.put(row, hostedIn(row, items, assembler), assembler);
    const { sheetRow, action } = at;
    return new Snapshot(row, { sheetRow, action, parentIdent, file: assembler.file, summed: assembler.rest !== undefined, items }, cells);
  }
}

/** Cells of the lists that are shown in the row. */
function hostedIn(row: Row, items: Items<Snapshot>, assembler: Assembler): readonly string[] {
  if (row.table.hosted.length === 0) return NO_CELLS;
  if (items.size === 0) return hostedCells(row.table, NO_ITEMS, (slot) => assembler.text(row, slot));
  const contents = new Map([...items].map(([table, list]) => [table, list.map((item) => item.contents)]));
  return hostedCells(row.table, contents, (slot) => assembler.text(row, slot));
}
