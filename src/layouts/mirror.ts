/**
 * Lists of codes that stand on both sides of a link: a station names its crew, and each of them the
 * station. What is edited on one side is written on the other, before anything is compared.
 */
import type { ProblemList } from "../model/problem-list.js";
import { damage } from "../cells/heal.js";
import { PlanError } from "../errors/error.js";
import type { TablePlan } from "../model/plan.js";
import type { InlineColumn, CompiledTable } from "../plan/compile.js";
import type { Entry, PlanEntries } from "../plan/layout-words.js";
import type { ReadRows } from "../records/reader.js";
import { parseMark } from "../model/marks.js";
import { readHosts, sourceRow } from "../records/items.js";
import { holdsNoItem, packItems, unpackItems } from "../cells/pack.js";
import type { OpenSheet } from "../sheets/container.js";
import { readTitled, type TitledSheet } from "../sheets/titled.js";
import { sheetOf, tableRows, type ColumnView, type SheetReading, type TableRow, type TableRows } from "./layout.js";

/** One side of a mirrored pair: a table and its packed column. */
interface MirrorSide {
  readonly table: CompiledTable;
  readonly inline: InlineColumn;
}

/** A sheet as the analyst gave it, with its rows where another layout has read them. */
interface MirrorSheet {
  readonly sheet: OpenSheet;
  readonly laid?: TableRows;
}

export const mirrors: ColumnView = {
  name: "mirror",
  words: {
    column: (z) => ({
      mirror: z.string().optional().describe("title of the list that has the same links in the table referred to; both change together"),
    }),
    readColumn: ({ mirror }) => (typeof mirror === "string" ? { mirror } : {}),
    check: checkMirrors,
  },
  read: async ({ compiled, sheetOf, laid }) => {
    const changed = new Map<CompiledTable, TableRows>();
    for (const pair of mirrorsOf(compiled.tables)) {
      const sheets = new Map<CompiledTable, MirrorSheet>();
      let reading: SheetReading | null = null;
      for (const { table } of pair) {
        const own = await sheetOf(table);
        if (own !== null) sheets.set(table, { sheet: own.sheet, laid: changed.get(table) ?? laid.get(table) ?? undefined });
        reading ??= own;
      }
      if (reading === null) continue;
      for (const [table, rows] of await keepInStep(pair, sheets, reading)) changed.set(table, rows);
    }
    return changed;
  },
};

/** Two packed lists of codes, each of the other's records. */
function checkMirrors(table: TablePlan, { tables, entry, place }: PlanEntries): void {
  const columnsOf = (name: string): Entry => (entry(name)?.columns ?? {}) as Entry;
  const wordsOf = (column: unknown): Entry => (typeof column === "object" ? (column as Entry) : {});
  for (const [title, column] of Object.entries(columnsOf(table.name))) {
    const { mirror, refers = "", pack, pair } = wordsOf(column) as Readonly<Record<string, string | undefined>>;
    if (mirror === undefined) continue;
    const target = tables.find((one) => one.name === refers);
    const other = wordsOf(columnsOf(refers)[mirror]);
    const alone = [table, target].every((one) => one?.key !== undefined && one.stacked === undefined && one.tree === undefined);
    const back = other.pack !== undefined && other.pair === undefined && other.refers === table.name && (other.mirror ?? title) === title;
    const at = place(["tables", table.name, "columns", title, "mirror"]);
    if (Array.isArray(pack)) throw new PlanError("plan-layout", { column: title }, at);
    if (pack === undefined || pair !== undefined || !alone || !back)
      throw new PlanError("plan-mirror", { title, table: table.name, mirror, target: refers }, at);
  }
}

/** Pairs of lists that mirror each other, each once. */
function mirrorsOf(tables: readonly CompiledTable[]): [MirrorSide, MirrorSide][] {
  const pairs: [MirrorSide, MirrorSide][] = [];
  for (const table of tables) {
    for (const inline of table.inline) {
      const { mirror } = inline.column;
      const target = inline.table.references.find(({ slot }) => slot === inline.slot)?.target;
      const other = target?.inline.find(({ column }) => column.title === mirror);
      if (mirror === undefined || target === undefined || other === undefined) continue;
      if (!pairs.some(([, back]) => back.inline === inline))
        pairs.push([
          { table, inline },
          { table: target, inline: other },
        ]);
    }
  }
  return pairs;
}

/** A record of one side, as the source has it. */
interface Held {
  readonly key: string;
  readonly cell: string;
  readonly items: readonly string[];
}

/** A row of one side, as it is to be. */
interface Line {
  readonly row: number;
  readonly cells: (string | undefined)[];
  /** What the other side calls it now, and called it before. */
  readonly now: string;
  readonly was: string;
  readonly old: readonly string[];
  items: string[];
  readonly came: ReadonlySet<string>;
  readonly gone: ReadonlySet<string>;
}

