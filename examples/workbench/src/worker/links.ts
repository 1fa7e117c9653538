/** Tables whose rows link two others: seen from either side, or as a cross table. */
import type { Links } from "../protocol";
import type { Document } from "./document";
import { Refused, counted } from "./edits";
import { ACTION, editsIn, MARK, REMOVE, type CellEdit, type NewRow, type Step, type Table } from "./table";

/** With more records a list of them is no help. */
const MOST = 5000;

/** The two columns by which rows link records, where there are such. */
export function endsOf(table: Table): [number, number] | null {
  const ends = table.columns.flatMap(({ refers }, column) => (refers === null ? [] : [column]));
  return ends.length < 2 ? null : [ends[0], ends[1]];
}

export function linksOf(document: Document, table: Table): Links | null {
  const ends = endsOf(table);
  if (ends === null) return null;
  const sides = ends.map((column) => ({
    column,
    name: table.columns[column].refers!,
    title: table.titles[column],
    records: recordsOf(document, table.columns[column].refers!),
  }));
  if (sides.some(({ records }) => records.length > MOST)) return null;
  const pairs = new Map<string, { a: string; b: string; count: number; isNew: boolean }>();
  for (const id of table.order()) {
    const cells = table.cells(id);
    if (cells[ACTION] === REMOVE) continue;
    const [a, b] = ends.map((column) => cells[column] ?? "");
    const known = pairs.get(`${a}\n${b}`);
    if (known === undefined) pairs.set(`${a}\n${b}`, { a, b, count: 1, isNew: table.isNew(id) });
    else known.count++;
  }
  const [one, other] = sides;
  return { one, other, pairs: [...pairs.values()] };
}

/** Records of a table: what others call them by, and what people do. */
function recordsOf(document: Document, name: string): { key: string; label: string }[] {
  const target = document.table(name);
  if (target === undefined) return [];
  const key = Math.max(
    MARK,
    target.columns.findIndex(({ role }) => role === "key"),
  );
  const label = labelOf(document, target, key);
  return Array.from(target.order(), (id) => target.cells(id))
    .filter((cells) => cells[ACTION] !== REMOVE && cells[key] !== "")
    .map((cells) => ({ key: cells[key], label: cells[label] ?? "" }));
}

/** The column that people call records by: the plan's label, else the first text. */
export function labelOf(document: Document, target: Table, key: number): number {
  const said = document.plan.tables.find(({ name }) => name === target.name)?.label;
  if (said !== undefined) return target.titles.indexOf(said);
  return target.columns.findIndex(({ role, type }, i) => i !== key && role === "cell" && type === "text");
}

/** Makes a link, or takes it away. */
export function link(table: Table, a: string, b: string, isOn: boolean): Step {
  const ends = endsOf(table);
  if (ends === null) throw new Refused(`The rows of ${table.name} link no two tables.`);
  const [one, other] = ends;
  const label = `${isOn ? "linking" : "unlinking"} ${a} and ${b}`;
  const same = [...table.order()].filter((id) => table.cell(id, one) === a && table.cell(id, other) === b);
  const cells: CellEdit[] = [];
  const went: NewRow[] = [];
  const came: NewRow[] = [];
  if (!isOn) {
    for (const id of same)
      if (table.isNew(id)) went.push(table.newRow(id));
      else if (table.cell(id, ACTION) !== REMOVE) cells.push({ row: id, column: ACTION, was: table.cell(id, ACTION), now: REMOVE });
  } else {
    // a link that is to go stays
    const going = same.filter((id) => table.cell(id, ACTION) === REMOVE);
    for (const id of going) cells.push({ row: id, column: ACTION, was: REMOVE, now: "" });
    if (going.length === 0) {
      const last = [...table.order()].filter((id) => table.cell(id, one) === a).at(-1) ?? table.order().at(-1) ?? -1;
      const made = table.columns.map((_, column) => (column === one ? a : column === other ? b : ""));
      came.push({ id: table.newId(), after: last, cells: made });
    }
  }
  return { table: table.name, label, cells, came, went };
}

export function saidOf(step: Step): string {
  return `${counted(editsIn(step), "link")}: ${step.label}.`;
}
