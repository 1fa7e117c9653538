/** Letters of ASCII, and never two blanks side by side. */
const PLAIN = /^(?: ?[!-~])* ?$/;

/** One spelling for all that a person takes for the same: Unicode form, case and spaces do not count. */
export function normalised(text: string): string {
  if (PLAIN.test(text)) return text.trim().toLowerCase();
  return text.normalize("NFKC").trim().replace(/\s+/g, " ").toLowerCase();
}
