/** Trees of the source: what is above each record, how deep it is, and the path to it. One pass before the rows. */
import { normalised } from "../../cells/normalised.js";
import { decode } from "../../bytes/writer.js";
import type { CompiledPlan, CompiledTable } from "../../plan/compile.js";
import { ACTION_TITLE, DEPTH_TITLE, MARK_TITLE, shownOfTree, UPPER_TITLE, type TreePlan } from "../../model/plan.js";
import type { Assembler, Row } from "../../records/assemble.js";
import type { ReadRows } from "../../records/reader.js";

const SEPARATOR = "/";

/** Names from the top, one behind the other; a name that holds a separator has a backslash before it. */
export function joinPath(names: readonly string[]): string {
  return names.map((name) => name.replace(/[\\/]/g, "\\$&")).join(SEPARATOR);
}

export function splitPath(path: string): string[] {
  const names = [""];
  for (let i = 0; i < path.length; i++) {
    if (path[i] === SEPARATOR) names.push("");
    else names[names.length - 1] += path[i] === "\\" && i + 1 < path.length ? path[++i] : path[i];
  }
  return names;
}

/** The same for all paths that differ in nothing but spaces, case and spelling. */
export function likeOf(path: string): string {
  return splitPath(path).map(normalised).join("\n");
}

/** Title of the column around a tree: what its records are in, or where they hold each other, what those at the top are in. */
export function aroundTree({ treeSteps, outer, holder }: CompiledTable): string | null {
  return treeSteps === null ? holder : outer;
}

/** Titles of a tree's sheet: what the records at the top are in, what is above, depth and path, and the columns. */
export function treeTitles(table: CompiledTable, columns: readonly string[]): string[] {
  const around = aroundTree(table);
  return [MARK_TITLE, ACTION_TITLE, ...(around === null ? [] : [around]), ...shownOfTree(table.plan.tree!), ...columns];
}

/** The records of one tree table, by place. Behind them stand steps of paths that are no records of the source. */
export class TreeIndex {
  /** How many records there are. */
  count = 0;
  /** What records below call it: its key, or its mark. */
  readonly idents: string[] = [];
  /** What paths call it. */
  readonly labels: string[] = [];
  /** What its label's cell says; where paths are kept it should be the same. */
  readonly called: string[] = [];
  /** Place of the record above, or -1. */
  readonly uppers: number[] = [];
  /** What the record at the top is in. */
  readonly outers: string[] = [];
  /** Where the source says in a column what is above: what it says. */
  readonly said: string[] = [];
  /** Where depths are kept, and so the order tells: the list that each record is in, and its bytes. */
  readonly lists: number[] = [];
  readonly starts: number[] = [];
  readonly ends: number[] = [];
  readonly byIdent = new Map<string, number>();
  /** Paths of the source begin with a separator. */
  private leads = false;
  /** What the source calls the depth of a record at the top. */
  base = 1;
  private readonly paths: (readonly string[] | null)[] = [];

  constructor(
    readonly table: CompiledTable,
    readonly tree: TreePlan,
    /** Slot of what a path calls a record, or -1. */
    readonly labelSlot: number,
    /** Slot of the column that says what is above, or -1. */
    readonly saidSlot: number,
  ) {}

  /** A path begins with what the tree is in, where there can be several of them. */
  get startsOutside(): boolean {
    return this.tree.kind === "parent" ? false : aroundTree(this.table) !== null;
  }

  /** Some steps of paths are no records: then none are made for new paths, either. */
  get hasGaps(): boolean {
    return this.idents.length > this.count;
  }

  take(row: Row, assembler: Assembler): void {
    const { place, parent } = row;
    const ident = assembler.identOf(row);
    this.count = Math.max(this.count, place + 1);
    this.idents[place] = decode(ident.bytes, 0, ident.length);
    this.labels[place] = this.called[place] = this.labelSlot < 0 ? "" : assembler.text(row, this.labelSlot);
    this.uppers[place] = parent?.table === row.table ? parent.place : -1;
    const outer = row.table.treeSteps === null ? assembler.holderOf(row) : assembler.outerOf(row);
    this.outers[place] = outer === null ? "" : decode(outer.bytes, 0, outer.length);
    if (this.saidSlot >= 0) this.said[place] = assembler.text(row, this.saidSlot);
    if (this.tree.kind !== "depth") return;
    this.lists[place] = parent?.place ?? -1 - assembler.file;
    this.starts[place] = row.unitStart;
    this.ends[place] = row.end;
  }

  /** What is above each record, when all have been met. */
  link(): void {
    this.idents.forEach((ident, place) => this.byIdent.has(ident) || this.byIdent.set(ident, place));
    if (this.tree.kind === "parent") this.said.forEach((code, place) => (this.uppers[place] = this.byIdent.get(code) ?? -1));
    else if (this.tree.kind === "path") this.linkPaths();
    else if (this.tree.kind === "depth") this.linkDepths();
  }

