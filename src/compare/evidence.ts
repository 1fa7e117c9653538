/**
 * What happened to a sheet, from all its cells that differ: a program damages every cell of a kind, a person edits some.
 * Cells whose damage is beyond doubt tell how the sheet writes dates and decimals; each other cell is judged by that, and
 * by the column: one cell that differs where all others of its kind are intact was edited.
 */
import { datesIn, type Habits } from "../cells/dates.js";
import { damageOf } from "../cells/heal.js";
import type { Damage } from "../cells/healing/damage.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import { Column } from "../rows/columns.js";
import { keyHash, type Cells, type Sheet } from "../rows/sheet.js";
import type { Snapshot } from "../rows/snapshot.js";

/** How many cells of a column damage of one kind hits: those that it has hit, those that say something else, and all. */
interface Tally {
  readonly hits: (was: string) => boolean;
  damaged: number;
  edited: number;
  all: number;
}

export class Evidence {
  private readonly tallies = new Map<Sheet, Map<number, Map<string, Tally>>>();
  private readonly orders = new Map<Sheet, { day: number; month: number }>();
  private readonly commas = new Map<Sheet, number>();
  /** How what a program made of values looks, and of how many. */
  private readonly looks = new Map<Sheet, Map<string, number>>();

  constructor(private readonly ctx: Pick<Context, "records" | "sheets" | "base">) {}

  /** Cells of a row that differs. */
  add(snapshot: Snapshot, sheet: Sheet, cells: Cells): void {
    for (const [c, slot] of sheet.columns.entries()) {
      const content = cells[c];
      if (slot === Column.Parent && content !== undefined) this.addParent(snapshot, sheet, content);
      if (slot < 0 || content === undefined || snapshot.says(slot, content)) continue;
      const was = snapshot.content(slot);
      const made = damageOf(was, content);
      if (made === null) this.edited.push({ sheet, slot, was });
      else this.addDamaged(sheet, slot, was, content, made);
    }
  }

  /** Keys that cells give for what a record is in, where they may be damaged or meant. */
  private readonly parents = new Map<CompiledTable, Set<string>>();

  private addParent({ parentIdent }: Snapshot, { table }: Sheet, content: string): void {
    if (damageOf(parentIdent, content) === null) return;
    for (const holder of holdersOf(table)) {
      const keys = this.parents.get(holder) ?? new Set<string>();
      this.parents.set(holder, keys.add(content));
    }
  }

  /** Is it the key of a record that the row may be in? Then it is meant. */
  isParent({ table }: Sheet, content: string): boolean {
    return holdersOf(table).some((holder) => this.parents.get(holder)?.has(content) === true);
  }

  private addDamaged(
    sheet: Sheet,
    slot: number,
    was: string,
    content: string,
    { why, hits, isSheetWide, form = "", looks = [] }: Damage,
  ): void {
    for (const look of looks) {
      const known = this.looks.get(sheet) ?? new Map<string, number>();
      this.looks.set(sheet, known.set(look, (known.get(look) ?? 0) + 1));
    }
    if (why === "date written another way") {
      const order = this.orders.get(sheet) ?? { day: 0, month: 0 };
      this.orders.set(sheet, order);
      const orders = datesIn(content).flatMap((one) => (one.date === was && one.order !== null ? [one.order] : []));
      for (const one of orders) order[one]++;
      // a day beyond the twelfth stands where days stand
      if (orders.length === 0) this.addSure(order, content);
    }
    if (/^[+-]?\d+,\d/.test(content)) this.commas.set(sheet, (this.commas.get(sheet) ?? 0) + 1);
    if (hits === null) return;
    const tally = this.tallyOf(sheet, slot, why + form, hits);
    tally.damaged++;
    // then what the other columns say counts, too
    if (isSheetWide === true) for (const other of sheet.columns) if (other >= 0) this.tallyOf(sheet, other, why, hits);
  }

  private addSure(order: { day: number; month: number }, content: string): void {
    const match = /^(\d{1,2})[./-](\d{1,2})[./-]/.exec(content);
    if (match === null || match[1] === match[2]) return;
    if (Number(match[1]) > 12) order.day++;
    else if (Number(match[2]) > 12) order.month++;
  }

  /** What cells said that say something else now, until it is known which kinds of damage there are. */
  private edited: { readonly sheet: Sheet; readonly slot: number; readonly was: string }[] = [];

