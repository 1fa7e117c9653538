/** What is read: one file, or a set of files of one kind (several files, a folder, a zip archive). */
import { CallError } from "../errors/error.js";
import { FORMATS } from "../formats/index.js";
import { isArchive, openArchive } from "../bytes/archive.js";
import { unpacked } from "../bytes/packing.js";
import { renamed, toSource, type ByteSource, type SourceInput } from "../bytes/source.js";

const LONGEST_NAME = 1000;
/** What names of files end in, beside the endings of formats. */
const OTHER_ENDINGS = [".txt", ".gz", ".zip"];

/** One file, as what is in it. */
export interface SourceFile {
  /** What messages and the column of the file call it. */
  readonly name: string;
  readonly source: ByteSource;
  /** The file itself, when the source was packed in it. */
  readonly packed: ByteSource | null;
  /** Name of the plan's source that it belongs to, where the plan has several. */
  readonly of?: string;
}

export interface SourceFiles {
  readonly name: string;
  readonly files: readonly SourceFile[];
  /** The tables have a column for the file. */
  readonly set: boolean;
  /** Files of another kind are left out: nobody named them one by one. */
  readonly mixed: boolean;
  /** Links in a folder, which are not followed: what they lead to is there under its own name, or somewhere else. */
  readonly links?: readonly string[];
  /** The zip archive that the files are in. */
  readonly archive: ByteSource | null;
}

/**
 * What the public functions take: one source, several of one kind, for a plan with several sources those of each
 * name, or files that were opened before.
 */
export type SourcesInput = SourceInput | readonly SourceInput[] | ReadonlyMap<string, SourceInput | readonly SourceInput[]> | SourceFiles;

export async function openFiles(input: SourcesInput, name?: string): Promise<SourceFiles> {
  for (const one of isList(input) ? input : [input]) refuseName(one as SourceInput);
  if (isOpened(input)) return input;
  if (isNamed(input)) return openNamed(input, name);
  if (isList(input)) {
    const files = toldApart(await Promise.all(input.map(async (one) => openFile(await toSource(one)))));
    return { name: name ?? files.map((file) => file.name).join(", "), files, set: true, mixed: false, archive: null };
  }
  const source = await toSource(input, name);
  if (await isArchive(source)) {
    const files = await Promise.all((await openArchive(source)).map(openFile));
    return { name: source.name, files, set: true, mixed: true, archive: source };
  }
  const file = await openFile(source);
  return { name: file.name, files: [file], set: false, mixed: false, archive: null };
}

/** A file's name given as a text would be taken for all that the file holds. */
function refuseName(input: SourceInput): void {
  if (typeof input !== "string" || input.length > LONGEST_NAME || /[\r\n]/.test(input)) return;
  const lower = input.toLowerCase();
  const endings = [...FORMATS.flatMap((format) => format.endings), ...OTHER_ENDINGS];
  if (endings.some((ending) => lower.endsWith(ending))) throw new CallError("source-is-name", { text: input });
}

async function openNamed(input: ReadonlyMap<string, SourceInput | readonly SourceInput[]>, name?: string): Promise<SourceFiles> {
  const files: SourceFile[] = [];
  for (const [belongs, given] of input) {
    const list = isList(given) ? given : [given];
    for (const [i, one] of list.entries()) {
      refuseName(one);
      const source = await toSource(one, one instanceof Blob ? undefined : list.length === 1 ? belongs : `${belongs} ${i + 1}`);
      files.push({ ...(await openFile(source)), of: belongs });
    }
  }
  return { name: name ?? files.map((file) => file.name).join(", "), files: toldApart(files), set: true, mixed: false, archive: null };
}

/** Files of one name, given by hand, get numbers: the first keeps its name. */
function toldApart(files: readonly SourceFile[]): SourceFile[] {
  const taken = new Set<string>();
  return files.map((file) => {
    let { name } = file;
    for (let n = 2; taken.has(`${file.of ?? ""}\n${name}`); n++) name = `${file.name} (${n})`;
    taken.add(`${file.of ?? ""}\n${name}`);
    return name === file.name ? file : { ...file, name, source: renamed(file.source, name) };
  });
}

async function openFile(file: ByteSource): Promise<SourceFile> {
  const { source, packed } = await unpacked(file);
  return { name: packed === null ? source.name : packed.name, source, packed };
}

function isOpened(input: SourcesInput): input is SourceFiles {
  return typeof input === "object" && "files" in input;
}

function isNamed(input: SourcesInput): input is ReadonlyMap<string, SourceInput | readonly SourceInput[]> {
  return input instanceof Map;
}

function isList(input: SourcesInput | SourceInput): input is readonly SourceInput[] {
  return Array.isArray(input);
}

/** The files of a set that have these names, in this order; `null` for one that is not there. */
export function filesNamed(
  files: SourceFiles,
  names: readonly { readonly file: string; readonly source?: string }[],
): (SourceFile | null)[] {
  return names.map(({ file, source }) => files.files.find((one) => one.name === file && one.of === source) ?? null);
}
