/** The library at work, off the page's own thread: it owns source, plan, rows and edits. */
import { svgDiagram, type Compared, type Shape } from "hatch-fold";
import type { Calls, Edited, Found, Named, Opened, Option, Range, Reading, Request, Told, View } from "../protocol";
import { around } from "./around";
import { changesIn, foundOf, take } from "./changes";
import { Document } from "./document";
import { broughtHome, planEdit, Refused, searchIn } from "./edits";
import { failureOf } from "./failure";
import { sorted } from "./given";
import { filesOf, forgetSession, keptSessions, sessionOf } from "./keep";
import { labelOf, link, linksOf, saidOf } from "./links";
import { pointed } from "./pointed";
import { foldNow } from "./result";
import { parseBlock, printBlock } from "./rows";
import { editsIn, MARK, type Step, type Table } from "./table";
import { infoOf } from "./tables";

/** First lines are those of so many bytes. */
const HEAD = 1 << 16;
const MOST_HITS = 100;
const MOST_VALUES = 500;
const MOST_OPTIONS = 50;

let document: Document | null = null;
/** Counts what was opened: only the newest becomes the document. */
let turn = 0;
let shape: Shape | null = null;

/** What few calls need is loaded when they come. */
const exchange = () => import("./exchange");

const post = (told: Told): void => self.postMessage(told);

function now(): Document {
  if (document === null) throw new Refused("Open a file first.");
  return document;
}

function tableOf(name: string): Table {
  const table = now().table(name);
  if (table === undefined) throw new Refused(`There is no table "${name}".`);
  return table;
}

function compared(of: Document, found: Compared): void {
  if (of === document) post({ event: "compared", found: foundOf(of, found) });
}

/** Opens files in the place of those that are there. */
async function begin(files: readonly Named[], reading: Reading, plan: string | null): Promise<Opened> {
  const mine = ++turn;
  document?.stop();
  shape = null;
  const isZip = files.length === 1 && /\.zip$/i.test(files[0].name);
  const session = isZip ? await (await exchange()).sessionIn(files[0]) : null;
  const given = session ?? (await sorted(files, reading, plan));
  if (mine !== turn) throw new DOMException("another file was opened", "AbortError");
  const opening: Document = new Document(
    given.files,
    given.reading,
    (told) => {
      if (opening !== document) return;
      if ("event" in told && told.event === "shape") shape = told.shape;
      post(told);
    },
    compared,
  );
  document = opening;
  const opened = await opening.open(given.plan);
  if (session === null) return opened;
  if (opened.restored === 0) for (const step of session.steps) opening.do(step);
  return opening.opened(false, session.steps.length);
}

/** @param moved - rows that were moved, as they stand now: they stay selected */
function edited(step: Step | null, message: string, moved: readonly number[] = []): Edited {
  const { tables, steps, done } = now();
  const table = step === null ? undefined : now().table(step.table);
  const [cell] = step?.cells ?? [];
  const told = cell?.row ?? step?.came[0]?.id;
  const row = told ?? moved[0] ?? step?.order?.was[0];
  const column = told === undefined ? null : (cell?.column ?? MARK + 2);
  return {
    tables: tables.map(infoOf),
    undo: steps[done - 1]?.label ?? null,
    redo: steps[done]?.label ?? null,
    steps: done,
    message,
    at:
      table === undefined || row === undefined
        ? null
        : { table: table.name, row: table.placeOf(row), column, rows: Math.max(1, moved.length) },
  };
}

function go(isForward: boolean): Edited {
  const step = now().go(isForward);
  return edited(step, step === null ? "" : `${isForward ? "Again" : "Undone"}: ${step.label}.`);
}

/** Records that a cell can name: keys, or marks where there are none, with what people call them. */
function options(table: Table, column: number, typed: string): Option[] {
  const { choices, refers } = table.columns[column];
  const wanted = typed.toLowerCase();
  const fits = (...words: string[]): boolean => words.some((word) => word.toLowerCase().includes(wanted));
  if (choices.length > 0) return choices.filter((word) => fits(word)).map((value) => ({ value, label: "" }));
  const target = refers === null ? undefined : now().table(refers);
  if (target === undefined) return [];
  const key = Math.max(
    MARK,
    target.columns.findIndex(({ role }) => role === "key"),
  );
  const label = labelOf(now(), target, key);
  const found: Option[] = [];
  for (const id of target.order()) {
    const cells = target.cells(id);
    const option = { value: cells[key] ?? "", label: cells[label] ?? "" };
    if (option.value !== "" && fits(option.value, option.label)) found.push(option);
    if (found.length === MOST_OPTIONS) break;
  }
  return found;
}

function valuesOf(table: Table, column: number): { value: string; count: number }[] {
  const cells = table.column(column);
  const counts = new Uint32Array(cells.values.length);
  for (const id of table.order()) counts[cells.at(id)]++;
  return cells.values
    .map((value, number) => ({ value, count: counts[number] }))
    .filter(({ count }) => count > 0)
    .sort((a, b) => b.count - a.count || a.value.localeCompare(b.value, undefined, { numeric: true }))
    .slice(0, MOST_VALUES);
}

function rowsOf(table: Table, { top, left, bottom, right }: Range): string[][] {
  const rows: string[][] = [];
  for (let place = top; place <= Math.min(bottom, table.shown - 1); place++)
    rows.push(table.cells(table.shownAt(place)).slice(left, right + 1));
  return rows;
}

