/** Calls to the worker, as promises, and what it tells by itself. */
import type { Calls, Failure, Request, Told, Verb } from "./protocol";

const worker = new Worker(new URL("./worker/worker.ts", import.meta.url), { type: "module" });
const waiting = new Map<number, { resolve: (value: never) => void; reject: (error: Error) => void }>();
let last = 0;
let listener: (told: Extract<Told, { event: string }>) => void = () => undefined;

/** What the library says is wrong, in words for this page. */
export class LibraryError extends Error {
  constructor(readonly failure: Failure) {
    super(failure.message);
  }
}

worker.onmessage = ({ data }: MessageEvent<Told>) => {
  if ("event" in data) {
    listener(data);
    return;
  }
  const call = waiting.get(data.id);
  waiting.delete(data.id);
  if ("failed" in data) call?.reject(new LibraryError(data.failed));
  else call?.resolve(data.ok as never);
};

export function listen(to: typeof listener): void {
  listener = to;
}

export function ask<V extends Verb>(verb: V, ...args: Parameters<Calls[V]>): Promise<ReturnType<Calls[V]>> {
  const id = ++last;
  return new Promise<ReturnType<Calls[V]>>((resolve, reject) => {
    waiting.set(id, { resolve, reject });
    worker.postMessage({ id, verb, args } satisfies Request);
  });
}
