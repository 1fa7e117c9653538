/** What the command line and its commands agree on. */
import type { Io } from "./io.js";

/** 0: done; 1: the data has problems; 2: wrong call, unreadable file or wrong plan; 3: partly done, as asked. */
export type Status = 0 | 1 | 2 | 3;

/** A command: gets what was typed, returns the status. */
export type Run = (status: Promise<Status>) => void;

/** The command line as a function. */
export type Main = (args: readonly string[], io: Io) => Promise<Status>;
