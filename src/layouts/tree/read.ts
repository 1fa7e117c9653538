/**
 * The sheet of a tree: what is above a record can be said by its key, by the path from the top or by the
 * depth in an ordered sheet. Whichever of them was edited, the table behind sees what the source keeps.
 */
import { type TitledSheet, asNew, readTitled, type TitledRow } from "../../sheets/titled.js";
import { tableRows, type SheetReading, type TableRows } from "../layout.js";
import type { ProblemPlace } from "../../model/findings.js";
import type { ProblemList } from "../../model/problem-list.js";
import { isEdited } from "../../cells/heal.js";
import { titleOf } from "../../plan/compile.js";
import { DEPTH_TITLE, UPPER_TITLE, PATH_TITLE } from "../../model/plan.js";
import { parseMark } from "../../model/marks.js";
import { readCell } from "../../cells/spelling.js";
import { readHosts, sourceRow } from "../../records/items.js";
import { aroundTree, depthIn, joinPath, likeOf, splitPath, treeTitles, type TreeIndex } from "./tree-index.js";
import { checkPaths, type WrittenPath } from "./taken.js";
import { KeptTree } from "./kept.js";
import { type KnownRow, same, Spots, type TreeColumns, type Fresh, type Spot } from "./spots.js";

/** The nearest row above that is so deep, by what the sheet says now or by what it said. */
type Above = (depth: number, when?: "depth" | "was") => Spot | null;

/** The rows of the table; nothing when it is no such sheet. Records made for a path, and those that go along, are in no row of it. */
export async function untree(
  index: TreeIndex,
  { sheet: given, problems, fresh, isWhole, readSource }: SheetReading,
): Promise<TableRows | null> {
  const { table, tree } = index;
  const titles = treeTitles(
    table,
    table.shown.map((slot) => titleOf(table.plan, slot)),
  );
  const say = { table: table.plan.name, file: given.name };
  const sheet = await readTitled(titles, given, { say, problems, needsMark: !fresh && table.plan.match === undefined });
  if (sheet === null) return null;
  const reader = new TreeSheet(index, titles, sheet, isWhole, { ...say, problems });
  reader.read(fresh ? sheet.rows.map(asNew) : sheet.rows);
  if (tree.kind === "nested" || tree.kind === "parent") return { ...reader.take(sheet), nameOf: (ident) => reader.nameOfIdent(ident) };
  const kept = reader.kept();
  const missing = kept.missing();
  if (missing.size > 0) {
    await readHosts(readSource, ({ table: of, place }) =>
      of === table && missing.has(place) ? (cells) => reader.addRow(kept, place, cells) : null,
    );
  }
  const placings = kept.write();
  const made = reader.take(sheet);
  return { ...made, rows: made.rows.map((row) => ({ ...row, placing: placings.get(row.number) })) };
}

class TreeSheet {
  private readonly present: readonly boolean[];
  private last: number;
  readonly say: { readonly table: string; readonly file: string };
  readonly problems: ProblemList;
  private readonly at: TreeColumns;
  private readonly nested: boolean;
  private readonly made = new Map<number, (string | undefined)[]>();
  private readonly fresh: Fresh[] = [];
  readonly known = new Map<number, KnownRow>();
  /** Rows at the top of the tree. */
  private readonly tops = new Set<number>();
  /** Records whose rows say `remove`, with those rows. */
  readonly removed = new Map<number, number>();
  /** New rows of which nobody can say where they belong: they are not looked at any further. */
  private readonly faulty = new Set<Fresh>();
  readonly spots: Spots;
  /** By key and by path, as the sheet says them; `null` where two rows say the same. */
  private readonly keys = new Map<string, Spot | null>();
  private readonly paths = new Map<string, Spot | null>();
  /** By what paths call them, for rows that name the one above so. */
  private readonly labels = new Map<string, Spot | null>();
  /** Keys of records of the source, as the sheet says them. */
  private readonly saidKeys = new Map<number, string>();
  private readonly nearPaths = new Map<string, string>();
  /** Rows that say by their path where they are, or what they are called. */
  private readonly written: WrittenPath[] = [];

