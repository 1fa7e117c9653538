/** Sources and folders as the command line names them. */
import { stat } from "node:fs/promises";
import { basename } from "node:path";
import { MemorySource, type ByteSource } from "../bytes/source.js";
import { concat } from "../bytes/writer.js";
import { CallError, SourceError } from "../errors/error.js";
import { openFile } from "../node/files.js";
import type { Io } from "./io.js";

/** Opens a source for the time of one call; `-` is standard input. */
export async function withSource<T>(path: string, io: Io, use: (source: ByteSource) => Promise<T>): Promise<T> {
  if (path === "-") return use(await readStdin(io));
  const source = await openFile(path);
  try {
    return await use(source);
  } finally {
    await source.close();
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

/** One source, for now: the verbs take several later. */
export function oneSource(sources: readonly string[]): string {
  if (sources.length !== 1)
    throw new CallError("call", { reason: `${sources.length} sources were given`, hint: "Give one source at a time." });
  return sources[0];
}

/** The folder of tables must be there before anything else is looked at. */
export async function tablesFolder(path: string): Promise<string> {
  const info = await stat(path).catch(() => null);
  if (info === null) throw new SourceError("file-unreadable", { reason: "there is no such file or folder" }, { file: path });
  if (!info.isDirectory())
    throw new CallError("call", {
      reason: `${path} is a file, not a folder of tables`,
      hint: "Name the folder that hatch wrote: it holds receipt.json.",
    });
  return path;
}

export function shortName(path: string): string {
  return path === "-" ? "standard input" : basename(path);
}

/** Commander calls this for each time an option is given. */
export function gather(value: string, before: readonly string[] | undefined): string[] {
  return [...(before ?? []), value];
}

export function wholeNumber(value: string): number {
  const n = Number(value);
  if (!/^\d+$/.test(value) || n < 1)
    throw new CallError("call", { reason: `"${value}" is not a number of rows`, hint: "Give a whole number from 1." });
  return n;
}
