import type { Command } from "commander";
import { dirname } from "node:path";
import { encode } from "../../bytes/writer.js";
import { writeWhole } from "../../node/out-file.js";
import { SameFiles } from "../../node/same-files.js";
import { draft } from "../../verbs.js";
import { namedFrom, withSources } from "../inputs.js";
import { makeContext, type Io } from "../io.js";
import type { Run, Status } from "../main.js";

interface Options {
  json?: boolean;
  color?: boolean;
  format?: string;
  encoding?: string;
  output: string;
  force?: boolean;
}

export function addDraft(program: Command, io: Io, run: Run): void {
  program
    .command("draft")
    .description("write a plan to start from: which tables and columns to take")
    .argument("<source...>", "a file, several of one kind, a folder or a zip archive; - is standard input")
    .option("-o, --output <plan>", "where the plan goes; - is standard output", "-")
    .option("--format <name>", "the source's format, when the guess is wrong")
    .option("--encoding <name>", "its encoding, when the guess is wrong")
    .option("--force", "replace a plan that is there")
    .option("--json", "print plan and notes as JSON")
    .addHelpText("after", "\nExamples:\n  hatchfold draft register.json\n  hatchfold draft register.json -o plan.yaml")
    .action((sources: string[], options: Options) => run(runDraft(sources, options, io)));
}

async function runDraft(paths: readonly string[], options: Options, io: Io): Promise<Status> {
  const toStdout = options.output === "-";
  const context = makeContext(io, options, toStdout);
  const { plan, notes } = await withSources(paths, io, (source) =>
    draft(source, {
      format: options.format,
      encoding: options.encoding,
      planFile: namedFrom(toStdout ? "." : dirname(options.output), paths),
      progress: context.progress("surveying"),
    }),
  );
  if (!toStdout) {
    const same = new SameFiles();
    for (const path of paths) await same.add("the source", path);
    await same.refuse("the plan", options.output);
    await writeWhole(options.output, encode(plan), { replace: options.force === true });
  }
  if (context.json) context.printJson({ plan, notes, written: toStdout ? [] : [options.output] });
  else if (toStdout) await io.stdout.write(plan);
  else context.say(`wrote ${options.output}: read it, change what does not suit, then hatch with -p ${options.output}`);
  for (const note of notes) context.say(`  ${note}`);
  return 0;
}
