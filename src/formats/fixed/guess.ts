/**
 * Proposes a layout for an unknown fixed-width file: tags that repeat at the beginning of lines, and
 * columns that begin behind blanks or where the class of characters changes. What is proposed stays
 * the same when a text in one line is edited.
 */
import { largest } from "../../bytes/lists.js";
import { guessNesting } from "../lines/sample.js";
import type { LayoutInput } from "./settings.js";

const MOST_TAGS = 12;
const LONGEST_TAG = 4;
/** With fewer lines than this no columns are told apart. */
const FEW = 5;
/** This share of the lines may go against what the others show: a title, a line that was edited. */
const ODD_LINES = 0.04;
/** With so many lines a column may begin behind a single blank. */
const ENOUGH = 4;

export function guessLayout(lines: readonly string[]): LayoutInput {
  const filled = lines.filter((line) => line.trim() !== "");
  const width = guessTag(filled);
  const records: Record<string, LayoutInput["records"][string]> = {};
  if (width === 0) records.line = { fields: guessFields(filled, 0) };
  else {
    const tagOf = (line: string): string => line.slice(0, width);
    const nesting = guessNesting(filled.map(tagOf));
    for (const { tag, inside, closes } of nesting) {
      records[kindName(tag)] = {
        tag: { at: width === 1 ? "1" : `1-${width}`, is: tag },
        ...(inside === null ? {} : { inside: kindName(inside) }),
        ...(closes ? { closes } : {}),
        fields: guessFields(
          filled.filter((line) => tagOf(line) === tag),
          width,
        ),
      };
    }
  }
  return { records };
}

function kindName(tag: string): string {
  return /^[\p{L}]/u.test(tag) ? tag.trim() : `record ${tag.trim()}`;
}

/** How many characters at the beginning tell record kinds apart; 0 when none do. */
export function guessTag(lines: readonly string[]): number {
  if (lines.length < 3) return 0;
  for (let width = LONGEST_TAG; width >= 1; width--) {
    const groups = new Map<string, string[]>();
    for (const line of lines) {
      const tag = line.slice(0, width);
      if (!/^[A-Z0-9]+$/.test(tag) || tag.length < width || groups.size > MOST_TAGS) {
        groups.clear();
        break;
      }
      groups.set(tag, [...(groups.get(tag) ?? []), line]);
    }
    const letters = /^[A-Z]+$/.test([...groups.keys()].join(""));
    if (groups.size < 2 || groups.size > Math.min(MOST_TAGS, lines.length / 1.5)) continue;
    // three digits are a tag where few of them come again and again; four are a number
    const digits = /^\d+$/.test([...groups.keys()].join(""));
    if (!letters && width > 2 && !(digits && width === 3 && groups.size <= lines.length / 3)) continue;
    if (unlike([...groups.values()])) return width;
  }
  return 0;
}

/** Lines of different kinds are filled differently; lines of one kind alike. */
function unlike(groups: readonly (readonly string[])[]): boolean {
  const masks = groups.map((lines) => {
    const length = largest(lines.map((line) => line.length));
    return Array.from({ length }, (_, c) => classAt(lines, c));
  });
  const lengths = new Set(groups.map((lines) => largest(lines.map((line) => line.trimEnd().length))));
  let differ = 0;
  let pairs = 0;
  for (let a = 0; a < masks.length; a++) {
    for (let b = a + 1; b < masks.length; b++) {
      const length = Math.max(masks[a].length, masks[b].length);
      const others = Array.from({ length }, (_, c) => ((masks[a][c] ?? " ") === (masks[b][c] ?? " ") ? 0 : 1)).reduce<number>(
        (sum, n) => sum + n,
        0,
      );
      pairs++;
      if (others >= 0.2 * length) differ++;
    }
  }
  return differ >= 0.6 * pairs && lengths.size > 1;
}

/** What stands in a column of most lines: a blank, a digit, a letter, or a sign. */
function classAt(lines: readonly string[], column: number): string {
  const counts = new Map<string, number>();
  for (const line of lines) {
    const c = classOf(line[column]);
    counts.set(c, (counts.get(c) ?? 0) + 1);
  }
  return [...counts].sort((a, b) => b[1] - a[1])[0][0];
}

function classOf(char: string | undefined): string {
  if (char === undefined || char === " ") return " ";
  if (/\d/.test(char)) return "0";
  return /\p{L}/u.test(char) ? "a" : ".";
}

function guessFields(lines: readonly string[], from: number): Record<string, { at: string; align?: "right" }> {
  const chars = lines.map((line) => [...line]);
  const width = largest(chars.map((line) => line.length));
  // in few lines blanks may stand above each other by chance
  const starts = lines.length < FEW ? [from] : startsOf(chars, from, width);
  // lines that end where their text does leave room behind it
  const ragged = new Set(chars.map((line) => line.length)).size > 1 || lines.length === 1;
  const fields: Record<string, { at: string; align?: "right" }> = {};
  starts.forEach((start, i) => {
    // one blank before the next column stays free, so that a longer value cannot join the two
    const next = starts[i + 1];
    const blank = next !== undefined && share(chars, (line) => (line[next - 1] ?? " ") === " ") >= 1 - ODD_LINES;
    const end = next === undefined ? (ragged ? Infinity : width) : blank ? next - 1 : next;
    const right = end !== Infinity && isRight(chars, start, end);
    fields[`column ${start + 1}`] = {
      at: end === Infinity ? `${start + 1}-` : start + 1 === end ? String(end) : `${start + 1}-${end}`,
      ...(right ? { align: "right" as const } : {}),
    };
  });
  return fields;
}

function startsOf(lines: readonly (readonly string[])[], from: number, width: number): number[] {
  const odd = Math.floor(ODD_LINES * lines.length);
  const blank = Array.from({ length: width }, (_, c) => lines.filter((line) => (line[c] ?? " ") !== " ").length <= odd);
  // what stands before the first column belongs to it: nothing is out of view
  const starts: number[] = [from];
  let begun = !blank[from];
  for (let c = from + 1; c < width; c++) {
    if (blank[c]) continue;
    if (!begun) {
      begun = true;
      continue;
    }
    const gap = blank[c - 1] ? (c >= 2 && blank[c - 2] ? 2 : 1) : 0;
    if (gap === 2 || (gap === 1 && lines.length >= ENOUGH && share(lines, (line) => (line[c] ?? " ") !== " ") >= 0.5)) starts.push(c);
    else if (gap === 0 && lines.length >= 3 * ENOUGH && share(lines, (line) => changes(line, c)) >= 0.95) starts.push(c);
  }
  return starts;
}

function share(lines: readonly (readonly string[])[], test: (line: readonly string[]) => boolean): number {
  return lines.filter(test).length / lines.length;
}

/** Digits end and letters begin, or the other way round. */
function changes(line: readonly string[], c: number): boolean {
  const [a, b] = [classOf(line[c - 1]), classOf(line[c])];
  return (a === "0" && b === "a") || (a === "a" && b === "0");
}

/** Numbers that end in one column and begin in several. */
function isRight(lines: readonly (readonly string[])[], start: number, end: number): boolean {
  const cells = lines
    .map((line) =>
      line
        .slice(start, end)
        .join("")
        .padEnd(end - start),
    )
    .filter((cell) => cell.trim() !== "");
  return (
    cells.length >= 2 &&
    cells.filter((cell) => /^ *[-+]?[\d.,]+$/.test(cell)).length >= (1 - ODD_LINES) * cells.length &&
    cells.some((cell) => cell.startsWith(" "))
  );
}
