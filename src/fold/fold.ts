/** The verb fold: the source with exactly the edits. */
import { checkOptions, type OptionNames } from "../errors/options.js";
import { comparedIn, type Compared, COMPARE_OPTIONS, type Comparison, type CompareInput } from "../compare/comparison.js";
import { watchOf, type Watch } from "../source/watch.js";
import { openText, tapped, type TextSource } from "../bytes/encoding.js";
import { rebuildArchive } from "../bytes/archive.js";
import { MemorySource, type ByteSource } from "../bytes/source.js";
import { fingerprint, fingerprinter } from "../bytes/hash.js";
import { packer } from "../bytes/packing.js";
import { OverlapError, type Splice } from "../edits/splice.js";
import { CallError, ProofError } from "../errors/error.js";
import { ProblemsError } from "../model/findings.js";
import { concat, copied } from "../bytes/writer.js";
import { filesOf } from "../sheets/receipt.js";
import { sourceMeanwhile, writeFolded, type ByteSink } from "./write.js";
import { planSplices } from "../source/splices.js";
import type { Tables, TablesOut } from "../sheets/index.js";
import type { SourceText } from "../source/parts.js";

/** How a fold is written. */
export interface FoldOptions extends Watch {
  /** Fold the good rows and leave the rows with problems out. */
  readonly partial?: boolean;
  /** Write without reading again, first, what would be written: faster, and nothing proves that it says what the sheets say. */
  readonly unproved?: boolean;
  /** Takes the result piece by piece; when not given it is returned as one array. For one file, or for one archive. */
  readonly sink?: ByteSink;
  /** For a set of files: who takes a file's bytes; `null` when nobody wants them. */
  readonly sinkFor?: (file: string, unchanged: boolean) => ByteSink | null | Promise<ByteSink | null>;
}

export interface FoldInput extends CompareInput, FoldOptions {
  /**
   * With `partial`: takes the rows that were left out, each with its problem in front, as tables of the folded source: mended,
   * they are folded into that. For one file, or one archive, and without a `sink`.
   */
  readonly refused?: TablesOut;
}

const FOLD_OPTIONS: OptionNames<FoldInput> = { ...COMPARE_OPTIONS, refused: true, partial: true, sink: true, sinkFor: true };

/** One file of a folded set. */
export interface FoldedFile {
  readonly name: string;
  /** When nobody else took them. */
  readonly bytes: Uint8Array;
  readonly fingerprint: string;
  readonly size: number;
  /** Nothing in it was edited: the bytes are those of the source. */
  readonly unchanged: boolean;
}

export interface Folded extends Compared {
  /** The folded file (or archive), when no `sink` was given; else empty. */
  readonly bytes: Uint8Array;
  /** xxHash64 of the folded file. */
  readonly fingerprint: string;
  readonly size: number;
  /** Nothing was edited: the bytes are those of the source. */
  readonly unchanged: boolean;
  /** What was written was read again before, and says what the sheets say. */
  readonly proved: boolean;
  /** The files of a set; `bytes` is then empty, unless they are in an archive. */
  readonly files: readonly FoldedFile[];
  /** Rows that were left out (`partial` only). */
  readonly aside: readonly { readonly table: string; readonly row: number }[];
}

/**
 * Puts exactly the edits back. Nothing is written when there is a problem, unless `partial` is asked for.
 *
 * @throws {@link TablesError} as {@link check}, and {@link ProblemsError} with the list when there are problems
 * @example
 * ```ts
 * const source = '{ "stations": [ {"code": "S1",  "height": 12.50} ] }';
 * const { tables } = await hatch(source);
 * tables.contents.set("stations.csv", new TextEncoder().encode(tables.text("stations.csv").replace("12.50", "13.00")));
 * const { bytes } = await fold(tables, { source });
 * new TextDecoder().decode(bytes); // '{ "stations": [ {"code": "S1",  "height": 13.00} ] }'
 * ```
 */
export async function fold(tables: Tables, input: FoldInput): Promise<Folded> {
  checkOptions("fold", input, FOLD_OPTIONS);
  const { compareTables } = await import("../compare/compare.js");
  const comparison = await compareTables(tables, input);
  const { refused } = input;
  if (refused === undefined || comparison.problems.length === 0) return foldComparison(comparison, input);
  if (input.partial !== true || input.sink !== undefined || (comparison.receipt.source.files !== undefined && comparison.archive === null))
    throw new CallError("refused-alone", {});
  const { gatherRefused } = await import("./refused.js");
  const rows = await gatherRefused(tables, input.source, comparison);
  const folded = await foldComparison(comparison, input);
  await rows.write(new MemorySource(folded.bytes, comparison.archive?.name ?? comparison.parts[0].file.source.name), refused);
  return folded;
}

