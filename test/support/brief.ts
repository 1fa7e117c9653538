/** What is said of an error, a problem or a note, by its code and facts: the words are tested in words.test.ts alone. */
import { HatchFoldError, type Code, type Facts } from "hatch-fold";
import { sentence, type Words } from "../../src/errors/error.js";
import { WORDS } from "../../src/errors/words.js";
import { CELLS } from "../../src/errors/words/cells.js";
import { ROWS } from "../../src/errors/words/rows.js";
import { RULES } from "../../src/errors/words/rules.js";

export const ALL_WORDS = { ...WORDS, ...ROWS, ...CELLS, ...RULES };

interface Said {
  readonly code: Code;
  readonly facts: Readonly<Record<string, unknown>>;
  readonly message: string;
}

/**
 * `code {"name":value,…}`, by name; what is null or not there is left out, and of a long list its length is given. Words that
 * a plan has for it are given as they are.
 */
export function brief({ code, facts, message }: Said): string {
  if (!message.startsWith(says(code, facts as never))) return message;
  // workers hand them on
  const sorted = Object.fromEntries(Object.entries(structuredClone(facts)).toSorted(([a], [b]) => (a < b ? -1 : 1)));
  const said = JSON.stringify(sorted, (_, value: unknown) => {
    if (value === null) return undefined;
    return Array.isArray(value) && value.length > 6 ? `${value.length} in all` : value;
  });
  return said === "{}" ? code : `${code} ${said}`;
}

/** What a call is refused for. */
export async function refusal(call: Promise<unknown>): Promise<string> {
  try {
    await call;
    return "nothing was wrong";
  } catch (error) {
    if (error instanceof HatchFoldError) return brief(error as HatchFoldError);
    throw error;
  }
}

/** The sentence itself, for what comes as a text: the notes of a hatch, and the command line. */
export function says<C extends Code>(code: C, facts: Facts<C>): string {
  return sentence(ALL_WORDS[code] as unknown as Words<C>, facts).message;
}
