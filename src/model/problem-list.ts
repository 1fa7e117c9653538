/** What is found in rows, in words. */
import { sentence, type Words } from "../errors/error.js";
import { WORDS, type Code, type Facts } from "../errors/words.js";
import { CELLS } from "../errors/words/cells.js";
import { ROWS } from "../errors/words/rows.js";
import type { Note, Problem, ProblemPlace } from "./findings.js";

const FOUND = { ...WORDS, ...ROWS, ...CELLS };

export class ProblemList {
  readonly problems: Problem[] = [];
  readonly notes: Note[] = [];
  /** Rows that have a problem, by the numbers that their sheets know them by. */
  readonly hit: { readonly table: string; readonly row: number }[] = [];

  add<C extends Code>(code: C, facts: Facts<C>, place: ProblemPlace): void {
    const { message, hint } = sentence(FOUND[code] as Words<C>, facts);
    const { table, file, row = 0, rows, column = "", value = "", path, ids = rows ?? [row] } = place;
    const more = { ...(rows === undefined ? {} : { rows }), ...(path === undefined ? {} : { path }) };
    this.problems.push({ code, table, file, row, column, value, message, hint, ...more });
    for (const id of ids) this.hit.push({ table, row: id });
  }

  note<C extends Code>(code: C, facts: Facts<C>, table = ""): void {
    const { message, hint } = sentence(FOUND[code] as Words<C>, facts);
    this.notes.push({ code, table, message: hint === "" ? message : `${message} ${hint}` });
  }
}
