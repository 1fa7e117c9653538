/** Ids of new rows, as the plan says: the next free number, a UUID, or what an expression gives. */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import type { ProblemList } from "../model/findings.js";
import type { NewRow } from "../rows/row-edits.js";
import { compileExpression, firstLine, type Expression } from "../plan/expression.js";
import type { CompiledTable } from "../plan/compile.js";
import { scalar } from "../records/filter.js";
import { Kind } from "../model/kind.js";
import type { Context } from "../rows/context.js";
import { copyNews, putCell, type Draft } from "../rows/draft.js";
import { parseNumbered, type Numbered } from "../plan/numbered.js";

/** Fills blank cells of new rows in columns for which the plan says how. */
export async function assignIds(draft: Draft, ctx: Context): Promise<Draft> {
  const patterns = ctx.guide.tables.flatMap((table) =>
    [...(table.plan.fresh ?? [])].map(([title, pattern]) => ({ table, title, pattern })),
  );
  if (patterns.length === 0 || draft.news.length === 0) return draft;
  const news = copyNews(draft.news);
  const put = (row: NewRow, slot: number, content: string): void => putCell(ctx.typer, row, slot, content);
  for (const { table, title, pattern } of patterns) {
    const slot = table.plan.columns.findIndex((column) => column.title === title);
    const blank = news.filter((row) => row.table === table && (row.contents[slot] ?? "") === "");
    if (blank.length === 0) continue;
    const numbered = parseNumbered(pattern);
    if (numbered !== null) {
      const numbers = await freeNumbers({ ...draft, news }, ctx, { table, slot, numbered });
      for (const row of blank) put(row, slot, numbers());
    } else if (pattern === "uuid") for (const row of blank) put(row, slot, await uuid(`${ctx.seed} ${table.plan.name} ${row.row}`));
    else {
      const expression = { text: pattern, run: await compileExpression(pattern) };
      for (const row of blank) {
        const id = express(row, title, expression, ctx.findings);
        if (id !== null) put(row, slot, id);
      }
    }
  }
  return { ...draft, news };
}

/** Gives one id after the other, beginning behind the highest that there is. */
async function freeNumbers(
  { rows, news }: Draft,
  { records }: Context,
  {
    table,
    slot,
    numbered: { before, digits, behind },
  }: { readonly table: CompiledTable; readonly slot: number; readonly numbered: Numbered },
): Promise<() => string> {
  let last = 0n;
  const look = (text: string): void => {
    if (!text.startsWith(before) || !text.endsWith(behind) || text.length <= before.length + behind.length) return;
    const middle = text.slice(before.length, text.length - behind.length);
    if (/^\d+$/.test(middle) && BigInt(middle) > last) last = BigInt(middle);
  };
  await records.rows((row, assembler) => {
    if (row.table !== table) return;
    look(assembler.text(row, slot));
  });
  for (const row of news) if (row.table === table) look(row.contents[slot] ?? "");
  for (const { snapshot, cells } of rows)
    if (snapshot.table === table) for (const cell of cells) if (cell.slot === slot) look(cell.content);
  return () => `${before}${String(++last).padStart(digits, "0")}${behind}`;
}

function express(
  row: NewRow,
  title: string,
  { text, run }: { readonly text: string; readonly run: Expression },
  findings: ProblemList,
): string | null {
  const values: Record<string, unknown> = {};
  row.table.plan.columns.forEach(
    (column, i) => (values[column.title] = scalar(row.values[i]?.kind ?? Kind.Absent, () => row.values[i]!.text)),
  );
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
