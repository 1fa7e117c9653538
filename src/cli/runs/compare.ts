/** compare, as the command line does it. Loaded when it is called for. */
import { withTables } from "../comparing.js";
import { writeChangeList, type FolderComparison } from "../../node/index.js";
import { checkOutputs } from "../outputs.js";
import { makeContext, type Io } from "../io.js";
import type { Status } from "../command.js";
import { countsLine, printChanges, printFollows, printHealed, printNotes, printProblems, printWarnings } from "../print-changes.js";
import { counted } from "../print.js";
import { checkReportNames, foundJson, writeReports } from "../reports.js";
import type { TablesOptions } from "../commands/tables-options.js";

export async function runCompare(tables: string, options: Options, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  checkReportNames(options.report);
  return withTables(tables, options, io, { paths: true, progress: context.progress, unproved: true }, async (comparison, source) => {
    const { counts, changes, healed, problems, warnings, notes, follows } = comparison;
    await checkOutputs(options, tables, "seen" in comparison ? (comparison as FolderComparison) : null);
    await writeReports(options.report, comparison, { source, tables, context, force: options.force });
    if (options.output !== undefined) await writeChangeList(comparison, options.output, options.force === true);
    if (context.json) context.printJson({ counts, changes, healed, ...foundJson(comparison), follows });
    else {
      printWarnings(warnings, context);
      printNotes(notes, context);
      printProblems(problems, context);
      printChanges(changes, context);
      printFollows(follows, context);
      printHealed(healed, context);
      if (changes.length + healed.length + problems.length > 0) context.say();
      if (options.output !== undefined)
        context.say(`${counted(changes.length, "change")} to choose from in ${options.output}: fold with --taken ${options.output}`);
      context.say(changes.length + problems.length === 0 ? `no changes: ${countsLine(counts)}` : countsLine(counts));
    }
    return problems.length === 0 ? 0 : 1;
  });
}

export interface Options extends TablesOptions {
  output?: string;
}
