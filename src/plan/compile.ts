/**
 * Compiles a plan: makes the trie of places that a scanner steps along, and for each table
 * the slots its rows are assembled in.
 */
import { pushAll } from "../bytes/lists.js";
import { PlanError } from "../errors/error.js";
import { PlaceNode, Wants, type Dialect } from "../formats/format.js";
import { Kind } from "../model/kind.js";
import { markSalt } from "../model/marks.js";
import { formatPath, stepsBetween, type Step } from "../model/path.js";
import {
  ACTION_TITLE,
  FILE_TITLE,
  MARK_TITLE,
  UPPER_TITLE,
  type ColumnPlan,
  type InlineColumnPlan,
  type Plan,
  type TablePlan,
} from "../model/plan.js";

/** A source of the plan: how it is written, and its files among all those that are read. */
export interface CompiledSource {
  readonly dialect: Dialect;
  /** Number of its first file, and how many there are. */
  readonly first: number;
  readonly count: number;
  /** Records at the top have a column that says in which file they are. */
  readonly set: boolean;
  readonly root: PlaceNode;
}

export interface CompiledTable {
  readonly index: number;
  readonly source: CompiledSource;
  readonly plan: TablePlan;
  readonly node: PlaceNode;
  readonly parent: CompiledTable | null;
  /** Tables whose records are inside the records of this one. */
  readonly children: CompiledTable[];
  /** All tables whose rows are somewhere inside the records of this one, said or not. */
  readonly nested: { readonly steps: readonly Step[]; readonly table: CompiledTable }[];
  /** The table in whose sheet these records are shown, when they have none of their own. */
  readonly host: CompiledTable | null;
  /** Columns of lists that are shown in this table's sheet. Their slots come behind those of the columns. */
  readonly inline: InlineColumn[];
  /** Slots of columns that are filled down. */
  readonly fills: readonly number[];
  /** Labels by key, where sheets show them beside codes. */
  readonly labels: Map<string, string>;
  /** Slots of the sheet's columns, in order. */
  readonly shown: readonly number[];
  /** Slot of the key column, or -1. A row's slots are its columns, in the order of the plan. */
  readonly keySlot: number;
  /** From the parent's record (or the top) to the list of these records. */
  readonly steps: readonly Step[];
  /** From a record to the list of those of its own kind in it, where there can be such; else `null`. */
  readonly treeSteps: readonly Step[] | null;
  /** Starting value of the check characters of this table's marks. */
  readonly salt: number;
  /** By slot: 1 where the sheet shows another word for the value (choices). */
  readonly spelled: Uint8Array;
  /** By slot: the kind that a blank cell stands for. */
  readonly blanks: Uint8Array;
  /** By slot: where the column's values are met. */
  readonly nodes: readonly PlaceNode[];
  /** Title of the column that says what the record is in: the parent, or the file; `null` when there is none. */
  readonly holder: string | null;
  /** The same for the records at the top of a tree, whose `holder` says what is above a record. */
  readonly outer: string | null;
  /** Columns of this table that refer to others. */
  readonly references: Reference[];
  /** Titles of the sheet, in order: mark, action, parent or file, columns. */
  readonly titles: readonly string[];
}

/** A column of a sheet that shows a list inside the record. */
export interface InlineColumn {
  readonly column: InlineColumnPlan;
  /** Table of the list's records, and slot in it. */
  readonly table: CompiledTable;
  readonly slot: number;
  /** Slot of what stands there instead of a list, of the code whose label is shown, or of the key that links name. */
  readonly standInSlot: number;
  /** Where the column shows the other ends of links. */
  readonly links: Links | null;
}

/** One end of a link, as it is seen from the other. */
export interface LinkEnd {
  /** Place of the link in its table. */
  readonly place: number;
  readonly shown: string;
}

/** The links to the records of a table, as they are seen from there. */
export interface Links {
  /** Slot of the code that names the record, in the table of the links; -1 for the record around. */
  readonly bySlot: number;
  /** The other ends, by key, in the order of the source. */
  readonly ends: Map<string, LinkEnd[]>;
}

/** A column whose values are keys of another table. */
export interface Reference {
  readonly table: CompiledTable;
  readonly slot: number;
  /** Slot of the label beside the code, or -1. */
  readonly labelSlot: number;
  /** Slot of the sheet's column that shows the label, when it does not stand beside the code; or -1. */
  readonly shownSlot: number;
  readonly copied: boolean;
  readonly target: CompiledTable;
  /** Slot of the label in the record referred to, or -1. */
  readonly targetLabelSlot: number;
  readonly only?: string;
}

export interface CompiledPlan {
  readonly sources: readonly CompiledSource[];
  readonly tables: readonly CompiledTable[];
}

/** A step from a node, which may be new. */
type Walk = (node: PlaceNode, one: Step) => PlaceNode;

