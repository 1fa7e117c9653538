/** From a cell to a value for the source: what the column allows, and what kind it has there. */
import type { TextSource } from "../bytes/encoding.js";
import type { FoundCode, Facts } from "../errors/words.js";
import type { ColumnFault } from "../model/problem-list.js";
import type { Dialect, HoldFault, Spot, WritingStyle } from "../formats/format.js";
import { Kind } from "../model/kind.js";
import type { NewValue } from "../edits/edit.js";
import { stepsTo, type CompiledTable } from "../plan/compile.js";
import type { ColumnPlan, ColumnType } from "../model/plan.js";
import { isErrorValue } from "../cells/error-values.js";
import { datesIn, isDate, type Habits } from "../cells/dates.js";
import { cleaned } from "../cells/clean.js";
import { inPart } from "../cells/in-part.js";
import { readCell } from "../cells/spelling.js";
import { pushTo } from "../model/push-to.js";
import { nearest } from "../errors/nearest.js";
import type { TableBaseline } from "./baseline.js";
import type { ProblemPlace } from "../model/findings.js";

const NUMBER = /^-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?$/;
const INTEGER = /^-?(?:0|[1-9]\d*)$/;
const DECIMAL = /^-?(?:0|[1-9]\d*)(?:\.\d+)?$/;

/** With `warned`, the value is not what the column allows, and may be written all the same. */
type Typed = { readonly value: NewValue; readonly warned?: HoldFault } | { readonly fault: HoldFault };

const ABSENT: NewValue = { kind: Kind.Absent, text: "" };

/** Where a cell stands, and what it takes the place of. */
export interface CellPlace {
  readonly table: CompiledTable;
  readonly slot: number;
  /** Number of the file. */
  readonly file: number;
  /** The kind of value that the source has there. */
  readonly was: Kind;
  /** "add" where there was nothing, else "set", unless said. */
  readonly spot?: Spot;
}

/** Reads cells as values of their files: of the column's type, of a kind that the format holds, in letters that the encoding has. */
export class CellTyper {
  private dialect!: Dialect;
  private style!: WritingStyle;

  constructor(
    private readonly parts: readonly { readonly dialect: Dialect; readonly text: Pick<TextSource, "missing" | "encoding"> }[],
    private readonly styles: readonly WritingStyle[],
    private readonly baselines: readonly Pick<TableBaseline, "kindsSeen">[],
  ) {}

  /** How the sheets of tables write dates and decimals, where that is known. */
  readonly habitsOf = new Map<CompiledTable, Habits>();
  /** Titles of the columns of cells that were read so, a title a cell. */
  readonly meant = new Map<CompiledTable, string[]>();
  /** What is wrong with cells that were read; a check tells it. */
  readonly faults: ColumnFault[] = [];

  /** Cells that were cleaned, or taken for what they begin: by table and title, how many and what became of the first. */
  readonly changed = { cleaned: new Changed(), lookedUp: new Changed() };

  /** What somebody wrote without what the plan takes out. */
  cleaned(cell: string, table: CompiledTable, slot: number): string {
    const { clean, title } = table.plan.columns[slot];
    if (clean === undefined) return cell;
    const plain = cleaned(cell, clean);
    if (plain !== cell) this.changed.cleaned.add(table, title, cell, plain);
    return plain;
  }

  /** The value that a cell means; when something is wrong with it, which is told at `where`, there is none. */
  read(cell: string, place: CellPlace, where: ProblemPlace): NewValue | null {
    const column = place.table.plan.columns[place.slot];
    const { refers, title } = column;
    // the name of a new row: its id is not known yet
    if (refers !== undefined && cell.startsWith("+")) return { kind: Kind.Text, text: cell };
    const typed = this.type(cell, place);
    const at = { column: title, value: cell, ...where };
    if ("fault" in typed) {
      this.faults.push({ fault: typed.fault, column: {}, place: at });
      return null;
    }
    if (typed.warned !== undefined) this.faults.push({ fault: typed.warned, column, place: at });
    return typed.value;
  }

