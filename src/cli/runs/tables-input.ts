/** Options of the verbs that read edited tables, as the library takes them. */
import { CallError } from "../../errors/error.js";
import type { FolderInput } from "../../node/index.js";
import { type Allowed, ALLOWED } from "../../compare/comparison.js";
import { readText } from "../inputs.js";
import type { Io } from "../io.js";
import type { TablesOptions } from "../commands/tables-options.js";

/** The options as the library takes them. */
export async function tablesInput(options: TablesOptions, io: Io): Promise<FolderInput> {
  const { copies } = options;
  if (copies !== undefined && copies !== "refuse" && copies !== "new") {
    throw new CallError("call", { reason: `--copies ${copies} is not known`, hint: "Say --copies refuse or --copies new." });
  }
  const { absent } = options;
  if (absent !== undefined && absent !== "leave" && absent !== "remove") {
    throw new CallError("call", { reason: `--absent ${absent} is not known`, hint: "Say --absent leave or --absent remove." });
  }
  return {
    allow: allowed(options.allow),
    absent,
    source: options.source,
    plan: options.plan === undefined ? undefined : await readText(options.plan, io),
    copies,
    append: options.append,
    replace: options.replace,
    noHeal: options.unhealed,
    strict: options.strict,
    taken: options.taken,
  };
}

function allowed(text: string | undefined): Allowed[] | undefined {
  return text?.split(",").map((word) => {
    const found = ALLOWED.find((one) => one === word.trim());
    if (found === undefined)
      throw new CallError("call", { reason: `--allow ${word.trim()} is not known`, hint: `Say some of ${ALLOWED.join(",")}.` });
    return found;
  });
}
