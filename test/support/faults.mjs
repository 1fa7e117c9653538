/**
 * File operations that fail, or at which the process is killed: all that Node does to files below one folder is counted,
 * and something happens at the n-th. Loaded before the program (`node --import`), or by a test in its own process.
 */
import fs from "node:fs";
import { syncBuiltinESMExports } from "node:module";
import { resolve, sep } from "node:path";

/** Operations that change what is on the disk; the rest only looks. */
const CHANGING = new Set(
  "open-w write writev sync datasync truncate utimes chmod chown rename link symlink unlink rm rmdir mkdir mkdtemp copyFile cp writeFile appendFile".split(
    " ",
  ),
);
const PATHS =
  "access stat lstat readlink realpath readdir opendir readFile open chmod chown rename link symlink unlink rm rmdir mkdir copyFile cp writeFile appendFile".split(
    " ",
  );
/** Those that name two files. */
const TWO = new Set("rename link symlink copyFile cp".split(" "));
const HANDLES = "read write writev sync datasync truncate stat chmod chown utimes readFile writeFile appendFile".split(" ");

let state = null;
/** Names of the operations since {@link plan}, in order. */
export let seen = [];

/**
 * From now on the operation number `at` (from 0) in `folder` ends in `kind`: "fail", "kill" (SIGKILL), or "halt", where
 * nothing in the folder is touched any more, as if the process was gone. With `changing`, only operations that change
 * something are counted.
 */
export function plan({ folder, at, kind, changing = false }) {
  let halted = () => undefined;
  const dead = new Promise((resolve) => (halted = resolve));
  state = { folder: resolve(folder), at, kind, changing, halted, dead, isDead: false };
  seen = [];
}

/** Resolves when the process would be gone. */
export function death() {
  return state.dead;
}

export function stop() {
  state = null;
}

class Halted extends Error {}

function step(name) {
  if (state.isDead) throw new Halted();
  if (state.changing && !CHANGING.has(name)) return;
  const number = seen.push(name) - 1;
  if (number !== state.at) return;
  if (state.kind === "kill") {
    process.kill(process.pid, "SIGKILL");
    for (;;); // nothing more happens
  }
  if (state.kind === "halt") {
    state.isDead = true;
    state.halted();
    throw new Halted();
  }
  if (state.kind === "fail") throw Object.assign(new Error(`EIO: i/o error, ${name}`), { code: "EIO", errno: -5, syscall: name });
}

/** In a process that is gone, nothing comes back. */
async function alive(work) {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof Halted)) throw error;
    return new Promise(() => undefined);
  }
}

const isInside = (path) => state !== null && typeof path === "string" && (resolve(path) + sep).startsWith(state.folder + sep);
const handles = new WeakSet();

function wrap(object, name, isPromise) {
  const original = object[name];
  if (typeof original !== "function") return;
  object[name] = function (...args) {
    if (!isInside(args[0]) && !(TWO.has(name.replace("Sync", "")) && isInside(args[1]))) return original.apply(this, args);
    const writes =
      name.startsWith("open") && (typeof args[1] === "string" ? /[wa+]/.test(args[1]) : typeof args[1] === "number" && (args[1] & 3) !== 0);
    const called = name.replace(/Sync$/, "");
    if (!isPromise) {
      step(writes ? "open-w" : called);
      return original.apply(this, args);
    }
    return alive(async () => {
      step(writes ? "open-w" : called);
      const result = await original.apply(this, args);
      if (name === "open") handles.add(result);
      return result;
    });
  };
}

for (const name of PATHS) {
  wrap(fs.promises, name, true);
  wrap(fs, `${name}Sync`, false);
}
const probe = await fs.promises.open(new URL(import.meta.url).pathname, "r");
const prototype = Object.getPrototypeOf(probe);
await probe.close();
for (const name of HANDLES) {
  const original = prototype[name];
  prototype[name] = function (...args) {
    if (state === null || !handles.has(this)) return original.apply(this, args);
    return alive(async () => {
      step(name);
      return original.apply(this, args);
    });
  };
}
syncBuiltinESMExports();

if (process.env.FAULT_FOLDER !== undefined)
  plan({ folder: process.env.FAULT_FOLDER, at: Number(process.env.FAULT_AT), kind: process.env.FAULT_KIND, changing: true });
