/** What can be wrong with a row: its mark, its place, what it refers to. */
import { count, atRows, firstFew, list, type Nearest, number, perhaps, shown, type Titled, option } from "./phrases.js";

export interface LostFacts {
  readonly table: string;
  readonly key: string;
  /** Table and number of the row that removes the record, or the one around it; or calls it `now`. */
  readonly by: string;
  readonly row: number;
  readonly now: string | null;
  /** Fold mark of the record that refers, where no row of the sheets stands for it. */
  readonly record?: string;
  /** The list has the same links as one of the record that goes. */
  readonly mirrored: boolean;
}

/** Columns that no two records have the same in, taken together, and what a row says there. */
export interface Combination {
  readonly titles: readonly string[];
  readonly values: readonly string[];
}

export const ROWS = {
  "mirror-differ": ({ code, other, stays, row }: { code: string; other: string; stays: boolean; row: number }) => [
    stays
      ? `${shown(code)} is put in here, and taken out of "${other}" in row ${row}`
      : `${shown(code)} is taken out here, and put in "${other}" in row ${row}`,
    "The two lists tell of the same link: make both say the same.",
  ],
  "cross-mark": ({ mark, code, title, said }: Titled & { mark: string; code: string; said: string }) => [
    `the fold mark ${mark} is that of ${shown(code)}, and "${title}" says ${shown(said)}`,
    "Put back the one that was changed; where neither is sure, clear the mark, and the row goes by its code.",
  ],
  "cross-twice": ({ code, first }: { code: string; first: number }) => [
    `row ${first} is of ${shown(code)} already`,
    "Each record has one row in a cross table: put the cells together.",
  ],
  "tree-differ": ({ says }: { says: readonly { title: string; value: string; above: string }[] }) => [
    `${says.map(({ title, above }) => `"${title}" puts the record ${above === "" ? "at the top" : `below ${shown(above)}`}`).join(", ")}`,
    "Edit one of them, or both alike.",
  ],
  "tree-outside": ({ title }: Titled) => [
    `a path begins with the record that the tree is in, as under "${title}"`,
    "Write it first: that record, then the names from the top down.",
  ],
  "tree-label": ({ title, label, name }: Titled & { label: string; name: string }) => [
    `the path ends in ${shown(name)}, and "${title}" says ${shown(label)}`,
    "The last name of a path is the record's own: make both the same.",
  ],
  "tree-depth": ({ depth, base }: { depth: string; base: number }) => [
    `no row above is one less deep than ${shown(depth)}`,
    `A depth counts from ${base}, and says that the record belongs below the nearest row above that is one less deep.`,
  ],
  "tree-nameless": ({ title }: Titled) => [
    "the new record has no path, and the source knows it by that alone",
    `Write the names from the top down under "${title}", its own last.`,
  ],
  "tree-separator": ({ name, separator }: { name: string; separator: string }) => [
    `${shown(name)} holds ${shown(separator)}, which stands between the names of a path`,
    "Call the record by a name without it.",
  ],
  "tree-left": ({ record, row }: { record: string; row: number }) => [
    `row ${row} removes ${shown(record)}, which this record is below`,
    "Remove this one, too, or move it to where it belongs.",
  ],
  "tree-order": ({ touched }: { touched: boolean }) => [
    touched
      ? "only some rows are given, so that a depth does not say below what"
      : "the rows are not in the order of the tree, so that a depth does not say below what",
    touched ? "Edit the parent or the path instead." : "Sort them as they were hatched, or edit the parent or the path instead.",
  ],
  "tree-paths": ({ path }: { path: string }) => [`two records are at ${shown(path)}`, "Name the one that is meant in the parent's column."],
  "tree-near": ({ path, near }: { path: string; near: string }) => [
    `nothing is at ${shown(path)}, but ${shown(near)} is the same but for spaces, case or spelling`,
    "Write it as it is there; a record of that name beside it would have to be added in a row of its own.",
  ],
  "tree-taken": ({ path, row }: { path: string; row: number | null }) => [
    `another record is at ${shown(path)} already${row === null ? "" : `: row ${row}`}`,
    "Give it a name that none beside it has; or edit that record, and not this one.",
  ],
  "tree-key": ({ path, key }: { path: string; key: string }) => [
    `nothing is at ${shown(path)}, and a record made for it would need its "${key}"`,
    `Add a row for it, or say in the plan how a new "${key}" is made.`,
  ],
  "stack-mixed": ({ title, table, other }: Titled & { table: string; other: string }) => [
    `the row is of "${table}", and its cell under "${title}" belongs to "${other}"`,
    `One row is one record: put that of "${other}" in a row of its own.`,
  ],
  "repeats-differ": ({
    title,
    table,
    record,
    values,
  }: Titled & { table: string; record: string; values: readonly { value: string; rows: readonly number[] }[] }) => [
    `these rows show one record of "${table}", ${record}, and do not agree on "${title}": ${values
      .map(({ value, rows }) => `${shown(value)} in ${rows.length === 1 ? "row" : "rows"} ${firstFew(rows)}`)
      .join(", ")}`,
    "Make the edit in all of its rows, or in none.",
  ],
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
    `rows ${rows.length < 4 ? rows.join(" and ") : firstFew(rows)} have the same fold mark ${mark}${rows.length < 4 ? "" : ` (${number(rows.length)} rows)`}`,
    `Clear the mark of the copy; the record itself is row ${original}. With ${option("copies", "new")}, copies are taken as new records.`,
  ],
  "sheet-shifted": ({ by, rows, of }: { by: number; rows: number; of: number }) => [
    `${of === 1 ? "the changed row says" : `${number(rows)} of the ${number(of)} changed rows say`} what the record ${Math.abs(by)} ${by > 0 ? "below" : "above"} says: this seems to be a sheet of another hatch, older or newer than its receipt`,
    "Bring sheet and receipt from one hatch. If rows were moved or deleted without their marks, copy the marks back from a fresh hatch.",
  ],
  "mark-misplaced": ({ mine, found }: { mine: string; found: string }) => [
    `the fold mark is that of "${mine}", but the cells are those of "${found}"`,
    "The marks were sorted without their rows, or the rows without their marks. Sort whole rows; copy the marks back from a fresh hatch.",
  ],
  "column-sorted-alone": ({ title, rows }: { title: string; rows: number }) => [
    `the ${rows} changed cells of "${title}" hold the old values in another order: was the column sorted on its own?`,
  ],
  "edits-slight": ({ title, rows }: { title: string; rows: readonly number[] }) => [
    `${rows.length === 1 ? "an edit" : `${number(rows.length)} edits`} of "${title}" ${rows.length === 1 ? "changes" : "change"} nothing but spaces, case or the way letters are written${atRows(rows)}.`,
  ],
  "comments-go": ({ title, rows }: { title: string; rows: readonly number[] }) => [
    `${rows.length === 1 ? "an edited text" : `${number(rows.length)} edited texts`} of "${title}" ${rows.length === 1 ? "has" : "have"} comments or instructions between the words, which go with the old text${atRows(rows)}.`,
  ],
  "edits-spaced": ({ title, rows }: { title: string; rows: readonly number[] }) => [
    `${rows.length === 1 ? "a new value" : `${number(rows.length)} new values`} of "${title}" ${rows.length === 1 ? "begins or ends" : "begin or end"} with a space${atRows(rows)}.`,
  ],
  "codes-meant": ({ title, count: n, row, found, code }: Titled & { count: number; row: number; found: string; code: string }) => [
    `${count(n, "code")} of "${title}" ${n === 1 ? "is" : "are"} taken for what ${n === 1 ? "it was" : "they were"} before a spreadsheet wrote ${n === 1 ? "it" : "them"} another way (row ${row}: ${shown(found)} is ${shown(code)}).`,
  ],
  "row-cleared": () => [
    "all cells of the row were cleared, and its mark stays",
    "To take the record out, write remove in fold action; to leave it as it was, delete the row; to clear its values, write (absent) in them.",
  ],
  "record-kind": ({ kind, now, line }: { kind: string; now: string | null; line: string }) => [
    `then the line ${shown(line)} ${now === null ? "is no record any more" : `is a record of "${now}"`}: what stands there tells that it is one of "${kind}"`,
    "Leave it a record of its kind; to make another one of it, remove the row and add one to the other table.",
  ],
  "line-placed": ({ kind, place }: { kind: string; place: string }) => [
    `a record of "${kind}" is the ${place} line of its file, whatever it says: there is one of it, and it stays`,
    "Edit its cells. Without it, another line would be taken for it.",
  ],
  "columns-copied": ({ kind, columns, text }: { kind: string; columns: string; text: string }) => [
    `new lines of "${kind}" have in ${columns}, which no field names, what stands there in others: ${shown(text)}`,
  ],
  "fields-differ": ({ name, other, says }: { name: string; other: string; says: string }) => [
    `"${name}" and "${other}" stand in the same columns, and by "${other}" this is ${shown(says)}`,
    "Edit one of them, or write the same in both.",
  ],
  "trailer-missing": ({ kind, table }: { kind: string; table: string }) => [
    `each record of "${kind}" ends with one of "${table}", and this new one has none`,
    `Add a row to "${table}" that names it.`,
  ],
  "rows-absent": ({ count: n }: { count: number }) => [
    `${count(n, "record has no row and stays as it is", "records have no row and stay as they are")}.`,
    `${option("absent", "remove")} takes ${n === 1 ? "it" : "them"} out.`,
  ],
  "cells-untitled": ({ columns, count: n }: { columns: readonly string[]; count: number }) => [
    `${count(n, "cell stands", "cells stand")} in ${columns.length === 1 ? "column" : "columns"} ${columns.join(", ")}, which ${columns.length === 1 ? "has no title" : "have no titles"}, and ${n === 1 ? "is" : "are"} not used.`,
  ],
  "titles-swapped": ({ title, other, rows }: Titled & { other: string; rows: number }) => [
    `in ${number(rows)} rows "${title}" holds what "${other}" held, and "${other}" what "${title}" held: were their titles swapped?`,
  ],
  "cells-shifted": ({ title, rows, way }: Titled & { rows: readonly number[]; way: "above" | "below" }) => [
    `${number(rows.length)} cells of "${title}" hold what the row ${way === "above" ? "below" : "above"} held${atRows(rows)}: was a cell ${way === "above" ? "deleted" : "put in"} and the others moved ${way === "above" ? "up" : "down"}?`,
  ],
  "keys-odd": ({ title, keys, like }: Titled & { keys: readonly { key: string; row: number }[]; like: string }) => [
    `the ${title} ${keys
      .slice(0, 3)
      .map(({ key, row }) => `${shown(key)} in row ${row}`)
      .join(
        ", ",
      )}${keys.length > 3 ? `, and ${number(keys.length - 3)} more` : ""} ${keys.length === 1 ? "has" : "have"} another form than all others, such as ${shown(like)}.`,
  ],
  "keys-near": ({ title, near }: { title: string; near: readonly { key: string; row: number; other: string }[] }) => [
    `${near
      .slice(0, 3)
      .map(({ key, row, other }) => `the ${title} ${shown(key)} in row ${row} is ${shown(other)}`)
      .join("; ")}${near.length > 3 ? `; and ${number(near.length - 3)} more are those of others` : ""} but for spaces, case or spelling.`,
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
  "unique-taken": ({ titles, values, record, row }: Combination & { record: number; row: number | null }) => [
    `record ${number(record)}${row === null ? "" : ` (row ${row})`} has the same ${titles.join(", ")}: ${list(values)}`,
    "There may be one such record: edit that one, or write something else here.",
  ],
  "unique-twice": ({ titles, values, rows }: Combination & { rows: readonly number[] }) => [
    `rows ${firstFew(rows)} have the same ${titles.join(", ")}: ${list(values)}`,
    "There may be one such record: keep one of these rows.",
  ],
  "blank-kept": ({ title, count: n }: Titled & { count: number }) => [
    `${count(n, "blank cell")} of "${title}" ${n === 1 ? "leaves" : "leave"} what the source has there (blank: keep in the plan).`,
    "To clear a value write (absent).",
  ],
  "repeat-damaged": ({ title, row, was, beside }: Titled & { row: number; was: string; beside: number }) => [
    `row ${row}: "${title}" is taken as ${shown(was)}, as in row ${beside}.`,
    "",
  ],
  "cells-doubtful": ({ title, count: n, row, was, found }: Titled & { count: number; row: number; was: string; found: string }) => [
    `${count(n, "edit")} of "${title}" ${n === 1 ? "is" : "are"} such as spreadsheets make of what was there, and ${n === 1 ? "was" : "were"} taken as meant (row ${row}: ${shown(was)} to ${shown(found)}).`,
    "",
  ],
  "cells-meant": ({ title, count: n }: Titled & { count: number }) => [
    `${count(n, "cell")} of "${title}" ${n === 1 ? "was" : "were"} read as the sheet writes dates and decimals.`,
    "",
  ],
  "rows-left": ({ kind, rows }: { kind: "change" | "add" | "move" | "remove"; rows: readonly number[] }) => {
    const what = { change: "changed", add: "new", move: "moved", remove: "removed" }[kind];
    return [
      rows.length === 1
        ? `1 ${what} row was left aside, as asked${atRows(rows)}.`
        : `${number(rows.length)} ${what} rows were left aside, as asked${atRows(rows)}.`,
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
  "same-differ": ({
    title,
    by,
    code,
    values,
  }: Titled & {
    by: string;
    code: string;
    table: string;
    values: readonly { value: string; rows: readonly number[]; unseen: number }[];
  }) => [
    `"${title}" is the same for each "${by}", and those with ${shown(code)} do not agree: ${values
      .map(({ value, rows, unseen }) => {
        const seen = rows.length === 0 ? [] : [`${rows.length === 1 ? "row" : "rows"} ${firstFew(rows)}`];
        const more = unseen === 0 ? [] : [`${count(unseen, "record")} that ${unseen === 1 ? "has" : "have"} no row here`];
        return `${shown(value)} in ${[...seen, ...more].join(" and ")}`;
      })
      .join(", ")}`,
    "Make the edit in all of its rows, or in none.",
  ],
  "rows-repeated": ({ rows }: { rows: readonly number[] }) => [
    rows.length === 1
      ? `1 row repeats a record, which was taken once${atRows(rows)}.`
      : `${number(rows.length)} rows repeat records, and each record was taken once${atRows(rows)}.`,
  ],
  "key-near": ({ key, other, row }: { key: string; other: string; row: number }) => [
    `${shown(key)} and ${shown(other)} in row ${row} are the same but for spaces, case or spelling`,
    "Write both alike, or change one so that nobody takes the two for one.",
  ],
  "column-left": ({ file, title }: { file: string; title: string }) => [
    `${file}: the column "${title}" is in no table of the plan, and was left out.`,
  ],
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
  "computed-other": ({ title, computed }: { title: string; computed: string }) => [
    `"${title}" follows from other cells, which give ${shown(computed)}`,
    "Leave it blank.",
  ],
  "ref-unknown": ({ table, key, code, nearest }: { table: string; key: string; code: string } & Nearest) => [
    `no record of ${table} has the ${key} ${shown(code)}`,
    perhaps(nearest, `Write the ${key} of one of the ${table}.`),
  ],
  "ref-lost": ({ table, key, by, row, now, record, mirrored }: LostFacts) => {
    const refers = `${record === undefined ? "it" : `the record ${record}`} refers to ${shown(key)}`;
    if (now !== null) {
      const slip = now.trim().toLowerCase() === key.trim().toLowerCase();
      return [
        `${refers}, which row ${row} of ${table} calls ${shown(now)}`,
        slip
          ? `Is that meant? Only spaces or case differ. Write ${shown(key)} there again, or ${shown(now)} here, too.`
          : `Write ${shown(now)} here, too.`,
      ];
    }
    const why =
      row === 0
        ? by === table
          ? `of which ${table} has no row any more`
          : `which goes with a record of ${by} that has no row any more`
        : by === table
          ? `which row ${row} of ${table} removes`
          : `which goes with what row ${row} of ${by} removes`;
    const hint =
      mirrored && by !== table
        ? `Write remove in the row of ${shown(key)} in ${table}, too: then the list follows.`
        : "Let it refer to another record, or do not remove that one.";
    return [`${refers}, ${why}`, hint];
  },
  "ref-not-allowed": ({ table, key, only, reason }: { table: string; key: string; only: string; reason: string | null }) => [
    `${shown(key)} of ${table} may not stand here: ${reason ?? `${only} is not true of it`}`,
    "Choose another record, or change that one.",
  ],
  "list-titles": ({ table, titles }: { table: string; titles: readonly string[] }) => [
    `no row of the sheet has a title of "${table}"`,
    `Begin it with a row of titles: ${titles.at(-1)}${titles.length > 1 ? `, or ${titles.join(", ")}` : ""}.`,
  ],
  "list-marked": ({ mark }: { mark: string }) => [
    `the row has the fold mark ${mark}, but the sheet is to be a list without marks`,
    `Clear the column, or leave out ${option("append")} and ${option("replace")}: rows with marks are edits of their records.`,
  ],
  "item-other": ({ title, row, items }: { title: string; row: number; items: number }) => [
    `row ${row}: ${items === 1 ? "an item" : `${items} items`} of "${title}" ${items === 1 ? "is" : "are"} overwritten by ${items === 1 ? "another" : "others"}; what no column shows of ${items === 1 ? "it" : "them"} goes, too`,
  ],
  "links-not-taken": ({ title, links, rows }: { title: string; links: string; rows: readonly number[] }) => [
    `what stands in "${title}" of ${rows.length === 1 ? "a new row" : "new rows"} was not taken${atRows(rows)}: the column shows what ${links} say.`,
  ],
  "refs-loose": ({ title, table, rows }: { title: string; table: string; rows: readonly number[] }) => [
    `${number(rows.length)} ${rows.length === 1 ? "row refers" : "rows refer"} in "${title}" to a record that ${table} does not have${atRows(rows)}; it was so before.`,
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
  "inside-absent": ({ record, table, rows }: { record: string; table: string; rows: readonly number[] }) => [
    `it is in ${table} ${shown(record)}, which has no row any more: ${rows.length === 1 ? "it" : `this and ${number(rows.length - 1)} more (rows ${firstFew(rows)})`} would go with it`,
    `Put that row back, or take ${rows.length === 1 ? "this one" : "these"} out of the sheet, too.`,
  ],
  "inside-removed": ({ record, table, row }: { record: string; table: string; row: number }) => [
    `it is edited, but it goes away with ${table} ${shown(record)}, which row ${row} removes`,
    "Move it elsewhere first, undo the edit, or do not remove that record.",
  ],
  "repeated-cleared": ({ title }: { title: string }) => [
    `"${title}" stands more than once in this record: without the value shown, the one before it would be read`,
    "Give it another value, or take the others out of the source first.",
  ],
  "column-unknown": ({ title, nearest, titles }: { title: string; titles: readonly string[] } & Nearest) => [
    `the table has no column "${title}"`,
    perhaps(nearest, `Delete the column, or rename it to one of ${list(titles)}.`),
  ],
  "row-long": ({ cells, titles }: { cells: number; titles: number }) => [
    `the row has ${cells} cells, the header ${titles}`,
    "Give each column with cells a title. In text, a comma inside a cell needs quotes around the cell.",
  ],
  "row-short": ({ cells, titles }: { cells: number; titles: number }) => [
    `the row has ${cells} cells, the header ${titles}`,
    "Fill the row up, or remove the missing columns from the whole table.",
  ],
  "table-left-out": ({ file }: { file: string }) => [`${file} is not there: the table is left as it is.`],
  "columns-left-out": ({ titles }: { titles: readonly string[] }) => [
    `${count(titles.length, "column")} left out (${titles.join(", ")}): ${titles.length === 1 ? "it stays" : "they stay"} as in the source.`,
  ],
  "columns-missing": ({ titles, file }: { titles: readonly string[]; file: string }) => [
    `${file} has no ${titles.length === 1 ? "column" : "columns"} ${list(titles)}: its records are made without.`,
  ],
  "mirror-apart": ({
    count: n,
    title,
    other,
    first,
  }: {
    count: number;
    title: string;
    other: string;
    first: readonly { key: string; code: string }[];
  }) => [
    `${count(n, "link stands", "links stand")} in "${title}" only and not in "${other}" (${first.map(({ key, code }) => `${key} has ${code}`).join(", ")}${n > first.length ? ", …" : ""}): ${n === 1 ? "it is" : "they are"} left so unless edited.`,
  ],
  "cross-loose": ({ count: n, down, across }: { count: number; down: string; across: string }) => [
    `${count(n, "record has", "records have")} no "${down}" or no "${across}": the cross table does not show ${n === 1 ? "it" : "them"}.`,
  ],
  "tree-made": ({ path, row }: { path: string; row: number }) => [
    `nothing was at ${shown(path)}, where row ${row} goes: it is a new record.`,
  ],
  "titles-healed": ({ titles }: { titles: readonly string[] }) => [`titles spelled another way were recognised: ${list(titles)}.`],
  "encoding-healed": ({ file, encoding }: { file: string; encoding: string }) => [
    `${file} came back in the encoding ${encoding} and not in UTF-8; that was recognised by words of the source.`,
  ],
  "delimiter-healed": ({ delimiter }: { delimiter: string }) => [
    `cells are separated by ${delimiter === "\t" ? "tabs" : `"${delimiter}"`}; that was recognised.`,
  ],
  "file-unused": ({ file, nearest }: { file: string } & Nearest) => [
    `${file} belongs to no table and is not used.`,
    nearest === null ? "" : `Perhaps ${nearest} is meant.`,
  ],
} satisfies Record<string, (facts: never) => readonly [string, string?]>;
