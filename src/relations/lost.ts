/** Codes whose records go, or are called otherwise: rows that nobody edited refer to them. */
import type { Draft, Gone } from "../rows/draft.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import type { ProblemPlace } from "../model/findings.js";
import { formatMark } from "../model/marks.js";
import type { ColumnFault } from "../model/problem-list.js";
import { NOTHING } from "../cells/spelling.js";
import { hostTable, sheetName, type CompiledTable, type Reference } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import { keyHash } from "../rows/sheet.js";
import type { Snapshot } from "../rows/snapshot.js";

/** A key that goes: the row whose record takes it along, or is called otherwise now. */
interface Lost {
  readonly by: DifferingRow;
  readonly now: string | null;
}

/** Finds the records that cannot go or be renamed, as others go on saying their keys; codes that referred to nothing before are only noted. */
export async function keepReferred(draft: Draft, ctx: Context): Promise<Draft> {
  const references = ctx.compiled.tables.flatMap((table) => table.references);
  const lost = new LostCodes(draft, ctx);
  await Promise.all(references.map((reference) => lost.check(reference)));
  for (const reference of references) lost.noteLoose(reference);
  return { ...draft, held: lost.held, references: [...draft.references, ...lost.faults] };
}

class LostCodes {
  /** Records whose keys others go on saying. */
  readonly held = new Set<Snapshot>();
  readonly faults: ColumnFault[] = [];
  private readonly differing: readonly DifferingRow[];
  private readonly news: readonly NewRow[];
  private readonly gone: Gone;

  constructor(
    { rows, news, gone }: Draft,
    private readonly ctx: Context,
  ) {
    this.differing = rows;
    this.news = news;
    this.gone = gone;
  }

  /** Rows that refer to a record that goes away or changes its key. */
  async check({ table, slot, target }: Reference): Promise<void> {
    const column = table.plan.columns[slot];
    const { title } = column;
    const codes = this.ctx.base.tables[table.index].codes.get(slot)!;
    const lost = this.lostKeys(target);
    const edits = new Map(this.differing.filter(({ snapshot }) => snapshot.table === table).map((row) => [row.snapshot.place, row]));
    const left = new Map<number, Lost>();
    for (const [hash, places] of codes.find(new Set(lost.keys()))) {
      for (const place of places) {
        const edited = edits.get(place)?.cells.some((cell) => cell.slot === slot) === true;
        if (!edited && this.gone.get(table)?.has(place) !== true) left.set(place, lost.get(hash)!);
      }
    }
    if (left.size > 0) {
      const mirrored =
        table.host?.inline.some((one) => one.table === table && one.slot === slot && one.column.mirror !== undefined) ?? false;
      await this.ctx.records.rows((row, assembler) => {
        const one = row.table === table ? left.get(row.place) : undefined;
        if (one === undefined) return;
        const key = assembler.text(row, slot);
        const { by, now } = one;
        const place = this.placeOf(table, row.place, title, key);
        const record = place.row === 0 ? { record: this.markOf(table, row.place) } : {};
        const cause = { by: sheetName(by.snapshot.table), row: by.sheet.seenRow(by.row) };
        const facts = { table: target.plan.name, key, ...cause, now, ...record, mirrored };
        this.faults.push({ fault: { code: "ref-lost", facts }, column, place });
        if (this.ctx.findings.stops(column)) this.held.add(by.snapshot);
      });
    }
  }

  /** Hashes of keys that no record will have any more, with the row that makes it so. */
  private lostKeys(target: CompiledTable): Map<number, Lost> {
    const lost = new Map<number, Lost>();
    const { keys } = this.ctx.base.tables[target.index];
    const gone = this.gone.get(target) ?? new Map<number, DifferingRow>();
    const renamed = new Set<number>();
    for (const row of this.differing) {
      const edit = row.snapshot.table === target && !row.removed ? row.cells.find((cell) => cell.slot === target.keySlot) : undefined;
      if (edit === undefined) continue;
      lost.set(keys.at(row.snapshot.place), { by: row, now: edit.content });
      renamed.add(row.snapshot.place);
    }
    for (const [place, by] of gone) lost.set(keys.at(place), { by, now: null });
    if (lost.size === 0) return lost;
    // others have the same key, or get it
    for (let place = 0; place < keys.length; place++) if (!gone.has(place) && !renamed.has(place)) lost.delete(keys.at(place));
    for (const key of this.keptKeys(target)) lost.delete(keyHash(key));
    return lost;
  }

  private keptKeys(target: CompiledTable): Set<string> {
    const kept = new Set(this.news.filter((row) => row.table === target).map((row) => row.contents[target.keySlot] ?? ""));
    for (const row of this.differing) {
      const edit = row.snapshot.table === target ? row.cells.find((cell) => cell.slot === target.keySlot) : undefined;
      if (edit !== undefined) kept.add(edit.content);
    }
    return kept;
  }

  /** The place of the row that shows a record, also one of a list. */
  private placeOf(table: CompiledTable, place: number, column: string, value: string): ProblemPlace {
    if (table.host !== null) return this.placeOf(table.host, this.ctx.base.tables[table.index].parents.at(place), column, value);
    const sheet = this.ctx.sheets[table.index];
    if (sheet !== null) return sheet.place(sheet.faulty.get(place) ?? sheet.rowOf(place), column, value);
    const { name } = table.plan;
    return { table: name, file: this.ctx.sheetNames.get(name) ?? "", row: 0, column, value };
  }

  private markOf({ host, salt, index }: CompiledTable, place: number): string {
    return host === null ? formatMark(salt, place) : this.markOf(host, this.ctx.base.tables[index].parents.at(place));
  }

  noteLoose({ table, slot, target }: Reference): void {
    const { keys } = this.ctx.base.tables[target.index];
    const known = new Set<number>([...NOTHING].map(keyHash));
    for (let place = 0; place < keys.length; place++) known.add(keys.at(place));
    const codes = this.ctx.base.tables[table.index].codes.get(slot)!;
    const loose: number[] = [];
    for (let place = 0; place < codes.length; place++)
      if (!known.has(codes.at(place))) loose.push(this.placeOf(table, place, "", "").row ?? 0);
    if (loose.length === 0) return;
    const { title } = table.plan.columns[slot];
    this.ctx.findings.note("refs-loose", { title, table: target.plan.name, rows: loose }, hostTable(table).plan.name);
  }
}
