/** How a source is read: its format, its encoding and its settings, by what is said or by looking at it. */
import { encodingNamed, openText, sniffEncoding, type Encoding } from "../bytes/encoding.js";
import type { ByteSource } from "../bytes/source.js";
import { asciiEnd, utf8Length } from "../bytes/utf8.js";
import { CallError, SourceError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import type { Dialect, Format, Settings } from "./format.js";
import { FORMATS, formatNamed, sniffFormat } from "./index.js";

/** What is said of a source, on the command line or in a plan. */
export interface Said {
  readonly format?: string;
  readonly encoding?: string;
  readonly settings?: Settings;
}

export interface Reading {
  readonly dialect: Dialect;
  readonly format: Format;
  readonly encoding: Encoding;
  /** Why it was taken for this. */
  readonly why: string;
}

const HEAD = 1 << 16;

export async function chooseReading(source: ByteSource, said: Said = {}): Promise<Reading> {
  const raw = await source.read(0, HEAD);
  const { format, why } = await chooseFormat(source, raw, said.format);
  const encoding = chooseEncoding(raw, format, said.encoding);
  const settings = said.settings ?? (await format.guess(await openText(source, encoding)));
  return { format, why, encoding, dialect: format.dialect(settings, encoding) };
}

async function chooseFormat(source: ByteSource, raw: Uint8Array, name?: string): Promise<{ format: Format; why: string }> {
  const formats = FORMATS.map((one) => one.name);
  if (name !== undefined) {
    const format = formatNamed(name);
    if (format === undefined) throw new CallError("format-wrong", { format: name, formats, nearest: nearest(name, formats) });
    return { format, why: "it was said so" };
  }
  const head = sniffEncoding(raw).encoding === "utf-8" ? raw : await (await openText(source)).read(0, HEAD);
  const sniffed = sniffFormat(head, source.name);
  if (sniffed === null && head.length === 0) throw new SourceError("json-empty", {}, { file: source.name });
  if (sniffed === null) throw new SourceError("format-unknown", { name: source.name, formats }, { file: source.name });
  return sniffed;
}

/** What is said, else what the file itself declares, else UTF-8 when it is well formed, else windows-1252. */
function chooseEncoding(raw: Uint8Array, format: Format, said?: string): Encoding {
  const name = said ?? format.declaredEncoding?.(raw);
  if (name !== undefined) {
    const encoding = encodingNamed(name);
    if (encoding === null) throw new CallError("encoding-unknown", { encoding: name });
    return encoding;
  }
  const { encoding } = sniffEncoding(raw);
  return encoding === "utf-8" && format.declaredEncoding === undefined && !isUtf8(raw) ? format.otherEncoding : encoding;
}

function isUtf8(bytes: Uint8Array): boolean {
  for (let i = asciiEnd(bytes, 0); i < bytes.length; i = bytes[i] < 0x80 ? asciiEnd(bytes, i) : i) {
    const length = utf8Length(bytes, i, bytes.length);
    if (length <= 0) return length === 0;
    i += length;
  }
  return true;
}
