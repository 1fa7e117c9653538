/** What the page knows: which step it is at, which table, what the last answers said. Every edit goes through `edit`. */
import type { Phase, Remark, Shape } from "hatch-fold";
import { create } from "zustand";
import { ask, LibraryError, listen } from "./library";
import {
  PLAIN_VIEW,
  type BroughtBack,
  type ChangeFilter,
  type Command,
  type Edited,
  type Failure,
  type Found,
  type Kept,
  type Made,
  type Named,
  type Opened,
  type Range,
  type Reading,
  type TableInfo,
  type TakenRows,
  type View,
} from "./protocol";

export const STEPS = ["Source", "Plan", "Tables", "Compare", "Fold"] as const;
export type StepName = (typeof STEPS)[number];

export interface CellAt {
  readonly row: number;
  readonly column: number;
}

/** A cell to go to, or (without a column) so many rows in the column that one is at. */
export interface Goal {
  readonly row: number;
  readonly column: number | null;
  readonly rows?: number;
}

interface State {
  readonly step: StepName;
  readonly opened: Opened | null;
  readonly files: readonly Named[];
  readonly reading: Reading;
  readonly shape: Shape | null;
  readonly tables: readonly TableInfo[];
  readonly current: string;
  /** Grows with everything that may change what rows show. */
  readonly revision: number;
  readonly undo: string | null;
  readonly redo: string | null;
  readonly steps: number;
  readonly found: Found | null;
  readonly isComparing: boolean;
  readonly progress: { readonly phase: Phase; readonly part: number } | null;
  readonly failure: Failure | null;
  /** Said aloud, and shown. */
  readonly message: string;
  readonly busy: string;
  readonly brought: BroughtBack | null;
  readonly made: Made | null;
  readonly kept: readonly Kept[];
  /** Edits that were done since something was taken along. */
  readonly isUnsaved: boolean;
  /** Where the grid is to go. */
  readonly goal: { readonly table: string; readonly at: Goal } | null;
}

export const useStore = create<State>(() => ({
  step: "Source",
  opened: null,
  files: [],
  reading: {},
  shape: null,
  tables: [],
  current: "",
  revision: 0,
  undo: null,
  redo: null,
  steps: 0,
  found: null,
  isComparing: false,
  progress: null,
  failure: null,
  message: "",
  busy: "",
  brought: null,
  made: null,
  kept: [],
  isUnsaved: false,
  goal: null,
}));
const { setState: set, getState: get } = useStore;

/** The work that is under way: what comes back from older work is not shown. */
let turn = 0;

listen((told) => {
  switch (told.event) {
    case "progress":
      set({ progress: { phase: told.phase, part: told.size === 0 ? 1 : told.done / told.size } });
      break;
    case "opened":
      takeOpened(told.opened);
      break;
    case "shape":
      set({ shape: told.shape });
      break;
    case "comparing":
      set({ isComparing: true, found: null, made: null });
      break;
    case "compared":
      set({ isComparing: false, progress: null, found: told.found, revision: get().revision + 1 });
      break;
    case "failed":
      set({ isComparing: false, progress: null, failure: told.failure });
      break;
  }
});

const NO_FAILURE: Failure = { message: "", hint: "", place: "", excerpt: "", code: "", facts: {} };

function failed(error: unknown): void {
  const failure = error instanceof LibraryError ? error.failure : { ...NO_FAILURE, message: String(error) };
  if (failure.code === "stopped") return;
  set({ failure, busy: "", progress: null });
}

export function dismiss(): void {
  set({ failure: null });
}

export function goTo(step: StepName): void {
  set({ step });
}

// ---- opening

function takeOpened(opened: Opened): void {
  const { current } = get();
  // where most is to be seen
  const [first] = [...opened.tables].sort((a, b) => b.rows * b.columns.length - a.rows * a.columns.length);
  const table = opened.tables.some(({ name }) => name === current) ? current : (first?.name ?? "");
  set({ opened, files: opened.files, reading: opened.reading, tables: opened.tables, current: table, revision: get().revision + 1 });
}

