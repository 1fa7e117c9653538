import type { Command } from "commander";
import { withComparison } from "../../node/index.js";
import { tablesFolder } from "../inputs.js";
import { makeContext, type Io } from "../io.js";
import type { Run, Status } from "../main.js";
import { countsLine, printChanges, printHealed, printNotes, printProblems } from "../print-changes.js";
import { checkReportNames, writeReports } from "../reports.js";
import { addTablesOptions, tablesInput, type TablesOptions } from "./tables-options.js";

export function addCompare(program: Command, io: Io, run: Run): void {
  addTablesOptions(program.command("compare").description("what would a fold change? each cell, old and new"))
    .addHelpText(
      "after",
      "\nExamples:\n  hatchfold compare tables\n  hatchfold compare tables --report changes.html\n  hatchfold compare tables --json | jq .counts",
    )
    .action((tables: string, options: TablesOptions) => run(runCompare(tables, options, io)));
}

async function runCompare(tables: string, options: TablesOptions, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  checkReportNames(options.report);
  const folder = await tablesFolder(tables);
  const input = { ...(await tablesInput(options, io)), paths: true, progress: context.progress("comparing") };
  return withComparison(folder, input, async (comparison, source) => {
    const { counts, changes, healed, problems, notes } = comparison;
    await writeReports(options.report, comparison, source, tables, context);
    if (context.json) context.printJson({ counts, changes, healed, problems, notes });
    else {
      printNotes(notes, context);
      printProblems(problems, context);
      printChanges(changes, context);
      printHealed(healed, context);
      if (changes.length + healed.length + problems.length > 0) context.say();
      context.say(changes.length + problems.length === 0 ? `no changes: ${countsLine(counts)}` : countsLine(counts));
    }
    return problems.length === 0 ? 0 : 1;
  });
}
