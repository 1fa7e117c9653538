/** The nearest right word for a wrong one. */
import { distance } from "fastest-levenshtein";

/** Letters of ASCII are what they are in every Unicode form. */
const PLAIN = /^[ -~]*$/;
const fold = (word: string): string => (PLAIN.test(word) ? word : word.normalize("NFC")).toLowerCase().trim();

/** So long a word may be that others are held against it, and so much may be compared for all that one list is asked. */
const LONGEST = 200;
const BUDGET = 20_000_000;

/** The candidate that differs least from `word`, or `null` when none is near. */
export function nearest(word: string, candidates: readonly string[]): string | null {
  return new NearestWords(candidates).to(word);
}

/**
 * A list of words that many wrong ones are held against: each is prepared once, lengths are compared first, and when the
 * budget (in letters compared) is used up there are no more suggestions.
 */
export class NearestWords {
  private readonly words: { readonly word: string; readonly folded: string }[];
  private left = BUDGET;

  /** `isWhole`: there are no more such words. */
  constructor(
    words: readonly string[],
    private readonly isWhole = true,
  ) {
    this.words = words.map((word) => ({ word, folded: fold(word) }));
  }

  /** All words; `null` when there are more than were kept. */
  get all(): readonly string[] | null {
    return this.isWhole ? this.words.map(({ word }) => word) : null;
  }

  to(word: string): string | null {
    return this.find(word)?.word ?? null;
  }

  /** The nearest word, and how many letters differ. */
  find(word: string): { readonly word: string; readonly apart: number } | null {
    const folded = fold(word);
    if (folded.length > LONGEST) return null;
    let best: string | null = null;
    let least = Infinity;
    for (const one of this.words) {
      if (this.left <= 0) return null;
      this.left -= 8;
      const { length } = one.folded;
      const most = Math.max(2, Math.floor(Math.max(word.length, one.word.length) / 3));
      const apart = Math.abs(length - folded.length);
      if (apart >= least || apart > most || length > LONGEST) continue;
      this.left -= folded.length + length;
      const found = distance(folded, one.folded);
      if (found < least && found <= most) [best, least] = [one.word, found];
      if (least === 0) break;
    }
    return best === null ? null : { word: best, apart: least };
  }
}
