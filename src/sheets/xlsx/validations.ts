/** What a spreadsheet offers and refuses while somebody types (ISO/IEC 29500-1, 18.3.1.32). */
import { ACTION_TITLE, MARK_TITLE } from "../../model/plan.js";
import type { Rule as RuleOf } from "../../model/plan.js";
import type { Lists, OutColumn } from "./columns.js";
import { columnName } from "../column-names.js";
import { escapeText } from "./text.js";

/** Rules hold for so many rows more than there are: some programs keep one for every cell. */
const MORE_ROWS = 500;
/** Words that a rule can hold itself; others stand in a sheet. */
const LONGEST_LIST = 250;

interface Rule {
  readonly type: "list" | "custom";
  readonly formula: string;
  readonly style: "stop" | "warning" | null;
  readonly title: string;
  readonly text: string;
}

export function validations(columns: readonly OutColumn[], rows: number, lists: Lists): string {
  const mark = columns.findIndex(({ title }) => title === MARK_TITLE);
  const rules = columns.flatMap((column, i) => {
    const rule = ruleFor(column, mark, i, lists);
    return rule === null ? [] : [written(rule, columnName(i), rows + MORE_ROWS)];
  });
  return rules.length === 0 ? "" : `<dataValidations count="${rules.length}">${rules.join("")}</dataValidations>`;
}

function ruleFor(column: OutColumn, mark: number, i: number, lists: Lists): Rule | null {
  const { title, hints, standing } = column;
  const here = `${columnName(i)}2`;
  if (title === MARK_TITLE)
    return {
      type: "custom",
      formula: `LEFT(${here},1)="+"`,
      style: "stop",
      title: "Leave the mark as it is",
      text: "It says which record the row is. A new row has none, or a name of your own such as +1, by which other rows can call it.",
    };
  if (title === ACTION_TITLE)
    return {
      type: "list",
      formula: '"remove,skip"',
      style: "stop",
      title: "remove or skip",
      text: "remove takes the record out; skip leaves it as it is.",
    };
  if (hints !== null && hints.choices.length > 0)
    return {
      type: "list",
      formula: listOf(hints.choices, lists),
      style: hints.warns === true ? "warning" : "stop",
      title: "One of the words",
      text: "Choose one of those in the list.",
    };
  if (hints?.refers != null)
    return { type: "list", formula: lists.ofColumn(hints.refers.table, hints.refers.title), style: null, title: "", text: "" };
  const limits = limitsOf(column, here);
  if (limits !== null && standing !== "closed") return limits;
  if (mark < 0) return null;
  const isNew = `LEFT($${columnName(mark)}2&"+",1)="+"`;
  if (standing === "closed")
    return {
      type: "custom",
      formula: isNew,
      style: "stop",
      title: "Not to be edited",
      text: "This column follows the source. In a new row, without a mark, it can be filled.",
    };
  if (standing === "key")
    return {
      type: "custom",
      formula: isNew,
      style: "warning",
      title: "Another key?",
      text: "Other rows may name this record by it; they follow when it is renamed.",
    };
  return null;
}

/** Limits of numbers, dates and lengths; texts in a column of numbers are left to the check. */
function limitsOf({ title, hints, typed }: OutColumn, here: string): Rule | null {
  const { minimum, maximum, minLength, maxLength } = hints?.rules ?? {};
  const limit = (text: string): string => (typed === "date" ? `DATE(${text.split("-").map(Number).join(",")})` : text);
  const value = (sign: string, text: string): string => `OR(ISTEXT(${here}),${here}${sign}${limit(text)})`;
  const asked: [rule: RuleOf<unknown> | undefined, formula: string, words: string][] = [
    [
      typed === null ? undefined : minimum,
      value(">=", minimum?.is ?? ""),
      `${minimum?.is ?? ""} or ${typed === "date" ? "later" : "more"}`,
    ],
    [
      typed === null ? undefined : maximum,
      value("<=", maximum?.is ?? ""),
      `${maximum?.is ?? ""} or ${typed === "date" ? "earlier" : "less"}`,
    ],
    [minLength, `LEN(${here})>=${minLength?.is ?? 0}`, `${minLength?.is ?? 0} letters at least`],
    [maxLength, `LEN(${here})<=${maxLength?.is ?? 0}`, `${maxLength?.is ?? 0} letters at most`],
  ];
  const said = asked.filter(([rule]) => rule !== undefined);
  if (said.length === 0) return null;
  const own = said.flatMap(([rule]) => rule?.say ?? []);
  const formulas = said.map(([, formula]) => formula);
  return {
    type: "custom",
    formula: formulas.length === 1 ? formulas[0] : `AND(${formulas.join(",")})`,
    style: said.some(([rule]) => rule?.severity === "error") ? "stop" : "warning",
    title: "Outside its limits",
    text: own.length > 0 ? own.join(" ") : `${title}: ${said.map(([, , words]) => words).join(", ")}.`,
  };
}

function listOf(words: readonly string[], lists: Lists): string {
  const text = words.join(",");
  return text.length <= LONGEST_LIST && words.every((word) => !/[,"]|^\s|\s$/.test(word)) ? `"${text}"` : lists.ofWords(words);
}

function written({ type, formula, style, title, text }: Rule, column: string, last: number): string {
  const told =
    style === null
      ? 'showErrorMessage="0"'
      : `errorStyle="${style}" showErrorMessage="1" errorTitle="${escapeText(title)}" error="${escapeText(text)}"`;
  return `<dataValidation type="${type}" allowBlank="1" ${told} sqref="${column}2:${column}${last}"><formula1>${escapeText(formula)}</formula1></dataValidation>`;
}
