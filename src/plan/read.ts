/** Reads a plan: YAML 1.2, checked against the schema, each error with line, column and the nearest right word. */
import { pushAll } from "../bytes/lists.js";
import { isMap, LineCounter, parseDocument, type Document } from "yaml";
import { HatchFoldError, PlanError, type Place } from "../errors/error.js";
import { excerptOf } from "../errors/excerpt.js";
import { nearest } from "../errors/nearest.js";
import { ExpressionNames } from "./names.js";
import { formatPath, parsePath, type Path, type Step } from "../model/path.js";
import {
  canOrder,
  ACTION_TITLE,
  FILE_TITLE,
  MARK_TITLE,
  PROBLEM_TITLE,
  type ColumnPlan,
  type InlineColumnPlan,
  type Plan,
  type SourcePlan,
  type TablePlan,
} from "../model/plan.js";
import { AcrossTables } from "./across-tables.js";
import { compilePattern } from "./pattern.js";
import { checksOf, columnRules, isRequired, uniqueRules } from "./rules.js";
import type { Entry, NamedWords } from "./layout-words.js";
import { checkSettings, explain, keyOffset, refuseProto, valuesOf } from "./text.js";
import { isThrough, planSchema, type FieldInput, type PlanInput, type PlanSchema } from "./schema.js";

/** Plans that were read lately: who edits compares again and again, with the plan of the receipt. */
const lately: { readonly plan: Plan; readonly text: string; readonly how: readonly unknown[] }[] = [];
const LATELY = 4;

/** Nobody can change what others will be given. */
function freeze(value: unknown): void {
  if (typeof value !== "object" || value === null || Object.isFrozen(value)) return;
  if (!Array.isArray(value) && Object.getPrototypeOf(value) !== Object.prototype) return;
  Object.freeze(value);
  for (const part of Object.values(value)) freeze(part);
}

/**
 * Reads a plan.
 *
 * @param file - what errors call it
 * @param layouts - those whose words it may have
 * @param mayLackTables - it is only asked how its sources are read
 * @throws {@link PlanError} with line and column, and the nearest right word
 */
export async function readPlan(text: string, file: string, layouts: readonly NamedWords[], mayLackTables = false): Promise<Plan> {
  const how = [file, layouts, mayLackTables];
  const known = lately.find((one) => one.text === text && one.how.every((said, i) => said === how[i]));
  if (known !== undefined) return known.plan;
  try {
    const schema = await planSchema(layouts);
    const plan = parsePlan(text, file, schema, layouts, mayLackTables);
    for (const { columns } of plan.tables)
      for (const { rules } of columns) if (rules?.pattern !== undefined) await compilePattern(rules.pattern.is, rules.pattern.place);
    freeze(plan);
    lately.unshift({ plan, text, how });
    lately.length = Math.min(lately.length, LATELY);
    return plan;
  } catch (error) {
    if (error instanceof HatchFoldError && error.place.line !== undefined)
      error.excerpt = excerptOf(text.split(/\r?\n|\r/)[error.place.line - 1] ?? "", error.place.column ?? 1);
    throw error;
  }
}

function parsePlan(text: string, file: string, schema: PlanSchema, layouts: readonly NamedWords[], mayLackTables: boolean): Plan {
  const lines = new LineCounter();
  const doc = parseDocument(text, { lineCounter: lines, strict: true, uniqueKeys: true });
  const place = (offset: number | undefined): Place => {
    if (offset === undefined) return { file };
    const { line, col } = lines.linePos(offset);
    return { file, line, column: col };
  };
  const broken = doc.errors[0];
  if (broken !== undefined)
    throw new PlanError("plan-yaml", { reason: broken.message.replace(/ at line \d+, column \d+:\n[^]*/, "") }, place(broken.pos[0]));
  refuseProto(doc, place);
  const parsed = schema.plan.safeParse(valuesOf(doc, place));
  if (!parsed.success) {
    // a misspelled word is the likeliest reason why another is missing
    const { issues } = parsed.error;
    const issue = issues.find((one) => one.code === "unrecognized_keys") ?? issues[0];
    throw explain(issue, { doc, place, schema });
  }
  for (const [name, source] of Object.entries(parsed.data.sources)) checkSettings(name, source, { doc, place, schema });
  return new Reader(parsed.data, (path) => place(keyOffset(doc, path)), doc, text, layouts).plan(mayLackTables);
}

