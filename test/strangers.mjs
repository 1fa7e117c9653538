// npm run strangers -- FILE… : files that nobody here has made. Each is hatched, edited at random, folded, and read by readers that
// share no code with src/: the values of the result must be those of the source, but for what the edits say.
import { readFileSync } from "node:fs";
import { basename } from "node:path";
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import { SaxesParser } from "saxes";
import { fold, hatch, compare, HatchFoldError } from "hatch-fold";

const files = process.argv.slice(2);
const ROUNDS = Number(process.env.ROUNDS ?? 6);
let seed = Number(process.env.SEED ?? Math.floor(Date.now() / 86_400_000));
const random = (n) => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
  return Math.floor((seed / 2 ** 32) * n);
};
const pick = (list) => list[random(list.length)];

/** The values of a text in their order, each as a text. */
function valuesOf(format, text) {
  if (format === "json") return leaves(JSON.parse(text));
  if (format === "json-lines") return text.split(/\r?\n/).flatMap((line) => (line.trim() === "" ? [] : leaves(JSON.parse(line))));
  if (format === "xml") return xmlValues(text);
  return text
    .split(/[\r\n\t,;|=:"]+| {2,}/)
    .map((word) => word.trim())
    .filter((word) => word !== "");
}

function leaves(value) {
  const found = [];
  const stack = [value];
  while (stack.length > 0) {
    const one = stack.pop();
    if (typeof one !== "object" || one === null) found.push(String(one));
    else stack.push(...Object.values(one).reverse());
  }
  return found;
}

function xmlValues(text) {
  const found = [];
  let words = "";
  /** The element that is open has nothing in it but text so far. */
  let isAlone = false;
  const flush = () => {
    // white space of XML; a non-breaking space is a letter, and blanks alone in an element are a text, too
    const bare = words.replace(/^[ \t\r\n]+|[ \t\r\n]+$/g, "");
    if (bare !== "" || (isAlone && /^[ \t]+$/.test(words))) found.push(bare);
    words = "";
    isAlone = false;
  };
  const parser = new SaxesParser();
  parser.on("error", (error) => {
    throw error;
  });
  parser.on("opentag", ({ attributes }) => {
    isAlone = false;
    flush();
    isAlone = true;
    found.push(...Object.values(attributes));
  });
  parser.on("text", (more) => (words += more));
  parser.on("cdata", (more) => (words += more));
  parser.on("closetag", flush);
  parser.write(text).close();
  return found;
}

const NEW = {
  text: () => `word ${random(1e6)}`,
  integer: () => String(random(1e6)),
  date: () => "2031-02-03",
  any: () => `w${random(1e6)}`,
};

/** Some cells that hold a plain value get another one. */
function editCells(rows, table) {
  const [titles, ...body] = rows;
  for (let n = 1 + random(4); n > 0 && body.length > 0 && table.columns.length > 0; n--) {
    const column = pick(table.columns);
    const at = titles.indexOf(column.title);
    const row = pick(body);
    const make = NEW[column.type];
    if (at < 2 || make === undefined || column.readOnly || column.title === table.key || /^$|^[([{'"]|\n/.test(row[at])) continue;
    row[at] = make();
  }
  return rows;
}

/** Some rows go. */
function removeRows(rows) {
  for (let n = 1 + random(3); n > 0 && rows.length > 2; n--) rows[1 + random(rows.length - 1)][1] = "remove";
  return rows;
}

/** A row comes in that says what another one does, under a name of its own. */
function addRow(rows, table) {
  if (rows.length < 2) return rows;
  const copy = [...pick(rows.slice(1))];
  copy[0] = "";
  for (const { title, at } of table.columns)
    if (title === table.key || at.end === "key") copy[rows[0].indexOf(title)] = `new-${random(1e6)}`;
  return [...rows, copy];
}

/** Is `few` what is left of `many` when some are left out? */
function isPart(few, many) {
  let at = 0;
  for (const one of many) if (at < few.length && few[at] === one) at++;
  return at === few.length;
}

function judge(edit, before, after, changes) {
  if (edit === editCells) {
    if (before.length !== after.length) return `${before.length} values have become ${after.length}`;
    const differ = before.flatMap((one, i) => (one === after[i] ? [] : [after[i]]));
    const said = changes.map((change) => change.new);
    const odd = differ.find((one) => !said.some((text) => text === one || text.includes(one) || one.includes(text)));
    return differ.length > changes.length
      ? `${differ.length} values differ, and ${changes.length} were edited`
      : odd && `${odd} was not edited so`;
  }
  if (edit === removeRows) return isPart(after, before) ? null : "what is left was not there, or not in that order";
  return isPart(before, after) ? null : "what was there is not there any more, or not in that order";
}

let wrong = 0;
const counts = { folded: 0, changes: 0, refused: 0, unreadable: 0 };
for (const file of files) {
  const name = basename(file);
  const source = readFileSync(file);
  let hatched;
  let before;
  try {
    hatched = await hatch(source, { name });
    before = valuesOf(hatched.receipt.source.format, source.toString());
  } catch (error) {
    counts.unreadable++;
    // what one of the two readers does not take says nothing; what neither of them foresees does
    if (!(error instanceof HatchFoldError) && !(error instanceof SyntaxError) && !error.stack.includes("saxes"))
      tell(file, "hatch", error.stack);
    continue;
  }
  const format = hatched.receipt.source.format;
  for (let round = 0; round < ROUNDS; round++) {
    const start = seed;
    const { tables, plan } = await hatch(source, { name });
    const table = pick(plan.tables.filter(({ host }) => host === undefined));
    const edit = pick([editCells, removeRows, addRow]);
    const sheet = `${table.name}.csv`;
    if (!tables.contents.has(sheet)) continue;
    const rows = edit(parse(tables.contents.get(sheet), { relax_column_count: true }), table);
    tables.contents.set(sheet, Buffer.from(stringify(rows, { record_delimiter: "\r\n", quoted_match: /[\r\n]/ })));
    try {
      const { problems, changes } = await compare(tables, { source, name });
      if (problems.length > 0) {
        counts.refused++;
        continue;
      }
      const { bytes } = await fold(tables, { source, name });
      counts.folded++;
      counts.changes += changes.length;
      const fault = judge(edit, before, valuesOf(format, Buffer.from(bytes).toString()), changes);
      if (fault) tell(file, `${edit.name} in ${table.name}, SEED=${start}`, fault);
    } catch (error) {
      tell(file, `${edit.name} in ${table.name}, SEED=${start}`, String(error));
    }
  }
}

function tell(file, what, fault) {
  wrong++;
  console.log(`${file}: ${what}: ${fault}`);
}
console.log(
  `${files.length} files: ${counts.folded} folds of ${counts.changes} changes, ${counts.refused} refused, ${counts.unreadable} not read; ${wrong} wrong`,
);
process.exitCode = wrong > 0 ? 1 : 0;
