/** What a plan says of the columns of a table, for containers that can show it to those who edit. */
import type { ColumnPlan, TablePlan } from "../model/plan.js";
import { sheetTable, titleOf, type CompiledTable, type Reference } from "../plan/compile.js";
import type { ColumnHints, SheetHints } from "../sheets/container.js";

export function hintsOf(table: CompiledTable): SheetHints {
  const { plan, parent } = table;
  const columns = new Map<string, ColumnHints>();
  for (const column of plan.columns) columns.set(column.title, ofColumn(column, table));
  if (parent !== null) {
    const title = table.titles[2];
    columns.set(title, { ...OPEN, title, required: true, refers: keyOf(parent), about: `the ${parent.plan.name} row that it is in` });
  }
  for (const reference of table.references) {
    const label = labelOf(reference, columns);
    if (label !== null) columns.set(label.title, label);
  }
  for (const { title, table: links, through } of plan.inline)
    if (through === true)
      columns.set(title, { ...OPEN, type: "any", title, isClosed: true, refers: null, about: `follows from what ${links} say` });
  const order = plan.order === "sheet" ? "the order of its rows counts: keep it when you sort" : undefined;
  return { table: plan.name, about: [plan.note, order].filter((part) => part !== undefined).join("; "), columns };
}

const OPEN = { type: "text", required: false, isKey: false, isClosed: false, choices: [], about: "" } as const;

function ofColumn(column: ColumnPlan, table: CompiledTable): ColumnHints {
  const { title, type, required, readOnly, choices, refers, unit, note, rules, warns } = column;
  const words = choices === undefined ? (type === "boolean" ? ["true", "false"] : []) : [...choices.values()];
  const target = refers === undefined ? undefined : table.references.find(({ slot }) => table.plan.columns[slot] === column)?.target;
  return {
    title,
    type,
    required,
    isKey: table.plan.key === title,
    isClosed: readOnly,
    choices: words,
    ...(rules === undefined ? {} : { rules }),
    ...(warns === undefined ? {} : { warns }),
    refers: target === undefined ? null : keyOf(target),
    about: [note, unit === undefined ? undefined : `in ${unit}`].filter((part) => part !== undefined).join("; "),
  };
}

/** The column that shows what the record referred to is called: it can be chosen by that, too, and the code follows. */
function labelOf(
  { table, slot, labelSlot, shownSlot, target, targetLabelSlot }: Reference,
  columns: ReadonlyMap<string, ColumnHints>,
): ColumnHints | null {
  const shown = labelSlot >= 0 ? labelSlot : shownSlot;
  if (shown < 0 || targetLabelSlot < 0) return null;
  const title = titleOf(table.plan, shown);
  const { readOnly: isClosed, title: code } = table.plan.columns[slot];
  const refers = keyOf(target) === null ? null : { table: target.plan.name, title: titleOf(target.plan, targetLabelSlot) };
  const about = isClosed ? `what "${code}" stands for` : `what "${code}" stands for; choose either, the other follows`;
  return { ...OPEN, isClosed, ...columns.get(title), title, refers, about };
}

/** Where the keys of a table's records are, when they have a sheet with a row for each. */
function keyOf(table: CompiledTable): ColumnHints["refers"] {
  const { key, arrangement, name }: TablePlan = table.plan;
  return key === undefined || arrangement !== undefined || table.host !== null || sheetTable(table) !== table
    ? null
    : { table: name, title: key };
}
