/**
 * Structure: rows added, removed and moved. Parents are found by key or mark, among the records of the
 * source and the new rows alike; then the rows that go to one place become one edit there.
 */
import { newLists } from "./lists.js";
import { pushAll } from "../bytes/lists.js";
import { nearest } from "../errors/nearest.js";
import { Kind } from "../model/kind.js";
import type { Edit, MovedRecord, NewRecord, NewValue, Span } from "../edits/edit.js";
import { sheetName, slotOf, stepsFrom, titleOf, type Guide, type TableGuide } from "../plan/guide.js";
import { FILE_TITLE, isFollowing, MARK_TITLE, TOP_SIGN, UPPER_TITLE, type ColumnPlan } from "../model/plan.js";
import { partAt, type Part } from "../source/parts.js";
import type { Expression } from "../plan/expression.js";
import { parseMark } from "../model/marks.js";
import { scalar } from "../records/filter.js";
import type { Baseline } from "../rows/baseline.js";
import { rowsOf, type Change, type ProblemList } from "../model/findings.js";
import { gather } from "../model/gather.js";
import type { Gone } from "../relations/gone.js";
import { cellEdits } from "./diff.js";
import { runCheck } from "../rows/values.js";
import { columnOrder, callTitles, recordName } from "../rows/names.js";
import type { DifferingRow, RowEdits, NewRow, Target } from "../rows/row-edits.js";
import type { Pointers } from "../rows/pointers.js";
import { stepsPointer } from "../model/pointer.js";
import { Column } from "../rows/columns.js";
import { keyHash, type NewSheetRow, type Sheet } from "../rows/sheet.js";
import { Action } from "../rows/standing.js";
import type { Placing } from "../layouts/layout.js";
import type { CellTyper } from "../rows/cell-value.js";
import { harmless } from "../cells/spelling.js";
import type { WordsOf } from "../relations/references.js";

interface Group {
  readonly table: TableGuide;
  readonly target: Target;
  readonly beside: Placing["beside"];
  readonly members: { rank: number; row: number; record: NewRow | DifferingRow }[];
}

export class Structure {
  readonly rows: NewRow[] = [];
  readonly changes: Change[] = [];
  private readonly asideRows = new Map<string, { table: string; row: number }>();
  /** For added rows, the record they go into: `table index` and place. */
  readonly addedTo = new Map<Change, string>();
  /** Rows whose parent changed, with the place they go to. */
  readonly moves = new Map<DifferingRow, Target>();
  private readonly expressions = new Map<ColumnPlan, Expression>();

  constructor(
    private readonly guide: Guide,
    private readonly baseline: Baseline,
    private readonly sheets: readonly (Sheet | null)[],
    private readonly problems: ProblemList,
    readonly differing: readonly DifferingRow[],
    private readonly gone: Gone,
    private readonly words: WordsOf,
    private readonly typer: CellTyper,
    private readonly parts: readonly Part[],
    private readonly pointers: Pointers,
  ) {}

  /** Reads the new rows. */
  async begin(): Promise<void> {
    for (const sheet of this.sheets) {
      if (sheet === null) continue;
      for (const row of sheet.newRows) pushAll(this.rows, await this.newRow(sheet, row));
    }
    this.checkNames();
  }

  /** Finds where rows belong, when new ones have their ids. */
  async resolve(): Promise<void> {
    for (const row of this.rows) this.checkNew(row);
    for (const table of this.guide.tables) await this.resolveParents(table);
    this.checkMoves();
    this.checkRemovals();
    this.checkAbsent();
  }

  /** Writes a cell of a new row. */
  put(row: NewRow, slot: number, content: string): void {
    (row.contents as (string | null)[])[slot] = content;
    (row.values as (NewValue | null)[])[slot] = this.valueOf(row, slot, content);
  }

