/**
 * After a fold in place the tables can go on: ids of new rows and fresh marks are written back. Rows and
 * columns keep the order that the analyst gave them.
 */
import { basename } from "node:path";
import type { Comparison } from "../compare/comparison.js";
import { TablesError } from "../errors/error.js";
import { stepsBetween, type Path } from "../model/path.js";
import { schemaInput } from "../model/schema.js";
import { type Plan, type TablePlan, ACTION_TITLE, FILE_TITLE, isFollowing, MARK_TITLE, PROBLEM_TITLE } from "../model/plan.js";
import { readPlan } from "../layouts/plans.js";
import type { SheetContainer, SheetRow } from "../sheets/container.js";
import { containerOf, sinkOf } from "../sheets/index.js";
import { programNamed } from "../sheets/csv/styles.js";
import { sealReceipt, type Receipt, type ReceiptTable } from "../sheets/receipt.js";
import { RowTables } from "../sheets/rows/tables.js";
import { hasMark, rowsBelowWords, titlesIn } from "../sheets/plain-rows.js";
import { hatch } from "../hatch/hatch.js";
import { XlsxRenewal } from "../sheets/xlsx/renewal.js";
import type { Workbook } from "../sheets/xlsx/workbook.js";
import { FolderTables } from "./folder-tables.js";
import { OutFile } from "./out-file.js";
import { openHatched } from "./sources.js";
import { openTables } from "./tables-at.js";

/**
 * Hatches the folded source into the tables again: a folder, or a workbook, of which only cells that say something else are
 * written. Returns the files written.
 *
 * @throws {@link TablesError} with code `renew-row` when a row of a sheet is not in the source as it stands there; no sheet is then changed
 */
