/** Tables from one container in another: a folder as a workbook, a workbook as rows in memory. */
import { FORMATS } from "../formats/index.js";
import { compilePlan, type CompiledTable } from "../plan/compile.js";
import { readPlan } from "../layouts/plans.js";
import { containerOf, sinkOf, type Tables, type TablesOut } from "../sheets/index.js";
import { rowsBelowWords, titlesIn } from "../sheets/plain-rows.js";
import { sealReceipt, type Receipt, type ReceiptTable } from "../sheets/receipt.js";
import { hintsOf } from "./hints.js";

/**
 * Copies hatched tables, edited or not, with their receipt into another kind of container. Rows keep their order and their
 * cells; nothing is healed, and lines of words above the titles stay behind.
 *
 * @returns the receipt of the copy
 * @throws {@link TablesError} when there is no receipt, or it cannot be read
 * @example
 * ```ts
 * const { tables } = await hatch('{"stations": [{"code": "S1"}]}');
 * const rows = new RowTables();
 * await copyTables(tables, rows);
 * rows.rows("stations")[0].code; // "S1"
 * ```
 */
export async function copyTables(tables: Tables, into: TablesOut): Promise<Receipt> {
  const container = containerOf(tables);
  const { seal: _, program: __, ...receipt } = await container.receipt();
  const all = await tablesOf(receipt);
  const sink = sinkOf(into);
  const files = sink.nameAll(receipt.tables.map(({ name }) => name));
  const written: ReceiptTable[] = [];
  for (const { commas: ___, ...table } of receipt.tables) {
    const sheet = await container.sheet(table.file);
    const file = files.get(table.name)!;
    const compiled = all.find(({ plan }) => plan.name === table.name);
    const out = await sink.create(file, compiled === undefined ? undefined : hintsOf(compiled));
    const [header, ...rows] = sheet === null ? [] : await rowsBelowWords(sheet);
    const titles = header === undefined ? table.titles : titlesIn(header, table.titles);
    out.titles(titles);
    for (const { cells } of rows) {
      out.row(titles.map((_title, i) => cells[i] ?? ""));
      if (out.isFull) await out.flush();
    }
    written.push({ ...table, file, fingerprint: await out.close() });
  }
  const made = await sealReceipt({ ...receipt, tables: written });
  await sink.finish(made);
  return made;
}

/** The tables of the plan, as far as that is known without the source. */
async function tablesOf({ plan: { text }, source }: Pick<Receipt, "plan" | "source">): Promise<readonly CompiledTable[]> {
  const plan = await readPlan(text, "receipt");
  const sources = await Promise.all(
    plan.sources.map(async ({ format = source.format, settings = {} }) => {
      const code = await FORMATS.find(({ name }) => name === format)!.load();
      return { dialect: code.dialect(settings, "utf-8"), first: 0, count: 1, set: source.files !== undefined };
    }),
  );
  return compilePlan(plan, sources).tables;
}
