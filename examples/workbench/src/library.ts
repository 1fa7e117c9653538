/** Calls to the worker, as promises. */
import type { Answers, Request, Response } from "./protocol";

const worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
const waiting = new Map<number, { resolve: (value: never) => void; reject: (error: Error) => void }>();
let last = 0;

worker.onmessage = ({ data }: MessageEvent<Response>) => {
  const call = waiting.get(data.id);
  waiting.delete(data.id);
  if ("error" in data) call?.reject(new Error(data.hint === "" ? data.error : `${data.error}. ${data.hint}`));
  else call?.resolve(data.ok as never);
};

type Input<V extends Request["verb"]> = Omit<Extract<Request, { verb: V }>, "id" | "verb">;

export function ask<V extends Request["verb"]>(verb: V, input: Input<V>): Promise<Answers[V]> {
  const id = ++last;
  return new Promise<Answers[V]>((resolve, reject) => {
    waiting.set(id, { resolve, reject });
    worker.postMessage({ id, verb, ...input });
  });
}
