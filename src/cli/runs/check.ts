/** check, as the command line does it. Loaded when it is called for. */
import { withTables } from "../comparing.js";
import type { FolderComparison } from "../../node/index.js";
import { checkOutputs } from "../outputs.js";
import { makeContext, type Io } from "../io.js";
import type { Status } from "../command.js";
import { counted } from "../print.js";
import { printNotes, printProblems, printWarnings } from "../print-changes.js";
import { checkReportNames, foundJson, writeReports } from "../reports.js";
import type { TablesOptions } from "../commands/tables-options.js";

export async function runCheck(tables: string, options: TablesOptions, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  checkReportNames(options.report);
  return withTables(tables, options, io, { progress: context.progress, unproved: true }, async (comparison, source) => {
    const { problems, warnings, notes, counts } = comparison;
    await checkOutputs(options, tables, "seen" in comparison ? (comparison as FolderComparison) : null);
    await writeReports(options.report, comparison, { source, tables, context, force: options.force });
    if (context.json) context.printJson(foundJson(comparison));
    else {
      printWarnings(warnings, context);
      printNotes(notes, context);
      const causes = printProblems(problems, context);
      const rows = counts.unchanged + counts.changed + counts.removed + counts.added + counts.moved;
      if (problems.length === 0) context.say(`${context.colors.green("✓")} ${tables}: no problems in ${counted(rows, "row")}`);
      else
        context.say(`${counted(causes, "problem")}${causes < problems.length ? ` (${counted(problems.length, "row")})` : ""} in ${tables}`);
    }
    return problems.length === 0 ? 0 : 1;
  });
}
