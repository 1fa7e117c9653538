/** What a caller may watch and stop: progress, and an `AbortSignal`. */

/**
 * What is being done: a source is looked through (`survey`), read before its rows (`prepare`), taken to tables (`hatch`),
 * held against them (`compare`), looked at again by a rule (`check`), written (`fold`), or before that read as it would be written
 * (`prove`).
 */
export type Phase = "survey" | "prepare" | "hatch" | "compare" | "check" | "prove" | "fold";

/** Told now and then: what is being done, how many bytes of it are done, and how many there are. */
export type Progress = (phase: Phase, done: number, size: number) => void;

export interface Watch {
  readonly progress?: Progress;
  /** Stops the work between two pieces of a source; the call then fails with the signal's reason, and nothing is returned. */
  readonly signal?: AbortSignal;
}

/** What of some options a pass over a source is given. */
export function watchOf({ progress, signal }: Watch): Watch {
  return { progress, signal };
}
