/** What can be wrong with a plan or a call. */
import { count, list, type Nearest, number, option, perhaps, shown, type Titled } from "./phrases.js";

export const PLANS = {
  "source-is-name": ({ text }: { text: string }) => [
    `${shown(text)} is the name of a file, and was given as its text`,
    "Give its bytes, a Blob or a ByteSource; functions of hatch-fold/node, such as hatchInto, take paths.",
  ],
  "option-unknown": ({ call, option, nearest, known }: { call: string; option: string; known: readonly string[] } & Nearest) => [
    `${call} has no option ${shown(option)}`,
    perhaps(nearest, `It has ${known.join(", ")}.`),
  ],
  "list-columns": ({ missing }: { missing: readonly string[] }) => [
    `this is no list of changes: it has no column ${list(missing)}`,
    "Write one with compare, and keep its titles.",
  ],
  "list-other": ({ table, row }: { table: string; row: string }) => [
    `the list has a change that these tables do not have${table === "" ? "" : `: row ${row} of "${table}"`}`,
    "The tables or the source were edited since: compare again, and choose again.",
  ],
  "list-follows": ({ table, column, record }: { table: string; column: string; record: string }) => [
    `the change of ${shown(record)} in "${table}"${column === "" ? "" : ` under "${column}"`} follows from others, and cannot be left out alone`,
    "Leave out what it follows from.",
  ],
  "sample-unknown": ({ key, tables, nearest }: { key: string; tables: readonly string[] } & Nearest) => [
    `no record has the key ${shown(key)}`,
    perhaps(nearest, tables.length === 0 ? "No table of the plan has a key." : `Tables with keys: ${list(tables)}.`),
  ],
  "sample-several": ({ key, tables }: { key: string; tables: readonly string[] }) => [
    `records of ${list(tables)} have the key ${shown(key)}`,
    `Say which is meant: ${tables[0]}=${key}.`,
  ],
  "schema-far": ({ named }: { named: string }) => [
    `the schema names a file that is not near: ${shown(named)}`,
    "Files that a schema names are read from its own folder, or from the working directory: call from a folder that holds both.",
  ],
  "schema-broken": ({ reason }: { reason: string }) => [`the schema cannot be read: ${reason}`],
  "schema-format": ({ format }: { format: string }) => [
    `there are no schemas for ${format}`,
    "JSON and JSON Lines have JSON Schema (draft 2020-12), XML has XML Schema (XSD).",
  ],
  "absent-refused": () => [
    "these tables hold only some of the rows, so that a record without a row says nothing",
    `Leave ${option("absent", "remove")} away.`,
  ],
  "refused-alone": () => [
    "refused rows are given as tables of one file or archive, of which good rows alone were folded",
    `Say ${option("partial", true)}, and no sink; several files are folded on disk.`,
  ],
  "refused-laid": ({ table, file }: { table: string; file: string }) => [
    `rows of "${table}" cannot be given back: a mark in ${file} could be that of two tables`,
    "Mend the rows where they are, or give one of the tables in that sheet another name.",
  ],
  "refused-inside": ({ table, row }: { table: string; row: number }) => [
    `row ${row} of "${table}" cannot be given back: its record is not found again in what was folded`,
    "The row still stands in your sheet: hatch again, and bring it there.",
  ],
  "plan-yaml": ({ reason }: { reason: string }) => [`the plan is not well-formed YAML: ${reason}`],
  "plan-unknown-key": ({ key, nearest, known }: { key: string; known: readonly string[] } & Nearest) => [
    `"${key}" is not a word of a plan here`,
    perhaps(nearest, `Known here: ${known.join(", ")}.`),
  ],
  "plan-missing-key": ({ key, path }: { key: string; path: readonly string[] }) => [
    `"${key}" is missing${path.length > 1 ? ` in ${path.slice(0, -1).join(" → ")}` : ""}`,
  ],
  "plan-value": ({ path, reason }: { path: readonly string[]; reason: string }) => [`${path.join(" → ") || "the plan"}: ${reason}`],
  "plan-no-tables": () => ["the plan has no tables", "Name at least one under tables:."],
  "plan-same-name": ({ table, other }: { table: string; other: string }) => [
    `the tables "${table}" and "${other}" would have the same file name`,
  ],
  "plan-table-name": ({ table }: { table: string }) => [
    `"${table}" cannot be the name of a table`,
    'It needs a letter, no spaces at its ends, and is not "fold mark", "fold action", "fold problem" or "in file": sheets have columns of these names.',
  ],
  "plan-no-such-table": ({ table, nearest, names }: { table: string; names: readonly string[] } & Nearest) => [
    `there is no table "${table}"`,
    perhaps(nearest, `Tables: ${list(names)}.`),
  ],
  "plan-no-such-source": ({ source, nearest, names }: { source: string; names: readonly string[] } & Nearest) => [
    `there is no source "${source}"`,
    perhaps(nearest, `Sources: ${list(names)}.`),
  ],
  "sources-several": ({ names }: { names: readonly string[] }) => [
    `the plan has ${names.length} sources (${names.join(", ")}), and the call does not say which is which`,
    "Give none, or all that the plan names: its own files are taken, and their formats are said there. In the library, give a Map from these names.",
  ],
  "new-several": ({ names }: { names: readonly string[] }) => [
    `a new document is one file, and the plan has ${names.length} sources: ${names.join(", ")}`,
    "Make a plan for each, with the tables that are in it.",
  ],
  "plan-from-missing": ({ table, names }: { table: string; names: readonly string[] }) => [
    `it is not said which source "${table}" is in`,
    `Say from: under ${table}: ${list(names)}.`,
  ],
  "plan-not-inside": ({ table, parent }: { table: string; parent: string }) => [
    `the rows of "${table}" are not inside the rows of "${parent}"`,
    `The path of the rows of "${table}" should begin with that of "${parent}".`,
  ],
  "plan-layout": ({ column }: { column: string }) => [
    `it is not clear how the list of "${column}" is to be shown`,
    "Say pack: (one cell, with what stands between items; pair: for name and value) or spread: (so many columns).",
  ],
  "plan-refers-keyless": ({ column, table }: { column: string; table: string }) => [
    `"${column}" refers to ${table}, which has no key`,
    `Say key: under ${table}: the column whose values stand in "${column}".`,
  ],
  "plan-label-missing": ({ column, table }: { column: string; table: string }) => [
    `"${column}" has a label, but ${table} does not say which of its columns that is`,
    `Say label: under ${table}: a title.`,
  ],
  "plan-label-alone": ({ column }: { column: string }) => [
    `"${column}" has a label, but refers to no table`,
    "Say refers: and the name of the table.",
  ],
  "plan-title-taken": ({ table, title }: { table: string; title: string }) => [
    `"${title}" cannot be a title in "${table}"`,
    "Titles may not be empty, fold mark, fold action, __proto__ or the name of the table around this one; nor in file, where there are several.",
  ],
  "plan-no-such-column": ({ table, column, nearest, titles }: { table: string; column: string; titles: readonly string[] } & Nearest) => [
    `"${table}" has no column "${column}"`,
    perhaps(nearest, `Columns: ${list(titles)}.`),
  ],
  "plan-sheet-title": ({
    table,
    title,
    name,
    file,
    nearest,
  }: {
    table: string;
    title: string;
    name: string;
    file: string;
  } & Nearest) => [
    `the plan takes "${title}" of "${table}" from a column "${name}", and ${file} has none of that title`,
    perhaps(nearest, `Write a title of ${file}, or "" for a column that is not to be taken from it.`),
  ],
  "plan-choices-twice": ({ column }: { column: string }) => [
    `two choices of "${column}" are shown as the same word`,
    "Each code needs a word of its own.",
  ],
  "plan-path": ({ path }: { path: string }) => [
    `"${path}" is not a path`,
    "Names joined by /; after a colon only key, index or a number from 1.",
  ],
  "plan-column-star": ({ path }: { path: string }) => [
    `"${path}" leads to many values, but a column holds one`,
    "Make a table of its own for them.",
  ],
  "plan-rows-twice": ({ table, other, rows }: { table: string; other: string; rows: string }) => [
    `the tables "${table}" and "${other}" take the same records (${rows})`,
    "Put all columns into one of them.",
  ],
  "plan-column-twice": ({ table, column, at }: { table: string; column: string; at: string }) => [
    `the column "${column}" of "${table}" takes what another column takes already (${at})`,
  ],
  "plan-unmatched": ({ table, column, at, nearest }: { table: string; column: string; at: string } & Nearest) => [
    column === ""
      ? `no record of the source is at ${at}, where "${table}" looks for its rows`
      : `no record of "${table}" has ${at}, where "${column}" looks`,
    perhaps(nearest),
  ],
  "values-passed": ({
    table,
    title,
    rows,
    values,
    repeats,
  }: Titled & { table: string; rows: string; values: number; repeats: boolean }) => [
    `${table}: "${title}" shows the last value where a record has several; ${count(values, "value")} ${values === 1 ? "is" : "are"} in no sheet`,
    repeats ? `A table of their own (rows: ${rows}), or pack: on the column, shows all.` : "",
  ],
  "cells-long": ({ table, title, cells, most }: Titled & { table: string; cells: number; most: number }) => [
    `${table}: ${count(cells, "cell")} of "${title}" ${cells === 1 ? "is" : "are"} longer than the ${number(most)} letters that a spreadsheet keeps`,
    "One that comes back cut there is healed; leave the column out where nobody edits it.",
  ],
  "plan-through": ({ column, table, links }: { column: string; table: string; links: string }) => [
    `"${column}" cannot show the links of ${links} from the side of ${table}`,
    `${table} needs a key: and rows of their own, and the links one column with refers: ${table}, or inside: ${table}.`,
  ],
  "list-table": ({ table, nearest, names }: { table: string; names: readonly string[] } & Nearest) => [
    `there is no table "${table}" whose rows could be a list`,
    perhaps(nearest, `Tables: ${list(names)}.`),
  ],
  "list-top": ({ table, into }: { table: string; into: string }) => [
    `the records of "${table}" are in no other, so the list cannot be that of "${into}"`,
    `Say ${table} alone.`,
  ],
  "list-twice": ({ table }: { table: string }) => [
    `"${table}" is given as a list twice, and has one sheet`,
    "Fold one list after the other, or name the records in the sheet, in the column of what the rows are in.",
  ],
  "list-plain": ({ table }: { table: string }) => [
    `the sheet of "${table}" shows more than a list`,
    "Rows without marks can be put only into a table that has its sheet for itself: no tree, no cross table, nothing beneath.",
  ],
  "plan-mirror": ({ title, table, mirror, target }: Titled & { table: string; mirror: string; target: string }) => [
    `"${title}" and "${mirror}" cannot mirror each other`,
    `Both are lists of codes packed in a cell: "${title}" of ${table} with refers: ${target === "" ? "TABLE" : target}, "${mirror}" there with refers: ${table}; both tables have a key, and plain sheets.`,
  ],
  "plan-cross-side": ({ title }: Titled) => [
    `"${title}" cannot be a side of a cross table: it does not refer to a table`,
    "Say which table's keys it holds: refers: TABLE.",
  ],
  "plan-cross-alone": ({ table }: { table: string }) => [
    `"${table}" cannot be shown as a cross table`,
    "Its two sides and its cell are three different columns, and no other list, tree or table shares its sheet.",
  ],
  "plan-tree-label": ({ table }: { table: string }) => [
    `"${table}" is a tree, and nothing says what a path calls its records`,
    "Say which column it is: label: TITLE, or key: TITLE.",
  ],
  "plan-label-list": ({ column, word }: { column: string; word: string }) => [
    `"${column}" is a list in a cell, and ${word}: is of a label that stands beside one code`,
    `Leave ${word}: out, or show the list in rows: as a table of its own, beneath, or repeated.`,
  ],
  "plan-order-alone": ({ table }: { table: string }) => [
    `the order of "${table}" is not that of rows in a sheet`,
    "Leave order: out for a tree, a cross table, and columns that are filled down.",
  ],
  "plan-tree-alone": ({ table, other }: { table: string; other: string }) => [
    `"${table}" is a tree, and cannot share its sheet with "${other}"`,
    "Give each a sheet of its own.",
  ],
  "plan-tree-key": ({ table }: { table: string }) => [
    `the records of "${table}" name the one above by its key, and the table has none`,
    "Say which column it is: key: TITLE.",
  ],
  "plan-fill-alone": ({ table, title }: { table: string; title: string }) => [
    `"${title}" cannot be filled down in "${table}"`,
    "Columns are filled down in tables with a sheet for themselves: no tree, no cross table, nothing beneath or repeated; not in keys, and not where rows are matched.",
  ],
  "plan-pack-deep": ({ column, levels, path }: { column: string; levels: number; path: string }) => [
    `"${column}" has separators for lists ${levels} deep, and its path ${path} names fewer`,
    "Each list in a list is one name of the path: crew/skills, or crew/skills/name.",
  ],
  "plan-same-column": ({ title, sameFor, nearest, titles }: Titled & { sameFor: string; titles: readonly string[] } & Nearest) => [
    `"${title}" is to be the same for each "${sameFor}", and there is no such column beside it`,
    perhaps(nearest, `Columns: ${list(titles)}.`),
  ],
  "plan-same-alone": ({ table, title }: Titled & { table: string }) => [
    `"${title}" of "${table}" cannot be kept the same over rows`,
    "Cells are kept the same in tables with a sheet for themselves (no tree, no cross table, nothing beneath or repeated), where they are not filled down.",
  ],
  "plan-tree-match": ({ table }: { table: string }) => [
    `"${table}" keeps its tree in a column, and its rows cannot be matched without marks`,
    "Leave match out: rows of this tree are known by their marks.",
  ],
  "plan-tree-refers": ({ table, title }: { table: string; title: string }) => [
    `"${title}" names the record above in the tree of "${table}", and refers to another table`,
    "Leave refers out: it follows from the tree.",
  ],
  "plan-stacked-alone": ({ table, word }: { table: string; word: string }) => [
    `"${table}" is to be shown ${word === "beneath" ? "beneath the records around" : "with the cells of the records around repeated"}, but no table is around it`,
    "Say which: inside: TABLE.",
  ],
  "plan-stacked-both": ({ table }: { table: string }) => [
    `"${table}" is to stand beneath the records around it and to repeat their cells`,
    "Say one of the two.",
  ],
  "plan-repeat-one": ({ table, parent }: { table: string; parent: string }) => [
    `"${table}" cannot repeat the cells of "${parent}"`,
    "Cells of one table are repeated for one list in it, which has no list of its own; lists in cells and rows beneath are not repeated.",
  ],
  expression: ({ text, reason }: { text: string; reason: string }) => [`the expression ${shown(text)} cannot be read: ${reason}`],
  "expression-long": ({ length, most }: { length: number; most: number }) => [
    `an expression is ${number(length)} characters long; at most ${number(most)} are taken`,
  ],
  "expression-steps": ({ text, most }: { text: string; most: number }) => [
    `the expression ${shown(text)} goes through lists inside lists, and might never end`,
    `At most ${number(most)} steps, and one list whose length is not written out.`,
  ],
  "expression-title": ({
    text,
    table,
    title,
    isList,
    nearest,
    titles,
  }: { text: string; table: string; title: string; isList: boolean; titles: readonly string[] } & Nearest) => [
    `the expression ${shown(text)} names "${title}", which ${isList ? `shows a list or a label in "${table}", and no value of its own` : `"${table}" does not have`}`,
    perhaps(nearest, `It may name ${list(titles)}; one that is no plain word is row["its title"].`),
  ],
  "plan-limit": ({ title, word, type, limit }: Titled & { word: string; type: string; limit: string }) => [
    `${word} of "${title}" is ${shown(limit)}, and the column's type is ${type}`,
    "A limit is a number for a number, an integer or a decimal, and a day like 2026-03-05 for a date.",
  ],
  "plan-pattern": ({ text, reason }: { text: string; reason: string }) => [
    `the pattern ${shown(text)} cannot be read: ${reason}`,
    "Patterns are regular expressions in the syntax of RE2: without (?=…) and \\1.",
  ],
  "plan-only-alone": ({ column }: { column: string }) => [`"${column}" says only:, and refers: to no table`],
  "expression-matches": ({ text }: { text: string }) => [
    `the expression ${shown(text)} uses matches(), which is not offered`,
    "Use startsWith, endsWith, contains or in; or pattern: on the column.",
  ],
  "where-table": ({ text, names, nearest }: { text: string; names: readonly string[] } & Nearest) => [
    `the condition ${shown(text)} does not say for which table`,
    perhaps(nearest, `Write it as "table: expression", with one of ${list(names)}.`),
  ],
  "where-title": ({
    table,
    expression,
    title,
    nearest,
    titles,
  }: { table: string; expression: string; title: string; titles: readonly string[] } & Nearest) => [
    `${shown(expression)}: "${table}" has no column "${title}"`,
    perhaps(nearest, `Columns: ${list(titles)}; one whose title is no plain word is row["its title"].`),
  ],
  "tables-unknown": ({ table, nearest, names }: { table: string; names: readonly string[] } & Nearest) => [
    `the plan has no table "${table}"`,
    perhaps(nearest, `Tables: ${list(names)}.`),
  ],
  where: ({ table, expression, row, reason }: { table: string; expression: string; row: number; reason: string }) => [
    `${shown(expression)} fails on record ${number(row)} of ${table}: ${reason}`,
    "A field may be missing there: test it first, as in `height != null && height > 30.0`.",
  ],
  columns: ({ column, nearest }: { column: string } & Nearest) => [`there is no column "${column}"`, perhaps(nearest)],
  call: ({ reason, hint }: { reason: string; hint: string }) => [reason, hint],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;
