/**
 * One at a time: who puts files in their places in a folder holds its lock. A lock whose owner is gone is taken over.
 *
 * It is held for moments only: a fold is prepared without it, and looks at its source again when it has it.
 */
import { randomBytes } from "node:crypto";
import { constants } from "node:fs";
import { copyFile, link, open, readdir, rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import { z } from "zod";
import { SourceError } from "../errors/error.js";
import { closing, systemReason } from "./files.js";
import type { KeptFolder } from "./kept-folder.js";
import { HOST, isAlive } from "./out-file.js";

const LOCK = "lock";
/** Milliseconds that are waited for others, and between looks. */
const PATIENCE = 10_000;
const LOOK = 25;

const owner = z.strictObject({
  host: z.string(),
  pid: z.int().positive(),
  since: z.iso.datetime(),
  token: z.string().regex(/^[0-9a-f]{16}$/),
});
type Owner = z.infer<typeof owner>;

/** Does `work` while nobody else replaces files in this folder. */
export async function withLock<T>(kept: KeptFolder, work: () => Promise<T>): Promise<T> {
  const me: Owner = { host: HOST, pid: process.pid, since: new Date().toISOString(), token: randomBytes(8).toString("hex") };
  const path = join(kept.path, LOCK);
  const own = `${path}-${me.token}`;
  try {
    await writeFile(own, JSON.stringify(me), { flag: "wx" });
    await take(own, path);
    await removeForgotten(kept, me.token).catch(() => undefined);
  } catch (error) {
    await rm(own, { force: true }).catch(() => undefined);
    throw error instanceof SourceError ? error : new SourceError("file-unwritable", { reason: systemReason(error) }, { file: path });
  }
  try {
    return await work();
  } finally {
    const other = await ownerAt(path);
    if (other === null || other.token === me.token) await removed(path);
    await removed(own);
  }
}

/** Tried twice: a lock that stays behind holds others up for as long as this process runs. */
async function removed(path: string): Promise<void> {
  await rm(path, { force: true }).catch(() => rm(path, { force: true }).catch(() => undefined));
}

/** The lock is a second name of a file of our own, so that it appears with what is in it. */
async function take(own: string, path: string): Promise<void> {
  const until = Date.now() + PATIENCE;
  for (;;) {
    try {
      // where there are no second names, it appears empty for a moment
      await link(own, path).catch(async (error: NodeJS.ErrnoException) => {
        if (error.code === "EEXIST") throw error;
        await copyFile(own, path, constants.COPYFILE_EXCL);
      });
      return;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
    }
    const other = await ownerAt(path);
    if (other !== null && other.host === HOST && !isAlive(other.pid)) await clear(path, other, `${own}-gone`);
    else if (Date.now() > until) {
      const { pid, since, host } = other ?? { pid: 0, since: "", host: HOST };
      throw new SourceError("fold-busy", { pid: host === HOST ? pid : 0, since, lock: path });
    } else await pause(LOOK);
  }
}

/** Takes a lock away whose owner is gone; one that was taken anew in the meantime is put back. */
async function clear(path: string, gone: Owner, aside: string): Promise<void> {
  try {
    await rename(path, aside);
  } catch {
    return; // somebody else cleared it
  }
  if ((await ownerAt(aside))?.token !== gone.token) await link(aside, path).catch(() => undefined);
  await rm(aside, { force: true });
}

/** Files of owners that were killed while they waited. */
async function removeForgotten(kept: KeptFolder, mine: string): Promise<void> {
  for (const name of await readdir(kept.path)) {
    if (!/^lock-[0-9a-f]{16}(-gone)?$/.test(name) || name.includes(mine)) continue;
    const other = await ownerAt(join(kept.path, name));
    if (other !== null && other.host === HOST && !isAlive(other.pid)) await rm(join(kept.path, name), { force: true });
  }
}

async function ownerAt(path: string): Promise<Owner | null> {
  try {
    const handle = await open(path, constants.O_RDONLY | (constants.O_NOFOLLOW ?? 0) | (constants.O_NONBLOCK ?? 0));
    const text = await closing(handle, (file) => file.readFile("utf8"));
    return owner.safeParse(JSON.parse(text)).data ?? null;
  } catch {
    return null;
  }
}
