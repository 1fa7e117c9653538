/** A sheet that is read whole: its cells by the titles that it should have. */
import { isUtf8 } from "../bytes/utf8.js";
import { ByteWriter } from "../bytes/writer.js";
import type { ProblemList } from "../model/findings.js";
import { nearest } from "../errors/nearest.js";
import { DELIMITERS, readRows, type DelimitedRow } from "./csv/rows.js";
import { normalised } from "../cells/normalised.js";
import { writeCells } from "./csv/write.js";
import { titleIn } from "../cells/spelling.js";

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
export function readTitled(
  titles: readonly string[],
  bytes: Uint8Array,
  { say, problems, needsMark, least = 2 }: TitledAs,
): TitledSheet | null {
  if (!isUtf8(bytes)) return null;
  const found = DELIMITERS.map((delimiter) => ({ delimiter, ...findTitles(titles, readRows(bytes, delimiter)) }));
  const best = found.reduce((one, other) => (other.known > one.known ? other : one));
  const { places, header, body } = best;
  if (needsMark ? !places.includes(0) : best.known < least) return null;
  if (best.delimiter !== DELIMITERS[0]) problems.note("delimiter-healed", { delimiter: String.fromCharCode(best.delimiter) }, say.table);
  let usable = true;
  for (const [c, at] of places.entries()) {
    const title = header[c];
    const place = { ...say, row: 1, column: title };
    if (at < 0 && title.trim() !== "") {
      const free = titles.filter((_, i) => !places.includes(i));
      problems.add("column-unknown", { title, nearest: nearest(title, free), titles }, { ...place, value: title });
    } else if (at >= 0 && places.indexOf(at) < c) {
      problems.add("title-twice", { title, first: places.indexOf(at) + 1, second: c + 1 }, place);
      usable = false;
    }
  }
  return {
    present: titles.map((_, at) => places.includes(at)),
    rows: usable ? body.flatMap((row) => titledRow(titles, row, places, say, problems) ?? []) : [],
    last: body.at(-1)?.number ?? 1,
  };
}

interface Found {
  readonly known: number;
  readonly header: readonly string[];
  /** For each column of the sheet its place in the titles, or -1. */
  readonly places: readonly number[];
  readonly body: readonly DelimitedRow[];
}

function findTitles(titles: readonly string[], rows: readonly DelimitedRow[]): Found {
  const at = rows.findIndex(({ cells }) => cells.some((cell) => cell !== ""));
  if (at < 0) return { known: 0, header: [], places: [], body: [] };
  const known = titles.map(normalised);
  const header = rows[at].cells.map((title) => titleIn(title, titles));
  const places = header.map((title) => {
    const exact = titles.indexOf(title);
    if (exact >= 0) return exact;
    const near = known.indexOf(normalised(title));
    return near >= 0 && known.lastIndexOf(normalised(title)) === near ? near : -1;
  });
  return { known: places.filter((place) => place >= 0).length, header, places, body: rows.slice(at + 1) };
}

function titledRow(
  titles: readonly string[],
  { number, cells, fault }: DelimitedRow,
  places: readonly number[],
  say: { readonly table: string; readonly file: string },
  problems: ProblemList,
): TitledRow | null {
  if (cells.every((cell) => cell.trim() === "")) return null;
  if (fault !== null) {
    problems.add(fault === "open" ? "quote-open" : "quote-after", {}, { ...say, row: number });
    return null;
  }
  const beyond = cells.findIndex((cell, c) => c >= places.length && cell !== "");
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

/** A sheet with the titles at some places, as bytes again: each row at its number, ending where the read one ended. */
export function sheetByTitles(
  titleAt: (place: number) => string,
  places: readonly number[],
  rows: ReadonlyMap<number, readonly (string | undefined)[]>,
  last: number,
): Uint8Array {
  const out = new ByteWriter(1 << 12);
  writeCells(out, places.map(titleAt));
  for (let row = 2; row <= last; row++) {
    const cells = rows.get(row);
    const own = cells === undefined ? [""] : places.map((at) => cells[at]);
    const end = own.indexOf(undefined);
    writeCells(out, (end < 0 ? own : own.slice(0, end)) as string[]);
  }
  return out.take();
}
