/** The files that a plan names, as the call lets it. */
import { realpath } from "node:fs/promises";
import { basename, dirname, relative, resolve } from "node:path";
import { CallError } from "../errors/error.js";
import { isInside } from "../node/compare-folder.js";
import { filesAt } from "../node/sources.js";
import type { SchemaFile, SchemaInput } from "../model/schema.js";
import { readSchema } from "../node/schemas.js";
import type { Plan, Settings } from "../model/plan.js";
import { readSources } from "../layouts/plans.js";
import { readText } from "./inputs.js";
import type { Io } from "./io.js";

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

/** The schemas that a plan names, or the call; `undefined` where there are none. */
export async function planSchemas(
  file: string | undefined,
  plan: Plan | undefined,
  said: string | undefined,
): Promise<SchemaInput | undefined> {
  if (said !== undefined) return readSchema(said);
  const named = (plan?.sources ?? []).flatMap(({ name, schema }) => (schema === undefined ? [] : [[name, schema] as const]));
  if (named.length === 0 || file === undefined || plan === undefined) return undefined;
  const near = [process.cwd(), await realpath(dirname(resolve(file)))];
  const found = new Map<string, readonly SchemaFile[]>();
  for (const [name, schema] of named) {
    const path = resolve(file, "..", schema);
    const real = await realpath(path).catch(() => path);
    if (!near.some((one) => isInside(one, real))) throw new CallError("plan-source-far", { source: real }, { file });
    found.set(name, await readSchema(path));
  }
  return plan.sources.length === 1 ? found.get(plan.sources[0].name) : found;
}

/** How a plan says that the files are to be read: the source that names them, where it has several. */
export async function planReading(
  file: string | undefined,
  paths: readonly string[],
  io: Io,
): Promise<{ format?: string; encoding?: string; settings?: Settings }> {
  if (file === undefined) return {};
  const sources = await readSources(await readText(file, io), file);
  const names = new Set(paths.map((path) => basename(path)));
  const fitting = sources.filter((source) => [source.file].flat().some((one) => names.has(basename(one))));
  const [source, another] = sources.length === 1 ? sources : fitting;
  if (source === undefined || another !== undefined)
    throw new CallError("call", {
      reason: `${file} has several sources, and ${another === undefined ? "none" : "more than one"} of them names ${[...names].join(", ")}`,
      hint: "Give one source of the plan, by the name that it has there.",
    });
  const { format, encoding, settings } = source;
  return { format, encoding, settings };
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
