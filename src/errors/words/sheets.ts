/** What can be wrong with tables as a whole: receipts, fingerprints, sheets; and with going back. */
import { count, list, type Nearest, number, perhaps, shown, option } from "./phrases.js";

/** Where a fold would not have said what the sheets say: table, row and column as far as they are known. */
export interface Unproved {
  readonly table: string;
  readonly row: number | null;
  readonly column: string | null;
  readonly wanted: string | null;
  readonly written: string | null;
}

function whereIn(table: string, row: number | null, column: string | null): string {
  const places = [`table "${table}"`, ...(row === null ? [] : [`row ${row}`]), ...(column === null ? [] : [`column "${column}"`])];
  return places.join(", ");
}

function wantedAndWritten(wanted: string | null, written: string | null): string {
  if (wanted === null && written === null) return ": records would stand in others than they do in the sheets";
  if (wanted === null) return `: ${shown(written!)} would have been written, which no sheet says`;
  if (written === null) return `: ${shown(wanted)} would not have been written`;
  if (wanted === written) return `: what no column shows of ${shown(wanted)} would not have stayed with it`;
  return `: wanted ${shown(wanted)}, and ${shown(written)} would have been written`;
}

const UNPROVED = `Nothing was written. This is a fault of the program, or of a plan that takes one place twice, not of your sheets: please report it. ${option("unproved", true)} folds without the proof.`;

const LOST = {
  values: "all values that are in no record",
  lines: "its lines that hold no record",
  breaks: "a line for each of its values",
};