/** What is not a word of every source is a setting of its format. */
function sourcePlan(name: string, input: PlanInput["sources"][string]): SourcePlan {
  const { file, format, encoding, schema, ...settings } = input;
  return { name, file, format, encoding, schema, settings: Object.keys(settings).length === 0 ? undefined : settings };
}

/** A list that is shown in a sheet, and the lists in its records that are shown in the same cells. */
interface List {
  readonly name: string;
  readonly list: readonly Step[];
  readonly rows: Path;
  readonly columns: ColumnPlan[];
  readonly inline: InlineColumnPlan[];
  readonly inner: Lists;
}

/** The lists of one table that are shown in its own sheet. */
class Lists {
  private readonly found = new Map<string, List>();

  constructor(
    private readonly host: string,
    private readonly rows: Path,
    private readonly taken: readonly string[],
  ) {}

  at(list: readonly Step[], keyed: boolean): List {
    const path = formatPath({ steps: list, end: "value" });
    let one = this.found.get(path);
    if (one === undefined) {
      let name = `${this.host} ${path}`;
      while (this.taken.includes(name)) name += " (list)";
      const rows: Path = { steps: [...this.rows.steps, ...list, ...(keyed ? [{ kind: "any" as const }] : [])], end: "value" };
      this.found.set(path, (one = { name, list, rows, columns: [], inline: [], inner: new Lists(name, rows, this.taken) }));
    }
    return one;
  }

  /** What is there instead of a list: nothing, null, or an empty one. */
  standIns(): ColumnPlan[] {
    return [...this.found.values()].map(({ name, list }) => ({
      title: name,
      at: { steps: list, end: "value" },
      type: "any",
      blank: "absent",
      required: false,
      readOnly: false,
      hidden: true,
    }));
  }

  tables(place: Place): TablePlan[] {
    return [...this.found.values()].flatMap(({ name, rows, columns: own, inline, inner }) => {
      const columns = [...own, ...inner.standIns()];
      const table = { name, rows, inside: this.host, host: this.host, columns, inline, shown: [...columns.keys()], place };
      return [table, ...inner.tables(place)];
    });
  }
}

class Reader {
  constructor(
    private readonly input: PlanInput,
    private readonly place: (path: readonly string[]) => Place,
    private readonly doc: Document,
    private readonly text: string,
    private readonly layouts: readonly NamedWords[],
  ) {}

  /** Keys in the order of the text: JavaScript would put those that look like numbers first. */
  private order(path: readonly string[], entries: object): string[] {
    const map = this.doc.getIn(path, true);
    const written = isMap(map) ? map.items.map((item) => String((item.key as { value?: unknown }).value)) : [];
    return Object.keys(entries).sort((a, b) => written.indexOf(a) - written.indexOf(b));
  }

  plan(mayLackTables: boolean): Plan {
    const names = this.order(["tables"], this.input.tables);
    if (names.length === 0 && !mayLackTables) throw new PlanError("plan-no-tables", {}, this.place(["tables"]));
    const placed = names.flatMap((name) => this.table(name, this.input.tables[name]));
    const tables = placed.map((table): TablePlan => ({
      ...table,
      from: this.sourceOf(table, placed),
      arrangement: this.layouts.find(({ words }) => words?.claims?.(table, placed) === true)?.name,
    }));
    const between = new AcrossTables(this.input, this.place, tables, names);
    const expressions = new ExpressionNames(this.place, tables);
    const entries = {
      tables,
      entry: (table: string): Entry | undefined => this.input.tables[table],
      place: this.place,
    };
    const seen = new Map<string, string>();
    for (const table of tables) {
      const fold = table.name.normalize("NFC").toLowerCase();
      if (seen.has(fold))
        throw new PlanError("plan-same-name", { table: table.name, other: seen.get(fold)! }, this.place(["tables", table.name]));
      seen.set(fold, table.name);
      between.check(table);
      expressions.check(table);
      if (table.order !== undefined && !canOrder(table))
        throw new PlanError("plan-order-alone", { table: table.name }, this.place(["tables", table.name, "order"]));
      for (const { words } of this.layouts) words?.check?.(table, entries);
    }
    return { sources: Object.entries(this.input.sources).map(([name, source]) => sourcePlan(name, source)), tables, text: this.text };
  }

