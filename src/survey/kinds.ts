/**
 * From the tree of places to record kinds: what would be a table, what its columns, and what is
 * inside what. The survey's report and the draft of a plan both read this.
 */
import type { Dialect } from "../formats/format.js";
import { Kind } from "../model/kind.js";
import { formatPath, type Path, type Step } from "../model/path.js";
import { looksKeyed } from "./keyed.js";
import type { ShapeNode } from "./node.js";

/** A value of a record that would be one column. */
export interface FieldShape {
  /** From the record to the value. */
  readonly at: Path;
  readonly node: ShapeNode;
  /**
   * `scalar`; `rest`: what is left when the record or list here is taken apart elsewhere (null, `[]`,
   * `{}`, odd scalars); `verbatim`: records and lists kept as they are written; `name`: the member's name.
   */
  readonly form: "scalar" | "rest" | "verbatim" | "name";
  /** In how many of the kind's records it is there. */
  readonly present: number;
}

/** Records of one kind: the items of a list, the members of a keyed record, or the document itself. */
export interface RecordKind {
  readonly name: string;
  readonly rows: Path;
  readonly node: ShapeNode;
  readonly form: "document" | "list" | "keyed";
  readonly count: number;
  readonly parent: RecordKind | null;
  readonly fields: FieldShape[];
  readonly children: RecordKind[];
  /** The list or keyed record that holds them, as the parent sees it. */
  readonly holder: ShapeNode;
  /** From the parent's record to the holder. */
  readonly steps: readonly Step[];
  /** Same fields as a kind it is inside of. */
  readonly recursive: boolean;
  /** Records of many lists: `[[1, 2], [3, 4]]`. */
  readonly positional: boolean;
}

const MOST_FIELDS = 80;
const MOST_PLACES = 8;
const MOST_NESTING = 24;

/** Is it said elsewhere that what is here may come more than once? */
export type IsList = (steps: readonly Step[]) => boolean;

/** All record kinds, in the order in which they were met. Records that no name in the source stands for are called as the `file` is. */
export function findKinds(root: ShapeNode, dialect: Pick<Dialect, "repeats">, file: string, isList: IsList = () => false): RecordKind[] {
  const kinds: RecordKind[] = [];
  // where members of one name are a list, their names are never data, and one alone may be the only item
  const [isKeyed, may] = dialect.repeats ? [() => false, isList] : [keyed, () => false];
  new Finder(kinds, isKeyed, may, calledAs(file)).document(root);
  nameApart(kinds);
  return kinds;
}

/** The document itself, when it has nothing but lists and keyed records in it: no table of interest. */
export function isHollow(kind: RecordKind): boolean {
  return kind.form === "document" && kind.fields.length === 0 && kind.children.length > 0;
}

class Finder {
  constructor(
    private readonly kinds: RecordKind[],
    private readonly keyed: (node: ShapeNode) => boolean,
    private readonly isList: IsList,
    private readonly called: string,
  ) {}

  document(root: ShapeNode): void {
    if (root.filledLists > 0) {
      this.list(root, null, [], []);
      return;
    }
    if (root.filledRecords > 0 && this.keyed(root)) {
      this.members(root, null, [], []);
      return;
    }
    const kind = this.add(
      {
        name: "document",
        node: root,
        holder: root,
        parent: null,
        steps: [],
        form: "document",
        count: Math.max(1, root.count - root.filledLists - root.emptyLists),
      },
      [],
    );
    this.fill(kind);
  }

  private add(
    made: Pick<RecordKind, "name" | "node" | "holder" | "parent" | "steps" | "form" | "count">,
    rows: readonly Step[],
  ): RecordKind {
    const { node, name, parent } = made;
    const positional = node.filledLists > 0 && node.filledRecords + node.scalars === 0 && isPositional(node);
    const kind: RecordKind = {
      ...made,
      rows: { steps: rows, end: "value" },
      parent: parent?.form === "document" ? null : parent,
      fields: [],
      children: [],
      recursive: repeatsAbove(node, name, parent),
      positional,
    };
    this.kinds.push(kind);
    parent?.children.push(kind);
    return kind;
  }

