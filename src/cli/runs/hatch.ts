/** hatch, as the command line does it. Loaded when it is called for. */
import { basename, dirname, join, relative } from "node:path";
import { CallError } from "../../errors/error.js";
import { readPlan } from "../../layouts/plans.js";
import { hatchInto } from "../../node/index.js";
import type { Hatched } from "../../hatch/hatch.js";
import { ACTION_TITLE } from "../../model/plan.js";
import { isWorkbookName, openTables } from "../../node/tables-at.js";
import { containerOf } from "../../sheets/index.js";
import { rowsBelowWords, titlesIn } from "../../sheets/plain-rows.js";
import type { Receipt } from "../../sheets/receipt.js";
import { namedFrom, readText, tellOfCutOff, withSources } from "../inputs.js";
import { planSchemas, planSources } from "../plan-sources.js";
import { makeContext, type Context, type Io } from "../io.js";
import type { Program } from "../../sheets/csv/styles.js";
import type { Status } from "../command.js";
import type { ByteSource } from "../../bytes/source.js";
import { columns, counted, oneLine } from "../print.js";

export async function runHatch(sources: readonly string[], options: Options, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  const plan = options.plan === undefined ? undefined : await readPlan(await readText(options.plan, io), options.plan);
  const several = plan !== undefined && plan.sources.length > 1;
  const named = sources.length > 0 && !several ? null : await planSources(options.plan, plan, sources);
  const paths = named === null ? sources : [...named.values()].flat();
  const isBook = isWorkbookName(options.output);
  if (isBook && options.for !== undefined)
    throw new CallError("call", { reason: "--for says how files of text are written, and a workbook is none", hint: "Leave it out." });
  const more = {
    plan,
    where: options.where,
    tables: options.tables?.split(",").map((name) => name.trim()),
    columns: options.columns?.split(",").map((title) => title.trim()),
    sample: options.sample,
    blank: options.blank,
    program: options.for,
    schema: await planSchemas(options.plan, plan, options.schema),
    format: options.format,
    encoding: options.encoding,
    planFile: namedFrom(isBook ? dirname(options.output) : options.output, paths),
    progress: context.progress,
    replace: options.force,
    apart: options.plan === undefined || options.plan === "-" ? [] : [["the plan", options.plan] as const],
  };
  await tellOfCutOff(paths, io);
  const { receipt, notes, written, examples } = paths.includes("-")
    ? await withSources(paths, io, (source) => hatchInto(source as ByteSource, options.output, more))
    : await hatchInto(several ? named! : paths, options.output, more);
  const tables = receipt.tables.map(({ name, file, rows, records }) => ({
    name,
    file: isBook ? options.output : join(options.output, file),
    ...(isBook ? { sheet: file } : {}),
    rows,
    records,
  }));
  if (context.json) {
    context.printJson({ tables, notes, written: written.map((file) => relative(process.cwd(), file)) });
    return 0;
  }
  const { files } = receipt.source;
  const from = files === undefined ? basename(paths[0]) : counted(files.length, "file");
  context.say(`hatched ${counted(tables.length, "table")} from ${from} into ${options.output}`);
  const rows = tables.map((table) => {
    const sheet = table.sheet ?? basename(table.file);
    const shared = receipt.tables.filter(({ file }) => file === sheet).length > 1;
    const records = table.rows === table.records ? (table.rows === 1 ? "row" : "rows") : `of ${table.records.toLocaleString("en")} records`;
    return [`  ${oneLine(sheet, 80)}`, table.rows.toLocaleString("en"), shared ? `${records} (${oneLine(table.name, 80)})` : records];
  });
  for (const line of columns(rows, [1])) context.say(line);
  if (examples !== undefined) await showRecord(options.output, receipt, examples, context);
  for (const note of notes) context.say(context.colors.yellow(`  ${oneLine(note, 500)}`));
  return 0;
}
/** So many rows of a table are shown. */
const MOST_SHOWN = 3;

/** The rows of one record, cell by cell; where one is blank, what a filled one looks like. */
async function showRecord(
  path: string,
  receipt: Receipt,
  examples: NonNullable<Hatched["examples"]>,
  { say, colors, width }: Context,
): Promise<void> {
  const { tables, close } = await openTables(path);
  try {
    for (const { name, file } of receipt.tables) {
      const sheet = await containerOf(tables).sheet(file);
      const [header, ...rows] = sheet === null ? [] : await rowsBelowWords(sheet);
      if (rows.length === 0) continue;
      const titles = titlesIn(header, receipt.tables.find((table) => table.name === name)!.titles);
      const filled = examples.get(name);
      say();
      say(`${colors.bold(colors.cyan(oneLine(name, 80)))}   ${counted(rows.length, "row")}`);
      for (const { cells } of rows.slice(0, MOST_SHOWN)) {
        const shown = titles.flatMap((title, i) => {
          if (title === ACTION_TITLE) return [];
          const cell = cells[i] ?? "";
          const example = filled?.get(title);
          const blank = colors.dim(example === undefined ? "blank" : `blank; in another record ${oneLine(example, 40)}`);
          return [[`    ${oneLine(title, 40)}`, cell === "" ? blank : oneLine(cell, 60)]];
        });
        if (cells !== rows[0].cells) say();
        for (const line of columns(shown, [], width)) say(line);
      }
      if (rows.length > MOST_SHOWN) say(colors.dim(`    and ${counted(rows.length - MOST_SHOWN, "row")} more`));
    }
  } finally {
    await close();
  }
}

export interface Options {
  plan?: string;
  output: string;
  where?: string[];
  tables?: string;
  columns?: string;
  sample?: number | string;
  blank?: boolean;
  for?: Program;
  schema?: string;
  format?: string;
  encoding?: string;
  force?: boolean;
  json?: boolean;
  color?: boolean;
  quiet?: boolean;
}
