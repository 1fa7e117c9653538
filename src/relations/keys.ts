/** Keys stay unique, and so do the names of members in one record. */
import type { Pages } from "../bytes/pages.js";
import type { CompiledTable } from "../plan/compile.js";
import { aroundPlace, memberHash } from "../rows/baseline.js";
import { rowsOf } from "../model/findings.js";
import type { ProblemList } from "../model/problem-list.js";
import { normalised } from "../cells/normalised.js";
import type { Context } from "../rows/context.js";
import type { Draft } from "../rows/draft.js";
import { pushTo } from "../model/push-to.js";
import { keyHash, type Sheet } from "../rows/sheet.js";
import type { Target } from "../rows/row-edits.js";

interface Claim {
  readonly sheet: Sheet;
  readonly row: number;
  /** Its number where the analyst sees it. */
  readonly seen: number;
  readonly text: string;
  readonly hash: number;
}

export function checkKeys(placed: Draft, { base: baseline, findings: problems }: Context): void {
  for (const base of baseline.tables) {
    const { table } = base;
    const { nameSlot } = table.node;
    if (table.keySlot >= 0) {
      const claims = claimsOn(table, placed, table.keySlot, (_, text) => keyHash(text));
      report(
        { title: table.plan.columns[table.keySlot].title, taken: base.keys, free: freed(table, placed, table.keySlot, false) },
        claims,
        problems,
      );
    }
    if (nameSlot >= 0 && nameSlot !== table.keySlot) {
      const claims = claimsOn(table, placed, nameSlot, memberHash);
      report(
        { title: table.plan.columns[nameSlot].title, taken: base.names, free: freed(table, placed, nameSlot, true) },
        claims,
        problems,
      );
    }
  }
}

/** Says which new keys are those of other records but for spaces, case or spelling: perhaps nobody wants a second record. */
export async function noteNearKeys(placed: Draft, { base: baseline, findings: problems, known, records }: Context): Promise<void> {
  const wanted = new Map<
    CompiledTable,
    { claims: Map<string, Claim[]>; free: ReadonlySet<number>; near: { claim: Claim; other: string }[] }
  >();
  for (const { table } of baseline.tables) {
    if (table.keySlot < 0) continue;
    const claims = new Map<string, Claim[]>();
    for (const claim of claimsOn(table, placed, table.keySlot, () => 0)) pushTo(claims, normalised(claim.text), claim);
    if (claims.size > 0) wanted.set(table, { claims, free: freed(table, placed, table.keySlot, false), near: [] });
  }
  if (wanted.size === 0) return;
  const forms = new Map([...wanted.keys()].map((table) => [table, new KeyForms()]));
  await records.rows((row, assembler) => {
    const known = wanted.get(row.table);
    if (known === undefined || known.free.has(row.place)) return;
    const other = assembler.text(row, row.table.keySlot);
    forms.get(row.table)!.add(other);
    for (const claim of known.claims.get(normalised(other)) ?? []) if (claim.text !== other) known.near.push({ claim, other });
  });
  for (const [table, { claims, near }] of wanted) {
    for (const same of claims.values())
      for (const claim of same.slice(1)) if (claim.text !== same[0].text) near.push({ claim, other: same[0].text });
    const { name } = table.plan;
    // rows with a problem hear of that
    const bad = new Set([...problems.problems, ...known].flatMap((problem) => (problem.table === name ? rowsOf(problem) : [])));
    const told = near.flatMap(({ claim, other }) => (bad.has(claim.seen) ? [] : [{ key: claim.text, row: claim.seen, other }]));
    if (told.length > 0) problems.note("keys-near", { title: table.plan.key!, near: told }, name);
    const like = forms.get(table)!.sole;
    if (like === null) continue;
    const odd = [...claims.values()].flatMap(([{ text, seen }]) =>
      formOf(text) === formOf(like) || bad.has(seen) ? [] : [{ key: text, row: seen }],
    );
    if (odd.length > 0) problems.note("keys-odd", { title: table.plan.key!, keys: odd, like }, name);
  }
}

