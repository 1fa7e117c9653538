/** Damage to texts: spaces, signs, letters, words for true and false. */
import { codePage } from "../../bytes/encoding.js";
import { encode } from "../../bytes/writer.js";
import { LONGEST_CELL } from "../limits.js";
import { sure, type Damage, type Rule } from "./damage.js";

const lineEnds: Rule = (was, found) => {
  if (!/[\r\n]/.test(was)) return null;
  const fold = (text: string): string => text.replace(/\r\n?/g, "\n");
  return sure(fold(was) === fold(found), "line ends inside the cell");
};

/** True and false as spreadsheets in other languages write them. */
const TRUE_WORDS = "TRUE WAHR VRAI VERDADERO VERO WAAR SANT SAND SANN PRAWDA PRAVDA VERDADEIRO ИСТИНА".split(" ");
const FALSE_WORDS = "FALSE FALSCH FAUX FALSO ONWAAR FALSK FALSKT USANN FAŁSZ NEPRAVDA ЛОЖЬ".split(" ");

const truths: Rule = (was, found) => {
  if (was !== "true" && was !== "false") {
    // words for them in the language of the spreadsheet
    const words = [TRUE_WORDS, FALSE_WORDS].find((one) => one.includes(was.toUpperCase()) && one.includes(found));
    if (words === undefined) return null;
    const made: Damage = { why: `${found} for ${was}`, hits: (one) => one.toUpperCase() === was.toUpperCase() };
    return found === was.toUpperCase() ? made : { ...made, isLikelyMeant: true };
  }
  if ((was === "true" ? TRUE_WORDS : FALSE_WORDS).includes(found)) return { why: `${found} for ${was}`, hits: null };
  const isNumber = found === (was === "true" ? "1" : "0");
  return isNumber ? { why: `${found} for ${was}`, hits: (one) => one === was, isLikelyMeant: true } : null;
};

const spaces: Rule = (was, found) => sure(was === found.replace(/[\u00a0\u202f]/g, " "), "non-breaking spaces");

const trimmed: Rule = (was, found) =>
  was.trim() === found && was !== found ? { why: "spaces trimmed", hits: (one) => one !== one.trim(), isSheetWide: true } : null;

const tabs: Rule = (was, found) => {
  if (!was.includes("\t")) return null;
  if (was.replaceAll("\t", " ") === found) return { why: "tabs inside the cell", hits: null };
  return was.replaceAll("\t", "") === found ? { why: "tabs lost", hits: (one) => one.includes("\t") } : null;
};

const letters: Rule = (was, found) => sure(was.normalize("NFC") === found.normalize("NFC"), "letters composed another way");

/** What programs put in place of what is typed. */
const TYPED: readonly (readonly [RegExp, string])[] = [
  [/[\u201c\u201d\u201e\u00ab\u00bb]/g, '"'],
  [/[\u2018\u2019\u201a]/g, "'"],
  [/\u2026/g, "..."],
  [/\u00a9/g, "(c)"],
  [/\u00ae/g, "(r)"],
  [/\u2122/g, "(tm)"],
  [/\u00bd/g, "1/2"],
  [/\u00bc/g, "1/4"],
  [/\u00be/g, "3/4"],
  [/\u2192/g, "->"],
];

const replaced: Rule = (was, found) => {
  const typed = TYPED.reduce((text, [sign, plain]) => text.replace(sign, plain), found);
  if (typed === was && found !== was) return { why: /^[^"']*$/.test(was) ? "signs put in place of others" : "curled quotes", hits: null };
  const dashes = (text: string): string => text.replace(/ ?-- ?/g, (sign) => sign.replace("--", "-"));
  return sure(
    /-/.test(was) && /[\u2013\u2014]/.test(found) && dashes(was) === typed.replace(/[\u2013\u2014]/g, "-"),
    "dashes in place of hyphens",
  );
};

const pages = new Map<string, readonly string[]>();

/** What the UTF-8 bytes of a text say in an encoding of one byte a letter. */
function misread(text: string, encoding: string): string {
  const letters = pages.get(encoding) ?? codePage(encoding);
  pages.set(encoding, letters);
  return Array.from(encode(text), (byte) => letters[byte]).join("");
}

/** `Łódź` → `?ód?`: the sheet's encoding has no such letters, or it was read in another. */
const missing: Rule = (was, found) => {
  const [old, now] = [[...was], [...found]];
  const isLost = (letter: string, i: number): boolean => (now[i] === "?" || now[i] === "\ufffd") && letter > "\u007f";
  if (!/[?\ufffd]/.test(found) || old.length !== now.length) return null;
  return sure(
    old.some(isLost) && old.every((letter, i) => letter === now[i] || isLost(letter, i)),
    "letters that the sheet's encoding lacks",
  );
};

/** UTF-8 that was read as an encoding of one byte a letter. */
const mojibake: Rule = (was, found) => {
  if (!/[\u0080-\uffff]/.test(was) || found.length <= was.length) return null;
  return sure(
    ["windows-1252", "macintosh"].some((encoding) => misread(was, encoding) === found),
    "UTF-8 read as another encoding",
  );
};

const LIMITS = [LONGEST_CELL, 50_000, 65_535];

const cut: Rule = (was, found) =>
  sure(was.length > found.length && LIMITS.includes(found.length) && was.startsWith(found), "cut at the longest that a cell holds");

export const TEXT_RULES: readonly Rule[] = [cut, lineEnds, truths, spaces, trimmed, tabs, letters, replaced, missing, mojibake];
