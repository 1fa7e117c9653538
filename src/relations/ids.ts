/** Ids of new rows, as the plan says: the next free number, a UUID, or what an expression gives. */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import type { ProblemList } from "../model/findings.js";
import type { DifferingRow, NewRow } from "../rows/row-edits.js";
import { firstLine, compileExpression } from "../plan/expression.js";
import type { TableGuide } from "../plan/guide.js";
import { scalar } from "../records/filter.js";
import { Kind } from "../model/kind.js";
import type { ReadRows } from "../records/reader.js";
import { parseNumbered, type Numbered } from "../plan/numbered.js";

export interface IdContext {
  readonly tables: readonly TableGuide[];
  readonly news: readonly NewRow[];
  readonly differing: readonly DifferingRow[];
  readonly problems: ProblemList;
  readonly readRows: ReadRows;
  /** Something that this hatch has and no other one: UUIDs are made from it, so that compare and fold give the same. */
  readonly seed: string;
  /** Writes a cell of a new row. */
  readonly put: (row: NewRow, slot: number, content: string) => void;
}

/** Fills blank cells of new rows in columns for which the plan says how. */
export async function assignIds(context: IdContext): Promise<void> {
  for (const table of context.tables) {
    for (const [title, pattern] of table.plan.fresh ?? []) {
      const slot = table.plan.columns.findIndex((column) => column.title === title);
      const blank = context.news.filter((row) => row.table === table && (row.contents[slot] ?? "") === "");
      if (blank.length === 0) continue;
      const numbered = parseNumbered(pattern);
      if (numbered !== null) await number(context, table, slot, blank, numbered);
      else if (pattern === "uuid")
        for (const row of blank) context.put(row, slot, await uuid(`${context.seed} ${table.plan.name} ${row.row}`));
      else for (const row of blank) express(context, row, slot, title, pattern);
    }
  }
}

async function number(
  { news, differing, readRows, put }: IdContext,
  table: TableGuide,
  slot: number,
  blank: readonly NewRow[],
  { before, digits, behind }: Numbered,
): Promise<void> {
  let last = 0n;
  const look = (text: string): void => {
    if (!text.startsWith(before) || !text.endsWith(behind) || text.length <= before.length + behind.length) return;
    const middle = text.slice(before.length, text.length - behind.length);
    if (/^\d+$/.test(middle) && BigInt(middle) > last) last = BigInt(middle);
  };
  await readRows((row, assembler) => {
    if (row.table !== table) return;
    look(assembler.text(row, slot));
  });
  for (const row of news) if (row.table === table) look(row.contents[slot] ?? "");
  for (const { snapshot, cells } of differing)
    if (snapshot.table === table) for (const cell of cells) if (cell.slot === slot) look(cell.content);
  for (const row of blank) put(row, slot, `${before}${String(++last).padStart(digits, "0")}${behind}`);
}

function express({ problems, put }: IdContext, row: NewRow, slot: number, title: string, pattern: string): void {
  const values: Record<string, unknown> = {};
  row.table.plan.columns.forEach(
    (column, i) => (values[column.title] = scalar(row.values[i]?.kind ?? Kind.Absent, () => row.values[i]!.text)),
  );
  try {
    const result = compileExpression(pattern)({ ...values, row: values });
    if (typeof result === "string" || typeof result === "number" || typeof result === "bigint") put(row, slot, String(result));
    else problems.add("id-no-text", { title, expression: pattern }, row.sheet.place(row.row, title));
  } catch (error) {
    problems.add("id-failed", { title, expression: pattern, reason: firstLine(error) }, row.sheet.place(row.row, title));
  }
}

/** A UUID of version 8 (RFC 9562: one's own way of making it), from a text. */
async function uuid(text: string): Promise<string> {
  const hex = (await fingerprint(encode(`${text} a`))) + (await fingerprint(encode(`${text} b`)));
  const variant = ((parseInt(hex[16], 16) & 3) | 8).toString(16);
  return [hex.slice(0, 8), hex.slice(8, 12), `8${hex.slice(13, 16)}`, `${variant}${hex.slice(17, 20)}`, hex.slice(20, 32)].join("-");
}
