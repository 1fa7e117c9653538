/** The one place where facts become sentences: for each code, what happened and what would be right. */

const list = (words: readonly string[]): string => words.map((word) => `"${word}"`).join(", ");
const perhaps = (word: string | null, otherwise = ""): string => (word === null ? otherwise : `Perhaps "${word}" is meant.`);
const shown = (text: string): string => (text.length > 40 ? `"${text.slice(0, 40)}…"` : `"${text}"`);
const firstFew = (rows: readonly number[]): string => rows.slice(0, 5).join(", ") + (rows.length > 5 ? ", …" : "");
const number = (n: number): string => n.toLocaleString("en");
const count = (n: number, one: string, many = `${one}s`): string => `${number(n)} ${n === 1 ? one : many}`;
const seen = (text: string): string => (text === "" ? "the end of the line" : `"${text}"`);

interface Seen {
  readonly seen: string;
  readonly byte: number;
}
/** Names of the elements that are open, the outermost first. */
interface Open {
  readonly open: readonly string[];
}
const within = (open: readonly string[]): string => open.map((name) => `<${name}>`).join(" ");
const inside = (open: readonly string[]): string => (open.length === 0 ? "" : `, inside ${within(open)}`);
interface Nearest {
  readonly nearest: string | null;
}
interface Titled {
  readonly title: string;
}

/** What a column type asks for, with an example. */
const TYPES: Record<string, readonly [string, string]> = {
  integer: ["a whole number", "Digits only, with - before them if need be: 12"],
  number: ["a number", "As JSON writes it: 12, -0.5, 1e6; no thousands separators, no leading zeros"],
  decimal: ["a decimal number", "Digits with a point: 12.50"],
  boolean: ["true or false", "Write true or false"],
  date: ["a date", "As year-month-day: 2024-03-05"],
};