  /** Two new rows of one name could not be told apart. */
  private checkNames(): void {
    const named = new Map<string, NewRow>();
    for (const row of this.rows) {
      if (row.name === "") continue;
      const id = `${row.table.index} ${row.name}`;
      const first = named.get(id);
      if (first === undefined) named.set(id, row);
      else this.problems.add("new-name-twice", { name: row.name, first: first.row }, row.sheet.place(row.row, MARK_TITLE, row.name));
    }
  }

  private valueOf({ table, sheet, row }: Pick<NewRow, "table" | "sheet" | "row">, slot: number, content: string): NewValue | null {
    const { title } = table.plan.columns[slot];
    const place = { table, slot, file: table.source.first, was: Kind.Absent, spot: "new" } as const;
    const value = this.typer.read(content, place, sheet.place(row, title, content));
    return value?.kind === Kind.Absent ? null : value;
  }

  private async newRow(sheet: Sheet, row: NewSheetRow): Promise<NewRow[]> {
    const { table } = sheet;
    const cells = row.at === undefined ? row.cells : await sheet.cellsAt(row.at.offset, row.at.length);
    const cellOf = (slot: number): string | null => {
      const c = sheet.columnOf(slot);
      return c < 0 ? null : (cells[c] ?? "");
    };
    const contents = Array.from({ length: table.plan.columns.length + table.hosted.length }, (_, slot) => cellOf(slot));
    const values = table.plan.columns.map((_, slot) => {
      const content = contents[slot];
      const column = table.plan.columns[slot];
      if (column.hidden === true) return null;
      const given = column.at.end !== "index" && !((content ?? "") === "" && table.plan.fresh?.has(column.title) === true);
      // what is the same for others may be left to them
      if (!given || (column.sameFor !== undefined && (content ?? "") === "")) return null;
      if (content !== null) return this.valueOf({ table, sheet, row: row.row }, slot, content);
      if (column.required) this.problems.add("required", { title: column.title }, sheet.place(row.row, column.title));
      return null;
    });
    const parentCell = sheet.columnOf(Column.Parent);
    const made: NewRow = {
      table,
      sheet,
      row: row.row,
      name: row.name ?? "",
      contents,
      values,
      parentText: parentCell < 0 ? "" : (cells[parentCell] ?? "").trim(),
      target: null,
      placing: sheet.placingOf(row.row) ?? undefined,
    };
    if (table.hosted.length === 0) return [made];
    const context = {
      sheet,
      row: row.row,
      file: table.source.first,
      problems: this.problems,
      typer: this.typer,
      repeats: table.source.dialect.repeats,
    };
    return [made, ...newLists(made, contents, context)];
  }

  private checkNew({ sheet, row, contents, values, table }: NewRow): void {
    if (table.host !== null) return;
    const { columns } = table.plan;
    const { nameSlot } = table.node;
    const named = table.plan.rows.steps.at(-1)?.kind === "any";
    if (named && nameSlot < 0) this.problems.add("name-nowhere", { table: table.plan.name }, sheet.place(row));
    else if (nameSlot >= 0 && values[nameSlot]?.kind !== Kind.Text) {
      this.problems.add("name-empty", { title: columns[nameSlot].title }, sheet.place(row, columns[nameSlot].title));
    } else if (table.keySlot >= 0 && values[table.keySlot] === null) {
      this.problems.add("key-missing", { title: columns[table.keySlot].title }, sheet.place(row, columns[table.keySlot].title));
    }
    const all: Record<string, unknown> = {};
    columns.forEach((column, slot) => (all[column.title] = scalar(values[slot]?.kind ?? Kind.Absent, () => values[slot]!.text)));
    columns.forEach((column, slot) => {
      if (column.check === undefined || values[slot] === null) return;
      runCheck(this.expressions, column, all, (code, facts) =>
        this.problems.add(code, facts, sheet.place(row, column.title, contents[slot] ?? "")),
      );
    });
  }

