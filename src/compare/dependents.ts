/**
 * Rows that make no sense without rows that are left out: a code whose record does not come, a record that goes though a
 * row that stays refers to it, a label whose copies do not follow.
 */
import { keyHash } from "../rows/sheet.js";
import type { Reference } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";

type AnyRow = DifferingRow | NewRow;

/** Rows of the draft that are not left out yet, and have to be. */
export function findDependents(draft: Draft, ctx: Context, rejected: ReadonlySet<AnyRow>): Set<AnyRow> {
  const found = new Set<AnyRow>();
  if (rejected.size === 0) return found;
  for (const { references } of ctx.compiled.tables)
    for (const reference of references) {
      const ends = new Ends(reference, draft, rejected);
      for (const row of [...ends.takers(ctx), ...ends.removers(ctx), ...ends.labels()]) if (!rejected.has(row)) found.add(row);
    }
  return found;
}

/** The rows at both ends of a reference: those that say codes, and those whose records have them. */
class Ends {
  private readonly rows: readonly DifferingRow[];
  private readonly news: readonly NewRow[];
  private readonly targets: readonly DifferingRow[];
  private readonly newTargets: readonly NewRow[];

  constructor(
    private readonly reference: Reference,
    private readonly draft: Draft,
    private readonly rejected: ReadonlySet<AnyRow>,
  ) {
    const { table, target } = reference;
    this.rows = draft.rows.filter(({ snapshot }) => snapshot.table === table);
    this.news = draft.news.filter((row) => row.table === table);
    this.targets = draft.rows.filter(({ snapshot }) => snapshot.table === target);
    this.newTargets = draft.news.filter((row) => row.table === target);
  }

  /** Rows with a code that only rows give that are left out. */
  takers({ base }: Context): AnyRow[] {
    const { target, slot } = this.reference;
    const given = (left: boolean): Set<string> => {
      const renamed = this.targets.filter((row) => this.rejected.has(row) === left).map((row) => edited(row, target.keySlot) ?? "");
      const made = this.newTargets.filter((row) => this.rejected.has(row) === left).map((row) => row.contents[target.keySlot] ?? "");
      return new Set([...renamed, ...made].filter((code) => code !== ""));
    };
    const missing = given(true);
    for (const code of given(false)) missing.delete(code);
    const there = base.tables[target.index].keys.find(new Set([...missing].map(keyHash)));
    const leaving = new Set(
      this.targets.filter((row) => !this.rejected.has(row) && leaves(row, target.keySlot)).map(({ snapshot }) => snapshot.place),
    );
    for (const code of missing) if ((there.get(keyHash(code)) ?? []).some((place) => !leaving.has(place))) missing.delete(code);
    if (missing.size === 0) return [];
    return [
      ...this.rows.filter((row) => missing.has(edited(row, slot) ?? "")),
      ...this.news.filter((row) => missing.has(row.contents[slot] ?? "")),
    ];
  }

  /** Rows whose records go, or are called otherwise, though a row that is left out goes on referring to them. */
  removers({ base }: Context): DifferingRow[] {
    const { target } = this.reference;
    const held = this.held();
    if (held.size === 0) return [];
    const current = new Map(this.draft.rows.map((row) => [row.snapshot, row]));
    const { keys } = base.tables[target.index];
    const gone = [...(this.draft.gone.get(target) ?? [])].filter(([place]) => held.has(keys.at(place)));
    return [
      ...gone.flatMap(([, by]) => current.get(by.snapshot) ?? []),
      ...this.targets.filter((row) => edited(row, target.keySlot) !== null && held.has(keyHash(row.snapshot.content(target.keySlot)))),
    ];
  }

  /** Rows whose label changes without a copy of it, and copies that change without it. */
  labels(): DifferingRow[] {
    const { target, targetLabelSlot, labelSlot, slot, copied } = this.reference;
    if (!copied) return [];
    const held = this.held();
    const labelled = this.targets.filter((row) => edited(row, targetLabelSlot) !== null);
    const alone = labelled.filter((row) => held.has(keyHash(row.snapshot.content(target.keySlot))));
    const left = new Map(
      labelled.filter((row) => this.rejected.has(row)).map((row) => [row.snapshot.content(target.keySlot), edited(row, targetLabelSlot)]),
    );
    const copies = this.rows.filter((row) => {
      const code = edited(row, slot) ?? row.snapshot.content(slot);
      return left.has(code) && edited(row, labelSlot) === left.get(code);
    });
    return [...alone, ...copies];
  }

  /** Hashes of the codes that rows which are left out say in the source. */
  private held(): Set<number> {
    const { slot } = this.reference;
    const left = this.rows.filter((row) => this.rejected.has(row)).map((row) => row.snapshot.content(slot));
    return new Set(left.filter((code) => code !== "").map(keyHash));
  }
}

function edited({ cells }: DifferingRow, slot: number): string | null {
  return cells.find((cell) => cell.slot === slot)?.content ?? null;
}

/** Does the record give up the key that it has? */
function leaves(row: DifferingRow, keySlot: number): boolean {
  return row.removed || edited(row, keySlot) !== null;
}
