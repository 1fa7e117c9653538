import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import type { Options } from "../runs/draft.js";

export function addDraft(program: Command, io: Io, run: Run): void {
  program
    .command("draft")
    .description("write a plan to start from: which tables and columns to take")
    .argument("<source...>", "a file, several of one kind, a folder or a zip archive; - is standard input")
    .option("-o, --output <plan>", "where the plan goes; - is standard output", "-")
    .option("-p, --plan <plan>", "read it as this plan says: format, layout, encoding; its tables may be {}")
    .option("--schema <file>", "a schema of the owner's: JSON Schema or XML Schema; its fields become columns, with choices and limits")
    .option("--format <name>", "the source's format, when the guess is wrong")
    .option("--encoding <name>", "its encoding, when the guess is wrong")
    .option("--force", "replace a plan that is there")
    .option("--json", "print plan and notes as JSON")
    .addHelpText("after", "\nExamples:\n  hatchfold draft register.json\n  hatchfold draft register.json -o plan.yaml")
    .action((sources: string[], options: Options) => run(import("../runs/draft.js").then((one) => one.runDraft(sources, options, io))));
}
