/** Proposes a layout for lines that begin with tags, or that are indented. */
import { smallest } from "../../bytes/lists.js";
import { encode } from "../../bytes/writer.js";
import { delimiterName, splitCells } from "../lines/cells.js";
import { FieldSpans } from "../lines/grammar.js";
import { guessNesting } from "../lines/sample.js";
import type { TaggedInput } from "./settings.js";

const DELIMITERS = [0x7c, 0x3b, 0x09, 0x2c, 0x5e, 0x7e];
const MOST_TAGS = 40;
/** At least this share of the lines begins with a tag; the others are kept as they are. */
const TAGGED_SHARE = 0.8;
const TAG = /^[A-Z][A-Z0-9_-]{0,11}$|^\d{1,3}$/;

export interface TaggedGuess {
  readonly layout: TaggedInput;
  readonly why: string;
}

export function guessTagged(lines: readonly string[]): TaggedGuess | null {
  const comment =
    ["#", "//", ";"].find((mark) => lines.some((line) => line.startsWith(mark)) && !lines.every((line) => line.startsWith(mark))) ?? null;
  const filled = lines.filter((line) => line.trim() !== "" && (comment === null || !line.trimStart().startsWith(comment)));
  if (filled.length < 2) return null;
  for (const delimiter of DELIMITERS) {
    const mark = String.fromCharCode(delimiter);
    const marked = filled.filter((line) => line.includes(mark) || TAG.test(line));
    const own = marked.filter((line) => TAG.test(line.split(mark)[0]));
    const tags = own.map((line) => line.split(mark)[0]);
    if (
      own.length < TAGGED_SHARE * filled.length ||
      own.filter((line) => line.includes(mark)).length < TAGGED_SHARE * own.length ||
      !areTags(tags)
    )
      continue;
    return byTag(own, tags, comment, delimiter, `its lines begin with tags before a ${mark === "\t" ? "tab" : mark}: ${naming(tags)}`);
  }
  const own = filled.filter((line) => TAG.test(line.split(/[ \t]/)[0]));
  const tags = own.map((line) => line.split(/[ \t]/)[0]);
  if (own.length >= TAGGED_SHARE * filled.length && areTags(tags))
    return byTag(own, tags, comment, null, `its lines begin with tags: ${naming(tags)}`);
  return byIndent(filled, comment);
}

/** Few different ones, each short and of one manner, at least one of them again and again. */
function areTags(tags: readonly string[]): boolean {
  const different = new Set(tags);
  if (different.size < 2 || different.size > Math.min(MOST_TAGS, tags.length / 1.5)) return false;
  const digits = [...different].every((tag) => /^\d+$/.test(tag));
  const letters = [...different].every((tag) => /^[A-Z]/.test(tag));
  return (digits || letters) && [...different].every((tag) => TAG.test(tag));
}

function naming(tags: readonly string[]): string {
  const different = [...new Set(tags)];
  return different.length > 6 ? `${different.slice(0, 6).join(", ")} …` : different.join(", ");
}

function byTag(
  lines: readonly string[],
  tags: readonly string[],
  comment: string | null,
  delimiter: number | null,
  why: string,
): TaggedGuess {
  const records: TaggedInput["records"] = {};
  for (const { tag, inside, closes } of guessNesting(tags)) {
    const own = lines.filter((_, i) => tags[i] === tag);
    records[kindName(tag)] = {
      tag,
      ...(inside === null ? {} : { inside: kindName(inside) }),
      ...(closes ? { closes } : {}),
      fields: delimiter === null ? ["text"] : fieldNames(own, tag, delimiter),
    };
  }
  const layout: TaggedInput = {
    ...(delimiter === null ? {} : { delimiter: delimiterName(delimiter) }),
    ...(comment === null ? {} : { comment }),
    records,
  };
  return { layout, why };
}

/** As many as most lines have, so that a delimiter in the last text does not make another field. */
function fieldNames(lines: readonly string[], tag: string, delimiter: number): string[] {
  const counts = lines.map((line) => {
    const bytes = encode(line.slice(tag.length + 1));
    return line.length <= tag.length ? 0 : splitCells(bytes, 0, bytes.length, { delimiter, quotes: false }, new FieldSpans());
  });
  const most = new Map<number, number>();
  for (const count of counts) most.set(count, (most.get(count) ?? 0) + 1);
  const width = [...most].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0][0];
  return Array.from({ length: Math.max(1, width) }, (_, i) => `field ${i + 1}`);
}

function kindName(tag: string): string {
  return /^\p{L}/u.test(tag) ? tag : `record ${tag}`;
}

/** Indented lines belong to the line above them that is indented less. */
function byIndent(lines: readonly string[], comment: string | null): TaggedGuess | null {
  const indents = lines.map((line) => /^[ \t]*/.exec(line)![0].length);
  const levels = [...new Set(indents)].sort((a, b) => a - b);
  if (levels.length < 2 || levels.length > 5 || indents[0] !== 0 || levels[0] !== 0) return null;
  const counts = levels.map((level) => indents.filter((one) => one === level).length);
  if (smallest(counts) < 2 && lines.length > 6) return null;
  const records: TaggedInput["records"] = {};
  levels.forEach((indent, i) => {
    records[i === 0 ? "header" : i === 1 ? "detail" : `detail ${i}`] = {
      indent,
      ...(i === 0 ? {} : { inside: i === 1 ? "header" : i === 2 ? "detail" : `detail ${i - 1}` }),
      fields: ["text"],
    };
  });
  return { layout: { ...(comment === null ? {} : { comment }), records }, why: `its lines are indented ${levels.join(", ")} blanks` };
}
