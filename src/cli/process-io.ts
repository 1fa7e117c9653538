/** The process's own streams as an {@link Io}. */
import { SourceError } from "../errors/error.js";
import { systemReason } from "../node/files.js";
import type { Io, Out } from "./io.js";

/** `settle` waits for what was written, and gives the error when it could not be and nobody has been told. */
export function processIo(): { io: Io; settle: () => Promise<SourceError | null> } {
  let last: Promise<void> = Promise.resolve();
  let failed: SourceError | null = null;
  let told = false;
  for (const stream of [process.stdout, process.stderr]) {
    stream.on("error", (error: NodeJS.ErrnoException) => {
      // a reader that goes away (hatchfold survey … | head) is no error
      if (error.code !== "EPIPE") failed ??= new SourceError("stdout-unwritable", { reason: systemReason(error) });
    });
  }
  const written = (stream: NodeJS.WriteStream, text: string | Uint8Array): Promise<void> =>
    new Promise((resolve) => void stream.write(text, () => setImmediate(resolve)));
  const out = (stream: NodeJS.WriteStream): Out => ({
    write: (text) => {
      const done = written(stream, text);
      last = last.then(() => done);
      // who waits is told; who does not is told at the end
      return {
        // oxlint-disable-next-line unicorn/no-thenable -- a promise would reject unheard where nobody waits
        then: (resolve, reject) =>
          done
            .then(() => {
              if (failed === null || stream !== process.stdout) return;
              told = true;
              throw failed;
            })
            .then(resolve, reject),
      } as Promise<void>;
    },
    isTTY: stream.isTTY,
    columns: stream.columns ?? 80,
  });
  const io: Io = { stdin: process.stdin, stdout: out(process.stdout), stderr: out(process.stderr), env: process.env };
  const settle = async (): Promise<SourceError | null> => {
    await last;
    return told ? null : failed;
  };
  return { io, settle };
}
