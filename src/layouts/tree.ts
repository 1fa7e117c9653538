/**
 * The sheet of a tree: what is above a record can be said by its key, by the way from the top or by the
 * depth in an ordered sheet. Whichever of them was edited, the table behind sees one word for it.
 */
import { ByteWriter } from "../bytes/writer.js";
import type { ProblemList, ProblemPlace } from "../compare/changes.js";
import { damage } from "../compare/heal.js";
import { titleOf } from "../plan/guide.js";
import { DEPTH_TITLE, TOP_SIGN, UPPER_TITLE, WAY_TITLE } from "../plan/plan.js";
import { folded } from "../tables/folded.js";
import { parseMark } from "../tables/marks.js";
import { writeCells } from "../tables/sheet-writer.js";
import { asNew, readTitled, titledRows, type TitledRow } from "./titled.js";
import { joinWay, splitWay, treeTitles, type TreeIndex } from "./tree-index.js";

/** Where a record goes: below one of the source, below a new one, to the top of something, or where nobody knows. */
type Spot = { readonly place: number } | { readonly fresh: Fresh } | { readonly text: string } | { readonly top: string };

/** A row that is no record of the source yet. */
interface Fresh {
  readonly number: number;
  /** What others call it. */
  readonly name: string;
  readonly cells: (string | undefined)[];
  spot: Spot | null;
}

/** The nearest row above that is so deep, by what the sheet says now or by what it said. */
type Above = (depth: number, when?: "depth" | "was") => Spot | null;

/** The sheet of the table as bytes; nothing when it is no such sheet. */
export function untree(
  index: TreeIndex,
  file: string,
  bytes: Uint8Array,
  problems: ProblemList,
  fresh: boolean,
): { bytes: Uint8Array; last: number; nameOf: (ident: string) => string } | null {
  const { table } = index;
  const titles = treeTitles(
    table,
    table.shown.map((slot) => titleOf(table.plan, slot)),
  );
  const say = { table: table.plan.name, file };
  const sheet = readTitled(titles, bytes, !fresh && table.plan.match === undefined, say, problems);
  if (sheet === null) return null;
  const reader = new TreeSheet(index, titles, sheet.present, sheet.last, say, problems);
  reader.read(fresh ? sheet.rows.map(asNew) : sheet.rows);
  return { bytes: reader.take(), last: sheet.last, nameOf: (ident) => reader.nameOfIdent(ident) };
}

class TreeSheet {
  private readonly at: {
    readonly outer: number;
    readonly upper: number;
    readonly depth: number;
    readonly way: number;
    readonly label: number;
    readonly key: number;
  };
  private readonly nested: boolean;
  private readonly made = new Map<number, (string | undefined)[]>();
  private readonly fresh: Fresh[] = [];
  /** New rows of which nobody can say where they belong: they are not looked at any further. */
  private readonly faulty = new Set<Fresh>();
  /** Places to which records of the source go now. */
  private readonly moved = new Map<number, Spot>();
  /** By key and by way, as the sheet says them; `null` where two rows say the same. */
  private readonly keys = new Map<string, Spot | null>();
  private readonly ways = new Map<string, Spot | null>();
  /** Keys of records of the source, as the sheet says them. */
  private readonly saidKeys = new Map<number, string>();
  private readonly nearWays = new Map<string, string>();

  constructor(
    private readonly index: TreeIndex,
    private readonly titles: readonly string[],
    private readonly present: readonly boolean[],
    private last: number,
    private readonly say: { readonly table: string; readonly file: string },
    private readonly problems: ProblemList,
  ) {
    const { table, labelSlot } = index;
    const { columns, key, tree } = table.plan;
    this.nested = table.treeSteps !== null;
    const outer = this.nested ? table.outer : table.holder;
    this.at = {
      outer: outer === null ? -1 : 2,
      upper: titles.indexOf(tree?.kind === "coded" ? tree.column : UPPER_TITLE),
      depth: titles.indexOf(DEPTH_TITLE),
      way: titles.indexOf(WAY_TITLE),
      label: titles.indexOf(columns[labelSlot].title),
      key: key === undefined ? -1 : titles.indexOf(key),
    };
  }

