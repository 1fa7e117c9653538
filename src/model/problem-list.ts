/** What is found in rows, in words. */
import { pushAll } from "../bytes/lists.js";
import { sentence, type Said, type Words } from "../errors/error.js";
import { WORDS, type Code, type Facts, type Fault, type FoundCode } from "../errors/words.js";
import { CELLS } from "../errors/words/cells.js";
import { ROWS } from "../errors/words/rows.js";
import { rowsOf, type Note, type Problem, type ProblemPlace } from "./findings.js";
import type { ColumnPlan, Plan, Rule } from "./plan.js";

const FOUND = { ...WORDS, ...ROWS, ...CELLS };

/** What a cell's type, choices or reference do not allow. */
const OF_CELLS: ReadonlySet<Code> = new Set<Code>([
  "required",
  "type",
  "choice",
  "choice-several",
  "ref-unknown",
  "label-unknown",
  "label-many",
  "ref-not-allowed",
]);

/** What a column does not allow, and where. */
export interface ColumnFault {
  readonly fault: Fault;
  readonly column: Pick<ColumnPlan, "warns">;
  readonly place: ProblemPlace;
}

/** A rule that is not kept, in words. */
export interface BrokenRule extends Said {
  readonly code: Code;
  /** What is said beside the plan's own words; the message and the hint where there is nothing shorter. */
  readonly detail?: string;
}

/** A row by the number that its sheet knows it by. */
export interface HitRow {
  readonly table: string;
  readonly row: number;
}

export class ProblemList {
  readonly problems: Problem[] = [];
  /** What rules say that stop nothing. */
  readonly warnings: Problem[] = [];
  readonly notes: Note[] = [];
  /** Rows that have a problem. */
  readonly hit: HitRow[] = [];
  /** Rows that are right together alone: they stay or go as one. */
  readonly together: (readonly HitRow[])[] = [];

  /**
   * @param strict - warnings are problems
   * @param plan - whose columns may have words of their own
   */
  constructor(
    private readonly strict = false,
    private readonly plan?: Plan,
  ) {}

  /** The same again, to which more is added. */
  copy(): ProblemList {
    const made = new ProblemList(this.strict, this.plan);
    pushAll(made.problems, this.problems);
    pushAll(made.warnings, this.warnings);
    pushAll(made.notes, this.notes);
    pushAll(made.hit, this.hit);
    pushAll(made.together, this.together);
    return made;
  }

  add<C extends FoundCode>(code: C, facts: Facts<C>, place: ProblemPlace): void {
    this.tell(code, this.wordsFor(code, facts, place), place);
  }

  /** Does what the column does not allow stop a fold? A plan may say that it only warns. */
  stops({ warns }: Pick<ColumnPlan, "warns">): boolean {
    return warns !== true || this.strict;
  }

  addOfColumn({ fault: { code, facts }, column, place }: ColumnFault): void {
    if (this.stops(column)) this.add(code, facts, place);
    else this.warnings.push(problem(code, this.wordsFor(code, facts, place), place));
  }

  /** What a rule of the plan does not allow, in the words of its code or its own. */
  addRuled<C extends FoundCode>(code: C, facts: Facts<C>, rule: Pick<Rule<unknown>, "say" | "severity">, place: ProblemPlace): void {
    this.addBroken({ code, ...sentence(FOUND[code] as Words<C>, facts) }, rule, place);
  }

  /** A rule of the plan that is not kept: in its own words where it has some. */
  addBroken({ code, detail, ...told }: BrokenRule, rule: Pick<Rule<unknown>, "say" | "severity">, place: ProblemPlace): void {
    const words =
      rule.say !== undefined && detail !== undefined ? { ...told, message: rule.say, hint: detail } : inOwnWords(told, rule.say);
    if (rule.severity === "error" || this.strict) this.tell(code, words, place);
    else this.warnings.push(problem(code, words, place));
  }

  note<C extends FoundCode>(code: C, facts: Facts<C>, table = ""): void {
    const { message, hint, facts: of } = sentence(FOUND[code] as Words<C>, facts);
    this.notes.push({ code, table, facts: of, message: hint === "" ? message : `${message} ${hint}` });
  }

  private wordsFor<C extends FoundCode>(code: C, facts: Facts<C>, place: ProblemPlace): Said {
    return inOwnWords(sentence(FOUND[code] as Words<C>, facts), this.wordsOf(code, place));
  }

  private wordsOf(code: Code, { table, column }: ProblemPlace): string | undefined {
    if (!OF_CELLS.has(code)) return undefined;
    const said = this.columnAt(table, column);
    return (code === "required" ? said?.rules?.required?.say : undefined) ?? said?.say;
  }

  /** A column by its title in a table's sheet, also one of a list that is packed in it. */
  private columnAt(table: string, title: string | undefined): ColumnPlan | undefined {
    const plan = this.plan?.tables.find(({ name }) => name === table);
    const inline = plan?.inline.find((one) => one.title === title && one.lookup === undefined);
    return inline === undefined ? plan?.columns.find((one) => one.title === title) : this.columnAt(inline.table, inline.column);
  }

  private tell(code: Code, words: Said, place: ProblemPlace): void {
    this.problems.push(problem(code, words, place));
    for (const id of place.ids ?? rowsOf({ row: place.row ?? 0, rows: place.rows })) this.hit.push({ table: place.table, row: id });
  }
}

function inOwnWords(told: Said, say: string | undefined): Said {
  return say === undefined
    ? told
    : { ...told, message: say, hint: [`${told.message}.`, told.hint].filter((part) => part !== "").join(" ") };
}

function problem(code: Code, { message, hint, facts }: Said, place: ProblemPlace): Problem {
  const { table, file, row = 0, rows, column = "", value = "", path } = place;
  const more = { ...(rows === undefined ? {} : { rows }), ...(path === undefined ? {} : { path }) };
  return { code, table, file, row, column, value, facts, message, hint, ...more };
}
