/** Finds the source that tables were hatched from, as it was then. */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { TablesError } from "../errors/error.js";
import { readPlan } from "../plan/load.js";
import { readHatched } from "../records/open.js";
import { filesOf, loadReceipt } from "../sheets/receipt.js";
import type { TablesSource } from "../sheets/tables.js";
import { openFiles } from "../source/files.js";
import type { CompareInput } from "./comparison.js";
import { sourceChanged, type Hatched } from "./join.js";

export async function openHatched(tables: TablesSource, input: CompareInput): Promise<Hatched> {
  const receipt = await loadReceipt(tables);
  const files = await openFiles(input.source, input.name ?? receipt.source.file);
  const plan = typeof input.plan === "object" ? input.plan : await readPlan(input.plan ?? receipt.plan.text, "plan");
  const readings = await readHatched(files, receipt, plan, tables.name);
  if ((await fingerprint(encode(plan.text))) !== receipt.plan.fingerprint) throw new TablesError("plan-other", {}, { file: tables.name });
  const hatched = filesOf(receipt);
  const other = readings.findIndex(({ file }, i) => file.source.size !== hatched[i].size);
  if (other >= 0) throw sourceChanged(readings, receipt, other);
  return { tables, receipt, plan, files, readings };
}