  read(rows: readonly TitledRow[]): void {
    const { table, idents } = this.index;
    const known: { row: TitledRow; place: number; cells: (string | undefined)[] }[] = [];
    const order: { row: TitledRow; depth: number; was: number; spot: Spot }[] = [];
    for (const row of rows) {
      const cells = [...row.cells];
      const mark = (cells[0] ?? "").trim();
      const place = parseMark(table.salt, mark);
      const isNew = mark === "" || mark.startsWith("+");
      this.made.set(row.number, cells);
      if ((!isNew && (place < 0 || place >= idents.length)) || (cells[1] ?? "").trim() !== "") {
        if (this.nested) cells[this.at.upper] = place >= 0 && place < idents.length ? this.holderText(this.spotOf(place)) : "";
        continue;
      }
      if (isNew && this.titles.every((_, at) => at === 1 || (cells[at] ?? "").trim() === "")) continue;
      const one: Fresh = { number: row.number, name: mark === "" ? `+row ${row.number}` : mark, cells, spot: null };
      const spot: Spot = isNew ? { fresh: one } : { place };
      if (isNew) this.fresh.push(one);
      else known.push({ row, place, cells });
      const depth = Number((cells[this.at.depth] ?? "").trim() || NaN);
      order.push({ row, depth, was: isNew ? NaN : Number(this.index.depthText(place)), spot });
      const key = this.at.key < 0 ? "" : (cells[this.at.key] ?? "");
      if (key !== "") this.remember(this.keys, key, spot);
      if (key !== "" && !isNew) this.saidKeys.set(place, key);
      if (mark.startsWith("+")) this.remember(this.keys, mark, spot);
      const way = cells[this.at.way] ?? (isNew ? "" : this.index.wayText(place));
      if (way.trim() !== "") this.remember(this.ways, joinWay(splitWay(way)), spot);
    }
    idents.forEach((_, place) => {
      const way = this.index.wayText(place);
      if (!this.ways.has(way)) this.ways.set(way, { place });
    });
    for (const way of this.ways.keys()) this.nearWays.set(this.near(way), way);
    const above = (i: number, depth: number, when: "depth" | "was" = "depth"): Spot | null => {
      for (let j = i - 1; j >= 0; j--) {
        if (order[j][when] === depth) return order[j].spot;
        if (order[j][when] < depth) return null;
      }
      return null;
    };
    const orderOf = new Map(order.map(({ row }, i) => [row.number, i]));
    // rows that do not say their way first: the ways of others may lead through them
    for (const one of [...this.fresh].sort(
      (a, b) => Number((a.cells[this.at.way] ?? "") !== "") - Number((b.cells[this.at.way] ?? "") !== ""),
    ))
      this.placeFresh(one, (depth) => above(orderOf.get(one.number)!, depth));
    for (const { row, place, cells } of known)
      this.placeKnown(row, place, cells, (depth, when) => above(orderOf.get(row.number)!, depth, when));
    for (const { row, place, cells } of known) {
      const spot = this.moved.get(place);
      if (this.nested) cells[this.at.upper] = this.holderText(spot ?? this.spotOf(place));
      else if (spot !== undefined) cells[this.at.upper] = this.codeText(spot);
      else cells[this.at.upper] ??= this.index.upperText(place);
      if (spot !== undefined && this.nested) this.checkLoop({ place }, row.number);
    }
    for (const one of this.fresh) {
      const { cells, spot, name } = one;
      if (this.faulty.has(one)) {
        this.made.delete(one.number);
        continue;
      }
      if (this.isNamed(one)) cells[0] = name;
      cells[this.at.upper] = this.nested
        ? this.holderText(spot ?? { top: "" })
        : spot === null
          ? (cells[this.at.upper] ?? "")
          : this.codeText(spot);
      if (this.nested) this.checkLoop({ fresh: one }, one.number);
    }
  }

