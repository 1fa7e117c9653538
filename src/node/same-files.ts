/** Files of one call that must not be one and the same, whatever they are called and wherever links lead. */
import { lstat, stat } from "node:fs/promises";
import { CallError } from "../errors/error.js";
import { there } from "./files.js";
import { whereTo } from "./out-file.js";

export class SameFiles {
  /** What is at a path, or has an identity on a disk. */
  private readonly known = new Map<string, string>();

  /** A file that is read, or one that will be written. */
  async add(what: string, path: string): Promise<void> {
    for (const sign of await signsOf(path)) if (!this.known.has(sign)) this.known.set(sign, what);
  }

  /** @throws {@link CallError} when the file is one of those that were added; else it is added, too */
  async refuse(what: string, path: string): Promise<void> {
    for (const sign of await signsOf(path)) {
      const other = this.known.get(sign);
      if (other !== undefined) throw new CallError("same-file", { what, other }, { file: path });
    }
    await this.add(what, path);
  }
}

/** Do two paths lead to one file? */
export async function isSame(one: string, other: string): Promise<boolean> {
  const signs = await signsOf(one);
  return (await signsOf(other)).some((sign) => signs.includes(sign));
}

/** The place that a path leads to and, when something is there, which file it is: there may be second names. */
async function signsOf(path: string): Promise<string[]> {
  const real = await whereTo(path);
  const info = await there(stat(real, { bigint: true }), path);
  const link = await there(lstat(path, { bigint: true }), path);
  const ids = [info, link].flatMap((one) => (one === null ? [] : [`${one.dev}:${one.ino}`]));
  return [real, ...ids];
}
