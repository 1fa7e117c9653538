/** How the records of a list are shown, as a plan's text says it: read, and written. */
import { isMap, isPair, isScalar, type Document, type Pair, type YAMLMap } from "yaml";

export type Form = "own" | "beneath" | "repeat" | "packed" | "spread" | "cross" | "tree";

/** What a list in cells has between its items (lists in lists have others), and over how many columns it is spread, at first. */
const SEPARATORS = ["; ", " | ", " + ", " ~ "];
const PLACES = 3;

export function keysOf(document: Document, path: readonly string[]): string[] {
  const node = document.getIn(path);
  return isMap(node) ? node.items.map(keyOf) : [];
}

const keyOf = ({ key }: Pair): string => String(isScalar(key) ? key.value : key);

const wordOf = (document: Document, path: readonly string[]): string | undefined => {
  const value = document.getIn(path);
  return typeof value === "string" ? value : undefined;
};

/** The entry of a column as an object; a path alone is where it is. */
function columnOf(document: Document, table: string, title: string): Record<string, unknown> {
  const node = document.getIn(["tables", table, "columns", title]);
  return isMap(node) ? (node.toJSON() as Record<string, unknown>) : { at: node };
}

/** The table around a list, and where the list is in its records. */
function listOf(document: Document, name: string): { parent: string; list: string } | null {
  const parent = wordOf(document, ["tables", name, "inside"]);
  const rows = wordOf(document, ["tables", name, "rows"]);
  const around = parent === undefined ? undefined : wordOf(document, ["tables", parent, "rows"]);
  if (parent === undefined || rows === undefined || around === undefined) return null;
  if (around === ".") return { parent, list: rows };
  return rows.startsWith(`${around}/`) ? { parent, list: rows.slice(around.length + 1) } : null;
}

/** Titles of the columns of the table around that show the list in cells. */
function inCells(document: Document, all: Document, name: string): { parent: string; titles: string[] } | null {
  const place = listOf(all, name);
  if (place === null || !document.hasIn(["tables", place.parent])) return null;
  const titles = keysOf(document, ["tables", place.parent, "columns"]).filter((title) => {
    const { at, list, pack, spread, pair } = columnOf(document, place.parent, title);
    if ((pack === undefined && spread === undefined) || typeof at !== "string") return false;
    if (pair !== undefined) return `${at}/*` === place.list;
    const deeper = Array.isArray(pack) ? pack.length - 1 : 0;
    return [at, ...(typeof list === "string" ? [list] : [])].some(
      (path) => path === place.list || (path.startsWith(`${place.list}/`) && (deeper > 0 || list === undefined)),
    );
  });
  return titles.length === 0 ? null : { parent: place.parent, titles };
}

/** How a list is shown; `null` when it is left out. */
export function formOf(document: Document, all: Document, name: string): Form | null {
  const path = ["tables", name];
  if (!document.hasIn(path)) {
    const cells = inCells(document, all, name);
    if (cells === null) return null;
    return columnOf(document, cells.parent, cells.titles[0]).spread === undefined ? "packed" : "spread";
  }
  if (document.hasIn([...path, "tree"])) return "tree";
  if (document.hasIn([...path, "cross"])) return "cross";
  if (document.getIn([...path, "beneath"]) === true) return "beneath";
  return document.getIn([...path, "repeat"]) === true ? "repeat" : "own";
}

/** The table that shows a list in its cells, or the list's own. */
export function shownIn(document: Document, all: Document, name: string): string {
  return document.hasIn(["tables", name]) ? name : (inCells(document, all, name)?.parent ?? name);
}

/** The forms that a list can have. */
export function formsOf(document: Document, all: Document, name: string): Form[] {
  const from = document.hasIn(["tables", name]) ? document : all;
  const place = listOf(from, name);
  const titles = keysOf(from, ["tables", name, "columns"]);
  const entries = titles.map((title) => columnOf(from, name, title));
  const holdsLists = keysOf(document, ["tables"]).some((other) => wordOf(document, ["tables", other, "inside"]) === name);
  const isOne = wordOf(from, ["tables", name, "rows"]) === ".";
  const isKeyed = place?.list.endsWith("/*") === true;
  const mayPack = place !== null && !holdsLists && entries.every(({ at }) => typeof at === "string") && (!isKeyed || isPaired(entries));
  const maySpread = mayPack && !isKeyed && entries.every(({ pack, spread }) => pack === undefined && spread === undefined);
  const isLinks = entries.filter(({ refers }) => refers !== undefined).length > 1;
  const forms: [Form, boolean][] = [
    ["own", true],
    ["beneath", place !== null],
    ["repeat", place !== null && !holdsLists],
    ["packed", mayPack],
    ["spread", maySpread],
    ["cross", isLinks && place === null],
    ["tree", !isKeyed && !isOne && (titles.length > 1 || holdsLists)],
  ];
  return forms.flatMap(([form, isOffered]) => (isOffered ? [form] : []));
}

