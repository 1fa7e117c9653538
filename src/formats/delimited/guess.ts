/** Which delimiter, and which line has the titles? The first lines tell; a text edited in one cell changes nothing. */
import { pushAll } from "../../bytes/lists.js";
import { encode } from "../../bytes/writer.js";
import { splitCells, type CellStyle } from "../lines/cells.js";
import { FieldSpans } from "../lines/grammar.js";
import { COMMENTS } from "./comments.js";
import { titlesOf, type DelimitedSettings } from "./grammar.js";

const TAB = 0x09;
const DELIMITERS = [0x2c, TAB, 0x3b, 0x7c];
/** Signs that stand in texts, too: they are between cells where all lines have as many. */
const STRICT: readonly { readonly delimiter: number; readonly least: number }[] = [
  { delimiter: 0x3a, least: 4 },
  { delimiter: 0, least: 2 },
];
const FEW = 4;
const MOST_NOTES = 20;

export interface DelimitedGuess extends DelimitedSettings {
  /** Cells a line, in most lines. */
  readonly width: number;
  /** Share of the lines that have more than one. */
  readonly several: number;
  /** Share of the lines that have so many. */
  readonly share: number;
  /** Share of all lines, that of the titles too, that have just so many. */
  readonly exact: number;
  readonly lines: number;
}

/** `known`: titles that a plan names; the line that has them is the line of titles, whatever the rest looks like. */
export function guessDelimited(lines: readonly string[], whole = false, known: ReadonlySet<string> = new Set()): DelimitedGuess {
  let best: DelimitedGuess | null = null;
  for (const delimiter of DELIMITERS) {
    const joined = joinQuoted(lines, delimiter);
    // a quote that is never closed means that quotes are only characters here
    const quotes = !(whole && joined.open);
    const guess = guessWith(delimiter, quotes ? joined.lines : lines, quotes);
    if (best === null || rank(guess) > rank(best)) best = guess;
  }
  const found = isRegular(best!) ? best! : (strictly(lines) ?? best!);
  return known.size === 0 ? found : withTitles(found, lines, known);
}

/** Do its lines have cells in common? */
export function isRegular({ delimiter, width, several, share, header, lines }: DelimitedGuess): boolean {
  // tabs in nearly all lines are no chance
  if (delimiter === TAB && several >= 0.95 && lines >= FEW) return true;
  return width >= 2 && lines >= 2 && (share >= 0.9 || (share >= 0.6 && width >= 3 && header > 0));
}

function strictly(lines: readonly string[]): DelimitedGuess | null {
  for (const { delimiter, least } of STRICT) {
    const guess = guessWith(delimiter, lines, false);
    const lengths = new Set(lines.map((line) => line.length));
    // of blanks columns are made, too
    if (guess.exact === 1 && guess.width >= least && guess.lines >= FEW && (delimiter !== 0 || lengths.size > 2)) return guess;
  }
  return null;
}

/** The guess, or the one whose line of titles has more of the known ones. */
function withTitles(guess: DelimitedGuess, lines: readonly string[], known: ReadonlySet<string>): DelimitedGuess {
  let best = guess;
  let most = guess.header === 0 ? 0 : shareKnown(titlesIn(joinQuoted(lines, guess.delimiter).lines[guess.header - 1] ?? "", guess), known);
  for (const delimiter of DELIMITERS) {
    const { lines: joined, open } = joinQuoted(lines, delimiter);
    const style = { delimiter, quotes: !open };
    for (const [i, line] of (open ? lines : joined).slice(0, MOST_NOTES).entries()) {
      const titles = titlesIn(line, style);
      const share = shareKnown(titles, known);
      if (share <= most || share < 0.5) continue;
      most = share;
      best = { ...guess, ...style, header: i + 1, width: titles.length, comment: commentOf(lines.slice(i + 1)) };
    }
  }
  return best;
}

function shareKnown(titles: readonly string[], known: ReadonlySet<string>): number {
  const filled = titles.filter((title) => title !== "");
  return filled.length === 0 ? 0 : filled.filter((title) => known.has(title)).length / filled.length;
}

function rank({ width, share, exact }: DelimitedGuess): number {
  return width < 2 ? 0 : share + exact / 10 + Math.min(width, 20) / 1000;
}