export const SHEETS = {
  // receipts and fingerprints
  "receipt-missing": ({ tables }: { tables: string }) => [
    `${tables} has no receipt.json, so it is not known what was hatched`,
    "Bring the receipt back from where the tables were hatched, or hatch again.",
  ],
  "rows-unhatched": () => [
    "no hatch was made into these rows, so it is not known what was hatched",
    "Call hatch with them as `into` first.",
  ],
  "tables-strange": ({ given }: { given: string }) => [
    `${given} holds no tables`,
    "Give what a hatch gave as `tables`, or MemoryTables, RowTables, or an object with the functions of TablesSource and TablesSink.",
  ],
  "row-table": ({ table, nearest, tables }: { table: string; tables: readonly string[] } & Nearest) => [
    `no table ${shown(table)} was hatched into these rows`,
    perhaps(nearest, `They are ${list(tables)}.`),
  ],
  "rows-strange": ({ table }: { table: string }) => [
    `the rows of ${shown(table)} are no rows`,
    'Give them as a list of objects with cells by title, or as { rows }: [{ "fold mark": "b1ji", "name": "Skarv" }].',
  ],
  "rows-numbers": ({ table }: { table: string }) => [
    `the numbers of the rows of ${shown(table)} do not tell them apart`,
    "Give one for each row, each once: whole numbers from 2, as the titles are row 1.",
  ],
  "rows-touched": ({ given }: { given: string }) => [
    `only the rows that were touched are given, and ${option(given)} asks for what is not among them`,
    "Give all rows.",
  ],
  "row-title": ({ table, row, title, titles }: { table: string; row: number; title: string; titles: readonly string[] }) => [
    `row ${row} of ${table} has a cell under ${shown(title)}, which is none of the sheet's titles`,
    `They are ${list(titles)}.`,
  ],
  "row-cell": ({ table, row, title, type }: { table: string; row: number; title: string; type: string }) => [
    `row ${row} of ${table}: the cell under ${shown(title)} is not text but ${type}`,
    "A cell is text, as a sheet spells it; one that says nothing is left out.",
  ],
  "program-unknown": ({ name, nearest, known }: { name: string; known: readonly string[] } & Nearest) => [
    `tables cannot be written for ${shown(name)}`,
    perhaps(nearest, `Say one of ${list(known)}.`),
  ],
  "receipt-broken": ({ file, what }: { file: string; what?: string }) => [
    `${file} is not a receipt${what === undefined ? "" : ` (${what})`}`,
    "Bring the receipt back from where the tables were hatched, or hatch again.",
  ],
  "receipt-edited": ({ file }: { file: string }) => [
    `${file} was edited after the hatch`,
    "A receipt is read by the fold and must stay as it was written. Bring the old one back, or hatch again.",
  ],
  "plan-other": () => [
    "the plan is not the one these tables were hatched with",
    "Leave -p out to use the plan in the receipt, or hatch again with the new plan.",
  ],
  "source-changed": ({ file, was }: { file: string; was: string }) => [
    was.split("/").at(-1) === file.split("/").at(-1)
      ? `${file} is not the file that was hatched: its contents have changed since`
      : `${file} is not the file that was hatched: that was ${was}, with other contents`,
    `Bring that version back, name it with ${option("source")}, or hatch again and carry the edits over.`,
  ],
  "source-cut-off": ({ file }: { file: string }) => [
    `a fold or undo of ${file} was cut off in the middle`,
    "Fold or undo it again: what was begun is finished or taken back first.",
  ],
  "source-folded": ({ file, when }: { file: string; when: string }) => [
    `these tables were folded into ${file} already (${when})`,
    "Hatch again to go on editing, or undo that fold first.",
  ],
  "source-not-found": ({ file }: { file: string }) => [
    `the source ${file} is not there any more`,
    `Say where it is with ${option("source")}.`,
  ],

  "source-is-set": ({ was }: { was: string }) => [
    `these tables were hatched from one file, ${was}`,
    `Give that file alone with ${option("source")}, or hatch the files anew.`,
  ],
  "source-is-file": ({ was }: { was: string }) => [
    `these tables were hatched from a set of files, ${was}`,
    `Give the folder or the archive with ${option("source")}, or hatch the one file anew.`,
  ],

  "renew-failed": ({ reason }: { reason: string }) => [
    `the source was folded, but its tables were not renewed, and are as they were: ${reason}`,
    "Hatch again to go on, or undo the fold.",
  ],
  "renew-row": ({ table, row }: { table: string; row: number }) => [
    `the source was folded, but the tables were not renewed: row ${row} of ${table} is not in the source as it stands there`,
    `Rows that were skipped or set aside cannot go on. Save them elsewhere, and hatch again with ${option("replace", true)}.`,
  ],
  "renew-formula": ({ place }: { place: string }) => [
    `the formula in ${place} stands for those of other cells, and cannot be written over`,
    "Put values in the place of the formulas, or hatch a new workbook.",
  ],
  "fold-finished": () => ["a fold or undo had been cut off in the middle: it was finished before anything else"],
  "fold-dropped": () => ["a fold or undo had been cut off: its files are as they were before, and what it had prepared was removed"],
  "fold-cut-off": () => ["a fold or undo of this source was cut off: the next fold or undo finishes it, or takes it back"],
  "sheet-older": ({ sheet }: { sheet: string }) => [
    `${sheet} differs from what was hatched, and was saved before its receipt was written: is it a sheet of an older hatch?`,
  ],
  unproved: ({ table, row, column, wanted, written }: Unproved) => [
    `the fold was stopped, as it would not have said what the sheets say: ${whereIn(table, row, column)}${wantedAndWritten(wanted, written)}`,
    UNPROVED,
  ],
  "unproved-order": ({ table, row }: { table: string; row: number }) => [
    `the fold was stopped, as row ${row} of table "${table}" would not have come where it belongs in its list`,
    UNPROVED,
  ],
  "unproved-around": ({ file, what }: { file: string; what: keyof typeof LOST }) => [
    `the fold was stopped, as "${file}" would not have kept ${LOST[what]}`,
    UNPROVED,
  ],
  "unproved-overlap": ({ byte }: { byte: number }) => [`the fold was stopped, as two edits want byte ${byte} of the source`, UNPROVED],
  "unproved-unread": ({ file, why }: { file: string; why: string }) => [
    `the fold was stopped, as "${file}" could not have been read any more: ${why}`,
    UNPROVED,
  ],
  "source-meanwhile": ({ file }: { file: string }) => [
    `${file} was written by somebody else while it was being folded`,
    "Their version was kept, and nothing was changed. Hatch it again, and carry the edits over.",
  ],
  "out-folder": ({ folder }: { folder: string }) => [
    `${folder} is there already and holds something`,
    "The files of a set go into a folder of their own: name one that is new or empty.",
  ],
  "tables-as-source": () => [
    "holds tables that were hatched, not a source",
    "Give the source itself; check, compare and fold take the tables.",
  ],
  "zip-in-set": () => ["a zip archive cannot be one of several sources", "Give the archive alone, or unpack it."],

  // workbooks
  "workbook-broken": () => ["cannot be read as a workbook", "Save it again as .xlsx."],
  "receipt-missing-in-workbook": ({ file }: { file: string }) => [
    `${file} has no receipt in it`,
    "Use the workbook that hatch wrote, saved as .xlsx.",
  ],
  "sheet-of-another-hatch": ({ sheet }: { sheet: string }) => [
    `"${sheet}" is a sheet of another hatch, older or newer than its receipt`,
    "Bring sheet and receipt from one hatch.",
  ],
  "sheet-long": ({ sheet, most }: { sheet: string; most: number }) => [
    `"${sheet}" has more rows than a workbook holds (${number(most)})`,
    "Hatch into a folder.",
  ],
  "sheet-wide": ({ sheet, most }: { sheet: string; most: number }) => [
    `"${sheet}" has more columns than a workbook holds (${number(most)})`,
    "Hatch into a folder.",
  ],

  // sheets as a whole
  "sheet-empty": () => ["the file is empty", "Expected the header line. Bring the file back, or delete it to leave the table out."],
  "header-missing": ({ first }: { first: readonly string[] }) => [
    "the first line is a row, not the titles",
    `Put the header line back: ${first.join(", ")}, …`,
  ],
  delimiter: ({ line }: { line: string }) => [
    `one cell holds what should be in several: ${shown(line)}`,
    "The sheet was opened with another separator than it has. Open it with the comma alone, and save it so (semicolons, tabs and bars are recognised, too).",
  ],
  "mark-column-missing": ({ found }: { found: readonly string[] }) => [
    "the column fold mark is missing, so it is not known which record a row stands for",
    `Found ${list(found)}. Copy the column back from a fresh hatch; no row may be without it but new ones.`,
  ],
  "title-twice": ({ title, first, second }: { title: string; first: number; second: number }) => [
    `"${title}" is the title of column ${first} and of column ${second}`,
    "Rename or delete one of them.",
  ],
  "sheet-encoding": ({ byte }: { byte: number }) => [
    `byte ${number(byte)} is not well-formed UTF-8, and no word of the source tells what encoding it is`,
    "Save the table as CSV UTF-8.",
  ],
  "quote-open": () => ["a quote is opened in this row and never closed", 'Close it, and write a quote inside a cell twice: "".'],
  "quote-after": () => ["text follows a closing quote", 'Write a quote inside a cell twice: "".'],

  // folding and going back
  "undo-nothing": ({ file }: { file: string }) => [`no fold of ${file} is left to undo`],
  "undo-changed": ({ file }: { file: string }) => [
    `${file} was changed after the fold`,
    "Undo would lose that change. The backup is kept beside it.",
  ],
  "undo-together": ({ file, count: n, folder }: { file: string; count: number; folder: string }) => [
    `${file} was folded together with ${count(n - 1, "other file")}`,
    `Nothing was changed. They go back together: hatchfold undo ${folder}`,
  ],
  "undo-backup": ({ backup }: { backup: string }) => [`the backup ${backup} is missing or damaged`, "Nothing was changed."],
  "problems-left": ({ count: n }: { count: number }) => [
    `${count(n, "problem")} in the tables: nothing was written`,
    `Mend them, or say ${option("partial", true)} to fold the good rows and set the others aside.`,
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;