  private async resolveParents(table: TableGuide): Promise<void> {
    // where a row shows a list, the list's records go where the row goes
    if (table.host !== null) return;
    const news = this.rows.filter((row) => row.table === table);
    const moved = this.differing.filter((row) => row.snapshot.table === table && row.parent !== null);
    const { parent } = table;
    if (table.treeSteps !== null) return this.resolveTree(table, news, moved);
    if (parent === null) {
      this.resolveFiles(table, news, moved);
      this.leave(table);
      return;
    }
    const find = this.finder(parent, [...news.map((row) => row.parentText), ...moved.map((row) => row.parent!)]);
    for (const row of news) row.target = await this.target(find(row.parentText), parent, row.parentText, row.sheet, row.row);
    for (const row of moved) this.move(row, await this.target(find(row.parent!), parent, row.parent!, row.sheet, row.row));
    this.leave(table);
  }

  /** Records that leave their place in their list, and stay in it. */
  private leave(table: TableGuide): void {
    for (const row of this.differing) {
      if (row.snapshot.table !== table || row.parent !== null || row.removed) continue;
      if (row.placing === undefined || row.placing.stays === true) continue;
      const { parentPlace, parentTable, file } = row.snapshot;
      this.moves.set(row, parentTable === null ? { file } : { place: parentPlace, of: parentTable });
    }
  }

  /** Records of a tree go into one of their own kind, or to the top: what they are in there stands behind a sign. */
  private async resolveTree(table: TableGuide, news: readonly NewRow[], moved: readonly DifferingRow[]): Promise<void> {
    const texts = [...news.map((row) => row.parentText), ...moved.map((row) => row.parent!)];
    const inner = this.finder(table, texts, false);
    const { parent } = table;
    const tops = texts.map(topOf);
    const outer = parent === null ? null : this.finder(parent, tops);
    const find = async (text: string, sheet: Sheet, row: number): Promise<Target | null> => {
      if (!isTop(text)) return this.target(inner(text), table, text, sheet, row, UPPER_TITLE);
      if (parent === null) return this.file(table, topOf(text), sheet, row);
      return this.target(outer!(topOf(text)), parent, topOf(text), sheet, row);
    };
    for (const row of news) row.target = await find(row.parentText, row.sheet, row.row);
    for (const row of moved) this.move(row, await find(row.parent!, row.sheet, row.row));
  }

  private move(row: DifferingRow, target: Target | null): void {
    const { parentPlace, parentTable, file } = row.snapshot;
    if (target === null) return;
    const stays =
      "place" in target
        ? target.place === parentPlace && target.of === parentTable
        : "file" in target && parentTable === null && target.file === file;
    if (!stays) this.moves.set(row, target);
  }

  /** Records at the top go into a file; where there is one only, nobody has to say so. */
  private resolveFiles(table: TableGuide, news: readonly NewRow[], moved: readonly DifferingRow[]): void {
    for (const row of news) row.target = this.file(table, row.parentText, row.sheet, row.row);
    for (const row of moved) {
      const target = this.file(table, row.parent!, row.sheet, row.row);
      if (target === null) continue;
      if (row.snapshot.trail.length === 0) this.problems.add("document-row", {}, row.sheet.place(row.row));
      else this.moves.set(row, target);
    }
  }

  /** The file of that name; the only one need not be named. */
  private file(table: TableGuide, text: string, sheet: Sheet, row: number): { readonly file: number } | null {
    const { documents } = this.baseline.tables[table.index];
    const { first, count } = table.source;
    const names = this.parts.slice(first, first + count).map((part) => harmless(part.name));
    const several = table.treeSteps === null ? table.holder !== null : table.outer !== null;
    const found = !several || (text === "" && names.length === 1) ? 0 : names.indexOf(text);
    const file = found < 0 ? -1 : first + found;
    if (documents.has(file)) this.problems.add("document-row", {}, sheet.place(row));
    if (file >= 0) return { file };
    const place = sheet.place(row, FILE_TITLE, text);
    if (text === "") this.problems.add("file-missing", { files: names }, place);
    else this.problems.add("file-unknown", { text, nearest: nearest(text, names), files: names }, place);
    return null;
  }

