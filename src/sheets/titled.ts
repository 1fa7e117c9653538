/** A sheet that is read whole: its cells by the titles that it should have. */
import type { ProblemList } from "../model/problem-list.js";
import { nearest } from "../errors/nearest.js";
import { normalised } from "../cells/normalised.js";
import { PROBLEM_TITLE } from "../model/plan.js";
import { titleIn } from "../cells/spelling.js";
import type { OpenSheet, SheetRow } from "./container.js";

export interface TitledRow {
  readonly number: number;
  /** By place in the titles; `undefined` where the sheet has no such column, or the row ends before it. */
  readonly cells: readonly (string | undefined)[];
}

export interface TitledSheet {
  /** Which of the titles the sheet has. */
  readonly present: readonly boolean[];
  readonly rows: readonly TitledRow[];
  /** Number of the last row. */
  readonly last: number;
  /** Numbers of rows that end before the last title. */
  readonly short: ReadonlySet<number>;
}

/** How a sheet is read. */
export interface TitledAs {
  readonly say: { readonly table: string; readonly file: string };
  readonly problems: ProblemList;
  readonly needsMark: boolean;
  readonly least?: number;
}

/**
 * Nothing when it is no such sheet (it has no marks where it needs them, else fewer than `least` of the titles), so that
 * whoever reads it for one table says why.
 * The first title is that of the mark.
 */
export async function readTitled(
  titles: readonly string[],
  sheet: OpenSheet,
  { say, problems, needsMark, least = 2 }: TitledAs,
): Promise<TitledSheet | null> {
  const placeOf = placesOf(titles);
  const rows = await readAll(sheet, (title) => placeOf(titleIn(title, titles)) >= 0);
  if (rows === null) return null;
  const [first, ...body] = rows;
  const header = ((first as SheetRow | undefined)?.cells ?? []).map((title) => titleIn(title ?? "", titles));
  const places = header.map(placeOf);
  const known = places.filter((place) => place >= 0).length;
  if (needsMark ? !places.includes(0) : known < least) return null;
  if (sheet.strangeDelimiter !== null) problems.note("delimiter-healed", { delimiter: sheet.strangeDelimiter }, say.table);
  let usable = true;
  for (const [c, at] of places.entries()) {
    const title = header[c];
    const place = { ...say, row: 1, column: title };
    if (at < 0 && title.trim() !== "" && title !== PROBLEM_TITLE) {
      const free = titles.filter((_, i) => !places.includes(i));
      const near = nearest(title, free.length === 0 ? titles : free);
      if (free.length === 0 && near === null) problems.note("file-unused", { file: `column "${title}"`, nearest: null }, say.table);
      else problems.add("column-unknown", { title, nearest: near, titles }, { ...place, value: title });
    } else if (at >= 0 && places.indexOf(at) < c) {
      problems.add("title-twice", { title, first: places.indexOf(at) + 1, second: c + 1 }, place);
      usable = false;
    }
  }
  return {
    present: titles.map((_, at) => places.includes(at)),
    rows: usable ? body.flatMap((row) => titledRow(titles, row, places, say, problems) ?? []) : [],
    last: body.at(-1)?.number ?? 1,
    short: new Set(body.flatMap(({ number, cells }) => (cells.length < places.length ? [number] : []))),
  };
}

/** All rows of a sheet, beginning with one that has something in it; `null` when it is not UTF-8. `knows` tells titles from other cells. */
export async function readAll(sheet: OpenSheet, knows: (title: string) => boolean): Promise<SheetRow[] | null> {
  const rows: SheetRow[] = [];
  let done = false;
  await sheet.read({
    knows,
    row: (view) => {
      if (rows.length > 0 || !view.blank) rows.push({ number: view.rowNumber, cells: view.texts(), fault: view.fault });
    },
    malformed: () => void (done = true),
    get done() {
      return done;
    },
  });
  return done ? null : rows;
}

/** The place of a title among those that a sheet should have, also where only spaces and case differ; else -1. */
function placesOf(titles: readonly string[]): (title: string) => number {
  const known = titles.map(normalised);
  return (title) => {
    const exact = titles.indexOf(title);
    if (exact >= 0) return exact;
    const near = known.indexOf(normalised(title));
    return near >= 0 && known.lastIndexOf(normalised(title)) === near ? near : -1;
  };
}

function titledRow(
  titles: readonly string[],
  { number, cells, fault = null }: SheetRow,
  places: readonly number[],
  say: { readonly table: string; readonly file: string },
  problems: ProblemList,
): TitledRow | null {
  if (cells.every((cell) => (cell ?? "").trim() === "")) return null;
  if (fault !== null) {
    problems.add(fault === "open" ? "quote-open" : "quote-after", {}, { ...say, row: number });
    return null;
  }
  const beyond = cells.findIndex((cell, c) => c >= places.length && (cell ?? "") !== "");
  if (beyond >= 0) {
    problems.add("row-long", { cells: cells.length, titles: places.length }, { ...say, row: number, value: cells[beyond] });
    return null;
  }
  const own: (string | undefined)[] = titles.map(() => undefined);
  for (const [c, at] of places.entries()) if (at >= 0) own[at] = cells[c];
  return { number, cells: own };
}

/** A mark of another hatch is only a name by which other rows may call this one. */
export function nameOfMark(mark: string): string {
  const text = mark.trim();
  return text === "" || text.startsWith("+") ? text : `+${text}`;
}

/** A row where there is no source: nothing has a mark. */
export function asNew({ number, cells }: TitledRow): TitledRow {
  return { number, cells: cells.map((cell, at) => (at === 0 && cell !== undefined ? nameOfMark(cell) : cell)) };
}
