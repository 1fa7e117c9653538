import type { Command } from "commander";
import { collectOption } from "../option-values.js";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import type { Options } from "../runs/survey.js";

export function addSurvey(program: Command, io: Io, run: Run): void {
  program
    .command("survey")
    .description("what is in a source: record kinds, fields, counts, types, keys, links")
    .argument("<source...>", "a file, several of one kind, a folder or a zip archive; - is standard input")
    .option("-p, --plan <plan>", "read it as this plan says: format, layout, encoding; its tables may be {}")
    .option("--format <name>", "its format, when the guess is wrong")
    .option("--encoding <name>", "its encoding, when the guess is wrong")
    .option("--diagram <file>", "also draw kinds and relations: .svg, or .mmd for a Mermaid erDiagram (may be given again)", collectOption)
    .option("--json", "print the shape as JSON")
    .addHelpText(
      "after",
      "\nExamples:\n  hatchfold survey register.json\n  hatchfold survey - --json < register.json\n  hatchfold survey register.json --diagram shape.svg\n  hatchfold survey stores.dat -p plan.yaml     draws the columns of a layout over its first lines",
    )
    .action((sources: string[], options: Options) => run(import("../runs/survey.js").then((one) => one.runSurvey(sources, options, io))));
}
