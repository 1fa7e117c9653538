/** What can be wrong with a source: JSON, XML, fixed-width and header-line files. */
import { count, inside, list, type Nearest, number, type Open, perhaps, seen, type Seen, shown, within, option } from "./phrases.js";

const maybeComment = (text: string, otherwise: string): string =>
  /^\/[/*]/.test(text) ? "If this is a comment, say comments: true under the source." : otherwise;

export interface UnheldLines {
  readonly file: string;
  readonly count: number;
  readonly lines: readonly number[];
  readonly text: string;
}

const unheldIn = ({ file, count: n, lines, text }: UnheldLines): string =>
  `${count(n, "line")} of ${file} (${n === 1 ? "line" : "lines"} ${lines.join(", ")}${lines.length < n ? ", …" : ""}: ${shown(text)})`;

export const SOURCES = {
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
    /^[{["]/.test(text)
      ? "A JSON file holds one value. Where each line, or each piece, is a value of its own it is of another format: say format: json-lines."
      : "A JSON file holds one value; expected the end of the file.",
  ],
  "json-name": ({ seen: text }: Seen) => [
    `found ${seen(text)} where a member name should be`,
    maybeComment(text, 'Expected a name in double quotes: "name".'),
  ],
  "json-colon": ({ seen: text }: Seen) => [`found ${seen(text)} after a member name`, "Expected a colon."],
  "json-value": ({ seen: text }: Seen) => [
    `found ${seen(text)} where a value should be`,
    maybeComment(text, "Expected a text in double quotes, a number, true, false, null, { or [."),
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
  "json-record-goes-on": ({ seen: text }: Seen) => [`found ${seen(text)} after a member`, maybeComment(text, "Expected a comma or }.")],
  "json-list-goes-on": ({ seen: text }: Seen) => [`found ${seen(text)} after an item`, maybeComment(text, "Expected a comma or ].")],
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
    `${byte < 0x20 ? `a control character (byte ${byte})` : "U+FFFE or U+FFFF"} stands here${inside(open)}`,
    "XML 1.0 does not allow it, not even as a reference.",
  ],
  "xml-character": ({ char }: { char: string }) => [
    `U+${(char.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, "0")} is a character that XML 1.0 cannot hold`,
    "Take it out of the cell.",
  ],
  "xml-name-wrong": ({ seen: text, open }: Seen & Open) => [
    `${seen(text)} does not begin with a name as XML has them${inside(open)}`,
    "Letters, digits, - . and _, a letter or _ first, and at most one colon behind a prefix.",
  ],
  "xml-prefix": ({ prefix, open }: Seen & Open & { prefix?: string }) => [
    `the prefix "${prefix ?? ""}" is not declared${inside(open)}`,
    `Declare it, here or further up: xmlns:${prefix ?? ""}="…".`,
  ],
  "xml-namespaces": ({ most, open }: Seen & Open & { most?: number }) => [
    `more than ${number(most ?? 0)} namespaces are declared${inside(open)}`,
    "So many are not taken: no file for people has them.",
  ],
  "xml-declaration": ({ open }: Seen & Open) => [
    `an XML declaration stands in the middle of the file${inside(open)}`,
    "It may stand at the very beginning only; were two files put together?",
  ],
  "xml-doctype-twice": () => ["a second document type declaration", "A document has one at most."],
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
  "format-unknown": ({ name, formats, isEbcdic }: { name: string; formats: readonly string[]; isEbcdic: boolean }) => [
    `cannot tell what format ${name} has`,
    isEbcdic
      ? "Its bytes look like EBCDIC, as on a mainframe: say in a plan what its records are (format: fixed, encoding: ibm037, layout)."
      : `Formats that can be read: ${formats.join(", ")}.`,
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
  "zip-many": ({ most }: { most: number }) => [`holds more than ${number(most)} files`, "Unpack it yourself, and give the folder."],
  "zip-twice": ({ entry }: { entry: string }) => [
    `holds two files named ${entry}`,
    "It is not clear which of them is meant. Unpack it yourself, and give the folder.",
  ],
  "zip-encrypted": ({ entry }: { entry: string }) => [`${entry} is encrypted in the archive`, "Unpack it yourself, and give the folder."],
  "zip-name": () => [
    "holds a file whose name leads out of the archive",
    "Such an archive was made to do harm, or by mistake. Nothing in it was read.",
  ],
  "source-twice": ({ sources }: { sources: readonly string[] }) => [
    `this file is in two sources of the plan, ${sources.join(" and ")}`,
    "One source may have tables of all that is in a file.",
  ],
  "source-not-given": ({ source }: { source: string }) => [`no file is given for the source "${source}" of the plan`],
  "set-empty": () => ["no file in it is of a format that can be read", `Say ${option("format")} if you know it, or name the files.`],
  "set-mixed": ({ file, title, format }: { file: string; title: string; format: string }) => [
    `${file} is ${title}, and the others are ${format}`,
    `Files of one source must be of one kind: leave it out, say ${option("format")} for all of them, or write a plan with a source for each.`,
  ],
  "setting-of-other": ({ file, title, word, known }: { file: string; title: string; word: string; known: readonly string[] }) => [
    `${file} is read as ${title}, which has no "${word}"`,
    `Say its format, name the file that is meant, or leave the word out. There is ${list(known)}.`,
  ],
  "setting-unfit": ({ title, word, reason }: { title: string; word: string; reason: string }) => [
    `this "${word}" is none of ${title}: ${reason}`,
  ],
  "file-left-out": ({ file, title, format }: { file: string; title: string; format: string }) => [
    `${file} was left out: it looks like ${title}, and the others are ${format}`,
  ],
  "encoding-unknown": ({ encoding }: { encoding: string }) => [
    `"${encoding}" is not an encoding that can be read`,
    "Known are utf-8, utf-16, us-ascii, iso-8859-1 to -11 and -13 to -15, windows-1250 to -1258, windows-874, koi8-r, koi8-u, ibm866, macintosh, x-mac-cyrillic, shift_jis, euc-jp, euc-kr, gbk, gb18030, big5, ibm437, ibm850 and others of DOS, and ibm037 and others of mainframes.",
  ],
  "file-unreadable": ({ reason }: { reason: string }) => [`cannot be read: ${reason}`],
  "file-failed": ({ reason }: { reason: string }) => [`the system refused: ${reason}`, "Mend that, and give the same command again."],
  "file-unwritable": ({ reason }: { reason: string }) => [`cannot be written: ${reason}`, "Nothing was changed."],
  "links-left-out": ({ links }: { links: readonly string[] }) => [
    `${count(links.length, "link")} in the folder ${links.length === 1 ? "was" : "were"} not followed (${links.slice(0, 5).join(", ")}${links.length > 5 ? ", …" : ""})`,
  ],
  "file-is-device": () => ["is a device or a pipe, not a file", "Save it to a file first, or pipe it in and give - as the source."],
  "source-pipe": () => ["is a pipe: there is no file that could be changed", "Say -o FILE."],
  "source-link": ({ to }: { to: string }) => [
    `leads out of the folder of the source, to ${to}`,
    "Nothing was changed. Name that file itself, or say -o FOLDER.",
  ],
  "same-file": ({ what, other }: { what: string; other: string }) => [
    `${what} and ${other} would be one and the same file`,
    "Nothing was written. Give it a name of its own.",
  ],
  "out-link": () => ["is a link: what it leads to is not a table of this folder", "Remove it, or name another folder."],
  "source-far": ({ source }: { source: string }) => [
    `the source is said to be ${source}, which is neither in the working directory nor beside the tables`,
    `Nothing was touched. If it is the right one, name it in the call: ${option("source")} and the path.`,
  ],
  "undo-far": ({ source }: { source: string }) => [
    `the source is said to be ${source}, which is neither in the working directory nor beside the tables`,
    "Nothing was touched. If it is the right one, name it instead of the tables.",
  ],
  "plan-source-far": ({ source }: { source: string }) => [
    `the plan names ${source}, which is neither in the working directory nor in the plan's folder`,
    "Nothing was read. If it is the right one, name it in the call, before -p.",
  ],
  "kept-strange": ({ what }: { what: string }) => [
    `was not made by this program for this source (${what})`,
    "Nothing was touched. If you do not know where it comes from, remove it.",
  ],
  "fold-busy": ({ pid, since, lock }: { pid: number; since: string; lock: string }) => [
    `another fold or undo is putting files in their places here${pid > 0 ? ` (process ${pid}${since === "" ? "" : `, since ${since.slice(0, 16).replace("T", " ")}`})` : ""}`,
    `Nothing was changed. Try again when it has ended; if it is long gone, remove ${lock}.`,
  ],
  "fold-half": ({ files, of }: { files: readonly string[]; of: number }) => [
    `a fold or undo of ${count(of, "file")} failed in the middle, and ${list(files)} could not be put back`,
    "What is needed to finish is kept. Mend what the system refused, then fold or undo here again: that is settled first.",
  ],
  "stdout-unwritable": ({ reason }: { reason: string }) => [`standard output cannot be written: ${reason}`],
  "demo-folder": ({ folder }: { folder: string }) => [
    `${folder} is there already, and is not a folder that a demo made`,
    "Nothing was touched. Name another folder with -o.",
  ],
  "file-is-folder": () => ["is a folder, not a file", "Name one file."],
  "out-exists": ({ what }: { what: string }) => [
    `${what} exists already`,
    `Name another, or say ${option("replace", true)} to replace it.`,
  ],
  "out-edited": ({ file }: { file: string }) => [
    `${file} was edited since it was hatched`,
    `Fold it first, name another folder, or say ${option("replace", true)} to replace it.`,
  ],
  "out-is-source": () => ["is the source itself", `Say ${option("inPlace", true)} to change the source; that keeps a backup.`],

  // fixed-width and header-line files
  "layout-inside": ({ kind, inside: parent, nearest, names }: { kind: string; inside: string; names: readonly string[] } & Nearest) => [
    `the records "${kind}" cannot be inside "${parent}"`,
    perhaps(nearest, `Record kinds of this layout: ${list(names)}.`),
  ],
  "layout-times": ({ group }: { group: string }) => [
    `"${group}" has fields of its own, and no times`,
    "Say how often it stands in a line: times: 3.",
  ],
  "layout-columns": ({ field, at }: { field: string; at: string }) => [
    `the columns ${at} of "${field}" ${at.endsWith("-") ? "have no last one" : "end before they begin"}`,
    "Columns are counted from 1, both ends included: 3-10.",
  ],
  "layout-beyond": ({ field, at, length }: { field: string; at: string; length: number }) => [
    `the columns ${at} of "${field}" go beyond the ${number(length)} of a record`,
    "Columns are counted from 1, both ends included.",
  ],
  "layout-stored": ({ field }: { field: string }) => [
    `"${field}" is no text, and in the encoding of this file bytes that are none would be lost`,
    "Say the code page of the file: encoding: ibm037, or iso-8859-1 where its text is ASCII.",
  ],
  "stored-wide": ({ name, bytes, digits }: { name: string; bytes: number; digits: number | null }) => [
    `the number does not fit into the ${count(bytes, "byte")} of "${name}"${digits === null ? "" : `: they hold ${count(digits, "digit")}`}`,
    "Nothing was cut off: write a smaller one.",
  ],
  "cells-marked": ({ delimiter }: { delimiter: string }) => [
    `cells between ${shown(delimiter)} cannot stand in quotes, too`,
    "A delimiter of several characters, or an escape sign, and quotes: the plan says one of them.",
  ],
  "date-picture": ({ field, picture }: { field: string; picture: string }) => [
    `the picture ${shown(picture)} of "${field}" does not tell a date`,
    "A picture is made of YYYY or YY, MM or M or a month's name (MMM), DD or D, or the day of the year (DDD), each once, with signs between: DD.MM.YYYY.",
  ],
  "layout-total": ({ field, total }: { field: string; total: string }) => [
    `"${total}" is not a total for "${field}"`,
    "Write count KIND, sum KIND/FIELD or count lines, with names of this layout, and + or - between several; number or line; copy KIND/FIELD; or a check digit, as luhn FIELD.",
  ],
  "lines-unheld": (facts: UnheldLines) => [
    `${unheldIn(facts)} ${facts.count === 1 ? "holds no record of the plan, and stays as it is" : "hold no record of the plan, and stay as they are"}.`,
  ],
  "parts-unheld": (facts: UnheldLines) => [
    `${unheldIn(facts)} ${facts.count === 1 ? "has" : "have"} more than the fields of the plan, and that stays as it is.`,
  ],
  "parameter-sign": ({ name }: { name: string }) => [`the parameter "${name}" cannot hold quotes or line breaks`, "Write it without them."],
  "segment-sign": ({ name, sign }: { name: string; sign: string }) => [
    `"${name}" cannot hold ${shown(sign)}: it is a sign of the file's own, and there is none that makes it text (release)`,
    "Write it otherwise.",
  ],
  "fixed-wide": ({ name, width, length }: { name: string; width: number; length: number }) => [
    `the value is ${count(length, "character")} long; "${name}" holds ${width}`,
    "Shorten it. Nothing is cut off, and no other field is shifted.",
  ],
  "line-wide": ({ cells, most }: { cells: number; most: number }) => [
    `a line has ${number(cells)} cells; at most ${number(most)} are taken, as a spreadsheet has columns`,
    `Is it delimited text at all? Say ${option("format")}, or write the delimiter in the plan.`,
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
  "fixed-number": ({ name, decimals, signed }: { name: string; decimals: number | null; signed: boolean }) => [
    `"${name}" holds a number${decimals === null ? "" : ` with ${decimals === 0 ? "no decimals" : count(decimals, "decimal")}`}${signed ? "" : ", without a sign"}`,
    `As ${signed ? "-" : ""}12${decimals === 0 ? "" : `.${"0".repeat(decimals ?? 2)}`}.`,
  ],
  "number-form": ({ name }: { name: string }) => [`"${name}" holds a number`, "As -12.50; in the file it is written as the plan says."],
  "fixed-date": ({ name, picture, ofMonth }: { name: string; picture: string; ofMonth: boolean }) => [
    `"${name}" holds ${ofMonth ? "a month" : "a date"}`,
    `As ${ofMonth ? "year-month: 2024-03" : "year-month-day: 2024-03-05"}, and one that there is; it is kept as ${picture}.`,
  ],
  "date-year": ({ name, picture, pivot }: { name: string; picture: string; pivot: number }) => [
    `"${name}" keeps two digits of the year (${picture}), and this one would come back as of another century`,
    `Years are from ${1900 + pivot} to ${1999 + pivot} by the pivot ${pivot}; the plan may say another (pivot).`,
  ],
  "fixed-padding": ({ name, pad, right }: { name: string; pad: string; right: boolean }) => [
    `the value ${right ? "begins" : "ends"} with ${pad === " " ? "a space" : `"${pad}"`}, which fills up "${name}", so it would not come back`,
    "Leave it out.",
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;