  /** A record goes to another file as it is written: that file must be written in the same way. */
  private checkMoves(): void {
    for (const [row, target] of this.moves) {
      const from = this.parts[row.snapshot.file];
      const to = this.fileOf(target);
      if (to === from || from.dialect.alike?.(to.dialect) !== false) continue;
      this.problems.add("move-unlike", { from: from.name, to: to.name }, row.sheet.place(row.row, row.snapshot.table.holder ?? ""));
    }
  }

  /** The file that a row of the table gets into by going to the target. */
  private fileOf(target: Target): Part {
    if ("file" in target) return this.parts[target.file];
    if ("row" in target) return target.row.target === null ? this.parts[target.row.table.source.first] : this.fileOf(target.row.target);
    return partAt(this.parts, this.startOf(target));
  }

  private startOf({ of, place }: Extract<Target, { place: number }>): number {
    return this.baseline.tables[of.index].starts.at(place);
  }

  /** What a parent cell can mean: records by key or mark, and new rows by key. */
  private finder(parent: TableGuide, texts: readonly string[], sole = true): (text: string) => Target[] {
    const base = this.baseline.tables[parent.index];
    const found = parent.keySlot < 0 ? new Map<number, number[]>() : base.keys.find(new Set(texts.map(keyHash)));
    const renamed = new Map<string, number>();
    for (const row of this.differing) {
      const edit = row.snapshot.table === parent ? row.cells.find((cell) => cell.slot === parent.keySlot) : undefined;
      if (edit !== undefined) renamed.set(edit.content, row.snapshot.place);
    }
    const byWord = new Map<string, Target[]>();
    const none = this.newRowsOf(parent, (word, row) => gather(byWord, word, { row })) === 0;
    return (text) => {
      if (text === "") return sole && base.records === 1 && none ? [{ place: 0, of: parent }] : [];
      const fresh = byWord.get(text) ?? [];
      const again = renamed.get(text);
      if (again !== undefined) return [{ place: again, of: parent }, ...fresh];
      const places = (found.get(keyHash(text)) ?? []).map((place) => ({ place, of: parent }));
      if (places.length + fresh.length > 0) return [...places, ...fresh];
      const place = parseMark(parent.salt, text);
      return place >= 0 && place < base.records ? [{ place, of: parent }] : [];
    };
  }

  /** How many new rows of the table there are; each with the words that others may call it by. */
  private newRowsOf(table: TableGuide, called: (word: string, row: NewRow) => void): number {
    let count = 0;
    for (const row of this.rows) {
      if (row.table !== table) continue;
      count++;
      const words = new Set(row.name === "" ? [] : [row.name, row.name.slice(1)]);
      if (table.keySlot >= 0) words.add(row.contents[table.keySlot] ?? "");
      for (const word of words) called(word, row);
    }
    return count;
  }

  private async target(
    found: readonly Target[],
    parent: TableGuide,
    text: string,
    sheet: Sheet,
    row: number,
    column = parent.plan.name,
  ): Promise<Target | null> {
    const place = sheet.place(row, column, text);
    if (found.length === 0) {
      if (text === "") this.problems.add("parent-missing", { parent: parent.plan.name, key: parent.plan.key ?? "fold mark" }, place);
      else
        this.problems.add(
          "parent-unknown",
          {
            parent: parent.plan.name,
            key: parent.plan.key ?? "fold mark",
            text,
            nearest: (await this.words(parent, parent.keySlot)).to(text),
          },
          place,
        );
      return null;
    }
    if (found.length > 1) {
      this.problems.add("parent-many", { parent: parent.plan.name, text, count: found.length }, place);
      return null;
    }
    return found[0];
  }

