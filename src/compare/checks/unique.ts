/**
 * What no two records have the same in (`unique:` in a plan): looked at for rows that are new or say something else there,
 * when codes and parents are known. A new row may not be a record that it would have been matched with (`match:`), either.
 */
import { pushTo } from "../../model/push-to.js";
import type { Rule as PlanRule } from "../../model/plan.js";
import { titleOf, type CompiledTable } from "../../plan/compile.js";
import { codeSlot } from "../../relations/match.js";
import type { Row } from "../../records/assemble.js";
import { Column } from "../../rows/columns.js";
import type { Context } from "../../rows/context.js";
import type { Draft } from "../../rows/draft.js";
import type { DifferingRow, NewRow, Target } from "../../rows/row-edits.js";
import { listOfRow, listOfSnapshot, listOfTarget } from "../places.js";
import { isNothing } from "../../cells/spelling.js";

interface Rule {
  readonly table: CompiledTable;
  readonly titles: readonly string[];
  readonly slots: readonly number[];
  /** Only new rows are asked. */
  readonly onlyNew: boolean;
  readonly said: Pick<PlanRule<unknown>, "say" | "severity">;
  /** Rows that will have what they say, by that. */
  readonly claims: Map<string, (NewRow | DifferingRow)[]>;
  /** Records that will say something else. */
  readonly freed: Set<number>;
}

export async function checkUnique(draft: Draft, ctx: Context): Promise<void> {
  const told = new Set(ctx.findings.hit.map(({ table, row }) => `${table} ${row}`));
  const rules = ctx.compiled.tables.flatMap((table) => rulesOf(table)).filter((rule) => fill(rule, draft, told));
  if (rules.length === 0) return;
  const owners = new Map<Rule, Map<string, number>>(rules.map((rule) => [rule, new Map()]));
  await ctx.records.cells((row, assembler) => {
    for (const rule of rules) {
      if (rule.table !== row.table) continue;
      const said = wordsOf(rule, (slot) => (slot === Column.Parent ? listOfRow(row, assembler.file) : assembler.text(row, slot)));
      const taker = draft.gone.get(row.table)?.get(row.place);
      if (rule.freed.has(row.place) || taker !== undefined) {
        // it is free only as long as the row that gives it up is taken, too
        for (const claim of said === null ? [] : (rule.claims.get(said) ?? [])) goTogether(claim, taker ?? null, row, ctx);
        continue;
      }
      if (said !== null && rule.claims.has(said) && !owners.get(rule)!.has(said)) owners.get(rule)!.set(said, row.place);
    }
  });
  for (const rule of rules) tell(rule, owners.get(rule)!, ctx);
}

function goTogether({ sheet, row }: NewRow | DifferingRow, taker: DifferingRow | null, { place }: Row, { findings }: Context): void {
  const by = taker ?? { sheet, row: sheet.rowOf(place) };
  if (by.row > 0)
    findings.together.push([
      { table: sheet.table.plan.name, row },
      { table: by.sheet.table.plan.name, row: by.row },
    ]);
}

function rulesOf(table: CompiledTable): Rule[] {
  const { unique = [], match } = table.plan;
  const rule = (titles: readonly string[], onlyNew: boolean, said: Rule["said"] = { severity: "error" }): Rule => ({
    table,
    said,
    titles,
    slots: titles.map((title) => codeSlot(table, title)),
    onlyNew,
    claims: new Map(),
    freed: new Set(),
  });
  return [...unique.map((one) => rule(one.is, false, one)), ...(match === undefined ? [] : [rule(match, true)])];
}

/** Takes the rows that a rule asks, but for those that have been `told` of a problem; false when there are none. */
function fill(rule: Rule, { news, rows, moves }: Draft, told: ReadonlySet<string>): boolean {
  const { table, slots, claims, freed } = rule;
  const listAt = (target: Target | null): string => (target === null ? "" : listOfTarget(target, table));
  for (const row of news) {
    // rows that could not be matched have heard of it
    if (row.table !== table || (rule.onlyNew && told.has(`${table.plan.name} ${row.row}`))) continue;
    const said = wordsOf(rule, (slot) => (slot === Column.Parent ? listAt(row.target) : (row.contents[slot] ?? "")));
    if (said !== null) pushTo(claims, said, row);
  }
  for (const row of rows) {
    const { snapshot, cells, removed } = row;
    if (snapshot.table !== table) continue;
    const target = moves.get(row);
    const moved = target !== undefined && slots.includes(Column.Parent);
    if (!removed && !moved && !cells.some(({ slot }) => slots.includes(slot))) continue;
    freed.add(snapshot.place);
    if (removed || rule.onlyNew) continue;
    const said = wordsOf(rule, (slot) => {
      if (slot === Column.Parent) return target === undefined ? listOfSnapshot(snapshot) : listAt(target);
      return cells.find((cell) => cell.slot === slot)?.content ?? snapshot.content(slot);
    });
    if (said !== null) pushTo(claims, said, row);
  }
  return claims.size > 0;
}

/** What a row says in all the columns; nothing where it says nothing in one of them. */
function wordsOf({ slots }: Rule, cell: (slot: number) => string): string | null {
  const words = slots.map(cell);
  return words.some(isNothing) ? null : JSON.stringify(words);
}

function tell({ table, titles, slots, claims, said }: Rule, owners: ReadonlyMap<string, number>, { findings }: Context): void {
  for (const [key, rows] of claims) {
    const owner = owners.get(key);
    if (owner === undefined && rows.length === 1) continue;
    const seen = rows.map(({ sheet, row }) => sheet.seenRow(row));
    const words = JSON.parse(key) as string[];
    for (const row of rows) {
      const parent = "parentText" in row ? row.parentText : (row.parent ?? row.snapshot.parentIdent);
      const values = words.map((word, i) => (slots[i] === Column.Parent ? parent : word));
      const title = slots[0] === Column.Parent ? table.holder! : titleOf(table.plan, slots[0]);
      const place = row.sheet.place(row.row, title, values[0]);
      if (owner === undefined) findings.addRuled("unique-twice", { titles, values, rows: seen }, said, place);
      else {
        const standing = row.sheet.seenRow(row.sheet.rowOf(owner));
        findings.addRuled("unique-taken", { titles, values, record: owner + 1, row: standing === 0 ? null : standing }, said, place);
      }
    }
  }
}
