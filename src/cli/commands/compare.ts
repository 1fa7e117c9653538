import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import type { Options } from "../runs/compare.js";
import { addTablesOptions } from "./tables-options.js";

export function addCompare(program: Command, io: Io, run: Run): void {
  addTablesOptions(program.command("compare").description("what would a fold change? each cell, old and new"))
    .option("-o, --output <list>", "write the changes as a list to choose from: FILE.csv or FILE.xlsx, for fold --taken")
    .addHelpText(
      "after",
      "\nExamples:\n  hatchfold compare tables\n  hatchfold compare tables --report changes.html\n  hatchfold compare tables -o changes.xlsx\n  hatchfold compare tables --json | jq .counts",
    )
    .action((tables: string, options: Options) => run(import("../runs/compare.js").then((one) => one.runCompare(tables, options, io))));
}