  /** A missing row may take only such records along as have no rows either. */
  private checkAbsent(): void {
    for (const [table, records] of this.gone) {
      const sheet = this.sheets[table.index];
      const left = new Map<DifferingRow, number[]>();
      for (const [place, by] of records) {
        const row = by.snapshot.sheetRow === 0 ? (sheet?.rowOf(place) ?? 0) : 0;
        if (row > 0 && sheet!.standings.action(place) !== Action.Remove) gather(left, by, row);
      }
      for (const [{ snapshot }, unsorted] of left) {
        const rows = unsorted.sort((a, b) => a - b);
        const facts = { record: recordName(snapshot), table: snapshot.table.plan.name, rows };
        this.problems.add("inside-absent", facts, sheet!.place(rows[0]));
      }
    }
  }

  /** Nothing may be edited in, or added to, a record that goes away. */
  private checkRemovals(): void {
    for (const row of this.differing) {
      if (row.removed && row.snapshot.trail.length === 0)
        this.problems.add("document-row", {}, row.sheet.place(row.row, "fold action", "remove"));
    }
    const removed = this.differing.filter((row) => row.removed).sort((a, b) => a.snapshot.span.start - b.snapshot.span.start);
    if (removed.length === 0) return;
    const goesWith = (at: number): DifferingRow | undefined =>
      removed.find((row) => row.snapshot.span.start <= at && at < row.snapshot.span.end);
    for (const row of this.differing) {
      if (row.removed || this.moves.has(row)) continue;
      const gone = goesWith(row.snapshot.span.start);
      if (gone !== undefined && row.cells.length > 0) {
        this.problems.add(
          "inside-removed",
          { record: recordName(gone.snapshot), table: gone.snapshot.table.plan.name, row: gone.row },
          row.sheet.place(row.row),
        );
      }
    }
    const check = (target: Target | null, sheet: Sheet, row: number): void => {
      if (target === null || !("place" in target)) return;
      const gone = goesWith(this.startOf(target));
      if (gone !== undefined)
        this.problems.add(
          "parent-removed",
          { record: recordName(gone.snapshot), table: gone.snapshot.table.plan.name, row: gone.row },
          sheet.place(row, target.of.plan.name),
        );
    };
    for (const row of this.rows) check(row.target, row.sheet, row.row);
    for (const [row, target] of this.moves) check(target, row.sheet, row.row);
  }

  /** Edits of all rows that have no problem. */
  edits(): RowEdits[] {
    const bad = new Set(this.problems.problems.flatMap((problem) => rowsOf(problem).map((row) => `${problem.table}\n${row}`)));
    // records that follow others make sense only with those
    const kept = this.guide.tables.filter(({ plan: { tree } }) => tree?.kind === "way" || tree?.kind === "depth");
    const whole = new Set(kept.filter(({ plan }) => this.problems.problems.some(({ table }) => table === plan.name)));
    const isBad = (table: TableGuide, row: number): boolean => whole.has(table) || bad.has(`${sheetName(table)}\n${row}`);
    const edits: RowEdits[] = [];
    const groups = new Map<string, Group>();
    const targetBad = (target: Target | null): boolean =>
      target === null || ("row" in target && (isBad(target.row.table, target.row.row) || targetBad(target.row.target)));
    const put = (table: string, row: number): void => void this.asideRows.set(`${table}\n${row}`, { table, row });
    for (const problem of this.problems.problems) for (const row of rowsOf(problem)) put(problem.table, row);
    const setAside = (table: TableGuide, row: number): void => put(sheetName(table), row);

    for (const row of this.differing) {
      const { table } = row.snapshot;
      const target = this.moves.get(row);
      if (isBad(table, row.row) || (target !== undefined && targetBad(target))) {
        setAside(table, row.row);
        continue;
      }
      const own = row.removed ? [removal(row)] : cellEdits(row, this.modelIn(table, row.snapshot.file));
      if (row.removed && table.host === null) this.changes.push(this.wholeChange("removed", row));
      if (row.placing?.stays === true) this.changes.push(this.wholeChange("moved", row));
      if (target !== undefined) {
        if (row.placing?.says !== null) this.changes.push(this.wholeChange("moved", row));
        own.push(removal(row));
        this.join(groups, table, target, row);
      }
      if (own.length > 0) edits.push({ table: sheetName(table), row: row.row, edits: own });
    }
    for (const row of this.rows) {
      if (isBad(row.table, row.row) || targetBad(row.target)) setAside(row.table, row.row);
      else {
        this.join(groups, row.table, row.target!, row);
        if (row.table.host !== null) continue;
        const change = addedChange(row, this.sourceOf(row));
        this.changes.push(change);
        if (row.target !== null && "place" in row.target) this.addedTo.set(change, `${row.target.of.index} ${row.target.place}`);
      }
    }
    for (const group of groups.values()) {
      if ("row" in group.target) continue;
      edits.push({ table: sheetName(group.table), row: group.members[0].row, edits: [this.addEdit(group, groups)] });
    }
    return edits;
  }

