/** The nearest right word for a wrong one. */
import { distance } from "fastest-levenshtein";

const fold = (word: string): string => word.normalize("NFC").toLowerCase().trim();

/** The candidate that differs least from `word`, or `null` when none is near. */
export function nearest(word: string, candidates: readonly string[]): string | null {
  let best: string | null = null;
  let least = Infinity;
  for (const candidate of candidates) {
    const d = distance(fold(word), fold(candidate));
    if (d < least) [best, least] = [candidate, d];
  }
  return best !== null && least <= Math.max(2, Math.floor(Math.max(word.length, best.length) / 3)) ? best : null;
}
