/** Ids of new rows, as the plan says: the next free number, a UUID, or what an expression gives. */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import type { ProblemList } from "../model/problem-list.js";
import { contentValues, newValues } from "../rows/values.js";
import type { NewRow, Target } from "../rows/row-edits.js";
import { findParents, type KnownRows } from "./parents.js";
import { compileExpression, firstLine, type Expression } from "../plan/expression.js";
import type { CompiledTable } from "../plan/compile.js";
import type { Context } from "../rows/context.js";
import { copyNews, putCell, type Draft } from "../rows/draft.js";
import { parseNumbered, type Numbered } from "../plan/numbered.js";

/** Fills blank cells of new rows in columns for which the plan says how. */
export async function assignIds(draft: Draft, ctx: Context): Promise<Draft> {
  const patterns = ctx.compiled.tables.flatMap((table) =>
    [...(table.plan.fresh ?? [])].map(([title, pattern]) => ({ table, title, pattern })),
  );
  if (patterns.length === 0 || draft.news.length === 0) return draft;
  const news = copyNews(draft.news);
  const put = (row: NewRow, slot: number, content: string): void => putCell(ctx.typer, row, slot, content);
  // those of records around come first: those inside may be made from them
  for (const { table, title, pattern } of patterns.sort((one, other) => depthOf(one.table) - depthOf(other.table))) {
    const slot = table.plan.columns.findIndex((column) => column.title === title);
    const blank = news.filter((row) => row.table === table && (row.contents[slot] ?? "") === "");
    if (blank.length === 0) continue;
    const numbered = parseNumbered(pattern);
    if (numbered !== null) {
      const numbers = await freeNumbers({ ...draft, news }, ctx, { table, slot, numbered });
      for (const row of blank) put(row, slot, numbers(row));
    } else if (pattern === "uuid") for (const row of blank) put(row, slot, await uuid(`${ctx.seed} ${table.plan.name} ${row.row}`));
    else {
      const expression = { text: pattern, run: await compileExpression(pattern) };
      const around = await readParents(table, blank, { rows: draft.rows, news }, ctx);
      for (const row of blank) {
        const id = express(row, title, expression, { around: around(row), findings: ctx.findings });
        if (id !== null) put(row, slot, id);
      }
    }
  }
  return { ...draft, news };
}

function depthOf({ parent }: CompiledTable): number {
  return parent === null ? 0 : depthOf(parent) + 1;
}

/** Gives one id after the other, beginning behind the highest that there is, of all records or of those in the record around. */
async function freeNumbers(
  { rows, news }: Draft,
  ctx: Context,
  {
    table,
    slot,
    numbered: { before, digits, behind, inside },
  }: { readonly table: CompiledTable; readonly slot: number; readonly numbered: Numbered },
): Promise<(row: NewRow) => string> {
  const mine = news.filter((row) => row.table === table);
  const targets = inside ? await targetsOf(table, mine, { rows, news }, ctx) : new Map<NewRow, Target>();
  const aroundOf = (row: NewRow): string | NewRow => {
    const target = targets.get(row);
    return target === undefined || "file" in target ? "" : "row" in target ? target.row : String(target.place);
  };
  const lasts = new Map<string | NewRow, bigint>();
  const look = (text: string, around: string | NewRow): void => {
    if (!text.startsWith(before) || !text.endsWith(behind) || text.length <= before.length + behind.length) return;
    const middle = text.slice(before.length, text.length - behind.length);
    if (/^\d+$/.test(middle) && BigInt(middle) > (lasts.get(around) ?? 0n)) lasts.set(around, BigInt(middle));
  };
  const placeAround = (place: number): string => (inside ? String(place) : "");
  await ctx.records.rows((row, assembler) => {
    if (row.table === table) look(assembler.text(row, slot), placeAround(row.parent?.place ?? -1));
  });
  for (const row of mine) look(row.contents[slot] ?? "", aroundOf(row));
  for (const { snapshot, cells } of rows)
    if (snapshot.table === table) for (const cell of cells) if (cell.slot === slot) look(cell.content, placeAround(snapshot.parentPlace));
  return (row) => {
    const around = aroundOf(row);
    const next = (lasts.get(around) ?? 0n) + 1n;
    lasts.set(around, next);
    return `${before}${String(next).padStart(digits, "0")}${behind}`;
  };
}