  private linkPaths(): void {
    this.leads = this.said.find((path) => path !== "")?.startsWith(this.separator) === true;
    const placeOf = new Map<string, number>();
    const paths = this.said.map((path, place) => this.namesIn(path, this.outers[place]));
    paths.forEach((names, place) => {
      const word = joinPath(names);
      if (!placeOf.has(word)) placeOf.set(word, place);
    });
    const first = this.startsOutside ? 1 : 0;
    for (const [place, names] of paths.entries()) {
      this.labels[place] = names.at(-1)!;
      let below = place;
      for (let n = names.length - 1; n > first; n--) {
        const word = joinPath(names.slice(0, n));
        const known = placeOf.get(word);
        const at = known ?? this.idents.length;
        this.uppers[below] = at;
        if (known !== undefined) break;
        // a step that is no record
        placeOf.set(word, at);
        this.idents.push("");
        this.labels.push(names[n - 1]);
        this.outers.push(this.outers[place]);
        this.uppers.push(-1);
        below = at;
      }
    }
  }

  private linkDepths(): void {
    const depths = this.said.map(depthIn);
    this.base = depths.reduce((least, depth) => (depth < least ? depth : least), Infinity);
    if (!Number.isFinite(this.base)) this.base = 1;
    const open: number[] = [];
    for (let place = 0; place < this.count; place++) {
      if (place > 0 && this.lists[place] !== this.lists[place - 1]) open.length = 0;
      const depth = this.depthOf(place);
      while (open.length > 0 && this.depthOf(open.at(-1)!) >= depth) open.pop();
      this.uppers[place] = open.at(-1) ?? -1;
      open.push(place);
    }
  }

  private depthOf(place: number): number {
    const depth = depthIn(this.said[place]);
    return Number.isNaN(depth) ? this.base : depth;
  }

  private get separator(): string {
    return this.tree.kind === "path" ? this.tree.separator : SEPARATOR;
  }

  /** Names from the top that a cell tells; of what is in `outer`. */
  namesIn(path: string, outer: string): string[] {
    if (this.tree.kind !== "path") return splitPath(path);
    const { separator } = this;
    const text = this.leads && path.startsWith(separator) ? path.slice(separator.length) : path;
    return [...(this.startsOutside ? [outer] : []), ...text.split(separator)];
  }

  /** A cell that tells these names. */
  pathOf(names: readonly string[]): string {
    if (this.tree.kind !== "path") return joinPath(names);
    const own = this.startsOutside ? names.slice(1) : names;
    return (this.leads ? this.separator : "") + own.join(this.separator);
  }

  /** Names from the top to the record; `null` where that goes round in a circle. */
  pathTo(place: number): readonly string[] | null {
    const line: number[] = [];
    let at = place;
    while (at >= 0 && this.paths[at] === undefined && !line.includes(at)) {
      line.push(at);
      at = this.uppers[at];
    }
    const round = at >= 0 && this.paths[at] === undefined;
    const start = this.startsOutside ? [this.outers[place]] : [];
    let path: readonly string[] | null = round ? null : at < 0 ? start : this.paths[at];
    for (const one of line.reverse()) this.paths[one] = path = path === null ? null : [...path, this.labels[one]];
    return this.paths[place];
  }

  depthText(place: number): string {
    if (this.tree.kind === "depth") return this.said[place];
    const path = this.pathTo(place);
    return path === null ? "" : String(path.length - (this.startsOutside ? 1 : 0));
  }

  pathText(place: number): string {
    if (this.tree.kind === "path" && place < this.count) return this.said[place];
    return this.pathOf(this.pathTo(place) ?? [this.labels[place]]);
  }

  /** What the sheet says of the record above. */
  upperText(place: number): string {
    if (this.tree.kind === "parent") return this.said[place];
    return this.uppers[place] < 0 ? "" : this.idents[this.uppers[place]];
  }

  /** What the sheet says of what a record at the top is in. */
  outerText(place: number): string {
    return this.table.treeSteps !== null && this.uppers[place] >= 0 ? "" : this.outers[place];
  }

  /** Cells of a row by the titles that only a tree's sheet has. */
  shown(place: number): string[] {
    return shownOfTree(this.tree).map((title) =>
      title === UPPER_TITLE ? this.upperText(place) : title === DEPTH_TITLE ? this.depthText(place) : this.pathText(place),
    );
  }
}

/** A whole number as a depth; NaN for anything else. */
export function depthIn(text: string): number {
  return /^\s*\d{1,6}\s*$/.test(text) ? Number(text) : NaN;
}

export type Trees = ReadonlyMap<CompiledTable, TreeIndex>;

export async function readTrees(compiled: CompiledPlan, readRows: ReadRows): Promise<Trees> {
  const trees = new Map<CompiledTable, TreeIndex>();
  for (const table of compiled.tables) {
    const { tree, label, key, columns } = table.plan;
    if (tree === undefined) continue;
    const slotOf = (title: string | undefined): number => columns.findIndex((column) => column.title === title);
    const labelSlot = slotOf(tree.kind === "path" ? label : (label ?? key));
    trees.set(table, new TreeIndex(table, tree, labelSlot, tree.kind === "nested" ? -1 : slotOf(tree.column)));
  }
  if (trees.size === 0) return trees;
  await readRows((row, assembler) => trees.get(row.table)?.take(row, assembler));
  for (const tree of trees.values()) tree.link();
  return trees;
}
