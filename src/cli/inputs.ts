/** Sources and folders as the command line names them. */
import { basename, relative, sep } from "node:path";
import { MemorySource, type ByteSource } from "../bytes/source.js";
import { concat } from "../bytes/writer.js";
import { CallError, phrase, SourceError } from "../errors/error.js";
import { rootOf } from "../node/kept-folder.js";
import { wasCutOff } from "../node/replace.js";
import { openPaths } from "../node/sources.js";
import type { SourceFiles } from "../source/files.js";
import type { Io } from "./io.js";
import { lookThrough } from "../node/files.js";
import { isWorkbookName } from "../node/tables-at.js";

/** Opens one file for the time of one call; `-` is standard input. */
async function withSource<T>(path: string, io: Io, use: (source: ByteSource) => Promise<T>): Promise<T> {
  if (path === "-") return use(await readStdin(io));
  const opened = await openPaths([path]);
  try {
    const [{ source, packed }] = opened.sources.files;
    return await use(packed ?? source);
  } finally {
    await opened.close();
  }
}

async function readStdin(io: Io): Promise<ByteSource> {
  const pieces: Uint8Array[] = [];
  for await (const piece of io.stdin) pieces.push(piece);
  return new MemorySource(concat(pieces), "standard input");
}

export async function readText(path: string, io: Io): Promise<string> {
  return withSource(path, io, async (source) => new TextDecoder().decode(await source.read(0, source.size)));
}

/** Opens what the command line names, for the time of one call: a file, several, a folder, an archive; `-` is standard input. */
export async function withSources<T>(
  paths: readonly string[],
  io: Io,
  use: (sources: ByteSource | SourceFiles, name: string) => Promise<T>,
): Promise<T> {
  if (paths.includes("-")) {
    if (paths.length > 1) throw new CallError("call", { reason: "standard input was given beside other sources", hint: "Give - alone." });
    const source = await readStdin(io);
    return use(source, source.name);
  }
  await tellOfCutOff(paths, io);
  const opened = await openPaths(paths);
  const { sources } = opened;
  try {
    return await use(sources, sources.set ? sources.name : basename(paths[0]));
  } finally {
    await opened.close();
  }
}

/** Who only reads a source leaves a fold of it that was cut off as it is, and says so. */
export async function tellOfCutOff(paths: readonly string[], io: Io): Promise<void> {
  const roots = new Set(await Promise.all(paths.map((path) => rootOf(path).catch(() => ""))));
  for (const root of roots) if (root !== "" && (await wasCutOff(root))) await io.stderr.write(`${phrase("fold-cut-off", {}).message}\n`);
}

/** The sources as a plan in the folder `from` would name them. */
export function namedFrom(from: string, paths: readonly string[]): string | string[] {
  const names = paths.map((path) => (path === "-" ? path : relative(from, path).split(sep).join("/") || "."));
  return names.length === 1 ? names[0] : names;
}

/** The folder of tables, or the workbook, must be there before anything else is looked at. */
export async function tablesFolder(path: string): Promise<string> {
  const info = await lookThrough(path);
  if (info === null) throw new SourceError("file-unreadable", { reason: "there is no such file or folder" }, { file: path });
  if (!info.isDirectory() && !isWorkbookName(path))
    throw new CallError("call", {
      reason: `${path} is a file, neither a folder of tables nor a workbook`,
      hint: "Name the folder that hatch wrote, which holds receipt.json, or its .xlsx file.",
    });
  return path;
}
