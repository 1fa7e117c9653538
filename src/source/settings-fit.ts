/** Words that are said of a format are that format's own. */
import { SourceError } from "../errors/error.js";
import type { Format } from "../formats/format.js";
import type { Settings } from "../model/plan.js";

/** What was found to fit before: the same settings hold for many files. */
const fitting = new WeakMap<Settings, Format>();

/** @throws {@link SourceError} for a word that the format does not know, or a value that it does not take */
export async function refuseOthers(format: Format, settings: Settings, file: string): Promise<void> {
  if (fitting.get(settings) === format) return;
  const words = await format.settings();
  const known = Object.keys(words);
  for (const [word, value] of Object.entries(settings)) {
    if (value === undefined) continue;
    const { title } = format;
    if (!known.includes(word)) throw new SourceError("setting-of-other", { file, title, word, known }, { file });
    const issue = words[word].safeParse(value).error?.issues[0];
    if (issue !== undefined)
      throw new SourceError("setting-unfit", { title, word: [word, ...issue.path].join("."), reason: issue.message }, { file });
  }
  fitting.set(settings, format);
}