class Side {
  readonly held: Held[] = [];
  readonly byKey = new Map<string, number>();
  readonly at: number;
  readonly lines: Line[] = [];
  /** Lines by what the other side may call them. */
  readonly called = new Map<string, Line>();
  sheet: TitledSheet | null = null;
  last = 1;
  private readonly rows = new Map<number, (string | undefined)[]>();
  /** Number of the last row, those that are put behind the sheet included. */
  private end = 1;
  private readonly keyAt: number;

  constructor(
    readonly side: MirrorSide,
    readonly given: MirrorSheet | null,
  ) {
    const { titles, plan } = side.table;
    this.at = titles.indexOf(side.inline.column.title);
    this.keyAt = titles.indexOf(plan.key!);
  }

  split(cell: string): string[] {
    const read = holdsNoItem(cell) ? { items: [] } : unpackItems(cell, { separator: this.side.inline.column.separator! });
    return "items" in read ? read.items.map(([one]) => one) : [];
  }

  join(items: readonly string[]): string {
    if (items.length === 0) return this.side.table.source.dialect.repeats ? "" : "[]";
    return packItems(
      items.map((one) => [one]),
      { separator: this.side.inline.column.separator! },
    );
  }

  /** Rows of the sheet; false when it is not one that can be read here. */
  async read(problems: ProblemList, fresh: boolean): Promise<boolean> {
    const { table } = this.side;
    if (this.given === null) return true;
    const { sheet, laid } = this.given;
    const say = { table: table.plan.name, file: sheet.name };
    const read = laid === undefined ? sheet : sheetOf(laid, sheet.name);
    this.sheet = await readTitled(table.titles, read, { say, problems, needsMark: !fresh && table.plan.match === undefined });
    if (this.sheet === null) return false;
    this.last = this.end = this.sheet.last;
    for (const row of this.sheet.rows) this.line(row.number, [...row.cells]);
    return true;
  }

  line(row: number, cells: (string | undefined)[]): Line | null {
    this.rows.set(row, cells);
    this.end = Math.max(this.end, row);
    const mark = (cells[0] ?? "").trim();
    const place = parseMark(this.side.table.salt, mark);
    const held = place < 0 ? undefined : this.held[place];
    if (held === undefined && mark !== "" && !mark.startsWith("+")) return null;
    const action = (cells[1] ?? "").trim().toLowerCase();
    const key = this.keyAt < 0 ? undefined : cells[this.keyAt];
    if (mark === "" && (key ?? "") === "" && (cells[this.at] ?? "") === "") return null;
    // a new row without a name and a key gets one, so that the other side can name it
    if (held === undefined && mark === "" && (key ?? "") === "") cells[0] = `+row ${row}`;
    const was = held?.key ?? "";
    const named = held === undefined ? key || (cells[0] ?? "") : key === undefined || damage(was, key) !== null ? was : key;
    const old = held?.items ?? [];
    const cell = cells[this.at];
    const kept =
      cell === undefined || action === "skip" || (held !== undefined && (cell === held.cell || damage(held.cell, cell) !== null));
    const items = action === "remove" ? [] : kept ? [...old] : this.split(cell);
    const made: Line = {
      row,
      cells,
      now: named,
      was,
      old,
      items,
      came: new Set(items.filter((one) => !old.includes(one))),
      gone: new Set(old.filter((one) => !items.includes(one))),
    };
    this.lines.push(made);
    for (const word of [was, named, (cells[0] ?? "").startsWith("+") ? cells[0]! : ""]) if (word !== "") this.called.set(word, made);
    return made;
  }

  /** The sheet with what the other side has changed; `null` when that is nothing. */
  take(changed: ReadonlySet<Line>): TableRows | null {
    if (changed.size === 0) return null;
    const { titles, salt } = this.side.table;
    for (const line of this.lines) {
      if (changed.has(line)) line.cells[this.at] = this.join(line.items);
      else if (line.cells[this.at] === undefined) {
        const held = this.held[parseMark(salt, line.cells[0] ?? "")];
        line.cells[this.at] = held?.cell ?? "";
      }
    }
    const has = (at: number): boolean => at === 0 || at === this.at || (this.sheet?.present[at] ?? false);
    const places = [...titles.keys()].filter(has);
    const made = tableRows((at) => titles[at], places, this.rows, { last: this.last, short: this.sheet?.short ?? new Set() });
    const laid = new Map(this.given?.laid?.rows.map((row) => [row.number, row]));
    return { ...this.given?.laid, ...made, rows: made.rows.map((row) => ({ ...row, ...pick(laid.get(row.number)) })) };
  }

  /** The line of a record whose row is not in the sheet. */
  addLine(place: number, contents: readonly string[]): Line {
    return this.line(Math.max(this.last, this.end) + 1, sourceRow(this.side.table, place, contents))!;
  }
}

