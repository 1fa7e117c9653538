/**
 * `P-{0000}`: what stands before and behind the number, and how many digits it has at least. `{0 inside}` counts anew in each
 * record around.
 */
export interface Numbered {
  readonly before: string;
  readonly digits: number;
  readonly behind: string;
  readonly inside: boolean;
}

export function parseNumbered(pattern: string): Numbered | null {
  const match = /^([^{}]*)\{(0+)( inside)?\}([^{}]*)$/.exec(pattern);
  return match === null
    ? null
    : { before: match[1], digits: match[2].length, behind: match[4], inside: (match[3] as string | undefined) !== undefined };
}
