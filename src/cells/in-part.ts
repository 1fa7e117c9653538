/** Words by a beginning or a part of them, as people type them (`lookup: partial` in a plan). */
import { normalised } from "./normalised.js";

/** So many words that fit are named. */
const MOST_NAMED = 8;

/** The words that begin so; where none does, those that have it in them. Spaces and case do not count. */
export function inPart(text: string, words: Iterable<string>): string[] {
  const wanted = normalised(text);
  if (wanted === "") return [];
  const all = [...new Set(words)].map((word) => [word, normalised(word)] as const);
  for (const fits of [
    (word: string): boolean => word === wanted,
    (word: string): boolean => word.startsWith(wanted),
    (word: string): boolean => word.includes(wanted),
  ]) {
    const found = all.filter(([, plain]) => fits(plain)).map(([word]) => word);
    if (found.length > 0) return found.slice(0, MOST_NAMED);
  }
  return [];
}