  /** The source that a table is in: as said, or that of the table around; the only one need not be named. */
  private sourceOf(table: TablePlan, tables: readonly TablePlan[]): string | undefined {
    const names = Object.keys(this.input.sources);
    const at = this.place(["tables", table.name, ...(table.from === undefined ? [] : ["from"])]);
    if (table.from !== undefined && !names.includes(table.from))
      throw new PlanError("plan-no-such-source", { source: table.from, nearest: nearest(table.from, names), names }, at);
    const parent = tables.find((one) => one.name === table.inside && one !== table);
    const around = parent === undefined || parent.rows.steps.length >= table.rows.steps.length ? undefined : this.sourceOf(parent, tables);
    if (table.from !== undefined && around !== undefined && around !== table.from)
      throw new PlanError("plan-not-inside", { table: table.name, parent: parent!.name }, at);
    const from = table.from ?? around;
    if (from === undefined && names.length > 1) throw new PlanError("plan-from-missing", { table: table.name, names }, at);
    return from;
  }

  /** A column, and the one for the label beside its code. */
  private withLabel(table: string, title: string, input: FieldInput): ColumnPlan[] {
    const column = this.column(table, title, input);
    if (typeof input === "string" || input.label === undefined) return [column];
    const where = ["tables", table, "columns", title, "label"];
    if (input.refers === undefined) throw new PlanError("plan-label-alone", { column: title }, this.place(where));
    const label = this.input.tables[input.refers]?.label ?? "label";
    const made: ColumnPlan = {
      title: `${title} ${label}`,
      at: this.columnPath(input.label, where),
      type: "text",
      blank: "absent",
      required: false,
      readOnly: column.readOnly,
      labelOf: title,
      place: this.place(where),
    };
    return [column, made];
  }

  /** The label of the record that a code refers to, where it does not stand beside the code. */
  private lookup(title: string, input: FieldInput, taken: object): InlineColumnPlan[] {
    if (typeof input === "string" || input.refers === undefined || input.label !== undefined) return [];
    const label = this.input.tables[input.refers]?.label;
    if (label === undefined || `${title} ${label}` in taken) return [];
    return [{ title: `${title} ${label}`, table: input.refers, column: label, lookup: title }];
  }

  /** Columns of the sheet for a list that is packed or spread. */
  private inline(table: string, title: string, input: Exclude<FieldInput, string>, lists: Lists): InlineColumnPlan[] {
    const where = ["tables", table, "columns", title];
    const { pack, pair, spread, gaps } = input;
    for (const word of ["label", "copied"] as const)
      if (input[word] !== undefined) throw new PlanError("plan-label-list", { column: title, word }, this.place([...where, word]));
    if (
      (pack === undefined) === (spread === undefined) ||
      (pair !== undefined && pack === undefined) ||
      (gaps !== undefined && spread === undefined)
    )
      throw new PlanError("plan-layout", { column: title }, this.place(where));
    const column = this.column(table, title, input);
    const [outermost, ...deeper] = typeof pack === "string" ? [pack] : (pack ?? [""]);
    if (deeper.length > 0 && pair !== undefined) throw new PlanError("plan-layout", { column: title }, this.place(where));
    const { steps } = column.at;
    const list =
      input.list === undefined
        ? pair !== undefined || steps.length === deeper.length + 1
          ? steps.slice(0, steps.length - deeper.length)
          : steps.slice(0, -1 - deeper.length)
        : this.columnPath(input.list, where).steps;
    const rest = pair !== undefined ? [] : input.list === undefined ? steps.slice(list.length) : steps;
    if (rest.length < deeper.length || (list.length === 0 && deeper.length > 0))
      throw new PlanError("plan-pack-deep", { column: title, levels: deeper.length + 1, path: input.at }, this.place([...where, "pack"]));
    if (list.length === 0) throw new PlanError("plan-path", { path: input.at }, this.place([...where, "at"]));
    const outer = lists.at(list, pair !== undefined);
    let inner = outer;
    for (const [k, separator] of deeper.entries()) {
      const next = inner.inner.at(rest.slice(k, k + 1), false);
      inner.inline.push({ title, table: next.name, column: title, separator });
      inner = next;
    }
    if (pair !== undefined) inner.columns.push({ ...column, title: ":key", at: { steps: [], end: "key" }, type: "text" });
    inner.columns.push({ ...column, at: { steps: rest.slice(deeper.length), end: "value" } });
    const one = { table: outer.name, column: title };
    if (pack !== undefined) return [{ title, ...one, separator: outermost, pair, ...this.words(input) }];
    return Array.from({ length: spread! }, (_, item) => ({ title: `${title} ${item + 1}`, ...one, item, gapsStay: gaps === "stay" }));
  }

