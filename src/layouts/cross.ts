/**
 * Links as a cross table: a row for each record on one side, a column for each on the other, and in the
 * cell where they meet what the link says. Behind it stands a row for each link, as in a sheet of links.
 */
import { decode } from "../bytes/writer.js";
import type { ProblemPlace } from "../model/findings.js";
import type { ProblemList } from "../model/problem-list.js";
import { damage } from "../cells/heal.js";
import { PlanError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import type { CompiledTable } from "../plan/compile.js";
import { ACTION_TITLE, isFollowing, MARK_TITLE, PLACE_TITLE, PROBLEM_TITLE, type TablePlan } from "../model/plan.js";
import type { PlanEntries } from "../plan/layout-words.js";
import type { Assembler, Row } from "../records/assemble.js";
import { formatMark, parseMark } from "../model/marks.js";
import type { SheetRow } from "../sheets/container.js";
import { readAll } from "../sheets/titled.js";
import { alignItems, besideIn, keepIdentity } from "./align.js";
import type {
  ArrangedSheet,
  Arrangement,
  Placing,
  SheetCells,
  SheetPlace,
  SheetReading,
  TableRow,
  TableRows,
  WrittenRow,
} from "./layout.js";
import { holdsNoItem, packItems, unpackItems } from "../cells/pack.js";

const STYLE = { separator: "; " };
/** Stands in the cell of a link that has nothing to say. */
const SIGN = "x";

/** One side of the links: a column that refers to a table, or what the links are in. */
interface Side {
  readonly title: string;
  readonly target: CompiledTable;
  /** Slot of the column; -1 for what the links are in. */
  readonly slot: number;
}

interface Link {
  readonly start: number;
  readonly end: number;
  readonly place: number;
  readonly text: string;
}

/** Titles of the columns down and across, and of what stands in the cells. */
interface CrossWords {
  readonly down: string;
  readonly across: string;
  readonly cell?: string;
}

function crossOf({ layout }: TablePlan): CrossWords | undefined {
  return layout?.cross as CrossWords | undefined;
}

export const crossTables: Arrangement = {
  name: "cross",
  ownTitles: true,
  words: {
    table: (z) => ({
      cross: z
        .strictObject({
          down: z.string().describe("title of the column whose records have a row each"),
          across: z.string().describe("title of the column whose records have a column each"),
          cell: z.string().optional().describe("title of the column that stands in the cells; a sign for the link, unless said"),
        })
        .optional()
        .describe("the records are links, shown as a cross table"),
    }),
    readTable: ({ entry }) => {
      const cross = entry.cross as CrossWords | undefined;
      return cross === undefined ? {} : { layout: { cross }, calledBy: [cross.down, cross.across] };
    },
    claims: (table) => crossOf(table) !== undefined,
    check: checkCross,
  },
  open: ({ compiled }) =>
    Promise.resolve(compiled.tables.filter(({ plan }) => crossOf(plan) !== undefined).map((table) => new Cross(table))),
};

function checkCross(table: TablePlan, { tables, place }: PlanEntries): void {
  const cross = crossOf(table);
  if (cross === undefined) return;
  const where = ["tables", table.name, "cross"];
  const titles = table.columns.map(({ title }) => title);
  const sides = table.columns.filter((one) => one.refers !== undefined).map(({ title }) => title);
  for (const [word, title] of Object.entries(cross) as [string, string | undefined][]) {
    if (title === undefined) continue;
    const known = word === "cell" ? titles : sides;
    if (known.includes(title) || (word !== "cell" && title === table.inside)) continue;
    if (titles.includes(title)) throw new PlanError("plan-cross-side", { title }, place([...where, word]));
    const facts = { table: table.name, column: title, nearest: nearest(title, titles), titles };
    throw new PlanError("plan-no-such-column", facts, place([...where, word]));
  }
  const keyless = tables.find(
    (one) => one.name === table.inside && (cross.down === one.name || cross.across === one.name) && one.key === undefined,
  );
  if (keyless !== undefined) throw new PlanError("plan-refers-keyless", { column: keyless.name, table: keyless.name }, place(where));
  const lists = table.inline.some((one) => !isFollowing(one));
  if (new Set(Object.values(cross)).size < Object.values(cross).length || lists || table.arrangement !== "cross")
    throw new PlanError("plan-cross-alone", { table: table.name }, place(where));
}

/** The links of one table, as they are met in the source. */
class Cross implements ArrangedSheet {
  readonly tables: readonly CompiledTable[];
  /** The codes across are known when all records were met. */
  readonly titles = null;
  readonly down: Side;
  readonly across: Side;
  /** Title of the column in the cells; nothing where a sign stands for the link. */
  readonly cellTitle: string | undefined;
  private readonly cellSlot: number;
  private readonly labelSlot: number;
  private readonly acrossLabelSlot: number;
  /** Keys of the records on each side, in the order of the source; codes that stand for none come behind. */
  private readonly downKeys = new Map<string, { readonly place: number; readonly label: string }>();
  private readonly acrossKeys = new Map<string, { readonly label: string }>();
  private readonly links = new Map<string, Map<string, Link[]>>();
  /** Links that name nothing on one of the sides. */
  private loose = 0;

  constructor(readonly table: CompiledTable) {
    this.tables = [table];
    const { columns } = table.plan;
    const cross = crossOf(table.plan)!;
    this.cellTitle = cross.cell;
    const side = (title: string): Side => {
      const reference = table.references.find(({ slot }) => columns[slot].title === title);
      return { title, target: reference?.target ?? table.parent!, slot: reference?.slot ?? -1 };
    };
    this.down = side(cross.down);
    this.across = side(cross.across);
    this.cellSlot = columns.findIndex(({ title }) => title === cross.cell);
    const labelOf = ({ target }: Side): number => target.plan.columns.findIndex(({ title }) => title === target.plan.label);
    this.labelSlot = labelOf(this.down);
    this.acrossLabelSlot = labelOf(this.across);
  }

  watch(row: Row, assembler: Assembler): void {
    const { down, across } = this;
    if (row.table === down.target) {
      const label = this.labelSlot < 0 ? "" : assembler.text(row, this.labelSlot);
      this.downKeys.set(assembler.text(row, down.target.keySlot), { place: row.place, label });
    }
    if (row.table === across.target) {
      const label = this.acrossLabelSlot < 0 ? "" : assembler.text(row, this.acrossLabelSlot);
      this.acrossKeys.set(assembler.text(row, across.target.keySlot), { label });
    }
  }

  write({ row, wanted }: Pick<WrittenRow, "row" | "wanted">, assembler: Assembler): [] {
    if (wanted) this.link(row, assembler);
    return [];
  }

  private link(row: Row, assembler: Assembler): void {
    const { down, across } = this;
    const [one, other] = [this.codeOf(row, down, assembler), this.codeOf(row, across, assembler)];
    if (holdsNoItem(one) || holdsNoItem(other)) {
      this.loose++;
      return;
    }
    const cells = this.links.get(one) ?? new Map<string, Link[]>();
    this.links.set(one, cells);
    const list = cells.get(other) ?? [];
    cells.set(other, list);
    list.push({
      place: row.place,
      start: row.unitStart,
      end: row.end,
      text: this.cellSlot < 0 ? SIGN : assembler.text(row, this.cellSlot),
    });
  }

  private codeOf(row: Row, { slot }: Side, assembler: Assembler): string {
    if (slot >= 0) return assembler.text(row, slot);
    const holder = assembler.holderOf(row)!;
    return decode(holder.bytes, 0, holder.length);
  }

  private get ownTitles(): string[] {
    const { down } = this;
    return [MARK_TITLE, ACTION_TITLE, down.title, ...(this.labelSlot < 0 ? [] : [`${down.title} ${down.target.plan.label}`])];
  }

  end(): readonly SheetCells[] {
    return [...this.rows()];
  }

  titleOf(title: string): string {
    return this.ownTitles.includes(title) || title.trim() === "" ? title : codeOf(title.trim(), this.acrossKeys);
  }

  private *rows(): Iterable<SheetCells> {
    const codes = new Set(this.acrossKeys.keys());
    for (const cells of this.links.values()) for (const code of cells.keys()) codes.add(code);
    yield [...this.ownTitles, ...codes];
    for (const code of new Set([...this.downKeys.keys(), ...this.links.keys()])) {
      const known = this.downKeys.get(code);
      const mark = known === undefined ? "" : formatMark(this.down.target.salt, known.place);
      const label = this.labelSlot < 0 ? [] : [known?.label ?? ""];
      yield [mark, "", code, ...label, ...[...codes].map((other) => this.cell(code, other))];
    }
  }

  private cell(one: string, other: string): string {
    const links = this.links.get(one)?.get(other) ?? [];
    return links.length === 0
      ? ""
      : packItems(
          links.map(({ text }) => [text]),
          STYLE,
        );
  }

  async read({ sheet, problems, fresh, filter, readSource }: SheetReading): Promise<ReadonlyMap<CompiledTable, TableRows> | null> {
    const { table } = this;
    await readSource((row, assembler) => {
      this.watch(row, assembler);
      if (row.table === table) this.write({ row, wanted: !filter.active || filter.passes(row, assembler) }, assembler);
    });
    const heads = this.ownTitles.slice(2);
    const all = await readAll(sheet, (title) => heads.includes(title));
    const rows = (all ?? []).filter(({ cells }) => cells.some((cell) => (cell ?? "").trim() !== "")).map(wholeRow);
    if (rows[0]?.cells.some((title) => heads.includes(title)) !== true) return null;
    const facts = { count: this.loose, down: this.down.title, across: this.across.title };
    if (this.loose > 0) problems.note("cross-loose", facts, table.plan.name);
    const links = new CrossRows(this, rows, sheet.name, problems, {
      own: this.ownTitles,
      down: this.downKeys,
      across: this.acrossKeys,
      fresh,
    });
    return new Map([[table, links.take()]]);
  }

  linksOf(one: string): ReadonlyMap<string, readonly Link[]> {
    return this.links.get(one) ?? new Map<string, Link[]>();
  }

  textOf(link: Link): string {
    return this.cellSlot < 0 ? SIGN : link.text;
  }
}

/** The code that stands there, or that of the only record that is called so; one that a spreadsheet has damaged as it was. */
function codeOf(word: string, keys: ReadonlyMap<string, { readonly label: string }>): string {
  if (keys.has(word)) return word;
  const likely = [...keys.keys()].filter((key) => damage(key, word) !== null);
  if (likely.length === 1 || word === "") return likely.length === 1 ? likely[0] : word;
  const called = [...keys].filter(([, { label }]) => label.trim() === word);
  return called.length === 1 ? called[0][0] : word;
}

interface Known {
  readonly own: readonly string[];
  readonly down: ReadonlyMap<string, { readonly place: number; readonly label: string }>;
  readonly across: ReadonlyMap<string, { readonly label: string }>;
  /** There is no source: nothing has a mark. */
  readonly fresh: boolean;
}

/** A row without gaps. */
interface WholeRow extends SheetRow {
  readonly cells: readonly string[];
}

function wholeRow(row: SheetRow): WholeRow {
  return { ...row, cells: row.cells.map((cell) => cell ?? "") };
}

/** The rows of links behind a cross table. */
class CrossRows {
  private readonly rows: TableRow[] = [];
  private readonly titles: readonly string[];
  private readonly codeAt = new Map<number, string>();

  constructor(
    private readonly cross: Cross,
    [header, ...body]: readonly WholeRow[],
    private readonly file: string,
    private readonly problems: ProblemList,
    private readonly known: Known,
  ) {
    const { down, across } = cross;
    this.titles = [MARK_TITLE, ACTION_TITLE, down.title, across.title, ...(cross.cellTitle === undefined ? [] : [cross.cellTitle])];
    for (const [code, { place }] of known.down) this.codeAt.set(place, code);
    const codes = this.codes(header.cells);
    const seen = new Map<string, number>();
    for (const { number, cells, fault = null } of body) {
      if (fault !== null) problems.add(fault === "open" ? "quote-open" : "quote-after", {}, this.place(number));
      else this.row(number, cells, header.cells, codes, seen);
    }
  }

  take(): TableRows {
    return { titles: this.titles, rows: this.rows, ownTitles: true, byLabel: true };
  }

  /** No link stands for the row as a whole. */
  private place(row: number, column = "", value = ""): ProblemPlace {
    return { table: this.cross.table.plan.name, file: this.file, row, column, value, ids: [] };
  }

  /** Codes over the columns; "" over those of the row itself. */
  private codes(titles: readonly string[]): string[] {
    return titles.map((title, c) => {
      if ([...this.known.own, PROBLEM_TITLE, ""].includes(title.trim())) return "";
      const code = codeOf(title.trim(), this.known.across);
      const first = titles.findIndex((one) => one.trim() === title.trim());
      if (first === c) return code;
      this.problems.add("title-twice", { title, first: first + 1, second: c + 1 }, this.place(1, title));
      return "";
    });
  }

  private row(
    number: number,
    cells: readonly string[],
    titles: readonly string[],
    codes: readonly string[],
    seen: Map<string, number>,
  ): void {
    const cell = (title: string): string => (cells[titles.indexOf(title)] ?? "").trim();
    const { cross, known } = this;
    const { down } = cross;
    const mark = known.fresh ? "" : cell(MARK_TITLE);
    const place = parseMark(down.target.salt, mark);
    const marked = this.codeAt.get(place);
    if (mark !== "" && marked === undefined) {
      this.problems.add("mark-damaged", { mark }, this.place(number, MARK_TITLE, mark));
      return;
    }
    const labelTitle = known.own.at(3);
    const said = cell(down.title) || (labelTitle === undefined ? "" : cell(labelTitle));
    const code = marked ?? codeOf(said, known.down);
    const at = this.place(number, down.title, said);
    if (marked !== undefined && titles.includes(down.title) && said !== code && damage(code, said) === null) {
      this.problems.add("cross-mark", { mark, code, title: down.title, said }, at);
      return;
    }
    const label = known.down.get(code)?.label ?? null;
    const name = labelTitle === undefined || !titles.includes(labelTitle) ? label : cell(labelTitle);
    if (labelTitle !== undefined && label !== null && name !== null && name !== label.trim() && damage(label, name) === null) {
      this.problems.add("read-only", { title: labelTitle, was: label }, this.place(number, labelTitle, name));
      return;
    }
    const filled = codes.some((one, c) => one !== "" && (cells[c] ?? "").trim() !== "");
    if (code === "") {
      if (filled) this.problems.add("required", { title: down.title }, at);
      return;
    }
    const first = seen.get(code);
    if (first !== undefined) {
      this.problems.add("cross-twice", { code, first }, at);
      return;
    }
    seen.set(code, number);
    const action = cell(ACTION_TITLE).toLowerCase();
    if (action === "skip") return;
    if (action !== "" && action !== "remove") {
      this.problems.add(
        "action-unknown",
        { action, nearest: nearest(action, ["remove", "skip"]) },
        this.place(number, ACTION_TITLE, action),
      );
      return;
    }
    const links = cross.linksOf(code);
    codes.forEach((other, c) => {
      if (other === "") return;
      const now = action === "remove" ? "" : (cells[c] ?? (c < cells.length ? "" : undefined));
      if (now !== undefined) this.meet({ row: number, column: titles[c] }, [code, other], now, links.get(other) ?? []);
    });
  }

  /** The links of two records: what stays, changes, goes and comes. */
  private meet(place: SheetPlace, [one, other]: readonly [string, string], cell: string, links: readonly Link[]): void {
    const { cross } = this;
    const { table } = cross;
    const was = links.map((link) => cross.textOf(link));
    const put = (link: Link | null, action: string, text: string, placing?: Placing): void => {
      const mark = link === null ? "" : formatMark(table.salt, link.place);
      const own = [mark, action, one, other, text].slice(0, this.titles.length);
      this.rows.push({ number: this.rows.length + 2, at: place, cells: own, placing });
    };
    const alone = was.map((text) => [text]);
    const whole = links.length === 0 ? "" : packItems(alone, STYLE);
    if (cell === whole || damage(whole, cell) !== null) {
      for (const link of links) put(link, "", cross.textOf(link));
      return;
    }
    const read = holdsNoItem(cell) ? { items: [] } : unpackItems(cell, STYLE);
    const items = ("items" in read ? read.items : []).map(([text]) => (cross.cellTitle === undefined ? SIGN : text));
    const now = items.map((text) => [text]);
    // a link that says what it said stays the one it was, wherever it stands in the cell
    const steps = keepIdentity(alignItems(alone, now), alone, now, true);
    const besideOf = besideIn(steps, links);
    for (const step of steps) {
      if (step.kind === "gone") put(links[step.old], "remove", was[step.old]);
      else if (step.kind === "new") put(null, "", items[step.now]);
      else if (step.kind === "moved") {
        const says = { column: PLACE_TITLE, old: String(step.old + 1), new: String(step.now + 1), holds: 0 };
        put(links[step.old], "", items[step.now], { beside: besideOf(step.now), rank: step.now, says });
      } else put(links[step.old], "", items[step.now]);
    }
  }
}