/** What another layout knows of a row, and its cells do not say. */
function pick(row: TableRow | undefined): Partial<TableRow> {
  return row === undefined ? {} : { at: row.at, placing: row.placing, says: row.says };
}

/** The sheets of both tables, brought in step; tables whose sheet stays as it is are left out. */
async function keepInStep(
  pair: readonly [MirrorSide, MirrorSide],
  given: ReadonlyMap<CompiledTable, MirrorSheet>,
  { problems, fresh, readSource }: SheetReading,
): Promise<ReadonlyMap<CompiledTable, TableRows>> {
  const sides = pair.map((side) => new Side(side, given.get(side.table) ?? null));
  const [one, other] = sides;
  await readHosts(readSource, (row, assembler) => {
    const mine = sides.filter(({ side }) => side.table === row.table);
    if (mine.length === 0) return null;
    const key = assembler.text(row, row.table.keySlot);
    return (cells) => {
      for (const side of mine) {
        const cell = cells[side.at - 2];
        side.held[row.place] = { key, cell, items: side.split(cell) };
        if (!side.byKey.has(key)) side.byKey.set(key, row.place);
      }
    };
  });
  noteApart(one, other, problems);
  noteApart(other, one, problems);
  for (const side of sides) if (!(await side.read(problems, fresh))) return new Map();
  await fillIn(one, other, readSource);
  await fillIn(other, one, readSource);
  // both sides as they were edited, before either follows the other
  const changed = [bringOver(one, other, problems), bringOver(other, one, problems)];
  const [atOther, atOne] = changed.map((edits) => {
    for (const [line, items] of edits) line.items = items;
    return new Set(edits.keys());
  });
  const result = new Map<CompiledTable, TableRows>();
  for (const [side, lines] of [
    [one, atOne],
    [other, atOther],
  ] as const) {
    const sheet = side.take(lines);
    if (sheet !== null) result.set(side.side.table, sheet);
  }
  return result;
}

/** Codes by which the other side is touched: links that come or go, or a new key. */
function touched({ was, now, old, items, came, gone }: Line): string[] {
  return was !== "" && now !== was ? [...new Set([...old, ...items])] : [...came, ...gone];
}

/** Lines for records of `to` that follow and are not in its sheet. */
async function fillIn(from: Side, to: Side, readSource: ReadRows): Promise<void> {
  const missing = new Set<number>();
  for (const line of from.lines) {
    for (const code of touched(line)) {
      const place = to.called.has(code) ? undefined : to.byKey.get(code);
      if (place !== undefined) missing.add(place);
    }
  }
  if (missing.size === 0) return;
  await readHosts(readSource, (row) => {
    if (row.table !== to.side.table || !missing.has(row.place)) return null;
    const { place } = row;
    return (cells) => void to.addLine(place, cells);
  });
}

/** What the edits of one side make of the lists of the other. */
function bringOver(from: Side, to: Side, problems: ProblemList): Map<Line, string[]> {
  const edits = new Map<Line, string[]>();
  for (const line of from.lines) {
    for (const code of touched(line)) {
      const goal = to.called.get(code);
      if (goal === undefined || (goal.cells[1] ?? "").trim().toLowerCase() === "remove") continue;
      const stays = line.items.includes(code);
      let items = edits.get(goal) ?? [...goal.items];
      const at = items.indexOf(line.was === "" ? line.now : line.was);
      const differ = stays ? goal.gone.has(line.was) && line.came.has(code) : goal.came.has(line.was);
      if (differ) {
        const { table, inline } = from.side;
        const place = {
          table: table.plan.name,
          file: from.given?.sheet.name ?? "",
          row: line.row,
          column: inline.column.title,
          value: line.cells[from.at] ?? "",
        };
        problems.add("mirror-differ", { code, other: to.side.inline.column.title, stays, row: goal.row }, place);
      } else if (stays && at < 0 && !items.includes(line.now)) items.push(line.now);
      else if (stays && at >= 0) items[at] = line.now;
      else if (!stays) items = items.filter((one) => one !== line.was);
      if (items.join("\n") !== goal.items.join("\n")) edits.set(goal, items);
    }
  }
  return edits;
}

/** What the source itself does not have on both sides. */
function noteApart(from: Side, to: Side, problems: ProblemList): void {
  const apart: { key: string; code: string }[] = [];
  for (const { key, items } of from.held.filter((one) => one !== undefined)) {
    for (const code of items) {
      const place = to.byKey.get(code);
      if (place !== undefined && !to.held[place].items.includes(key)) apart.push({ key, code });
    }
  }
  if (apart.length === 0) return;
  const facts = { count: apart.length, title: from.side.inline.column.title, other: to.side.inline.column.title, first: apart.slice(0, 3) };
  problems.note("mirror-apart", facts, from.side.table.plan.name);
}
