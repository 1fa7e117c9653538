/**
 * A list in one cell. Items stand between separators; in an item, a backslash takes the character
 * behind it as it is. A cell that is blank, `[]`, `{}` or `(null)` holds no item; one item that is
 * spelled like that begins with a backslash, and a backslash alone is one blank item.
 */

export interface PackStyle {
  readonly separator: string;
  /** Stands between name and value, where members of a keyed record are packed. */
  readonly pair?: string;
}

/** An item: one text, or name and value. */
export type PackedItem = readonly string[];

const NOTHING = new Set(["", "[]", "{}", "(null)"]);

/** A cell that holds no item, but says what there is instead. */
export function holdsNoItem(cell: string): boolean {
  return NOTHING.has(cell.trim());
}

export function packItems(items: readonly PackedItem[], style: PackStyle): string {
  const core = coreOf(style.separator);
  const marks = style.pair === undefined ? [core] : [core, style.pair];
  const texts = items.map((item) => item.map((part) => escapePart(part, marks)).join(style.pair ?? ""));
  const cell = texts.join(style.separator);
  return items.length === 1 && NOTHING.has(cell) ? `\\${cell}` : cell;
}

/** `null` when a pair has no sign between name and value; the item is then in `fault`. */
export function unpackItems(cell: string, style: PackStyle): { items: PackedItem[] } | { fault: string } {
  const core = coreOf(style.separator);
  const pieces = splitOn(cell, core);
  const items: PackedItem[] = [];
  for (const piece of pieces) {
    if (style.pair === undefined) {
      items.push([unescapePart(piece)]);
      continue;
    }
    const [name, ...value] = splitOn(piece, style.pair);
    if (value.length === 0) return { fault: piece.trim() };
    items.push([unescapePart(name), unescapePart(value.join(style.pair))]);
  }
  return { items };
}

/** What must stand between items: the separator without the spaces around it, which are for people. */
function coreOf(separator: string): string {
  return separator.trim() === "" ? separator : separator.trim();
}

function escapePart(text: string, marks: readonly string[]): string {
  let out = text.replaceAll("\\", "\\\\");
  for (const mark of marks) out = out.replaceAll(mark, `\\${mark}`);
  // spaces at the edges are for people; one that belongs to the item is marked
  if (out.startsWith(" ")) out = `\\${out}`;
  return out.endsWith(" ") && !isEscaped(out, out.length - 1) ? `${out.slice(0, -1)}\\ ` : out;
}

function splitOn(text: string, mark: string): string[] {
  const pieces: string[] = [];
  let from = 0;
  for (let i = 0; i < text.length; i++) {
    if (text[i] === "\\") i++;
    else if (text.startsWith(mark, i)) {
      pieces.push(text.slice(from, i));
      i += mark.length - 1;
      from = i + 1;
    }
  }
  pieces.push(text.slice(from));
  return pieces;
}

/** Spaces around an item are for people, unless a backslash stands before them. */
function unescapePart(text: string): string {
  const trimmed = text.trimStart();
  let end = trimmed.length;
  while (end > 0 && trimmed[end - 1] === " " && !isEscaped(trimmed, end - 1)) end--;
  return trimmed.slice(0, end).replace(/\\([\s\S]?)/g, "$1");
}

function isEscaped(text: string, at: number): boolean {
  let slashes = 0;
  while (at - 1 - slashes >= 0 && text[at - 1 - slashes] === "\\") slashes++;
  return slashes % 2 === 1;
}