export async function open(files: readonly Named[], reading: Reading = {}, plan: string | null = null): Promise<void> {
  if (files.length === 0) return;
  if (files.every(({ name }) => /\.xlsx$/i.test(name))) {
    // tables that were taken to a spreadsheet, and no source
    if (get().opened !== null) return bringBack(files);
    const message = "A workbook is no source";
    set({
      failure: {
        ...NO_FAILURE,
        message,
        hint: "Open the file that its tables came from; then bring it back in Tables.",
        place: files[0].name,
      },
    });
    return;
  }
  if (get().opened !== null && files.every(({ name }) => /\.ya?ml$/i.test(name))) {
    const failure = await usePlan(await files[0].bytes.text());
    if (failure !== null) set({ failure });
    return;
  }
  const mine = ++turn;
  set({
    files,
    reading,
    opened: null,
    shape: null,
    tables: [],
    found: null,
    made: null,
    brought: null,
    failure: null,
    step: "Source",
    message: "",
    busy: `Reading ${files.length === 1 ? files[0].name : `${files.length} files`}`,
    undo: null,
    redo: null,
    steps: 0,
    isUnsaved: false,
    current: "",
  });
  await begin(mine, () => ask("open", files, reading, plan));
}

async function begin(mine: number, opening: () => Promise<Opened>): Promise<void> {
  try {
    const opened = await opening();
    if (mine !== turn) return;
    takeOpened(opened);
    set({
      busy: "",
      progress: null,
      steps: opened.restored,
      undo: opened.restored > 0 ? "the last edit" : null,
      isUnsaved: opened.restored > 0,
      message:
        opened.restored > 0
          ? `${opened.name} ${opened.files.length === 1 ? "is" : "are"} open, with the ${opened.restored === 1 ? "edit" : `${opened.restored} edits`} of last time.`
          : `${opened.name} ${opened.files.length === 1 ? "is" : "are"} open: ${opened.tables.length === 1 ? "one table" : `${opened.tables.length} tables`}.`,
    });
    sessionStorage.setItem("open", "yes");
  } catch (error) {
    if (mine === turn) failed(error);
  }
}

/** Work that this browser kept. */
export async function findKept(): Promise<void> {
  const kept = await ask("kept");
  set({ kept });
  // a page that is loaded again goes on where it was
  if (sessionStorage.getItem("open") === "yes" && kept.length > 0 && get().opened === null) await resume(kept[0].id);
}

export async function resume(id: string): Promise<void> {
  const mine = ++turn;
  set({ busy: "Going on", failure: null, opened: null });
  await begin(mine, () => ask("resume", id));
}

export async function forget(id: string): Promise<void> {
  await ask("forget", id);
  set({ kept: await ask("kept") });
}

/** Ends what is under way. */
export async function cancel(): Promise<void> {
  turn++;
  sessionStorage.removeItem("open");
  set({ busy: "", progress: null, opened: null, files: [], shape: null, tables: [], found: null, message: "Stopped." });
  await ask("cancel");
}

export async function reread(reading: Reading): Promise<void> {
  await open(get().files, reading);
}

export async function usePlan(text: string): Promise<Failure | null> {
  set({ busy: "Taking the plan", failure: null, message: "" });
  try {
    takeOpened(await ask("usePlan", text));
    set({ busy: "", progress: null, message: "The plan is taken: the tables are as it says." });
    return null;
  } catch (error) {
    set({ busy: "", progress: null });
    if (error instanceof LibraryError) return error.failure;
    throw error;
  }
}

// ---- editing

function takeEdited({ tables, undo, redo, steps, message, at }: Edited): void {
  const { revision, current, step } = get();
  set({ tables, undo, redo, steps, message, revision: revision + 1, isUnsaved: steps > 0, made: null });
  if (at !== null && at.row >= 0 && (step === "Tables" || at.table === current)) show(at.table, at);
}

