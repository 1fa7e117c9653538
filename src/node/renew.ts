/**
 * After a fold in place the tables can go on: ids of new rows and fresh marks are written back. Rows and
 * columns keep the order that the analyst gave them.
 */
import { basename } from "node:path";
import { fingerprint } from "../bytes/hash.js";
import { ByteWriter, encode } from "../bytes/writer.js";
import type { Comparison } from "../compare/comparison.js";
import { DELIMITERS, readRows } from "../sheets/csv/rows.js";
import { TablesError } from "../errors/error.js";
import { stepsBetween, type Path } from "../model/path.js";
import { type Plan, type TablePlan, ACTION_TITLE, FILE_TITLE, isFollowing, MARK_TITLE } from "../model/plan.js";
import { readPlan } from "../plan/load.js";
import { MemoryTables } from "../sheets/tables.js";
import { printReceipt, RECEIPT_FILE, sealReceipt, type ReceiptTable } from "../sheets/receipt.js";
import { writeCells } from "../sheets/csv/write.js";
import { hatch } from "../hatch/hatch.js";
import { FolderTables } from "./folder-tables.js";
import { openHatched } from "./sources.js";
import { harmless } from "../cells/spelling.js";

/**
 * Hatches the folded source into the folder again. Returns the files written.
 *
 * @throws {@link TablesError} with code `renew-row` when a row of a sheet is not in the source as it stands there; no sheet is then changed
 */
export async function renewTables(folder: string, source: string, comparison: Comparison): Promise<string[]> {
  const { receipt } = comparison;
  const fresh = new MemoryTables();
  const opened = await openHatched(source, receipt, basename(source));
  try {
    const where = receipt.tables.flatMap((table) => (table.where === undefined ? [] : [`${table.name}: ${table.where}`]));
    // what was found by looking, or said, when the tables were hatched holds for what was folded from them
    const { format, encoding, files } = receipt.source;
    const plan = await readPlan(receipt.plan.text, basename(folder));
    const told = plan.sources.length > 1 ? {} : { format, ...(files === undefined ? { encoding } : {}) };
    const hatched = await hatch(opened.sources, { plan, into: fresh, where, sourceFile: receipt.source.file, ...told });
    const into = new FolderTables(folder);
    try {
      const tables: ReceiptTable[] = [];
      for (const table of hatched.receipt.tables) {
        const one = plan.tables.find(({ name }) => name === table.name);
        const laid = one?.tree !== undefined || one?.cross !== undefined;
        if (laid || hatched.receipt.tables.filter(({ file }) => file === table.file).length > 1) {
          // a row is more than one record here, or less: the sheet is written anew, in the order of the source
          const bytes = fresh.contents.get(table.file)!;
          if (!tables.some(({ file }) => file === table.file)) await write(into, table.file, bytes);
          tables.push(table);
          continue;
        }
        const before = receipt.tables.find((one) => one.name === table.name);
        const file = before === undefined ? null : await into.open(table.file);
        const old = file === null ? null : await file.read(0, file.size);
        const holder = one?.inside ?? (table.titles.includes(FILE_TITLE) ? FILE_TITLE : undefined);
        const follow = one === undefined ? [] : followingTitles(one, plan);
        const now = rowsOf(fresh.contents.get(table.file)!);
        const had = old === null ? [] : rowsOf(old);
        // a list without marks, whose rows were put behind others or in their place, gets all that is there now
        const rows = had.length === 0 ? now : renewed(had, now, { table: table.name, holder, follow }, comparison);
        if (old === null && before !== undefined) continue; // the table was left out, and stays so
        const out = new ByteWriter(1 << 16);
        for (const [i, row] of rows.entries()) writeCells(out, i === 0 ? row.map(harmless) : row);
        const bytes = out.take();
        await write(into, table.file, bytes);
        tables.push({ ...table, fingerprint: await fingerprint(bytes) });
      }
      const { seal: _, ...rest } = hatched.receipt;
      await write(into, RECEIPT_FILE, encode(printReceipt(await sealReceipt({ ...rest, tables }))));
      return await into.commit();
    } catch (error) {
      await into.abandon();
      throw error;
    } finally {
      await into.close();
    }
  } finally {
    await opened.close();
  }
}