/** What new rows go into, where that is known. */
async function targetsOf(table: CompiledTable, rows: readonly NewRow[], known: KnownRows, ctx: Context): Promise<Map<NewRow, Target>> {
  const of = (row: NewRow): CompiledTable | null => (table.treeSteps !== null && !row.atTop ? table : table.parent);
  const targets = new Map<NewRow, Target>();
  for (const parent of new Set(rows.map(of))) {
    if (parent === null) continue;
    const own = rows.filter((row) => of(row) === parent);
    const texts = own.map((row) => row.parentText);
    const find = await findParents(parent, texts, known, ctx, parent !== table);
    for (const row of own) {
      const found = find(row.parentText);
      if (found.length === 1) targets.set(row, found[0]);
    }
  }
  return targets;
}

/** The record that a new row goes into, as an expression sees it. */
interface Around {
  /** Its key, or what the sheet says of it, by the title of that column. */
  readonly said: Readonly<Record<string, unknown>>;
  /** Its cells by title; none where it is not known. */
  readonly parent: Readonly<Record<string, unknown>>;
}

/** The records that new rows go into: one more pass over the source, where some are there. */
async function readParents(
  table: CompiledTable,
  blank: readonly NewRow[],
  known: KnownRows,
  ctx: Context,
): Promise<(row: NewRow) => Around> {
  const of = (row: NewRow): CompiledTable | null => (table.treeSteps !== null && !row.atTop ? table : table.parent);
  const targets = await targetsOf(table, blank, known, ctx);
  const wanted = new Set([...targets.values()].flatMap((target) => ("place" in target ? [`${target.of.index} ${target.place}`] : [])));
  const held = new Map<string, Record<string, unknown>>();
  if (wanted.size > 0)
    await ctx.records.rows((row, assembler) => {
      const id = `${row.table.index} ${row.place}`;
      if (!wanted.has(id)) return;
      const { cells } = known.rows.find(({ snapshot }) => snapshot.table === row.table && snapshot.place === row.place) ?? { cells: [] };
      const contents = row.table.plan.columns.map((_, slot) => assembler.text(row, slot));
      held.set(id, contentValues(row.table, contents, row.kinds, cells));
    });
  return (row) => {
    const target = targets.get(row);
    const parent: Record<string, unknown> =
      target === undefined || "file" in target
        ? {}
        : "row" in target
          ? newValues(target.row)
          : held.get(`${target.of.index} ${target.place}`)!;
    const { key } = of(row)?.plan ?? {};
    const said = table.holder === null ? {} : { [table.holder]: (key === undefined ? undefined : parent[key]) ?? row.parentText };
    return { said, parent };
  };
}

function express(
  row: NewRow,
  title: string,
  { text, run }: { readonly text: string; readonly run: Expression },
  { around: { said, parent }, findings }: { readonly around: Around; readonly findings: ProblemList },
): string | null {
  const values: Record<string, unknown> = { parent, ...said, ...newValues(row) };
  try {
    const result = run({ ...values, row: values });
    if (typeof result === "string" || typeof result === "number" || typeof result === "bigint") return String(result);
    findings.add("id-no-text", { title, expression: text }, row.sheet.place(row.row, title));
  } catch (error) {
    findings.add("id-failed", { title, expression: text, reason: firstLine(error) }, row.sheet.place(row.row, title));
  }
  return null;
}

/** A UUID of version 8 (RFC 9562: one's own way of making it), from a text. */
async function uuid(text: string): Promise<string> {
  const hex = (await fingerprint(encode(`${text} a`))) + (await fingerprint(encode(`${text} b`)));
  const variant = ((parseInt(hex[16], 16) & 3) | 8).toString(16);
  return [hex.slice(0, 8), hex.slice(8, 12), `8${hex.slice(13, 16)}`, `${variant}${hex.slice(17, 20)}`, hex.slice(20, 32)].join("-");
}