export async function edit(table: string, command: Command): Promise<boolean> {
  return change(() => ask("edit", table, command));
}

export async function paste(table: string, range: Range, text: string): Promise<boolean> {
  return change(() => ask("paste", table, range, text));
}

async function change(run: () => Promise<Edited>): Promise<boolean> {
  try {
    takeEdited(await run());
    return true;
  } catch (error) {
    set({ message: error instanceof Error ? error.message : String(error) });
    if (!(error instanceof LibraryError)) throw error;
    return false;
  }
}

export const setLink = (table: string, a: string, b: string, isOn: boolean): Promise<boolean> =>
  change(() => ask("link", table, a, b, isOn));
export const undo = (): Promise<boolean> => change(() => ask("undo"));
export const undoAll = (): Promise<boolean> => change(() => ask("undoAll"));
export const redo = (): Promise<boolean> => change(() => ask("redo"));
export const takeBack = (table: string, row: number): Promise<boolean> => change(() => ask("takeBack", table, row));

export function choose(table: string): void {
  set({ current: table, step: "Tables", goal: null });
}

/** Goes to a cell of a table. */
export function show(table: string, at: Goal): void {
  set({ current: table, goal: { table, at } });
}

/** Goes to the cell that a problem is about. */
export async function showRow(table: string, row: number, column: string): Promise<void> {
  const info = get().tables.find(({ name, also }) => name === table || also.includes(table));
  if (info === undefined) return;
  let place = await ask("placeOf", table, row);
  if (place < 0) {
    await look(info.name, PLAIN_VIEW);
    place = await ask("placeOf", table, row);
  }
  const at = Math.max(
    0,
    info.columns.findIndex(({ title }) => title === column),
  );
  set({ step: "Tables" });
  show(info.name, { row: Math.max(0, place), column: at });
}

/** Goes to the rows that a remark of the survey is about. */
export async function showRemark(remark: Remark): Promise<void> {
  const to = await ask("pointed", remark);
  if (to === null) {
    tell("No table of the plan shows that.");
    return;
  }
  choose(to.table);
  await look(to.table, to.view);
  show(to.table, { row: 0, column: to.column });
}

export async function look(table: string, view: View): Promise<void> {
  const info = await ask("look", table, view);
  const { tables, revision } = get();
  const hidden = info.rows - info.shown;
  set({
    tables: tables.map((one) => (one.name === table ? info : one)),
    revision: revision + 1,
    message:
      hidden > 0
        ? `${info.shown.toLocaleString("en")} of ${info.rows.toLocaleString("en")} rows are shown.`
        : `All ${info.rows.toLocaleString("en")} rows are shown.`,
  });
}

export async function bringBack(files: readonly Named[]): Promise<void> {
  set({ busy: "Bringing back", failure: null, brought: null });
  try {
    const brought = await ask("bringBack", files);
    takeEdited(brought);
    set({ brought, busy: "", progress: null });
  } catch (error) {
    failed(error);
  }
}

// ---- what is to be folded

export async function take(filter: ChangeFilter, rows: TakenRows, isTaken: boolean): Promise<void> {
  set({ found: await ask("take", filter, rows, isTaken), made: null });
}

export async function foldNow(): Promise<void> {
  set({ busy: "Folding", failure: null });
  try {
    const made = await ask("fold");
    set({ made, busy: "", progress: null, message: "The result is there, and proved." });
  } catch (error) {
    failed(error);
  }
}

/** Something to take along: its file is saved by the browser. */
export async function takeAlong(words: string, make: () => Promise<Named>, keeps = true): Promise<void> {
  set({ busy: words, failure: null });
  try {
    save(await make(), keeps);
    set({ busy: "", progress: null });
  } catch (error) {
    failed(error);
  }
}

/** Saves a file; with `keeps`, the work is in it. */
export function save({ name, bytes }: Named, keeps = true): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(bytes);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  if (keeps) set({ isUnsaved: false });
}

export function tell(message: string): void {
  set({ message });
}