/** Titles of columns that change with other rows: labels of codes, other ends of links, what stands instead of a list. */
function followingTitles({ hosted, columns, rows }: TablePlan, plan: Plan): string[] {
  const rests = columns.filter(({ at }) => {
    const whole: Path = { steps: [...rows.steps, ...at.steps], end: "value" };
    return at.steps.length > 0 && plan.tables.some((table) => stepsBetween(whole, table.rows) !== null);
  });
  return [...hosted.filter(isFollowing), ...rests].map(({ title }) => title);
}

async function write(into: FolderTables, file: string, bytes: Uint8Array): Promise<void> {
  const out = await into.create(file);
  await out.write(bytes);
  await out.close();
}

/** Cells of a sheet, whatever its delimiter. */
function rowsOf(bytes: Uint8Array): string[][] {
  const cells = DELIMITERS.map((delimiter) => readRows(bytes, delimiter).map((row) => [...row.cells]));
  const [titles, ...rows] = cells.find(([header]) => header?.includes(MARK_TITLE)) ?? [];
  return titles === undefined ? [] : [titles.map((title) => (harmless(title.slice(1)) === title ? title.slice(1) : title)), ...rows];
}

/** The old rows in their order, with the cells they have now. `holder` is the title of the column that names what a row is in. */
function renewed(
  old: readonly string[][],
  now: readonly string[][],
  { table, holder, follow }: { readonly table: string; readonly holder: string | undefined; readonly follow: readonly string[] },
  { changes, healed }: Comparison,
): string[][] {
  const [titles = [], ...rows] = old;
  const [known, ...records] = now;
  const shared = known.filter(
    (title) => titles.includes(title) && title !== MARK_TITLE && title !== ACTION_TITLE && title !== holder && !follow.includes(title),
  );
  const sign = (cellOf: (title: string) => string): string => JSON.stringify(shared.map(cellOf));
  const waiting = new Map<string, string[][]>();
  for (const record of records) {
    const signature = sign((title) => record[known.indexOf(title)]);
    waiting.set(signature, [...(waiting.get(signature) ?? []), record]);
  }
  const edits = new Map<string, string>();
  const removed = new Set<number>();
  for (const { table: name, row, column, restored } of healed) if (name === table) edits.set(`${row} ${column}`, restored);
  for (const change of changes) {
    if (change.table !== table) continue;
    if (change.kind === "removed") removed.add(change.row);
    else if (change.kind === "added")
      for (const [title, cell] of Object.entries(change.cells ?? {})) edits.set(`${change.row} ${title}`, cell);
    else edits.set(`${change.row} ${change.column}`, change.new ?? "");
  }
  const cell = (i: number, title: string): string => edits.get(`${i + 2} ${title}`) ?? rows[i][titles.indexOf(title)] ?? "";
  const found = new Map<number, string[]>();
  const take = (i: number, suits: (record: string[]) => boolean): void => {
    const list = waiting.get(sign((title) => cell(i, title))) ?? [];
    const at = list.findIndex(suits);
    if (at >= 0) found.set(i, list.splice(at, 1)[0]);
  };
  const kept = [...rows.keys()].filter((i) => !removed.has(i + 2) && rows[i].some((text) => text.trim() !== ""));
  // what a row is in may be called something else now: those that still agree come first
  for (const i of kept) take(i, (record) => holder === undefined || record[known.indexOf(holder)] === cell(i, holder));
  for (const i of kept) if (!found.has(i)) take(i, () => true);
  const missing = kept.find((i) => !found.has(i));
  if (missing !== undefined) throw new TablesError("renew-row", { table, row: missing + 2 });
  return [[...titles], ...kept.map((i) => titles.map((title) => (title === ACTION_TITLE ? "" : found.get(i)![known.indexOf(title)])))];
}
