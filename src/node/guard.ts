/** Tables that somebody edited are not written over without being asked for. */
import { stat } from "node:fs/promises";
import { join } from "node:path";
import { loadReceipt } from "../compare/compare.js";
import { CallError } from "../errors/error.js";
import { FolderTables } from "./files.js";
import { fileFingerprint } from "./journal.js";

/** Refuses when the folder holds tables that are not as they were hatched. */
export async function guardEdits(folder: string): Promise<void> {
  if ((await stat(join(folder, "receipt.json")).catch(() => null)) === null) return;
  const receipt = await loadReceipt(new FolderTables(folder)).catch(() => null);
  if (receipt === null) throw new CallError("out-exists", { what: folder });
  for (const table of receipt.tables) {
    const path = join(folder, table.file);
    if ((await stat(path).catch(() => null)) === null) continue;
    if ((await fileFingerprint(path)) !== table.fingerprint) throw new CallError("out-edited", { file: path });
  }
}
