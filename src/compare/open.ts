/** Finds the source that tables were hatched from, as it was then. */
import { fingerprint } from "../bytes/hash.js";
import { encode } from "../bytes/writer.js";
import { CallError, TablesError } from "../errors/error.js";
import { readPlan } from "../layouts/plans.js";
import { readHatched } from "../records/open.js";
import { filesOf } from "../sheets/receipt.js";
import type { SheetContainer } from "../sheets/container.js";
import { openFiles } from "../source/files.js";
import type { CompareInput } from "./comparison.js";
import { sourceChanged, type Hatched } from "./join.js";

export async function openHatched(container: SheetContainer, input: CompareInput): Promise<Hatched> {
  if (!container.isWhole) refuseWhole(input);
  const receipt = await container.receipt();
  const files = await openFiles(input.source, input.name ?? receipt.source.file);
  const plan = typeof input.plan === "object" ? input.plan : await readPlan(input.plan ?? receipt.plan.text, "plan");
  const readings = await readHatched(files, receipt, plan, container.name);
  if ((await fingerprint(encode(plan.text))) !== receipt.plan.fingerprint)
    throw new TablesError("plan-other", {}, { file: container.name });
  const hatched = filesOf(receipt);
  const other = readings.findIndex(({ file }, i) => file.source.size !== hatched[i].size);
  if (other >= 0) throw sourceChanged(readings, receipt, other);
  return { container, receipt, plan, files, readings };
}

/** Where only touched rows are given, nothing can be said of the others. */
function refuseWhole({ absent, replace = [] }: CompareInput): void {
  if (absent === "remove") throw new CallError("rows-touched", { given: "absent" });
  if (replace.length > 0) throw new CallError("rows-touched", { given: "replace" });
}
