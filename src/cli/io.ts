/** What a command talks to: arguments aside, everything that comes in and goes out. */
import type { Phase, Progress } from "../source/watch.js";
import pc from "picocolors";
import { visible } from "../errors/visible.js";

export interface Io {
  readonly stdin: AsyncIterable<Uint8Array>;
  readonly stdout: Out;
  readonly stderr: Out;
  readonly env: Readonly<Record<string, string | undefined>>;
}

export interface Out {
  write(text: string | Uint8Array): void | Promise<void>;
  readonly isTTY: boolean;
  readonly columns: number;
}

export type Colors = ReturnType<typeof pc.createColors>;

/** Colour only for people at a terminal; NO_COLOR (no-color.org) turns it off, --color forces it. */
export function colorsFor(out: Out, env: Io["env"], said: boolean | undefined): Colors {
  const plain = env.NO_COLOR !== undefined && env.NO_COLOR !== "";
  return pc.createColors(said ?? (out.isTTY && !plain && env.TERM !== "dumb"));
}

/** What a command needs beside its own options. */
export interface Context {
  readonly io: Io;
  readonly json: boolean;
  readonly quiet: boolean;
  readonly colors: Colors;
  /** Characters in a line at a terminal; else there is no end to it. */
  readonly width: number;
  /** Lines for people: standard output, or standard error when standard output is taken. */
  readonly say: (line?: string) => void;
  /** The one JSON document of --json. */
  readonly printJson: (value: unknown) => void;
  /** Progress on standard error, when somebody is watching and the work is long. */
  readonly progress: Progress;
  readonly endProgress: () => void;
}

/** Nothing but our own colours steers the terminal, whatever a line is made of. */
function printable(line: string, hasColors: boolean): string {
  const parts = hasColors ? line.split(/(\u001b\[\d+m)/) : [line];
  return parts.map((part, i) => (i % 2 === 1 ? part : visible(part))).join("");
}

/** JSON in which what is not seen at a terminal is escaped: for programs it is the same. */
export function escapedJson(value: unknown): string {
  return JSON.stringify(value, null, 2).replace(
    /[\u007f-\u009f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]/g,
    (char) => `\\u${char.charCodeAt(0).toString(16).padStart(4, "0")}`,
  );
}

const SLOW = 500;

const DOING: Readonly<Record<Phase, string>> = {
  survey: "surveying",
  prepare: "looking through the source",
  hatch: "hatching",
  compare: "comparing",
  check: "checking",
  prove: "proving",
  fold: "writing",
};

export function makeContext(io: Io, options: { json?: boolean; color?: boolean; quiet?: boolean }, outIsTaken = false): Context {
  const json = options.json === true;
  const target = json || outIsTaken ? io.stderr : io.stdout;
  const colors = colorsFor(target, io.env, options.color);
  const began = Date.now();
  let shown = 0;
  const endProgress = (): void => {
    if (shown > 0) void io.stderr.write("\r\x1b[K");
    shown = 0;
  };
  return {
    io,
    json,
    quiet: options.quiet === true,
    colors,
    width: target.isTTY ? target.columns : Infinity,
    say: (line = "") => {
      if (options.quiet === true || json) return;
      endProgress();
      void target.write(`${printable(line, colors.isColorSupported)}\n`);
    },
    printJson: (value) => {
      endProgress();
      void io.stdout.write(`${escapedJson(value)}\n`);
    },
    progress: (phase, done, size) => {
      const now = Date.now();
      if (!io.stderr.isTTY || options.quiet === true || now - began < SLOW || now - shown < 100) return;
      shown = now;
      void io.stderr.write(`\r\x1b[K${DOING[phase]} ${size === 0 ? 100 : Math.floor((100 * done) / size)} %`);
    },
    endProgress,
  };
}