  private tallyOf(sheet: Sheet, slot: number, why: string, hits: Tally["hits"]): Tally {
    const columns = this.tallies.get(sheet) ?? new Map<number, Map<string, Tally>>();
    this.tallies.set(sheet, columns);
    const kinds = columns.get(slot) ?? new Map<string, Tally>();
    columns.set(slot, kinds);
    const tally = kinds.get(why) ?? { hits, damaged: 0, edited: 0, all: 0 };
    kinds.set(why, tally);
    return tally;
  }

  /** Counts the cells that damage would have hit, where there is doubt: one more pass over the source. */
  async settle(): Promise<void> {
    for (const { sheet, slot, was } of this.edited)
      for (const tally of this.tallies.get(sheet)?.get(slot)?.values() ?? []) if (tally.hits(was)) tally.edited++;
    this.edited = [];
    for (const [{ index }, keys] of this.parents) {
      const known = this.ctx.base.tables[index].keys.find(new Set([...keys].map(keyHash)));
      for (const key of [...keys]) if (!known.has(keyHash(key))) keys.delete(key);
    }
    if (this.tallies.size === 0) return;
    await this.ctx.records.cells((row, assembler) => {
      const sheet = this.ctx.sheets[row.table.index];
      const columns = sheet === null ? undefined : this.tallies.get(sheet);
      if (columns === undefined || this.ctx.base.tables[row.table.index].absent.at(row.place) === 1) return;
      for (const [slot, kinds] of columns) {
        if (slot >= row.kinds.length) continue;
        const was = assembler.text(row, slot);
        for (const tally of kinds.values()) if (tally.hits(was)) tally.all++;
      }
    });
  }

  /** Why a cell is damaged, in words; `null` when it was edited. */
  damage(sheet: Sheet, slot: number, was: string, content: string): string | null {
    const made = damageOf(was, content);
    if (made === null || (made.why === "date written another way" && !this.isInOrder(sheet, was, content))) return null;
    if (made.looks !== undefined && !made.looks.includes(this.lookIn(sheet))) return null;
    if (made.hits === null) return made.why;
    const { damaged, edited, all } = this.tallies
      .get(sheet)
      ?.get(slot)
      ?.get(made.why + (made.form ?? "")) ?? { damaged: 1, edited: 0, all: 1 };
    if (made.isSheetWide === true) return this.isOfSheet(sheet, made.why) ? made.why : null;
    const intact = Math.max(0, all - damaged - edited);
    const isBacked = damaged > 1 || (made.isOfCommas === true && this.habitsOf(sheet).comma);
    if (made.isLikelyMeant === true) return intact === 0 && isBacked ? made.why : null;
    return intact === 0 || (made.form === undefined && damaged > intact) ? made.why : null;
  }

  /** How most of them look; with the latest year where several are as many. */
  private lookIn(sheet: Sheet): string {
    const looks = [...(this.looks.get(sheet) ?? [])].sort(([a, n], [b, m]) => m - n || (a < b ? 1 : -1));
    return looks[0]?.[0] ?? "";
  }

  /** Did it happen to all cells that it could happen to, in several columns? */
  private isOfSheet(sheet: Sheet, why: string): boolean {
    const tallies = [...(this.tallies.get(sheet)?.values() ?? [])].flatMap((kinds) => kinds.get(why) ?? []);
    const isIntact = ({ all, damaged, edited }: Tally): boolean => all > damaged + edited;
    return tallies.filter(({ damaged }) => damaged > 0).length > 1 && !tallies.some(isIntact);
  }

  /** Is the day the same when the cell is read as the sheet writes dates? */
  private isInOrder(sheet: Sheet, was: string, content: string): boolean {
    const { order } = this.habitsOf(sheet);
    return datesIn(content).some((one) => one.date === was && (one.order === null || order === null || one.order === order));
  }

  habitsOf(sheet: Sheet): Habits {
    const { day, month } = this.orders.get(sheet) ?? { day: 0, month: 0 };
    return { order: day > month ? "day" : month > day ? "month" : null, comma: (this.commas.get(sheet) ?? 0) > 0 };
  }
}

/** Tables whose records hold those of a table. */
function holdersOf(table: CompiledTable): readonly CompiledTable[] {
  return [...(table.parent === null ? [] : [table.parent]), ...(table.treeSteps === null ? [] : [table])];
}
