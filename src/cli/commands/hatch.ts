import type { Command } from "commander";
import { basename, join, relative, resolve } from "node:path";
import type { Plan } from "../../plan/plan.js";
import { readPlan } from "../../plan/read.js";
import { guardEdits } from "../../node/guard.js";
import { hatchInto } from "../../node/index.js";
import { CallError } from "../../errors/error.js";
import { gather, namedFrom, readText, settleFolds, wholeNumber, withSources } from "../inputs.js";
import { makeContext, type Io } from "../io.js";
import type { Run, Status } from "../main.js";
import type { ByteSource } from "../../bytes/source.js";
import { columns, counted } from "../print.js";

interface Options {
  plan?: string;
  output: string;
  where?: string[];
  columns?: string;
  sample?: number;
  blank?: boolean;
  bom?: boolean;
  format?: string;
  encoding?: string;
  force?: boolean;
  json?: boolean;
  color?: boolean;
  quiet?: boolean;
}

export function addHatch(program: Command, io: Io, run: Run): void {
  program
    .command("hatch")
    .description("take the tables out of a source, into a folder")
    .argument("[source...]", "a file, several of one kind, a folder or a zip archive; what the plan names when not given")
    .requiredOption("-o, --output <tables>", "the folder for the tables and their receipt")
    .option("-p, --plan <plan>", "which tables and columns; drafted when not given")
    .option("--where <expression>", 'only some rows: "table: expression" (may be given again)', gather)
    .option("--columns <titles>", "only these columns, separated by commas")
    .option("--sample <rows>", "only the first so many rows of each table", wholeNumber)
    .option("--blank", "headers only")
    .option("--bom", "begin files with a byte-order mark, for spreadsheets that ask for it")
    .option("--format <name>", "the source's format, when the guess is wrong")
    .option("--encoding <name>", "its encoding, when the guess is wrong")
    .option("--force", "replace tables that were edited")
    .option("--quiet", "say nothing but errors")
    .option("--json", "print what was written as JSON")
    .addHelpText(
      "after",
      '\nExamples:\n  hatchfold hatch register.json -o tables\n  hatchfold hatch -p plan.yaml -o tables\n  hatchfold hatch register.json -o tables --where "stations: height > 30.0"\n  hatchfold hatch register.json -o tables --columns code,height\n  hatchfold hatch registers/*.xml -o tables',
    )
    .action((sources: string[], options: Options) => run(runHatch(sources, options, io)));
}

async function runHatch(sources: readonly string[], options: Options, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  const plan = options.plan === undefined ? undefined : readPlan(await readText(options.plan, io), options.plan);
  const several = plan !== undefined && plan.sources.length > 1;
  if (several && sources.length > 0) throw new CallError("sources-several", { names: plan.sources.map(({ name }) => name) });
  const named = sources.length > 0 ? null : planSources(options.plan, plan);
  const paths = named === null ? sources : [...named.values()].flat();
  if (options.force !== true) await guardEdits(options.output);
  const more = {
    plan,
    where: options.where,
    columns: options.columns?.split(",").map((title) => title.trim()),
    sample: options.sample,
    blank: options.blank,
    bom: options.bom,
    format: options.format,
    encoding: options.encoding,
    planFile: namedFrom(options.output, paths),
    progress: context.progress("hatching"),
  };
  for (const path of paths) await settleFolds(path, io);
  const { receipt, notes, written } = paths.includes("-")
    ? await withSources(paths, io, (source) => hatchInto(source as ByteSource, options.output, more))
    : await hatchInto(several ? named! : paths, options.output, more);
  const tables = receipt.tables.map(({ name, file, rows, records }) => ({ name, file: join(options.output, file), rows, records }));
  if (context.json) {
    context.printJson({ tables, notes, written: written.map((file) => relative(process.cwd(), file)) });
    return 0;
  }
  const { files } = receipt.source;
  const from = files === undefined ? basename(paths[0]) : counted(files.length, "file");
  context.say(`hatched ${counted(tables.length, "table")} from ${from} into ${options.output}`);
  const rows = tables.map((table) => {
    const shared = tables.filter(({ file }) => file === table.file).length > 1;
    const records = table.rows === table.records ? "rows" : `of ${table.records.toLocaleString("en")} records`;
    return [`  ${basename(table.file)}`, table.rows.toLocaleString("en"), shared ? `${records} (${table.name})` : records];
  });
  for (const line of columns(rows, [1])) context.say(line);
  for (const note of notes) context.say(context.colors.yellow(`  ${note}`));
  return 0;
}

/** Paths of the plan's sources, by their names. */
function planSources(file: string | undefined, plan: Plan | undefined): Map<string, string[]> {
  if (file === undefined || plan === undefined || plan.sources.length === 0)
    throw new CallError("call", { reason: "no source was given", hint: "hatchfold hatch SOURCE -o TABLES" });
  const from = (one: string): string => relative(process.cwd(), resolve(file, "..", one)) || ".";
  return new Map(plan.sources.map((source) => [source.name, (typeof source.file === "string" ? [source.file] : source.file).map(from)]));
}
