/** A draft and its edits as people read them: changes, counts, notes. */
import { pushAll } from "../bytes/lists.js";
import type { Change, Problem } from "../model/findings.js";
import { followingLinks } from "../relations/follows.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { Comparison } from "./comparison.js";
import { cellChanges } from "./diff.js";
import type { DraftEdits } from "./edits.js";

export type Described = Omit<
  Comparison,
  | "expectation"
  | "goneRows"
  | "inner"
  | "encodings"
  | "unproved"
  | "parts"
  | "styles"
  | "receipt"
  | "archive"
  | "corrections"
  | "unfit"
  | "only"
>;

export function describe(draft: Draft, { edits, changes: whole }: DraftEdits, ctx: Context): Described {
  const { compiled, findings } = ctx;
  const taken = draft.rows.filter((row) => !draft.rejected.has(row));
  const changes: Change[] = [];
  pushAll(changes, taken.flatMap(cellChanges));
  pushAll(changes, whole);
  const told = withIds(changes, draft, ctx);
  const order = new Map(compiled.tables.map((table, i) => [table.plan.name, i]));
  // what follows the edits of others comes behind them
  const place = ({ row, kind }: { row: number; kind?: string }): number =>
    row === 0 && kind !== undefined && kind !== "removed" ? Number.MAX_SAFE_INTEGER : row;
  const inOrder = <T extends { table: string; row: number }>(list: readonly T[]): T[] =>
    [...list].sort((a, b) => (order.get(a.table) ?? 0) - (order.get(b.table) ?? 0) || place(a) - place(b));
  const ofKind = (kind: Change["kind"]): Change[] => told.filter((change) => change.kind === kind);
  const recordsOfKind = (kind: Change["kind"]): number =>
    new Set(ofKind(kind).map(({ table, row, record }) => `${table}\n${row}\n${record}`)).size;
  return {
    counts: {
      unchanged: draft.unchanged,
      changed: recordsOfKind("changed"),
      added: ofKind("added").length,
      removed: ofKind("removed").length,
      moved: recordsOfKind("moved"),
      healed: draft.healed.length,
      problems: findings.problems.length,
      warnings: findings.warnings.length,
    },
    changes: inOrder(told),
    healed: inOrder(draft.healed),
    problems: withLines(inOrder(findings.problems), ctx),
    warnings: withLines(inOrder(findings.warnings), ctx),
    notes: findings.notes,
    follows: followingLinks(
      compiled,
      taken,
      draft.news.filter((row) => !draft.rejected.has(row)),
    ),
    edits,
    aside: inOrder(draft.aside),
  };
}

/** Of rows that are lines of the source, which these are. */
function withLines(problems: readonly Problem[], { base, sheets }: Context): readonly Problem[] {
  const asked = new Set(problems.map(({ table, row }) => `${row} ${table}`));
  const lines = new Map<string, number>();
  if (asked.size > 0)
    for (const { table, sheetRow, line } of base.snapshots) {
      const seen = line === 0 || sheetRow === 0 ? undefined : sheets[table.index]?.seenRow(sheetRow);
      const row = `${seen} ${table.plan.name}`;
      if (asked.has(row)) lines.set(row, line);
    }
  return lines.size === 0
    ? problems
    : problems.map((problem) => {
        const line = lines.get(`${problem.row} ${problem.table}`);
        return line === undefined ? problem : { ...problem, line };
      });
}

/** New rows that items of packed cells call by their names are told of by their ids. */
function withIds(changes: readonly Change[], { news }: Draft, { compiled }: Context): readonly Change[] {
  const ids = new Map<CompiledTable, Map<string, string>>();
  for (const { table, name, contents } of news) {
    if (name === "" || table.keySlot < 0) continue;
    ids.set(table, (ids.get(table) ?? new Map<string, string>()).set(name, contents[table.keySlot] ?? name));
  }
  if (ids.size === 0) return changes;
  const resolved = (table: string, title: string, cell: string): string => {
    const inline = compiled.tables.find(({ plan }) => plan.name === table)?.inline.find(({ column }) => column.title === title);
    const reference = inline?.table.references.find(({ slot }) => slot === inline.slot);
    const known = reference === undefined ? undefined : ids.get(reference.target);
    if (inline === undefined || known === undefined) return cell;
    const { separator = "\n" } = inline.column;
    return cell
      .split(separator)
      .map((item) => item.replace(item.trim(), (name) => known.get(name) ?? name))
      .join(separator);
  };
  return changes.map((change) => ({
    ...change,
    new: change.kind === "changed" && change.new !== null ? resolved(change.table, change.column, change.new) : change.new,
    ...(change.cells === undefined
      ? {}
      : { cells: Object.fromEntries(Object.entries(change.cells).map(([title, cell]) => [title, resolved(change.table, title, cell)])) }),
  }));
}

/** The lists that added rows go to, as pointers: one more pass over the source when there are any. */
export async function placeAdded(edits: DraftEdits, { records, pointers }: Context): Promise<DraftEdits> {
  const { changes, addedTo } = edits;
  const trails = await records.trails(new Set(addedTo.values()));
  if (trails.size === 0) return edits;
  const placed: Change[] = [];
  for (const change of changes) {
    const parent = addedTo.get(change);
    const trail = parent === undefined ? undefined : trails.get(parent);
    placed.push(trail === undefined ? change : { ...change, path: (await pointers.of(trail)) + change.path });
  }
  return { ...edits, changes: placed };
}

/** New rows with something in a column that shows links: it says nothing there. */
export function noteLinksNotTaken({ news }: Draft, { compiled, findings }: Context): void {
  for (const { plan, inline } of compiled.tables) {
    for (const [i, { column, links, table }] of inline.entries()) {
      if (links === null) continue;
      const slot = plan.columns.length + i;
      const filled = news.filter((row) => row.table.plan === plan && (row.contents[slot] ?? "").trim() !== "");
      const facts = { title: column.title, links: table.plan.name, rows: filled.map(({ sheet, row }) => sheet.seenRow(row)) };
      if (filled.length > 0) findings.note("links-not-taken", facts, plan.name);
    }
  }
}
