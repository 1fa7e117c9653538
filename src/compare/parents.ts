/** Where rows belong: parents are found by key or mark, among the records of the source and the new rows alike. */
import { nearest } from "../errors/nearest.js";
import { harmless } from "../cells/spelling.js";
import { FILE_TITLE, UPPER_TITLE } from "../model/plan.js";
import type { CompiledTable } from "../plan/compile.js";
import { meantCodes, MeantNotes } from "../relations/meant.js";
import { findParents } from "../relations/parents.js";
import type { Context } from "../rows/context.js";
import { copyNews, type Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../rows/row-edits.js";
import type { Sheet } from "../rows/sheet.js";

/** Finds where new rows go and which rows move, when new ones have their ids. */
export async function placeRows(draft: Draft, ctx: Context): Promise<Draft> {
  const placing = new Placing(draft.rows, copyNews(draft.news), ctx);
  for (const table of ctx.compiled.tables) await placing.place(table);
  placing.notes.tell();
  for (const row of draft.rows) if (row.within !== undefined) placing.moves.set(row, { place: row.within.place, of: row.within.table });
  return { ...draft, news: placing.news, moves: placing.moves };
}

/** A row that says where it belongs. */
interface Asking {
  readonly sheet: Sheet;
  readonly row: number;
  readonly text: string;
  /** At the top of a tree it says what the tree is in. */
  readonly atTop: boolean;
}

class Placing {
  readonly moves = new Map<DifferingRow, Target>();
  readonly notes: MeantNotes;

  constructor(
    readonly rows: readonly DifferingRow[],
    readonly news: readonly NewRow[],
    private readonly ctx: Context,
  ) {
    this.notes = new MeantNotes(ctx);
  }

  async place(table: CompiledTable): Promise<void> {
    // where a row shows a list, the list's records go where the row goes
    if (table.host !== null) return;
    const news = this.news.filter((row) => row.table === table);
    const moved = this.rows.filter((row) => row.snapshot.table === table && row.parent !== null);
    const find = await this.targets(table, [...news.map((row) => row.parentText), ...moved.map((row) => row.parent!)]);
    for (const row of news) row.target = await find({ ...row, text: row.parentText });
    for (const row of moved) this.move(row, await find({ ...row, text: row.parent!, atTop: row.atTop === true }));
    if (table.treeSteps === null) this.leave(table);
  }

  /** How rows of a table find where they go: to a record of the table around, into a file, or in a tree to one of their own kind. */
  private async targets(table: CompiledTable, texts: readonly string[]): Promise<(asking: Asking) => Promise<Target | null>> {
    const { parent } = table;
    if (table.treeSteps !== null) return this.targetsInTree(table, texts);
    if (parent === null) return (asking) => Promise.resolve(this.file(table, asking));
    const find = await this.find(parent, texts);
    return (asking) => this.one(find(asking), parent, asking);
  }

  /** Records of a tree go into one of their own kind, or to the top, into what the tree is in. */
  private async targetsInTree(table: CompiledTable, texts: readonly string[]): Promise<(asking: Asking) => Promise<Target | null>> {
    const { parent } = table;
    const inner = await this.find(table, texts, UPPER_TITLE, false);
    const outer = parent === null ? null : await this.find(parent, texts);
    return async (asking) => {
      if (!asking.atTop) return this.one(inner(asking), table, asking, UPPER_TITLE);
      return parent === null ? this.file(table, asking) : this.one(outer!(asking), parent, asking);
    };
  }

  /** The same as {@link findParents}; a key that no record has may be the damaged key of one. */
  private async find(
    parent: CompiledTable,
    texts: readonly string[],
    title = parent.plan.name,
    sole = true,
  ): Promise<(asking: Asking) => Target[]> {
    const find = await findParents(parent, texts, this, this.ctx, sole);
    const meant = await meantCodes(
      parent,
      texts.filter((text) => text !== "" && find(text).length === 0),
      this.ctx,
    );
    if (meant.size === 0) return ({ text }) => find(text);
    const again = await findParents(parent, [...meant.values()], this, this.ctx, sole);
    return ({ text, sheet, row }) => {
      const key = meant.get(text);
      if (key === undefined) return find(text);
      this.notes.add(sheet, row, title, text, key);
      return again(key);
    };
  }

  private move(row: DifferingRow, target: Target | null): void {
    const { parentPlace, parentTable, file, table, trail } = row.snapshot;
    if (target === null) return;
    if (table.parent === null && table.treeSteps === null) {
      if (trail.length === 0) this.ctx.findings.add("document-row", {}, row.sheet.place(row.row));
      else this.moves.set(row, target);
      return;
    }
    const stays =
      "place" in target
        ? target.place === parentPlace && target.of === parentTable
        : "file" in target && parentTable === null && target.file === file;
    if (!stays) this.moves.set(row, target);
  }

  /** Records that leave their place in their list, and stay in it. */
  private leave(table: CompiledTable): void {
    for (const row of this.rows) {
      if (row.snapshot.table !== table || row.parent !== null || row.removed) continue;
      if (row.placing === undefined || row.placing.stays === true) continue;
      const { parentPlace, parentTable, file } = row.snapshot;
      this.moves.set(row, parentTable === null ? { file } : { place: parentPlace, of: parentTable });
    }
  }

  /** The file of that name; the only one need not be named. */
  private file(table: CompiledTable, { text, sheet, row }: Asking): { readonly file: number } | null {
    const { base, findings, parts } = this.ctx;
    const { documents } = base.tables[table.index];
    const { first, count } = table.source;
    const names = parts.slice(first, first + count).map((part) => harmless(part.name));
    const several = table.treeSteps === null ? table.holder !== null : table.outer !== null;
    const found = !several || (text === "" && names.length === 1) ? 0 : names.indexOf(text);
    const file = found < 0 ? -1 : first + found;
    if (documents.has(file)) findings.add("document-row", {}, sheet.place(row));
    if (file >= 0) return { file };
    const place = sheet.place(row, FILE_TITLE, text);
    if (text === "") findings.add("file-missing", { files: names }, place);
    else findings.add("file-unknown", { text, nearest: nearest(text, names), files: names }, place);
    return null;
  }

  /** The only one that was found; else it is a problem in the `column` that says where the row belongs. */
  private async one(
    found: readonly Target[],
    parent: CompiledTable,
    { text, sheet, row }: Asking,
    column = parent.plan.name,
  ): Promise<Target | null> {
    if (found.length === 1) return found[0];
    const { findings, records } = this.ctx;
    const place = sheet.place(row, column, text);
    const { name, key = "fold mark" } = parent.plan;
    if (found.length > 1) findings.add("parent-many", { parent: name, text, count: found.length }, place);
    else if (text === "") findings.add("parent-missing", { parent: name, key }, place);
    else {
      const near = (await records.words(parent, parent.keySlot)).to(text);
      findings.add("parent-unknown", { parent: name, key, text, nearest: near }, place);
    }
    return null;
  }
}
