import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../command.js";
import type { Options } from "../runs/undo.js";

export function addUndo(program: Command, io: Io, run: Run): void {
  program
    .command("undo")
    .description("take the last fold --in-place back")
    .argument("<file>", "the source that was folded (a file or a folder of them), or the folder of its tables")
    .option("--json", "print what was done as JSON")
    .addHelpText("after", "\nExamples:\n  hatchfold undo register.json\n  hatchfold undo tables")
    .action((file: string, options: Options) => run(import("../runs/undo.js").then((one) => one.runUndo(file, options, io))));
}
