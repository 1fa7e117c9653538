/**
 * Healing: a cell differs, but it is what a spreadsheet makes of the value that was there.
 *
 * Each rule says why in a few words, or `null`. Nothing here looks at what a value might have been meant to be: only at
 * whether damage of a known kind leads from the baseline to the cell. Where a person may have written the same on purpose,
 * the rule says which values such damage hits, as a program hits all of them: then the column tells (`compare/evidence.ts`).
 */
import type { Damage, Rule } from "./healing/damage.js";
import { DATE_RULES } from "./healing/dates.js";
import { NUMBER_RULES } from "./healing/numbers.js";
import { TEXT_RULES } from "./healing/texts.js";

const RULES: readonly Rule[] = [...TEXT_RULES, ...NUMBER_RULES, ...DATE_RULES];

/** Edits come alike by the thousand, as a program or a fill makes them: what was judged last is kept. */
const judged = new Map<string, Damage | null>();
const MOST_JUDGED = 2_000;
const LONGEST_JUDGED = 100;

/** What damage leads from a value to a cell, whoever did it. */
export function damageOf(was: string, found: string): Damage | null {
  if (was === "" || found === "") return null;
  if (was.length + found.length > LONGEST_JUDGED) return judge(was, found);
  const both = `${was}\0${found}`;
  const known = judged.get(both);
  if (known !== undefined) return known;
  const damage = judge(was, found);
  if (judged.size >= MOST_JUDGED) judged.clear();
  judged.set(both, damage);
  return damage;
}

function judge(was: string, found: string): Damage | null {
  for (const rule of RULES) {
    const damage = rule(was, found);
    if (damage !== null) return damage;
  }
  return null;
}

/** The same in words, where nothing else is known of the sheet. */
export function damage(was: string, found: string): string | null {
  const made = damageOf(was, found);
  return made === null || isDoubtful(made) ? null : made.why;
}

/** It takes more than the cell to tell that nobody meant it. */
export function isDoubtful({ isLikelyMeant, isSheetWide }: Damage): boolean {
  return isLikelyMeant === true || isSheetWide === true;
}

/** Does a cell say something else than it did, and not only what a spreadsheet makes of that? */
export function isEdited(was: string, found: string): boolean {
  return found !== was && found.trim() !== was && damage(was, found) === null;
}