  constructor(
    readonly index: TreeIndex,
    private readonly titles: readonly string[],
    { present, last }: TitledSheet,
    private readonly isWhole: boolean,
    { problems, ...say }: { readonly table: string; readonly file: string; readonly problems: ProblemList },
  ) {
    this.present = present;
    this.last = last;
    this.say = say;
    this.problems = problems;
    const { table, labelSlot, tree } = index;
    const { columns, key } = table.plan;
    this.spots = new Spots(index);
    this.nested = table.treeSteps !== null;
    const own = (kind: typeof tree.kind, shown: string): number =>
      titles.indexOf(tree.kind === kind && tree.kind !== "nested" ? tree.column : shown);
    this.at = {
      outer: aroundTree(table) === null ? -1 : 2,
      upper: own("parent", UPPER_TITLE),
      depth: own("depth", DEPTH_TITLE),
      path: own("path", PATH_TITLE),
      label: labelSlot < 0 ? -1 : titles.indexOf(columns[labelSlot].title),
      key: key === undefined ? -1 : titles.indexOf(key),
    };
  }

  read(rows: readonly TitledRow[]): void {
    const { at, index, made, spots } = this;
    const order: { number: number; depth: number; was: number; spot: Spot }[] = [];
    for (const row of rows) {
      const cells = [...row.cells];
      const { number } = row;
      const mark = (cells[0] ??= "").trim();
      const place = parseMark(index.table.salt, mark);
      const isNew = mark === "" || mark.startsWith("+");
      made.set(number, cells);
      const action = (cells[1] ?? "").trim().toLowerCase();
      if ((!isNew && (place < 0 || place >= index.count)) || action !== "") {
        if (action === "remove" && !isNew && place >= 0) this.removed.set(place, number);
        if (this.nested && place >= 0 && place < index.count) this.putBelow(number, cells, spots.was(place));
        else if (this.nested) cells[at.upper] = "";
        continue;
      }
      if (isNew && this.titles.every((_, c) => c === 1 || (cells[c] ?? "").trim() === "")) continue;
      const name = mark === "" ? `+row ${number}` : mark;
      const one: Fresh = { number, name, cells, label: this.labelIn(cells), spot: null };
      const spot: Spot = isNew ? { fresh: one } : { place };
      if (isNew) this.fresh.push(one);
      else if (!this.known.has(place)) this.known.set(place, { number, place, cells });
      const was = isNew ? NaN : depthIn(index.depthText(place));
      order.push({ number, depth: depthIn(cells[at.depth] ?? ""), was, spot });
      const key = at.key < 0 ? "" : (cells[at.key] ?? "");
      if (key !== "") this.remember(this.keys, key, spot);
      if (key !== "" && !isNew) this.saidKeys.set(place, key);
      const label = isNew ? one.label : (cells[at.label] ?? index.labels[place]);
      if (label !== "") this.remember(this.labels, label, spot);
      if (mark.startsWith("+")) this.remember(this.keys, mark, spot);
      const path = cells[at.path] ?? (isNew ? "" : index.pathText(place));
      if (path.trim() !== "") this.remember(this.paths, joinPath(index.namesIn(path, this.outerOf(cells, spot))), spot);
    }
    index.idents.forEach((_, place) => {
      const path = joinPath(index.pathTo(place) ?? [index.labels[place]]);
      if (!this.paths.has(path)) this.paths.set(path, { place });
    });
    for (const path of this.paths.keys()) this.nearPaths.set(likeOf(path), path);
    const orderOf = new Map(order.map(({ number }, i) => [number, i]));
    const above =
      (number: number): Above =>
      (depth, when = "depth") => {
        for (let j = orderOf.get(number)! - 1; j >= 0; j--) {
          const deep = order[j][when];
          if (deep === depth || (when === "was" && deep < depth)) return order[j].spot;
          if (deep < depth) return null;
        }
        return null;
      };
    // rows that do not say their path first: the paths of others may lead through them
    for (const one of [...this.fresh].sort((a, b) => Number((a.cells[at.path] ?? "") !== "") - Number((b.cells[at.path] ?? "") !== "")))
      this.placeFresh(one, above(one.number));
    for (const row of this.known.values()) this.placeKnown(row, above(row.number));
    for (const { number, place, cells } of this.known.values()) {
      const spot = spots.moved.get(place);
      if (this.nested) this.putBelow(number, cells, spot ?? spots.was(place));
      else if (spot !== undefined) cells[at.upper] = this.codeText(spot, cells[at.upper]);
      else cells[at.upper] ??= index.upperText(place);
      if (spot !== undefined && index.tree.kind !== "parent") this.checkLoop({ place }, number);
    }
    for (const one of this.fresh) {
      const { cells, spot } = one;
      if (this.faulty.has(one)) {
        made.delete(one.number);
        continue;
      }
      if (this.isNamed(one)) cells[0] = one.name;
      if (this.nested) this.putBelow(one.number, cells, spot ?? { top: "" });
      else cells[at.upper] = spot === null ? (cells[at.upper] ?? "") : this.codeText(spot, cells[at.upper]);
      if (index.tree.kind !== "parent") this.checkLoop({ fresh: one }, one.number);
    }
    const fresh = this.fresh.filter((one) => !this.faulty.has(one));
    checkPaths(this.written, this.titles[at.path], { ...this, fresh });
  }

