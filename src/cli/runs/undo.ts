/** undo, as the command line does it. Loaded when it is called for. */
import { readdir } from "node:fs/promises";
import { isWorkbookName, receiptAt } from "../../node/tables-at.js";
import { CallError, phrase } from "../../errors/error.js";
import { counted } from "../print.js";
import { refuseFar, sourceOf, undoFold } from "../../node/index.js";
import { makeContext, type Io } from "../io.js";
import type { Status } from "../command.js";
import { lookThrough } from "../../node/files.js";

export async function runUndo(file: string, options: Options, io: Io): Promise<Status> {
  const context = makeContext(io, options);
  const info = await lookThrough(file);
  if (info === null) throw new CallError("file-unreadable", { reason: "there is no such file or folder" }, { file });
  const path = info.isDirectory() || isWorkbookName(file) ? await fromTables(file) : file;
  const { entry, settled } = await undoFold(path);
  if (settled !== null) await io.stderr.write(`${phrase(settled.finished ? "fold-finished" : "fold-dropped", {}).message}\n`);
  if (entry === null) {
    if (context.json) context.printJson({ restored: null, folded: null, files: [] });
    return 0;
  }
  const { time, files } = entry;
  const when = time.slice(0, 16).replace("T", " ");
  if (context.json)
    context.printJson({
      restored: file,
      folded: time,
      files: files.map(({ file: name, before }) => ({ file: name, fingerprint: before })),
    });
  else if (files.length === 1) context.say(`${context.colors.green("✓")} ${file} is as it was before the fold of ${when}`);
  else {
    context.say(`${context.colors.green("✓")} ${counted(files.length, "file")} are as they were before the fold of ${when}`);
    for (const { file: name } of files) context.say(`  ${name}`);
  }
  return 0;
}

/** Tables stand for their source; any other folder for the files in it. */
async function fromTables(tables: string): Promise<string> {
  if (!isWorkbookName(tables) && !(await readdir(tables)).includes("receipt.json")) return tables;
  const { folder, receipt } = await receiptAt(tables);
  const source = await sourceOf(folder, receipt);
  await refuseFar(tables, source, "undo-far");
  return source;
}
export interface Options {
  json?: boolean;
  color?: boolean;
}
