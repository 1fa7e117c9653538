/** Words for a page, from whatever went wrong. */
import type { Failure } from "../protocol";

export function failureOf(error: unknown): Failure {
  const known = error as Partial<{
    message: string;
    hint: string;
    code: string;
    facts: Readonly<Record<string, unknown>>;
    excerpt: string;
    place: { file?: string; line?: number; column?: number };
  }>;
  const { file, line, column } = known.place ?? {};
  const place = [file, line, column].filter((part) => part !== undefined && part !== "").join(":");
  return {
    message: known.message ?? String(error),
    hint: forPage(known.hint ?? ""),
    place,
    excerpt: known.excerpt ?? "",
    code: error instanceof DOMException && error.name === "AbortError" ? "stopped" : (known.code ?? ""),
    facts: known.facts ?? {},
    ...(line === undefined ? {} : { line }),
  };
}

/** Hints name options of the library: those that the page has are named by where they are, and what says others is left out. */
function forPage(hint: string): string {
  return hint
    .replaceAll("{ format }", "the format above")
    .replaceAll("{ encoding }", "the encoding above")
    .replace(/[^.]*\{ \w+(?:: [^}]*)? \}[^.]*\.?/g, "")
    .trim();
}
