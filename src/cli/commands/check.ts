import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import { addTablesOptions, type TablesOptions } from "./tables-options.js";

export function addCheck(program: Command, io: Io, run: Run): void {
  addTablesOptions(program.command("check").description("do the edited tables hold together? all problems at once"))
    .addHelpText(
      "after",
      "\nExamples:\n  hatchfold check tables\n  hatchfold check tables --json | jq '.problems[].message'\n  hatchfold check sheets --new -p plan.yaml",
    )
    .action((tables: string, options: TablesOptions) => run(import("../runs/check.js").then((one) => one.runCheck(tables, options, io))));
}
