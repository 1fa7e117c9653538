/** One spelling for all that a person takes for the same: Unicode form, case and spaces do not count. */
export function folded(text: string): string {
  return text.normalize("NFKC").trim().replace(/\s+/g, " ").toLowerCase();
}
