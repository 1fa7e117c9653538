/** Schemas on disk: a file, and those that it names. */
import { readFile, realpath } from "node:fs/promises";
import { dirname, join, relative, resolve, sep } from "node:path";
import { CallError, SourceError } from "../errors/error.js";
import type { SchemaFile } from "../model/schema.js";
import { isInside } from "./compare-folder.js";
import { systemReason } from "./files.js";

/** Files that a schema names: `schemaLocation` of an include or an import, a `$ref` to another file. */
const NAMED = /schemaLocation\s*=\s*["']([^"']+)["']|"\$ref"\s*:\s*"([^"#]+)(?:#[^"]*)?"/g;
const MOST_FILES = 200;

/** The schema at a path, and the files near it that it names; nothing is fetched. */
export async function readSchema(path: string): Promise<SchemaFile[]> {
  const folder = dirname(path);
  // a schema may come from somebody else: it is no way to files that nobody named
  const near = await Promise.all([process.cwd(), folder].map((one) => realpath(one).catch(() => resolve(one))));
  const files = new Map<string, string>();
  const open = [path];
  for (let next = open.shift(); next !== undefined && files.size < MOST_FILES; next = open.shift()) {
    const name = relative(folder, next).split(sep).join("/");
    if (files.has(name)) continue;
    const real = await realpath(next).catch(() => resolve(next));
    if (next !== path && !near.some((one) => isInside(one, real))) throw new CallError("schema-far", { named: next }, { file: path });
    const text = await textOf(next);
    files.set(name, text);
    for (const [, located, referred] of text.matchAll(NAMED)) {
      const named = located ?? referred;
      if (!/^[a-z][a-z0-9+.-]*:/i.test(named)) open.push(join(dirname(next), named));
    }
  }
  return [...files].map(([file, text]) => ({ file, text }));
}

async function textOf(path: string): Promise<string> {
  try {
    return await readFile(path, "utf8");
  } catch (error) {
    throw new SourceError("file-unreadable", { reason: systemReason(error) }, { file: path });
  }
}
