/**
 * The order of child elements, learnt from all elements of a file: a schema with a sequence takes a new child only where its
 * siblings have it. What stands right behind what is kept for the elements that edits put something into; where that makes no
 * circle, one name is before another (a topological order).
 */
import type { ByteSource } from "../../bytes/source.js";
import type { Edit, MovedRecord, NewRecord } from "../../edits/edit.js";
import type { Step } from "../../model/path.js";
import type { Entities } from "./entities.js";
import { watchTags } from "./layout.js";
import { NO_SCOPE, scopeIn, type PlanNames, type Scope } from "./scope.js";

/** The children of all elements at one path. */
export class ChildOrder {
  private readonly inner = new Map<string, ChildOrder>();
  private any: ChildOrder | null = null;
  /** Names that stood right behind each name. */
  private readonly behind = new Map<string, Set<string>>();
  private readonly reached = new Map<string, ReadonlySet<string>>();

  /** What is known of the children of a child; nothing where no edit asks. */
  at(name: string): ChildOrder | null {
    return this.inner.get(name) ?? this.any;
  }

  /** The same, to be learnt. */
  wanted(step: Step): ChildOrder {
    if (step.kind !== "name") return (this.any ??= new ChildOrder());
    const known = this.inner.get(step.name) ?? new ChildOrder();
    this.inner.set(step.name, known);
    return known;
  }

  met(before: string, name: string): void {
    const names = this.behind.get(before) ?? new Set<string>();
    this.behind.set(before, names.add(name));
  }

  /** Do the elements agree that `one` stands before `other`? */
  isBefore(one: string, other: string): boolean {
    return this.reach(one).has(other) && !this.reach(other).has(one);
  }

  /** The names in order; where nothing is known of two, as they are given. */
  sorted(names: readonly string[]): string[] {
    const left = [...names];
    const sorted: string[] = [];
    while (left.length > 0) {
      const first = left.findIndex((name) => !left.some((other) => other !== name && this.isBefore(other, name)));
      sorted.push(left[Math.max(0, first)]);
      left.splice(Math.max(0, first), 1);
    }
    return sorted;
  }

  private reach(name: string): ReadonlySet<string> {
    const known = this.reached.get(name);
    if (known !== undefined) return known;
    const reached = new Set<string>();
    const open = [name];
    for (let at = open.pop(); at !== undefined; at = open.pop())
      for (const next of this.behind.get(at) ?? [])
        if (!reached.has(next)) {
          reached.add(next);
          open.push(next);
        }
    this.reached.set(name, reached);
    return reached;
  }
}

/** Learns the order of children where edits put elements into others: one pass over the file, if there are such. */
export async function learnOrders(
  edits: readonly Edit[],
  source: ByteSource,
  { entities, names }: { readonly entities: Entities; readonly names: PlanNames },
): Promise<ChildOrder> {
  const root = new ChildOrder();
  const asked = edits.map((edit) => ask(root, edit)).includes(true);
  if (!asked) return root;
  const open: (ChildOrder | null)[] = [];
  const last: (string | null)[] = [];
  const scopes: Scope[] = [];
  await watchTags(source, entities, (depth, tag) => {
    const scope = depth === 0 ? NO_SCOPE : scopes[depth - 1];
    if (names.bound) scopes[depth] = scopeIn(scope, tag);
    const around = depth === 0 ? root : open[depth - 1];
    last[depth + 1] = null;
    open[depth] = null;
    if (around === null) return true;
    const name = names.canonical(tag.tagName, names.bound ? scopes[depth] : NO_SCOPE, false);
    const before = last[depth] ?? null;
    if (before !== null && before !== name) around.met(before, name);
    last[depth] = name;
    open[depth] = around.at(name);
    return true;
  });
  return root;
}

/** Says where an edit puts child elements; false when it puts none. */
function ask(root: ChildOrder, edit: Edit): boolean {
  if (edit.kind === "fields") {
    const at = way(root, edit.path);
    const added = edit.add.filter(({ steps }) => isElement(steps[0]));
    for (const { steps } of added) way(at, steps.slice(0, -1));
    return added.length > 0;
  }
  if (edit.kind !== "add") return false;
  const at = way(root, edit.path.slice(0, -1));
  for (const record of edit.records) askOf(at.wanted(edit.path.at(-1)!), record);
  return true;
}

function askOf(at: ChildOrder, record: NewRecord | MovedRecord): void {
  if ("moved" in record) return;
  for (const { steps } of record.fields) way(at, steps.slice(0, -1));
  for (const { steps, records } of record.inner) for (const one of records) askOf(way(at, steps), one);
}

function way(from: ChildOrder, steps: readonly Step[]): ChildOrder {
  return steps.reduce((at, step) => at.wanted(step), from);
}

function isElement(step: Step | undefined): boolean {
  return step?.kind === "name" && !step.name.startsWith("@");
}
