import type { Command } from "commander";
import { readdir, stat } from "node:fs/promises";
import { resolve } from "node:path";
import { loadReceipt } from "../../compare/compare.js";
import { CallError } from "../../errors/error.js";
import { FolderTables, sourceOf, undoFold } from "../../node/index.js";
import { makeContext, type Io } from "../io.js";
import type { Run, Status } from "../main.js";

interface Options {
  json?: boolean;
  color?: boolean;
}

export function addUndo(program: Command, io: Io, run: Run): void {
  program
    .command("undo")
    .description("take the last fold --in-place back")
    .argument("<file>", "the source that was folded, or the folder of its tables")
    .option("--json", "print what was done as JSON")
    .addHelpText("after", "\nExamples:\n  hatchfold undo register.json\n  hatchfold undo tables")
    .action((file: string, options: Options) => run(runUndo(file, options, io)));
}

async function runUndo(file: string, options: Options, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  const info = await stat(file).catch(() => null);
  if (info === null) throw new CallError("file-unreadable", { reason: "there is no such file or folder" }, { file });
  const path = info.isDirectory() ? await fromTables(file) : resolve(file);
  const { time, before } = await undoFold(path);
  if (context.json) context.printJson({ restored: file, folded: time, fingerprint: before });
  else context.say(`${context.colors.green("✓")} ${file} is as it was before the fold of ${time.slice(0, 16).replace("T", " ")}`);
  return 0;
}

async function fromTables(folder: string): Promise<string> {
  if (!(await readdir(folder)).includes("receipt.json")) throw new CallError("receipt-missing", { tables: folder });
  return sourceOf(folder, await loadReceipt(new FolderTables(folder)));
}
