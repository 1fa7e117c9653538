/** How sources are read: its format, its encoding and its settings, by what is said or by looking at it. */
import { encodingNamed, openText, sniffEncoding, type Encoding } from "../bytes/encoding.js";
import type { ByteSource } from "../bytes/source.js";
import { isUtf8 } from "../bytes/utf8.js";
import { CallError, phrase, SourceError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import type { SourceFile, SourceFiles } from "./files.js";
import type { Dialect, Format } from "../formats/format.js";
import type { Settings } from "../model/plan.js";
import { FORMATS, formatNamed, sniffFormat, type Choice } from "../formats/index.js";

/** This share of the bytes are letters, digits and blanks of EBCDIC where a file may be of a mainframe. */
const EBCDIC_SHARE = 0.6;

function looksEbcdic(head: Uint8Array): boolean {
  const isOne = (byte: number): boolean =>
    byte === 0x40 || (byte >= 0xf0 && byte <= 0xf9) || (byte >= 0x81 && byte <= 0xa9) || (byte >= 0xc1 && byte <= 0xe9);
  return head.length > 0 && head.filter(isOne).length >= EBCDIC_SHARE * head.length;
}

/** What is said of a source, on the command line or in a plan. */
export interface Said {
  readonly format?: string;
  /** Names of the formats that it may have, where it is found by looking; any, unless said. */
  readonly formats?: readonly string[];
  readonly encoding?: string;
  readonly settings?: Settings;
  /** Names of fields that the plan knows. */
  readonly known?: ReadonlySet<string>;
}

export interface SourceDecision {
  readonly dialect: Dialect;
  readonly format: Format;
  readonly encoding: Encoding;
  /** Why it was taken for this. */
  readonly why: string;
  /** What it could be otherwise, where that is not sure. */
  readonly next?: Choice["next"];
}

const HEAD = 1 << 16;

/** How each file of a source is read: all by one format and one set of settings, each in its own encoding. */
export async function chooseReadings(
  { name, files, set, mixed, links = [] }: SourceFiles,
  said: Said = {},
  of = 0,
): Promise<{ readings: FileReading[]; notes: string[] }> {
  if (!set) return { readings: [{ file: files[0], reading: await chooseReading(files[0].source, said), of }], notes: [] };
  const { kept, left, format } =
    said.format === undefined ? await oneKind(files, mixed, formatsIn(said)) : { kept: files, left: [], format: said.format };
  if (kept.length === 0) throw new SourceError("set-empty", {}, { file: name });
  const readings = await readTogether(
    kept,
    kept.map(() => ({ ...said, format })),
    of,
  );
  const why = said.format === undefined ? "by what is in the files" : readings[0].reading.why;
  return {
    readings: readings.map(({ file, reading }) => ({ file, reading: { ...reading, why }, of })),
    notes: [
      ...left.map((one) => phrase("file-left-out", { ...one, format: readings[0].reading.format.title }).message),
      ...(links.length === 0 ? [] : [phrase("links-left-out", { links }).message]),
    ],
  };
}

/** Files of one format, with what is said of each; what is said of none is found in the first, but for what each has for itself. */
export async function readTogether(files: readonly SourceFile[], said: readonly Said[], of = 0): Promise<FileReading[]> {
  const readings: FileReading[] = [];
  for (const [i, file] of files.entries()) {
    const settings = said[i].settings ?? readings[0]?.reading.dialect.settings;
    const reading = await chooseReading(file.source, { ...said[i], settings });
    readings.push({ file, reading: files.length === 1 ? reading : await withOwn(file.source, reading, said[i]), of });
  }
  return readings;
}

async function withOwn(source: ByteSource, reading: SourceDecision, said: Said): Promise<SourceDecision> {
  const { format, encoding, dialect } = reading;
  if (format.own === undefined) return reading;
  const code = await format.load();
  const guessed = await code.guess(await openText(source, encoding), said.known);
  const settings: Record<string, unknown> = { ...dialect.settings };
  for (const word of format.own) {
    if (said.settings?.[word] !== undefined) continue;
    if (guessed[word] === undefined) delete settings[word];
    else settings[word] = guessed[word];
  }
  return { ...reading, dialect: code.dialect(settings, encoding) };
}

/** Settings on which all files agree: those that belong into a plan. */
export function sharedSettings(readings: readonly FileReading[]): Settings {
  const [first, ...others] = readings.map(({ reading }) => reading.dialect.settings);
  const agree = ([word, value]: [string, unknown]): boolean =>
    others.every((settings) => settings === first || JSON.stringify(settings[word]) === JSON.stringify(value));
  return Object.fromEntries(Object.entries(first).filter(agree));
}

export interface FileReading {
  readonly file: SourceFile;
  readonly reading: SourceDecision;
  /** Number of the plan's source that the file belongs to. */
  readonly of: number;
}

/** The format of most files. Where the files were named one by one, all must have it. */
async function oneKind(
  files: readonly SourceFile[],
  mixed: boolean,
  among: readonly Format[],
): Promise<{ kept: SourceFile[]; left: { file: string; title: string }[]; format?: string }> {
  const formats = await Promise.all(files.map(async ({ source }) => (await formatOf(source, among))?.name ?? null));
  const counts = new Map<string, number>();
  for (const name of formats) if (name !== null) counts.set(name, (counts.get(name) ?? 0) + 1);
  const [format] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [];
  const title = (name: string | null): string => (name === null ? "no known format" : formatNamed(name)!.title);
  const others = files.flatMap(({ name }, i) => (formats[i] === format ? [] : [{ file: name, title: title(formats[i]) }]));
  if (!mixed && others.length > 0 && format !== undefined)
    throw new SourceError("set-mixed", { ...others[0], format: title(format) }, { file: others[0].file });
  return { kept: files.filter((_, i) => formats[i] === format && format !== undefined), left: others, format };
}

async function formatOf(source: ByteSource, among: readonly Format[]): Promise<Format | null> {
  const raw = await source.read(0, HEAD);
  return raw.length === 0 ? null : (sniffFormat(await textHead(source, raw), source.name, among)?.format ?? null);
}

async function textHead(source: ByteSource, raw: Uint8Array): Promise<Uint8Array> {
  return sniffEncoding(raw).encoding === "utf-8" ? raw : (await openText(source)).read(0, HEAD);
}

export async function chooseReading(source: ByteSource, said: Said = {}): Promise<SourceDecision> {
  const raw = await source.read(0, HEAD);
  const { format, why, next } = await chooseFormat(source, raw, said);
  const encoding = chooseEncoding(raw, format, said.encoding);
  const code = await format.load();
  if (said.settings !== undefined) await (await import("./settings-fit.js")).refuseOthers(format, said.settings, source.name);
  const settings = said.settings ?? (await code.guess(await openText(source, encoding), said.known));
  return { format, why, next, encoding, dialect: code.dialect(settings, encoding) };
}

async function chooseFormat(source: ByteSource, raw: Uint8Array, said: Said): Promise<Choice> {
  if (said.format !== undefined) return { format: formatCalled(said.format), why: "it was said so" };
  const among = formatsIn(said);
  const head = await textHead(source, raw);
  const sniffed = sniffFormat(head, source.name, among);
  if (sniffed === null && head.length === 0) throw new SourceError("json-empty", {}, { file: source.name });
  if (sniffed === null)
    throw new SourceError(
      "format-unknown",
      { name: source.name, formats: among.map(({ name }) => name), isEbcdic: looksEbcdic(head) },
      { file: source.name },
    );
  return sniffed;
}

/** The formats that a source may have. */
function formatsIn({ formats }: Said): readonly Format[] {
  return formats === undefined ? FORMATS : FORMATS.filter((format) => formats.map(formatCalled).includes(format));
}

function formatCalled(name: string): Format {
  const format = formatNamed(name);
  const formats = FORMATS.map((one) => one.name);
  if (format === undefined) throw new CallError("format-wrong", { format: name, formats, nearest: nearest(name, formats) });
  return format;
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
