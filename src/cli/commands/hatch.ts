import type { Command } from "commander";
import { basename, join, relative } from "node:path";
import { readPlan } from "../../plan/read.js";
import { hatchInto } from "../../node/index.js";
import { gather, namedFrom, readText, tellOfCutOff, wholeNumber, withSources } from "../inputs.js";
import { planSources } from "../plan-sources.js";
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
    .option("--force", "replace tables that were edited, and files that no hatch wrote")
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
  const named = sources.length > 0 && !several ? null : await planSources(options.plan, plan, sources);
  const paths = named === null ? sources : [...named.values()].flat();
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
    replace: options.force,
    apart: options.plan === undefined || options.plan === "-" ? [] : [["the plan", options.plan] as const],
  };
  await tellOfCutOff(paths, io);
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
