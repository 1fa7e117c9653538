/**
 * How a value is spelled in a cell, so that nothing and null and empty stay apart, and no data can be
 * taken for a spelling.
 *
 * A blank cell is what the column's `blank` says (absent, unless told otherwise). The rest is spelled
 * `(absent)`, `(null)`, `(empty)`, `[]` and `{}`. Text that looks like one of these gets one more pair
 * of parentheses around it. Text that no sheet can hold (lone surrogates, control characters) is given
 * as a JSON literal in parentheses. Text that a spreadsheet would run as a formula gets an apostrophe
 * before it, and so does such text that has apostrophes already. Each rule undoes itself on the way in.
 */
import { Kind } from "../model/kind.js";
import type { Blank, ColumnPlan } from "../model/plan.js";

/** A cell read back: one of the special values, or text still to be typed by its column; `escaped` is text whatever it looks like. */
export type CellValue =
  | { readonly kind: "absent" | "null" | "list" | "record" }
  | { readonly kind: "text"; readonly text: string; readonly literal: boolean; readonly escaped?: boolean };

const ABSENT: CellValue = { kind: "absent" };
const NULL: CellValue = { kind: "null" };
const EMPTY: CellValue = { kind: "text", text: "", literal: true };
const SPECIAL = /^\(+(?:absent|null|empty|\[\]|\{\}|"(?:[^"\\\u0000-\u001f]|\\.)*")\)+$|^(?:\[\]|\{\})$/u;
/** What some spreadsheet takes for the beginning of a formula: signs, also of full width, and white space before one. */
const FORMULA = /^'*[=+\-@\t\r\n\uff1d\uff0b\uff0d\uff20]/;
const SIGNED_NUMBER = /^[+-](?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?$/;

const UNSAFE = /[\u0000-\u0008\u000b\u000c\u000e-\u001f]/;
export const LONE_SURROGATE = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

function balanced(text: string): boolean {
  const open = /^\(*/.exec(text)![0].length;
  const close = /\)*$/.exec(text)![0].length;
  return open === close && text.length > open + close;
}

function special(text: string): boolean {
  return SPECIAL.test(text) && balanced(text);
}

/** A title or a name that stands in a sheet, where no spreadsheet runs it. */
export function harmless(text: string): string {
  return FORMULA.test(text) ? `'${text}` : text;
}

/** Which of the known titles a header cell is; the cell itself when it is none. */
export function titleIn(cell: string, known: readonly string[]): string {
  return !known.includes(cell) && cell.startsWith("'") && known.includes(cell.slice(1)) ? cell.slice(1) : cell;
}

/** The cell for text that the source holds. */
export function spellText(text: string, blank: Blank = "absent"): string {
  if (text === "") return blank === "empty" ? "" : "(empty)";
  if (UNSAFE.test(text) || LONE_SURROGATE.test(text)) return `(${JSON.stringify(text)})`;
  if (special(text)) return `(${text})`;
  if (FORMULA.test(text) && !SIGNED_NUMBER.test(text)) return `'${text}`;
  return text;
}

/** The cell for a value of any kind; `text` is its decoded text, or the source's own text of a record or list. */
export function spellCell(kind: Kind, text: string, column: ColumnPlan): string {
  switch (kind) {
    case Kind.Absent:
      return column.blank === "absent" || column.blank === "keep" ? "" : "(absent)";
    case Kind.Null:
      return column.blank === "null" ? "" : "(null)";
    case Kind.EmptyList:
      return "[]";
    case Kind.EmptyRecord:
      return "{}";
    case Kind.List:
    case Kind.Record:
      return text;
    default: {
      const shown = column.choices?.get(text);
      if (shown !== undefined) return spellText(shown, column.blank);
      const taken = column.choices !== undefined && [...column.choices.values()].includes(text);
      return taken ? `(${JSON.stringify(text)})` : kind === Kind.Text ? spellText(text, column.blank) : text;
    }
  }
}

/** Reads a cell back. `null` when a JSON literal in parentheses is broken. */
export function readCell(cell: string, blank: Blank): CellValue | null {
  if (cell === "") return blank === "null" ? NULL : blank === "empty" ? EMPTY : ABSENT;
  if (cell === "(absent)") return ABSENT;
  if (cell === "(null)") return NULL;
  if (cell === "(empty)") return EMPTY;
  if (cell === "[]") return { kind: "list" };
  if (cell === "{}") return { kind: "record" };
  if (special(cell)) {
    const inner = cell.slice(1, -1);
    if (!inner.startsWith('"')) return { kind: "text", text: inner, literal: false, escaped: true };
    try {
      return { kind: "text", text: JSON.parse(inner) as string, literal: true };
    } catch {
      return null;
    }
  }
  if (cell.startsWith("'") && FORMULA.test(cell)) return { kind: "text", text: cell.slice(1), literal: false };
  return { kind: "text", text: cell, literal: false };
}

/** Cells that stand for no record. */
export const NOTHING = new Set(["", "(null)", "(empty)"]);
export function isNothing(cell: string): boolean {
  return NOTHING.has(cell);
}
