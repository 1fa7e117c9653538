/** The first sheet of a workbook: what this is, what may be edited, and how to add, copy and remove. */
import type { SheetHints } from "../container.js";
import type { Receipt } from "../receipt.js";
import { ACTION_TITLE, MARK_TITLE, PROBLEM_TITLE, type ColumnRules } from "../../model/plan.js";
import type { OutColumn } from "./columns.js";
import { SIGNS, type TextCell } from "./styles.js";

interface AboutSheet {
  readonly name: string;
  readonly rows: number;
  readonly hints: SheetHints | null;
  readonly columns: readonly OutColumn[];
}

export function aboutRows({ source }: Receipt, sheets: readonly AboutSheet[]): TextCell[][] {
  const text = (...texts: string[]): TextCell[] => texts.map((one) => ({ text: one }));
  const titles = (...texts: string[]): TextCell[] => texts.map((one) => ({ text: one, look: "title" }));
  const rows = [
    [{ text: `Tables taken from ${source.file.split(/[/\\]/).at(-1)!}`, look: "heading" } satisfies TextCell],
    text("Edit the sheets, save, and fold the workbook: exactly the edited cells go back into the source, and nothing else changes."),
    [],
    titles("to do this", "do that", "", ""),
    text("change a value", "Write into its cell. Sort, filter, fill and use formulas as you like; rows may stand in any order."),
    text(
      "add a record",
      `Write a new row and leave "${MARK_TITLE}" blank, or call it by a name of your own there (+1): other new rows can then name it.`,
    ),
    text("copy a record", `Copy its row, and clear "${MARK_TITLE}" in the copy.`),
    text("remove a record", `Write remove under "${ACTION_TITLE}". A row that is only deleted says nothing: its record stays.`),
    text("leave a row as it was", `Write skip under "${ACTION_TITLE}".`),
    [],
    titles("sign", "meaning", "", ""),
    text(SIGNS.required, "may not be blank"),
    text(SIGNS.key, "the key by which other rows name the record; it can be renamed, and they follow"),
    text(SIGNS.closed, "not to be edited in rows that are there"),
    [],
    titles("sheet", "rows", "", sheets.some(({ hints }) => (hints?.about ?? "") !== "") ? "what it is" : ""),
    ...sheets.map(({ name, rows: count, hints }) => text(name, count.toLocaleString("en"), "", hints?.about ?? "")),
    [],
    titles("sheet", "column", "may be edited", "what it holds"),
  ];
  for (const { name, columns } of sheets)
    for (const column of columns) rows.push(text(name, column.title, mayBeEdited(column), whatItHolds(column)));
  return rows;
}

function mayBeEdited({ title, standing }: OutColumn): string {
  if (title === ACTION_TITLE) return "remove or skip";
  return { closed: "no", key: "yes, with care", open: "yes" }[standing];
}

/** Limits of a column in words, and what the plan says of its checks. */
function limitWords({ minimum, maximum, minLength, maxLength, pattern, checks = [] }: ColumnRules, isDay: boolean): string[] {
  return [
    minimum === undefined ? "" : `${minimum.is} or ${isDay ? "later" : "more"}`,
    maximum === undefined ? "" : `${maximum.is} or ${isDay ? "earlier" : "less"}`,
    minLength === undefined ? "" : `${minLength.is} letters at least`,
    maxLength === undefined ? "" : `${maxLength.is} letters at most`,
    pattern === undefined ? "" : (pattern.say ?? `of the form ${pattern.is}`),
    ...checks.map(({ is, say }) => say ?? is),
  ];
}

function whatItHolds({ title, hints }: OutColumn): string {
  if (title === MARK_TITLE) return "says which record the row is";
  if (title === ACTION_TITLE) return "what is to become of the record";
  if (title === PROBLEM_TITLE) return "why the row was refused; it is not read";
  if (hints === null) return "";
  const { type, required, choices, refers, about, rules } = hints;
  const kind = {
    any: "",
    text: "text",
    number: "a number",
    integer: "a whole number",
    decimal: "a decimal number",
    boolean: "true or false",
    date: "a date",
  }[type];
  return [
    about,
    choices.length > 0 ? `one of: ${choices.slice(0, 12).join(", ")}${choices.length > 12 ? ", …" : ""}` : refers === null ? kind : "",
    refers === null ? "" : `"${refers.title}" of ${refers.table}`,
    required ? "may not be blank" : "",
    ...(rules === undefined ? [] : limitWords(rules, type === "date")),
  ]
    .filter((part) => part !== "")
    .join("; ");
}