  /** What the sheet calls a record that others name by its mark. */
  nameOfIdent(ident: string): string {
    const place = this.index.byIdent.get(ident);
    if (this.at.key >= 0) return ident;
    return place === undefined ? ident.replace(/^\+/, "") : this.index.pathText(place);
  }

  /** What follows for the source where it keeps paths or depths. */
  kept(): KeptTree {
    const fresh = this.fresh.filter((one) => !this.faulty.has(one));
    const { index, at, spots, known, removed, say, problems, titles } = this;
    return new KeptTree({ index, at, spots, known, removed, fresh, say, problems, titles });
  }

  /** A row for a record that has none in the sheet, with the cells of its table; what a row there said before does not count. */
  addRow(kept: KeptTree, place: number, own: readonly string[]): void {
    const { table } = this.index;
    const plain = sourceRow(table, place, own);
    const cells = this.titles.map((title, at) => {
      const c = at === this.at.outer ? at : table.titles.indexOf(title);
      return c >= 0 && (c < 2 || this.present[at]) ? plain[c] : undefined;
    });
    const row: KnownRow = { number: ++this.last, place, cells };
    for (const [number, other] of this.made) if (parseMark(table.salt, other[0] ?? "") === place) this.made.delete(number);
    this.made.set(row.number, cells);
    kept.add(row);
  }

  take(sheet: TitledSheet): TableRows {
    const { outer, upper, depth, path } = this.at;
    const { tree } = this.index;
    const onlyShown = [tree.kind === "depth" ? -1 : depth, tree.kind === "path" ? -1 : path];
    if (tree.kind === "path" || tree.kind === "depth") onlyShown.push(upper);
    if (this.nested) onlyShown.push(outer);
    const places = [...this.titles.keys()].filter((at) => {
      if (onlyShown.includes(at)) return false;
      return this.present[at] || at === upper || at < 1 || [...this.made.values()].some((cells) => cells[at] !== undefined);
    });
    const made = tableRows((at) => this.titles[at], places, this.made, sheet);
    if (!this.nested) return made;
    return { ...made, rows: made.rows.map((row) => ({ ...row, atTop: this.tops.has(row.number) })) };
  }

  // ---- what the cells say

