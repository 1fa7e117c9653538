/** The rows of one record in all tables: its own, those of what it is in and what is in it, and those that refer to it. */
import { CallError } from "../errors/error.js";
import { nearest } from "../errors/nearest.js";
import type { CompiledPlan, CompiledTable } from "../plan/compile.js";
import { titleOf } from "../plan/compile.js";
import type { Row } from "../records/assemble.js";
import type { RecordReader } from "../records/reader.js";

export interface Sampled {
  /** Is it one of the rows? */
  has(row: Row): boolean;
  /** What a filled cell looks like, from any record: by table, by title. */
  readonly examples: ReadonlyMap<string, ReadonlyMap<string, string>>;
}

/**
 * Finds the record with this key: `S-004`, or `stations=S-004` where several tables have it.
 *
 * @throws {@link CallError} when none has, or several have
 */
export async function findSample({ tables }: CompiledPlan, records: RecordReader, said: string): Promise<Sampled> {
  const keyed = tables.filter(({ keySlot, host }) => keySlot >= 0 && host === null);
  const [name, ...rest] = said.split("=");
  const named = rest.length === 0 ? undefined : keyed.find(({ plan }) => plan.name === name);
  const key = named === undefined ? said : rest.join("=");
  const wanted = named === undefined ? keyed : [named];
  const found: { readonly table: CompiledTable; readonly place: number; readonly around: string[] }[] = [];
  const examples = new Map(tables.map(({ plan }) => [plan.name, new Map<string, string>()]));
  await records.cells((row, assembler) => {
    const { table, place } = row;
    const known = examples.get(table.plan.name)!;
    for (const slot of table.plan.columns.keys()) {
      const title = titleOf(table.plan, slot);
      if (!known.has(title)) {
        const text = assembler.text(row, slot);
        if (text !== "") known.set(title, text);
      }
    }
    if (!wanted.includes(table) || assembler.text(row, table.keySlot) !== key) return;
    const around: string[] = [];
    for (let at = row.parent; at !== null; at = at.parent) around.push(idOf(at));
    found.push({ table, place, around });
  });
  if (found.length === 0) {
    const words = await Promise.all(wanted.map(async (table) => (await records.words(table, table.keySlot)).to(key)));
    const near = nearest(
      key,
      words.filter((word) => word !== null),
    );
    throw new CallError("sample-unknown", {
      key,
      tables: wanted.map(({ plan }) => plan.name),
      nearest: near,
    });
  }
  const of = [...new Set(found.map(({ table }) => table.plan.name))];
  if (of.length > 1) throw new CallError("sample-several", { key, tables: of });
  const own = new Set(found.map(({ table, place }) => idOf({ table, place })));
  const around = new Set(found.flatMap((one) => one.around));
  const kept = new Set<string>();
  const isIn = (row: Row): boolean => {
    for (let at: Row | null = row; at !== null; at = at.parent) if (own.has(idOf(at))) return true;
    return false;
  };
  const [{ table: target }] = found;
  await records.cells((row, assembler) => {
    const refers = row.table.references.some(({ target: to, slot }) => to === target && assembler.text(row, slot) === key);
    if (refers || isIn(row) || around.has(idOf(row))) kept.add(idOf(row));
  });
  return { has: (row) => kept.has(idOf(row)), examples };
}

function idOf({ table, place }: { readonly table: CompiledTable; readonly place: number }): string {
  return `${table.index} ${place}`;
}