  private type(cell: string, place: CellPlace): Typed {
    const column = place.table.plan.columns[place.slot];
    const { dialect, text } = this.parts[place.file];
    this.style = this.styles[place.file];
    this.dialect = dialect;
    this.table = place.table;
    this.habits = this.habitsOf.get(place.table);
    const typed = this.asItIs(cell, column, place.was, this.baselines[place.table.index].kindsSeen[place.slot]);
    if ("fault" in typed) return typed;
    const value = this.asHeld(typed.value);
    if (value === null) return fault("kind-not-held", { cell, format: this.dialect.name });
    const { encoding } = text;
    const missing = text.missing(value.text);
    const spelled = this.dialect.spellsLetters === true && column.at.end === "value" && value.kind !== Kind.Record;
    if (missing !== null && !spelled) return fault("letter-missing", { letter: missing, encoding });
    const steps = stepsTo(place.table.plan, column);
    const refused = this.dialect.fault(value, steps, place.spot ?? (place.was === Kind.Absent ? "add" : "set"));
    if (refused !== null) return { fault: refused };
    if (this.dialect.readsAs === undefined || value.kind !== Kind.Text) return { ...typed, value };
    return { ...typed, value: { kind: value.kind, text: this.dialect.readsAs(value.text, steps) } };
  }

  /** A date or a decimal as the sheet writes them, in the source's spelling. */
  private asMeant(text: string, column: ColumnPlan): string {
    const meant = this.habits === undefined ? text : inHabit(text, column.type, this.habits);
    if (meant !== text) pushTo(this.meant, this.table, column.title);
    return meant;
  }
  private habits: Habits | undefined;
  private table!: CompiledTable;

  private asHeld(value: NewValue): NewValue | null {
    if (value.kind === Kind.Absent || (this.dialect.emptyIsAbsent && value.kind === Kind.Text && value.text === "")) return ABSENT;
    if (!this.dialect.onlyText || value.kind === Kind.Text || value.kind === Kind.Record) return value;
    const scalar = value.kind === Kind.Number || value.kind === Kind.True || value.kind === Kind.False;
    return scalar ? { kind: Kind.Text, text: value.text } : null;
  }

  /** What the column's type or choices do not allow is taken as it is where the plan only warns of it, unless it would be read as another choice. */
  private asItIs(cell: string, column: ColumnPlan, was: Kind, seen: number): Typed {
    const typed = this.typed(cell, column, was, seen);
    if (column.warns !== true || !("fault" in typed) || !(typed.fault.code === "type" || typed.fault.code === "choice")) return typed;
    const read = readCell(cell, column.blank);
    if (read?.kind !== "text" || column.choices?.has(read.text) === true) return typed;
    return { ...this.anyKind(read.text, was, seen), warned: typed.fault };
  }

  /** `seen` are the kinds, as bits, that the column has in the source. */
  private typed(cell: string, column: ColumnPlan, was: Kind, seen: number): Typed {
    const read = readCell(cell, column.blank);
    if (read === null) return fault("literal-broken", { cell });
    switch (read.kind) {
      case "absent":
        return column.required ? fault("required", { title: column.title }) : { value: ABSENT };
      case "null":
        return column.required ? fault("required", { title: column.title }) : { value: { kind: Kind.Null, text: "null" } };
      case "list":
        return { value: { kind: Kind.EmptyList, text: "[]" } };
      case "record":
        return { value: { kind: Kind.EmptyRecord, text: "{}" } };
      case "text":
        if (!read.literal && read.escaped !== true && isErrorValue(read.text)) return fault("cell-error", { cell: read.text });
        if (read.text === "" && this.dialect.emptyIsAbsent)
          return column.required ? fault("required", { title: column.title }) : { value: ABSENT };
        if (column.required && read.text.trim() === "") return fault("required", { title: column.title });
        if (read.escaped === true && column.choices === undefined) return asText(read.text);
        return this.ofText(read.literal ? read.text : this.asMeant(read.text, column), read.literal, column, was, seen);
    }
  }

  private ofText(text: string, literal: boolean, column: ColumnPlan, was: Kind, seen: number): Typed {
    if (text === "" && column.blank === "empty") return asText("");
    if (column.choices !== undefined) return this.choose(text, literal, column, was, seen);
    if (literal && text !== "") return asText(text);
    if (text === "" && column.type !== "text" && column.type !== "any") return fault("type", { type: column.type, title: column.title });
    switch (column.type) {
      case "text":
        return asText(text);
      case "integer":
        return INTEGER.test(text) ? numeric(text, was, seen) : fault("type", { type: "integer", title: column.title });
      case "decimal":
        return DECIMAL.test(text) ? numeric(text, was, seen) : fault("type", { type: "decimal", title: column.title });
      case "number":
        return NUMBER.test(text) ? numeric(text, was, seen) : fault("type", { type: "number", title: column.title });
      case "boolean":
        if (text === "true" || text === "false") return truth(text, was, seen);
        return fault("type", { type: "boolean", title: column.title });
      case "date":
        return isDate(text) ? asText(text) : fault("type", { type: "date", title: column.title });
      case "any":
        return this.anyKind(text, was, seen);
    }
  }

