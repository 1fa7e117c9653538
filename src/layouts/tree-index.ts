/** Trees of the source: what is above each record, how deep it is, and the way to it. One pass before the rows. */
import { decode } from "../bytes/writer.js";
import type { Guide, TableGuide } from "../plan/guide.js";
import { ACTION_TITLE, DEPTH_TITLE, MARK_TITLE, UPPER_TITLE, WAY_TITLE } from "../plan/plan.js";
import type { Part } from "../source/parts.js";
import { Assembler } from "../tables/assemble.js";
import { scanParts } from "../tables/scan.js";

const SEPARATOR = "/";

/** Names from the top, one behind the other; a name that holds a separator has a backslash before it. */
export function joinWay(names: readonly string[]): string {
  return names.map((name) => name.replace(/[\\/]/g, "\\$&")).join(SEPARATOR);
}

export function splitWay(way: string): string[] {
  const names = [""];
  for (let i = 0; i < way.length; i++) {
    if (way[i] === SEPARATOR) names.push("");
    else names[names.length - 1] += way[i] === "\\" && i + 1 < way.length ? way[++i] : way[i];
  }
  return names;
}

/** Titles of a tree's sheet: what the records at the top are in, what is above, depth and path, and the columns. */
export function treeTitles(table: TableGuide, columns: readonly string[]): string[] {
  const nested = table.treeSteps !== null;
  const around = nested ? table.outer : table.holder;
  return [
    ...[MARK_TITLE, ACTION_TITLE],
    ...(around === null ? [] : [around]),
    ...(nested ? [UPPER_TITLE] : []),
    ...[DEPTH_TITLE, WAY_TITLE],
    ...columns,
  ];
}

/** The records of one tree table, by place. */
export class TreeIndex {
  /** What records below call it: its key, or its mark. */
  readonly idents: string[] = [];
  readonly labels: string[] = [];
  /** Place of the record above, or -1. */
  readonly uppers: number[] = [];
  /** What the record at the top is in. */
  readonly outers: string[] = [];
  /** Where records name the one above: what they say. */
  readonly codes: string[] = [];
  readonly byIdent = new Map<string, number>();
  private readonly ways: (readonly string[] | null)[] = [];

  constructor(
    readonly table: TableGuide,
    /** Slot of what a way calls a record. */
    readonly labelSlot: number,
    /** Slot of the code of the record above, or -1. */
    readonly codeSlot: number,
  ) {}

  /** A way begins with what the tree is in, where there can be several of them. */
  get startsOutside(): boolean {
    return this.table.outer !== null;
  }

  /** Names from the top to the record; `null` where that goes round in a circle. */
  wayTo(place: number): readonly string[] | null {
    const line: number[] = [];
    let at = place;
    while (at >= 0 && this.ways[at] === undefined && !line.includes(at)) {
      line.push(at);
      at = this.uppers[at];
    }
    const round = at >= 0 && this.ways[at] === undefined;
    const start = this.startsOutside ? [this.outers[place]] : [];
    let way: readonly string[] | null = round ? null : at < 0 ? start : this.ways[at];
    for (const one of line.reverse()) this.ways[one] = way = way === null ? null : [...way, this.labels[one]];
    return this.ways[place];
  }

  depthText(place: number): string {
    const way = this.wayTo(place);
    return way === null ? "" : String(way.length - (this.startsOutside ? 1 : 0));
  }

  wayText(place: number): string {
    return joinWay(this.wayTo(place) ?? [this.labels[place]]);
  }

  /** What the sheet says of the record above. */
  upperText(place: number): string {
    if (this.codeSlot >= 0) return this.codes[place];
    return this.uppers[place] < 0 ? "" : this.idents[this.uppers[place]];
  }

  /** What the sheet says of what a record at the top is in. */
  outerText(place: number): string {
    return this.codeSlot < 0 && this.uppers[place] >= 0 ? "" : this.outers[place];
  }
}

export type Trees = ReadonlyMap<TableGuide, TreeIndex>;

export async function readTrees(parts: readonly Part[], guide: Guide): Promise<Trees> {
  const trees = new Map<TableGuide, TreeIndex>();
  for (const table of guide.tables) {
    const { tree, label, key, columns } = table.plan;
    if (tree === undefined) continue;
    const slotOf = (title: string | undefined): number => columns.findIndex((column) => column.title === title);
    trees.set(table, new TreeIndex(table, slotOf(label ?? key), tree.kind === "coded" ? slotOf(tree.column) : -1));
  }
  if (trees.size === 0) return trees;
  const assembler: Assembler = new Assembler(guide, {
    row: (row) => {
      const tree = trees.get(row.table);
      if (tree === undefined) return;
      const { place, parent } = row;
      const ident = assembler.identOf(row);
      tree.idents[place] = decode(ident.bytes, 0, ident.length);
      tree.labels[place] = assembler.text(row, tree.labelSlot);
      tree.uppers[place] = parent?.table === row.table ? parent.place : -1;
      const outer = row.table.treeSteps === null ? assembler.holderOf(row) : assembler.outerOf(row);
      tree.outers[place] = outer === null ? "" : decode(outer.bytes, 0, outer.length);
      if (tree.codeSlot >= 0) tree.codes[place] = assembler.text(row, tree.codeSlot);
    },
  });
  await scanParts(parts, (part) => assembler.begin(part));
  for (const tree of trees.values()) {
    tree.idents.forEach((ident, place) => tree.byIdent.has(ident) || tree.byIdent.set(ident, place));
    tree.codes.forEach((code, place) => (tree.uppers[place] = tree.byIdent.get(code) ?? -1));
  }
  return trees;
}