  /** Rows left out of the edits: they, or the rows they go into, have a problem. */
  get aside(): { table: string; row: number }[] {
    return [...this.asideRows.values()];
  }

  isAside(row: DifferingRow | NewRow): boolean {
    const table = "snapshot" in row ? row.snapshot.table : row.table;
    return this.asideRows.has(`${sheetName(table)}\n${row.row}`);
  }

  private join(groups: Map<string, Group>, table: TableGuide, target: Target, record: NewRow | DifferingRow): void {
    const { row, placing } = record;
    this.group(groups, table, target, placing?.beside).members.push({ rank: placing?.rank ?? Infinity, row, record });
  }

  private group(groups: Map<string, Group>, table: TableGuide, target: Target, beside: Placing["beside"]): Group {
    const name =
      "file" in target ? `file ${target.file}` : "place" in target ? `place ${target.place} ${target.of.index}` : this.called(target.row);
    const id = `${table.index} ${name}${beside === undefined ? "" : ` ${beside.at} ${beside.before}`}`;
    const group = groups.get(id) ?? { table, target, beside, members: [] };
    groups.set(id, group);
    return group;
  }

  /** A name for a new record: several can come from one row of a sheet. */
  private called(row: NewRow): string {
    const number = this.numbers.get(row) ?? this.numbers.size;
    this.numbers.set(row, number);
    return `new ${number}`;
  }
  private readonly numbers = new Map<NewRow, number>();

  private addEdit(group: Group, groups: ReadonlyMap<string, Group>): Edit {
    const { table, target } = group;
    const at = "file" in target ? this.parts[target.file].base : "place" in target ? this.startOf(target) : -1;
    const outer = "place" in target ? target.of : null;
    const atTop = "file" in target || (outer !== null && outer !== table && outer.plan.rows.steps.length === 0);
    return {
      kind: "add",
      at,
      atTop,
      steps: stepsFrom(outer, table),
      path: table.plan.rows.steps,
      beside: group.beside,
      records: this.records(group, groups),
      model: this.modelIn(table, partAt(this.parts, at).index),
      order: columnOrder(table),
    };
  }

  private modelIn(table: TableGuide, file: number): Span | null {
    return this.baseline.tables[table.index].models[file] ?? null;
  }

  /** The file that a new row goes into, where there are several. */
  private sourceOf(row: NewRow): { source?: string } {
    return row.target === null ? {} : this.pointers.source(this.fileOf(row.target).index);
  }