  private list(holder: ShapeNode, parent: RecordKind | null, rows: readonly Step[], steps: readonly Step[]): void {
    // one or many: records that stand alone where others have a list are items of it
    const items = holder.item as ShapeNode;
    if (holder.filledRecords > 0) items.absorb(recordsOf(holder));
    const single = holder.filledRecords + (holder.scalars > 0 ? holder.scalars : 0);
    const kind = this.add(
      { name: nameOf(rows, parent, this.called), node: items, holder, parent, steps, form: "list", count: holder.items + single },
      rows,
    );
    this.fill(kind);
  }

  private members(holder: ShapeNode, parent: RecordKind | null, rows: readonly Step[], steps: readonly Step[]): void {
    const all = holder.members.length > 0 || holder.any === null ? holder.collapse() : (holder.any as ShapeNode);
    const any: Step = { kind: "any" };
    const count = all.count - all.filledLists - all.emptyLists + all.items;
    const node = all.filledLists > 0 && all.item !== null ? withRecordsOf(all) : all;
    const kind = this.add({ name: nameOf(rows, parent, this.called), node, holder, parent, steps: [...steps, any], form: "keyed", count }, [
      ...rows,
      any,
    ]);
    kind.fields.push({ at: { steps: [], end: "key" }, node: all, form: "name", present: count });
    this.fill(kind);
  }

  /** Finds the columns of a kind, and the kinds inside it. */
  private fill(kind: RecordKind): void {
    const { node } = kind;
    if (node.mixed > 0) {
      kind.fields.push({ at: { steps: [], end: "value" }, node, form: "verbatim", present: node.count });
      for (const [name, member] of node.byName) if (name.startsWith("@")) this.member(kind, member as ShapeNode, [{ kind: "name", name }]);
      return;
    }
    const text = node.ownText();
    if (text !== null) {
      this.ownMembers(kind);
      kind.fields.push({ at: { steps: [], end: "value" }, node: text, form: "scalar", present: text.records });
      return;
    }
    if (node.filledRecords > 0) {
      if (kind.form !== "document" && this.keyed(node)) this.members(node, kind, kind.rows.steps, []);
      else this.ownMembers(kind);
    }
    if (kind.positional) this.places(kind);
    const own = { at: { steps: [], end: "value" } as Path, node };
    if (node.filledLists > 0 && !kind.positional) kind.fields.push({ ...own, form: "verbatim", present: node.count - node.nulls });
    else if (
      (node.scalars > 0 && (node.longest > 0 || node.filledRecords === 0)) ||
      (node.nulls > 0 && kind.form !== "document") ||
      kind.fields.length + kind.children.length === 0
    ) {
      kind.fields.push({
        ...own,
        form: node.filledRecords > 0 || kind.positional ? "rest" : "scalar",
        present: node.scalars + node.nulls,
      });
    }
  }

  private ownMembers(kind: RecordKind): void {
    for (const [name, member] of kind.node.byName) this.member(kind, member as ShapeNode, [{ kind: "name", name }]);
  }

  private places(kind: RecordKind): void {
    const item = kind.node.item as ShapeNode;
    for (let place = 0; place < kind.node.mostItems; place++) {
      kind.fields.push({
        at: { steps: [{ kind: "place", place }], end: "value" },
        node: item,
        form: "scalar",
        present: kind.node.filledLists,
      });
    }
  }

  private member(kind: RecordKind, node: ShapeNode, steps: readonly Step[]): void {
    const at: Path = { steps, end: "value" };
    const rows = [...kind.rows.steps, ...steps];
    const field = (form: FieldShape["form"], present = node.records): void => void kind.fields.push({ at, node, form, present });
    if (node.filledLists === 0 && this.isList(rows)) node.makeList();
    const text = node.ownText();
    const scalars = node.longest > 0 ? node.scalars : 0;
    const leftOver = node.nulls + node.emptyRecords + node.emptyLists > 0;
    if (node.depth > MOST_NESTING || kind.fields.length >= MOST_FIELDS) {
      field(node.filledLists + node.filledRecords > 0 ? "verbatim" : "scalar");
    } else if (node.mixed > 0) field("verbatim");
    else if (node.filledLists > 0) {
      if (node.nulls + node.emptyLists > 0) field("rest", node.nulls + node.emptyLists);
      this.list(node, kind, rows, steps);
    } else if (node.filledRecords > 0 && this.keyed(node)) {
      if (leftOver || node.scalars > 0) field("rest", node.records - node.filledRecords);
      this.members(node, kind, rows, steps);
    } else if (node.filledRecords > 0) {
      if (text !== null) kind.fields.push({ at, node: text, form: "scalar", present: text.records });
      else if (leftOver || scalars > 0) field("rest", node.records - node.filledRecords);
      for (const [name, inner] of node.byName) this.member(kind, inner as ShapeNode, [...steps, { kind: "name", name }]);
    } else field("scalar");
  }
}

