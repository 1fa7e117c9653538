/** The rows that a remark of the survey is about. */
import type { Path, Remark, Shape } from "hatch-fold";
import { PLAIN_VIEW, type Pointed } from "../protocol";
import type { Document } from "./document";

/** So many values a view is filtered by. */
const MOST = 1000;

/** Where to look; `null` when no table of the plan shows it. */
export function pointed(document: Document, shape: Shape, { kind, path, values }: Remark): Pointed | null {
  const rows = shape.kinds.find(({ name }) => name === kind)?.path;
  const own =
    document.plan.tables.find((table) => table.name === kind) ?? document.plan.tables.find((table) => textOf(table.rows) === rows);
  const table = own === undefined ? undefined : document.table(own.name);
  if (own === undefined || table === undefined) return null;
  const title = own.columns.find((column) => textOf(column.at) === path)?.title;
  const column = title === undefined ? -1 : table.titles.indexOf(title);
  if (column < 0) return { table: table.name, column: null, view: PLAIN_VIEW };
  const wanted =
    values === undefined
      ? []
      : table
          .column(column)
          .values.filter((cell) => isMeant(cell, values))
          .slice(0, MOST);
  const view = wanted.length === 0 ? PLAIN_VIEW : { ...PLAIN_VIEW, filters: [{ column, values: wanted }] };
  return { table: table.name, column, view };
}

/** Is a cell one of the values that a remark is about? */
function isMeant(cell: string, values: NonNullable<Remark["values"]>): boolean {
  if (typeof values !== "string") return values.includes(cell);
  if (cell === "") return false;
  switch (values) {
    case "any":
      return true;
    case "null":
      return cell === "(null)";
    case "number":
      return isNumber(cell);
    case "true/false":
      return isTruth(cell);
    case "text":
      return !isNumber(cell) && !isTruth(cell) && !/^\((?:null|absent)\)$|^[[{]/.test(cell);
    case "list":
      return cell.startsWith("[");
    case "record":
      return cell.startsWith("{");
  }
}

const isNumber = (cell: string): boolean => /^-?\d/.test(cell) && !Number.isNaN(Number(cell));
const isTruth = (cell: string): boolean => cell === "true" || cell === "false";

/** A path as a survey writes it, where its names need no marks. */
function textOf({ steps, end }: Path): string {
  const parts = steps.map((step) => (step.kind === "name" ? step.name : step.kind === "any" ? "*" : `:${step.place + 1}`));
  return [...parts, ...(end === "value" ? [] : [`:${end}`])].join("/") || ".";
}
