/** Sessions in the browser's own store: the files, how they are read, the plan, and each step of editing as it is done. */
import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import type { Kept, Named, Reading } from "../protocol";
import type { Step } from "./table";

export interface Session {
  readonly id: string;
  readonly name: string;
  /** The files themselves are kept, as they are not too large. */
  readonly isWhole: boolean;
  readonly reading: Reading;
  readonly plan: string | null;
  /** So many of the steps are done; others were taken back. */
  readonly done: number;
  readonly at: number;
}

interface Schema extends DBSchema {
  sessions: { key: string; value: Session };
  files: { key: string; value: readonly Named[] };
  steps: { key: [string, number]; value: Step };
}

/** Larger sources are asked for again. */
const MOST_KEPT = 256 * 1024 * 1024;
/** So long it is waited for a page that lets go of a session. */
const PATIENCE = 500;
/** So many sessions are kept. */
const MOST_SESSIONS = 8;

let opened: Promise<IDBPDatabase<Schema> | null> | null = null;
function store(): Promise<IDBPDatabase<Schema> | null> {
  opened ??= openDB<Schema>("hatch-fold workbench", 1, {
    upgrade(db) {
      db.createObjectStore("sessions", { keyPath: "id" });
      db.createObjectStore("steps");
      db.createObjectStore("files");
    },
  }).catch(() => null);
  return opened;
}

/** A fingerprint of files: names, sizes, and what they begin and end with. */
export async function fingerprintOf(files: readonly Named[]): Promise<string> {
  const parts: BlobPart[] = [];
  for (const { name, bytes } of files) {
    const size = 1 << 20;
    parts.push(`${name}\n${bytes.size}\n`, bytes.slice(0, size), bytes.slice(Math.max(0, bytes.size - size)));
  }
  const hash = await crypto.subtle.digest("SHA-256", await new Blob(parts).arrayBuffer());
  return Array.from(new Uint8Array(hash).subarray(0, 12), (byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** Who keeps a session: one page at a time. Gives what lets go of it; `null` when another page has it. */
export async function holdSession(id: string): Promise<(() => void) | null> {
  return new Promise((resolve) => {
    navigator.locks
      .request(`hatch-fold workbench ${id}`, { signal: AbortSignal.timeout(PATIENCE) }, () => new Promise<void>((letGo) => resolve(letGo)))
      .catch(() => resolve(null));
  });
}

export function keepSession(session: Omit<Session, "isWhole">, files: readonly Named[]): Promise<void> {
  return inTurn(() => putSession(session, files));
}

async function putSession(session: Omit<Session, "isWhole">, files: readonly Named[]): Promise<void> {
  const db = await store();
  if (db === null) return;
  const isWhole = files.reduce((sum, { bytes }) => sum + bytes.size, 0) <= MOST_KEPT;
  if (isWhole && (await db.getKey("files", session.id)) === undefined) await db.put("files", files, session.id);
  await db.put("sessions", { ...session, isWhole });
  // steps of another plan, or of another reading
  await db.delete("steps", IDBKeyRange.bound([session.id, 0], [session.id, Infinity]));
  const all = (await db.getAll("sessions")).sort((a, b) => b.at - a.at);
  for (const { id } of all.slice(MOST_SESSIONS)) await removeSession(id);
}

/** What is written waits for what was written before: of an edit and its undoing, the undoing is last. */
let written: Promise<unknown> = Promise.resolve();

function inTurn<T>(write: () => Promise<T>): Promise<T> {
  const done = written.then(write);
  // without room, the work goes on all the same
  written = done.catch(() => undefined);
  return done;
}

/** One step at its place; those behind it are gone. */
export async function keepStep(id: string, place: number, step: Step | null): Promise<void> {
  await inTurn(() => putStep(id, place, step)).catch(() => undefined);
}

async function putStep(id: string, place: number, step: Step | null): Promise<void> {
  const db = await store();
  const session = await db?.get("sessions", id);
  if (db == null || session === undefined) return;
  if (step !== null) {
    await db.delete("steps", IDBKeyRange.bound([id, place], [id, Infinity]));
    await db.put("steps", step, [id, place]);
  }
  await db.put("sessions", { ...session, done: step === null ? place : place + 1, at: Date.now() });
}

export async function stepsOf(id: string): Promise<Step[]> {
  await written;
  return (await (await store())?.getAll("steps", IDBKeyRange.bound([id, 0], [id, Infinity]))) ?? [];
}

export async function sessionOf(id: string): Promise<Session | null> {
  await written;
  return (await (await store())?.get("sessions", id)) ?? null;
}

export async function filesOf(id: string): Promise<readonly Named[] | null> {
  return (await (await store())?.get("files", id)) ?? null;
}

export async function keptSessions(): Promise<Kept[]> {
  await written;
  const all = (await (await store())?.getAll("sessions")) ?? [];
  return all
    .filter(({ isWhole, done }) => isWhole && done > 0)
    .sort((a, b) => b.at - a.at)
    .map(({ id, name, done, at }) => ({ id, name, steps: done, at }));
}

export function forgetSession(id: string): Promise<void> {
  return inTurn(() => removeSession(id));
}

async function removeSession(id: string): Promise<void> {
  const db = await store();
  await db?.delete("sessions", id);
  await db?.delete("files", id);
  await db?.delete("steps", IDBKeyRange.bound([id, 0], [id, Infinity]));
}