export async function renewTables(tables: string, source: string, comparison: Comparison): Promise<string[]> {
  const { receipt } = comparison;
  const fresh = new RowTables();
  const opened = await openHatched(source, receipt, basename(source));
  try {
    const where = receipt.tables.flatMap((table) => (table.where === undefined ? [] : [`${table.name}: ${table.where}`]));
    // what was found by looking, or said, when the tables were hatched holds for what was folded from them
    const { format, encoding, files } = receipt.source;
    const plan = await readPlan(receipt.plan.text, basename(tables));
    const told = plan.sources.length > 1 ? {} : { format, ...(files === undefined ? { encoding } : {}) };
    const names = receipt.tables.map(({ name }) => name);
    const hatched = await hatch(opened.sources, {
      plan,
      into: fresh,
      where,
      tables: names,
      sourceFile: receipt.source.file,
      schema: schemaInput(receipt.schemas),
      ...told,
    });
    const into = await renewalOf(tables, receipt);
    try {
      const before = new Map(receipt.tables.map((table) => [table.name, table]));
      const written: ReceiptTable[] = [];
      for (const { file: freshName, ...fresher } of hatched.receipt.tables) {
        const { file, commas } = before.get(fresher.name)!;
        const table = { ...fresher, ...(commas === undefined ? {} : { commas }) };
        const one = plan.tables.find(({ name }) => name === table.name);
        const encoding = comparison.encodings.get(file);
        const old = await into.container.sheet(file, encoding === undefined ? undefined : { encoding });
        if (old === null) continue; // the table was left out, and stays so
        const had = await rowsBelowWords(old);
        const { titles = [], rows } = fresh.sheets.get(freshName)!;
        const now = [titles, ...rows.map((row) => titles.map((title) => row[title] ?? ""))];
        if (one?.arrangement !== undefined) {
          // a row is more than one record here, or less: the sheet is written anew, in the order of the source
          const same = written.find((other) => other.file === file);
          written.push({ ...table, file, fingerprint: same?.fingerprint ?? (await into.put(file, had, anew(had, now))) });
          continue;
        }
        const holder = one?.inside ?? (table.titles.includes(FILE_TITLE) ? FILE_TITLE : undefined);
        const follow = one === undefined ? [] : followingTitles(one, plan);
        // a list without marks, whose rows were put behind others or in their place, gets all that is there now
        const isMarked = hasMark((had[0] as SheetRow | undefined)?.cells ?? []);
        const kept = isMarked ? renewed(had, now, { table: table.name, holder, follow, packs: packsOf(one) }, comparison) : anew(had, now);
        written.push({ ...table, file, fingerprint: await into.put(file, had, kept) });
      }
      const { seal: _, ...rest } = hatched.receipt;
      return await into.finish(
        await sealReceipt({ ...rest, tables: written, ...(receipt.program === undefined ? {} : { program: receipt.program }) }),
      );
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

/** The rows of a sheet as they are now. */
interface Renewed {
  readonly titles: readonly string[];
  /** By their numbers in the sheet, in its order. */
  readonly rows: ReadonlyMap<number, readonly string[]>;
}

/** All that the source has, in its order. */
function anew([header]: readonly SheetRow[], [titles, ...rows]: readonly (readonly string[])[]): Renewed {
  const first = ((header as SheetRow | undefined)?.number ?? 1) + 1;
  return { titles, rows: new Map(rows.map((cells, i) => [first + i, cells])) };
}

/** Where renewed tables go. */
interface Renewal {
  readonly container: SheetContainer;
  /** Gives the fingerprint of the sheet. `had`: its rows as they were, that with the titles first. */
  put(file: string, had: readonly SheetRow[], renewed: Renewed): Promise<string>;
  /** Gives the files that were written. */
  finish(receipt: Receipt): Promise<string[]>;
  abandon(): Promise<void>;
  close(): Promise<void>;
}

async function renewalOf(path: string, { program, tables: before }: Receipt): Promise<Renewal> {
  const { tables, close } = await openTables(path);
  if (!(tables instanceof FolderTables)) return renewalOfWorkbook(path, tables as Workbook);
  const commas = new Map(before.map((table) => [table.file, table.commas ?? []]));
  const sink = sinkOf(tables, program === undefined ? undefined : programNamed(program), commas);
  return {
    container: containerOf(tables),
    async put(file, _had, { titles, rows }) {
      const out = await sink.create(file);
      out.titles(titles);
      for (const row of rows.values()) {
        out.row(row);
        if (out.isFull) await out.flush();
      }
      return out.close();
    },
    async finish(receipt) {
      await sink.finish(receipt);
      return tables.commit();
    },
    abandon: () => tables.abandon(),
    close,
  };
}

function renewalOfWorkbook(path: string, workbook: Workbook): Renewal {
  const into = new XlsxRenewal(workbook.source);
  return {
    container: containerOf(workbook),
    put(file, [header, ...had], { titles, rows }) {
      const known = titlesIn(header, titles);
      // titles as they stand in the sheet say the same columns, also where some have none
      const isSame = titles.every((title, i) => title === known[i]);
      const columns = titles.flatMap((title, i) => (isSame ? i : known.includes(title) ? known.indexOf(title) : []));
      const used = titles.flatMap((title, i) => (isSame || known.includes(title) ? i : []));
      return into.put(file, had, { columns, rows: new Map([...rows].map(([number, cells]) => [number, used.map((i) => cells[i])])) });
    },
    async finish(receipt) {
      const out = await OutFile.begin(path, { replace: true });
      try {
        await out.write(await into.finish(receipt));
        await out.finish();
        await out.commit();
        return [path];
      } catch (error) {
        await out.abandon();
        throw error;
      }
    },
    abandon: () => Promise.resolve(),
    close: () => Promise.resolve(),
  };
}

/** Titles of columns that change with other rows: labels of codes, other ends of links, what stands instead of a list. */
function followingTitles({ inline, columns, rows }: TablePlan, plan: Plan): string[] {
  const standIns = columns.filter(({ at }) => {
    const whole: Path = { steps: [...rows.steps, ...at.steps], end: "value" };
    return at.steps.length > 0 && plan.tables.some((table) => stepsBetween(whole, table.rows) !== null);
  });
  return [...inline.filter(isFollowing), ...standIns].map(({ title }) => title);
}

interface Renewing {
  readonly table: string;
  readonly holder: string | undefined;
  /** Titles of columns that change with other rows. */
  readonly follow: readonly string[];
  /** What stands between items, by title. */
  readonly packs: ReadonlyMap<string, string>;
}

function packsOf(table: TablePlan | undefined): ReadonlyMap<string, string> {
  return new Map(
    (table?.inline ?? []).flatMap(({ title, separator }) => (separator === undefined ? [] : [[title, separator.trim() || separator]])),
  );
}

/** The old rows in their order, with the cells they have now. `holder` is the title of the column that names what a row is in. */
function renewed(
  old: readonly SheetRow[],
  now: readonly (readonly string[])[],
  { table, holder, follow, packs }: Renewing,
  comparison: Comparison,
): Renewed {
  const [header, ...rows] = old;
  const [known, ...records] = now;
  const titles = titlesIn(header, known);
  const shared = known.filter(
    (title) => titles.includes(title) && title !== MARK_TITLE && title !== ACTION_TITLE && title !== holder && !follow.includes(title),
  );
  // spaces around what is packed in a cell are for people
  const plain = (title: string, text: string): string => {
    const separator = packs.get(title);
    return separator === undefined ? text : JSON.stringify(text.split(separator).map((item) => item.trim()));
  };
  const sign = (cellOf: (title: string) => string): string => JSON.stringify(shared.map((title) => plain(title, cellOf(title))));
  const waiting = new Map<string, (readonly string[])[]>();
  for (const record of records) {
    const signature = sign((title) => record[known.indexOf(title)]);
    waiting.set(signature, [...(waiting.get(signature) ?? []), record]);
  }
  const edits = new Map<string, string>();
  const { changes, healed } = comparison;
  const removed = new Set(comparison.goneRows(table));
  for (const { table: name, row, column, restored } of healed) if (name === table) edits.set(`${row} ${column}`, restored);
  for (const change of changes) {
    if (change.table !== table) continue;
    if (change.kind === "removed") removed.add(change.row);
    else if (change.kind === "added")
      for (const [title, cell] of Object.entries(change.cells ?? {})) edits.set(`${change.row} ${title}`, cell);
    else edits.set(`${change.row} ${change.column}`, change.new ?? "");
  }
  const cell = ({ number, cells }: SheetRow, title: string): string =>
    edits.get(`${number} ${title}`) ?? cells[titles.indexOf(title)] ?? "";
  const found = new Map<SheetRow, readonly string[]>();
  const take = (row: SheetRow, suits: (record: readonly string[]) => boolean): void => {
    const list = waiting.get(sign((title) => cell(row, title))) ?? [];
    const at = list.findIndex(suits);
    if (at >= 0) found.set(row, list.splice(at, 1)[0]);
  };
  const kept = rows.filter(({ number, cells }) => !removed.has(number) && cells.some((text) => (text ?? "").trim() !== ""));
  // what a row is in may be called something else now: those that still agree come first
  for (const row of kept) take(row, (record) => holder === undefined || record[known.indexOf(holder)] === cell(row, holder));
  for (const row of kept) if (!found.has(row)) take(row, () => true);
  const missing = kept.find((row) => !found.has(row));
  if (missing !== undefined) throw new TablesError("renew-row", { table, row: missing.number });
  const cellNow = (row: SheetRow, title: string, c: number): string => {
    if (title === ACTION_TITLE || title === PROBLEM_TITLE) return "";
    const at = known.indexOf(title);
    // columns of one's own stay as they are
    return at < 0 ? (row.cells[c] ?? "") : found.get(row)![at];
  };
  return { titles, rows: new Map(kept.map((row) => [row.number, titles.map((title, c) => cellNow(row, title, c))])) };
}