  private records(group: Group, groups: ReadonlyMap<string, Group>): (NewRecord | MovedRecord)[] {
    const sorted = [...group.members].sort((a, b) => (a.rank === b.rank ? a.row - b.row : a.rank - b.rank));
    return sorted.map(({ record }) => {
      if ("snapshot" in record) return { moved: true, start: record.snapshot.unitStart, end: record.snapshot.span.end };
      const { table, values } = record;
      const inner = [...table.children, ...(table.treeSteps === null ? [] : [table])].flatMap((child) => {
        const under = groups.get(`${child.index} ${this.called(record)}`);
        return under === undefined ? [] : [{ steps: stepsFrom(table, child), records: this.records(under, groups) }];
      });
      const { nameSlot, selfSlot } = table.node;
      const fields = table.plan.columns.flatMap((column, slot) => {
        const value = values[slot];
        return value === null || column.at.steps.length === 0 || column.at.end !== "value" ? [] : [{ steps: column.at.steps, value }];
      });
      return { name: nameSlot < 0 ? null : values[nameSlot]!.text, self: selfSlot < 0 ? null : values[selfSlot], fields, inner };
    });
  }

  private wholeChange(kind: "removed" | "moved", row: DifferingRow): Change {
    const { snapshot } = row;
    const { table } = snapshot;
    const moved = kind === "moved";
    const says = row.placing?.says ?? null;
    const moves =
      says === null
        ? { column: table.holder!, old: topOf(snapshot.parentIdent), new: topOf(row.parent ?? "") }
        : { column: UPPER_TITLE, old: says.old, new: says.new };
    return {
      kind,
      table: table.plan.name,
      row: row.row,
      record: recordName(snapshot),
      ...(moved ? moves : { column: "", old: null, new: null }),
      path: row.pointer,
      ...row.source,
      holds: (says?.holds ?? 0) + this.holds(table, new Set([snapshot.place])),
    };
  }

  /** How many records of other tables are inside these. */
  private holds(table: TableGuide, places: ReadonlySet<number>): number {
    let count = 0;
    if (table.treeSteps !== null) {
      const inside = new Set([...this.baseline.tables[table.index].uppers.find(places).values()].flat());
      if (inside.size > 0) count += inside.size + this.holds(table, inside);
    }
    for (const child of table.children) {
      const inside = new Set([...this.baseline.tables[child.index].parents.find(places).values()].flat());
      if (inside.size > 0) count += inside.size + this.holds(child, inside);
    }
    return count;
  }
}

/** What a record is in may be said behind a sign: at the top of a tree. */
function isTop(text: string): boolean {
  return text.startsWith(TOP_SIGN);
}

function topOf(text: string): string {
  return isTop(text) ? text.slice(TOP_SIGN.length) : text;
}

function removal(row: DifferingRow): Edit {
  return { kind: "remove", path: row.snapshot.table.plan.rows.steps, start: row.snapshot.unitStart, end: row.snapshot.span.end };
}

function addedChange(row: NewRow, source: { source?: string }): Change {
  const { table } = row;
  const cells: Record<string, string> = {};
  const says = row.placing?.says ?? null;
  if (table.holder !== null) cells[table.holder] = topOf(row.parentText);
  if (says !== null && says.new !== "") cells[UPPER_TITLE] = says.new;
  for (let slot = 0; slot < table.plan.columns.length + table.hosted.length; slot++) {
    const content = row.contents[slot] ?? "";
    const shown = slot < table.plan.columns.length || !isFollowing(table.hosted[slot - table.plan.columns.length].column);
    if (content !== "" && shown) cells[titleOf(table.plan, slot)] = content;
  }
  const called = table.keySlot < 0 ? callTitles(table.plan) : [table.plan.key!];
  const words = called.map((title) => (title === table.plan.inside ? row.parentText : (row.contents[slotOf(table.plan, title)] ?? "")));
  const path = stepsPointer(row.table.steps.filter((step) => step.kind !== "any"));
  return {
    kind: "added",
    table: table.plan.name,
    row: row.row,
    record: words.every((word) => word === "") ? "" : words.join(", "),
    column: "",
    old: null,
    new: null,
    path,
    ...source,
    cells,
  };
}