  private fresh(
    name: string,
    input: Readonly<Record<string, string>> | undefined,
    columns: readonly ColumnPlan[],
  ): Map<string, string> | undefined {
    if (input === undefined) return undefined;
    const titles = columns.map((column) => column.title);
    for (const title of Object.keys(input)) {
      const at = this.place(["tables", name, "new", title]);
      if (!titles.includes(title))
        throw new PlanError("plan-no-such-column", { table: name, column: title, nearest: nearest(title, titles), titles }, at);
    }
    return new Map(Object.entries(input));
  }

  private table(name: string, table: PlanInput["tables"][string]): TablePlan[] {
    const where = ["tables", name];
    // sheets of what is inside have a column of this name
    if (name.trim() !== name || name === "" || [MARK_TITLE, ACTION_TITLE, PROBLEM_TITLE, FILE_TITLE].includes(name.toLowerCase())) {
      throw new PlanError("plan-table-name", { table: name }, this.place(where));
    }
    const rows = this.path(table.rows, [...where, "rows"]);
    if (rows.end !== "value") throw new PlanError("plan-path", { path: table.rows }, this.place([...where, "rows"]));
    const lists = new Lists(name, rows, Object.keys(this.input.tables));
    const columns: ColumnPlan[] = [];
    const order: (ColumnPlan | InlineColumnPlan)[] = [];
    for (const title of this.order([...where, "columns"], table.columns)) {
      const input = table.columns[title];
      if (isThrough(input)) {
        const { through, show, pack = " | " } = input;
        order.push({ title, table: through, column: show, separator: pack, through: true });
      } else if (typeof input !== "string" && (input.pack ?? input.pair ?? input.spread) !== undefined)
        pushAll(order, this.inline(name, title, input, lists));
      else {
        const own = this.withLabel(name, title, input);
        pushAll(columns, own);
        pushAll(order, own);
        pushAll(order, this.lookup(title, input, table.columns));
      }
    }
    pushAll(columns, lists.standIns());
    const twice = order.find((column, i) => order.findIndex((one) => one.title === column.title) < i);
    if (twice !== undefined)
      throw new PlanError("plan-title-taken", { table: name, title: twice.title }, this.place([...where, "columns", twice.title]));
    const inline = order.filter((one): one is InlineColumnPlan => "table" in one);
    const shown = order.map((one) => ("table" in one ? columns.length + inline.indexOf(one) : columns.indexOf(one)));
    const titles = columns.flatMap((column) => (column.hidden === true ? [] : [column.title]));
    const all = order.map((one) => one.title);
    for (const word of ["key", "label"] as const) {
      const title = table[word];
      if (title === undefined || titles.includes(title)) continue;
      throw new PlanError(
        "plan-no-such-column",
        { table: name, column: title, nearest: nearest(title, titles), titles },
        this.place([...where, word]),
      );
    }
    const { from, inside, key, label } = table;
    const match = typeof table.match === "string" ? [table.match] : table.match;
    const unique = uniqueRules(table.unique, this.place([...where, "unique"]));
    for (const [word, said] of [
      ["match", match],
      ["unique", unique?.flatMap(({ is }) => is)],
    ] as const) {
      const unknown = said?.find((title) => !all.includes(title) && title !== inside);
      if (unknown === undefined) continue;
      throw new PlanError(
        "plan-no-such-column",
        { table: name, column: unknown, nearest: nearest(unknown, all), titles: all },
        this.place([...where, word]),
      );
    }
    const fresh = this.fresh(name, table.new, columns);
    const checks = checksOf(table.check, [...where, "check"], this.place);
    const place = this.place([...where, "rows"]);
    const { titles: renamed, ...where_ } = table.sheet ?? {};
    const sheet = table.sheet && {
      ...where_,
      titles: renamed && new Map(Object.entries(renamed)),
      place: this.place([...where, "sheet", "titles"]),
    };
    const entry = {
      name,
      entry: table as Entry,
      columns,
      place: (word: string) => this.place([...where, word]),
      path: (text: string, word: string) => this.path(text, [...where, word]),
    };
    const laid = this.layouts.map(({ words }): Partial<TablePlan> => words?.readTable?.(entry) ?? {});
    const layout = Object.assign({}, ...laid.map((one) => one.layout ?? {})) as TablePlan["layout"];
    const own = {
      name,
      rows,
      from,
      inside,
      note: table.note,
      key,
      label,
      match,
      unique,
      order: table.order,
      checks: checks.length === 0 ? undefined : checks,
      fresh,
      sheet,
      columns,
      inline,
      shown,
    };
    return [Object.assign(own, ...laid, { layout, place }) as TablePlan, ...lists.tables(place)];
  }