/** The focus stays where it is, unless rows came or were moved. */
function doIt({ step, message, moved }: ReturnType<typeof planEdit>): Edited {
  now().do(step);
  return edited(step.came.length > 0 || moved !== undefined ? step : null, message, moved);
}

/** What a record changes is taken back. */
function takeBack(name: string, row: number): Edited {
  const table = tableOf(name);
  const id = table.idAt(row);
  const columns = table.touchedRows().find((one) => one.id === id)?.columns ?? [];
  const cells = table.isNew(id)
    ? []
    : columns.map((column) => ({ row: id, column, was: table.cell(id, column), now: table.was(id, column)! }));
  const step: Step = {
    table: name,
    label: `taking back row ${row} of ${name}`,
    cells,
    came: [],
    went: table.isNew(id) ? [table.newRow(id)] : [],
  };
  const order = table.moved.has(id) ? broughtHome(table, id) : null;
  now().do(order === null ? step : { ...step, order });
  return edited(step, `Row ${row} of ${name} is as it was.`);
}

async function found(): Promise<Found> {
  return foundOf(now(), await now().settled());
}

type Handlers = { [V in keyof Calls]: (...args: Parameters<Calls[V]>) => ReturnType<Calls[V]> | Promise<ReturnType<Calls[V]>> };

const handlers: Handlers = {
  open: begin,
  usePlan: (text) => now().usePlan(text),
  cancel: () => {
    turn++;
    document?.stop();
    document = shape = null;
  },
  firstLines: async (most) => {
    const { bytes } = now().files[0];
    const text = new TextDecoder(shape?.source.encoding).decode(await bytes.slice(0, HEAD).arrayBuffer());
    return text
      .split(/\r?\n/)
      .slice(0, most)
      .filter((line) => line !== "");
  },
  diagram: () => (shape === null ? "" : svgDiagram(shape)),
  pointed: (remark) => (shape === null ? null : pointed(now(), shape, remark)),
  sample: (plan, table) => now().sample(plan, table),
  window: (table, from, to) => tableOf(table).window(from, to),
  look: (name, view: View) => {
    const table = tableOf(name);
    table.look(view);
    return infoOf(table);
  },
  values: (table, column) => valuesOf(tableOf(table), column),
  options: (table, column, typed) => options(tableOf(table), column, typed),
  links: (table) => linksOf(now(), tableOf(table)),
  link: (name, a, b, isOn) => {
    const step = link(tableOf(name), a, b, isOn);
    now().do(step);
    return edited(null, saidOf(step));
  },
  copy: (table, range) => printBlock(rowsOf(tableOf(table), range)),
  paste: (name, range, text) => {
    const table = tableOf(name);
    return doIt(planEdit(table, { kind: "put", range, block: parseBlock(text), how: "pasted" }));
  },
  edit: (name, command) => {
    return doIt(planEdit(tableOf(name), command));
  },
  search: (table, search, becomes) => searchIn(tableOf(table), search, becomes, MOST_HITS),
  undo: () => go(false),
  undoAll: () => {
    let step = null;
    for (let last = now().go(false); last !== null; last = now().go(false)) step = last;
    return edited(step, "All edits are undone; redo brings them again, one by one.");
  },
  redo: () => go(true),
  placeOf: (name, row) => {
    const table = tableOf(name);
    return table.placeOf(table.idAt(row));
  },
  changes: async (filter, from, to) => changesIn(now(), await now().settled(), filter, from, to),
  take: async (filter, rows, isTaken) => {
    take(now(), await now().settled(), filter, rows, isTaken);
    return found();
  },
  takeBack,
  around: (table, row) => around(now(), table, row),
  fold: () => foldNow(now()),
  report: async (kind) => (await exchange()).report(now(), kind),
  exportTables: async (kind) => (await exchange()).exportTables(now(), kind),
  bringBack: async (files) => {
    const of = now();
    const { compared: seen, steps } = await (await exchange()).bringBack(of, files);
    if (of !== document) throw new DOMException("another file was opened", "AbortError");
    for (const step of steps) now().do(step);
    const cells = steps.reduce((sum, step) => sum + editsIn(step), 0);
    const message =
      cells === 0
        ? "Brought back: it says what the tables say."
        : `Brought back: ${cells === 1 ? "one edit" : `${cells.toLocaleString("en")} edits`}.`;
    return {
      ...edited(steps[0] ?? null, message),
      healed: seen.healed.slice(0, MOST_HITS),
      problems: seen.problems.slice(0, MOST_HITS),
      notes: seen.notes,
    };
  },
  session: async () => (await exchange()).sessionFile(now()),
  kept: () => keptSessions(),
  resume: async (id) => {
    const session = await sessionOf(id);
    const files = session === null ? null : await filesOf(id);
    if (session === null || files === null) throw new Refused("That work is not kept any more: open the file again.");
    return begin(files, session.reading, session.plan);
  },
  forget: (id) => forgetSession(id),
};

self.onmessage = async ({ data: { id, verb, args } }: MessageEvent<Request>) => {
  try {
    post({ id, ok: await (handlers[verb] as (...given: readonly unknown[]) => unknown)(...args) });
  } catch (error) {
    post({ id, failed: failureOf(error) });
  }
};