  private placeKnown({ number, place, cells }: KnownRow, above: Above): void {
    const { upper, depth, path, label, outer } = this.at;
    const { index, spots } = this;
    const edited = (at: number, was: string): boolean => {
      const cell = cells[at];
      return cell !== undefined && isEdited(was, cell);
    };
    const where = (at: number): ProblemPlace => ({ ...this.say, row: number, column: this.titles[at], value: cells[at] ?? "" });
    const said: { at: number; spot: Spot }[] = [];
    const top = this.outerOf(cells, { place });
    const outside = top !== index.outers[place] && edited(outer, index.outerText(place)) && !this.goesAlong(place, top);
    const ownPath = edited(path, index.pathText(place));
    const was = index.labels[place];
    const called = label >= 0 && index.called[place] === was;
    const now = called ? (cells[label] ?? was) : was;
    if (edited(upper, index.upperText(place))) said.push({ at: upper, spot: this.spotOfText((cells[upper] ?? "").trim(), top) });
    else if (outside && index.tree.kind === "path" && !ownPath) {
      const spot = this.spotOfPath([top, ...index.pathTo(place)!.slice(1, -1)], number, cells[outer]!, outer);
      if (spot === null) return;
      said.push({ at: outer, spot });
    } else if (outside && !ownPath) said.push({ at: outer, spot: { top } });
    if (ownPath) {
      const names = index.namesIn(cells[path]!, top);
      const name = names.pop()!;
      // where two records are called so, the parent says which
      const spot = this.isTwice(names) && said.length > 0 ? said[0].spot : this.spotOfPath(names, number, cells[path]!);
      if (spot === null) return;
      this.written.push({ number, value: cells[path]!, spot: { place } });
      if (name !== was && now === was) {
        spots.renamed.set(place, name);
        if (called) cells[label] = name;
      } else if (name !== now && name !== was)
        this.problems.add("tree-label", { title: this.titles[label], label: now, name }, where(path));
      if (!same(spot, spots.was(place))) said.push({ at: path, spot });
    }
    if (called && now !== was && edited(label, was)) {
      if (!this.mayBeCalled(now, where(label))) return;
      if (index.tree.kind === "path" && !ownPath) this.written.push({ number, value: now, spot: { place } });
      spots.renamed.set(place, now);
    }
    if (edited(depth, index.depthText(place))) {
      const spot = this.spotOfDepth(cells[depth]!, top, above, where(depth));
      if (spot === null) return;
      const old = index.uppers[place];
      if (this.isWhole && old >= 0 && old < index.count && !same(above(depthIn(index.depthText(place)) - 1, "was"), { place: old })) {
        // the sheet is not in the order of the tree
        this.problems.add("tree-order", { touched: false }, where(depth));
        return;
      }
      if (!same(spot, spots.was(place))) said.push({ at: depth, spot });
    }
    const [first, ...others] = said;
    const other = others.find(({ spot }) => !same(spot, first.spot));
    if (other !== undefined) this.differ(first, other, cells, number);
    else if (first !== undefined && !same(first.spot, spots.was(place))) spots.moved.set(place, first.spot);
  }

  private placeFresh(one: Fresh, above: Above): void {
    const { cells, number } = one;
    const { index } = this;
    const { upper, depth, path, label } = this.at;
    const text = (at: number): string => (cells[at] ?? "").trim();
    const where = (at: number): ProblemPlace => ({ ...this.say, row: number, column: this.titles[at], value: cells[at] ?? "" });
    const said: { at: number; spot: Spot }[] = [];
    const top = this.outerOf(cells, { fresh: one });
    if (text(upper) !== "" && !isNothing(text(upper))) said.push({ at: upper, spot: this.spotOfText(text(upper), top) });
    if (text(path) !== "") {
      const names = index.namesIn(cells[path]!, top);
      const name = names.pop()!;
      if (one.label === "") {
        one.label = name;
        if (label >= 0) cells[label] = name;
      } else if (name !== one.label) {
        this.problems.add("tree-label", { title: this.titles[label], label: one.label, name }, where(path));
        this.faulty.add(one);
        return;
      }
      const spot = this.isTwice(names) && said.length > 0 ? said[0].spot : this.spotOfPath(names, number, cells[path]!);
      if (spot === null) {
        this.faulty.add(one);
        return;
      }
      this.written.push({ number, value: cells[path]!, spot: { fresh: one } });
      said.push({ at: path, spot });
    } else if (index.tree.kind === "path" && (one.label === "" || !this.mayBeCalled(one.label, where(label)))) {
      if (one.label === "") this.problems.add("tree-nameless", { title: this.titles[path] }, where(path));
      this.faulty.add(one);
      return;
    }
    if (text(depth) !== "" && said.length === 0) {
      const spot = this.spotOfDepth(text(depth), top, above, where(depth));
      if (spot === null) {
        this.faulty.add(one);
        return;
      }
      said.push({ at: depth, spot });
    }
    const [first, ...others] = said;
    const other = others.find(({ spot }) => !same(spot, first.spot));
    if (other !== undefined) this.differ(first, other, cells, number);
    one.spot = first?.spot ?? { top };
    const root = this.spots.topOf(one.spot);
    if (index.tree.kind !== "parent" && top !== "" && root !== null && root !== top)
      this.differ({ at: this.at.outer, spot: { top } }, first, cells, number);
    const names = this.spots.namesTo(one.spot);
    if (names === null || one.label === "") return;
    const whole = joinPath([...names, one.label]);
    if (!this.paths.has(whole)) this.paths.set(whole, { fresh: one });
    this.nearPaths.set(likeOf(whole), whole);
  }

