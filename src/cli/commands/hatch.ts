import type { Command } from "commander";
import { collectOption, oneProgram, sampleSaid } from "../option-values.js";
import type { Io } from "../io.js";
import { PROGRAMS } from "../../sheets/csv/styles.js";
import type { Run } from "../command.js";
import type { Options } from "../runs/hatch.js";

export function addHatch(program: Command, io: Io, run: Run): void {
  program
    .command("hatch")
    .description("take the tables out of a source, into a folder or a workbook")
    .argument("[source...]", "a file, several of one kind, a folder or a zip archive; what the plan names when not given")
    .requiredOption("-o, --output <tables>", "the folder for the tables and their receipt, or a workbook: FILE.xlsx")
    .option("-p, --plan <plan>", "which tables and columns; drafted when not given")
    .option("--where <expression>", 'only some rows: "table: expression" (may be given again)', collectOption)
    .option("--tables <names>", "only these tables, separated by commas")
    .option("--columns <titles>", "only these columns, separated by commas")
    .option(
      "--sample <rows>",
      "only the first so many rows of each table; or a key: the rows of that record in all tables, shown",
      sampleSaid,
    )
    .option("--blank", "headers only")
    .option("--for <program>", `what will open text files: ${PROGRAMS.join(", ")} (see the guide)`, oneProgram)
    .option(
      "--schema <file>",
      "a schema of the owner's, by which a fold is checked: JSON Schema or XML Schema; the one that the plan names when not given",
    )
    .option("--format <name>", "the source's format, when the guess is wrong")
    .option("--encoding <name>", "its encoding, when the guess is wrong")
    .option("--force", "replace tables that were edited, and files that no hatch wrote")
    .option("--quiet", "say nothing but errors")
    .option("--json", "print what was written as JSON")
    .addHelpText(
      "after",
      '\nExamples:\n  hatchfold hatch register.json -o tables\n  hatchfold hatch -p plan.yaml -o tables.xlsx\n  hatchfold hatch register.json -o tables --where "stations: height > 30.0"\n  hatchfold hatch register.json -o tables --columns code,height\n  hatchfold hatch registers/*.xml -o tables',
    )
    .action((sources: string[], options: Options) => run(import("../runs/hatch.js").then((one) => one.runHatch(sources, options, io))));
}
