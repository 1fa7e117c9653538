/** The tables of a plan, from the rows that were hatched. */
import type { Plan, TablePlan } from "hatch-fold";
import type { ColumnInfo, TableInfo } from "../protocol";
import type { RowsSink } from "./rows";
import { editsIn, Table, type Step } from "./table";

export function tablesOf(plan: Plan, files: readonly { readonly name: string; readonly file: string }[], sink: RowsSink): Table[] {
  const depthOf = (name: string | undefined): number =>
    name === undefined ? -1 : 1 + depthOf(plan.tables.find((table) => table.name === name)?.inside);
  const names = new Map<string, string[]>();
  for (const { name, file } of files) names.set(file, [...(names.get(file) ?? []), name]);
  return [...names].flatMap(([file, [name, ...also]]) => {
    const table = plan.tables.find((one) => one.name === name);
    const base = sink.tables.get(file);
    if (table === undefined || base === undefined) return [];
    const isOrdered = [name, ...also].some((one) => isOrderedIn(plan, one));
    return [new Table(name, file, also, table.inside ?? null, depthOf(name), columnsOf(plan, table, also, base.titles), base, isOrdered)];
  });
}

/** Does it say something where the table's rows stand: in which order, below what, in what? */
function isOrderedIn(plan: Plan, name: string): boolean {
  const table = plan.tables.find((one) => one.name === name);
  return table !== undefined && (table.order === "sheet" || table.stacked === "beneath" || table.tree !== undefined);
}

function columnsOf(plan: Plan, table: TablePlan, also: readonly string[], titles: readonly string[]): ColumnInfo[] {
  const own = (name: string, title: string): TablePlan["columns"][number] | undefined => {
    const of = plan.tables.find((one) => one.name === name);
    const column = of?.columns.find((one) => one.title === title);
    const inline = column === undefined ? of?.inline.find((one) => one.title === title) : undefined;
    return column ?? (inline === undefined ? undefined : own(inline.table, inline.column));
  };
  return titles.map((title, i): ColumnInfo => {
    const column = [table.name, ...also].map((name) => own(name, title)).find((one) => one !== undefined);
    const isParent = i === 2 && column === undefined && table.inside === title;
    const inline = table.inline.find((one) => one.title === title);
    return {
      title,
      role: i === 0 ? "mark" : i === 1 ? "action" : isParent ? "parent" : table.key === title ? "key" : "cell",
      type: column?.type ?? "text",
      // what follows from others is not edited itself
      closed: i === 0 || inline?.through === true || (column?.readOnly ?? false),
      required: column?.required ?? false,
      choices: i === 1 ? ["remove", "skip"] : column?.type === "boolean" ? ["true", "false"] : [...(column?.choices?.values() ?? [])],
      refers: isParent ? table.inside : inline?.separator === undefined ? (column?.refers ?? null) : null,
      about: [column?.note, column?.unit === undefined ? undefined : `in ${column.unit}`].filter((part) => part !== undefined).join("; "),
    };
  });
}

export function infoOf(table: Table): TableInfo {
  const { name, also, inside, depth, columns, count, shown, touched, isOrdered, view } = table;
  return { name, also, inside, depth, columns, rows: count, shown, touched, isOrdered, view };
}

/** A step of a table that was read anew: its columns may be elsewhere. */
export function movedTo(step: Step, from: Table, to: Table | undefined): Step | null {
  if (to === undefined || from.base.count !== to.base.count) return null;
  const columns = from.titles.map((title) => to.titles.indexOf(title));
  const cells = step.cells.flatMap((cell) => (columns[cell.column] < 0 ? [] : [{ ...cell, column: columns[cell.column] }]));
  const moved = (rows: Step["came"]): Step["came"] =>
    rows.map((row) => ({ ...row, cells: to.titles.map((title) => row.cells[from.titles.indexOf(title)] ?? "") }));
  const { order, ...rest } = step;
  const made: Step = { ...rest, cells, came: moved(step.came), went: moved(step.went) };
  const all = order === undefined || !to.isOrdered ? made : { ...made, order };
  return editsIn(all) === 0 ? null : all;
}