export function compilePlan(plan: Plan, given: readonly Omit<CompiledSource, "root">[]): CompiledPlan {
  const sources = given.map((source): CompiledSource => ({ ...source, root: new PlaceNode() }));
  const tables: CompiledTable[] = [];
  const walk =
    (dialect: Dialect): Walk =>
    (node, one) => {
      node.entered = true;
      if (one.kind === "any") {
        node.any ??= new PlaceNode();
        node.any.starred = true;
        node.item = node.any;
        return node.any;
      }
      if (one.kind === "place") return (node.places[one.place] ??= new PlaceNode());
      let next = node.byName.get(one.name);
      if (next === undefined) {
        next = new PlaceNode();
        node.addName(one.name, next, dialect.encodeName(one.name));
      }
      return next;
    };

  // parents first, so that a child finds what its parent was compiled to
  const byDepth = plan.tables
    .map((table, index) => ({ table, index }))
    .sort((a, b) => a.table.rows.steps.length - b.table.rows.steps.length);
  for (const { table, index } of byDepth) {
    const source = sources[sourceIndex(plan, table)];
    const { dialect, set } = source;
    const step = walk(dialect);
    let node = source.root;
    node.steps = true;
    for (const one of table.rows.steps) {
      node = step(node, one);
      node.steps = true;
    }
    if (node.table >= 0) {
      throw new PlanError("plan-rows-twice", { table: table.name, other: plan.tables[node.table].name, rows: formatPath(table.rows) });
    }
    node.table = index;
    node.take |= Wants.Row;
    const parent = table.inside === undefined ? null : (tables.find((t) => t?.plan.name === table.inside) ?? null);
    const treeSteps = table.tree?.kind === "nested" ? table.tree.at.steps : null;
    if (treeSteps !== null) linkTree(node, treeSteps, step, dialect);
    const holder = treeSteps !== null ? UPPER_TITLE : parent !== null ? parent.plan.name : set ? FILE_TITLE : null;
    const taken = table.host === undefined ? table.columns.find((column) => column.title === holder) : undefined;
    if (taken !== undefined) throw new PlanError("plan-title-taken", { table: table.name, title: taken.title }, taken.place);
    const compiled: CompiledTable = {
      index,
      source,
      holder,
      treeSteps,
      outer: treeSteps === null ? null : (parent?.plan.name ?? (set ? FILE_TITLE : null)),
      plan: table,
      node,
      parent,
      children: [],
      nested: [],
      references: [],
      host: table.host === undefined ? null : parent,
      inline: [],
      labels: new Map(),
      shown: table.shown,
      nodes: [],
      blanks: Uint8Array.from(table.columns, ({ blank }) => (blank === "null" ? Kind.Null : blank === "empty" ? Kind.Text : Kind.Absent)),
      spelled: Uint8Array.from(table.columns, (column) => (column.choices === undefined ? 0 : 1)),
      fills: table.columns.flatMap((column, slot) => (column.fillDown === true ? [slot] : [])),
      keySlot: table.key === undefined ? -1 : table.columns.findIndex((column) => column.title === table.key),
      steps: parent === null ? table.rows.steps : (stepsBetween(parent.plan.rows, table.rows) ?? []),
      salt: markSalt(table.name),
      titles: [MARK_TITLE, ACTION_TITLE, ...(holder === null ? [] : [holder]), ...table.shown.map((slot) => titleOf(table, slot))],
    };
    tables[index] = compiled;
    parent?.children.push(compiled);
  }
  for (const compiled of tables) {
    for (const table of tables) {
      const steps = table === compiled || table.source !== compiled.source ? null : stepsBetween(compiled.plan.rows, table.plan.rows);
      if (steps !== null) compiled.nested.push({ steps, table });
    }
    for (const [slot, column] of compiled.plan.columns.entries()) {
      (compiled.nodes as PlaceNode[])[slot] = placeColumn(compiled, column, slot, walk(compiled.source.dialect));
    }
  }
  for (const compiled of tables) {
    pushAll(compiled.references, referencesOf(compiled, tables));
    pushAll(compiled.inline, inlineColumnsOf(compiled, tables));
  }
  return { sources, tables };
}

/** Number of the source that a table is in. */
export function sourceIndex({ sources }: Plan, { from }: TablePlan): number {
  return from === undefined ? 0 : sources.findIndex(({ name }) => name === from);
}

/** The last step of a tree leads to a record of the same kind. */
function linkTree(node: PlaceNode, steps: readonly Step[], step: Walk, dialect: Dialect): void {
  let at = node;
  for (const one of steps.slice(0, -1)) at = step(at, one);
  at.entered = true;
  const last = steps.at(-1)!;
  if (last.kind === "name") at.addName(last.name, node, dialect.encodeName(last.name));
  else if (last.kind === "place") at.places[last.place] = node;
  else {
    at.any = at.item = node;
    node.starred = true;
  }
}