/** Are the members of keyed records nothing but their name and one value? */
function isPaired(entries: readonly Record<string, unknown>[]): boolean {
  return entries.filter(({ at }) => at === ".").length === 1 && entries.every(({ at }) => at === "." || at === ":key");
}

/** Shows a list in another form; what it had before comes from `all`, the plan with everything that could be taken. */
export function setForm(made: Document, all: Document, name: string, form: Form): void {
  restore(made, all, name);
  const path = ["tables", name];
  if (form === "beneath" || form === "repeat") made.setIn([...path, form], true);
  if (form === "packed" || form === "spread") putInCells(made, name, form);
  if (form === "cross") {
    const titles = keysOf(made, [...path, "columns"]);
    const [down, across] = titles.filter((title) => columnOf(made, name, title).refers !== undefined);
    const cell = titles.find((title) => title !== down && title !== across);
    made.setIn([...path, "cross"], made.createNode({ down, across, ...(cell === undefined ? {} : { cell }) }, { flow: true }));
    made.deleteIn([...path, "key"]);
  }
  if (form === "tree") setTree(made, name, treesOf(made, name)[0]?.value ?? "");
}

/** The list is not shown at all. */
export function leaveOut(made: Document, all: Document, name: string): void {
  const cells = made.hasIn(["tables", name]) ? null : inCells(made, all, name);
  if (cells === null) made.deleteIn(["tables", name]);
  else for (const title of cells.titles) made.deleteIn(["tables", cells.parent, "columns", title]);
}

/** The list is a table of its own again. */
function restore(made: Document, all: Document, name: string): void {
  const path = ["tables", name];
  const cells = made.hasIn(path) ? null : inCells(made, all, name);
  if (cells !== null) {
    for (const title of cells.titles) made.deleteIn(["tables", cells.parent, "columns", title]);
    const { list } = listOf(all, name)!;
    for (const title of leftOvers(all, cells.parent, list)) addAt(made, all, ["tables", cells.parent], title);
  }
  if (made.hasIn([...path, "tree"]) && typeof made.getIn([...path, "tree"]) === "string") {
    for (const below of tablesBelow(all, name, String(made.getIn([...path, "tree"]))))
      made.setIn(["tables", below], all.getIn(["tables", below]));
    for (const title of leftOvers(all, name, String(made.getIn([...path, "tree"])))) addAt(made, all, path, title);
  }
  if (!made.hasIn(path)) addTable(made, all, name);
  if (made.hasIn([...path, "cross"]) && all.hasIn([...path, "key"])) made.setIn([...path, "key"], all.getIn([...path, "key"]));
  for (const word of ["beneath", "repeat", "tree", "cross"]) made.deleteIn([...path, word]);
}

/** Columns that show what is left of a list, or of what it stands in. */
function leftOvers(document: Document, table: string, list: string): string[] {
  return keysOf(document, ["tables", table, "columns"]).filter((title) => {
    const { at, pack, spread } = columnOf(document, table, title);
    return pack === undefined && spread === undefined && (at === list || list.startsWith(`${String(at)}/`));
  });
}

function putInCells(made: Document, name: string, form: "packed" | "spread"): void {
  const { parent, list } = listOf(made, name)!;
  const path = ["tables", parent, "columns"];
  const entries = keysOf(made, ["tables", name, "columns"]).map((title) => [title, columnOf(made, name, title)] as const);
  const isKeyed = list.endsWith("/*");
  const columns = made.getIn(path) as YAMLMap;
  const [first] = leftOvers(made, parent, list);
  let place = first === undefined ? columns.items.length : keysOf(made, path).indexOf(first);
  for (const title of leftOvers(made, parent, list)) made.deleteIn([...path, title]);
  made.deleteIn(["tables", name]);
  for (const [title, { at, list: _, pack, ...words }] of entries) {
    if (isKeyed && at === ":key") continue;
    const where = isKeyed ? { at: list.slice(0, -2) } : pathIn(list, String(at));
    const inner = pack === undefined ? [] : [pack].flat();
    const between = SEPARATORS.find((one) => !inner.includes(one)) ?? SEPARATORS[0];
    const packed = { pack: inner.length > 0 ? [between, ...inner] : between, ...(isKeyed ? { pair: "=" } : {}) };
    const layout = form === "spread" ? { spread: PLACES } : packed;
    const wanted = at === "." ? name : `${name} ${title}`;
    const taken = keysOf(made, path);
    let free = wanted;
    for (let n = 2; taken.includes(free); n++) free = `${wanted} ${n}`;
    columns.items.splice(place++, 0, made.createPair(free, made.createNode({ ...where, ...words, ...layout }, { flow: true })));
  }
}

