/**
 * Columns whose values the source writes once, blank in the records below: the sheet shows them in every
 * row. What it says is made blank again where the record above says the same, so that only what was edited
 * changes; a record that the value stood in may go, or get another, and those below keep theirs.
 */
import { tableRows, type ColumnView, type Placing, type SheetReading, type TableRows } from "./layout.js";
import { decode } from "../bytes/writer.js";
import { PlanError } from "../errors/error.js";
import { isEdited } from "../cells/heal.js";
import type { CompiledTable } from "../plan/compile.js";
import type { ReadRows } from "../records/reader.js";
import { parseMark } from "../model/marks.js";
import { readHosts, sourceRow } from "../records/items.js";
import { asNew, readTitled, type TitledRow, type TitledSheet } from "../sheets/titled.js";

/** A record of the source. */
interface Held {
  /** The list that it is in. */
  readonly list: number;
  /** By column that is filled: the cell that the source has, and the one that the sheet shows. */
  readonly cells: readonly { readonly own: string; readonly shown: string; readonly blank: boolean }[];
  readonly holder: string;
  /** Where it ends in the source. */
  readonly end: number;
}

type Cells = (string | undefined)[];

export const filledColumns: ColumnView = {
  name: "fill",
  words: {
    column: (z) => ({ fill: z.literal("down").optional().describe("where the source has nothing, the value of the record above counts") }),
    readColumn: ({ fill }) => (fill === undefined ? {} : { fillDown: true }),
    check: (table, { place }) => {
      const column = table.columns.find(({ fillDown }) => fillDown === true);
      if (column === undefined) return;
      const laid = [table.arrangement, table.host, table.match].some((one) => one !== undefined);
      if (laid || column.title === table.key) {
        const facts = { table: table.name, title: column.title };
        throw new PlanError("plan-fill-alone", facts, place(["tables", table.name, "columns", column.title]));
      }
    },
  },
  read: async ({ compiled, sheetOf }) => {
    const laid = new Map<CompiledTable, TableRows>();
    for (const table of compiled.tables.filter(({ fills }) => fills.length > 0)) {
      const reading = await sheetOf(table);
      const rows = reading === null ? null : await unfill(table, reading);
      if (rows !== null) laid.set(table, rows);
    }
    return laid;
  },
};

/** The sheet as it would be without filling; nothing when it is no such sheet. */
async function unfill(table: CompiledTable, { sheet: given, problems, fresh, readSource }: SheetReading): Promise<TableRows | null> {
  const say = { table: table.plan.name, file: given.name };
  const sheet = await readTitled(table.titles, given, { say, problems, needsMark: !fresh && table.plan.match === undefined });
  if (sheet === null) return null;
  const read = fresh ? sheet.rows.map(asNew) : sheet.rows;
  const filled = new FilledSheet(table, await heldRecords(table, readSource), sheet.present, sheet.last, read);
  await filled.blank(readSource);
  return filled.take(sheet);
}

async function heldRecords(table: CompiledTable, readSource: ReadRows): Promise<Held[]> {
  const held: Held[] = [];
  await readSource((row, assembler) => {
    if (row.table !== table) return;
    const holder = assembler.holderOf(row);
    held[row.place] = {
      list: row.parent?.place ?? -1 - assembler.file,
      cells: table.fills.map((slot) => {
        const own = assembler.text(row, slot);
        const shown = row.filled?.[slot] ?? null;
        return { own, shown: shown ?? own, blank: shown !== null };
      }),
      holder: holder === null ? "" : decode(holder.bytes, 0, holder.length),
      end: row.end,
    };
  });
  return held;
}

class FilledSheet {
  private readonly rows = new Map<number, Cells>();
  /** Row numbers of records, and of new rows. */
  private readonly at = new Map<number, number>();
  private readonly news: number[] = [];
  /** Places of the columns in the sheet. */
  private readonly columns: readonly number[];
  /** Columns in which some row says something, whether the sheet has them or not. */
  private readonly grown = new Set<number>();
  /** What records get that have no row in the sheet, or one that is skipped, by column. */
  private readonly missing = new Map<number, Map<number, string>>();
  /** Of new rows, what the source need not say again. */
  private readonly says = new Map<number, Record<string, string>>();
  /** What records that stay in their list say now, by column. */
  private readonly now = new Map<number, string[]>();
  private readonly placings = new Map<number, Placing>();

  constructor(
    private readonly table: CompiledTable,
    private readonly held: readonly Held[],
    private readonly present: readonly boolean[],
    private last: number,
    read: readonly TitledRow[],
  ) {
    this.columns = table.fills.map((slot) => table.titles.indexOf(table.plan.columns[slot].title));
    for (const { number, cells } of read) {
      const own = [...cells];
      this.rows.set(number, own);
      const mark = (own[0] ??= "").trim();
      const place = parseMark(table.salt, mark);
      if (mark === "" || mark.startsWith("+")) this.news.push(number);
      else if (place >= 0 && place < held.length && !this.at.has(place)) this.at.set(place, number);
    }
  }