function guessWith(delimiter: number, lines: readonly string[], quotes: boolean): DelimitedGuess {
  const style: CellStyle = { delimiter, quotes };
  const comment = areTitlesAbove(lines, style) ? null : commentOf(lines);
  const body = lines
    .map((line, i) => ({ line, number: i + 1 }))
    .filter(({ line }) => line !== "" && (comment === null || !line.startsWith(comment)));
  const widths = body.map(({ line }) => count(line, style));
  const common = mode(widths);
  const first = body
    .slice(0, MOST_NOTES)
    .findIndex(({ line }, i) => widths[i] >= Math.max(2, common) && areTitles(titlesIn(line, style), body.slice(i + 1), style));
  const header = first < 0 ? 0 : body[first].number;
  const width = first < 0 ? common : widths[first];
  // rows may end early, but not go on beyond the titles
  const rows = widths.slice(first + 1);
  const fitting = rows.filter((one) => one <= width && one >= Math.max(2, width / 2)).length;
  const share = rows.length === 0 ? 0 : fitting / rows.length;
  const exact = widths.length === 0 ? 0 : widths.filter((one) => one === width).length / widths.length;
  const several = widths.length === 0 ? 0 : widths.filter((one) => one > 1).length / widths.length;
  return { delimiter, quotes, header, comment, width, several, share, exact, lines: body.length };
}

function titlesIn(line: string, style: CellStyle): string[] {
  const bytes = encode(line);
  return titlesOf(bytes, 0, bytes.length, style);
}

function count(line: string, style: CellStyle): number {
  const bytes = encode(line);
  return splitCells(bytes, 0, bytes.length, style, new FieldSpans());
}

function mode(values: readonly number[]): number {
  const counts = new Map<number, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0] ?? 0;
}

/** The first line with anything in it begins like a comment as no other does, and holds titles for as many cells as the others have. */
function areTitlesAbove(lines: readonly string[], style: CellStyle): boolean {
  const filled = lines.filter((line) => line !== "");
  const mark = COMMENTS.find((one) => filled[0]?.startsWith(one));
  if (mark === undefined || filled.length < 2 || filled.slice(1).some((line) => line.startsWith(mark))) return false;
  const width = mode(filled.slice(1).map((line) => count(line, style)));
  const holdsTitles = (i: number): boolean => {
    const below = filled.slice(i + 1).map((line) => ({ line }));
    return count(filled[i], style) === width && areTitles(titlesIn(filled[i], style), below, style);
  };
  // "# one, another" is a sentence when titles come below it
  return width > 1 && holdsTitles(0) && !(filled[0].startsWith(`${mark} `) && holdsTitles(1));
}

/** Comments begin with # or //. */
function commentOf(lines: readonly string[]): string | null {
  for (const mark of COMMENTS)
    if (lines.filter((line) => line.startsWith(mark)).length > 0 && !lines.every((line) => line.startsWith(mark))) return mark;
  return null;
}

/** Numbers, dates, times, places on the earth. */
const NUMBERS = /^[-+\d.,/:\s]+$|^\d{4}-\d\d-\d\dT\d/;

/** Titles are words, all different, and none of them comes again below in its column. */
function areTitles(titles: readonly string[], below: readonly { readonly line: string }[], style: CellStyle): boolean {
  const filled = titles.filter((title) => title !== "");
  if (filled.length < Math.min(2, titles.length) || new Set(filled).size < filled.length) return false;
  // a comment behind the cells of a line, and cells that nobody has, are in records
  if (filled.slice(1).some((text) => COMMENTS.some((mark) => text.startsWith(mark))) || 3 * filled.length < 2 * titles.length) return false;
  if (filled.some((text) => NUMBERS.test(text) || holdsAnother(text))) return false;
  return !below.slice(0, 200).some(({ line }) => titlesIn(line, style).some((cell, i) => cell !== "" && cell === titles[i]));
}

/** Does another delimiter stand in it again and again? Then that one is between the cells. */
function holdsAnother(text: string): boolean {
  return DELIMITERS.some((delimiter) => text.split(String.fromCharCode(delimiter)).length > 2);
}

/** Lines whose quotes are open go on in the next one. */
function joinQuoted(lines: readonly string[], delimiter: number): { lines: string[]; open: boolean } {
  const mark = String.fromCharCode(delimiter);
  const joined: string[] = [];
  let open = "";
  for (const line of lines) {
    const whole = open === "" ? line : `${open}\n${line}`;
    if (isOpen(whole, mark) && whole.length < 10_000) open = whole;
    else {
      joined.push(whole);
      open = "";
    }
  }
  if (open !== "") pushAll(joined, open.split("\n"));
  return { lines: joined, open: open !== "" };
}

function isOpen(text: string, mark: string): boolean {
  let i = 0;
  for (;;) {
    while (text[i] === " " && mark !== " ") i++;
    if (text[i] === '"') {
      i++;
      for (;;) {
        const close = text.indexOf('"', i);
        if (close < 0) return true;
        if (text[close + 1] !== '"') {
          i = close + 1;
          break;
        }
        i = close + 2;
      }
    }
    const next = text.indexOf(mark, i);
    if (next < 0) return false;
    i = next + 1;
  }
}
