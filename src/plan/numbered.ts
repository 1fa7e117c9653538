/** `P-{0000}`: what stands before and behind the number, and how many digits it has at least. */
export interface Numbered {
  readonly before: string;
  readonly digits: number;
  readonly behind: string;
}

export function parseNumbered(pattern: string): Numbered | null {
  const match = /^([^{}]*)\{(0+)\}([^{}]*)$/.exec(pattern);
  return match === null ? null : { before: match[1], digits: match[2].length, behind: match[3] };
}
