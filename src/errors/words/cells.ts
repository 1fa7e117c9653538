/** What can be wrong with one cell. */
import { count, list, type Nearest, number, perhaps, shown, type Titled } from "./phrases.js";

/** What a column type asks for, with an example. */
const TYPES: Record<string, readonly [string, string]> = {
  integer: ["a whole number", "Digits only, with - before them if need be: 12"],
  number: ["a number", "As JSON writes it: 12, -0.5, 1e6; no thousands separators, no leading zeros"],
  decimal: ["a decimal number", "Digits with a point: 12.50"],
  boolean: ["true or false", "Write true or false"],
  date: ["a date", "As year-month-day: 2024-03-05"],
};

export const CELLS = {
  required: ({ title }: Titled) => [`"${title}" may not be empty`, "Fill it in."],
  "cell-error": ({ cell }: { cell: string }) => [
    `${shown(cell)} is the error of a formula`,
    `Mend the formula, or put the value back; as text it is ("${cell}").`,
  ],
  "key-missing": ({ title }: Titled) => [`a new row needs its "${title}"`, "It is what other rows know this record by."],
  "value-missing": ({ title }: Titled) => [
    `a new row needs its "${title}": nothing else is in the record`,
    "Fill it in, or take the row away; for an empty text write (empty).",
  ],
  "key-taken": ({ title, key, record, row }: Titled & { key: string; record: number; row: number | null }) => [
    `${shown(key)} is taken`,
    `Record ${number(record)}${row === null ? "" : ` (row ${row})`} has that "${title}" already.`,
  ],
  "key-twice": ({ title, key, rows }: Titled & { key: string; rows: readonly number[] }) => [
    `rows ${rows.join(" and ")} have the same "${title}" ${shown(key)}`,
    "Give each its own.",
  ],
  "name-empty": ({ title }: Titled) => [
    `"${title}" is the name the record stands under and must be a text`,
    "Write a name that no other record there has.",
  ],
  "name-nowhere": ({ table }: { table: string }) => [
    `a new record of "${table}" needs a name to stand under, and the table shows no names`,
    'Give the table a column at ":key" in the plan.',
  ],
  "name-of-list": ({ table }: { table: string }) => [
    `a record cannot be added to "${table}": names lead to lists there, and a new row does not say which list it goes into`,
    "Add it in the file, or take the lists out as a packed column.",
  ],
  "links-elsewhere": ({ title, links, was }: Titled & { links: string; was: string }) => [
    `"${title}" shows what ${links} say`,
    `Put ${was === "" ? "nothing" : shown(was)} back, and edit ${links}: this column follows.`,
  ],
  "read-only": ({ title, was }: Titled & { was: string }) => [`"${title}" may not be edited`, `Put ${shown(was)} back.`],
  "place-edited": ({ was }: { was: string }) => [
    "the place in the list follows from the order in the source, and cannot be edited in this table",
    `Put ${shown(was)} back.`,
  ],
  "place-unread": ({ was }: { was: string }) => ["a place in a list is a whole number, from 1", `Write one, or put ${shown(was)} back.`],
  "place-twice": ({ place, row }: { place: number; row: number }) => [
    `row ${row} goes to place ${place} already`,
    "Give each a place of its own; rows that say none follow each other as they did.",
  ],
  "rest-filled": ({ title }: Titled) => [
    `"${title}" has parts in other columns or rows, so it cannot be set as a whole`,
    "Clear those first, or put the blank back.",
  ],
  "rest-list": ({ title }: Titled) => [
    `"${title}" is a list with rows in another table`,
    "Here it can only be blank, [] or (null); add its items as rows there.",
  ],
  "rest-keyed": ({ title }: Titled) => [
    `"${title}" is a record with rows in another table`,
    "Here it can only be blank, {} or (null); add its members as rows there.",
  ],
  "row-no-record": ({ title }: Titled) => [
    `"${title}" cannot be filled: what this row stands for is not a record, but a list or a plain value`,
    "Leave the cell as it was.",
  ],
  "beside-left": ({ title, beside }: Titled & { beside: string }) => [
    `"${title}" cannot be blank while "${beside}" stands beside it`,
    `Write (empty) for an empty text, or clear "${beside}" too.`,
  ],
  "under-rest": ({ title, rest }: Titled & { rest: string }) => [
    `"${title}" is a part of "${rest}", which is set as a whole`,
    `Clear "${rest}" first.`,
  ],
  type: ({ type, title }: Titled & { type: string }) => [
    `"${title}" must be ${TYPES[type]?.[0] ?? type}`,
    TYPES[type] === undefined ? "" : `${TYPES[type][1]}.`,
  ],
  choice: ({ title, choices, nearest }: Titled & { choices: readonly string[] } & Nearest) => [
    `"${title}" must be one of ${list(choices)}`,
    perhaps(nearest),
  ],
  "choice-several": ({ title, found }: Titled & { found: readonly string[] }) => [
    `"${title}" fits several: ${list(found)}`,
    "Write more of the one that is meant.",
  ],
  "cells-cleaned": ({ title, count: n, found, taken }: Titled & { count: number; found: string; taken: string }) => [
    `${count(n, "cell")} of "${title}" ${n === 1 ? "was" : "were"} cleaned, as the plan says (${shown(found)} is ${shown(taken)}).`,
  ],
  "cells-in-part": ({ title, count: n, found, taken }: Titled & { count: number; found: string; taken: string }) => [
    `${count(n, "cell")} of "${title}" ${n === 1 ? "is" : "are"} taken for what ${n === 1 ? "it is" : "they are"} a part of (${shown(found)} is ${shown(taken)}).`,
  ],
  verbatim: ({ cell, format, example }: { cell: string; format: string; example: string }) => [
    `${shown(cell)} is not well-formed ${format}: the cell holds a part of the source as it is written`,
    `Keep it well-formed, as in ${example}.`,
  ],
  "total-addend": ({ title }: Titled) => [
    `"${title}" is summed up in a total, and this is no number`,
    "Write a number, or leave it blank.",
  ],
  "total-unfit": ({ title, line, total, why }: Titled & { line: string; total: string; why: string }) => [
    `"${title}" in ${line} would be ${total}, and that cannot be written: ${why}`,
    "Its records are too many or their values too large, or one of them is wrong.",
  ],
  "total-edited": () => [
    "this is a total: it is recomputed when the tables are folded",
    "Put the old value back, or change the records it counts.",
  ],
  "kind-not-held": ({ cell, format }: { cell: string; format: string }) => [
    `${format} has nothing like ${cell}`,
    "Leave the cell blank for nothing, or write (empty) for an empty text.",
  ],
  "letter-missing": ({ letter, encoding }: { letter: string; encoding: string }) => [
    `"${letter}" cannot be written in ${encoding}, the encoding of the source`,
    "Write it with letters that the encoding has, or convert the source to UTF-8 first.",
  ],
  "literal-broken": ({ cell }: { cell: string }) => [
    `${shown(cell)} looks like a text literal in parentheses but is not one`,
    'Write ("…") with JSON escapes, or the text itself.',
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;
