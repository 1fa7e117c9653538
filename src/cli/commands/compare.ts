import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import { addTablesOptions, type TablesOptions } from "./tables-options.js";

export function addCompare(program: Command, io: Io, run: Run): void {
  addTablesOptions(program.command("compare").description("what would a fold change? each cell, old and new"))
    .addHelpText(
      "after",
      "\nExamples:\n  hatchfold compare tables\n  hatchfold compare tables --report changes.html\n  hatchfold compare tables --json | jq .counts",
    )
    .action((tables: string, options: TablesOptions) =>
      run(import("../runs/compare.js").then((one) => one.runCompare(tables, options, io))),
    );
}
