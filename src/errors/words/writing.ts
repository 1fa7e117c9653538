/** What cannot be written into a source, or made of sheets, as it is asked for. */
import { list, type Nearest, perhaps, shown } from "./phrases.js";

export const WRITING = {
  "total-wrong": ({ field, line, said, actual }: { field: string; line: number; said: string; actual: string }) => [
    `line ${line} of the source says ${said} for "${field}", but the records add up to ${actual}. It is recomputed when they change.`,
  ],
  "cell-emptied": () => [
    "this cell is the record itself and cannot be left out",
    "To take the record out, write remove in fold action; for an empty text write (empty).",
  ],
  "field-nowhere": ({ name }: { name: string }) => [
    `the source has no field ${shown(name)}, so that a new value has no place there`,
    "Look at what the plan says of that column: its at, and how the source is read.",
  ],
  "new-format": () => ["the plan does not say of what format the new document is to be", "Say format: under its source."],
  "sheet-missing": ({ file, nearest }: { file: string } & Nearest) => [
    `there is no sheet ${file}`,
    perhaps(nearest, "Bring it, or name another one in the plan."),
  ],
  "titles-missing": ({ file, titles }: { file: string; titles: readonly string[] }) => [
    `no row of ${file} has the titles of the plan`,
    `Expected some of ${list(titles.slice(0, 8))}; say what the sheet calls them under sheet: titles: in the plan.`,
  ],
  "group-full": ({ group, most }: { group: string; most: number }) => [
    `the line has room for ${most} of "${group}", and they are taken`,
    "Remove another row, or add this one elsewhere.",
  ],
  "group-emptied": ({ group }: { group: string }) => [
    `nothing is left in this row, and "${group}" without anything in it is none`,
    'To take it out, write "remove" into fold action.',
  ],
  "group-elsewhere": ({ group }: { group: string }) => [
    `one of "${group}" that goes to another file cannot be changed as well`,
    "Fold the change first, then the move.",
  ],
  "add-nowhere": ({ path }: { path: string }) => [
    `a new row cannot be placed: there is more than one list at ${path}, or none`,
    "Give the plan a table for the records around it, and say inside:.",
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;
