/** The files that a plan names, as the call lets it. */
import { realpath } from "node:fs/promises";
import { dirname, relative, resolve } from "node:path";
import { CallError } from "../errors/error.js";
import { isInside } from "../node/compare-folder.js";
import { filesAt } from "../node/sources.js";
import type { Plan } from "../model/plan.js";

/**
 * Paths of the plan's sources, by their names. A plan may come from somebody else: files that are neither in the
 * working directory nor in the plan's folder are read only when the call names them (`said`), too.
 */
export async function planSources(
  file: string | undefined,
  plan: Plan | undefined,
  said: readonly string[],
): Promise<Map<string, string[]>> {
  if (file === undefined || plan === undefined || plan.sources.length === 0)
    throw new CallError("call", { reason: "no source was given", hint: "hatchfold hatch SOURCE -o TABLES" });
  const from = (one: string): string => relative(process.cwd(), resolve(file, "..", one)) || ".";
  const named = new Map(
    plan.sources.map((source) => [source.name, (typeof source.file === "string" ? [source.file] : source.file).map(from)]),
  );
  const wanted = await realPaths([...named.values()].flat());
  const allowed = new Set(await realPaths(said));
  if (said.length > 0 && (allowed.size !== new Set(wanted).size || wanted.some((path) => !allowed.has(path))))
    throw new CallError("sources-several", { names: [...named.keys()] });
  const near = [process.cwd(), await realpath(dirname(resolve(file)))];
  const far = wanted.find((path) => !near.some((one) => isInside(one, path)) && !allowed.has(path));
  if (far !== undefined) throw new CallError("plan-source-far", { source: far }, { file });
  return named;
}

/** Files by their own places; folders and patterns as what is in them. What is not there is told of when it is opened. */
async function realPaths(paths: readonly string[]): Promise<string[]> {
  const real: string[] = [];
  for (const path of paths) {
    const { files } = await filesAt([path]).catch(() => ({ files: [path] }));
    for (const one of files) real.push(await realpath(one).catch(() => resolve(one)));
  }
  return real;
}
