import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import { addTablesOptions } from "./tables-options.js";
import type { Options } from "../runs/fold.js";

export function addFold(program: Command, io: Io, run: Run): void {
  addTablesOptions(program.command("fold").description("put exactly the changes back"))
    .option("-o, --output <file>", "where the result goes: a file (- is standard output), for a set of files a new folder")
    .option("--in-place", "replace the source; keeps a backup, and undo takes it back")
    .option("--renew", "after --in-place: write ids of new rows and fresh marks back into the tables, to go on with them")
    .option("--partial", "fold the good rows, set rows with problems aside (exit status 3)")
    .option("--refused <tables>", "with --partial: write the rows that were set aside there, to be mended and folded again")
    .option("--unproved", "write without reading again first what would be written: faster, and nothing proves it")
    .addHelpText(
      "after",
      "\nExamples:\n  hatchfold fold tables -o new.json\n  hatchfold fold tables --in-place\n  hatchfold fold tables --in-place --partial --refused mend\n  hatchfold fold sheets --new -p plan.yaml -o new.xml",
    )
    .action((tables: string, options: Options) => run(import("../runs/fold.js").then((one) => one.runFold(tables, options, io))));
}