/** From the record that these are in, of a table or of their own, to their list. */
export function stepsFrom(outer: CompiledTable | null, table: CompiledTable): readonly Step[] {
  return outer === table ? table.treeSteps! : table.steps;
}

/** Title of a sheet's column. */
export function titleOf({ columns, inline }: TablePlan, slot: number): string {
  return (slot < columns.length ? columns[slot] : inline[slot - columns.length]).title;
}

const paths = new WeakMap<ColumnPlan, readonly Step[]>();

/** The steps from the top to the values of a table's column. */
export function stepsTo({ rows }: TablePlan, column: ColumnPlan): readonly Step[] {
  const known = paths.get(column);
  if (known !== undefined) return known;
  const steps = [...rows.steps, ...column.at.steps];
  paths.set(column, steps);
  return steps;
}

/** Slot of the column of that title, or -1. */
export function slotOf({ columns, inline }: TablePlan, title: string): number {
  const own = columns.findIndex((column) => column.title === title);
  const shown = own >= 0 ? own : inline.findIndex((column) => column.title === title);
  return own >= 0 || shown < 0 ? shown : columns.length + shown;
}

function inlineColumnsOf({ plan }: CompiledTable, tables: readonly CompiledTable[]): InlineColumn[] {
  return plan.inline.map((column) => {
    const table = tables.find((one) => one.plan.name === column.table)!;
    const own = table.plan.columns.findIndex((one) => one.title === column.column);
    // a list in a list is shown in the same cell
    const deeper = table.plan.inline.findIndex((one) => one.title === column.column);
    const slot = own < 0 && deeper >= 0 ? table.plan.columns.length + deeper : own;
    const { lookup } = column;
    if (column.through === true) {
      const bySlot = table.plan.columns.findIndex((one) => one.refers === plan.name);
      const standInSlot = plan.columns.findIndex(({ title }) => title === plan.key);
      return { column, table, slot, standInSlot, links: { bySlot, ends: new Map() } };
    }
    const standInSlot = plan.columns.findIndex((one) =>
      lookup === undefined ? one.hidden === true && one.title === column.table : one.title === lookup,
    );
    return { column, table, slot, standInSlot, links: null };
  });
}

function referencesOf(table: CompiledTable, tables: readonly CompiledTable[]): Reference[] {
  const { columns } = table.plan;
  return columns.flatMap(({ title, refers, only, copied = false }, slot) => {
    const target = tables.find((one) => one.plan.name === refers);
    if (target === undefined) return [];
    const labelSlot = columns.findIndex((one) => one.labelOf === title);
    const targetLabelSlot = target.plan.columns.findIndex((one) => one.title === target.plan.label);
    const shown = table.plan.inline.findIndex((one) => one.lookup === title);
    const shownSlot = shown < 0 ? -1 : columns.length + shown;
    return [{ table, slot, labelSlot, shownSlot, copied, target, targetLabelSlot, only }];
  });
}

function placeColumn(compiled: CompiledTable, column: ColumnPlan, slot: number, step: Walk): PlaceNode {
  const { dialect } = compiled.source;
  let node = compiled.node;
  // where members repeat there is no list that could be empty, or null
  if (column.hidden === true && dialect.repeats) return new PlaceNode();
  if (column.at.steps.length === 0) {
    if (column.at.end === "key") node.nameSlot = slot;
    else if (column.at.end === "index") node.indexSlot = slot;
    else {
      node.selfSlot = slot;
      return (node.own = cellNode(new PlaceNode(), compiled, slot));
    }
    return node;
  }
  for (const one of column.at.steps) node = step(node, one);
  if (node.slot >= 0 || (dialect.repeats && node.table >= 0)) {
    throw new PlanError("plan-column-twice", { table: compiled.plan.name, column: column.title, at: formatPath(column.at) });
  }
  node.own = node;
  return cellNode(node, compiled, slot);
}

function cellNode(node: PlaceNode, compiled: CompiledTable, slot: number): PlaceNode {
  node.slot = slot;
  node.owner = compiled.index;
  node.take |= Wants.Cell;
  return node;
}

/** The table in whose rows the records of a table are shown: its own, unless it is a list in another's cells. */
export function hostTable(table: CompiledTable): CompiledTable {
  return table.host === null ? table : hostTable(table.host);
}

/** The table in whose sheet the records of a table are shown. */
export function sheetTable(table: CompiledTable): CompiledTable {
  let one = hostTable(table);
  while (one.plan.stacked !== undefined && one.parent !== null) one = one.parent;
  return one;
}

/** The table in whose sheet a record is shown. */
export function sheetName(table: CompiledTable): string {
  return hostTable(table).plan.name;
}