  /** The kind a value had, when the new text can be of that kind; else what it looks like. */
  private anyKind(text: string, was: Kind, seen: number): Typed {
    if (was === Kind.Text) return asText(text);
    const source = this.dialect.sourceValue(text, this.style);
    const looks = this.dialect.looksLikeSource(text);
    if (was === Kind.List || was === Kind.Record || (looks && (was === Kind.EmptyList || was === Kind.EmptyRecord))) {
      if (source !== null) return { value: source };
      if (looks) return fault("verbatim", { cell: text, format: this.dialect.name.toUpperCase(), example: this.dialect.sourceExample });
    }
    const saw = (one: Kind): boolean => seen === 0 || (seen & (1 << one)) !== 0;
    const onlyText = seen !== 0 && (seen & ~((1 << Kind.Text) | (1 << Kind.Absent) | (1 << Kind.Null))) === 0;
    if (onlyText) return asText(text);
    if (NUMBER.test(text)) return { value: { kind: Kind.Number, text } };
    if ((text === "true" || text === "false") && (saw(Kind.True) || saw(Kind.False))) return truth(text, was, 0);
    if (source !== null && looks && (saw(Kind.List) || saw(Kind.Record))) return { value: source };
    return asText(text);
  }

  private choose(text: string, literal: boolean, column: ColumnPlan, was: Kind, seen: number): Typed {
    const choices = [...column.choices!];
    const code = literal ? undefined : choices.find(([, shown]) => shown === text)?.[0];
    if (code !== undefined) return this.anyKind(code, was, seen);
    const shown = choices.map(([, word]) => word);
    if (column.inPart === true && !literal) {
      const found = inPart(text, shown);
      if (found.length > 1) return fault("choice-several", { title: column.title, found });
      if (found.length === 1) {
        this.changed.lookedUp.add(this.table, column.title, text, found[0]);
        return this.anyKind(choices.find(([, word]) => word === found[0])![0], was, seen);
      }
    }
    return fault("choice", { title: column.title, choices: shown, nearest: nearest(text, shown) });
  }
}

/** What became of cells, by table and column. */
class Changed {
  readonly columns = new Map<
    string,
    { readonly table: string; readonly title: string; count: number; readonly found: string; readonly taken: string }
  >();

  add(table: CompiledTable, title: string, found: string, taken: string): void {
    const id = `${table.plan.name}\n${title}`;
    const known = this.columns.get(id);
    if (known === undefined) this.columns.set(id, { table: table.plan.name, title, count: 1, found, taken });
    else known.count++;
  }
}

/** Years of two digits are of the hundred years up to this one. */
const LAST_YEAR = 2029;

function inHabit(text: string, type: ColumnType, { order, comma }: Habits): string {
  if (type === "date" && !isDate(text)) {
    // nothing else is taken than what is beyond doubt, or as the sheet writes it
    const dates = datesIn(text).filter((one) => one.order === null || one.order === order);
    const found = dates.find(
      ({ date }) => dates.length === 1 || (Number(date.slice(0, 4)) <= LAST_YEAR && Number(date.slice(0, 4)) > LAST_YEAR - 100),
    );
    return found?.date ?? text;
  }
  const isNumber = type === "decimal" || type === "number" || type === "integer";
  return isNumber && comma && /^[+-]?\d+,\d+$/.test(text) ? text.replace(",", ".") : text;
}

/** Numbers and truths that the source keeps as text stay text. */
function numeric(text: string, was: Kind, seen: number): Typed {
  return keptAsText(was, seen, Kind.Number, Kind.Number) ? asText(text) : { value: { kind: Kind.Number, text } };
}

function truth(text: string, was: Kind, seen: number): Typed {
  if (keptAsText(was, seen, Kind.True, Kind.False)) return asText(text);
  return { value: { kind: text === "true" ? Kind.True : Kind.False, text } };
}

function keptAsText(was: Kind, seen: number, one: Kind, other: Kind): boolean {
  if (was === Kind.Text) return true;
  if (was === one || was === other) return false;
  return (seen & (1 << Kind.Text)) !== 0 && (seen & ((1 << one) | (1 << other))) === 0;
}

function asText(text: string): Typed {
  return { value: { kind: Kind.Text, text } };
}

function fault<C extends FoundCode>(code: C, facts: Facts<C>): Typed {
  return { fault: { code, facts } as unknown as HoldFault };
}