export const WORDS = {
  // reading JSON
  "json-empty": () => ["the file is empty", "Expected a JSON value."],
  "json-cut": ({ open }: { open: { list: boolean; byte: number } | null }) => [
    open === null
      ? "the file ends in the middle of a value"
      : `the file ends inside a ${open.list ? "list" : "record"} that begins at byte ${number(open.byte)}`,
    open === null ? "" : `Expected ${open.list ? "]" : "}"} before the end; perhaps the file was cut off.`,
  ],
  "json-trailing": ({ seen: text }: Seen) => [
    `found ${seen(text)} after the end of the value`,
    "A JSON file holds one value; expected the end of the file.",
  ],
  "json-name": ({ seen: text }: Seen) => [`found ${seen(text)} where a member name should be`, 'Expected a name in double quotes: "name".'],
  "json-colon": ({ seen: text }: Seen) => [`found ${seen(text)} after a member name`, "Expected a colon."],
  "json-value": ({ seen: text }: Seen) => [
    `found ${seen(text)} where a value should be`,
    "Expected a text in double quotes, a number, true, false, null, { or [.",
  ],
  "json-comma": () => ["a comma stands before the end of the list", "Expected another item after the comma, or no comma."],
  "json-number": ({ seen: text }: Seen) => [
    `${seen(text)} does not begin with a number as JSON writes it`,
    "Expected digits without leading zeros, then perhaps a fraction and an exponent: -12.5e3.",
  ],
  "json-escape": ({ seen: text }: Seen) => [
    `${seen(text)} is not an escape`,
    'Expected one of \\" \\\\ \\/ \\b \\f \\n \\r \\t or \\u and four hexadecimal digits.',
  ],
  "json-control": ({ byte }: Seen) => [
    byte === 0x0a || byte === 0x0d
      ? "a text is not closed before the end of the line"
      : `a control character (byte ${byte}) stands in a text`,
    "Expected the closing quote, or the escape \\n, \\t or \\u00…",
  ],
  "json-record-goes-on": ({ seen: text }: Seen) => [`found ${seen(text)} after a member`, "Expected a comma or }."],
  "json-list-goes-on": ({ seen: text }: Seen) => [`found ${seen(text)} after an item`, "Expected a comma or ]."],
  // reading XML
  "xml-empty": () => ["the file has no element", "Expected an XML document: <name>…</name>."],
  "xml-cut": ({ open }: Open) => [
    open.length === 0 ? "the file ends inside a tag" : `the file ends inside ${within(open)}`,
    open.length === 0
      ? "Perhaps the file was cut off."
      : `Expected </${open[open.length - 1]}> before the end; perhaps the file was cut off.`,
  ],
  "xml-outside": ({ seen: text }: Seen) => [
    `found ${seen(text)} outside the root element`,
    "Only comments and processing instructions may stand there.",
  ],
  "xml-second-root": ({ seen: text }: Seen) => [
    `found ${seen(text)} after the end of the root element`,
    "An XML document has one root element.",
  ],
  "xml-tag": ({ seen: text, open }: Seen & Open) => [
    `${seen(text)} is not a tag${inside(open)}`,
    "Expected <name …>, </name>, <!-- … -->, <![CDATA[ … ]]> or <? … ?>; write < in a text as &lt;.",
  ],
  "xml-end-tag": ({ seen: text, open }: Seen & Open) => [
    `found ${seen(text)}${inside(open)}`,
    open.length === 0 ? "No element is open here." : `Expected </${open[open.length - 1]}>.`,
  ],
  "xml-attribute": ({ seen: text, open }: Seen & Open) => [
    `${seen(text)} is not an attribute${inside(open)}`,
    'Expected name="value", with white space before it.',
  ],
  "xml-attribute-twice": ({ seen: text, open }: Seen & Open) => [
    `the attribute at ${seen(text)} stands twice in one tag${inside(open)}`,
    "Each attribute may stand once.",
  ],
  "xml-less-in-attribute": ({ open }: Seen & Open) => [
    `a < stands in an attribute's value${inside(open)}`,
    "Write it as &lt;; or is a quote missing?",
  ],
  "xml-ampersand": ({ seen: text, open }: Seen & Open) => [
    `${seen(text)} does not begin with a reference${inside(open)}`,
    "Expected &name; or &#number;; write & in a text as &amp;.",
  ],
  "xml-reference": ({ seen: text, open }: Seen & Open) => [
    `${seen(text)} names a character that XML does not allow${inside(open)}`,
    "See section 2.2 of XML 1.0.",
  ],
  "xml-entity": ({ name, open }: Seen & Open & { name?: string }) => [
    `the entity &${name ?? ""}; is not declared${inside(open)}`,
    "Declare it in the document type declaration, or write the character itself.",
  ],
  "xml-entity-loop": ({ names }: { names: readonly string[] }) => [
    `the entity ${names[0]} refers to itself: ${names.join(" → ")}`,
    "Entities are expanded within bounds only.",
  ],
  "xml-entity-long": ({ name, most }: { name: string; most: number }) => [
    `the entity ${name} stands for more than ${number(most)} characters`,
    "Entities are expanded within bounds only.",
  ],
  "xml-cdata-end": ({ open }: Seen & Open) => [`]]> stands in a text${inside(open)}`, "Write it as ]]&gt;."],
  "xml-comment": ({ open }: Seen & Open) => [
    `two hyphens stand in a comment${inside(open)}`,
    "A comment ends at the first -- and must have > right after it.",
  ],
  "xml-control": ({ byte, open }: Seen & Open) => [
    `a control character (byte ${byte}) stands in a text${inside(open)}`,
    "XML 1.0 does not allow it, not even as a reference.",
  ],
  "xml-character": ({ char }: { char: string }) => [
    `U+${(char.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, "0")} is a character that XML 1.0 cannot hold`,
    "Take it out of the cell.",
  ],
  "xml-name": ({ name }: { name: string }) => [
    `${shown(name)} cannot be the name of an element`,
    "Letters, digits, - . and _, a letter or _ first.",
  ],
  utf8: ({ byte }: Seen) => [
    `byte ${byte} is not well-formed UTF-8`,
    "The file may be in another encoding; save it as UTF-8 (or UTF-16 with a byte-order mark).",
  ],
  utf16: () => [
    "a surrogate stands alone, or the last byte of a pair is missing: not well-formed UTF-16",
    "Save the file anew as UTF-8 or UTF-16.",
  ],
  "format-unknown": ({ name, formats }: { name: string; formats: readonly string[] }) => [
    `cannot tell what format ${name} has`,
    `Formats that can be read: ${formats.join(", ")}.`,
  ],
  "format-wrong": ({ format, formats }: { format: string; formats: readonly string[] } & Nearest) => [
    `there is no format "${format}"`,
    `Formats that can be read: ${formats.join(", ")}.`,
  ],
  "gzip-broken": () => ["cannot be unpacked: the gzip data is broken or cut off", "Bring the file again from where it came."],
  "gzip-large": ({ most, packed }: { most: number; packed: number }) => [
    `unpacks to far more than its ${number(packed)} bytes; at most ${number(most)} bytes are taken, and no more than a thousand times the packed size`,
    "Unpack it yourself, if it is what it should be.",
  ],
  "zip-broken": () => ["cannot be unpacked: the zip archive is broken or cut off", "Bring the file again from where it came."],
  "zip-large": ({ most, packed }: { most: number; packed: number }) => [
    `unpacks to far more than its ${number(packed)} bytes; at most ${number(most)} bytes are taken, and no more than a thousand times the packed size`,
    "Unpack it yourself, if it is what it should be, and give the folder.",
  ],
  "zip-encrypted": ({ entry }: { entry: string }) => [`${entry} is encrypted in the archive`, "Unpack it yourself, and give the folder."],
  "zip-name": () => [
    "holds a file whose name leads out of the archive",
    "Such an archive was made to do harm, or by mistake. Nothing in it was read.",
  ],
  "set-empty": () => ["no file in it is of a format that can be read", "Say --format if you know it, or name the files."],
  "set-mixed": ({ file, title, format }: { file: string; title: string; format: string }) => [
    `${file} is ${title}, and the others are ${format}`,
    "Files that are read together must be of one kind: leave it out, or say --format for all of them.",
  ],
  "file-left-out": ({ file, title, format }: { file: string; title: string; format: string }) => [
    `${file} was left out: it looks like ${title}, and the others are ${format}`,
  ],
  "encoding-unknown": ({ encoding }: { encoding: string }) => [
    `"${encoding}" is not an encoding that can be read`,
    "Known are utf-8, utf-16, us-ascii, iso-8859-1 to -16, windows-1250 to -1258, koi8-r, koi8-u, ibm866 and macintosh.",
  ],
  "file-unreadable": ({ reason }: { reason: string }) => [`cannot be read: ${reason}`],
  "file-unwritable": ({ reason }: { reason: string }) => [`cannot be written: ${reason}`, "Nothing was changed."],
  "file-is-folder": () => ["is a folder, not a file", "Name one file."],
  "out-exists": ({ what }: { what: string }) => [`${what} exists already`, "Name another, or say --force to replace it."],
  "out-edited": ({ file }: { file: string }) => [
    `${file} was edited since it was hatched`,
    "Fold it first, name another folder, or say --force to replace it.",
  ],
  "out-is-source": () => ["is the source itself", "Say --in-place to change the source; that keeps a backup."],

  // fixed-width and header-line files
  "layout-inside": ({ kind, inside: parent, nearest, names }: { kind: string; inside: string; names: readonly string[] } & Nearest) => [
    `the records "${kind}" cannot be inside "${parent}"`,
    perhaps(nearest, `Record kinds of this layout: ${list(names)}.`),
  ],
  "layout-columns": ({ field, at }: { field: string; at: string }) => [
    `the columns ${at} of "${field}" end before they begin`,
    "Columns are counted from 1, both ends included: 3-10.",
  ],
  "layout-total": ({ field, total }: { field: string; total: string }) => [
    `"${total}" is not a total for "${field}"`,
    "Write count KIND or sum KIND/FIELD, with names of this layout.",
  ],
  "fixed-wide": ({ name, width, length }: { name: string; width: number; length: number }) => [
    `the value is ${count(length, "character")} long; "${name}" holds ${width}`,
    "Shorten it. Nothing is cut off, and no other field is shifted.",
  ],
  "source-empty": () => ["the file is empty", "Expected at least one line."],
  "cell-quote-open": () => [
    "a quote is opened in this line and never closed",
    "Close it; or say quotes: false in the plan, when quotes are only characters in this file.",
  ],
  "cell-unquoted": ({ name, delimiter }: { name: string; delimiter: string }) => [
    `"${name}" cannot hold ${delimiter === " " ? "blanks" : `"${delimiter}"`} or line breaks: this file has no quotes around its cells`,
    "Take them out, or say quotes: true in the plan.",
  ],
  "cell-comment": ({ name, comment }: { name: string; comment: string }) => [
    `"${name}" cannot begin with ${comment}: the line would be a comment`,
    "Write something before it.",
  ],
  "block-heading": ({ text }: { text: string }) => [
    `${shown(text)} cannot be a heading`,
    "A heading is one line, not empty, without brackets.",
  ],
  "block-line": ({ name }: { name: string }) => [
    `"${name}" cannot hold blank lines, or lines that begin or end with blanks or look like comments`,
    "They would end the block, or not come back. Take them out.",
  ],
  "cell-edges": ({ name }: { name: string }) => [`"${name}" cannot begin or end with a blank: it would not come back`, "Leave it out."],
  "fixed-line": ({ name }: { name: string }) => [`a line break cannot stand in "${name}"`, "A record is one line here."],
  "fixed-number": ({ name, decimals, signed }: { name: string; decimals: number; signed: boolean }) => [
    `"${name}" holds a number with ${decimals === 0 ? "no decimals" : count(decimals, "decimal")}${signed ? "" : ", without a sign"}`,
    `As ${signed ? "-" : ""}12${decimals === 0 ? "" : `.${"0".repeat(decimals)}`}.`,
  ],
  "fixed-date": ({ name, picture }: { name: string; picture: string }) => [
    `"${name}" holds a date`,
    `As year-month-day: 2024-03-05; it is kept as ${picture}.`,
  ],
  "fixed-padding": ({ name, pad, right }: { name: string; pad: string; right: boolean }) => [
    `the value ${right ? "begins" : "ends"} with ${pad === " " ? "a space" : `"${pad}"`}, which fills up "${name}", so it would not come back`,
    "Leave it out.",
  ],

  // plans
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
    'It becomes a file name: no / \\ : * ? " < > |, no spaces at its ends, no dot first.',
  ],
  "plan-no-such-table": ({ table, nearest, names }: { table: string; names: readonly string[] } & Nearest) => [
    `there is no table "${table}"`,
    perhaps(nearest, `Tables: ${list(names)}.`),
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
  expression: ({ text, reason }: { text: string; reason: string }) => [`the expression ${shown(text)} cannot be read: ${reason}`],
  "expression-long": ({ length, most }: { length: number; most: number }) => [
    `an expression is ${number(length)} characters long; at most ${number(most)} are taken`,
  ],
  "expression-matches": ({ text }: { text: string }) => [
    `the expression ${shown(text)} uses matches(), which is not offered`,
    "Use startsWith, endsWith, contains or in.",
  ],
  "where-table": ({ text, names, nearest }: { text: string; names: readonly string[] } & Nearest) => [
    `--where ${shown(text)} does not say for which table`,
    perhaps(nearest, `Write it as "table: expression", with one of ${list(names)}.`),
  ],
  where: ({ table, expression, row, reason }: { table: string; expression: string; row: number; reason: string }) => [
    `${shown(expression)} fails on record ${number(row)} of ${table}: ${reason}`,
    "A field may be missing there: test it first, as in `height != null && height > 30.0`.",
  ],
  columns: ({ column, nearest }: { column: string } & Nearest) => [`there is no column "${column}"`, perhaps(nearest)],
  call: ({ reason, hint }: { reason: string; hint: string }) => [reason, hint],

  // receipts and fingerprints
  "receipt-missing": ({ tables }: { tables: string }) => [
    `${tables} has no receipt.json, so it is not known what was hatched`,
    "Bring the receipt back from where the tables were hatched, or hatch again.",
  ],
  "receipt-broken": ({ file }: { file: string }) => [
    `${file} is not a receipt`,
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
    `${file} is not the file that was hatched: its contents are not those of ${was} at that time`,
    "Bring that version back, name it with --source, or hatch again and carry the edits over.",
  ],
  "source-folded": ({ file, when }: { file: string; when: string }) => [
    `these tables were folded into ${file} already (${when})`,
    "Hatch again to go on editing, or undo that fold first.",
  ],
  "source-not-found": ({ file }: { file: string }) => [`the source ${file} is not there any more`, "Say where it is with --source FILE."],

  "source-is-set": ({ was }: { was: string }) => [
    `these tables were hatched from one file, ${was}`,
    "Give that file alone with --source, or hatch the files anew.",
  ],
  "source-is-file": ({ was }: { was: string }) => [
    `these tables were hatched from a set of files, ${was}`,
    "Give the folder or the archive with --source, or hatch the one file anew.",
  ],

  "renew-row": ({ table, row }: { table: string; row: number }) => [
    `the source was folded, but the tables were not renewed: row ${row} of ${table} is not in the source as it stands there`,
    "Rows that were skipped or set aside cannot go on. Save them elsewhere, and hatch again with --force.",
  ],
  "fold-finished": () => ["a fold over several files had been cut off in the middle: it was finished before anything else"],
  "fold-dropped": () => ["a fold over several files had been cut off before it changed any: what it had prepared was removed"],
  "out-folder": ({ folder }: { folder: string }) => [
    `${folder} is there already and holds something`,
    "The files of a set go into a folder of their own: name one that is new or empty.",
  ],
  "tables-as-source": () => [
    "holds tables that were hatched, not a source",
    "Give the source itself; check, compare and fold take the tables.",
  ],
  "zip-in-set": () => ["a zip archive cannot be one of several sources", "Give the archive alone, or unpack it."],

  // sheets as a whole
  "sheet-empty": () => ["the file is empty", "Expected the header line. Bring the file back, or delete it to leave the table out."],
  "header-missing": ({ first }: { first: readonly string[] }) => [
    "the first line is a row, not the titles",
    `Put the header line back: ${first.join(", ")}, …`,
  ],
  delimiter: ({ line }: { line: string }) => [
    `the titles cannot be told apart in ${shown(line)}`,
    "Cells should be separated by commas (semicolons, tabs and bars are recognised, too).",
  ],
  "mark-column-missing": ({ found }: { found: readonly string[] }) => [
    "the column fold mark is missing, so it is not known which record a row stands for",
    `Found ${list(found)}. Copy the column back from a fresh hatch; no row may be without it but new ones.`,
  ],
  "title-twice": ({ title, first, second }: { title: string; first: number; second: number }) => [
    `"${title}" is the title of column ${first} and of column ${second}`,
    "Rename or delete one of them.",
  ],
  "sheet-encoding": ({ byte }: { byte: number }) => [`byte ${number(byte)} is not well-formed UTF-8`, "Save the table as CSV UTF-8."],
  "column-unknown": ({ title, nearest, titles }: { title: string; titles: readonly string[] } & Nearest) => [
    `the table has no column "${title}"`,
    perhaps(nearest, `Delete the column, or rename it to one of ${list(titles)}.`),
  ],
  "quote-open": () => ["a quote is opened in this row and never closed", 'Close it, and write a quote inside a cell twice: "".'],
  "quote-after": () => ["text follows a closing quote", 'Write a quote inside a cell twice: "".'],
  "row-long": ({ cells, titles }: { cells: number; titles: number }) => [
    `the row has ${cells} cells, the header ${titles}`,
    "A comma inside a cell needs quotes around the cell.",
  ],
  "row-short": ({ cells, titles }: { cells: number; titles: number }) => [
    `the row has ${cells} cells, the header ${titles}`,
    "Fill the row up, or remove the missing columns from the whole table.",
  ],
  "file-unused": ({ file, nearest }: { file: string } & Nearest) => [
    `${file} belongs to no table and is not used.`,
    nearest === null ? "" : `Perhaps ${nearest} is meant.`,
  ],
  "table-left-out": ({ file }: { file: string }) => [`${file} is not there: the table is left as it is.`],
  "columns-left-out": ({ titles }: { titles: readonly string[] }) => [
    `${count(titles.length, "column")} left out (${titles.join(", ")}): ${titles.length === 1 ? "it stays" : "they stay"} as in the source.`,
  ],
  "titles-healed": ({ titles }: { titles: readonly string[] }) => [`titles spelled another way were recognised: ${list(titles)}.`],
  "delimiter-healed": ({ delimiter }: { delimiter: string }) => [
    `cells are separated by ${delimiter === "\t" ? "tabs" : `"${delimiter}"`}; that was recognised.`,
  ],

  // rows
  "mark-damaged": ({ mark }: { mark: string }) => [
    `${shown(mark)} is not a fold mark of this table`,
    "Copy the mark back from a fresh hatch, or clear it if the row is a new one.",
  ],
  "mark-foreign": ({ mark, other }: { mark: string; other: string }) => [
    `${mark} is a fold mark of the table ${other}`,
    "Move the row to that table, or clear the mark if the row is a new one.",
  ],
  "mark-beyond": ({ mark, records }: { mark: string; records: number }) => [
    `${mark} stands for a record that was not there: ${count(records, "record")} ${records === 1 ? "was" : "were"} hatched`,
    "Was this row, or this file, hatched from another source?",
  ],
  "row-not-hatched": () => [
    "this record was not among the rows that were hatched",
    "Was the file replaced by one of another hatch? Bring the right one back, or hatch again.",
  ],
  "mark-copied": ({ mark, rows, original }: { mark: string; rows: readonly number[]; original: number }) => [
    `rows ${rows.join(" and ")} have the same fold mark ${mark}`,
    `Clear the mark of the copy; the record itself is row ${original}. With --copies new, copies are taken as new records.`,
  ],
  "mark-misplaced": ({ mine, found }: { mine: string; found: string }) => [
    `the fold mark is that of "${mine}", but the cells are those of "${found}"`,
    "The marks were sorted without their rows, or the rows without their marks. Sort whole rows; copy the marks back from a fresh hatch.",
  ],
  "column-sorted-alone": ({ title, rows }: { title: string; rows: number }) => [
    `the ${rows} changed cells of "${title}" hold the old values in another order: was the column sorted on its own?`,
  ],
  "action-unknown": ({ action, nearest }: { action: string } & Nearest) => [
    `${shown(action)} is not a fold action`,
    perhaps(nearest, "Leave it blank, or write remove or skip."),
  ],
  "remove-new": () => ["a row without a fold mark cannot be removed: the source does not hold it", "Delete the row."],
  "document-row": () => [
    "this table has one row, the document itself: none can be added or removed",
    "Edit its cells, or clear the row's mark and action.",
  ],
  "file-missing": ({ files }: { files: readonly string[] }) => [
    "a new row must say which file it goes into",
    `Write one of ${list(files.slice(0, 8))} in the column "in file".`,
  ],
  "file-unknown": ({ text, nearest, files }: { text: string; files: readonly string[] } & Nearest) => [
    `there is no file ${shown(text)} among those that were hatched`,
    perhaps(nearest, `Write one of ${list(files.slice(0, 8))}.`),
  ],
  "move-unlike": ({ from, to }: { from: string; to: string }) => [
    `a record of ${from} cannot go into ${to} as it is written: the two files write their records in different ways`,
    "Add it there as a new row, and remove this one.",
  ],
  "match-twice": ({ titles, rows }: { titles: readonly string[]; rows: readonly number[] }) => [
    `rows ${firstFew(rows)} have the same ${titles.join(", ")}`,
    "Rows without a fold mark are matched by these: let each stand once.",
  ],
  "match-many": ({ titles, count: n }: { titles: readonly string[]; count: number }) => [
    `${n} records have the same ${titles.join(", ")} as this row`,
    "Write the fold mark of the one that is meant, or let the plan match by more columns.",
  ],
  "match-marked": ({ titles }: { titles: readonly string[] }) => [
    `another row stands for the record with the same ${titles.join(", ")}`,
    "Delete one of the two rows.",
  ],
  "match-near": ({ titles, near }: { titles: readonly string[]; near: string }) => [
    `its ${titles.join(", ")} is that of the record ${shown(near)} but for spaces, case or spelling`,
    "Write it as that record has it, or change it so that nobody takes the two for one.",
  ],
  "rows-left": ({ kind, rows }: { kind: "change" | "add" | "move" | "remove"; rows: readonly number[] }) => {
    const what = { change: "changed", add: "new", move: "moved", remove: "removed" }[kind];
    const [one] = rows;
    return [
      rows.length === 1
        ? `1 ${what} row was left aside, as asked (row ${one}).`
        : `${number(rows.length)} ${what} rows were left aside, as asked (rows ${firstFew(rows)}).`,
    ];
  },
  "pack-lengths": ({ lengths }: { lengths: readonly string[] }) => [
    `these cells go in step, but hold different numbers of items: ${lengths.join(", ")}`,
    "Let each hold as many items; a place may be blank. Where an item holds what stands between items, write a backslash before it.",
  ],
  "pack-null": () => [
    "a list that holds something cannot become (null) at once",
    "Write [] for a list with nothing in it, or leave the cell blank.",
  ],
  "pair-missing": ({ item, pair }: { item: string; pair: string }) => [
    `${shown(item)} has no ${shown(pair)} between name and value`,
    `Write name${pair}value; where a name or value holds that sign, write a backslash before it.`,
  ],
  "name-twice": ({ name }: { name: string }) => [`the name ${shown(name)} stands twice`, "Names in one record must differ."],
  "rows-disagree": ({ key, title, first, was, now }: { key: string; title: string; first: number; was: string; now: string }) => [
    `row ${first} says ${shown(was)} for "${title}" of ${shown(key)}, and this row ${shown(now)}`,
    "Rows that repeat a record must agree about it: mend one of the two.",
  ],
  "key-near": ({ key, other, row }: { key: string; other: string; row: number }) => [
    `${shown(key)} and ${shown(other)} in row ${row} are the same but for spaces, case or spelling`,
    "Write both alike, or change one so that nobody takes the two for one.",
  ],
  "column-left": ({ file, title }: { file: string; title: string }) => [
    `${file}: the column "${title}" is in no table of the plan, and was left out.`,
  ],
  "sheet-missing": ({ file, nearest }: { file: string } & Nearest) => [
    `there is no sheet ${file}`,
    perhaps(nearest, "Bring it, or name another one in the plan."),
  ],
  "titles-missing": ({ file, titles }: { file: string; titles: readonly string[] }) => [
    `no row of ${file} has the titles of the plan`,
    `Expected some of ${list(titles.slice(0, 8))}; say what the sheet calls them under sheet: titles: in the plan.`,
  ],
  "new-format": () => ["the plan does not say of what format the new document is to be", "Say format: under its source."],
  "new-name-twice": ({ name, first }: { name: string; first: number }) => [
    `row ${first} calls itself ${shown(name)}, too`,
    "Give each new row a name of its own.",
  ],
  "id-no-text": ({ title, expression }: { title: string; expression: string }) => [
    `${shown(expression)} gives neither a text nor a number for "${title}"`,
    "Write the value yourself, or change the plan.",
  ],
  "id-failed": ({ title, expression, reason }: { title: string; expression: string; reason: string }) => [
    `${shown(expression)} gives no value for "${title}": ${reason}`,
    "Write the value yourself, or fill in what it is made from.",
  ],
  "ref-unknown": ({ table, key, code, nearest }: { table: string; key: string; code: string } & Nearest) => [
    `no record of ${table} has the ${key} ${shown(code)}`,
    perhaps(nearest, `Write the ${key} of one of the ${table}.`),
  ],
  "ref-lost": ({ table, key, row, now }: { table: string; key: string; row: number; now: string | null }) => [
    now === null
      ? `it refers to ${shown(key)}, which row ${row} of ${table} removes`
      : `it refers to ${shown(key)}, which row ${row} of ${table} calls ${shown(now)}`,
    now === null ? "Let it refer to another record, or do not remove that one." : `Write ${shown(now)} here, too.`,
  ],
  "ref-not-allowed": ({ table, key, only, reason }: { table: string; key: string; only: string; reason: string | null }) => [
    `${shown(key)} of ${table} may not stand here: ${reason ?? `${only} is not true of it`}`,
    "Choose another record, or change that one.",
  ],
  "refs-loose": ({ title, table, rows }: { title: string; table: string; rows: readonly number[] }) => [
    `${number(rows.length)} ${rows.length === 1 ? "row refers" : "rows refer"} in "${title}" to a record that ${table} does not have (${rows.length === 1 ? "row" : "rows"} ${firstFew(rows)}); it was so before.`,
  ],
  "ref-loop": ({ loop }: { loop: readonly string[] }) => [
    `it would stand below itself: ${loop.join(" → ")}`,
    "Let one of them refer to another record, or to none.",
  ],
  "label-unknown": ({ table, label, nearest }: { table: string; label: string } & Nearest) => [
    `no record of ${table} is called ${shown(label)}`,
    perhaps(nearest, "Write the label of one that is there, or change the code."),
  ],
  "label-many": ({ table, label, keys, title }: { table: string; label: string; keys: readonly string[]; title: string }) => [
    `${keys.length} records of ${table} are called ${shown(label)}: ${list(keys)}`,
    `Write the one that is meant in "${title}".`,
  ],
  "label-other": ({ code, label, right }: { code: string; label: string; right: string }) => [
    `${shown(code)} is called ${shown(right)}, not ${shown(label)}`,
    "Change one of the two: the other follows.",
  ],
  "label-cleared": ({ title, code }: { title: string; code: string }) => [
    `the label is cleared, but "${title}" still says ${shown(code)}`,
    "Clear the code: the label goes with it.",
  ],
  "label-alone": ({ title, label }: { title: string; label: string }) => [
    `"${title}" is cleared, but the label says ${shown(label)}`,
    "Write the code, or clear the label, too.",
  ],
  "parent-missing": ({ parent, key }: { parent: string; key: string }) => [
    `a new row must say where it belongs`,
    `Write the ${key} of one of the ${parent} in the column ${parent}.`,
  ],
  "parent-unknown": ({ parent, key, text, nearest }: { parent: string; key: string; text: string } & Nearest) => [
    `no record of ${parent} has the ${key} ${shown(text)}`,
    perhaps(nearest, `Write the ${key} of one of the ${parent}.`),
  ],
  "parent-many": ({ parent, text, count: n }: { parent: string; text: string; count: number }) => [
    `${n} records of ${parent} are called ${shown(text)}`,
    `It is not clear which of them is meant: write the fold mark of the right one instead.`,
  ],
  "parent-removed": ({ record, table, row }: { record: string; table: string; row: number }) => [
    `it would go into ${table} ${shown(record)}, which row ${row} removes`,
    "Choose another place, or do not remove that record.",
  ],
  "inside-removed": ({ record, table, row }: { record: string; table: string; row: number }) => [
    `it is edited, but it goes away with ${table} ${shown(record)}, which row ${row} removes`,
    "Move it elsewhere first, undo the edit, or do not remove that record.",
  ],
  "add-nowhere": ({ path }: { path: string }) => [
    `a new row cannot be placed: there is more than one list at ${path}, or none`,
    "Give the plan a table for the records around it, and say inside:.",
  ],

  // cells
  required: ({ title }: Titled) => [`"${title}" may not be empty`, "Fill it in."],
  "key-missing": ({ title }: Titled) => [`a new row needs a "${title}"`, "It is what other rows know this record by."],
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
  "read-only": ({ title, was }: Titled & { was: string }) => [`"${title}" may not be edited`, `Put ${shown(was)} back.`],
  "place-edited": ({ was }: { was: string }) => [
    "the place in the list follows from the order in the source and cannot be edited",
    `Put ${shown(was)} back.`,
  ],
  "cell-emptied": () => [
    "this cell is the record itself and cannot be left out",
    "To take the record out, write remove in fold action; for an empty text write (empty).",
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
  verbatim: ({ cell, format, example }: { cell: string; format: string; example: string }) => [
    `${shown(cell)} is not well-formed ${format}: the cell holds a part of the source as it is written`,
    `Keep it well-formed, as in ${example}.`,
  ],
  "total-wrong": ({ field, line, said, actual }: { field: string; line: number; said: string; actual: string }) => [
    `line ${line} of the source says ${said} for "${field}", but the records add up to ${actual}. It is recomputed when they change.`,
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
  "check-failed": ({ title, check, reason }: Titled & { check: string; reason: string | null }) => [
    `"${title}" does not pass its check: ${check}`,
    reason === null ? "" : `The check fails: ${reason}.`,
  ],

  // folding and going back
  "undo-nothing": ({ file }: { file: string }) => [`no fold of ${file} is left to undo`],
  "undo-changed": ({ file }: { file: string }) => [
    `${file} was changed after the fold`,
    "Undo would lose that change. The backup is kept beside it.",
  ],
  "undo-backup": ({ backup }: { backup: string }) => [`the backup ${backup} is missing or damaged`, "Nothing was changed."],
  "problems-left": ({ count: n }: { count: number }) => [
    `${count(n, "problem")} in the tables: nothing was written`,
    "Mend them, or say --partial to fold the good rows and set the others aside.",
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;

export type Code = keyof typeof WORDS;
/** What a code's sentence is made of. */
export type Facts<C extends Code> = Parameters<(typeof WORDS)[C]> extends [infer F, ...unknown[]] ? F : object;