/** Of how many digits and letters a key is made, and what stands between: `D-07` is like `D-12`. */
function formOf(key: string): string {
  return key
    .replace(/\p{Lu}/gu, "A")
    .replace(/\p{Ll}/gu, "a")
    .replace(/\d/g, "9");
}

/** Fewer keys tell nothing of those to come. */
const FEW_KEYS = 5;

/** The form that all keys of a table have, as long as they have one. */
class KeyForms {
  private form: string | null = null;
  private like = "";
  private count = 0;

  add(key: string): void {
    this.count++;
    if (this.count === 1) [this.form, this.like] = [formOf(key), key];
    else if (this.form !== null && this.form !== formOf(key)) this.form = null;
  }

  /** A key that is formed as all others are; `null` where they differ, or are few. */
  get sole(): string | null {
    return this.form === null || this.count < FEW_KEYS ? null : this.like;
  }
}

/** New rows, changed cells, and (for names) moved rows that want a key. */
function claimsOn(table: CompiledTable, placed: Draft, slot: number, hash: (parent: number, text: string) => number): Claim[] {
  const claims: Claim[] = [];
  for (const row of placed.news) {
    const text = row.table === table ? row.contents[slot] : null;
    if (text === null || text === "") continue;
    const target = row.target;
    const parent = target === null ? -1 : parentOf(target, table);
    claims.push({ sheet: row.sheet, row: row.row, seen: row.sheet.seenRow(row.row), text, hash: hash(parent, text) });
  }
  for (const row of placed.rows) {
    if (row.snapshot.table !== table || row.removed) continue;
    const edit = row.cells.find((cell) => cell.slot === slot);
    const target = placed.moves.get(row);
    if (edit === undefined && (target === undefined || slot === table.keySlot)) continue;
    const text = edit?.content ?? row.snapshot.content(slot);
    const { parentPlace, parentTable } = row.snapshot;
    const parent = target === undefined ? aroundPlace(parentPlace, parentTable === table) : parentOf(target, table);
    claims.push({ sheet: row.sheet, row: row.row, seen: row.sheet.seenRow(row.row), text, hash: hash(parent, text) });
  }
  return claims;
}

function parentOf(target: Target, table: CompiledTable): number {
  return "place" in target ? aroundPlace(target.place, target.of === table) : "row" in target ? -2 - target.row.row : -1;
}

/** Records that give up what they had. */
function freed(table: CompiledTable, placed: Draft, slot: number, moves: boolean): Set<number> {
  const places = new Set<number>();
  for (const row of placed.rows) {
    if (row.snapshot.table !== table) continue;
    if (row.removed || row.cells.some((cell) => cell.slot === slot) || (moves && placed.moves.has(row))) places.add(row.snapshot.place);
  }
  return places;
}

/** Who has the keys of one column, and who gives them up. */
interface Owners {
  readonly title: string;
  readonly taken: Pages;
  readonly free: ReadonlySet<number>;
}

function report({ title, taken, free }: Owners, claims: readonly Claim[], problems: ProblemList): void {
  if (claims.length === 0) return;
  const owners = taken.find(new Set(claims.map((claim) => claim.hash)));
  const rows = new Map<number, number[]>();
  for (const claim of claims) rows.set(claim.hash, [...(rows.get(claim.hash) ?? []), claim.seen]);
  for (const claim of claims) {
    const all = owners.get(claim.hash) ?? [];
    const owner = all.find((place) => !free.has(place));
    const table = claim.sheet.table.plan.name;
    // it is free only as long as the row that gives it up is taken, too
    for (const place of all)
      if (free.has(place)) problems.together.push([claim.row, claim.sheet.rowOf(place)].map((row) => ({ table, row })));
    const place = claim.sheet.place(claim.row, title, claim.text);
    const same = rows.get(claim.hash)!;
    if (owner !== undefined) {
      const row = claim.sheet.seenRow(claim.sheet.rowOf(owner));
      problems.add("key-taken", { title, key: claim.text, record: owner + 1, row: row === 0 ? null : row }, place);
    } else if (same.length > 1) problems.add("key-twice", { title, key: claim.text, rows: same }, place);
  }
}