/** Are the inner lists short, of scalars, and of much the same length? */
function isPositional(node: ShapeNode): boolean {
  const item = node.item as ShapeNode | null;
  if (item === null || item.filledRecords + item.filledLists > 0) return false;
  return node.mostItems <= MOST_PLACES && node.items >= 0.75 * node.mostItems * node.filledLists;
}

function keyed(node: ShapeNode): boolean {
  return node.any !== null || looksKeyed(node);
}

/** The records of a node that holds lists elsewhere, seen as items. */
function recordsOf(node: ShapeNode): ShapeNode {
  const Node = node.constructor as new (depth: number) => ShapeNode;
  const alone = new Node(node.depth + 1);
  node.byName.forEach((member, name) => alone.addName(name, member, node.nameBytes[node.nameNodes.indexOf(member)]));
  alone.any = node.any;
  alone.count = node.filledRecords;
  alone.kinds[Kind.Record] = node.filledRecords;
  return alone;
}

function withRecordsOf(all: ShapeNode): ShapeNode {
  const items = all.item as ShapeNode;
  if (all.filledRecords > 0) items.absorb(recordsOf(all));
  return items;
}

function repeatsAbove(node: ShapeNode, name: string, parent: RecordKind | null): boolean {
  const mine = node.names;
  if (mine.length === 0) return false;
  for (let above = parent; above !== null; above = above.parent) {
    const theirs = new Set(above.node.names);
    const shared = mine.filter((one) => theirs.has(one)).length;
    if (shared >= 0.6 * mine.length && (mine.includes(name) || above.name === name)) return true;
  }
  return false;
}

function nameOf(rows: readonly Step[], parent: RecordKind | null, called: string): string {
  const above = parent === null || parent.form === "document" ? 0 : parent.rows.steps.length;
  for (let i = rows.length - 1; i >= above; i--) {
    const step = rows[i];
    if (step.kind === "name" && step.name.trim() !== "") return step.name.trim();
  }
  return parent === null ? called : `${parent.name} items`;
}

/** `lights.json` holds lights; what has no name of its own, or is one of many files, records. */
function calledAs(file: string): string {
  const name = file.replace(/^.*[\\/]/, "").replace(/(?:\.[a-z]{1,7}\d?)+$/i, "");
  return /\p{L}/u.test(name) && name !== "source" && name !== "stdin" ? name : "records";
}

/** Gives kinds of one name the names of what they are inside of, until all differ (as file names, too). */
function nameApart(kinds: RecordKind[]): void {
  const taken = new Set<string>();
  for (const kind of kinds) {
    const own = cleanName(kind.name);
    const candidates = [own];
    for (let above = kind.parent, prefix = own; above !== null; above = above.parent) {
      prefix = `${cleanName(above.name)} ${prefix}`.slice(-80).trim();
      candidates.push(prefix);
    }
    let name = candidates.find((one) => !taken.has(one.toLowerCase()));
    for (let n = 2; name === undefined; n++) {
      const numbered = `${own} ${n}`;
      if (!taken.has(numbered.toLowerCase())) name = numbered;
    }
    taken.add(name.toLowerCase());
    (kind as { name: string }).name = name;
  }
}

/** A name that can be a file name anywhere, and the title of a column beside those that every sheet has. */
export function cleanName(name: string): string {
  const clean = name
    .normalize("NFC")
    .replace(/[^\p{L}\p{N}\p{M} _-]+/gu, " ")
    .replace(/\s+/g, " ")
    .trim()
    .slice(0, 60)
    .trim();
  return clean === "" || /^(?:__proto__|con|prn|aux|nul|com\d|lpt\d|fold mark|fold action|in file)$/i.test(clean)
    ? `table ${clean}`.trim()
    : clean;
}

export function kindPath(kind: RecordKind): string {
  return formatPath(kind.rows);
}