  /** What the words of layouts make of a column. */
  private words(input: Exclude<FieldInput, string>): Partial<ColumnPlan> & Partial<InlineColumnPlan> {
    return Object.assign({}, ...this.layouts.map(({ words }) => words?.readColumn?.(input as Entry) ?? {})) as Partial<ColumnPlan>;
  }

  private column(table: string, title: string, input: FieldInput): ColumnPlan {
    const where = ["tables", table, "columns", title];
    const column = typeof input === "string" ? { at: input } : input;
    if ([MARK_TITLE, ACTION_TITLE, PROBLEM_TITLE, ""].includes(title.trim())) {
      throw new PlanError("plan-title-taken", { table, title }, this.place(where));
    }
    const choices = column.choices === undefined ? undefined : new Map(Object.entries(column.choices));
    if (choices !== undefined && new Set(choices.values()).size < choices.size) {
      throw new PlanError("plan-choices-twice", { column: title }, this.place([...where, "choices"]));
    }
    return {
      title,
      at: this.columnPath(column.at, [...where, "at"]),
      type: column.type ?? "any",
      blank: column.blank ?? "absent",
      sameFor: column["same-for"],
      required: isRequired(column.required, this.place([...where, "required"])),
      readOnly: column["read-only"] ?? column.compute !== undefined,
      unit: column.unit,
      note: column.note,
      choices,
      rules: columnRules(column, { title, type: column.type ?? "any" }, where, this.place),
      say: column.say,
      warns: column.severity === "warning" ? true : undefined,
      compute: column.compute,
      clean: column.clean,
      inPart: column.lookup === undefined ? undefined : true,
      refers: column.refers,
      only: column.only,
      copied: column.copied,
      ...this.words(column),
      place: this.place(where),
    };
  }

  private columnPath(text: string, where: readonly string[]): Path {
    const path = this.path(text, where);
    if (path.steps.some((step) => step.kind === "any")) throw new PlanError("plan-column-star", { path: text }, this.place(where));
    if (path.end !== "value" && path.steps.length > 0) throw new PlanError("plan-path", { path: text }, this.place(where));
    return path;
  }

  private path(text: string, where: readonly string[]): Path {
    const path = parsePath(text);
    if (path === null) throw new PlanError("plan-path", { path: text }, this.place(where));
    return path;
  }
}
