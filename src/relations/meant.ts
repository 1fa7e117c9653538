/** Codes of new and edited rows that a spreadsheet has damaged: `1` where the only such code is `01`. */
import { damageOf, isDoubtful } from "../cells/heal.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import type { Sheet } from "../rows/sheet.js";

/** So many codes are looked for: each is held against all keys. */
const MOST_CODES = 200;

/** What codes that no record has were, by what they say: where one key alone, damaged, is the same. */
export async function meantCodes(
  target: CompiledTable,
  codes: Iterable<string>,
  { records }: Pick<Context, "records">,
): Promise<ReadonlyMap<string, string>> {
  const meant = new Map<string, string>();
  const unknown = [...new Set(codes)].slice(0, MOST_CODES);
  if (unknown.length === 0 || target.keySlot < 0) return meant;
  const keys = (await records.words(target, target.keySlot)).all;
  for (const code of unknown) {
    const found = keys?.filter((key) => isDamaged(key, code)) ?? [];
    if (found.length === 1) meant.set(code, found[0]);
  }
  return meant;
}

function isDamaged(key: string, code: string): boolean {
  const damage = damageOf(key, code);
  return damage !== null && !isDoubtful(damage);
}

/** Codes that were taken for others, by column: told once each. */
export class MeantNotes {
  private readonly columns = new Map<string, { table: string; title: string; count: number; row: number; found: string; code: string }>();

  constructor(private readonly ctx: Pick<Context, "findings">) {}

  /** A code in a row of the sheet, and what it is taken for. */
  add(sheet: Sheet, row: number, title: string, found: string, code: string): void {
    const { name } = sheet.table.plan;
    const known = this.columns.get(`${name}\n${title}`);
    if (known === undefined) this.columns.set(`${name}\n${title}`, { table: name, title, count: 1, row: sheet.seenRow(row), found, code });
    else known.count++;
  }

  tell(): void {
    for (const { table, ...facts } of this.columns.values()) this.ctx.findings.note("codes-meant", facts, table);
  }
}