/** Folds what was compared before. */
export async function foldComparison(comparison: Omit<Comparison, "only">, options: FoldOptions): Promise<Folded> {
  const { problems, aside, parts, corrections, archive } = comparison;
  if (problems.length > 0 && options.partial !== true) {
    throw new ProblemsError(problems);
  }
  const splices = await planSplices(comparison).catch((error: unknown) => {
    if (error instanceof OverlapError) throw new ProofError("unproved-overlap", { byte: error.byte });
    throw error;
  });
  const proved = options.unproved !== true && !comparison.unproved;
  if (proved) {
    const { prove } = await import("./prove.js");
    await prove(comparison, splices, watchOf(options));
  }
  const isSet = comparison.receipt.source.files !== undefined;
  const files: FoldedFile[] = [];
  const size = parts.reduce((sum, { text }) => sum + text.size, 0);
  let before = 0;
  const watched = (sink: ByteSink): ByteSink => {
    let done = 0;
    return (bytes) => {
      options.signal?.throwIfAborted();
      done += bytes.length;
      options.progress?.("fold", Math.min(before + done, size), size);
      return sink(bytes);
    };
  };
  for (const part of parts) {
    const own = { splices: splices[part.index], corrections: corrections[part.index] };
    const unchanged = own.splices.length + own.corrections.length === 0;
    const pieces: Uint8Array[] = [];
    const gather = (bytes: Uint8Array): void => void pieces.push(copied(bytes));
    const sink = isSet
      ? archive === null && options.sinkFor !== undefined
        ? await options.sinkFor(part.name, unchanged)
        : gather
      : (options.sink ?? gather);
    const hatched = filesOf(comparison.receipt)[part.index].fingerprint;
    const written = await writeOut(part, { ...own, unchanged, hatched }, watched(sink ?? (() => undefined)));
    before += part.text.size;
    options.progress?.("fold", before, size);
    files.push({ name: part.name, bytes: concat(pieces), unchanged, ...written });
  }
  const unchanged = files.every((file) => file.unchanged);
  const whole = isSet ? await foldedArchive(archive, files, options.sink) : files[0];
  const { bytes, fingerprint } = whole;
  return {
    ...comparedIn(comparison),
    aside,
    bytes,
    size: whole.size,
    fingerprint,
    unchanged,
    proved,
    files: isSet ? files : [],
  };
}

/** The archive with what changed in it, as one file; of a set that is in none, nothing. */
async function foldedArchive(
  archive: ByteSource | null,
  files: readonly FoldedFile[],
  sink: ByteSink | undefined,
): Promise<Pick<FoldedFile, "bytes" | "size" | "fingerprint">> {
  if (archive === null) return { bytes: new Uint8Array(0), size: files.reduce((sum, { size }) => sum + size, 0), fingerprint: "" };
  const changed = new Map(files.flatMap(({ name, bytes, unchanged }) => (unchanged ? [] : [[name, bytes]])));
  const bytes = changed.size === 0 ? await archive.read(0, archive.size) : await rebuildArchive(archive, changed);
  await sink?.(bytes);
  return { bytes: sink === undefined ? bytes : new Uint8Array(0), size: bytes.length, fingerprint: await fingerprint(bytes) };
}

/** What becomes of one file, and the fingerprint that it had when it was hatched. */
interface PartEdits {
  readonly splices: readonly Splice[];
  readonly corrections: readonly Splice[];
  readonly unchanged: boolean;
  readonly hatched: string;
}

/** A packed file is packed again; one without changes is the file it was. */
async function writeOut(
  part: SourceText,
  { splices, corrections, unchanged, hatched }: PartEdits,
  sink: ByteSink,
): Promise<{ size: number; fingerprint: string }> {
  const { packed } = part.file;
  if (packed === null) return writeSame(part, hatched, (text) => writeFolded(text, splices, corrections, sink));
  if (!unchanged) {
    const packing = await packer(sink);
    await writeSame(part, hatched, (text) => writeFolded(text, splices, corrections, (bytes) => packing.write(bytes)));
    return packing.end();
  }
  const hash = await fingerprinter();
  for await (const chunk of packed.chunks()) {
    hash.update(chunk);
    await sink(copied(chunk));
  }
  return { size: packed.size, fingerprint: hash.digest() };
}

/** The bytes that are copied must be those that were compared: somebody may write the source meanwhile. */
async function writeSame<T>(
  { file, text: { encoding } }: SourceText,
  hatched: string,
  write: (text: TextSource) => Promise<T>,
): Promise<T> {
  const hash = await fingerprinter();
  const text = await openText(
    tapped(file.source, (chunk) => hash.update(chunk)),
    encoding,
  );
  const written = await write(text);
  if (hash.digest() !== hatched) throw sourceMeanwhile(file.source.name);
  return written;
}
