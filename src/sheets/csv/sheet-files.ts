/**
 * Names of the files that tables are kept in: a table's own name, where every system can have a file of that name.
 *
 * Names that some system reserves or cannot hold are told apart by what is put in their place: no two tables get files
 * whose names differ only in what one system sees and another does not (case, composed letters).
 */

/** Names of devices, whatever ending follows (Windows). */
const DEVICE = /^(?:con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³]|conin\$|conout\$)(?:\.|$)/i;

const ODD = /[\u0000-\u001f\u007f-\u009f<>:"/\\|?*\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]/gu;
/** Letters in a name; with some bytes for each it stays below what systems can hold (255 bytes). */
const MOST_LETTERS = 100;
const MOST_BYTES = 200;
const ENDINGS = [".csv", ".tsv"];

/** The file of each table, by the table's name. */
export function sheetFiles(tables: readonly string[], ending = ENDINGS[0]): ReadonlyMap<string, string> {
  const files = new Map<string, string>();
  const taken = new Set<string>();
  // plain names first: they are not to be changed because of an odd one
  const plain = tables.filter((table) => safe(table) === table);
  for (const table of [...plain, ...tables.filter((one) => !plain.includes(one))]) {
    const name = safe(table);
    let unique = name;
    for (let n = 2; taken.has(folded(unique)); n++) unique = `${name}-${n}`;
    taken.add(folded(unique));
    files.set(table, `${unique}${ending}`);
  }
  return files;
}

function safe(table: string): string {
  let name = shortened(table.replace(ODD, "_"));
  if (/[. ]$/.test(name)) name = `${name.slice(0, -1)}_`;
  if (/^[. ~-]/.test(name)) name = `_${name.slice(1)}`;
  if (DEVICE.test(name)) name = `_${name}`;
  return name === "" ? "_" : name;
}

function shortened(name: string): string {
  const letters = [...name];
  let text = letters.slice(0, MOST_LETTERS).join("");
  const encoder = new TextEncoder();
  while (encoder.encode(text).length > MOST_BYTES) text = [...text].slice(0, -1).join("");
  return text;
}

function folded(name: string): string {
  return name.normalize("NFKC").toLowerCase();
}

/** Can it be the file of a table: a plain name, with the ending that they have? */
export function isSheetFile(file: string): boolean {
  return ENDINGS.some((ending) => {
    const table = file.slice(0, -ending.length);
    return file.endsWith(ending) && sheetFiles([table], ending).get(table) === file;
  });
}