  /** What the sheet calls a record that others name by its mark. */
  nameOfIdent(ident: string): string {
    const place = this.index.byIdent.get(ident);
    if (this.at.key >= 0) return ident;
    return place === undefined ? ident.replace(/^\+/, "") : this.index.wayText(place);
  }

  take(): Uint8Array {
    const { outer, upper, depth, way } = this.at;
    const places = [...this.titles.keys()].filter((at) => {
      if (at === depth || at === way || (this.nested && at === outer)) return false;
      return this.present[at] || at === upper || at < 1 || [...this.made.values()].some((cells) => cells[at] !== undefined);
    });
    const out = new ByteWriter(1 << 12);
    writeCells(
      out,
      places.map((at) => this.titles[at]),
    );
    for (const row of titledRows(places, this.made, this.last)) writeCells(out, row);
    return out.take();
  }

  // ---- what the cells say

  private placeKnown(row: TitledRow, place: number, cells: (string | undefined)[], above: Above): void {
    const { upper, depth, way, label, outer } = this.at;
    const { index } = this;
    const edited = (at: number, was: string): boolean => {
      const cell = cells[at];
      return cell !== undefined && cell.trim() !== was && cell !== was && damage(was, cell) === null;
    };
    const where = (at: number): ProblemPlace => ({ ...this.say, row: row.number, column: this.titles[at], value: cells[at] ?? "" });
    const said: { at: number; spot: Spot }[] = [];
    const outside = this.nested && outer >= 0 && edited(outer, index.outerText(place));
    const top = outside ? (cells[outer] ?? "").trim() : index.outers[place];
    if (edited(upper, index.upperText(place))) said.push({ at: upper, spot: this.spotOfText((cells[upper] ?? "").trim(), top) });
    else if (outside) said.push({ at: outer, spot: { top } });
    if (edited(way, index.wayText(place))) {
      const names = splitWay(cells[way]!);
      const name = names.pop()!;
      // where two records are called so, the parent says which
      const spot = this.isTwice(names) && said.length > 0 ? said[0].spot : this.spotOfWay(names, row.number, cells[way]!);
      if (spot === null) return;
      const was = index.labels[place];
      const now = cells[label] ?? was;
      if (now === was) cells[label] = name;
      else if (name !== now && name !== was) this.problems.add("tree-label", { title: this.titles[label], label: now, name }, where(way));
      if (!same(spot, this.spotOf(place))) said.push({ at: way, spot });
    }
    if (edited(depth, index.depthText(place))) {
      const spot = this.spotOfDepth(cells[depth]!, top, above, where(depth));
      if (spot === null) return;
      const old = index.uppers[place];
      if (old >= 0 && !same(above(Number(index.depthText(place)) - 1, "was"), { place: old })) {
        // the sheet is not in the order of the tree
        this.problems.add("tree-order", {}, where(depth));
        return;
      }
      if (!same(spot, this.spotOf(place))) said.push({ at: depth, spot });
    }
    const [first, ...others] = said;
    const other = others.find(({ spot }) => !same(spot, first.spot));
    if (other !== undefined) this.differ(first, other, cells, row.number);
    else if (first !== undefined) this.moved.set(place, first.spot);
  }

