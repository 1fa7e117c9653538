/** What rules of a plan say of cells and records. */
import { number, shown, type Titled } from "./phrases.js";

export const RULES = {
  "rule-minimum": ({ title, limit }: Titled & { limit: string }) => [`"${title}" must be ${limit} or more`],
  "rule-first-day": ({ title, limit }: Titled & { limit: string }) => [`"${title}" must be ${limit} or later`],
  "rule-maximum": ({ title, limit }: Titled & { limit: string }) => [`"${title}" must be ${limit} or less`],
  "rule-last-day": ({ title, limit }: Titled & { limit: string }) => [`"${title}" must be ${limit} or earlier`],
  "rule-short": ({ title, least, length }: Titled & { least: number; length: number }) => [
    `"${title}" must have ${least === 1 ? "a letter" : `${number(least)} letters`} at least, and has ${number(length)}`,
  ],
  "rule-long": ({ title, most, length }: Titled & { most: number; length: number }) => [
    `"${title}" may have ${most === 1 ? "one letter" : `${number(most)} letters`} at most, and has ${number(length)}`,
  ],
  "rule-pattern": ({ title, pattern }: Titled & { pattern: string }) => [`"${title}" is not of the form ${pattern}`],
  "rule-blank": ({ title }: Titled) => [`"${title}" is blank`],
  "schema-fault": ({ what }: { what: string }) => [`the schema of the records does not allow this: ${what}`],
  "check-failed": ({ title, check, reason }: Titled & { check: string; reason: string | null }) => [
    `"${title}" does not pass its check: ${check}`,
    reason ?? "",
  ],
  "check-no-longer": ({
    title,
    table,
    row,
    check,
    reason,
  }: Titled & { table: string; row: number; check: string; reason: string | null }) => [
    `"${title}" of a record of "${table}"${row === 0 ? "" : ` (row ${row})`} does not pass its check any more: ${check}`,
    reason ?? "",
  ],
  "record-check": ({ table, record, check, reason }: { table: string; record: string; check: string; reason: string | null }) => [
    record === "" ? `the records of "${table}" do not pass: ${check}` : `${shown(record)} of "${table}" does not pass: ${check}`,
    reason ?? "",
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;

/** What is compared, and what each side comes to. */
export function sidesSay(sides: readonly (readonly [text: string, value: string])[]): string {
  return `${sides.map(([text, value]) => `${text} is ${value}`).join(", ")}.`;
}