  private mayBeCalled(name: string, where: ProblemPlace): boolean {
    const { tree } = this.index;
    if (tree.kind !== "path" || !name.includes(tree.separator)) return true;
    this.problems.add("tree-separator", { name, separator: tree.separator }, where);
    return false;
  }

  private labelIn(cells: readonly (string | undefined)[]): string {
    return this.at.label < 0 ? "" : (cells[this.at.label] ?? "");
  }

  /** What the row says of what the tree is in. */
  private outerOf(cells: readonly (string | undefined)[], spot: Spot): string {
    const { outer } = this.at;
    const known = "place" in spot ? this.index.outers[spot.place] : "";
    const said = outer < 0 ? undefined : cells[outer]?.trim();
    return said === undefined || said === (known === "" ? "" : this.outerText(spot)) ? known : said;
  }

  private outerText(spot: Spot): string {
    return "place" in spot ? this.index.outerText(spot.place) : "";
  }

  /** Was the record above given the same new holder? Then this one stays below it. */
  private goesAlong(place: number, top: string): boolean {
    const upper = this.index.uppers[place];
    const row = this.known.get(upper);
    return !this.nested && upper >= 0 && row !== undefined && this.outerOf(row.cells, { place: upper }) === top;
  }

  private differ(
    one: { at: number; spot: Spot },
    other: { at: number; spot: Spot },
    cells: readonly (string | undefined)[],
    row: number,
  ): void {
    const says = [one, other].map(({ at, spot }) => ({ title: this.titles[at], value: cells[at] ?? "", above: this.spots.nameOf(spot) }));
    this.problems.add("tree-differ", { says }, { ...this.say, row, column: says[1].title, value: says[1].value });
  }

  private spotOfText(text: string, top: string): Spot {
    if (text === "" || isNothing(text)) return { top };
    const said = this.keys.get(text) ?? this.keys.get(`+${text}`);
    if (said !== undefined && said !== null) return said;
    const place = this.index.byIdent.get(text) ?? parseMark(this.index.table.salt, text);
    return place >= 0 && place < this.index.count ? { place } : (this.labels.get(text) ?? { text });
  }

  private spotOfDepth(text: string, top: string, above: Above, where: ProblemPlace): Spot | null {
    const depth = depthIn(text);
    const { base } = this.index;
    if (!this.isWhole && depth !== base) {
      // the rows above are not all there
      this.problems.add("tree-order", { touched: true }, where);
      return null;
    }
    const spot = depth === base ? { top } : depth > base ? above(depth - 1) : null;
    if (spot === null) this.problems.add("tree-depth", { depth: text, base }, where);
    return spot;
  }

  private isTwice(names: readonly string[]): boolean {
    return this.paths.get(joinPath(names)) === null;
  }