  private placeFresh(one: Fresh, above: (depth: number) => Spot | null): void {
    const { cells, number } = one;
    const { upper, depth, way, label } = this.at;
    const text = (at: number): string => (cells[at] ?? "").trim();
    const where = (at: number): ProblemPlace => ({ ...this.say, row: number, column: this.titles[at], value: cells[at] ?? "" });
    const said: { at: number; spot: Spot }[] = [];
    const top = this.at.outer < 0 ? "" : text(this.at.outer);
    if (text(upper) !== "") said.push({ at: upper, spot: this.spotOfText(text(upper), top) });
    if (text(way) !== "") {
      const names = splitWay(cells[way]!);
      const name = names.pop()!;
      if (text(label) === "") cells[label] = name;
      else if (name !== cells[label]) {
        this.problems.add("tree-label", { title: this.titles[label], label: cells[label] ?? "", name }, where(way));
        this.faulty.add(one);
        return;
      }
      const spot = this.isTwice(names) && said.length > 0 ? said[0].spot : this.spotOfWay(names, number, cells[way]!);
      if (spot === null) {
        this.faulty.add(one);
        return;
      }
      said.push({ at: way, spot });
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
    const root = this.topOf(one.spot);
    if (this.nested && top !== "" && root !== null && root !== top) this.differ({ at: this.at.outer, spot: { top } }, first, cells, number);
    const names = this.namesTo(one.spot);
    if (names === null || (cells[label] ?? "") === "") return;
    const whole = joinWay([...names, cells[label]!]);
    if (!this.ways.has(whole)) this.ways.set(whole, { fresh: one });
    this.nearWays.set(this.near(whole), whole);
  }

  private differ(
    one: { at: number; spot: Spot },
    other: { at: number; spot: Spot },
    cells: readonly (string | undefined)[],
    row: number,
  ): void {
    const says = [one, other].map(({ at, spot }) => ({ title: this.titles[at], value: cells[at] ?? "", above: this.nameOf(spot) }));
    this.problems.add("tree-differ", { says }, { ...this.say, row, column: says[1].title, value: says[1].value });
  }

  private spotOfText(text: string, top: string): Spot {
    if (text === "") return { top };
    const said = this.keys.get(text) ?? this.keys.get(`+${text}`);
    if (said !== undefined && said !== null) return said;
    const place = this.index.byIdent.get(text) ?? parseMark(this.index.table.salt, text);
    return place >= 0 && place < this.index.idents.length ? { place } : { text };
  }

  private spotOfDepth(text: string, top: string, above: (depth: number) => Spot | null, where: ProblemPlace): Spot | null {
    const depth = /^\d{1,6}$/.test(text.trim()) ? Number(text) : 0;
    const spot = depth === 1 ? { top } : depth > 1 ? above(depth - 1) : null;
    if (spot === null) this.problems.add("tree-depth", { depth: text }, where);
    return spot;
  }

  private isTwice(names: readonly string[]): boolean {
    return this.ways.get(joinWay(names)) === null;
  }

  /** What is at the end of a way; records that are missing on it are made, once. */
  private spotOfWay(names: readonly string[], row: number, value: string): Spot | null {
    const where = { ...this.say, row, column: WAY_TITLE, value };
    const { startsOutside } = this.index;
    if (names.length === 0 && startsOutside) {
      this.problems.add("tree-outside", { title: this.titles[this.at.outer] }, where);
      return null;
    }
    if (names.length === (startsOutside ? 1 : 0)) return { top: names[0] ?? "" };
    const text = joinWay(names);
    const known = this.ways.get(text);
    if (known === null) {
      this.problems.add("tree-ways", { way: text }, where);
      return null;
    }
    if (known !== undefined) return known;
    const near = this.nearWays.get(this.near(text));
    if (near !== undefined) {
      this.problems.add("tree-near", { way: text, near }, where);
      return null;
    }
    const above = this.spotOfWay(names.slice(0, -1), row, value);
    if (above === null) return null;
    const { key, label } = this.at;
    const { plan } = this.index.table;
    if (key >= 0 && key !== label && plan.fresh?.has(this.titles[key]) !== true) {
      this.problems.add("tree-key", { way: text, key: this.titles[key] }, where);
      return null;
    }
    const cells = this.titles.map((_, at): string | undefined => (this.present[at] ? "" : undefined));
    cells[label] = names.at(-1)!;
    const one: Fresh = { number: ++this.last, name: `+${text}`, cells, spot: above };
    this.made.set(one.number, cells);
    this.fresh.push(one);
    this.ways.set(text, { fresh: one });
    this.nearWays.set(this.near(text), text);
    this.problems.note("tree-made", { way: text, row }, this.say.table);
    return { fresh: one };
  }

  // ---- what is where

  private remember(map: Map<string, Spot | null>, word: string, spot: Spot): void {
    const known = map.get(word);
    map.set(word, known === undefined || (known !== null && same(known, spot)) ? spot : null);
  }

  private near(way: string): string {
    return splitWay(way).map(folded).join("\n");
  }

  private spotOf(place: number): Spot {
    const upper = this.index.uppers[place];
    return upper < 0 ? { top: this.index.outers[place] } : { place: upper };
  }

  /** What is above, after all edits. */
  private upperOf(spot: Spot): Spot | null {
    if ("top" in spot || "text" in spot) return null;
    return "place" in spot ? (this.moved.get(spot.place) ?? this.spotOf(spot.place)) : spot.fresh.spot;
  }

  private namesTo(spot: Spot): string[] | null {
    const names: string[] = [];
    for (let at: Spot | null = spot; ; at = this.upperOf(at)) {
      if (at === null || "text" in at || names.length > 10_000) return null;
      if ("top" in at) return this.index.startsOutside ? [at.top, ...names] : names;
      names.unshift("place" in at ? this.index.labels[at.place] : (at.fresh.cells[this.at.label] ?? ""));
    }
  }

  private topOf(spot: Spot): string | null {
    let at: Spot | null = spot;
    for (let steps = 0; at !== null && steps < 10_000; steps++) {
      if ("top" in at) return at.top;
      at = this.upperOf(at);
    }
    return null;
  }

  private nameOf(spot: Spot): string {
    if ("top" in spot) return "";
    if ("text" in spot) return spot.text;
    return "place" in spot ? this.index.labels[spot.place] : (spot.fresh.cells[this.at.label] ?? spot.fresh.name);
  }

  private checkLoop(spot: Spot, row: number): void {
    const loop = [this.nameOf(spot)];
    for (let at = this.upperOf(spot); at !== null && !("top" in at) && loop.length < 10_000; at = this.upperOf(at)) {
      loop.push(this.nameOf(at));
      if (!same(at, spot)) continue;
      const cells = this.made.get(row)!;
      const where = { ...this.say, row, column: UPPER_TITLE, value: cells[this.at.upper] ?? "" };
      this.problems.add("ref-loop", { loop }, where);
      return;
    }
  }

  /** A name in the mark's cell is needed where others refer to a row that has no key. */
  private isNamed({ cells }: Fresh): boolean {
    return (cells[0] ?? "").trim() !== "" || this.at.key < 0 || (cells[this.at.key] ?? "") === "";
  }

  private holderText(spot: Spot): string {
    if ("top" in spot) return TOP_SIGN + spot.top;
    if ("text" in spot) return spot.text;
    return "place" in spot ? this.index.idents[spot.place] : this.isNamed(spot.fresh) ? spot.fresh.name : spot.fresh.cells[this.at.key]!;
  }

  private codeText(spot: Spot): string {
    if ("top" in spot) return "";
    if ("text" in spot) return spot.text;
    if ("fresh" in spot) return this.isNamed(spot.fresh) ? spot.fresh.name : spot.fresh.cells[this.at.key]!;
    return this.saidKeys.get(spot.place) ?? this.index.idents[spot.place];
  }
}

function same(a: Spot | null, b: Spot): boolean {
  if (a === null) return false;
  if ("top" in a) return "top" in b && a.top === b.top;
  if ("text" in a) return "text" in b && a.text === b.text;
  if ("place" in a) return "place" in b && a.place === b.place;
  return "fresh" in b && a.fresh === b.fresh;
}