/** Where a column of a list is, from the record around: the list is the path without its last name, unless said. */
function pathIn(list: string, at: string): { at: string; list?: string } {
  if (at === ".") return list.includes("/") ? { at, list } : { at: list };
  return at.includes("/") ? { at, list } : { at: `${list}/${at}` };
}

// ---- what stands between items, and over how many columns they are

export function cellWord(document: Document, all: Document, name: string): string {
  const cells = inCells(document, all, name);
  if (cells === null) return "";
  const { pack, spread } = columnOf(document, cells.parent, cells.titles[0]);
  return String(spread ?? [pack].flat()[0]);
}

export function setCellWord(made: Document, all: Document, name: string, word: string): void {
  const cells = inCells(made, all, name);
  if (cells === null || word === "") return;
  for (const title of cells.titles) {
    const path = ["tables", cells.parent, "columns", title];
    const { pack, spread } = columnOf(made, cells.parent, title);
    if (spread !== undefined) made.setIn([...path, "spread"], Math.min(200, Math.max(1, Math.trunc(Number(word)) || 1)));
    else made.setIn([...path, "pack"], Array.isArray(pack) ? made.createNode([word, ...pack.slice(1)], { flow: true }) : word);
  }
}

// ---- trees

/** What can make a tree of a table's records: a list of their own kind in them, or one of their columns. */
export function treesOf(document: Document, name: string): { value: string; words: string }[] {
  const rows = wordOf(document, ["tables", name, "rows"]) ?? "";
  const lists = keysOf(document, ["tables"]).flatMap((other) => {
    const place = wordOf(document, ["tables", other, "inside"]) === name ? listOf(document, other) : null;
    return place === null ? [] : [place.list];
  });
  const said = document.getIn(["tables", name, "tree"]);
  const own = typeof said === "string" ? [said] : [];
  // records of one kind are most often in lists of one name
  const last = rows.split("/").at(-1);
  const nested = [...new Set([...own, ...lists])].sort((a, b) => Number(b === last) - Number(a === last));
  const titles = keysOf(document, ["tables", name, "columns"]);
  return [
    ...nested.map((list) => ({ value: `list ${list}`, words: `the list ${list} in each record` })),
    ...titles.map((title) => ({ value: `parent ${title}`, words: `${title}: the key of the record above` })),
    ...titles.map((title) => ({ value: `path ${title}`, words: `${title}: the names from the top` })),
    ...titles.map((title) => ({ value: `depth ${title}`, words: `${title}: how deep the record is` })),
  ];
}

export function treeOf(document: Document, name: string): string {
  const tree = document.getIn(["tables", name, "tree"]);
  if (typeof tree === "string") return `list ${tree}`;
  if (!isMap(tree)) return "";
  const kind = ["parent", "path", "depth"].find((word) => tree.has(word));
  return kind === undefined ? "" : `${kind} ${String(tree.get(kind))}`;
}

export function setTree(made: Document, name: string, value: string): void {
  const at = value.indexOf(" ");
  const [kind, word] = [value.slice(0, at), value.slice(at + 1)];
  if (kind !== "list") {
    made.setIn(["tables", name, "tree"], made.createNode({ [kind]: word }, { flow: true }));
    return;
  }
  for (const below of tablesBelow(made, name, word)) made.deleteIn(["tables", below]);
  for (const title of leftOvers(made, name, word)) made.deleteIn(["tables", name, "columns", title]);
  made.setIn(["tables", name, "tree"], word);
}

/** Tables of the lists that a tree takes in. */
function tablesBelow(document: Document, name: string, list: string): string[] {
  const rows = wordOf(document, ["tables", name, "rows"]) ?? "";
  const top = rows === "." ? list : `${rows}/${list}`;
  return keysOf(document, ["tables"]).filter((other) => {
    const own = wordOf(document, ["tables", other, "rows"]) ?? "";
    return own === top || own.startsWith(`${top}/`);
  });
}

// ---- columns

/** A column that was left out stands where it stood. */
export function addAt(made: Document, all: Document, path: readonly string[], title: string): void {
  putBack(made, all, [...path, "columns"], title);
}

/** A table that was left out stands where it stood. */
export function addTable(made: Document, all: Document, name: string): void {
  putBack(made, all, ["tables"], name);
}

function putBack(made: Document, all: Document, path: readonly string[], key: string): void {
  const order = keysOf(all, path);
  const pair = (all.getIn(path) as YAMLMap).items[order.indexOf(key)];
  const map = made.getIn(path);
  if (!isMap(map) || !isPair(pair)) {
    made.setIn([...path, key], all.getIn([...path, key], true));
    return;
  }
  const before = new Set(order.slice(0, order.indexOf(key)));
  let at = 0;
  map.items.forEach((item, i) => {
    if (before.has(keyOf(item))) at = i + 1;
  });
  map.items.splice(at, 0, pair);
}