  /** What is at the end of a path; records that are missing on it are made, once. */
  private spotOfPath(names: readonly string[], row: number, value: string, column = this.at.path): Spot | null {
    const where = { ...this.say, row, column: this.titles[column], value };
    const { startsOutside } = this.index;
    if (names.length === 0 && startsOutside) {
      this.problems.add("tree-outside", { title: this.titles[this.at.outer] }, where);
      return null;
    }
    if (names.length === (startsOutside ? 1 : 0)) return { top: names[0] ?? "" };
    const text = joinPath(names);
    const path = this.index.pathOf(names);
    const known = this.paths.get(text);
    if (known === null) {
      this.problems.add("tree-paths", { path }, where);
      return null;
    }
    if (known !== undefined) return known;
    const other = this.nearPaths.get(likeOf(text));
    if (other !== undefined) {
      this.problems.add("tree-near", { path, near: this.index.pathOf(splitPath(other)) }, where);
      return null;
    }
    const above = this.spotOfPath(names.slice(0, -1), row, value, column);
    return above === null ? null : this.madeFor(names, above, where);
  }

  /** A record for a step of a path. Where steps need not be records, only the step. */
  private madeFor(names: readonly string[], above: Spot, where: ProblemPlace & { readonly row: number }): Spot | null {
    const { key, label } = this.at;
    const { plan } = this.index.table;
    const path = this.index.pathOf(names);
    const { hasGaps } = this.index;
    if (!hasGaps && key >= 0 && ![label, this.index.tree.kind === "path" ? this.at.path : -1].includes(key)) {
      if (plan.fresh?.has(this.titles[key]) !== true) {
        this.problems.add("tree-key", { path, key: this.titles[key] }, where);
        return null;
      }
    }
    const cells = this.titles.map((_, at): string | undefined => (this.present[at] ? "" : undefined));
    const text = joinPath(names);
    const one: Fresh = { number: hasGaps ? 0 : ++this.last, name: `+${text}`, cells, label: names.at(-1)!, spot: above };
    if (label >= 0) cells[label] = one.label;
    this.paths.set(text, { fresh: one });
    this.nearPaths.set(likeOf(text), text);
    if (hasGaps) return { fresh: one };
    this.made.set(one.number, cells);
    this.fresh.push(one);
    this.problems.note("tree-made", { path, row: where.row }, this.say.table);
    return { fresh: one };
  }

  private remember(map: Map<string, Spot | null>, word: string, spot: Spot): void {
    const known = map.get(word);
    map.set(word, known === undefined || (known !== null && same(known, spot)) ? spot : null);
  }

  private checkLoop(spot: Spot, row: number): void {
    const loop = this.spots.loop(spot);
    const cells = this.made.get(row)!;
    const column = this.titles[this.at.upper];
    if (loop !== null) this.problems.add("ref-loop", { loop }, { ...this.say, row, column, value: cells[this.at.upper] ?? "" });
  }

  /** A name in the mark's cell is needed where others refer to a row that has no key. */
  private isNamed({ cells }: Fresh): boolean {
    return (cells[0] ?? "").trim() !== "" || this.at.key < 0 || (cells[this.at.key] ?? "") === "";
  }

  /** Writes what a record is in or below into its row. */
  private putBelow(number: number, cells: (string | undefined)[], spot: Spot): void {
    cells[this.at.upper] = this.holderText(spot);
    if ("top" in spot) this.tops.add(number);
  }

  private holderText(spot: Spot): string {
    if ("top" in spot) return spot.top;
    if ("text" in spot) return spot.text;
    return "place" in spot ? this.index.idents[spot.place] : this.isNamed(spot.fresh) ? spot.fresh.name : spot.fresh.cells[this.at.key]!;
  }

  private codeText(spot: Spot, said = ""): string {
    if ("top" in spot) return isNothing(said.trim()) ? said : "";
    if ("text" in spot) return spot.text;
    if ("fresh" in spot) return this.isNamed(spot.fresh) ? spot.fresh.name : spot.fresh.cells[this.at.key]!;
    return this.saidKeys.get(spot.place) ?? this.index.idents[spot.place];
  }
}

/** A cell that spells no text. */
function isNothing(cell: string): boolean {
  const value = readCell(cell, "absent");
  return value !== null && (value.kind !== "text" || (value.text === "" && cell !== ""));
}
