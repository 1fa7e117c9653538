/** Keys stay unique, and so do the names of members in one record. */
import type { Pages } from "../bytes/pages.js";
import type { TableGuide } from "../plan/guide.js";
import { aroundPlace, memberHash, type Baseline } from "./baseline.js";
import type { ProblemList } from "./changes.js";
import { keyHash, type Sheet } from "./sheet.js";
import type { Structure, Target } from "./structure.js";

interface Claim {
  readonly sheet: Sheet;
  readonly row: number;
  readonly text: string;
  readonly hash: number;
}

export function checkKeys(baseline: Baseline, structure: Structure, problems: ProblemList): void {
  for (const base of baseline.tables) {
    const { table } = base;
    const { nameSlot } = table.node;
    if (table.keySlot >= 0) {
      const claims = claimsOn(table, structure, table.keySlot, (_, text) => keyHash(text));
      report(table, table.keySlot, claims, base.keys, freed(table, structure, table.keySlot, false), problems);
    }
    if (nameSlot >= 0 && nameSlot !== table.keySlot) {
      const claims = claimsOn(table, structure, nameSlot, memberHash);
      report(table, nameSlot, claims, base.names, freed(table, structure, nameSlot, true), problems);
    }
  }
}

/** New rows, changed cells, and (for names) moved rows that want a key. */
function claimsOn(table: TableGuide, structure: Structure, slot: number, hash: (parent: number, text: string) => number): Claim[] {
  const claims: Claim[] = [];
  for (const row of structure.rows) {
    const text = row.table === table ? row.contents[slot] : null;
    if (text === null || text === "") continue;
    const target = row.target;
    const parent = target === null ? -1 : parentOf(target, table);
    claims.push({ sheet: row.sheet, row: row.row, text, hash: hash(parent, text) });
  }
  for (const row of structure.differing) {
    if (row.snapshot.table !== table || row.removed) continue;
    const edit = row.cells.find((cell) => cell.slot === slot);
    const target = structure.moves.get(row);
    if (edit === undefined && (target === undefined || slot === table.keySlot)) continue;
    const text = edit?.content ?? row.snapshot.content(slot);
    const { parentPlace, parentTable } = row.snapshot;
    const parent = target === undefined ? aroundPlace(parentPlace, parentTable === table) : parentOf(target, table);
    claims.push({ sheet: row.sheet, row: row.row, text, hash: hash(parent, text) });
  }
  return claims;
}

function parentOf(target: Target, table: TableGuide): number {
  return "place" in target ? aroundPlace(target.place, target.of === table) : "row" in target ? -2 - target.row.row : -1;
}

/** Records that give up what they had. */
function freed(table: TableGuide, structure: Structure, slot: number, moves: boolean): Set<number> {
  const places = new Set<number>();
  for (const row of structure.differing) {
    if (row.snapshot.table !== table) continue;
    if (row.removed || row.cells.some((cell) => cell.slot === slot) || (moves && structure.moves.has(row))) places.add(row.snapshot.place);
  }
  return places;
}

function report(
  table: TableGuide,
  slot: number,
  claims: readonly Claim[],
  taken: Pages,
  free: ReadonlySet<number>,
  problems: ProblemList,
): void {
  if (claims.length === 0) return;
  const { title } = table.plan.columns[slot];
  const owners = taken.find(new Set(claims.map((claim) => claim.hash)));
  const rows = new Map<number, number[]>();
  for (const claim of claims) rows.set(claim.hash, [...(rows.get(claim.hash) ?? []), claim.row]);
  for (const claim of claims) {
    const owner = owners.get(claim.hash)?.find((place) => !free.has(place));
    const place = claim.sheet.place(claim.row, title, claim.text);
    const same = rows.get(claim.hash)!;
    if (owner !== undefined) {
      const ordinal = claim.sheet.ordinalOf(owner);
      problems.add(
        "key-taken",
        { title, key: claim.text, record: owner + 1, row: ordinal < 0 ? null : claim.sheet.standings.row(ordinal) },
        place,
      );
    } else if (same.length > 1) problems.add("key-twice", { title, key: claim.text, rows: same }, place);
  }
}
