/**
 * Sheets that came back in an older encoding. Which one is told by the source: read in the right
 * encoding, words of cells that nobody edited are words of the source.
 */
import { codePage, ONE_BYTE, tableOf, type Encoding } from "../bytes/encoding.js";
import { MULTI_BYTE } from "../bytes/multi-byte-names.js";
import type { Context } from "../rows/context.js";
import type { OpenSheet, SheetContainer } from "../sheets/container.js";
import { readAll } from "../sheets/titled.js";

/** So many cells tell enough. */
const MOST_CELLS = 10_000;

/** Bytes of the encoding that stand for nothing. */
const NO_LETTER = /[\u0080-\u009f\uf780-\uf7ff\u{f0000}-\u{10ffff}]/u;

/** Sheets by name, and the encodings that they are in. */
export type Encodings = ReadonlyMap<string, Encoding>;

/** The encodings of sheets that are not UTF-8, as far as the source tells them; the likeliest in each case. */
export async function encodingsOf(container: SheetContainer, { findings, records }: Context): Promise<Encodings> {
  const asked = findings.problems.flatMap(({ code, file }) => (code === "sheet-encoding" ? [file] : []));
  const guesses = new Map<string, ReadonlyMap<string, Guess[]>>();
  for (const name of new Set(asked)) {
    const sheet = await container.sheet(name, { encoding: "iso-8859-1" });
    if (sheet !== null) guesses.set(name, await guess(await cellsOf(sheet)));
  }
  if (guesses.size === 0) return new Map();
  await records.cells((row, assembler) => {
    for (let slot = 0; slot < row.kinds.length; slot++)
      for (const word of oddWords(assembler.text(row, slot)))
        for (const words of guesses.values()) for (const one of words.get(word) ?? []) one.known.add(word);
  });
  const found = new Map<string, Encoding>();
  for (const [name, words] of guesses) {
    const all = [...new Set([...words.values()].flat())].sort((a, b) => b.known.size - a.known.size || a.rank - b.rank);
    if (all.length > 0 && all[0].known.size > 0) found.set(name, all[0].encoding);
  }
  return found;
}

/** Gives these sheets in their encodings. */
export function recoded(container: SheetContainer, encodings: Encodings): SheetContainer {
  return {
    name: container.name,
    isWhole: container.isWhole,
    receipt: () => container.receipt(),
    names: () => container.names(),
    sheet: (name, as) => {
      const encoding = encodings.get(name);
      return container.sheet(name, encoding === undefined ? as : { encoding });
    },
  };
}

/** An encoding that a sheet may be in, and the words that are then known. */
interface Guess {
  readonly encoding: Encoding;
  /** The likeliest comes first. */
  readonly rank: number;
  readonly known: Set<string>;
}

/** Reads bytes, given as letters of iso-8859-1, in an encoding. */
type Reader = readonly [encoding: Encoding, read: (bytes: string) => string];

/** The likeliest come first. */
async function readers(): Promise<Reader[]> {
  const likely: readonly Encoding[] = ["windows-1252", ...ONE_BYTE.filter((one) => one.startsWith("windows-") && one !== "windows-1252")];
  const others = ONE_BYTE.filter((one) => !likely.includes(one) && one !== "us-ascii");
  const oneByte = [...likely, ...others].map((encoding): Reader => {
    const letters = codePage(encoding);
    return [encoding, (bytes) => Array.from(bytes, (letter) => letters[letter.charCodeAt(0)]).join("")];
  });
  const several = MULTI_BYTE.map(async (encoding): Promise<Reader> => {
    const table = await tableOf(encoding);
    return [encoding, (bytes) => table.text(Uint8Array.from(bytes, (letter) => letter.charCodeAt(0)))];
  });
  return [...oneByte, ...(await Promise.all(several))];
}

/** What the words of cells would be in each encoding, by that. */
async function guess(cells: ReadonlySet<string>): Promise<ReadonlyMap<string, Guess[]>> {
  const byWord = new Map<string, Guess[]>();
  for (const [rank, [encoding, read]] of (await readers()).entries()) {
    const texts = [...cells].map(read);
    if (texts.some((text) => NO_LETTER.test(text))) continue;
    const one: Guess = { encoding, rank, known: new Set() };
    for (const word of new Set(texts.flatMap(oddWords))) byWord.set(word, [...(byWord.get(word) ?? []), one]);
  }
  return byWord;
}

/** Cells with letters beyond ASCII, as bytes. */
async function cellsOf(sheet: OpenSheet): Promise<ReadonlySet<string>> {
  const found = new Set<string>();
  for (const { cells } of (await readAll(sheet, () => false)) ?? []) {
    if (found.size > MOST_CELLS) break;
    for (const cell of cells) if (cell !== undefined && /[^\0-\x7f]/.test(cell)) found.add(cell);
  }
  return found;
}

function oddWords(text: string): readonly string[] {
  return /[^\0-\x7f]/.test(text) ? text.split(/[\0-/:-@[-`{-\x7f]+/).filter((word) => /[^\0-\x7f]/.test(word)) : [];
}
