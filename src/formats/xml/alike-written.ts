/** How an element is written, as a model for one that is new: its attributes, its end where it is empty, its text. */
import type { ByteSource } from "../../bytes/source.js";
import { decode } from "../../bytes/writer.js";
import type { Element } from "./layout.js";

export const PLAIN_CDATA = "<![CDATA[";

interface AttributeStyle {
  /** White space before it. */
  readonly space: string;
  readonly quote: '"' | "'";
}

async function textIn(source: ByteSource, start: number, end: number): Promise<string> {
  return decode(await source.read(start, end));
}

/** How each attribute is written; one of another name is written as the last. */
export async function attributeStyle(source: ByteSource, model: Element | null): Promise<(name: string) => AttributeStyle> {
  const styles = new Map<string, AttributeStyle>();
  let last: AttributeStyle = { space: " ", quote: '"' };
  let before = model?.nameEnd ?? 0;
  for (const { name, start, value, end } of model?.attributes ?? []) {
    const quote = (await textIn(source, value.start, value.start + 1)) === "'" ? "'" : '"';
    last = { space: await textIn(source, before, start), quote };
    styles.set(name, last);
    before = end;
  }
  return (name) => styles.get(name) ?? last;
}

/** The end of a tag without content: `/>`, perhaps with a space before it. */
export async function closingOf(source: ByteSource, model: Element | null): Promise<string> {
  const written = model?.selfClosing === true ? await textIn(source, model.content.start, model.content.end) : "";
  return /^\s*\/>$/.test(written) ? written : "/>";
}

/** Is the text a CDATA section, and nothing else? */
export async function isCdata(source: ByteSource, model: Element | null): Promise<boolean> {
  if (model === null || model.selfClosing) return false;
  const { start, end } = model.content;
  const opens = (await textIn(source, start, Math.min(end, start + PLAIN_CDATA.length))) === PLAIN_CDATA;
  return opens && (await textIn(source, end - 3, end)) === "]]>";
}
