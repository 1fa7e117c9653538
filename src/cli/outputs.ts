/** What a call writes: never over a file that it reads, and over another one only when it is ours or that is said. */
import { open } from "node:fs/promises";
import { join } from "node:path";
import { CallError } from "../errors/error.js";
import type { FolderComparison } from "../node/compare-folder.js";
import { lookAt } from "../node/files.js";
import { isSame, SameFiles } from "../node/same-files.js";
import { MADE_BY } from "../report/words.js";
import { isWorkbookName } from "../node/tables-at.js";
import { RECEIPT_FILE } from "../sheets/receipt.js";

/** So far into a file it is looked for who made it. */
const HEAD = 1024;

export interface Outputs {
  readonly output?: string;
  readonly plan?: string;
  readonly report?: readonly string[];
}

/** Source, sheets, receipt, plan and outputs of one call are different files. @throws {@link CallError} when they are not */
export async function checkOutputs(
  { output, plan, report = [] }: Outputs,
  folder: string,
  comparison: FolderComparison | null,
): Promise<void> {
  const same = new SameFiles();
  for (const path of comparison?.seen.keys() ?? []) {
    if (output !== undefined && (await isSame(output, path))) throw new CallError("out-is-source", {}, { file: output });
    await same.add("the source", path);
  }
  if (isWorkbookName(folder)) await same.add("the workbook", folder);
  else {
    for (const { file } of comparison?.receipt.tables ?? []) await same.add(`the sheet ${file}`, join(folder, file));
    await same.add("the receipt", join(folder, RECEIPT_FILE));
  }
  if (plan !== undefined && plan !== "-") await same.add("the plan", plan);
  for (const file of report) await same.refuse("the report", file);
  if (output !== undefined) await same.refuse("the result", output);
}

/** May a report or a diagram go here: is nothing there, or one that was made before? */
export async function mayReplace(path: string): Promise<boolean> {
  const info = await lookAt(path);
  if (info === null) return true;
  if (!info.isFile()) return false;
  const handle = await open(path, "r");
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(HEAD), 0, HEAD, 0);
    return buffer.toString("latin1", 0, bytesRead).includes(MADE_BY);
  } finally {
    await handle.close();
  }
}
