/** The process's own streams as an {@link Io}. */
import type { Io, Out } from "./io.js";

export function processIo(): { io: Io; settle: () => Promise<void> } {
  let last: Promise<void> = Promise.resolve();
  // a reader that goes away (hatchfold survey … | head) is no error
  for (const stream of [process.stdout, process.stderr]) {
    stream.on("error", (error: NodeJS.ErrnoException) => {
      if (error.code !== "EPIPE") throw error;
    });
  }
  const out = (stream: NodeJS.WriteStream): Out => ({
    write: (text) => {
      const done = new Promise<void>((resolve) => void stream.write(text, () => resolve()));
      last = last.then(() => done);
      return done;
    },
    isTTY: stream.isTTY,
    columns: stream.columns ?? 80,
  });
  const io: Io = { stdin: process.stdin, stdout: out(process.stdout), stderr: out(process.stderr), env: process.env };
  return { io, settle: () => last };
}