  async blank(readSource: ReadRows): Promise<void> {
    const lasts = [...this.columns.entries()].map(([i, column]) => this.blankIn(i, column));
    const others = this.news.filter((number) => !this.goesToGroup(number));
    // the others are put behind the last record, where there is one list
    for (const number of others) this.placings.set(number, { rank: this.last + number, says: null });
    if (this.table.holder === null) for (const [i, column] of this.columns.entries()) this.blankLast(others, column, lasts[i]);
    if (this.missing.size > 0) await this.addRows(readSource);
    // a sheet in which one row has a cell has it in all
    for (const column of this.grown) {
      const i = this.columns.indexOf(column);
      for (const [place, number] of this.at) {
        const row = this.rows.get(number);
        if (row !== undefined) row[column] ??= this.held[place].cells[i].own;
      }
      for (const number of this.news) this.rows.get(number)![column] ??= "";
    }
  }

  /** Blank cells of records of the source in one column; what the last of the only list says. */
  private blankIn(i: number, column: number): string | undefined {
    const above = new Map<number, string>();
    for (const [place, { list, cells, holder }] of this.held.entries()) {
      const row = this.rows.get(this.at.get(place) ?? -1);
      const action = (row?.[1] ?? "").trim().toLowerCase();
      if (action === "remove") continue;
      const { own, shown, blank } = cells[i];
      const said = action === "skip" ? undefined : row?.[column];
      const edited = said !== undefined && isEdited(shown, said);
      const value = edited ? said : shown;
      this.now.set(place, [...(this.now.get(place) ?? []), value]);
      if (this.table.holder !== null && action === "" && row?.[2] !== undefined && row[2].trim() !== holder) {
        // what goes to another list says there what it says here
        if (said !== undefined) row[column] = value;
        this.now.delete(place);
        continue;
      }
      const before = above.get(list) ?? "";
      const written = value === "" ? "" : blank && value === before ? own : value;
      above.set(list, value === "" ? before : value);
      if (row !== undefined && said !== undefined) {
        if (blank || edited) row[column] = written;
      } else if (written !== own) {
        this.grown.add(column);
        if (row !== undefined && action === "") row[column] = written;
        else this.missing.set(place, (this.missing.get(place) ?? new Map<number, string>()).set(column, written));
      }
    }
    return above.get(-1);
  }

  private blankLast(news: readonly number[], column: number, last: string | undefined): void {
    let before = last;
    for (const number of news) {
      const row = this.rows.get(number)!;
      if (before !== undefined && row[column] === before) this.leave(number, column, before);
      else if ((row[column] ?? "") !== "") before = row[column];
    }
  }

  /** A new row that says what some records of its list say goes behind the last of these, which says it for it. */
  private goesToGroup(number: number): boolean {
    const { held, table, columns, now } = this;
    const row = this.rows.get(number)!;
    const wanted = columns.map((column) => row[column] ?? "");
    const isIn = ({ holder }: Held): boolean => table.holder === null || holder === (row[2] ?? "").trim();
    const last = held.findLastIndex((one, place) => isIn(one) && wanted.every((value, i) => value !== "" && now.get(place)?.[i] === value));
    if (last < 0) return false;
    const isBehindAll = held.findLastIndex(({ list }) => list === held[last].list) === last;
    const beside = isBehindAll ? undefined : { at: held[last].end, before: false };
    this.placings.set(number, { beside, rank: number, says: null });
    for (const [i, column] of columns.entries()) this.leave(number, column, wanted[i]);
    return true;
  }

  /** A cell of a new row that the source need not have. */
  private leave(number: number, column: number, value: string): void {
    this.says.set(number, { ...this.says.get(number), [this.table.titles[column]]: value });
    this.rows.get(number)![column] = "";
  }

  /** Rows for records that have none. */
  private async addRows(readSource: ReadRows): Promise<void> {
    const { table, at, rows, missing } = this;
    await readHosts(readSource, (one) => {
      const put = one.table === table ? missing.get(one.place) : undefined;
      if (put === undefined) return null;
      return (cells) => {
        const row = sourceRow(table, one.place, cells).map((cell, c): string | undefined => (c < 2 || this.shows(c) ? cell : undefined));
        for (const [column, written] of put) row[column] = written;
        rows.delete(at.get(one.place) ?? -1);
        rows.set(++this.last, row);
      };
    });
  }

  private shows(column: number): boolean {
    return this.present[column] || this.grown.has(column);
  }

  take(sheet: TitledSheet): TableRows {
    const { titles } = this.table;
    const places = [...titles.keys()].filter((c) => c < 1 || this.shows(c));
    const made = tableRows((c) => titles[c], places, this.rows, sheet);
    return { ...made, rows: made.rows.map((row) => ({ ...row, says: this.says.get(row.number), placing: this.placings.get(row.number) })) };
  }
}
