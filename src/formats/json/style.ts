/** How a record or list of the source is written: the white space in it. New ones are written the same way. */
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import { partStart, type Layout } from "./layout.js";

export interface Style {
  /** Between the opening bracket and the first part. */
  readonly open: string;
  /** Between parts, comma included. */
  readonly between: string;
  /** Between the last part and the closing bracket. */
  readonly close: string;
  /** Between a name and its value, colon included. */
  readonly colon: string;
}

export const PLAIN: Style = { open: "", between: ", ", close: "", colon: ": " };
export const TIGHT: Style = { open: "", between: ",", close: "", colon: ":" };

/** So much of the only item is looked at to see how it is written. */
const SAMPLE = 200;

export async function readStyle(source: ByteSource, layout: Layout): Promise<Style | null> {
  const { parts } = layout;
  if (layout.kind === "scalar" || parts.length === 0) return null;
  // a comment at the end of a line is not to be copied, nor the blanks in its place
  const text = async (start: number, end: number): Promise<string> => decode(await source.read(start, end)).replace(/[ \t]+(?=\r?\n)/g, "");
  const first = parts[0];
  const last = parts[parts.length - 1];
  const open = await text(layout.start + 1, partStart(first));
  const close = await text(last.end, layout.end - 1);
  const colon = first.name === null ? ": " : await text(first.name.end + 1, first.start);
  const tight =
    parts.length === 1 && first.name === null && /^[[{][^]*?":\S/.test(await text(first.start, Math.min(first.end, first.start + SAMPLE)));
  const between = parts.length > 1 ? await text(first.end, partStart(parts[1])) : `,${open === "" && colon !== ":" && !tight ? " " : open}`;
  return { open, between, close, colon };
}

/** The style of something one level further in, when there is no model for it. */
export function innerStyle(style: Style): Style {
  const indent = lineIndent(style.open);
  const outdent = lineIndent(style.close);
  if (indent === null || outdent === null || !indent.startsWith(outdent)) return style.colon === ":" ? TIGHT : PLAIN;
  const deeper = (space: string): string => space + indent.slice(outdent.length);
  return { open: deeper(style.open), between: `,${deeper(style.open)}`, close: style.open, colon: style.colon };
}

function lineIndent(space: string): string | null {
  const line = space.lastIndexOf("\n");
  return line < 0 ? null : space.slice(line + 1);
}
